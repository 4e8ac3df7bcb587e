"""The assignment under placement, as plain numbers: plugs to sockets at least cost.

Exact, by mixed-integer programming (SciPy's `milp`, the HiGHS solver). Sockets hold one plug, or as
many as they are made for; plugs of one group go to sockets of one class (motors of one axis on one
kind of driver); an edge may need a switch at a value, which all edges of that switch share, and may
use up something that is limited (a processor pin, the current of a bank); a channel of several
sockets serves one team of plugs, and a team no more channels than it needs.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import combinations

# What leaving a plug out costs: more than all that placing it may cost.
LEFT_OUT = 1_000_000
# What one point costs beside the ties of answers that cost the same.
TIES = 1000


@dataclass(frozen=True)
class Edge:
    """A plug that can go into a socket, at a cost; `switch` is what must be set for it, `uses` how
    much it takes of what is limited. Of answers that cost the same, the one whose `tie`s add up to
    less is taken.
    """

    plug: int
    socket: int
    cost: int
    switch: tuple[str, str] | None = None
    uses: tuple[tuple[str, int], ...] = ()
    tie: int = 0


@dataclass(frozen=True)
class Team:
    """Plugs that belong to one axis: in how many channels they may be at most, and in which some of
    it are already.
    """

    plugs: tuple[int, ...]
    channels: int = 1
    held: tuple[str, ...] = ()


@dataclass(frozen=True)
class Bank:
    """Free sockets of one kind of which one is better left: what it costs to use the last one."""

    sockets: tuple[int, ...]
    cost: int


@dataclass(frozen=True)
class Assignment:
    """The task: how many plugs, the class of each socket, the edges, groups of plugs, and what
    each switch stands at with what turning it costs (None where it may not be turned).

    `capacities` says how many plugs each socket holds (all one, where it is empty), `limits` how
    much there is of what edges use, `channels` which channel each socket is of, if any.
    """

    plugs: int
    classes: tuple[str, ...]
    edges: tuple[Edge, ...]
    groups: tuple[tuple[int, ...], ...] = ()
    switches: tuple[tuple[str, str, int | None], ...] = ()
    capacities: tuple[int, ...] = ()
    limits: tuple[tuple[str, int], ...] = ()
    channels: tuple[str | None, ...] = ()
    teams: tuple[Team, ...] = ()
    banks: tuple[Bank, ...] = ()

    def capacity(self, socket: int) -> int:
        """How many plugs a socket holds."""
        return self.capacities[socket] if self.capacities else 1

    def channel(self, socket: int) -> str | None:
        """The channel that a socket is of."""
        return self.channels[socket] if self.channels else None


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

    The same task always gives the same answer. Raises
    `PlacementCancelled` where `should_continue` says no.
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
    used = {edge.socket for edge in chosen}
    return (
        sum(edge.cost for edge in chosen)
        + sum(prices.get(name, 0) for name, value in turned if (name, value) not in stands)
        + sum(bank.cost for bank in task.banks if used >= set(bank.sockets))
    )


def _milp(task: Assignment) -> list[float]:
    """The values of the edges, then of the plugs left out, of the switch settings, of the teams in
    channels, and of the banks that are full.
    """
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import coo_matrix

    settings = sorted({edge.switch for edge in task.edges if edge.switch is not None})
    edges, plugs = len(task.edges), task.plugs
    seats = _seats(task)
    first_seat = edges + plugs + len(settings)
    first_bank = first_seat + len(seats)
    count = first_bank + len(task.banks)
    stands = {name: (value, cost) for name, value, cost in task.switches}
    upper = np.ones(count)
    costs = np.zeros(count)
    lower = np.zeros(count)
    costs[:edges] = [edge.cost * TIES + edge.tie for edge in task.edges]
    costs[edges : edges + plugs] = LEFT_OUT * TIES
    costs[first_bank:] = [bank.cost * TIES for bank in task.banks]
    for at, (team, channel) in enumerate(seats):
        lower[first_seat + at] = float(channel in task.teams[team].held)
    for at, (name, value) in enumerate(settings):
        present, price = stands.get(name, (value, 0))
        if value != present:
            costs[edges + plugs + at] = (price or 0) * TIES
            upper[edges + plugs + at] = 0.0 if price is None else 1.0
    rows: list[tuple[dict[int, float], float, float]] = []
    _plug_rows(task, rows)
    _socket_rows(task, rows)
    _group_rows(task, rows)
    _switch_rows(task, settings, rows)
    _limit_rows(task, rows)
    _channel_rows(task, {seat: first_seat + at for at, seat in enumerate(seats)}, rows)
    _bank_rows(task, first_bank, rows)
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
        bounds=Bounds(lower, upper),
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
    """Every socket holds no more plugs than it is made for."""
    by_socket: dict[int, dict[int, float]] = {}
    for at, edge in enumerate(task.edges):
        by_socket.setdefault(edge.socket, {})[at] = 1.0
    for socket, row in by_socket.items():
        if len(row) > task.capacity(socket):
            rows.append((row, 0.0, float(task.capacity(socket))))


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


def _limit_rows(task: Assignment, rows: list[tuple[dict[int, float], float, float]]) -> None:
    """What is limited is not used up."""
    for name, most in task.limits:
        row: dict[int, float] = {}
        for at, edge in enumerate(task.edges):
            amount = sum(amount for used, amount in edge.uses if used == name)
            if amount:
                row[at] = float(amount)
        if row:
            rows.append((row, 0.0, float(most)))


def _seats(task: Assignment) -> list[tuple[int, str]]:
    """Every team with every channel that its plugs could go to, or are in."""
    found: dict[tuple[int, str], None] = {}
    for number, team in enumerate(task.teams):
        for channel in team.held:
            found[number, channel] = None
        for edge in task.edges:
            named = task.channel(edge.socket)
            if named is not None and edge.plug in team.plugs:
                found[number, named] = None
    return list(found)


def _channel_rows(
    task: Assignment,
    seats: dict[tuple[int, str], int],
    rows: list[tuple[dict[int, float], float, float]],
) -> None:
    """A plug goes into a channel only with its team; one team a channel, and no more channels than
    the team needs.
    """
    for at, edge in enumerate(task.edges):
        channel = task.channel(edge.socket)
        for number, team in enumerate(task.teams):
            if channel is not None and edge.plug in team.plugs:
                rows.append(({at: 1.0, seats[number, channel]: -1.0}, -float("inf"), 0.0))
    for channel in dict.fromkeys(name for _, name in seats):
        members = {place: 1.0 for (_, name), place in seats.items() if name == channel}
        rows.append((members, 0.0, 1.0))
    for number, team in enumerate(task.teams):
        members = {place: 1.0 for (member, _), place in seats.items() if member == number}
        if members:
            rows.append((members, 0.0, float(max(team.channels, len(team.held)))))


def _bank_rows(
    task: Assignment, first_bank: int, rows: list[tuple[dict[int, float], float, float]]
) -> None:
    """A bank is full where a plug is in each of its sockets."""
    for at, bank in enumerate(task.banks):
        row = {n: 1.0 for n, edge in enumerate(task.edges) if edge.socket in bank.sockets}
        seats = sum(task.capacity(socket) for socket in bank.sockets)
        row[first_bank + at] = -1.0
        rows.append((row, -float("inf"), float(seats - 1)))


def restricted(task: Assignment, plugs: tuple[int, ...]) -> Assignment:
    """The same task for some of the plugs only, renumbered in their order."""
    number = {plug: at for at, plug in enumerate(plugs)}
    return replace(
        task,
        plugs=len(plugs),
        edges=tuple(
            replace(edge, plug=number[edge.plug]) for edge in task.edges if edge.plug in number
        ),
        groups=tuple(
            kept
            for group in task.groups
            if len(kept := tuple(number[plug] for plug in group if plug in number)) > 1
        ),
        teams=tuple(
            replace(team, plugs=tuple(number[plug] for plug in team.plugs if plug in number))
            for team in task.teams
        ),
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
