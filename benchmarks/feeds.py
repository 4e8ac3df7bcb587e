"""The feed network's solve against a bare sparse solve of the same matrix; prints ratios.

Run: PYTHONPATH=src:tools .venv/bin/python benchmarks/feeds.py
"""

import random
import time

import numpy as np
from scipy.sparse import csc_matrix
from scipy.sparse.linalg import spsolve

from large import large_machine
from vervain.edits.device_edits import set_setting
from vervain.electrical.network import Load, Network, Resistance, VoltageSource, solve
from vervain.rules.engine import Engine


def tree(nodes: int, seed: int = 1) -> Network:
    """A random feed tree at 48 V whose loads, of every law, take about 10 A together."""
    chance = random.Random(seed)
    count = nodes - 1
    links = []
    for node in range(2, nodes):
        parent = max(1, int(node * chance.random() ** 0.5))
        links.append(
            Resistance(a=min(parent, node - 1), b=node, resistance_ohm=chance.uniform(1e-3, 2e-2))
        )
    current_a = 10 / (count / 3)
    loads = []
    for node in range(2, nodes, 3):
        law = chance.choice(("current", "resistive", "power"))
        value = {"current": current_a, "resistive": 48 / current_a, "power": 48 * current_a}[law]
        loads.append(Load(plus=node, minus=0, law=law, value=value, least_v=20))
    return Network(
        nodes=nodes, resistances=tuple(links), loads=tuple(loads),
        sources=(VoltageSource(minus=0, plus=1, voltage_v=48, resistance_ohm=0.02),),
    )  # fmt: skip


def bare_matrix(network: Network) -> tuple[csc_matrix, np.ndarray]:
    """The conductances and currents of the network without its loads, grounded at node 0."""
    rows, columns, values = [], [], []
    pairs = [(r.a, r.b, 1 / r.resistance_ohm) for r in network.resistances]
    pairs += [(s.minus, s.plus, 1 / s.resistance_ohm) for s in network.sources]
    for a, b, g in pairs:
        for row, column, value in ((a, a, g), (b, b, g), (a, b, -g), (b, a, -g)):
            if row and column:
                rows.append(row - 1)
                columns.append(column - 1)
                values.append(value)
    size = network.nodes - 1
    right = np.zeros(size)
    right[network.sources[0].plus - 1] = (
        network.sources[0].voltage_v / network.sources[0].resistance_ohm
    )
    return csc_matrix((values, (rows, columns)), shape=(size, size)), right


def median_s(act, times: int = 7) -> float:
    """The median time of a call."""
    taken = []
    for _ in range(times):
        start = time.perf_counter()
        act()
        taken.append(time.perf_counter() - start)
    return sorted(taken)[times // 2]


def main() -> None:
    before = 0.0
    for nodes in (100, 1000, 10_000):
        network = tree(nodes)
        matrix, right = bare_matrix(network)
        bare = median_s(lambda m=matrix, r=right: spsolve(m, r))
        whole = median_s(lambda n=network: solve(n))
        found = solve(network)
        growth = f", {whole / before:.1f} x the one before" if before else ""
        print(
            f"{nodes} nodes: {whole / bare:.1f} x a bare sparse solve{growth}; "
            f"{found.iterations} linear solves, residual {found.residual_a:.1e} A"
        )
        before = whole
    machine = large_machine(200)
    engine = Engine()
    start = time.perf_counter()
    engine.check(machine)
    full = time.perf_counter() - start
    edits = []
    for number in range(1, 8):
        changed = set_setting(machine, f"T{number}", "current_peak_a", 2.0 + number / 10)
        start = time.perf_counter()
        engine.check(changed)
        edits.append(time.perf_counter() - start)
    print(f"200 devices: an edit's re-check {sorted(edits)[3] / full:.3f} of a full one")


if __name__ == "__main__":
    main()
