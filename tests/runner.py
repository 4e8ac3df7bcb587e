"""Runs the checks of the source and every test, or those named, and closes with
`N passed, N failed, N skipped`; a check that fails counts as failed.

They are shared out, module by module, to one process more than there are cores, for many a test
waits; at most to five. What takes long is begun first.
"""

import argparse
import faulthandler
import gc
import io
import multiprocessing
import os
import subprocess
import sys
import time
import unittest
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor, ThreadPoolExecutor, as_completed
from concurrent.futures.process import BrokenProcessPool
from pathlib import Path

from tests import ROOT

# Modules that take long: begun first, so that none is left for the end.
LONG = (
    "tests.rules.test_truths", "tests.rules.test_rules", "tests.test_cli", "tests.test_terminal",
    "tests.rules.test_engine", "tests.desktop.test_harness_table",
    "tests.queries.test_query_engine", "tests.ports.test_placement",
    "tests.stand_in.test_simulated_machine", "tests.test_fuzz",
    "tests.desktop.test_documents_kept", "tests.desktop.test_size", "tests.desktop.test_bench_live",
    "tests.rules.test_limits", "tests.ports.test_fit_agrees", "tests.desktop.test_monkey",
    "tests.exports.test_harness_files", "tests.desktop.test_window", "tests.edits.test_history",
    "tests.leads.test_finder", "tests.test_api", "tests.supply.test_feeding",
    "tests.supply.test_supply",
)  # fmt: skip
MOST_PROCESSES = 5
CHECKS = {
    "format": ("ruff", "format", "--check", "--quiet", "."),
    "lint": ("ruff", "check", "--quiet", "."),
    "types": ("mypy", "--no-error-summary"),
    "imports": ("lint-imports", "--no-logo"),
}
# Machines and the answers about them stay in memory from test to test. Looked through for garbage
# as often as Python does by itself, they take a fifth of the time.
GARBAGE_AFTER = (50_000, 20, 100)
# The byte that freed memory is filled with (glibc, mallopt(3) M_PERTURB): what is used after it is
# gone breaks off in every run, and not once in many.
FREED = "165"


class CountingResult(unittest.TextTestResult):
    """Counts what passed, and keeps how long each test took."""

    def __init__(self, *arguments, **keywords):
        super().__init__(*arguments, **keywords)
        self.passed = 0
        self.times: list[tuple[float, str]] = []
        self._started = 0.0

    def startTest(self, test):  # noqa: N802
        super().startTest(test)
        self._started = time.perf_counter()

    def stopTest(self, test):  # noqa: N802
        super().stopTest(test)
        self.times.append((time.perf_counter() - self._started, test.id()))

    def addSuccess(self, test):  # noqa: N802
        super().addSuccess(test)
        self.passed += 1


# What was printed, the counts, and how long each test took.
Outcome = tuple[str, Counter, list[tuple[float, str]]]


def run_named(name: str) -> Outcome:
    """Runs the tests of one name: what was printed, the counts, and how long each took."""
    gc.set_threshold(*GARBAGE_AFTER)
    suite = unittest.defaultTestLoader.loadTestsFromName(name)
    stream = io.StringIO()
    runner = unittest.TextTestRunner(resultclass=CountingResult, verbosity=0, stream=stream)
    result = runner.run(suite)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    counts = Counter(passed=result.passed, failed=failed, skipped=len(result.skipped))
    return stream.getvalue() if failed else "", counts, result.times


def run_all(names: list[str], processes: int) -> Iterator[Outcome]:
    """Runs the tests of all names, shared out to processes. Where one of these breaks off, what it
    was at fails, with what Python was doing on standard error, and the others go on.
    """
    waiting = list(names)
    while waiting:
        with ProcessPoolExecutor(
            processes, multiprocessing.get_context("spawn"), initializer=faulthandler.enable
        ) as pool:
            futures = {pool.submit(run_named, name): name for name in waiting}
            try:
                for future in as_completed(futures):
                    outcome = future.result()
                    waiting.remove(futures[future])
                    yield outcome
                return
            except BrokenProcessPool:
                # They are begun in their order; the first that are left were under way.
                lost, waiting = waiting[:processes], waiting[processes:]
        words = f"FAIL: a process broke off while it was at one of {', '.join(lost)}\n"
        yield words, Counter(failed=len(lost)), []


def run_checks() -> list[str]:
    """What each check of the source that failed has printed."""
    failed = []
    for name, (tool, *arguments) in CHECKS.items():
        command = [Path(sys.executable).with_name(tool), *arguments]
        done = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=False)
        if done.returncode:
            failed.append(f"FAIL: {name}\n{done.stdout}{done.stderr}")
    return failed


def all_modules() -> list[str]:
    """The dotted names of every test module, those that take long first."""
    files = sorted((ROOT / "tests").rglob("test_*.py"))
    names = [".".join(file.relative_to(ROOT).with_suffix("").parts) for file in files]
    return sorted(names, key=lambda name: LONG.index(name) if name in LONG else len(LONG))


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--slowest", type=int, default=3, help="how many of the slowest to name")
    parser.add_argument("names", nargs="*", help="dotted test names; all where left out")
    options = parser.parse_args()
    names = options.names or all_modules()
    os.environ.setdefault("MALLOC_PERTURB_", FREED)
    processes = min(MOST_PROCESSES, (os.cpu_count() or 1) + 1, len(names))
    total: Counter = Counter()
    times: list[tuple[float, str]] = []
    with ThreadPoolExecutor(1) as beside:
        checks = beside.submit(run_checks)
        for said, counts, took in run_all(names, processes):
            print(said or ".", end="", flush=True)
            total.update(counts)
            times += took
        for said in checks.result():
            print(f"\n{said}", end="")
            total["failed"] += 1
    slowest = sorted(times, reverse=True)[: options.slowest]
    print("\nSlowest: " + ", ".join(f"{n.split('.', 2)[-1]} {s:.1f} s" for s, n in slowest))
    print(
        f"{total['passed']} passed, {total['failed']} failed, {total['skipped']} skipped",
        flush=True,
    )
    return 1 if total["failed"] or not total["passed"] else 0


if __name__ == "__main__":
    sys.path.insert(0, str(Path(ROOT)))
    sys.exit(main())
