"""A direct-current network: voltages and currents of resistors, sources and loads.

Pure numbers, nothing of machines. Nodes are numbered from 0. Constant-power loads make it
non-linear: Newton's method from the voltages without them, which comes down onto the higher of the
two solutions; where that one does not exist, the powers are raised step by step, and the load that
gives way first is named and left out.
"""

from collections.abc import Iterator
from typing import Any, Literal

from vervain.model.base import Record

Law = Literal["current", "resistive", "power"]
Status = Literal["on", "off", "too low", "collapses", "no way back", "not fed"]

NEWTON_MOST = 40
CLOSE_V = 1e-9
# Across less than this no power is taken: it is what is left of rounding.
ZERO_VOLTAGE_V = 1e-6
# Continuation: the powers are raised in these parts before a load is said to collapse.
CONTINUATION_STEPS = 9
# Of so many loads that collapse one is left out before the rest is tried again.
MAX_COLLAPSED_PER_ROUND = 8


class Resistance(Record, frozen=True, kw_only=True, array_like=True):
    """A resistance from node `a` to node `b`."""

    a: int
    b: int
    resistance_ohm: float


class VoltageSource(Record, frozen=True, kw_only=True, array_like=True):
    """A source from node `minus` to node `plus` with its inner resistance."""

    minus: int
    plus: int
    voltage_v: float
    resistance_ohm: float


class Load(Record, frozen=True, kw_only=True, array_like=True):
    """What takes `value` (A, ohm or W by its law) from `plus` to `minus`, at `least_v` or more."""

    plus: int
    minus: int
    law: Law
    value: float
    least_v: float = 0.0


class Network(Record, frozen=True, kw_only=True):
    """How many nodes there are, and what lies between them."""

    nodes: int
    resistances: tuple[Resistance, ...]
    sources: tuple[VoltageSource, ...]
    loads: tuple[Load, ...]


class Solution(Record, frozen=True, kw_only=True):
    """What was found; everything in the order of the network.

    `volts` of a node is against the minus of the first source of its `island`, None where no source
    reaches it. Currents are positive from a to b, out of a source's plus, into a load's plus.
    `residual_a` is the largest sum of currents at any node, which Kirchhoff wants to be nothing.
    """

    voltage_v: tuple[float | None, ...]
    islands: tuple[int, ...]
    through_a: tuple[float, ...]
    given_a: tuple[float, ...]
    taken_a: tuple[float, ...]
    across_v: tuple[float | None, ...]
    status: tuple[Status, ...]
    iterations: int
    residual_a: float


def solve(network: Network) -> Solution:
    """Solves a network. Loads below their least voltage count as off; loads whose power no voltage
    can give are reported as collapsing. An island without a source has no voltages.
    """
    solver = _Solver(network)
    solver.run()
    return solver.solution()


