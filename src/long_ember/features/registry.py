"""The one list of feature kinds. A new kind is one module and one line here."""

from __future__ import annotations

from typing import Any

from long_ember.features.base import Feature
from long_ember.features.bend import Bend, Hook
from long_ember.features.coil import Coil, Offset
from long_ember.features.cut import PartOff
from long_ember.features.ends import Ball, EndHole, Nub, Point
from long_ember.features.eye import Eye
from long_ember.features.head import Head
from long_ember.features.hole import Hole
from long_ember.features.neck import Neck
from long_ember.features.run import EdgeSet, Run, SectionChange
from long_ember.features.scroll import Curl, Scroll
from long_ember.features.slot import DriftedEye
from long_ember.features.split import Split
from long_ember.features.spread import Spread
from long_ember.features.surface import Bevel, Chamfer, Surface
from long_ember.features.taper import Taper
from long_ember.features.tenon import Tenon, Thread
from long_ember.features.traced import Traced
from long_ember.features.twist import Twist
from long_ember.features.upset import Upset
from long_ember.features.weld import Extension, LaidOn, Scarf
from long_ember.fields import Choice, specs

__all__ = ["KINDS", "KIND_FAMILIES", "said_by"]

KIND_FAMILIES: dict[str, tuple[type[Feature], ...]] = {
    "Drawn and set down": (Run, Taper, Point, SectionChange, EdgeSet, Tenon, Neck),
    "Upset and headed": (Upset, Ball, Nub, Head),
    "Bent, rolled and twisted": (Bend, Offset, Hook, Curl, Scroll, Coil, Eye, Traced, Twist),
    "Pierced, split and spread": (Hole, DriftedEye, Split, Spread, Thread, EndHole),
    "Edges and faces": (Chamfer, Bevel, Surface),
    "Welded and parted": (Scarf, Extension, LaidOn, PartOff),
}
KINDS: dict[str, type[Feature]] = {cls.kind: cls for family in KIND_FAMILIES.values() for cls in family}


def said_by(cls: type[Feature], name: str) -> dict[str, Any]:
    """What a name says of a kind besides, by field: that it is a leaf, or a choice that is called just so.

    Args:
        cls: the kind.
        name: one of those that it goes by, in small letters.

    >>> said_by(KINDS["spread"], "leaf"), said_by(KINDS["head"], "rose head"), said_by(KINDS["taper"], "taper")
    ({'outline': 'lens'}, {'form': 'rose'}, {})
    """
    if name in cls.named:
        return dict(cls.named[name])
    for field, spec in specs(cls).items():
        for key, words in spec.choices if isinstance(spec, Choice) else ():
            if name in (key, words.lower()):
                return {field: key}
    return {}
