"""The document: edits, history, changes and the answer that follows from a piece."""

from typing import TYPE_CHECKING

from long_ember.document.answering import SMALL, Answer, answer, quick_answer, quick_answering
from long_ember.document.document import Document, PieceChange
from long_ember.document.edits import (
    Edit,
    add_feature,
    alike,
    checked,
    drawn_beside,
    duplicate,
    forget_measured,
    insert,
    move,
    overrule,
    pick_method,
    pin_order,
    put_in,
    remove_all,
    restore_rule,
    set_bar,
    set_field,
    set_measured,
    set_part,
    set_piece,
    set_planning,
    take_allowances,
)
from long_ember.document.entry import FieldAddress
from long_ember.document.history import LONGEST, History, PastStep, StoredEdit
from long_ember.document.laying import (
    change_standing,
    cover,
    give_own_bar,
    in_order,
    laid_on,
    lay_down,
    lay_on,
    lays_on,
    measure_from,
    move_along,
    remove,
)
from long_ember.document.layout import add_half, fit_bar, give_bar, make_mate, repeat, turn_round
from long_ember.document.steps import Steps
from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.document.scaling import scale_for, scaled, scaling_notes
else:
    __getattr__ = late(__name__, {"scaling": ("scale_for", "scaled", "scaling_notes")})

__all__ = [
    "LONGEST",
    "SMALL",
    "Answer",
    "Document",
    "Edit",
    "FieldAddress",
    "History",
    "PastStep",
    "PieceChange",
    "Steps",
    "StoredEdit",
    "add_feature",
    "add_half",
    "alike",
    "answer",
    "change_standing",
    "checked",
    "cover",
    "drawn_beside",
    "duplicate",
    "fit_bar",
    "forget_measured",
    "give_bar",
    "give_own_bar",
    "in_order",
    "insert",
    "laid_on",
    "lay_down",
    "lay_on",
    "lays_on",
    "make_mate",
    "measure_from",
    "move",
    "move_along",
    "overrule",
    "pick_method",
    "pin_order",
    "put_in",
    "quick_answer",
    "quick_answering",
    "remove",
    "remove_all",
    "repeat",
    "restore_rule",
    "scale_for",
    "scaled",
    "scaling_notes",
    "set_bar",
    "set_field",
    "set_measured",
    "set_part",
    "set_piece",
    "set_planning",
    "take_allowances",
    "turn_round",
]  # fmt: skip
