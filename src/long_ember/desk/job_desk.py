"""The jobs on the bench: their cut list, the search for a cheaper one in its thread, and every change as a deed of the book."""

from __future__ import annotations

import time
from collections.abc import Callable, Generator, Iterable, Mapping
from contextlib import suppress
from functools import partial

from long_ember.desk.book_actions import BookActions
from long_ember.desk.turns import Portions
from long_ember.desk.worker import Worker
from long_ember.errors import EmberError, NoAnswer, fault_words
from long_ember.jobs.cut_layout import finished, moved_words, verified
from long_ember.jobs.plan import JobPlan, better_plans, plan_jobs
from long_ember.jobs.quoting import value_of
from long_ember.records import Job, Record, SavedBar, SavedCutList
from long_ember.signals import Signal
from long_ember.storage import new_id
from long_ember.storage.holdings import gathering, job_plan, sheets_of
from long_ember.units import many

__all__ = ["JobDesk"]

_SECONDS = 6.0  # for each section
_AT_ONCE = 60  # portions: a job of a few pieces is there when its key comes up


def _search(plan: JobPlan, worker: Worker) -> None:
    """Hand on every cheaper plan until the time is up."""
    end, last = time.monotonic() + _SECONDS * max(1, len(plan.found)), plan
    for better in better_plans(plan):
        worker.step()
        if time.monotonic() > end:
            break
        if better is not last:
            last = better
            worker.tell(better)


