"""Many pieces with several irons in the fire: who waits for whom, how long it takes, what is worth setting up."""

from __future__ import annotations

import math

from long_ember.frozen import NamedTuple, dataclass
from long_ember.heats.craft import Fixture, craft_of
from long_ember.heats.sequencing import ForgingPlan
from long_ember.heats.timing import reheat

__all__ = ["RHYTHMS", "Batch", "Station", "Turn", "WorthIt", "batch", "fixtures", "stations_of"]

RHYTHMS = ("piece", "stage")
_SET_UP = 20.0  # s to take up other tools; once a stage, or at every heat
_SET_COLD, _LEAST_COLD = 30.0, 10.0  # s of cold work that is setting up, once a stage; what is left for each at least
_LONG = 120.0  # s that an iron may lie ready before it scales for nothing and thin parts burn
_COLD = 20.0


class Turn(NamedTuple):
    """The smith at one stage of one piece.

    Args:
        piece: from 0.
        stage: index of the heat or cold step in the plan.
        into: s, when it went into the fire; the same as `ready` for cold work.
        ready: when it was hot.
        start: when the smith took it.
        end: when he put it down.
    """

    piece: int
    stage: int
    into: float
    ready: float
    start: float
    end: float

    @property
    def lies(self) -> float:
        """Seconds that it lay in the fire hot and unused: the fire waits for the smith. Nothing cold lies in the fire."""
        return self.start - self.ready if self.ready > self.into else 0.0


@dataclass(frozen=True)
class Batch:
    """A timetable.

    Args:
        rhythm: piece or stage.
        irons: bars in the fire at once.
        turns: in order.
        gaps: (from, to) in s, where the smith waits for the fire.
        finished: by piece, when it is done.
        around: s of sawing, marking, measuring and finishing: set up once, then a share for each piece.
    """

    rhythm: str
    irons: int
    turns: tuple[Turn, ...]
    gaps: tuple[tuple[float, float], ...]
    finished: tuple[float, ...]
    around: float = 0.0

    @property
    def total(self) -> float:
        """Seconds from lighting in to the last piece."""
        return self.turns[-1].end if self.turns else 0.0

    @property
    def whole(self) -> float:
        """The same with everything around it, s."""
        return self.total + self.around

    @property
    def idle(self) -> float:
        """Seconds that the smith waits for the fire."""
        return math.fsum(b - a for a, b in self.gaps)

    @property
    def each(self) -> float:
        """Seconds a piece, with everything around it."""
        return self.whole / len(self.finished) if self.finished else 0.0

    @property
    def longest(self) -> float:
        """The longest that an iron lies ready in the fire, s."""
        return max((t.lies for t in self.turns), default=0.0)

    @property
    def burns(self) -> bool:
        """An iron lies ready so long that it scales for nothing and thin parts burn."""
        return self.longest > _LONG


def batch(plan: ForgingPlan, pieces: int, *, irons: int, rhythm: str) -> Batch:
    """Simulate a batch: one smith, so many irons in the fire at once.

    Piece by piece, up to `irons` pieces are on their way at a time and each goes back into the fire warm; the smith takes up other tools at every
    heat. Stage by stage, all pieces go through one heat before the next; tools are taken up once, but every piece has gone cold.

    Args:
        plan: of one piece.
        pieces: how many.
        irons: in the fire at once.
        rhythm: piece or stage.
    """
    if rhythm not in RHYTHMS:
        raise ValueError(f"no such rhythm: {rhythm}")
    shop = _Shop(plan, pieces, max(irons, 1))
    (shop.by_piece if rhythm == "piece" else shop.by_stage)()
    finished = [0.0] * pieces
    for turn in shop.turns:
        finished[turn.piece] = max(finished[turn.piece], turn.end)
    around = math.fsum(e.seconds + e.each * (pieces - 1) for e in plan.errands if not e.waits) if pieces else 0.0
    return Batch(rhythm, max(irons, 1), tuple(shop.turns), tuple(shop.gaps), tuple(finished), around)


