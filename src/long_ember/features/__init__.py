"""The piece and its features."""

from long_ember.features.base import (
    LABELS,
    SCHOOLS,
    VERBS,
    BendRule,
    Check,
    Feature,
    Formed,
    Operation,
    Outer,
    Place,
    checks_of,
    feature_sum,
    operations_of,
    range_of,
    remembered,
    shape_of,
    stock_of,
)
from long_ember.features.composing import Composition, Stand
from long_ember.features.limb import Limbs
from long_ember.features.own_work import BLACK, WHOLE, OwnWork, own_marks
from long_ember.features.piece import SAWN, SCALE_FROM, Allowances, Measured, Order, Piece
from long_ember.features.pins import with_pinned_runs
from long_ember.features.planning import FINISHES, HARDENED_FOR, ORDER_SCHOOLS, Overrule, Picked, Pin, Planning, School
from long_ember.features.registry import KIND_FAMILIES, KINDS, said_by
from long_ember.features.run import Run
from long_ember.features.shape import Arc, Branch, Corner, Helix, Segment, Shape, Span, Spiral, Straight, Void, loft_doubt
from long_ember.features.split import Split
from long_ember.features.standing import Standing
from long_ember.features.weld import Extension, LaidOn

__all__ = [
    "BLACK",
    "FINISHES",
    "HARDENED_FOR",
    "KINDS",
    "KIND_FAMILIES",
    "LABELS",
    "ORDER_SCHOOLS",
    "SAWN",
    "SCALE_FROM",
    "SCHOOLS",
    "VERBS",
    "WHOLE",
    "Allowances",
    "Arc",
    "BendRule",
    "Branch",
    "Check",
    "Composition",
    "Corner",
    "Extension",
    "Feature",
    "Formed",
    "Helix",
    "LaidOn",
    "Limbs",
    "Measured",
    "Operation",
    "Order",
    "Outer",
    "Overrule",
    "OwnWork",
    "Picked",
    "Piece",
    "Pin",
    "Place",
    "Planning",
    "Run",
    "School",
    "Segment",
    "Shape",
    "Span",
    "Spiral",
    "Split",
    "Stand",
    "Standing",
    "Straight",
    "Void",
    "checks_of",
    "feature_sum",
    "loft_doubt",
    "operations_of",
    "own_marks",
    "range_of",
    "remembered",
    "said_by",
    "shape_of",
    "stock_of",
    "with_pinned_runs",
]  # fmt: skip
