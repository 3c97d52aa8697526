"""Where something of a line stands: on what, how far from which of its ends, in the middle, at both ends."""

from __future__ import annotations

from long_ember.features import Outer
from long_ember.fields import Choice, specs
from long_ember.shorthand.drafts import Draft, SaidLandmark
from long_ember.shorthand.saying import choice_words
from long_ember.shorthand.scanner import Amount, Scanner, nearest
from long_ember.shorthand.vocabulary import kind_words, words_of
from long_ember.units import one

__all__ = ["MOST_FEATURES", "PLACES", "Placings"]

MOST_FEATURES = 400  # of a line
PLACES = ("on", "in", "at", "from", "toward", "towards")
_ORDINALS = {"first": 1, "second": 2, "third": 3, "fourth": 4, "fifth": 5, "sixth": 6, "last": -1}
_ENDS = {("end", "a"): "A", ("end", "b"): "B"}
_LONE = {("a",): "A", ("b",): "B"}  # "from A"; before a shape it is an article
_EDGES = {
    ("a", "end"): "A", ("end", "a"): "A", ("b", "end"): "B", ("end", "b"): "B", ("middle",): "middle", ("end", "toward", "a"): "A",
    ("end", "toward", "b"): "B",
}  # fmt: skip
_IT = ("it", "that")
_LAYS = ("on", "at", "from")
_AFTER_PLACES = ("and", "from", "on", "then", "toward", "towards")
_MIDDLE = dict.fromkeys([("centred",), ("centered",), ("in", "the", "middle"), ("in", "its", "middle")], True)
_ONE = dict.fromkeys(
    [(*before, *end) for before in ((), ("at",), ("on",)) for end in (("one", "end"), ("other", "end"), ("the", "other", "end"), ("the", "other"),
                                                                      ("the", "end"), ("its", "end"), ("end",))], True
)  # fmt: skip
_BOTH = dict.fromkeys([(*before, *ends) for before in ((), ("at",), ("on",)) for ends in (("both", "ends"), ("each", "end"))], True)


