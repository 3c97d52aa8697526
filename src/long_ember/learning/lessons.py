"""What the log teaches about smith, fire and shop (computations, section 15)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import replace

from long_ember.beliefs import PRIOR, Posterior, posterior
from long_ember.heats import ForgeSettings
from long_ember.learning.evidence import heats_seen, measures, seen_in
from long_ember.learning.experience import practised
from long_ember.records import LogEntry

__all__ = ["RECALLED", "calibrated", "held_of", "reject_rate", "taught"]

RECALLED = 2000  # entries that teach: who hammered before them was another smith
_USUAL_REJECTS, _SURE = 0.03, 20.0  # share that is usual, and pieces that it weighs

_last: dict[bool, tuple[tuple[LogEntry, ...], str, str, Posterior]] = {}


def taught(entries: Iterable[LogEntry], smith: str = "", fire: str = "", *, lengths: bool = False) -> Posterior:
    """What is held when all entries are in; the last 2,000 teach. Kept for the entries last asked about.

    Args:
        entries: of the log.
        smith: who forged what names nobody: entries of before there were several.
        fire: in which.
        lengths: they are those alone that measured something; kept beside all of them.
    """
    entries = tuple(entries)[-RECALLED:]
    kept = _last.get(lengths)
    if kept is None or kept[:3] != (entries, smith, fire):
        kept = _last[lengths] = entries, smith, fire, held_of(entries, smith, fire)
    return kept[3]


def held_of(entries: Sequence[LogEntry], smith: str, fire: str) -> Posterior:
    """Return what is held after these entries, reckoned anew."""
    taken, seen = heats_seen(entries, smith), seen_in(entries, smith, fire)
    return posterior(taken, seen, len({t.entry for t in taken} | {at for at, _seen in seen}))


def calibrated(forge: ForgeSettings, entries: Iterable[LogEntry], smith: str, piece_id: str = "") -> ForgeSettings:
    """The bench as the shop's own log has it.

    Args:
        forge: of the shop.
        entries: of its log.
        smith: at the anvil.
        piece_id: whose next one is planned; "" for any that was never made.
    """
    entries = tuple(entries)
    if not entries:
        return forge
    belief, silent = taught(entries, smith, forge.fire).belief(smith, forge.fire), [not measures(e) for e in entries]
    measured = None
    if any(silent):
        lengths = tuple(e for e, quiet in zip(entries, silent, strict=True) if not quiet)
        measured = taught(lengths, smith, forge.fire, lengths=True).belief(smith, forge.fire) if lengths else PRIOR
    return replace(forge, belief=belief, measured=measured, practised=practised(entries, smith, piece_id))


def reject_rate(entries: Iterable[LogEntry], piece_id: str = "") -> float:
    """Share of pieces that do not come out: the usual 3 in 100, moved by what the log counts.

    Args:
        entries: of the log.
        piece_id: of one piece; "" for all.
    """
    mine = [e for e in entries if not e.trial and (not piece_id or e.piece == piece_id)]
    spoilt, good = sum(e.spoilt for e in mine), sum(int(e.good) for e in mine)
    return (_USUAL_REJECTS * _SURE + spoilt) / (_SURE + spoilt + good)
