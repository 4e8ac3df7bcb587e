"""How many readings the coil finder takes for each kind of motor, and how often it is wrong.

Run: PYTHONPATH=src:. .venv/bin/python benchmarks/coil_finder.py [motors of each kind and noise]
"""

import statistics
import sys
import time

from tests.leads.test_finder import KINDS, Bench, networks
from vervain.leads.datasheet import Datasheet
from vervain.leads.hypotheses import resistances
from vervain.leads.identification import find


def main() -> int:
    count_of_each = int(sys.argv[1]) if len(sys.argv) > 1 else 40
    for leads, kind in KINDS:
        every = networks(leads, kind)
        for noise in (0.01, 0.05, 0.10):
            readings, known, wrong, unsettled = [], [], 0, 0
            for seed in range(count_of_each):
                network = every[seed * 13 % len(every)]
                bench = Bench(network, leads, noise=noise, seed=seed)
                finding, until = bench.run(Datasheet(kind=kind), longest=45)
                readings.append(len(bench.readings))
                known.append(until)
                verdict = finding.verdict
                if verdict is None:
                    unsettled += 1
                elif resistances([verdict], leads)[0].tobytes() != bench.multiples.tobytes():
                    wrong += 1
            print(
                f"{kind}, noise {noise:.0%}: readings {statistics.mean(readings):.2f} mean, "
                f"{max(readings)} worst; coils known after {statistics.mean(known):.2f} mean, "
                f"{max(known)} worst; wrong {wrong}, undecided {unsettled} of {count_of_each}"
            )
    bench = Bench(networks(8, "four windings")[50], 8)
    start = time.perf_counter()
    for _ in range(10):
        find(bench.leads, (), Datasheet(kind="four windings"))
    frames = (time.perf_counter() - start) / 10 * 60
    print(f"one next-probe decision for 8 leads: {frames:.1f} frames of 16.7 ms, on a worker")
    return 0


if __name__ == "__main__":
    sys.exit(main())