class _Shop:
    """The clock, the fire and the smith."""

    def __init__(self, plan: ForgingPlan, pieces: int, irons: int) -> None:
        times = plan.times
        self.pieces, self.irons = pieces, irons
        self.fire, self.cold = times.fire, [item.cold for item in plan.packed]
        self.work = [w + a for w, a in zip(times.work, times.around, strict=True)]
        hot = iter([h for h in plan.heats if not h.cold])
        self.from_cold = [0.0 if cold else reheat(plan.piece, plan.forge, _COLD, next(hot).hot) for cold in self.cold]
        self.pace = [plan.gained(i) for i in range(pieces)]
        self.now, self.at_stage = 0.0, -1
        self.turns: list[Turn] = []
        self.gaps: list[tuple[float, float]] = []

    def do(self, piece: int, stage: int, into: float, ready: float) -> float:
        """The smith's turn at a piece: waits until it is hot, takes up the tools, works. Returns when it is put down."""
        if ready > self.now:
            self.gaps.append((self.now, ready))
            self.now = ready
        start = self.now
        set_up = _SET_UP if stage != self.at_stage else 0.0
        work = self.work[stage]
        if self.cold[stage] and stage == self.at_stage:  # drill, stop and clamp are set
            work = max(work - _SET_COLD, min(work, _LEAST_COLD))
        self.now += set_up + work * self.pace[piece]
        self.at_stage = stage
        self.turns.append(Turn(piece, stage, into, ready, start, self.now))
        return self.now

    def by_piece(self) -> None:
        """Up to `irons` pieces on their way; the one that has been ready longest is taken next."""
        stages, coming = len(self.work), iter(range(self.pieces))
        active: list[tuple[float, int, int, float]] = []  # ready, piece, stage, into

        def begin() -> None:
            piece = next(coming, None)
            if piece is not None and stages:
                active.append((self.now + self.fire[0], piece, 0, self.now))

        for _ in range(self.irons):
            begin()
        while active:
            ready, piece, stage, into = min(active)
            active.remove((ready, piece, stage, into))
            end = self.do(piece, stage, into, ready)
            if stage + 1 < stages:
                active.append((end + self.fire[stage + 1], piece, stage + 1, end))
            else:
                begin()

    def by_stage(self) -> None:
        """All pieces through one stage, then through the next."""
        for stage, cold in enumerate(self.cold):
            heat = 0.0 if cold else self.from_cold[stage]
            waiting = list(range(self.pieces))
            fire: list[tuple[float, int, float]] = []
            while waiting or fire:
                while waiting and len(fire) < self.irons:
                    fire.append((self.now + heat, waiting.pop(0), self.now))
                ready, piece, into = min(fire)
                fire.remove((ready, piece, into))
                if waiting:  # the next goes in as this one comes out
                    fire.append((max(self.now, ready) + heat, waiting.pop(0), max(self.now, ready)))
                self.do(piece, stage, into, ready)


@dataclass(frozen=True, slots=True)
class Station:
    """One stage of a batch: where the smith stands for it, and for how long.

    Args:
        where: how its main work is done, or "cold" work by what it is done with.
        heat: number of the heat in the plan of one piece, 0 for cold work.
        first: s, when the first piece comes to it.
        last: s, when the last one leaves it.
        work: s that the smith works at it, all pieces together.
    """

    where: str
    heat: int
    first: float
    last: float
    work: float


def stations_of(plan: ForgingPlan, found: Batch) -> tuple[Station, ...]:
    """The batch by stages, in the order of the plan.

    Args:
        plan: of one piece.
        found: its batch.
    """
    by_stage: dict[int, list[Turn]] = {}
    for turn in found.turns:
        by_stage.setdefault(turn.stage, []).append(turn)
    rows = []
    for stage, turns in sorted(by_stage.items()):
        heat = plan.heats[stage]
        ways = dict.fromkeys(w.step.method.title for w in heat.work)
        first, last = min(t.start for t in turns), max(t.end for t in turns)
        rows.append(Station(", ".join(ways), heat.number, first, last, math.fsum(t.end - t.start for t in turns)))
    return tuple(rows)


@dataclass(frozen=True, slots=True)
class WorthIt:
    """A fixture, how often a batch uses it, and the minutes it then saves."""

    fixture: Fixture
    uses: int
    saved: float

    @property
    def pays(self) -> bool:
        """It saves more than it takes."""
        return self.saved > self.fixture.minutes


def fixtures(plan: ForgingPlan, pieces: int) -> tuple[WorthIt, ...]:
    """What could be set up for a batch, those that pay first."""
    uses: dict[Fixture, list[float]] = {}
    for item, seconds in zip(plan.packed, plan.times.work, strict=True):
        for step, _start, _stop in item.items:
            fixture = craft_of(step.operation.manner).fixture
            if fixture is not None:
                uses.setdefault(fixture, []).append(seconds / len(item.items))
    found = [WorthIt(f, len(s) * pieces, sum(s) * f.saves * pieces / 60) for f, s in uses.items()]
    return tuple(sorted(found, key=lambda w: w.fixture.minutes - w.saved))
