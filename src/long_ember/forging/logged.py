"""The log entry that lies filled when the last piece is done: only what was counted and measured, the rest is open."""

from __future__ import annotations

from dataclasses import replace

from long_ember.records import Forging, LogEntry

__all__ = ["forged_entry"]


def forged_entry(run: Forging, planned: LogEntry) -> LogEntry:
    """What a forging has to say.

    Args:
        run: that is over, or is ended early.
        planned: an entry that says nothing yet.
    """
    through = run.made
    return replace(
        planned,
        good=run.good,
        rejects=run.rejects,
        heats=round(run.heats / through) if through else 0,
        minutes=round(run.spent / 60 / through, 1) if through else 0.0,
        sizes=run.sizes,
    )
