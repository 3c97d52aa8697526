"""Change one sign, comparison or number of the arithmetic at a time, and see whether the tests notice: `./ember mutate [many [seed]] [package…]`."""

from __future__ import annotations

import ast
import random
import shutil
import subprocess
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
SOURCE = ROOT / "src" / "long_ember"
# The tests that look at a package, those nearest to it first; the first that fails is enough.
TESTS = {
    "units": ("test_units", "test_sections", "test_words", "test_shown"),
    "sections": (
        "test_sections",
        "test_reference",
        "test_words",
        "test_choice",
        "test_features",
        "test_kinds",
        "test_turning",
        "test_shown",
    ),
    "fields": ("test_fields", "test_document", "test_exchange", "test_shown"),
    "features": (
        "test_words",
        "test_practice",
        "test_advice",
        "test_reference",
        "test_features",
        "test_kinds",
        "test_layout",
        "test_standing",
        "test_turning",
        "test_pieces",
        "test_shown",
    ),
    "geometry": (
        "test_geometry",
        "test_words",
        "test_views",
        "test_layout",
        "test_kinds",
        "test_turning",
        "test_standing",
        "test_drawings",
        "test_shown",
    ),
    "physics": ("test_practice", "test_advice", "test_words", "test_heats", "test_storyboard", "test_choice", "test_shown"),
    "stock": ("test_words", "test_reckoning", "test_trial", "test_reference", "test_choice", "test_standing", "test_pieces", "test_shown"),
    "heats": (
        "test_words",
        "test_practice",
        "test_advice",
        "test_heats",
        "test_planner",
        "test_storyboard",
        "test_standing",
        "test_pieces",
        "test_beliefs",
        "test_shown",
    ),
    "cutting": ("test_cutting", "test_words", "test_cut_parts", "test_jobs", "test_shown"),
    "records": ("test_shown", "test_words", "test_planner", "test_jobs", "test_assembly", "test_job_plans", "test_book", "test_beliefs"),
    "beliefs": ("test_beliefs", "test_words", "test_shown"),
    "learning": ("test_beliefs", "test_words", "test_planner", "test_heats", "test_job_plans", "test_shown"),
    "storage/keeper.py": ("test_safety", "test_book", "test_desk"),
    "desk/timeline.py": ("test_desk",),
    "document/steps.py": ("test_desk", "test_document"),
    "choosing": ("test_words", "test_choice", "test_shown"),
    "assemblies": ("test_words", "test_assembly", "test_job_plans", "test_shown"),
    "document": ("test_document", "test_layout", "test_words", "test_reckoning", "test_choice", "test_standing", "test_shown"),
    "shorthand": ("test_shorthand", "test_words"),
    "photos": ("test_photos",),
    "forging": ("test_forging", "test_shown"),
    "instruments": ("test_forging",),
    "jobs": ("test_words", "test_job_plans", "test_jobs", "test_shown"),
}
_SWAP: dict[type[ast.AST], type[ast.AST]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Lt: ast.GtE, ast.GtE: ast.Lt, ast.Gt: ast.LtE, ast.LtE: ast.Gt,
}  # fmt: skip
_SECONDS = 240.0
_PROCESSES = 2


@dataclass(frozen=True)
class Mutant:
    """One change: where, and what."""

    package: str
    path: Path
    number: int
    words: str


def _sites(tree: ast.AST) -> list[tuple[ast.AST, str]]:
    """Everything in a module's functions that can be changed, in order, with the words for it."""
    found: list[tuple[ast.AST, str]] = []
    for function in ast.walk(tree):
        if not isinstance(function, (ast.FunctionDef, ast.Lambda)):
            continue
        inside = function.body if isinstance(function.body, list) else [function.body]
        for node in (node for part in inside for node in ast.walk(part)):
            if isinstance(node, ast.BinOp) and type(node.op) in _SWAP and not _is_text(node):
                found.append((node, f"{type(node.op).__name__} at line {node.lineno}"))
            elif isinstance(node, ast.Compare) and type(node.ops[0]) in _SWAP:
                found.append((node, f"{type(node.ops[0]).__name__} at line {node.lineno}"))
            elif _is_figure(node):
                found.append((node, f"{ast.unparse(node)} at line {getattr(node, 'lineno', 0)}"))
    return list({id(node): (node, words) for node, words in found}.values())


