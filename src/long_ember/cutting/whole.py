"""Whole numbers of bars by given patterns: an integer programme in a process of its own, because its time limits overrun and it must be stoppable."""

from __future__ import annotations

import contextlib
import json
import select
import subprocess
import sys
from typing import Any

import numpy as np

from long_ember.cutting.master import CountBox, highs
from long_ember.cutting.problem import Bar, Problem

__all__ = ["Helper", "main", "solve"]


def solve(asked: dict[str, Any]) -> dict[str, Any]:
    """Solve the programme: `costs` and `columns` (rows and values of each), bounds of the rows, and no more money than `below`.

    Returns:
        `status`: optimal, none (there is no such plan) or stopped; `values` by column where there is a plan.
    """
    import highspy

    model = highs()
    model.setOptionValue("presolve", "choose")
    model.setOptionValue("solver", "choose")
    model.setOptionValue("mip_rel_gap", 0.0)
    model.setOptionValue("mip_abs_gap", 0.5)
    model.setOptionValue("time_limit", float(asked["seconds"]))
    costs, most = asked["costs"], model.getInfinity()
    for low, high in (*asked["rows"], (None, asked["below"])):
        model.addRow(-most if low is None else low, most if high is None else high, 0, np.zeros(0, dtype=np.int32), np.zeros(0))
    last = len(asked["rows"])
    for cost, (rows, values) in zip(costs, asked["columns"], strict=True):
        index = np.array([*rows, last], dtype=np.int32)
        model.addCol(float(cost), 0.0, most, len(index), index, np.array([*values, cost], dtype=float))
    number = len(costs)
    model.changeColsIntegrality(number, np.arange(number, dtype=np.int32), np.full(number, highspy.HighsVarType.kInteger))
    model.run()
    status = model.getModelStatus()
    if status == highspy.HighsModelStatus.kInfeasible:
        return {"status": "none", "values": []}
    info, solution = model.getInfo(), model.getSolution()
    there = info.primal_solution_status == int(highspy.SolutionStatus.kSolutionStatusFeasible)
    values = [round(x) for x in solution.col_value] if there else []
    return {"status": "optimal" if status == highspy.HighsModelStatus.kOptimal else "stopped", "values": values}


class Helper:
    """A process that solves one programme after the other, and is stopped when nobody waits for it any more."""

    def __init__(self) -> None:
        self._process: subprocess.Popen[str] | None = None
        self._asked: list[Bar] = []

    def start(self) -> None:
        """Have it ready: it takes a few tenths of a second to load."""
        if self._process is None:
            self._process = subprocess.Popen(
                [sys.executable, "-P", "-m", __name__], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
            )

    def ask(self, problem: Problem, bars: list[Bar], box: CountBox, below: int, seconds: float) -> None:
        """Have the cheapest plan looked for.

        Args:
            problem: pieces and bars.
            bars: patterns that it may use.
            box: bars of each supply.
            below: thousandths that the plan may cost at most.
            seconds: after which it gives up.
        """
        self.start()
        self._asked = bars
        pieces = len(problem.demands)
        columns = [[[*(i for i, n in enumerate(b.counts) if n), pieces + b.supply], [*(n for n in b.counts if n), 1]] for b in bars]
        asked = {
            "costs": [problem.cost(b.supply, problem.used(b)) for b in bars], "columns": columns, "below": below, "seconds": seconds,
            "rows": [*((d, None) for d in problem.demands), *zip(box.low, box.high, strict=True)],
        }  # fmt: skip
        assert self._process is not None and self._process.stdin is not None
        with contextlib.suppress(OSError):  # it died: there will be no answer
            print(json.dumps(asked), file=self._process.stdin, flush=True)

    def ready(self, seconds: float) -> bool:
        """It has an answer, after waiting so long at most."""
        assert self._process is not None and self._process.stdout is not None
        return bool(select.select([self._process.stdout], [], [], seconds)[0])

    def found(self) -> tuple[list[Bar] | None, bool]:
        """The plan, None where there is none, and whether the search came to its end."""
        assert self._process is not None and self._process.stdout is not None
        text = self._process.stdout.readline()
        if not text:
            self.stop()
            return None, False
        answer = json.loads(text)
        bars = [b for b, n in zip(self._asked, answer["values"], strict=False) for _ in range(n)]
        return bars or None, answer["status"] != "stopped"

    def stop(self) -> None:
        """Leave it."""
        if self._process is not None:
            self._process.kill()
            for pipe in (self._process.stdin, self._process.stdout):
                if pipe is not None:
                    with contextlib.suppress(OSError):
                        pipe.close()
            self._process.wait()
            self._process = None


def main() -> None:
    """Answer programmes, one a line."""
    highs()
    for line in sys.stdin:
        print(json.dumps(solve(json.loads(line))), flush=True)


if __name__ == "__main__":
    main()
