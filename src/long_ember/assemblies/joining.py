"""Where parts of an assembly meet, and how they stand once they are joined."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Arc, Feature, Helix, Piece, Shape, Span, Spiral, Straight
from long_ember.frozen import NamedTuple, dataclass
from long_ember.geometry import Balance, Body, Pose, balance, bodies, end_pose, frames, level_poses, mesh, together
from long_ember.records.assembly import LETTERS, ROLES, Assembly, Join
from long_ember.sections import Blend, round_

__all__ = ["Anchor", "Assembled", "PartModel", "Placed", "assembled", "meeting_places", "part_model"]

_STEP = math.radians(6)
_STEEL = 7.85e-3  # of rivets, g/mm³


class Anchor(NamedTuple):
    """Where something can be joined, in its part's own frame.

    Args:
        pose: its first axis runs through the joint: along a hole, out of a tenon, through an eye, along a crown.
        across: size of hole, pin or opening, mm.
        depth: along that axis: steel round a hole, length of a pin, width of an eye, room inside a crown, mm.
        area: of the hole or pin, mm²; 0 where it does not count.
        bar: thickness of the steel that is bent there, mm.
        radius: of the bent centreline, mm.
        form: round, square, diamond, slot, or a section's shape.
        sink: mouth of its countersink, mm.
        feature: what it is of.
    """

    pose: Pose
    across: float
    depth: float
    area: float
    bar: float
    radius: float
    form: str
    sink: float
    feature: Feature


@dataclass(frozen=True, eq=False)
class PartModel:
    """A part with its solids at rest.

    Args:
        piece: it is made from.
        shapes: of its features, mirrored for a mate.
        poses: where each begins.
        solids: of the whole.
    """

    piece: Piece
    shapes: tuple[tuple[str, Shape], ...]
    poses: tuple[Pose, ...]
    solids: tuple[Body, ...]

    @property
    def end(self) -> Pose:
        """Where the bar ends, at B."""
        return self.poses[-1].then(end_pose(self.shapes[-1][1]))


def part_model(piece: Piece, side: str) -> PartModel:
    """A part at rest, its longest straight feature level.

    Raises:
        NoAnswer: it has no features.
    """
    shapes = piece.shapes
    if not shapes:
        raise NoAnswer(f"{piece.name} has no features yet.", "Forge it first, or take another piece.")
    if side == "mate":
        shapes = [(i, s.flopped()) for i, s in shapes]
    poses = tuple(level_poses(shapes))
    return PartModel(piece, tuple(shapes), poses, bodies(shapes, poses[0].axes.T))


def meeting_places(piece: Piece, role: str) -> tuple[str, ...]:
    """Ids of features that can be a role: hole, pin, ring or crown; those that are laid on too, and what a hole is laid on."""
    return tuple(dict.fromkeys(identity for identity, shape in piece.shapes if _fits(shape, role)))


def _fits(shape: Shape, role: str) -> bool:
    bent = any(isinstance(s, (Arc, Helix, Spiral)) for s in shape.path)
    straight = len(shape.path) == 1 and isinstance(shape.path[0], Straight) and not shape.voids
    return {
        "hole": bool(shape.voids),
        "pin": straight and not shape.branches,
        "ring": bent,
        "eye": bent or bool(shape.voids),
        "crown": bent or straight,
    }[role]


def _anchor(part: PartModel, feature_id: str, role: str) -> Anchor:
    """The first part of a feature that can be the role: a form laid on it may have cut it in several."""
    feature = part.piece.feature(feature_id)
    index = next((i for i, (identity, shape) in enumerate(part.shapes) if identity == feature_id and _fits(shape, role)), -1)
    if feature is None or index < 0:
        raise NoAnswer(f"{part.piece.name} has nothing there to be joined.", "Choose the place anew.")
    shape, base = part.shapes[index][1], part.poses[index]
    if role == "hole" or (role == "eye" and shape.voids):
        return _hole(feature, shape, base)
    if role == "pin":
        return _pin(feature, shape, base)
    return _ring(feature, shape, base) if role in ("ring", "eye") else _crown(part, feature, shape, base)


def _hole(feature: Feature, shape: Shape, base: Pose) -> Anchor:
    void, bar = shape.voids[0], shape.spans[0].start
    along, up, front = np.eye(3)
    axes, depth = ((up, front, along), bar.t) if void.axis == "thickness" else ((front, along, up), bar.w)
    across, longer = sorted((void.diameter, void.across or void.diameter))
    area = across * longer
    if void.form in ("round", "slot"):  # round ends, with what lies between them
        area += (math.pi / 4 - 1) * across**2
    pose = base.then(Pose(np.array([void.centre, 0.0, 0.0]), np.array(axes)))
    return Anchor(pose, across, depth, area, 0.0, 0.0, void.form, void.sink, feature)


def _pin(feature: Feature, shape: Shape, base: Pose) -> Anchor:
    """A pin's first axis points out of its shoulder; a straight length between others is taken from its A end."""
    out_a = getattr(feature, "toward", "B") == "A"
    middle = shape.spans[len(shape.spans) // 2].start
    along, up, front = np.eye(3)
    axes = np.array((-along, front, up) if out_a else (along, up, front))
    pose = base.then(Pose(np.array([shape.length if out_a else 0.0, 0.0, 0.0]), axes))
    return Anchor(pose, middle.w, shape.length, middle.area, middle.t, 0.0, "round" if middle.form == "ellipse" else "square", 0.0, feature)


def _bent(shape: Shape) -> tuple[Array, float, Blend]:
    """Points on the first bent stretch of a shape, its facing, and the section in the middle of it."""
    at = 0.0
    for segment in shape.path:
        if isinstance(segment, (Arc, Helix, Spiral)):
            break
        at += segment.length
    sampled = frames(shape, np.array([at, at + segment.length]), _STEP)
    keep = (sampled.s >= at - 1e-9) & (sampled.s <= at + segment.length + 1e-9)
    return sampled.points[keep], getattr(segment, "facing", 0.0), shape.spans[len(shape.spans) // 2].start


def _ring(feature: Feature, shape: Shape, base: Pose) -> Anchor:
    points, facing, bar = _bent(shape)
    centre, normal, radius = _circle(points)
    side = points[0] - centre
    axes = np.array((normal, side / np.linalg.norm(side), np.cross(normal, side / np.linalg.norm(side))))
    thick, wide = bar.across(facing), bar.across(facing + math.pi / 2)
    across = 2 * radius - thick
    return Anchor(base.then(Pose(centre, axes)), across, wide, math.pi / 4 * across**2, thick, radius, "round", 0.0, feature)


def _circle(points: Array) -> tuple[Array, Array, float]:
    """Centre, unit normal and radius of the circle through three points spread over a row of them."""
    a, b, c = points[0], points[len(points) // 3], points[2 * len(points) // 3]
    u, v = b - a, c - a
    n = np.cross(u, v)
    size = float(n @ n)
    if size < 1e-12:
        raise NoAnswer("That bend is too slight to be a ring.", "Choose an eye, a ring or a bow.")
    centre = a + (np.cross(n, u) * (v @ v) + np.cross(v, n) * (u @ u)) / (2 * size)
    return centre, n / math.sqrt(size), float(np.linalg.norm(a - centre))


def _crown(part: PartModel, feature: Feature, shape: Shape, base: Pose) -> Anchor:
    """The middle of a staple: along it, then to the inside."""
    everything = np.vstack([b.mesh.points for b in part.solids])
    if isinstance(shape.path[0], Straight) and len(shape.path) == 1:
        at, along = base.place(np.array([[shape.length / 2, 0.0, 0.0]]))[0], base.axes[0]
        bar = shape.spans[len(shape.spans) // 2].start.t
        inward = everything.mean(axis=0) - at
    else:
        points, facing, blend = _bent(shape)
        points = base.place(points)
        middle = len(points) // 2
        at, bar = points[middle], blend.across(facing)
        along = points[middle + 1] - points[middle - 1]
        along = along / np.linalg.norm(along)
        inward = _circle(points)[0] - at
    inward = inward - along * (inward @ along)
    if np.linalg.norm(inward) < max(bar / 2, 1e-6):
        raise NoAnswer("That part has no inside there.", "Choose the crown of a staple: the length between its bends, or its bow.")
    inward = inward / np.linalg.norm(inward)
    room = float(np.ptp(everything @ along)) - 2 * bar
    depth = float(((everything - at) @ inward).max()) - bar / 2
    axes = np.array((along, inward, np.cross(along, inward)))
    return Anchor(Pose(at, axes), room, depth, 0.0, bar, 0.0, "crown", 0.0, feature)


def _relation(join: Join, first: Anchor, second: Anchor) -> tuple[Pose, Array]:
    """The first anchor in the second's frame, and which way the first is taken out again."""
    side, turn = (1.0 if join.face == "up" else -1.0), math.radians(join.turn)
    cos, sin = math.cos(turn), math.sin(turn)
    x = np.array([1.0, 0.0, 0.0])
    if join.kind == "link":
        apart, axes = (first.bar + second.bar) / 2, np.array(((1.0, 0.0, 0.0), (0.0, cos, sin), (0.0, -sin, cos)))
        inward = apart - first.radius  # it rolls round the crown as it swings
        return Pose(np.array([0.0, inward * cos, inward * sin]), axes), np.array([0.0, -cos, -sin])
    if join.kind == "rivet":
        axes = np.array((x, (0.0, cos, sin), (0.0, -sin, cos)))
        return Pose(x * side * (first.depth + second.depth) / 2, axes), x * side
    # A pin points into the face that it comes from.
    second_axis = np.array([0.0, cos, sin])
    axes = np.array((-x * side, second_axis, np.cross(-x * side, second_axis)))
    shoulder = second.depth / 2 if join.kind == "tenon" else first.depth / 2
    return Pose(x * side * shoulder, axes), x * side


@dataclass(frozen=True, eq=False)
class Placed:
    """A solid where it stands, and where it goes when the assembly is taken apart.

    Args:
        name: letter and piece, rivet, or handle.
        solids: in the assembly.
        way: (3,) direction of taking it apart, longer the more joints lie between.
        weight: and where it is.
    """

    name: str
    solids: tuple[Body, ...]
    way: Array
    weight: Balance


@dataclass(frozen=True, eq=False)
class Assembled:
    """An assembly put together.

    Args:
        placed: parts, rivets, handle.
        joints: each join with the anchors of its first, second and third place.
        loose: parts that no join holds, by name.
        apart: joins between parts that others had placed already: how far they miss each other, mm, by position in `joints`.
        faults: joins that could not be made: position and reason.
    """

    placed: tuple[Placed, ...]
    joints: tuple[tuple[Join, tuple[Anchor, ...]], ...]
    loose: tuple[str, ...]
    apart: Mapping[int, float]
    faults: Mapping[int, str]

    @property
    def weight(self) -> Balance:
        """Of everything."""
        return together([p.weight for p in self.placed])

    def solids(self, gap: float = 0.0) -> tuple[Body, ...]:
        """Everything as solids, taken apart by `gap` mm at each joint."""
        return tuple(
            replace(body, mesh=body.mesh.placed(Pose(p.way * gap, np.eye(3)))) if gap else body for p in self.placed for body in p.solids
        )


def assembled(assembly: Assembly, pieces: Mapping[str, Piece]) -> Assembled:
    """Put an assembly together: the first part lies still, joins bring the others to it.

    Args:
        assembly: parts that `pieces` does not have are left out and said to be gone.
        pieces: by id.
    """
    models: dict[str, PartModel] = {}
    gone = []
    for letter, part in zip(LETTERS, assembly.parts, strict=False):
        try:
            models[letter] = part_model(pieces[part.piece], part.side)
        except (KeyError, EmberError):
            gone.append(f"{letter}: a piece that is gone or empty")
    poses: dict[str, Pose] = {}
    ways: dict[str, Array] = {}
    joints, faults = _joints(assembly, models)
    if models:
        poses[next(iter(models))] = Pose(np.zeros(3), np.eye(3))
        ways[next(iter(models))] = np.zeros(3)
    apart = _place(joints, poses, ways)
    loose = [f"{letter}: {m.piece.name}" for letter, m in models.items() if letter not in poses]
    _lay_aside(models, poses, ways)
    placed = [_placed(letter, m, poses[letter], ways[letter]) for letter, m in models.items()]
    for join, anchors in joints.values():
        if join.kind == "rivet":
            placed.append(_rivet(join, anchors, poses[join.second[0]], ways[join.second[0]]))
    handle = _handle(assembly, models, poses, ways)
    placed += [handle] if handle else []
    pairs = tuple(joints.get(i, (join, ())) for i, join in enumerate(assembly.joins))
    return Assembled(tuple(placed), pairs, (*loose, *gone), apart, faults)


def _joints(assembly: Assembly, models: Mapping[str, PartModel]) -> tuple[dict[int, tuple[Join, tuple[Anchor, ...]]], dict[int, str]]:
    found, faults = {}, {}
    for i, join in enumerate(assembly.joins):
        roles = (*ROLES[join.kind], "hole")
        places = [join.first, join.second, *([join.third] if join.kind == "rivet" and join.third else [])]
        try:
            anchors = []
            for place, role in zip(places, roles, strict=False):
                letter, _dot, feature = place.partition(".")
                if letter not in models:
                    raise NoAnswer("One side of this join is not chosen.", "Choose both places.")
                anchors.append(_anchor(models[letter], feature, role))
            if len({p[0] for p in places}) < len(places):
                raise NoAnswer("A part can't be joined to itself here.", "Choose another part.")
            found[i] = (join, tuple(anchors))
        except NoAnswer as error:
            faults[i] = str(error)
    return found, faults


def _place(joints: Mapping[int, tuple[Join, tuple[Anchor, ...]]], poses: dict[str, Pose], ways: dict[str, Array]) -> dict[int, float]:
    """Bring every part that a join reaches to the ones that stand."""
    waiting = [(i, pair) for i, (join, anchors) in joints.items() for pair in _pairs(join, anchors)]
    apart: dict[int, float] = {}
    progress = True
    while waiting and progress:
        progress = False
        for entry in list(waiting):
            i, (one, other, a, b, relation, out) = entry
            if one not in poses and other not in poses:
                continue
            waiting.remove(entry)
            progress = True
            if one in poses and other in poses:
                wanted = poses[other].then(b.pose).then(relation)
                apart[i] = max(apart.get(i, 0.0), float(np.linalg.norm(wanted.at - poses[one].then(a.pose).at)))
            elif other in poses:
                poses[one] = poses[other].then(b.pose).then(relation).then(a.pose.inverse)
                ways[one] = ways[other] + out @ poses[other].then(b.pose).axes
            else:
                poses[other] = poses[one].then(a.pose).then(relation.inverse).then(b.pose.inverse)
                ways[other] = ways[one] - out @ poses[other].then(b.pose).axes
    return apart


def _pairs(join: Join, anchors: Sequence[Anchor]) -> list[tuple[str, str, Anchor, Anchor, Pose, Array]]:
    """First to second, and third to second from its other side."""
    found = [(join.first[0], join.second[0], anchors[0], anchors[1], *_relation(join, anchors[0], anchors[1]))]
    if len(anchors) == 3:
        under = replace(join, face="down" if join.face == "up" else "up", turn=0.0)
        found.append((join.third[0], join.second[0], anchors[2], anchors[1], *_relation(under, anchors[2], anchors[1])))
    return found


def _lay_aside(models: Mapping[str, PartModel], poses: dict[str, Pose], ways: dict[str, Array]) -> None:
    """Parts that nothing holds lie below the rest."""
    low = min((float(poses[k].place(np.vstack([b.mesh.points for b in models[k].solids]))[:, 1].min()) for k in poses), default=0.0)
    for letter, model in models.items():
        if letter not in poses:
            points = np.vstack([b.mesh.points for b in model.solids])
            poses[letter], ways[letter] = Pose(np.array([0.0, low - 20.0 - float(points[:, 1].max()), 0.0]), np.eye(3)), np.zeros(3)
            low -= 20.0 + float(np.ptp(points[:, 1]))


def _placed(letter: str, model: PartModel, pose: Pose, way: Array) -> Placed:
    solids = tuple(Body(f"{letter}.{b.id}", b.mesh.placed(pose)) for b in model.solids)
    # Mass by the arithmetic: the mesh knows it to a per cent.
    mass = sum(s.volume for _i, s in model.shapes) * model.piece.steel.density
    return Placed(f"{letter}: {model.piece.name}", solids, way, balance(solids, model.piece.steel.density, mass))


def _rivet(join: Join, anchors: Sequence[Anchor], pose: Pose, way: Array) -> Placed:
    """Shank through the stack, a domed head at each end; the countersunk one is flush."""
    d, x = join.diameter, np.array([1.0, 0.0, 0.0])
    side = 1.0 if join.face == "up" else -1.0
    above = anchors[1].depth / 2 + anchors[0].depth
    below = anchors[1].depth / 2 + (anchors[2].depth if len(anchors) == 3 else 0.0)
    wide, high = 1.75 * d, 0.7 * d
    foot, middle, top = (round_(size).blend for size in (wide, wide * 0.86, wide * 0.4))
    dome = (Span(high * 0.5, foot, middle), Span(high * 0.5, middle, top))
    shank = Span(above + below, round_(d).blend, round_(d).blend)
    far = (Span(d * 0.5, round_(d).blend, round_(2 * d).blend),) if join.head == "flush" else dome
    shank = replace(shank, length=shank.length - (d * 0.5 if join.head == "flush" else 0.0))
    spans = (*(s.reversed() for s in reversed(dome)), shank, *far)
    shape = Shape(spans, (Straight(sum(s.length for s in spans)),))
    start = pose.then(anchors[1].pose).then(Pose(x * side * (above + high), np.array((-x * side, (0.0, 1.0, 0.0), (0.0, 0.0, -side)))))
    body = Body("rivet", mesh(shape).placed(start))
    return Placed("rivet", (body,), way + 2.2 * side * (x @ pose.then(anchors[1].pose).axes), balance((body,), _STEEL))


def _handle(assembly: Assembly, models: Mapping[str, PartModel], poses: Mapping[str, Pose], ways: Mapping[str, Array]) -> Placed | None:
    letter, _dot, end = assembly.handle_on.partition(".")
    if assembly.handle == "none" or letter not in models:
        return None
    model, x = models[letter], np.array([1.0, 0.0, 0.0])
    from_b = end != "A"
    at = poses[letter].then(model.end if from_b else model.poses[0])
    out = at if from_b else at.then(Pose(np.zeros(3), np.array((-x, (0.0, 0.0, 1.0), (0.0, 1.0, 0.0)))))
    start = out.then(Pose(-x * assembly.handle_over, np.eye(3)))
    blend = round_(assembly.handle_across).blend
    body = Body("handle", mesh(Shape((Span(assembly.handle_length, blend, blend),), (Straight(assembly.handle_length),))).placed(start))
    return Placed("handle", (body,), ways[letter] + out.axes[0], balance((body,), 1.0, assembly.handle_mass))
