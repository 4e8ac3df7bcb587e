"""Runs every test, or those named, and closes with `N passed, N failed, N skipped`."""

import argparse
import sys
import time
import unittest
from pathlib import Path

from tests import ROOT


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


def main() -> int:
    parser = argparse.ArgumentParser()
    parser.add_argument("--failed-checks", type=int, default=0)
    parser.add_argument("names", nargs="*", help="dotted test names; all where left out")
    options = parser.parse_args()
    loader = unittest.defaultTestLoader
    if options.names:
        suite = loader.loadTestsFromNames(options.names)
    else:
        suite = loader.discover(str(Path(__file__).parent), top_level_dir=str(ROOT))
    runner = unittest.TextTestRunner(resultclass=CountingResult, verbosity=1, stream=sys.stdout)
    result = runner.run(suite)
    slowest = sorted(result.times, reverse=True)[:3]
    print("Slowest: " + ", ".join(f"{name.split('.', 2)[-1]} {s:.1f} s" for s, name in slowest))
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
    failed += options.failed_checks
    print(f"{result.passed} passed, {failed} failed, {len(result.skipped)} skipped", flush=True)
    return 1 if failed or not result.passed else 0


if __name__ == "__main__":
    sys.exit(main())