def _is_figure(node: ast.AST) -> bool:
    """A number that says something: not 0 or 1, and no tolerance."""
    value = node.value if isinstance(node, ast.Constant) else None
    return isinstance(value, (int, float)) and not isinstance(value, bool) and abs(value) > 1e-4 and abs(value) != 1


def _is_text(node: ast.BinOp) -> bool:
    return any(
        isinstance(side, (ast.JoinedStr, ast.Tuple)) or (isinstance(side, ast.Constant) and isinstance(side.value, str))
        for side in (node.left, node.right)
    )


def _changed(source: str, number: int) -> str:
    """The module with one place changed."""
    tree = ast.parse(source)
    node = _sites(tree)[number][0]
    if isinstance(node, ast.BinOp):
        node.op = _SWAP[type(node.op)]()  # type: ignore[assignment]
    elif isinstance(node, ast.Compare):
        node.ops[0] = _SWAP[type(node.ops[0])]()  # type: ignore[call-overload]
    elif isinstance(node, ast.Constant):
        node.value = node.value * 2 + 1 if isinstance(node.value, int) else node.value * 1.3  # type: ignore[operator]
    return ast.unparse(tree)


def _noticed(mutant: Mutant, base: Path) -> bool:
    """Whether a test fails; in a copy of the sources of its own."""
    with tempfile.TemporaryDirectory() as folder:
        copy = Path(folder) / "src"
        shutil.copytree(base, copy)
        path = copy / "long_ember" / mutant.path.relative_to(SOURCE)
        path.write_text(_changed(path.read_text(encoding="utf-8"), mutant.number), encoding="utf-8")
        names = [f"tests.{name}" for name in (*TESTS[mutant.package], "test_docs") if (ROOT / "tests" / f"{name}.py").exists()]
        command = [sys.executable, "-B", "-m", "unittest", "-f", *names]
        environment = {"PYTHONPATH": str(copy), "QT_QPA_PLATFORM": "offscreen", "PATH": "/usr/bin:/bin", "HOME": folder}
        try:
            return bool(subprocess.run(command, cwd=ROOT, env=environment, capture_output=True, timeout=_SECONDS, check=False).returncode)
        except subprocess.TimeoutExpired:
            return True  # it goes on for ever: noticed


def main(many: int, seed: int, packages: tuple[str, ...]) -> int:
    """Print how many of the changes are noticed, by package, and the ones that are not."""
    rng, mutants = random.Random(seed), list[Mutant]()
    for package in packages:
        places = [
            Mutant(package, path, i, words)
            for path in ([SOURCE / package] if package.endswith(".py") else sorted((SOURCE / package).rglob("*.py")))
            for i, (_node, words) in enumerate(_sites(ast.parse(path.read_text(encoding="utf-8"))))
        ]
        mutants += rng.sample(places, min(many, len(places)))
    outcome: dict[str, list[bool]] = defaultdict(list)
    with tempfile.TemporaryDirectory() as folder:
        base = Path(folder) / "src"
        shutil.copytree(SOURCE.parent, base, ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
        with ThreadPoolExecutor(_PROCESSES) as pool:
            for mutant, noticed in zip(mutants, pool.map(lambda m: _noticed(m, base), mutants), strict=True):
                outcome[mutant.package].append(noticed)
                if not noticed:
                    print(f"not noticed: {mutant.path.relative_to(SOURCE)}: {mutant.words}", flush=True)
    for package, seen in outcome.items():
        print(f"{package:12} {sum(seen):3} of {len(seen):3} noticed")
    total = [x for seen in outcome.values() for x in seen]
    print(f"{'all':12} {sum(total):3} of {len(total):3} noticed, {sum(total) / max(len(total), 1):.0%}")
    return 0


if __name__ == "__main__":
    given = sys.argv[1:]
    many, seed, *_more = [*(int(word) for word in given if word.isdigit()), *(8, 20)[sum(word.isdigit() for word in given) :]]
    sys.exit(main(many, seed, tuple(p for p in given if p in TESTS) or tuple(TESTS)))
