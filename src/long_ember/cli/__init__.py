"""The `long-ember` command."""

from long_ember.cli.main import main, plan_text

__all__ = ["main", "plan_text"]
