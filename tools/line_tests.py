"""Which tests execute which line of the core, and how long each takes; kept in a file for mutation
testing, which then asks the tests that can notice a fault, the quickest first.

    python tools/line_tests.py TO.json [--modules tests.rules.test_rules …]
"""

import argparse
import json
import multiprocessing
import sys
import tempfile
from collections import defaultdict
from pathlib import Path

import coverage

ROOT = Path(__file__).parent.parent
PROCESSES = 2


def run_traced(name: str, folder: str) -> list[tuple[float, str]]:
    """Runs the tests of a module, keeps what lines each executed, gives how long each took."""
    sys.path.insert(0, str(ROOT))
    traced = coverage.Coverage(
        data_file=str(Path(folder) / name), source=[str(ROOT / "src" / "vervain")],
        config_file=False,
    )  # fmt: skip
    traced.set_option("run:dynamic_context", "test_function")
    traced.start()
    from tests.runner import run_named

    _, _, took = run_named(name)
    traced.stop()
    traced.save()
    return took


def line_tests(modules: list[str]) -> dict[str, object]:
    """The tests at each line by file, and the seconds of each test."""
    at_line: dict[str, dict[str, list[str]]] = defaultdict(lambda: defaultdict(list))
    seconds: dict[str, float] = {}
    context = multiprocessing.get_context("spawn")
    with (
        tempfile.TemporaryDirectory() as folder,
        # A process each: what one test has found out and keeps would hide lines from the next.
        context.Pool(PROCESSES, maxtasksperchild=1) as pool,
    ):
        for took in pool.starmap(run_traced, [(name, folder) for name in modules], chunksize=1):
            seconds.update({test: s for s, test in took})
        for path in Path(folder).iterdir():
            data = coverage.CoverageData(str(path))
            data.read()
            for file in data.measured_files():
                short = str(Path(file).relative_to(ROOT / "src"))
                for line, tests in data.contexts_by_lineno(file).items():
                    at_line[short][str(line)] += [test for test in tests if test in seconds]
    return {"tests": at_line, "seconds": seconds}


def main() -> None:
    sys.path.insert(0, str(ROOT))
    from tests.runner import all_modules

    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("to", type=Path)
    parser.add_argument("--modules", nargs="*", default=all_modules())
    options = parser.parse_args()
    options.to.write_text(json.dumps(line_tests(options.modules)))


if __name__ == "__main__":
    main()