class JobDesk:
    """Which jobs are looked at, and what follows from them.

    Attributes:
        changed: another plan, or none.
        instead: what is said where there is none: what is wrong, or what is done before it is there.
        searching: emits whether a cheaper plan is being looked for.
    """

    def __init__(self, work: BookActions) -> None:
        self.changed, self.searching = Signal(), Signal()
        self.work = work
        self.chosen: tuple[str, ...] = ()
        self.plan: JobPlan | None = None
        self.instead = ""
        self.cut_list_id = ""
        self._planning = Portions(work.session.loop, work.session.turns, "jobs")
        self._search: Worker | None = None
        self._leaving: list[Worker] = []  # sent away, not gone yet: one step may take some tenths of a second
        self._rests = False  # the search came to its end, or was sent away
        self._seen: object = None
        work.library.closing.connect(self._wait)

    @property
    def jobs(self) -> dict[str, Job]:
        """All jobs of the book that are no templates."""
        return {i: j for i, j in self.work.library.records(Job).items() if j.state != "template"}

    def choose(self, ids: Iterable[str]) -> None:
        """Look at these jobs together."""
        self.chosen, self._seen, self.instead = tuple(ids), None, ""
        self.renew()

    def renew(self) -> None:
        """What the book has now; a plan that is still true stays, and so does the search for a better one."""
        jobs = self.jobs
        self.chosen = tuple(i for i in self.chosen if i in jobs)
        self._planning.begin(self._in_parts({i: jobs[i] for i in self.chosen}), _AT_ONCE)
        if self._planning.busy and (self.plan is None or self.plan.jobs.keys() != set(self.chosen)):
            self._put("", None, instead=self.instead or "Reading the pieces…")

    def _in_parts(self, mine: Mapping[str, Job]) -> Generator[None, None, None]:
        library, session = self.work.library, self.work.session
        try:
            holdings = yield from gathering(
                library.reader(), session.shop, mine, read=library.piece, log=session.log, records=library.records
            )
            now = mine, holdings, sheets_of(library.records, mine)
            if self._seen == now:
                if not self.looking and not self._rests:  # nobody looked at the screen for a while
                    self._look()
                return
            for number, piece_id in enumerate(holdings.pieces, 1):
                self._wait_for(number, len(holdings.pieces))
                with suppress(EmberError):  # told where its length is wanted
                    yield from holdings.answering(piece_id)
            self.stop()
            self._rests, found = False, job_plan(*now) if mine else ("", None)
        except EmberError as error:
            self._put("", None, instead=str(error))
        except Exception as error:  # told by the window; nobody waits for what does not come
            self._put("", None, instead=fault_words(error))
            raise
        else:
            self._put(*found, seen=now)
            self._look()

    def _wait_for(self, number: int, whole: int) -> None:
        if self.plan is None:
            self.instead = f"Reckoning piece {number} of {whole}…"
            if self._planning.busy:
                self.changed.emit()

    def _put(self, cut_list_id: str, plan: JobPlan | None, *, seen: object = None, instead: str = "") -> None:
        self.stop()
        self.cut_list_id, self.plan, self._seen, self.instead = cut_list_id, plan, seen, instead
        self.changed.emit()

    # --- the search

    def _look(self) -> None:
        if self.plan is None or self.plan.own or self.plan.proven:
            return
        self._search = search = Worker(self.work.session.loop, partial(_search, self.plan))
        search.found.connect(partial(self._better, search))
        search.ended.connect(partial(self._ended, search))
        self.searching.emit(True)
        search.start()

    def _better(self, search: Worker, plan: JobPlan) -> None:
        if search is self._search:
            self.plan = plan
            self.changed.emit()

    def _ended(self, search: Worker, _nothing: object, error: Exception | None) -> None:
        if search is self._search:
            self.rest()
            if error is not None:
                words = str(error) if isinstance(error, EmberError) else fault_words(error)
                self.work.session.said.emit(f"No cheaper plan was looked for: {words}", True)
        self._gone(search)

    def _gone(self, search: Worker) -> None:
        search.join()
        if search in self._leaving:
            self._leaving.remove(search)

    def leave(self) -> None:
        """Nobody looks: nothing is planned and no search goes on."""
        self._planning.leave()
        self.stop()

    def _wait(self) -> None:
        """The book is put away: no thread is left behind."""
        self.leave()
        for search in list(self._leaving):
            self._gone(search)

    def rest(self) -> None:
        """It is good enough: the search is not taken up again."""
        self._rests = True
        self.stop()

    @property
    def looking(self) -> bool:
        """A cheaper plan is being looked for."""
        return self._search is not None

    def stop(self) -> None:
        """Leave the search; the best plan so far stands."""
        search, self._search = self._search, None
        if search is not None:
            search.leave()
            self._leaving.append(search)
            self.searching.emit(False)

    # --- deeds

    def keep(
        self, sheet: SavedCutList, title: str, told: str = "", more: Mapping[str, tuple[Record | None, Record | None]] | None = None
    ) -> bool:
        """The cut list as somebody wants it, in the book from now on; lists of only some of its jobs, which it takes the place of, go.

        Args:
            sheet: the cut list.
            title: of the deed.
            told: what is said about it.
            more: records that change with it: before and after, by id.
        """
        self.stop()
        plan = self.plan
        mine = self.cut_list_id if plan is not None and self.cut_list_id and plan.cut_list.state == "planned" else ""
        jobs = {r.job for r in sheet.jobs}
        others = {i: s for i, s in self.work.library.records(SavedCutList).items() if s.state == "planned" and i != mine
                  and not jobs.isdisjoint(r.job for r in s.jobs)}  # fmt: skip
        begun = next((s for s in others.values() if any(b.begun for b in s.bars)), None)
        if begun is not None:
            self.work.session.said.emit(
                f"Nothing changed. {begun.name} has a cut list of its own, and some of it is sawn: finish that one first.", True
            )
            return False
        changes: dict[str, tuple[Record | None, Record | None]] = {i: (s, None) for i, s in others.items()}
        changes[mine or new_id()] = (plan.cut_list if plan is not None and mine else None, sheet)
        return self.work.put_records(title, {**changes, **(more or {})}, told)

    def attempt(self, title: str, make: Callable[[SavedCutList], SavedCutList], *, cost: bool = False) -> bool:
        """Change the cut list; what can't be done is told in the message line, what a move costs as well."""
        self._planning.finish()  # the change before this one may still be planned: it would be lost
        plan = self.plan
        if plan is None:
            return False
        if plan.cut_list.state == "sawn":
            self.work.session.said.emit("Nothing changed. All of this is sawn; ask for more in the job, or begin another like it.", True)
            return False
        try:
            made = make(plan.cut_list)
        except NoAnswer as error:
            self.work.session.said.emit(f"Nothing changed. {error}", True)
            return False
        told = self.words(plan.cut_list, made) if cost else ""
        return made == plan.cut_list or self.keep(made, title, told)

    def words(self, before: SavedCutList, after: SavedCutList, lead: str = "Moved") -> str:
        """What a change costs."""
        plan = self.plan
        assert plan is not None
        changed = set(before.bars) ^ set(after.bars)
        section = next(((b.material, b.section) for b in changed), None)
        value = value_of(*section, plan.holdings) if section is not None else 0.0
        return moved_words(before, after, plan.rules, value, lead=lead).show(self.work.session.measure)

    def supplies(self) -> list[SavedBar]:
        """Empty bars that a blank could be moved to: what is left on the rack, and what is sold."""
        plan = self.plan
        if plan is None:
            return []
        used = [b.rack for b in plan.cut_list.bars if b.rack]
        lying = [SavedBar(material=r.material, section=r.section, rack=i, source=r.words, length=r.length)
                 for i, r in plan.holdings.rack.items() if plan.holdings.free(i) > used.count(i)]  # fmt: skip
        sold = [SavedBar(material=p.material, section=p.section, source=p.seller or "bought", length=p.length, price=p.price)
                for p in plan.holdings.prices if p.sold]  # fmt: skip
        priced = {(s.material, s.section) for s in sold}
        usual = [SavedBar(material=m, section=s, source="bought", length=plan.holdings.shop.bar_length)
                 for m, s in {(b.material, b.section) for b in plan.cut_list.bars} if (m, s) not in priced]  # fmt: skip
        return [*lying, *sold, *usual]

    def anew(self) -> None:
        """Plan again; bars that are locked or begun stay. Without any the cut list goes, and a fresh one is looked for."""
        self._planning.finish()
        plan = self.plan
        if plan is None or plan.cut_list.state == "sawn":
            return
        kept = tuple(b for b in plan.cut_list.bars if b.kept)
        try:
            fresh = plan_jobs(plan.jobs, plan.holdings, kept=kept)
        except NoAnswer as error:
            self.work.session.said.emit(f"Nothing changed. {error}", True)
            return
        if not kept and self.cut_list_id:
            self.work.put_records("Plan the cut list anew", {self.cut_list_id: (plan.cut_list, None)})
        elif kept:
            self.work.slow("Looking for cheaper cuts", "The cut list was not planned anew", partial(_best, fresh), self._anew)

    def _anew(self, plan: JobPlan) -> None:
        self.keep(plan.cut_list, "Plan the cut list anew")

    def finish(self) -> bool:
        """Everything is sawn: bars off the rack, remnants onto it, as one deed."""
        self._planning.finish()
        plan = self.plan
        if plan is None or plan.cut_list.state == "sawn" or not (plan.cut_list.bars or plan.sheet_cuts):
            return False
        try:
            if plan.stale:
                raise NoAnswer(f"The cut list is not what the jobs ask for any more: {'; '.join(plan.stale)}.", "Plan it anew first.")
            verified(plan.cut_list, plan.rules)
            sheet, rack = finished(plan.cut_list, plan.holdings.rack, plan.rules, iter(new_id, ""), plan.sheet_cuts)
        except EmberError as error:
            self.work.session.said.emit(f"Nothing changed. {error}", True)
            return False
        told = f"The rack is up to date: {many(sum(lay.keep for lay in plan.layouts), 'remnant')} went back to it. Ctrl+Z takes it back."
        return self.keep(sheet, "Saw the cut list", told, {i: (plan.holdings.rack.get(i), item) for i, item in rack.items()})


def _best(plan: JobPlan, step: Callable[[int, int], None]) -> JobPlan:
    """The best plan of a few seconds."""
    end = time.monotonic() + _SECONDS
    for better in better_plans(plan):
        step(0, 1)
        plan = better
        if time.monotonic() > end:
            break
    return plan
