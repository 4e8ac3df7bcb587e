"""The assignment under placement, as plain numbers: plugs to sockets at least cost.

Exact, by mixed-integer programming (SciPy's `milp`, the HiGHS solver). Sockets hold one plug;
plugs of one group go to sockets of one class (motors of one axis on one kind of driver); an edge
may need a switch at a value, which all edges of that switch share.
"""

from collections.abc import Callable
from dataclasses import dataclass
from itertools import combinations

# What leaving a plug out costs: more than all that placing it may cost.
LEFT_OUT = 1_000_000


@dataclass(frozen=True)
class Edge:
    """A plug that can go into a socket, at a cost; `switch` is what must be set for it."""

    plug: int
    socket: int
    cost: int
    switch: tuple[str, str] | None = None


@dataclass(frozen=True)
class Assignment:
    """The task: how many plugs, the class of each socket, the edges, groups of plugs, and what
    each switch stands at with what turning it costs (None where it may not be turned).
    """

    plugs: int
    classes: tuple[str, ...]
    edges: tuple[Edge, ...]
    groups: tuple[tuple[int, ...], ...] = ()
    switches: tuple[tuple[str, str, int | None], ...] = ()


@dataclass(frozen=True)
class Answer:
    """The chosen edges in the order of the plugs, the plugs left out, and the whole cost without
    that of leaving out.
    """

    chosen: tuple[Edge, ...]
    left_out: tuple[int, ...]
    cost: int


class PlacementCancelled(Exception):  # noqa: N818 - says what happened, and is no error
    """The builder stopped the search."""


def solve(task: Assignment, should_continue: Callable[[], bool] = lambda: True) -> Answer:
    """The cheapest assignment that places as many plugs as can be placed.

    The same task always gives the same answer. Raises `Stopped` where `goes_on` says no.
    """
    if not should_continue():
        raise PlacementCancelled
    if not task.edges:
        return Answer((), tuple(range(task.plugs)), 0)
    values = _milp(task)
    chosen = tuple(
        sorted(
            (edge for edge, value in zip(task.edges, values, strict=False) if value > 0.5),
            key=lambda edge: edge.plug,
        )
    )
    placed = {edge.plug for edge in chosen}
    left = tuple(plug for plug in range(task.plugs) if plug not in placed)
    return Answer(chosen, left, cost_of(task, chosen))


def cost_of(task: Assignment, chosen: tuple[Edge, ...]) -> int:
    """What chosen edges cost together, each turned switch once."""
    turned = {edge.switch for edge in chosen if edge.switch is not None}
    stands = {(name, value) for name, value, _ in task.switches}
    prices = {name: cost or 0 for name, _, cost in task.switches}
    return sum(edge.cost for edge in chosen) + sum(
        prices.get(name, 0) for name, value in turned if (name, value) not in stands
    )


