"""What placement must keep to beside the fit: pins of the processor, the current of a bank of
outputs, and ports that belong together for one axis.
"""

from collections import Counter

from vervain.electrical.feeds import steady_current_a
from vervain.model.machine import PortRef
from vervain.ports.belonging import axes_at
from vervain.ports.fit import Fit
from vervain.ports.placement_solver import Team
from vervain.queries.connectivity import occupants
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin

# Currents are counted in whole milliamperes.
MILLI = 1000


def _load_ma(queries: Queries, plug: PortRef) -> int:
    return round(MILLI * steady_current_a(queries, plug))


def uses_of(queries: Queries, plug: PortRef, answer: Fit) -> tuple[tuple[str, int], ...]:
    """What a plug uses up in a port: pins of the processor, and current of its bank."""
    part, host = queries.part_of(answer.host.device), answer.host
    found = [(f"pin {host.device} {name}", 1) for name, _ in ports_at_one_pin(queries, host)]
    current_ma = _load_ma(queries, plug)
    for bank in part.banks if part else ():
        if host.port in bank.ports and current_ma:
            found.append((f"bank {host.device} {bank.name}", current_ma))
    return tuple(found)


def limits_left(
    queries: Queries, names: set[str], plugs: set[PortRef]
) -> tuple[tuple[str, int], ...]:
    """How much of each thing that plugs would use is left beside what stays where it is."""
    found = []
    for name in sorted(names):
        kind, device, thing = name.split(" ", 2)
        if kind == "pin":
            found.append((name, 1))
            continue
        part = queries.part_of(device)
        for bank in part.banks if part else ():
            if bank.name == thing:
                found.append((name, max(0, bank_current_left_ma(queries, device, thing, plugs))))
    return tuple(found)


def bank_current_left_ma(queries: Queries, device: str, name: str, moving: set[PortRef]) -> int:
    """What a bank of outputs has left, in mA, without plugs that are on the move; below 0 where it
    gives too much.
    """
    part = queries.part_of(device)
    bank = next((bank for bank in (part.banks if part else ()) if bank.name == name), None)
    if bank is None:
        return 0
    seated = {
        plug
        for port in bank.ports
        for plug in occupants(queries, PortRef(device=device, port=port))
        if plug not in moving
    }
    return round(MILLI * bank.current_max_a) - sum(_load_ma(queries, p) for p in seated)


def channel_of(queries: Queries, host: PortRef) -> str | None:
    """The channel that a port is of: ports that belong together have one name; None for others."""
    port, part = queries.port(host), queries.part_of(host.device)
    if port is None or part is None:
        return None
    root = port.belongs_to or port.id
    belonging = [other for other in part.ports if other.belongs_to == root]
    return f"{host.device} {root}" if belonging else None


def teams_of(queries: Queries, plugs: tuple[PortRef, ...]) -> tuple[Team, ...]:
    """The plugs of each axis, of which an axis with two motors may be in two channels. Plugs of no
    axis may go to any.
    """
    held = _held(queries)
    found: dict[str, list[int]] = {}
    for number, plug in enumerate(plugs):
        axis = axis_with_driver(queries, plug.device)
        if axis is not None:
            found.setdefault(axis, []).append(number)
    for axis in held:
        found.setdefault(axis, [])
    teams = []
    for name, members in found.items():
        kinds = Counter(port.kind for n in members if (port := queries.port(plugs[n])) is not None)
        axis_found = queries.axis(name)
        drives = len(axis_found.drives) if axis_found is not None else 1
        most = max(1, drives, *kinds.values())
        teams.append(Team(tuple(members), most, tuple(held.get(name, ()))))
    return tuple(teams)


def _held(queries: Queries) -> dict[str, list[str]]:
    """The channels in which each axis is already, where only one axis is in them."""
    axes_in: dict[str, set[str]] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            ref = PortRef(device=device, port=port.id)
            channel = channel_of(queries, ref) if port.end == "host" else None
            if channel is not None:
                axes_in.setdefault(channel, set()).update(axes_at(queries, ref))
    found: dict[str, list[str]] = {}
    for channel, axes in axes_in.items():
        if len(axes) == 1:
            found.setdefault(next(iter(axes)), []).append(channel)
    return found
