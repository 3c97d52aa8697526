"""Everything a mark needs to be made and used: on which face, for what and when, what overhangs, how its length is carried, and whether it can wait."""

from __future__ import annotations

from long_ember.document import Answer
from long_ember.features import Feature
from long_ember.fields import toward_words
from long_ember.frozen import dataclass
from long_ember.heats import Heat, Work
from long_ember.physics import expansion
from long_ember.stock import HOT, Mark
from long_ember.units import Line, say

__all__ = ["Marking", "carry_line", "face_of", "marking_out", "overhang_line"]

_HAIR = 0.05  # mm
_LEAST = 3.0  # mm, that dividers are set to
_KEEPS = frozenset({"drill", "tap", "thread", "file", "texture"})  # verbs that leave every length as it was
_ROUND = frozenset({"taper", "point", "section-change", "tenon", "thread", "neck", "upset", "ball", "head", "nub", "part-off"})

_POPPED = frozenset({"hole", "drifted-eye", "split", "end-hole"})  # found by the marks within them, not by where their bar begins


@dataclass(frozen=True)
class Marking:
    """One mark with all that is to be known of it.

    Args:
        mark: where and how.
        far: mm from the other end of the bar.
        cubes: `mark.at` in thicknesses of the bar.
        face: where it is made.
        mirrored: the same on the mate.
        use: what it is for.
        heat: heat or cold step that it is first used in, None where nothing is worked there.
        over: mm from it to the end that is worked, as long as that is by then, cold; 0 where nothing is worked.
        cold: it must be marked on the cold bar: when it is used, neither end still has its length.
    """

    mark: Mark
    far: float
    cubes: float
    face: str
    mirrored: str
    use: str
    heat: Heat | None
    over: float
    cold: bool

    @property
    def least(self) -> bool:
        """It belongs to the fewest that will do: it must be cold, or says where the piece is cut off."""
        return self.cold or "" in (self.mark.before, self.mark.after)

    @property
    def over_hot(self) -> float:
        """`over` as it measures when it is used, mm."""
        heat = self.heat
        return self.over if heat is None or heat.cold else self.over * (1 + expansion(min(heat.hot, HOT)))


def face_of(feature: Feature | None, shape: str = "square") -> str:
    """Where on the bar a mark for a feature is seen and does no harm: never on the outside of a bend, where a punch mark opens.

    Args:
        feature: that begins there; None for the end of the bar.
        shape: of the bar's section.
    """
    turned = shape in ("round", "tube")
    if feature is None:
        return "all round the bar"
    if feature.kind in _ROUND:
        return "upper side, scribed round" if turned else "upper face and corners"
    facing = getattr(feature, "facing", None)
    if feature.curves and isinstance(facing, float):
        # Square to the plane that it turns in.
        side = "upper" if round(facing / 90) % 2 else "front"
        return f"{side} {'side' if turned else 'face'}, toward the inside"
    if getattr(feature, "axis", "thickness") == "width":
        return "front side" if turned else "front face"
    return "upper side" if turned else "upper face"


def marking_out(answer: Answer, *, drawn: bool = False, heats: bool = True) -> tuple[Marking, ...]:
    """Every mark of the bar, or of the drawn bar, from the piece's datum end.

    Args:
        answer: of the piece.
        drawn: those on the drawn bar.
        heats: with when it is used and what overhangs; without, while an order of work is still looked for.
    """
    piece, r = answer.piece, answer.reckoning
    whole = piece.composition.drawn.length if drawn else r.cut
    marks = answer.drawn_marks if drawn else answer.marks
    steps = [(work, heat) for heat in answer.plan.heats for work in heat.work] if heats else []
    features = {f.id: f for f in (*piece.features, *(s.feature for s in piece.composition.stands))}
    return tuple(_marking(answer, mark, whole, steps, features, drawn) for mark in marks)


def _marking(
    answer: Answer, mark: Mark, whole: float, steps: list[tuple[Work, Heat]], features: dict[str, Feature], drawn: bool
) -> Marking:
    at = next((n for n, (work, _heat) in enumerate(steps) if work.step.feature.id and work.step.feature.id in mark.sides), None)
    work, heat = steps[at] if at is not None else (None, None)
    named = [features[i] for i in mark.sides if i in features and features[i].kind != "run"]
    feature = features.get(work.step.feature.id) if work is not None else named[0] if named else None
    over = 0.0
    along = mark.at if answer.piece.datum == "A" else whole - mark.at  # from end A
    bar = along
    if drawn and work is not None:
        step = work.step
        bar = step.start if "begins" in mark.kind else step.end if "ends" in mark.kind else (step.start + step.end) / 2
    cold = False
    if heat is not None and work is not None and at is not None:
        over = (along if heat.held == "B" else whole - along) if drawn else heat.reach(work, bar)
        done = [w.step for w, _heat in steps[:at] if w.step.operation.verb not in _KEEPS]
        cold = any(s.start < bar - _HAIR for s in done) and any(s.end > bar + _HAIR for s in done)
    face = face_of(None if "" in mark.sides else feature, answer.piece.bar.shape)  # a cut goes round the bar, whatever is made there
    edge_of_work = mark.sides[0] != mark.sides[1] and feature is not None and feature.stands == "work" and feature.kind in _POPPED
    if feature is None or not (feature.curves or feature.kind in _ROUND) or "" in mark.sides or (heat is not None and heat.cold):
        over = 0.0  # nothing is set over the anvil's edge by it
    return Marking(mark, whole - mark.at, mark.at / answer.piece.bar.thickness, face, face.replace("front", "back"),
                   _use(mark, feature), heat, over, cold and not edge_of_work and "" not in mark.sides)  # fmt: skip


def _use(mark: Mark, feature: Feature | None) -> str:
    """What it is for, in the smith's words."""
    if not (mark.before and mark.after):
        return "what lies beyond is cut off"
    if feature is None:
        return "plain bar begins here"
    facing = getattr(feature, "facing", None)
    way = f", {toward_words(facing)}" if feature.curves and isinstance(facing, float) else ""
    name = feature.title.lower()
    if mark.before == mark.after:
        return f"{name}{way}"
    starts = mark.sides[1] == feature.id
    return f"{name}{way}: {'begins' if starts else 'ends'} here"


def overhang_line(marking: Marking, anvil: float, edge: str) -> Line | None:
    """How far the worked end lies past the anvil's edge when the mark lies on it, as it measures then.

    Args:
        marking: the mark.
        anvil: width of the anvil's face, mm.
        edge: far or near, whichever the mark is laid on.

    Returns:
        None where nothing is set over the edge by it.
    """
    over = marking.over_hot
    if marking.heat is None or not over:
        return None
    if edge == "far":
        return say("overhang or anvil pencil {}", over)
    rest = over - anvil
    return say(f"anvil pencil {{}}, from the near edge {{}} {'past' if rest > 0 else 'short of'} the far one", over, abs(rest))


def carry_line(marking: Marking, chain: float, dividers: float) -> Line:
    """How its length is carried to the cold bar: dividers from the mark before, where they open that far.

    Args:
        marking: the mark.
        chain: mm from the mark before, as it is shown.
        dividers: mm that they open to.
    """
    return say("dividers {}", chain) if _LEAST <= chain <= dividers else say("tape or rule {}", marking.mark.at)
