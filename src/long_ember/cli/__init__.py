"""The `long-ember` command on the terminal."""

from long_ember.cli.commands import main

__all__ = ["main"]
