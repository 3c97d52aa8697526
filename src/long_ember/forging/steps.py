"""One step on, one step back: the state of a forging, from one press to the next."""

from __future__ import annotations

from dataclasses import replace

from long_ember.forging.clocks import fire_seconds
from long_ember.heats import ForgingPlan, Heat
from long_ember.records import Forging, Iron, Reject

__all__ = ["another_heat", "begin_forging", "forward", "give_up", "go_back", "put_aside", "renewed", "take_up"]

_AWAY = 600.0  # s without a step after which nobody has been at the anvil: they do not count as work


def begin_forging(
    piece_id: str, name: str, text: str, plan: ForgingPlan, now: float, *, wanted: int = 1, irons: int = 1, rhythm: str = "piece"
) -> Forging:
    """A forging that stands at its first step.

    Args:
        piece_id: in the book.
        name: of the piece.
        text: the piece as its file.
        plan: with at least one frame.
        now: s since 1970.
        wanted: pieces to make.
        irons: bars in the fire at once.
        rhythm: piece or stage.
    """
    begun = wanted if rhythm == "stage" else min(wanted, irons)
    rows = tuple(_at(Iron(number=i + 1), 0, plan, now) for i in range(begun))
    run = Forging(piece=piece_id, name=name, text=text, wanted=wanted, irons=irons, rhythm=rhythm, open=rows, last=now)
    return _arranged(run, plan, now)


def forward(run: Forging, plan: ForgingPlan, now: float) -> Forging:
    """The one action: out of the fire, or on to the next step.

    Args:
        run: that goes on.
        plan: of its piece.
        now: s since 1970.
    """
    run = take_up(run, now)
    iron = run.open[run.active]
    if iron.phase == "done":
        return run
    if iron.phase in ("fire", "wait"):  # what waits is taken as it is: the smith knows better
        new = replace(iron, phase="anvil", since=now, heats=iron.heats + 1)
        return _kept(run, new, now)
    if iron.frame + 1 < len(plan.frames):
        return _arranged(_kept(run, _at(iron, iron.frame + 1, plan, now), now), plan, now)
    return _through(replace(run, good=run.good + 1), plan, now)


def go_back(run: Forging, plan: ForgingPlan, now: float) -> Forging:
    """The last press was one too many."""
    run = take_up(run, now)
    iron = run.open[run.active]
    if iron.phase == "anvil":
        return _kept(run, replace(iron, phase="fire", since=now, heats=max(iron.heats - 1, 0)), now)
    if not iron.frame:
        return _kept(run, iron, now)
    back = _at(iron, iron.frame - 1, plan, now)
    if _hot(plan, back.frame):
        back = replace(back, phase="anvil")  # it was out of the fire, and counted
    return _kept(run, back, now)


def another_heat(run: Forging, plan: ForgingPlan, now: float) -> Forging:
    """The work was not done in time: the same step once more, from the fire."""
    run = take_up(run, now)
    iron = run.open[run.active]
    if not _hot(plan, iron.frame):
        return run
    return _arranged(_kept(run, replace(iron, phase="wait", since=now), now), plan, now)


def give_up(run: Forging, plan: ForgingPlan, now: float, cause: str) -> Forging:
    """It went wrong: the piece in hand is rejected, and another one takes its place.

    Args:
        run: that goes on.
        plan: of its piece.
        now: s since 1970.
        cause: key of `CAUSES`.
    """
    run = take_up(run, now)
    known = {r.cause: r for r in run.rejects}
    known[cause] = replace(known[cause], count=known[cause].count + 1) if cause in known else Reject(cause=cause)
    return _through(replace(run, rejects=tuple(known.values()), wanted=run.wanted + 1), plan, now)


def put_aside(run: Forging, now: float) -> Forging:
    """A pause; the clocks stand still."""
    return replace(_counted(run, now), paused=True)


