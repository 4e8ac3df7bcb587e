"""Mutation testing, sampled: small faults are put into a copy of the code, one at a time, and the
nearest tests must notice each. Prints every fault that survived and the kill rate of each package.

    python tools/mutate.py [--packages harness supply …] [--count 20] [--seed 1] [--lines FILE]

FILE is what tools/line_tests.py has written: then the tests that execute the line are asked, of the
whole of tests/, the quickest first.
"""

import argparse
import ast
import copy
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).parent.parent
PACKAGES = (
    "bench", "cabling", "catalogue", "edits", "electrical", "files", "harness", "leads", "live",
    "model", "motion", "ports", "queries", "rules", "stand_in", "stops", "supply", "tables",
)  # fmt: skip
# Packages whose tests lie elsewhere as well: tables are read through the harness and the exports.
BESIDES = {
    "tables": ("harness", "exports", "stops"),
    "cabling": ("harness",),
    "queries": ("ports",),
}
# What reads the figures of every package; asked where the package's own tests saw nothing.
WIDER = ("tests.rules.test_rules", "tests.rules.test_one_answer", "tests.rules.test_demos")
LONGEST_S = 300
# So many seconds of tests are asked of one line, by what they took when they were mapped.
MOST_SECONDS = 90.0
COMPARISONS = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.In: ast.NotIn, ast.NotIn: ast.In,
}  # fmt: skip
OPERATORS = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
CALLS = {"min": "max", "max": "min", "any": "all", "all": "any"}


def faults_at(node: ast.AST) -> Iterator[tuple[str, ast.AST]]:
    """The faults that can be put in place of a node, each with its words."""
    other = copy.deepcopy(node)
    if isinstance(other, ast.Compare) and type(other.ops[0]) in COMPARISONS:
        other.ops[0] = COMPARISONS[type(other.ops[0])]()
        yield "comparison turned", other
    elif isinstance(other, ast.BoolOp):
        other.op = ast.And() if isinstance(other.op, ast.Or) else ast.Or()
        yield "and for or", other
    elif isinstance(other, ast.BinOp) and type(other.op) in OPERATORS:
        other.op = OPERATORS[type(other.op)]()
        yield "operator turned", other
    elif isinstance(other, ast.UnaryOp) and isinstance(other.op, ast.Not):
        yield "not left out", other.operand
    elif isinstance(other, ast.Constant) and type(other.value) in (int, float):
        other.value = other.value * 2 if other.value else 1
        yield "number doubled", other
    elif isinstance(other, ast.Call) and ast.unparse(other.func) in CALLS:
        other.func = ast.Name(CALLS[ast.unparse(other.func)], ast.Load())
        yield "min for max, any for all", other


class _Planter(ast.NodeTransformer):
    def __init__(self, place: int) -> None:
        self.place, self.number, self.words, self.line = place, -1, "", 0

    def visit(self, node: ast.AST) -> ast.AST:
        for words, fault in faults_at(node):
            self.number += 1
            if self.number == self.place:
                self.line = getattr(node, "lineno", 0)
                self.words = f"line {self.line}, {words}: {ast.unparse(fault)}"
                return ast.copy_location(fault, node)
        return super().generic_visit(node)


def places_of(path: Path) -> int:
    """How many faults a file has room for."""
    return sum(len(list(faults_at(node))) for node in ast.walk(ast.parse(path.read_text())))


def noticed(source: Path, tests: tuple[str, ...]) -> bool:
    """Whether any of the tests fails, or takes too long."""
    try:
        done = subprocess.run(
            [sys.executable, "-m", "unittest", "-f", *tests], cwd=ROOT, capture_output=True,
            timeout=LONGEST_S, env=os.environ | {"PYTHONPATH": str(source)},
        )  # fmt: skip
    except subprocess.TimeoutExpired:
        return True
    return done.returncode != 0


def nearest(package: str) -> tuple[str, ...]:
    """The test modules of a package, and of those that read it most."""
    return tuple(
        f"tests.{folder}.{path.stem}"
        for folder in (package, *BESIDES.get(package, ()))
        for path in sorted((ROOT / "tests" / folder).glob("test_*.py"))
    )


class LineTests:
    """Which tests execute which line, and how long each takes."""

    def __init__(self, path: Path) -> None:
        read = json.loads(path.read_text())
        self.at_line: dict[str, dict[str, list[str]]] = read["tests"]
        self.seconds: dict[str, float] = read["seconds"]
        self.sound: dict[str, bool] = {}

    def of(self, file: str, line: int) -> tuple[str, ...]:
        """The tests of a line, those of its own package first, then the quickest."""
        package = file.split("/")[1]
        tests = dict.fromkeys(self.at_line.get(file, {}).get(str(line), ()))
        order = sorted(tests, key=lambda t: (f"tests.{package}." not in t, self.seconds[t]))
        chosen, left_s = [], MOST_SECONDS
        for test in order:
            if self.seconds[test] <= left_s:
                chosen.append(test)
                left_s -= self.seconds[test]
        return tuple(chosen)

    def passing(self, source: Path, tests: tuple[str, ...]) -> tuple[str, ...]:
        """Those of some tests that pass without a fault: any other notices nothing."""
        unknown = tuple(test for test in tests if test not in self.sound)
        if unknown and not noticed(source, unknown):
            self.sound |= dict.fromkeys(unknown, True)
        for test in unknown:
            if test not in self.sound:
                self.sound[test] = not noticed(source, (test,))
        return tuple(test for test in tests if self.sound[test])


def try_package(
    source: Path, package: str, count: int, chance: random.Random, lines: LineTests | None
) -> Counter[str]:
    """Puts faults into one package; prints those that survive."""
    files = sorted((source / "vervain" / package).rglob("*.py"))
    spots = [(path, place) for path in files for place in range(places_of(path))]
    result: Counter[str] = Counter()
    for path, place in chance.sample(spots, min(count, len(spots))):
        sound = path.read_text()
        planter = _Planter(place)
        faulty = ast.unparse(planter.visit(ast.parse(sound)))
        tests = lines.of(str(path.relative_to(source)), planter.line) if lines else ()
        tests = lines.passing(source, tests) if lines else ()
        path.write_text(faulty)
        if tests:
            killed = noticed(source, tests)
        else:
            killed = noticed(source, nearest(package)) or noticed(source, WIDER)
        path.write_text(sound)
        result["killed" if killed else "survived"] += 1
        if not killed:
            print(f"survived: {path.relative_to(source)} {planter.words}", flush=True)
    return result


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--packages", nargs="+", choices=PACKAGES, default=PACKAGES)
    parser.add_argument("--count", type=int, default=20, help="faults a package")
    parser.add_argument("--seed", type=int, default=int(time.time()))
    parser.add_argument("--lines", type=Path, help="what tools/line_tests.py has written")
    options = parser.parse_args()
    lines = LineTests(options.lines) if options.lines else None
    print(f"seed {options.seed}")
    with tempfile.TemporaryDirectory() as folder:
        source = Path(folder) / "src"
        shutil.copytree(ROOT / "src", source, ignore=shutil.ignore_patterns("__pycache__"))
        for package in options.packages:
            if lines is None and noticed(source, nearest(package)):
                sys.exit(f"The tests of {package} fail without a fault.")
            chance = random.Random(options.seed)
            counts = try_package(source, package, options.count, chance, lines)
            tried = counts["killed"] + counts["survived"]
            rate = counts["killed"] / tried
            print(f"{package}: {counts['killed']} of {tried} noticed, {rate:.0%}", flush=True)


if __name__ == "__main__":
    main()
