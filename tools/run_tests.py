"""All tests in two processes: each takes the next module when it is done with one, the slowest of the last run first."""

from __future__ import annotations

import faulthandler
import gc
import io
import json
import os
import subprocess
import sys
import threading
import time
import unittest
from pathlib import Path
from typing import Any

ROOT = Path(__file__).resolve().parent.parent
TIMES = ROOT / ".venv" / "test-times.json"
PROCESSES = 2
_STUCK = 240.0  # s; no module takes a tenth of it


def worker() -> None:
    """Run the modules that are named on standard input, one a line; tell each one's outcome on a line."""
    out, sys.stdout = sys.stdout, sys.stderr
    gc.set_threshold(500_000, 20, 20)  # as in the application
    for line in sys.stdin:
        began = time.monotonic()
        faulthandler.dump_traceback_later(_STUCK, exit=True)  # what hangs is told with where it hung
        tests = unittest.defaultTestLoader.loadTestsFromName(line.strip())
        gc.collect()
        gc.freeze()
        result = unittest.TextTestRunner(verbosity=0, stream=io.StringIO()).run(tests)
        bad = [(str(test), text) for test, text in (*result.failures, *result.errors)]
        bad += [(str(test), "It was expected to fail and did not.") for test in result.unexpectedSuccesses]
        told = {
            "run": result.testsRun,
            "bad": bad,
            "skipped": [f"{test}: {why}" for test, why in result.skipped],
            "seconds": time.monotonic() - began,
        }
        faulthandler.cancel_dump_traceback_later()
        print(json.dumps(told), file=out, flush=True)


def main() -> int:
    """Run everything; returns 0 when all passed."""
    known: dict[str, float] = json.loads(TIMES.read_text()) if TIMES.exists() else {}
    sizes = {f"tests.{p.stem}": p.stat().st_size * (2 if "window" in p.stem else 1) for p in (ROOT / "tests").glob("test_*.py")}
    waiting = sorted(
        sizes, key=lambda name: (name not in known, known.get(name, sizes[name]))
    )  # what is new first; a window costs more than its lines
    lock, began, seconds = threading.Lock(), time.monotonic(), dict[str, float]()
    passed, failed, skipped = 0, 0, list[str]()

    def attend() -> None:
        nonlocal passed, failed
        command = [sys.executable, "-W", "error", __file__, "worker"]
        # As the application runs: matrices on one core, and what is compiled is kept for the commands that tests start.
        alone = {**os.environ, "OPENBLAS_NUM_THREADS": "1", "PYTHONDONTWRITEBYTECODE": ""}
        with subprocess.Popen(command, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, cwd=ROOT, env=alone) as process:
            assert process.stdin is not None and process.stdout is not None
            while True:
                with lock:
                    if not waiting:
                        break
                    name = waiting.pop()
                print(name, file=process.stdin, flush=True)
                line = process.stdout.readline()
                told: dict[str, Any] = (
                    json.loads(line) if line else {"run": 1, "bad": [(name, "The process died.")], "skipped": [], "seconds": 0.0}
                )
                with lock:
                    seconds[name] = told["seconds"]
                    failed += len(told["bad"])
                    passed += told["run"] - len(told["bad"]) - len(told["skipped"])
                    skipped.extend(told["skipped"])
                    print(f"{name:34} {told['run']:4} tests {told['seconds']:6.1f} s{'   FAILED' if told['bad'] else ''}", flush=True)
                    for test, text in told["bad"]:
                        print(f"{'=' * 70}\n{test}\n{'-' * 70}\n{text}", flush=True)
                if not line:
                    break
            process.stdin.close()

    threads = [threading.Thread(target=attend) for _ in range(PROCESSES)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    TIMES.write_text(json.dumps({**known, **seconds}))
    for words in skipped:
        print(f"skipped: {words}")
    if waiting:
        failed += len(waiting)
        print(f"not run, since their process died: {', '.join(waiting)}")
    print(f"{time.monotonic() - began:.0f} s\n{passed} passed, {failed} failed, {len(skipped)} skipped")
    return 0 if passed and not failed else 1


if __name__ == "__main__":
    sys.path.insert(0, str(ROOT))
    if sys.argv[1:] == ["worker"]:
        worker()
    else:
        sys.exit(main())