def _milp(task: Assignment) -> list[float]:
    """The values of the edges, then of the plugs left out, then of the switch settings."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_matrix

    settings = sorted({edge.switch for edge in task.edges if edge.switch is not None})
    edges, plugs = len(task.edges), task.plugs
    count = edges + plugs + len(settings)
    stands = {name: (value, cost) for name, value, cost in task.switches}
    upper = np.ones(count)
    costs = np.zeros(count)
    costs[:edges] = [edge.cost for edge in task.edges]
    costs[edges : edges + plugs] = LEFT_OUT
    for at, (name, value) in enumerate(settings):
        present, price = stands.get(name, (value, 0))
        if value != present:
            costs[edges + plugs + at] = price or 0
            upper[edges + plugs + at] = 0.0 if price is None else 1.0
    rows: list[tuple[dict[int, float], float, float]] = []
    _plug_rows(task, rows)
    _socket_rows(task, rows)
    _group_rows(task, rows)
    _switch_rows(task, settings, rows)
    entries = [(r, c, v) for r, (row, _, _) in enumerate(rows) for c, v in row.items()]
    matrix = coo_matrix(
        ([v for _, _, v in entries], ([r for r, _, _ in entries], [c for _, c, _ in entries])),
        shape=(len(rows), count),
    ).tocsr()
    limits = LinearConstraint(matrix, [low for _, low, _ in rows], [high for _, _, high in rows])
    # Without this the solver stops within a ten-thousandth of the optimum: leaving out is dear, so
    # that would be many points.
    exact = {"mip_rel_gap": 0.0}
    found = milp(
        costs,
        constraints=limits,
        integrality=np.ones(count),
        bounds=Bounds(0.0, upper),
        options=exact,
    )
    return [float(value) for value in found.x] if found.x is not None else [0.0] * count


def _plug_rows(task: Assignment, rows: list[tuple[dict[int, float], float, float]]) -> None:
    """Every plug in one socket, or left out."""
    by_plug: list[dict[int, float]] = [{len(task.edges) + n: 1.0} for n in range(task.plugs)]
    for at, edge in enumerate(task.edges):
        by_plug[edge.plug][at] = 1.0
    rows.extend((row, 1.0, 1.0) for row in by_plug)


def _socket_rows(task: Assignment, rows: list[tuple[dict[int, float], float, float]]) -> None:
    """Every socket holds one plug at most."""
    by_socket: dict[int, dict[int, float]] = {}
    for at, edge in enumerate(task.edges):
        by_socket.setdefault(edge.socket, {})[at] = 1.0
    rows.extend((row, 0.0, 1.0) for row in by_socket.values() if len(row) > 1)


def _group_rows(task: Assignment, rows: list[tuple[dict[int, float], float, float]]) -> None:
    """Plugs of a group that are placed go to sockets of one class: where one of two sits in a
    class, the other sits there as well or is left out.
    """
    for group in task.groups:
        for first, second in combinations(group, 2):
            for one, other in ((first, second), (second, first)):
                for kind in sorted(set(task.classes)):
                    row: dict[int, float] = {}
                    for at, edge in enumerate(task.edges):
                        if edge.plug == one and task.classes[edge.socket] == kind:
                            row[at] = 1.0
                        elif edge.plug == other and task.classes[edge.socket] == kind:
                            row[at] = -1.0
                    if any(value > 0 for value in row.values()):
                        row[len(task.edges) + other] = -1.0
                        rows.append((row, -float("inf"), 0.0))


def _switch_rows(
    task: Assignment,
    settings: list[tuple[str, str]],
    rows: list[tuple[dict[int, float], float, float]],
) -> None:
    """An edge needs its switch setting; a switch has one setting."""
    place = {key: len(task.edges) + task.plugs + at for at, key in enumerate(settings)}
    for at, edge in enumerate(task.edges):
        if edge.switch is not None:
            rows.append(({at: 1.0, place[edge.switch]: -1.0}, -float("inf"), 0.0))
    for name in sorted({name for name, _ in settings}):
        members = {place[key]: 1.0 for key in settings if key[0] == name}
        rows.append((members, 0.0, 1.0))


def restricted(task: Assignment, plugs: tuple[int, ...]) -> Assignment:
    """The same task for some of the plugs only, renumbered in their order."""
    number = {plug: at for at, plug in enumerate(plugs)}
    return Assignment(
        plugs=len(plugs),
        classes=task.classes,
        edges=tuple(
            Edge(number[edge.plug], edge.socket, edge.cost, edge.switch)
            for edge in task.edges
            if edge.plug in number
        ),
        groups=tuple(
            kept
            for group in task.groups
            if len(kept := tuple(number[plug] for plug in group if plug in number)) > 1
        ),
        switches=task.switches,
    )


def conflicts(
    task: Assignment, should_continue: Callable[[], bool] = lambda: True
) -> tuple[tuple[int, ...], ...]:
    """Sets of plugs that cannot all be placed, each minimal: without any one of its members the
    rest can. Independent sets are all found: the search goes on without those found before.
    """
    found: list[tuple[int, ...]] = []
    waiting = tuple(range(task.plugs))
    while solve(restricted(task, waiting), should_continue).left_out:
        needed = waiting
        for plug in waiting:
            fewer = tuple(other for other in needed if other != plug)
            if solve(restricted(task, fewer), should_continue).left_out:
                needed = fewer
        found.append(needed)
        waiting = tuple(plug for plug in waiting if plug not in needed)
    return tuple(found)