def take_up(run: Forging, now: float) -> Forging:
    """Go on after a pause: what lay in the fire is cold, and is heated anew."""
    if not run.paused and now - run.last < _AWAY:
        return _counted(run, now)
    rows = tuple(_cooled(iron, now) for iron in run.open)
    return replace(run, open=rows, last=now, paused=False)


def renewed(run: Forging, text: str, plan: ForgingPlan, now: float) -> Forging:
    """The same steps of another plan, as far as it has that many; an iron whose step is another kind of work now begins it anew.

    Args:
        run: that goes on.
        text: the other piece as its file.
        plan: of it, with at least one frame.
        now: s since 1970.
    """
    last = len(plan.frames) - 1
    rows = []
    for iron in run.open:
        frame = min(iron.frame, last)
        fits = iron.phase == "done" or (iron.phase != "do") == _hot(plan, frame)
        rows.append(replace(iron, frame=frame) if fits else _at(iron, frame, plan, now))
    new = replace(run, text=text, open=tuple(rows))
    return new if rows[run.active].phase != "wait" else _arranged(new, plan, now)


def _cooled(iron: Iron, now: float) -> Iron:
    if iron.phase == "anvil":
        return replace(iron, phase="fire", since=now, heats=max(iron.heats - 1, 0))
    return replace(iron, since=now) if iron.phase == "fire" else iron


def _counted(run: Forging, now: float) -> Forging:
    """What passed since the last step counts as work, unless nobody was there."""
    passed = now - run.last
    return replace(run, spent=run.spent + (passed if 0 < passed < _AWAY and not run.paused else 0.0), last=now)


def _hot(plan: ForgingPlan, frame: int) -> bool:
    found = plan.frames[frame]
    return isinstance(found, Heat) and not found.cold


def _at(iron: Iron, frame: int, plan: ForgingPlan, now: float) -> Iron:
    return replace(iron, frame=frame, phase="wait" if _hot(plan, frame) else "do", since=now)


def _kept(run: Forging, iron: Iron, now: float) -> Forging:
    return replace(run, open=(*run.open[: run.active], iron, *run.open[run.active + 1 :]), last=now)


def _through(run: Forging, plan: ForgingPlan, now: float) -> Forging:
    """The piece in hand is finished or given up; the next of the batch is begun."""
    iron = run.open[run.active]
    run = replace(run, heats=run.heats + iron.heats)
    begun = max(i.number for i in run.open)
    if begun < run.wanted:
        return _arranged(_kept(run, _at(Iron(number=begun + 1), 0, plan, now), now), plan, now)
    return _arranged(_kept(run, replace(iron, phase="done", since=now), now), plan, now)


def _arranged(run: Forging, plan: ForgingPlan, now: float) -> Forging:
    """Fill the fire, and take the iron in hand that is to be worked next."""
    rows = list(run.open)
    waiting = sorted((i for i, iron in enumerate(rows) if iron.phase == "wait"), key=lambda i: (rows[i].frame, rows[i].number)
                     if run.rhythm == "stage" else (-rows[i].frame, rows[i].number))  # fmt: skip
    room = run.irons - sum(iron.phase in ("fire", "anvil") for iron in rows)
    for i in waiting[: max(room, 0)]:
        rows[i] = replace(rows[i], phase="fire", since=now)
    run = replace(run, open=tuple(rows))

    def turn(i: int) -> tuple[float, ...]:
        iron = rows[i]
        if iron.phase == "done":
            return (3.0, 0.0, 0.0)
        if iron.phase == "wait":
            return (2.0, float(iron.frame), float(iron.number))
        # In the fire the one that is hot first; cold work fills the time until it is.
        ready = iron.since + fire_seconds(plan, iron.frame) if iron.phase == "fire" else iron.since
        if run.rhythm == "stage":  # nobody runs ahead, the fire is waited for
            return (0.0, float(iron.frame), ready)
        return (1.0 if iron.phase == "fire" and ready > now else 0.0, ready, float(iron.number))

    return replace(run, active=min(range(len(rows)), key=turn))