class _Solver:
    """The arrays of one network, and which loads are on."""

    def __init__(self, network: Network) -> None:
        import numpy as np

        self.np: Any = np
        self.network = network
        self.iterations = 0
        self._arrays()
        self._lay(frozenset())
        floating = self._floating()
        if floating:
            self._lay(floating)

    def _lay(self, floating: frozenset[int]) -> None:
        """What is joined to what, with the loads that are on, and which node has which row;
        `floating` loads join nothing.
        """
        np, network = self.np, self.network
        wired = [(r.a, r.b) for r in network.resistances]
        wired += [(s.minus, s.plus) for s in network.sources]
        resistive = [
            (load.plus, load.minus)
            for number, load in enumerate(network.loads)
            if load.law == "resistive" and load.value > 0 and number not in floating
        ]
        # What is joined without any load, and what is joined at all.
        self.shores = self._islands(wired)
        self.islands = self._islands(wired + resistive)
        grounds: dict[int, int] = {}
        for source in network.sources:
            grounds.setdefault(int(self.islands[source.minus]), source.minus)
        self.grounds = grounds
        fed = np.isin(self.islands, list(grounds))
        free = fed.copy()
        free[list(grounds.values())] = False
        self.fed = fed
        # Where each free node stands in the matrix; -1 for grounds and for what is not fed.
        self.row = np.full(network.nodes, -1)
        self.row[free] = np.arange(int(free.sum()))
        self.size = int(free.sum())
        self.status: list[Status] = [
            "no way back" if number in floating else self._first_status(load)
            for number, load in enumerate(network.loads)
        ]

    def _islands(self, pairs: list[tuple[int, int]]) -> Any:
        """Which island each node belongs to, by what is joined."""
        from scipy.sparse import coo_matrix
        from scipy.sparse.csgraph import connected_components

        np, count = self.np, self.network.nodes
        ends = np.array(pairs, dtype=int).reshape(-1, 2)
        graph = coo_matrix((np.ones(len(ends)), (ends[:, 0], ends[:, 1])), shape=(count, count))
        return connected_components(graph, directed=False)[1]

    def _floating(self) -> frozenset[int]:
        """The resistive loads whose minus is joined to their source by other loads alone, and has
        no volts against their plus: they all hang on one end. In a string of loads there are some.
        """
        doubtful = [
            number
            for number, load in enumerate(self.network.loads)
            if self.status[number] == "on" and load.law == "resistive"
            and self.shores[load.plus] != self.shores[load.minus]
        ]  # fmt: skip
        if not doubtful:
            return frozenset()
        conductance, current = self._base()
        voltage_v = self._linear(conductance, 0.0 * current)
        return frozenset(
            number
            for number in doubtful
            if abs(voltage_v[self.l_a[number]] - voltage_v[self.l_b[number]]) < ZERO_VOLTAGE_V
        )

    def _first_status(self, load: Load) -> Status:
        plus, minus = self.islands[load.plus], self.islands[load.minus]
        if load.value <= 0:
            return "off"
        if int(plus) not in self.grounds and int(minus) not in self.grounds:
            return "not fed"
        if plus != minus:
            return "no way back" if int(plus) in self.grounds else "not fed"
        return "on"

    def _arrays(self) -> None:
        np, network = self.np, self.network
        self.r_a = np.array([r.a for r in network.resistances], dtype=int)
        self.r_b = np.array([r.b for r in network.resistances], dtype=int)
        self.r_g = np.array([1 / r.resistance_ohm for r in network.resistances])
        self.s_a = np.array([s.minus for s in network.sources], dtype=int)
        self.s_b = np.array([s.plus for s in network.sources], dtype=int)
        self.s_g = np.array([1 / s.resistance_ohm for s in network.sources])
        self.s_e = np.array([s.voltage_v for s in network.sources])
        self.l_a = np.array([load.plus for load in network.loads], dtype=int)
        self.l_b = np.array([load.minus for load in network.loads], dtype=int)
        self.l_value = np.array([load.value for load in network.loads])
        laws = [load.law for load in network.loads]
        self.is_current = np.array([law == "current" for law in laws], dtype=bool)
        self.is_resistive = np.array([law == "resistive" for law in laws], dtype=bool)
        self.is_power = np.array([law == "power" for law in laws], dtype=bool)

    @property
    def on(self) -> Any:
        """Which loads are on, as an array."""
        return self.np.array([status == "on" for status in self.status], dtype=bool)

    def _linear(self, load_g: Any, load_i: Any) -> Any:
        """Node voltages for loads with these conductances and, besides, these currents."""
        from scipy.sparse import csc_matrix
        from scipy.sparse.linalg import splu

        np = self.np
        voltage_v = np.zeros(self.network.nodes)
        if not self.size:
            return voltage_v
        a = np.concatenate([self.r_a, self.s_a, self.l_a])
        b = np.concatenate([self.r_b, self.s_b, self.l_b])
        g = np.concatenate([self.r_g, self.s_g, load_g])
        row_a, row_b = self.row[a], self.row[b]
        rows = np.concatenate([row_a, row_b, row_a, row_b])
        columns = np.concatenate([row_a, row_b, row_b, row_a])
        values = np.concatenate([g, g, -g, -g])
        kept = (rows >= 0) & (columns >= 0)
        matrix = csc_matrix(
            (values[kept], (rows[kept], columns[kept])), shape=(self.size, self.size)
        )
        into = np.zeros(self.network.nodes)
        np.add.at(into, self.s_b, self.s_e * self.s_g)
        np.add.at(into, self.s_a, -self.s_e * self.s_g)
        np.add.at(into, self.l_a, -load_i)
        np.add.at(into, self.l_b, load_i)
        free = self.row >= 0
        voltage_v[free] = splu(matrix, permc_spec="MMD_AT_PLUS_A").solve(into[free])
        self.iterations += 1
        return voltage_v

    def _base(self) -> tuple[Any, Any]:
        """Conductances and currents of the loads but for their powers."""
        np, on = self.np, self.on
        safe = np.where(self.l_value > 0, self.l_value, 1.0)
        conductance = np.where(on & self.is_resistive, 1 / safe, 0.0)
        current = np.where(on & self.is_current, self.l_value, 0.0)
        return conductance, current

    def _newton(self, start: Any, part: float) -> Any | None:
        """Node voltages with the powers at a part of their value; None where there are none."""
        np = self.np
        conductance, current = self._base()
        powers = np.where(self.on & self.is_power, self.l_value, 0.0) * part
        drawing = powers > 0
        voltage_v = start
        for _ in range(NEWTON_MOST):
            across = voltage_v[self.l_a] - voltage_v[self.l_b]
            if np.any(across[drawing] <= ZERO_VOLTAGE_V) or not np.all(np.isfinite(voltage_v)):
                return None
            safe = np.where(drawing, across, 1.0)
            slope = -powers / safe**2
            constant = powers / safe - slope * across
            try:
                following = self._linear(
                    conductance + np.where(drawing, slope, 0.0),
                    current + np.where(drawing, constant, 0.0),
                )
            except RuntimeError:
                # At the very top of what can be given the matrix is singular.
                return None
            # Each node by its own volts: beside one of many kilovolts another is not done yet.
            close = CLOSE_V * np.maximum(1.0, np.abs(following))
            is_done = bool(np.all(np.abs(following - voltage_v) < close))
            voltage_v = following
            if is_done:
                across = voltage_v[self.l_a] - voltage_v[self.l_b]
                return None if np.any(across[drawing] <= ZERO_VOLTAGE_V) else voltage_v
        return None

    def _weakest(self, open_volts: Any) -> list[int]:
        """The power loads that have lost most of their voltage where the powers can rise no more:
        one, and of many an eighth at a time.
        """
        np = self.np
        good, low, high = open_volts, 0.0, 1.0
        for _ in range(CONTINUATION_STEPS):
            middle = (low + high) / 2
            found = self._newton(good, middle)
            if found is None:
                high = middle
            else:
                good, low = found, middle
        drawing = self.on & self.is_power
        now = good[self.l_a] - good[self.l_b]
        before = open_volts[self.l_a] - open_volts[self.l_b]
        left = np.where(
            before > ZERO_VOLTAGE_V, now / np.where(before > ZERO_VOLTAGE_V, before, 1.0), -1.0
        )
        left = np.where(drawing, left, np.inf)
        count = max(1, int(drawing.sum()) // MAX_COLLAPSED_PER_ROUND)
        return [int(number) for number in np.argsort(left)[:count]]

    def run(self) -> None:
        """Solves, leaving out one after another what collapses or has too low a voltage."""
        np = self.np
        while True:
            self.voltage_v = open_volts = self._linear(*self._base())
            # What has too little before any power is drawn has no more with it.
            if hopeless := self._hopeless():
                for load in hopeless:
                    self._leave_out(load, "too low")
                continue
            voltage_v = (
                self._newton(open_volts, 1.0) if bool(np.any(self.on & self.is_power)) else None
            )
            if voltage_v is None and bool(np.any(self.on & self.is_power)):
                for load in self._weakest(open_volts):
                    self._leave_out(load, "collapses")
                continue
            self.voltage_v = open_volts if voltage_v is None else voltage_v
            low = self._too_low()
            if not low:
                return
            for load in low:
                self._leave_out(load, "too low")

    def _leave_out(self, load: int, status: Status) -> None:
        self.status[load] = status

    def _hopeless(self) -> list[int]:
        """The powers that are below their least voltage although none is drawn."""
        return [number for number, _ in self._ratios() if self.network.loads[number].law == "power"]

    def _too_low(self) -> list[int]:
        """The worse quarter, in each island, of the loads below their least voltage."""
        below: dict[int, list[tuple[float, int]]] = {}
        for number, ratio in self._ratios():
            island = int(self.islands[self.network.loads[number].plus])
            below.setdefault(island, []).append((ratio, number))
        return [
            number
            for found in below.values()
            for _, number in sorted(found)[: max(1, len(found) // 4)]
        ]

    def _ratios(self) -> Iterator[tuple[int, float]]:
        """The loads below their least voltage, each with the part of it that it has."""
        for number, load in enumerate(self.network.loads):
            if self.status[number] != "on" or load.law == "resistive" or load.least_v <= 0:
                continue
            ratio = float(self.voltage_v[load.plus] - self.voltage_v[load.minus]) / load.least_v
            if ratio < 1 - 1e-9:
                yield number, ratio

    def solution(self) -> Solution:
        """What was found, with Kirchhoff's sums."""
        np, on = self.np, self.on
        v = self.voltage_v
        through = self.r_g * (v[self.r_a] - v[self.r_b])
        through = np.where(self.fed[self.r_a], through, 0.0) if len(through) else through
        given = self.s_g * (self.s_e - (v[self.s_b] - v[self.s_a]))
        across = v[self.l_a] - v[self.l_b]
        safe = np.where(on & (across > ZERO_VOLTAGE_V), across, 1.0)
        value = np.where(self.l_value > 0, self.l_value, 1.0)
        taken = np.select(
            [on & self.is_current, on & self.is_resistive, on & self.is_power],
            [self.l_value, across / value, self.l_value / safe],
            0.0,
        )
        sums = np.zeros(self.network.nodes)
        for ends, sign, current_a in (
            (self.r_a, -1, through), (self.r_b, 1, through), (self.s_a, -1, given),
            (self.s_b, 1, given), (self.l_a, -1, taken), (self.l_b, 1, taken),
        ):  # fmt: skip
            np.add.at(sums, ends, sign * current_a)
        fed = [bool(item) for item in self.fed]
        return Solution(
            voltage_v=tuple(float(x) if ok else None for x, ok in zip(v, fed, strict=True)),
            islands=tuple(int(item) for item in self.islands),
            through_a=tuple(map(float, through)),
            given_a=tuple(map(float, given)),
            taken_a=tuple(map(float, taken)),
            across_v=tuple(
                float(x) if fed[load.plus] and self.islands[load.plus] == self.islands[load.minus]
                else None
                for x, load in zip(across, self.network.loads, strict=True)
            ),
            status=tuple(self.status),
            iterations=self.iterations,
            residual_a=float(np.max(np.abs(sums), initial=0.0)),
        )  # fmt: skip
