"""Jobs with everything that follows from them: bars, sheets, needs, shopping list, prices."""

from __future__ import annotations

from collections import Counter
from collections.abc import Generator, Iterable, Mapping
from functools import cached_property

from long_ember.cutting import CutPlan, Rules, cutting, fit
from long_ember.frozen import dataclass
from long_ember.jobs.buying import Purchase, SheetCut, purchases, sheet_cuts
from long_ember.jobs.cut_layout import BarLayout, astray, bar_layouts, differences
from long_ember.jobs.needs import Need, needs
from long_ember.jobs.problems import Cutting, Holdings, counts_of, how_good, job_problems, loss_of, rules_of, sheet_of
from long_ember.jobs.quoting import PiecePrice, Quote, piece_prices, quote
from long_ember.records import Job, SavedBar, SavedCutList
from long_ember.sections import Section

__all__ = ["JobPlan", "better_plans", "plan_jobs"]


@dataclass(frozen=True)
class JobPlan:
    """Jobs that are cut together.

    Args:
        jobs: by id.
        holdings: what they draw on.
        cut_list: that they are cut by.
        sheet_cuts: their blanks on sheets.
        found: the plans behind the bars that are not kept, to be made better.
        own: the cut list is somebody's: changed by hand, locked or begun.
    """

    jobs: Mapping[str, Job]
    holdings: Holdings
    cut_list: SavedCutList
    sheet_cuts: tuple[SheetCut, ...]
    found: tuple[tuple[Cutting, CutPlan], ...]
    own: bool

    @property
    def rules(self) -> Rules:
        """How the shop cuts."""
        return rules_of(self.holdings.shop)

    @cached_property
    def layouts(self) -> tuple[BarLayout, ...]:
        """Every bar with its blanks where they lie."""
        return bar_layouts(self.cut_list, self.rules)

    @property
    def codes(self) -> tuple[tuple[str, ...], ...]:
        """A short name for every blank, by bar: a letter for the piece and a number, as on its label."""
        return self._lettered[0]

    @property
    def legends(self) -> dict[tuple[str, Section], tuple[str, ...]]:
        """Which letter is which piece, by material and section."""
        return self._lettered[1]

    @cached_property
    def _lettered(self) -> tuple[tuple[tuple[str, ...], ...], dict[tuple[str, Section], tuple[str, ...]]]:
        letters: dict[str, str] = {}
        numbers: Counter[str] = Counter()
        told: dict[tuple[str, Section], dict[str, None]] = {}
        found = []
        for bar in self.cut_list.bars:
            row, legend = [], told.setdefault((bar.material, bar.section), {})
            for cut in bar.cuts:
                letter = letters.get(cut.piece)
                if letter is None:
                    letter = letters[cut.piece] = _letters(len(letters))
                numbers[letter] += 1
                row.append(f"{letter}{numbers[letter]}")
                legend[f"{letter} {cut.name}"] = None
            found.append(tuple(row))
        return tuple(found), {key: tuple(legend) for key, legend in told.items()}

    @cached_property
    def stale(self) -> tuple[str, ...]:
        """Where the cut list no longer is what the jobs still ask for, or what the rack has for them."""
        if self.cut_list.state == "sawn":
            return ()
        wanted = {}
        for job_id, job in self.jobs.items():
            for piece_id, count in counts_of(job, self.holdings).items():
                piece = self.holdings.piece(piece_id)
                length = self.holdings.answer(piece_id).reckoning.cut - (loss_of(piece) or 0.0)
                wanted[piece_id, job_id] = (piece.name, length, max(0, count.begun - self.holdings.done[piece_id, job_id]))
        long = tuple(f"bar {i}: its pieces no longer fit" for i, lay in enumerate(self.layouts, 1) if lay.over)
        return (*differences(self.cut_list, wanted), *astray(self.cut_list, {i: self.holdings.free(i) for i in self.holdings.rack}), *long)

    @cached_property
    def needs(self) -> dict[str, tuple[Need, ...]]:
        """What every job needs besides its bars."""
        return {i: needs(job, self.holdings) for i, job in self.jobs.items()}

    @cached_property
    def purchases(self) -> tuple[Purchase, ...]:
        """The shopping list."""
        return purchases(self.jobs, self.holdings, self.cut_list, self.sheet_cuts)

    @property
    def ready(self) -> tuple[Need, ...]:
        """What to have at hand and need not be bought: strips, mandrels, jigs, tools that the kit has not."""
        found = {(n.kind, n.name): n for needs in self.needs.values() for n in needs if (n.once or n.kind == "other") and not n.to_buy}
        return tuple(found.values())

    def quote(self, job_id: str, *, rise: float = 0.0) -> Quote:
        """One of the jobs in money."""
        return quote(job_id, self.jobs[job_id], self.holdings, self.cut_list, rise=rise)

    def prices(self, job_id: str, *, rise: float = 0.0) -> tuple[PiecePrice, ...]:
        """What one of every piece is sold at."""
        return piece_prices(self.jobs[job_id], self.holdings, rise=rise)

    def goodness(self, material: str, section: Section) -> str:
        """How far a cheaper plan could go for one section, in words; "" where the bars are somebody's own."""
        plan = next((p for c, p in self.found if c.key == (material, section)), None)
        return how_good(plan) if plan is not None and not self.own else ""

    @property
    def proven(self) -> bool:
        """No cheaper plan exists for any section."""
        return all(plan.proven for _c, plan in self.found)


def _letters(number: int) -> str:
    """A, B … Z, AA, AB …; the letters that look like figures are left out."""
    alphabet = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    text = ""
    number += 1
    while number:
        number, at = divmod(number - 1, len(alphabet))
        text = alphabet[at] + text
    return text


def plan_jobs(jobs: Mapping[str, Job], holdings: Holdings, *, own: SavedCutList | None = None, kept: Iterable[SavedBar] = ()) -> JobPlan:
    """A usable plan at once.

    Args:
        jobs: by id.
        holdings: what they draw on.
        own: a cut list of theirs that stands; None: one is made.
        kept: bars that stay as they are in a new one.

    Raises:
        NoAnswer: something a job asks for is not there, or does not fit.
    """
    sheets = sheet_cuts(jobs, holdings)
    if own is not None:
        return JobPlan(jobs, holdings, own, sheets, (), True)
    kept = tuple(kept)
    found = tuple((c, CutPlan(c.problem, fit(c.problem))) for c in job_problems(jobs, holdings, kept=kept))
    return JobPlan(jobs, holdings, sheet_of(jobs, found, kept=kept), sheets, found, False)


def better_plans(plan: JobPlan) -> Generator[JobPlan, None, None]:
    """Better and better plans, section after section; whoever stops asking has left it. Yields the same plan again while nothing changed."""
    kept = tuple(b for b in plan.cut_list.bars if b.kept)
    for i, (part, _first) in enumerate(plan.found):
        last: CutPlan | None = None
        for better in cutting(part.problem):
            if better is not last:
                last = better
                found = (*plan.found[:i], (part, better), *plan.found[i + 1 :])
                sheet = plan.cut_list if better.bars == plan.found[i][1].bars else sheet_of(plan.jobs, found, kept=kept)
                plan = JobPlan(plan.jobs, plan.holdings, sheet, plan.sheet_cuts, found, False)
            yield plan
