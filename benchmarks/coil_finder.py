"""What the coil finder makes of random motors, sound and broken; and how long one decision takes.

Run: PYTHONPATH=src:. .venv/bin/python benchmarks/coil_finder.py [motors a row] [seed]
"""

import random
import sys
import time
from collections import Counter
from statistics import mean

from tests.leads.bench_motors import FAULTS, KINDS, BenchMotor, motor
from vervain.leads.datasheet import Datasheet
from vervain.leads.identification import find
from vervain.model.measurements import Meter

SHARES = {"sound": 150, "open": 54, "bridged": 53, "ends touch": 22, "body": 21}


def row(count: int, noise: float, is_told: bool, seed: int) -> None:
    """One row of the table: motors with a noise, the meter's error told or not."""
    chance = random.Random(seed)
    meter = Meter(error_fraction=noise if is_told else Meter().error_fraction)
    sound, broken, silent = Counter[str](), Counter[str](), Counter[str]()
    readings: list[int] = []
    per_kind: dict[str, list[int]] = {}
    for fault in FAULTS:
        for _ in range(round(SHARES[fault] * count / 300)):
            leads, kind = chance.choice(KINDS)
            made = motor(leads, kind, fault, noise, chance)
            found, read = made.follow(meter)
            if fault == "sound":
                right = "right" if made.is_told_right(found) and not found.to_body else "wrong"
                undecided = found.verdict is None and found.fault is None
                sound["undecided" if undecided else right] += 1
                readings.append(len(read))
                per_kind.setdefault(kind, []).append(len(read))
            else:
                said = outcome(made, found, meter)
                broken[said] += 1
                if said in ("undecided", "CALLED SOUND"):
                    silent[f"{said}: {kind}, {fault}"] += 1
    told = "told" if is_told else "not told"
    print(f"noise {noise:.0%}, error {told}: sound {dict(sound)}, readings {mean(readings):.2f} "
          f"mean, {max(readings)} worst; broken {dict(broken)}")  # fmt: skip
    for words, number in sorted(silent.items()):
        print(f"    {number} {words}")
    for kind, counts in sorted(per_kind.items()):
        print(f"    {kind}: {mean(counts):.2f} mean, {max(counts)} worst")


def outcome(made: BenchMotor, found, meter: Meter) -> str:  # type: ignore[no-untyped-def]
    """What was said of a broken motor."""
    if found.to_body or found.fault is not None:
        return "named"
    if found.verdict is not None and found.verdict.kind != made.kind:
        return "another kind, said"
    if found.verdict is not None:
        tells = made.fault == "body" or made.can_be_told(meter)
        return "CALLED SOUND" if tells else "sound, as a meter sees it"
    return "undecided"


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 300
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    for noise, is_told in ((0.01, True), (0.05, True), (0.10, True), (0.05, False), (0.10, False)):
        row(count, noise, is_told, seed)
    made = motor(8, "four windings", "sound", 0.0, random.Random(seed))
    start = time.perf_counter()
    _, read = made.follow(Meter())
    each = (time.perf_counter() - start) / (len(read) + 1)
    start = time.perf_counter()
    find(made.leads, tuple(read), Datasheet(kind="four windings"), Meter())
    last = time.perf_counter() - start
    print(f"one decision for 8 leads: {each * 1000:.0f} ms in the mean of {len(read)} readings, "
          f"{last * 1000:.0f} ms at the last, in a worker")  # fmt: skip
    return 0


if __name__ == "__main__":
    sys.exit(main())