class Placings:
    """Reads where something stands, one thing after the other.

    Args:
        scan: the line.
        drafts: everything that was begun so far, which the reader goes on with.
    """

    def __init__(self, scan: Scanner, drafts: list[Draft]) -> None:
        self.scan, self.drafts = scan, drafts

    def one(self, draft: Draft, host: Draft | None, *, standing: bool) -> bool:
        """A word or two about where it stands; whether there were any.

        Args:
            draft: of what is read.
            host: with which it is said, None where it stands by itself.
            standing: it takes no bar of its own.
        """
        scan, place = self.scan, draft.place
        if self._middle_or_both(draft, host, standing=standing):
            return True
        word = scan.word()
        if word not in PLACES or (word == "in" and scan.number_behind()):
            return False
        start = scan.at
        if word in ("toward", "towards"):
            scan.pass_word(word)
            letter = scan.pass_word("a", "b")
            if not letter:
                raise scan.fault("toward which end?", ("A", "B"))
            if standing:
                place.along = letter.upper()
            elif "toward" in specs(draft.cls):
                draft.values["toward"] = letter.upper()
            else:
                raise scan.fault(f"{one(draft.cls.title.lower())} has no outer end", (), start)
            return True
        if word == "on" and self._on_face(draft):
            return False
        if not standing:
            if word not in _LAYS or not draft.cls.stands:
                return False
            draft.laid = True
        scan.pass_word(word)
        if word == "at":
            q = scan.quantity()
            if q is not None:
                scan.at = q.end
                place.at = scan.length(q)
                while draft.many and (q := self._another_place()) is not None:
                    draft.places += (scan.length(q),)
                return True
        if word in ("from", "at"):
            if scan.phrase(_BOTH):
                if place.at is None and issubclass(draft.cls, Outer):
                    place.at = 0.0  # what is rolled up lies at the very tip
                if place.at is None:
                    raise scan.fault("how far from each end?", ("at 20 from each end",), start)
                draft.both = True
                if host is None:
                    place.on = "A"
                else:
                    place.edge = "A"
                return True
            scan.pass_word("its", "the")
            edge = scan.phrase(_EDGES, take=False)
            if edge is not None and place.on is None and scan.phrase(_ENDS, take=False) is not None:
                place.on = scan.phrase(_ENDS)
            elif edge is not None:
                scan.phrase(_EDGES)
                place.edge = edge
                if scan.pass_word("of"):
                    place.on = self._landmark()
            else:
                place.on = self._landmark()
            return True
        place.on = self._landmark()
        return True

    def _another_place(self) -> Amount | None:
        """`, 100` or `and 180` of several alike; what has a name behind it is something else."""
        scan, start = self.scan, self.scan.skip()
        scan.take(",")
        scan.pass_word("and")
        q = scan.quantity() if scan.at > start else None
        if q is not None and q.sort in ("", "length"):
            scan.at = q.end
            if scan.done or scan.peek() in ",;)]" or scan.word() in _AFTER_PLACES:
                return q
        scan.at = start
        return None

    def _middle_or_both(self, draft: Draft, host: Draft | None, *, standing: bool) -> bool:
        """In the middle of what it stands on, or at both ends of the row."""
        scan, place = self.scan, draft.place
        start = scan.skip()
        if scan.phrase(_MIDDLE):
            if scan.pass_word("of"):
                place.on, draft.laid = self._landmark(), not standing
            if standing or draft.laid:
                place.edge, place.at, place.centred = "middle", 0.0, True
            elif draft.cls.stands == "form" and not issubclass(draft.cls, Outer):  # of the drawn bar
                draft.laid = True
                place.edge, place.at, place.centred = "middle", 0.0, True
            elif draft.cls.stands != "work":  # a hole lies in the middle of its own bar anyway; of what is a taper the middle?
                title = draft.cls.title.lower()
                raise scan.fault(
                    f"{one(title)} takes bar of its own: it stands between what is before and behind it",
                    (f"run 100, {title}, run 100",),
                    start,
                )
            return True
        # What has one outer end lies at one; which, its place in the row tells.
        if not standing and draft.place.silent and (issubclass(draft.cls, Outer) or draft.cls.kind == "upset"):
            lone = ("end",) in words_of(draft.cls).fields and scan.word() == "end"  # how it ends
            if not lone and scan.phrase(_ENDS, take=False) is None and scan.phrase(_ONE):
                return True
        # An end is made at either end of the bar, with what is said with it; what is laid on it needs to be told how far from them.
        whose = draft if not standing else host
        ends = whose is not None and (issubclass(whose.cls, Outer) or (not standing and not whose.cls.stands))
        if whose is not None and ends and not whose.laid and draft.place.at is None and scan.phrase(_BOTH):
            whose.both = True
            return True
        return False

    def _on_face(self, draft: Draft) -> bool:
        """`on` speaks of a face or an edge of the bar, not of a landmark."""
        scan = self.scan
        if words_of(draft.cls).fields.get(("on",)) is None:
            return False
        spec = specs(draft.cls)[words_of(draft.cls).fields["on",]]
        start = scan.skip()
        scan.pass_word("on")
        found = isinstance(spec, Choice) and scan.phrase(choice_words(spec), take=False) is not None
        scan.at = start
        return found

    def _landmark(self) -> str | SaidLandmark:
        scan = self.scan
        scan.pass_word("the", "its")
        start = scan.skip()
        end = scan.phrase(_ENDS)
        if end is None and (lone := scan.phrase(_LONE)) is not None and scan.phrase(kind_words(), take=False) is None:
            end = lone
        if end is not None:
            return str(end)
        number = _ORDINALS.get(scan.pass_word(*_ORDINALS), 0)
        scan.want((*(" ".join(w) for d in self.drafts for w in ((d.cls.title.lower(),),)), "end A", "end B"))
        name = scan.quoted()
        words: tuple[str, ...] = ()
        if name is None and scan.pass_word(*_IT) and len(self.drafts) > 1:
            return self.drafts[-2].id  # what was spoken of last
        if name is None:
            before = scan.skip()
            if scan.phrase(kind_words()) is None:
                word = scan.word()
                shown = list(dict.fromkeys([*(d.cls.title.lower() for d in self.drafts), "end A", "end B"]))
                raise scan.fault(f"'{word or scan.peek()}' is nothing that it could stand on", nearest(word, shown) or shown[:6])
            words = tuple(scan.text[before : scan.at].lower().split())
        q = scan.quantity()
        if q is not None and not q.sort and q.text.isdigit() and not number:
            number, scan.at = min(int(q.text), MOST_FEATURES + 1), q.end
        return SaidLandmark(words, name or "", number, start, scan.at - start)
