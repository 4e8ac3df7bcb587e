"""How long placement takes at 60 plugs and 120 ports against a bare call of the solver on the same
model, and that the same task gives the same answer.

Run: PYTHONPATH=src:. .venv/bin/python benchmarks/placement.py
"""

import random
import sys
import time

import scipy.optimize

from vervain.ports.placement_solver import Assignment, Edge, solve


def a_large_task(plugs: int, sockets: int, seed: int) -> Assignment:
    """Plugs that fit a quarter of the sockets each, in groups of two, with banks of eight."""
    chance = random.Random(seed)
    edges = []
    for plug in range(plugs):
        for socket in range(sockets):
            if chance.random() < 0.25:
                switch = (f"J{socket // 8}", chance.choice(("NPN", "PNP")))
                edges.append(
                    Edge(plug, socket, chance.randint(0, 40), switch if socket % 3 == 0 else None)
                )
    return Assignment(
        plugs=plugs,
        classes=tuple("ab"[socket % 2] for socket in range(sockets)),
        edges=tuple(edges),
        groups=tuple((plug, plug + 1) for plug in range(0, plugs, 10)),
        switches=tuple((f"J{bank}", "NPN", 15) for bank in range(sockets // 8)),
    )


def main() -> int:
    task = a_large_task(60, 120, 1)
    first = solve(task)
    own, spent = scipy.optimize.milp, []

    def timed(*arguments: object, **named: object) -> object:
        start = time.perf_counter()
        found = own(*arguments, **named)
        spent.append(time.perf_counter() - start)
        return found

    scipy.optimize.milp = timed
    start = time.perf_counter()
    again = solve(task)
    whole = time.perf_counter() - start
    print(f"{len(task.edges)} edges: {whole / spent[0]:.2f} x a bare call of the solver")
    print(f"left out {len(first.left_out)}, same answer again: {first == again}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
