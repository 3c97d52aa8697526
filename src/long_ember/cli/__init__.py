"""The `long-ember` command."""

from long_ember.cli.commands import main
from long_ember.cli.plan import plan_data, plan_text

__all__ = ["main", "plan_data", "plan_text"]
