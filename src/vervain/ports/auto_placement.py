"""Where some loose plugs go, at least cost, with a reason for each.

Hard: the fit, as many plugs a port as it holds, one plug a pin of the processor, the current of a
bank of outputs, motors of one axis on one kind of driver, ports that belong together for one axis,
one setting of a jumper for its whole bank. Soft, in points: what is already wired stays (100), an
axis at the port of its own letter or number (30), nothing to be added (20), a jumper stays (15),
one port of a kind left over (4), a metre of cable (3), beside the ports of the same axis, and in
order (1 a port).
"""

from collections.abc import Callable, Mapping

from vervain.model.machine import PinRef, PortRef, SettingValue
from vervain.model.part import PartKind
from vervain.ports.belonging import axis_lettered, names_in
from vervain.ports.bridge_channels import works_nothing
from vervain.ports.contactor_loads import motors_for_mains
from vervain.ports.fit import Fit, ranked_fits
from vervain.ports.hand_switched import worked_by_hand
from vervain.ports.insertions import is_relied_on
from vervain.ports.occupancy import SHARED_KINDS, kept_for
from vervain.ports.placement_limits import channel_of, limits_left, teams_of, uses_of
from vervain.ports.placement_solver import (
    Assignment,
    Bank,
    Edge,
    PlacementCancelled,
    conflicts,
    solve,
)
from vervain.ports.port_wishes import (
    is_main_switch,
    is_named_for,
    is_of_stops,
    is_unlike,
    may_go,
    tells_something,
)
from vervain.ports.proposal import Conflict, Placement, Proposal
from vervain.ports.switched_loads import channels_for_mains, works_what_is_used
from vervain.ports.ways_to_start import start_to_join
from vervain.queries.connectivity import host_ports, occupants, steps_from, ways_of_port
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between

MOVED, OTHER_AXIS, NEEDS, TURNED, NO_SPARE, METRE = 100, 30, 20, 15, 4, 3
# A port that is called after another plug that waits; one that is not called after the plug, where
# another is.
OTHERS_NAME, NOT_ITS_NAME = 25, 30
# An axis whose motor would turn one way alone; a port of an axis for what belongs to none.
ONE_WAY, AN_AXIS = 60, 15
# The contact by which a drive tells that it is in order, for a lamp; a brushed motor at an output
# that is no bridge.
TELLS, PAST_A_BRIDGE = 60, 25
# A solid-state relay that a relay's contact turns on, where an output does.
RELAY_BY_RELAY = 25
FARTHEST, FARTHEST_M = 12, 20
# What tells by a contact that it does its work, to an input that is free.
TELLING_KINDS: tuple[PartKind, ...] = ("tool power source", "signal converter")
# So many ports of a kind are a bank of which one is better left over.
BANK_OF = 3
# Ties add up over all plugs, and must stay below a point.
MOST_TIE = 9
# Kinds of plug that are placed; what hangs on strips is fed, not plugged.
PLACED = (
    "motor phases", "step and direction", "sensor", "contact", "encoder", "servo", "driver slot",
    "header", "thermistor", "analogue sensor", "bridge motor", "bridge control",
    "analogue command", "drive control", "transducer", "bus", "load", "coil",
)  # fmt: skip


@query
def plugs_to_place(queries: Queries) -> tuple[PortRef, ...]:
    """The plugs that are in no port, and those that share one with another device."""
    return tuple(ref for device in queries.devices() for ref in waiting_plugs(queries, device))


@query
def waiting_plugs(queries: Queries, device: str) -> tuple[PortRef, ...]:
    """The plugs of one device that are to be placed; none of an alternate."""
    part = queries.part_of(device)
    found: list[PortRef] = []
    if part is None or any(alternate.device == device for alternate in queries.alternates()):
        return ()
    if is_main_switch(queries, device):
        return ()
    for port in part.ports:
        ref = PortRef(device=device, port=port.id)
        is_needed = (
            not port.optional
            or port.id == start_to_join(queries, device)
            or works_what_is_used(queries, ref)
            or (port.kind == "contact" and part.kind in TELLING_KINDS)
            or ref in channels_for_mains(queries)
        )
        if port.end != "device" or port.kind not in PLACED or not is_needed:
            continue
        by_feed = device in motors_for_mains(queries) or device in worked_by_hand(queries)
        if is_of_stops(queries, ref) or by_feed or works_nothing(queries, ref):
            continue
        sits = host_ports(queries, ref)
        if any(_is_crowded(queries, host, ref) for host in sits) or (
            not sits and not any(way.lands for way in ways_of_port(queries, ref))
        ):
            found.append(ref)
    return tuple(found)


def _is_crowded(queries: Queries, host: PortRef, plug: PortRef) -> bool:
    """Whether as many other devices as a port holds came there first."""
    port = queries.port(host)
    seated = list(dict.fromkeys(ref.device for ref in occupants(queries, host)))
    if port is None or port.kind in SHARED_KINDS:
        return False
    return plug.device in seated[port.holds :]


def _free_fits(queries: Queries, plug: PortRef, plugs: set[PortRef]) -> list[Fit]:
    """The fits of a plug with ports that nobody else keeps."""
    found = []
    for answer in ranked_fits(queries, plug):
        port = queries.port(answer.host)
        if answer.verdict == "does not fit" or port is None or kept_for(queries, answer.host):
            continue
        if len(_kept_by(queries, answer.host, plugs)) >= port.holds:
            continue
        if not may_go(queries, plug, answer.host):
            continue
        if port.needs is not None and not _slot_filled(queries, answer.host):
            continue
        found.append(answer)
    return found


def _kept_by(queries: Queries, host: PortRef, plugs: set[PortRef]) -> set[str]:
    """The devices that stay in a port while these plugs are placed."""
    return {ref.device for ref in occupants(queries, host) if ref not in plugs}


def _slot_filled(queries: Queries, host: PortRef) -> bool:
    port, part = queries.port(host), queries.part_of(host.device)
    slot = part.port(port.needs) if part and port and port.needs else None
    pins = slot.pins if slot else ()
    return any(
        steps_from(queries, PinRef(device=host.device, port=slot.id if slot else "", pin=pin.id))
        for pin in pins
    )


def _edge_cost(
    queries: Queries,
    plug: PortRef,
    answer: Fit,
    order: int,
    rank: int,
    named: frozenset[PortRef],
    has_own_name: bool,
) -> tuple[int, str]:
    """The points of one fit, and the reason that counts most; `named` are the plugs that the port
    is called after, and `has_own_name` is whether another port is called after this plug.
    """
    axis_id = axis_with_driver(queries, plug.device)
    axis = queries.axis(axis_id) if axis_id else None
    names = names_in(answer.host.port)
    cost = NEEDS if answer.verdict == "fits with" and answer.option is None else 0
    reason = "next in order" if order == rank else "free, and it fits"
    if answer.needs:
        reason = f"it fits with {answer.needs}"
    if axis is not None and names:
        own = {axis.id, axis.id[-1:], str([*queries.axes()].index(axis.id) + 1)}
        if names & own:
            reason = f"the port of {axis.id}"
        elif any(name[0].isalpha() for name in names):
            cost += OTHER_AXIS
    elif axis is None and axis_lettered(queries, answer.host) is not None:
        cost += AN_AXIS
    if plug in named:
        reason = "it is called so"
        # Of several contacts of a device the first goes where it is called.
        part = queries.part_of(plug.device)
        cost += [port.id for port in part.ports].index(plug.port) if part is not None else 0
    elif named:
        cost += OTHERS_NAME
    elif has_own_name:
        cost += NOT_ITS_NAME
    cost += ONE_WAY if is_unlike(queries, plug, answer.host) else 0
    cost += TELLS if tells_something(queries, answer.host) else 0
    cost += PAST_A_BRIDGE if _is_past_a_bridge(queries, plug, answer.host) else 0
    cost += RELAY_BY_RELAY if _is_relay_by_relay(queries, plug, answer.host) else 0
    near = min(answer.distance, FARTHEST)
    if axis is not None and near == 1 and not reason.startswith("the port"):
        reason = f"beside another port of {axis.id}"
    cost += near + min(abs(order - rank), FARTHEST)
    route = route_between(queries, plug.device, answer.host.device)
    cost += round(METRE * min(route.length_m, FARTHEST_M)) if route is not None else 0
    if host_ports(queries, plug) and answer.host not in host_ports(queries, plug):
        cost += MOVED
    return cost, reason


def _is_past_a_bridge(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a brushed motor would hang on something else than a bridge."""
    theirs = queries.port(host)
    is_motor = kind_of(queries, plug) == "bridge motor"
    return is_motor and theirs is not None and theirs.kind != "bridge output"


def _is_relay_by_relay(queries: Queries, plug: PortRef, host: PortRef) -> bool:
    """Whether a contact would turn on a relay of semiconductors, which an output does."""
    part, theirs = queries.part_of(plug.device), queries.port(host)
    is_solid = part is not None and part.kind == "solid-state relay"
    return is_solid and theirs is not None and theirs.kind == "relay contact"


def kind_of(queries: Queries, plug: PortRef) -> str:
    """The kind of a plug; "" where there is none."""
    port = queries.port(plug)
    return port.kind if port else ""


def _board_order(queries: Queries) -> dict[PortRef, int]:
    """Every host port in the order of the devices and of the ports on their boards."""
    found: dict[PortRef, int] = {}
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            if port.takes_plugs:
                found[PortRef(device=device, port=port.id)] = len(found)
    return found


def placement_of(
    queries: Queries, plugs: tuple[PortRef, ...], should_continue: Callable[[], bool]
) -> Proposal:
    """Where these plugs go, deterministically. Raises `PlacementCancelled`."""
    if not plugs:
        return Proposal(placements=())
    board_order = _board_order(queries)
    hosts: dict[PortRef, int] = {}
    edges: list[Edge] = []
    told: dict[tuple[int, int], tuple[Fit, str]] = {}
    orders: dict[str, int] = {}
    fits_of: dict[PortRef, list[Fit]] = {}
    for plug in plugs:
        if not should_continue():
            raise PlacementCancelled
        fits_of[plug] = _free_fits(queries, plug, set(plugs))
    called_after = _called_after(queries, fits_of)
    with_name = {plug for plugs_named in called_after.values() for plug in plugs_named}
    for number, plug in enumerate(plugs):
        kind = kind_of(queries, plug)
        order = orders.setdefault(kind, 0)
        orders[kind] += 1
        fits = fits_of[plug]
        ranks = {
            ref: at
            for at, ref in enumerate(sorted({f.host for f in fits}, key=board_order.__getitem__))
        }
        for answer in fits:
            socket = hosts.setdefault(answer.host, len(hosts))
            named = called_after.get(answer.host, frozenset())
            cost, reason = _edge_cost(
                queries, plug, answer, order, ranks[answer.host], named, plug in with_name
            )
            uses, tie = (
                uses_of(queries, plug, answer),
                min((order - ranks[answer.host]) ** 2, MOST_TIE),
            )
            edges.append(Edge(number, socket, cost, _switch_of(answer), uses, tie))
            told[number, socket] = answer, reason
    task = Assignment(
        plugs=len(plugs),
        classes=tuple(_class_of(queries, ref) for ref in hosts),
        edges=tuple(edges),
        groups=_groups_of(queries, plugs),
        switches=_switches_of(queries, {e.switch[0] for e in edges if e.switch}, set(plugs)),
        capacities=tuple(_seats_left(queries, ref, set(plugs)) for ref in hosts),
        limits=limits_left(queries, {name for edge in edges for name, _ in edge.uses}, set(plugs)),
        channels=tuple(channel_of(queries, ref) for ref in hosts),
        teams=teams_of(queries, plugs),
        banks=_banks_of(queries, hosts, set(plugs)),
    )
    answer_found = solve(task, should_continue)
    refs = tuple(hosts)
    placements = tuple(
        _placement(queries, plugs[edge.plug], refs[edge.socket], *told[edge.plug, edge.socket])
        for edge in answer_found.chosen
    )
    clashes = conflicts(task, should_continue) if answer_found.left_out else ()
    return Proposal(
        placements=placements,
        conflicts=tuple(_conflict(task, refs, plugs, members) for members in clashes),
        cost=answer_found.cost,
    )


def _called_after(
    queries: Queries, fits_of: Mapping[PortRef, list[Fit]]
) -> dict[PortRef, frozenset[PortRef]]:
    """Of the ports that plugs fit into, the plugs that they are called after; where all are, and
    wherever these fit, that tells nothing apart, as MOTOR does.
    """
    fitting: dict[PortRef, list[PortRef]] = {}
    for plug, fits in fits_of.items():
        for answer in fits:
            fitting.setdefault(answer.host, []).append(plug)
    named = {
        host: frozenset(plug for plug in plugs if is_named_for(queries, plug, host))
        for host, plugs in fitting.items()
    }
    # The relay of a board is for what no output of it is called after.
    by_relays = {
        plug for plug, fits in fits_of.items()
        if any(
            (port := queries.port(answer.host)) is not None and port.kind == "relay contact"
            and plug not in named[answer.host]
            for answer in fits
        )
    }  # fmt: skip
    outputs = {
        host for host in named
        if (port := queries.port(host)) is not None and port.kind == "switched output"
    }  # fmt: skip
    return {
        host: plugs for host, plugs in named.items()
        if plugs
        and (len(plugs) < len(fitting[host]) or (host in outputs and plugs & by_relays))
    }  # fmt: skip


def _placement(
    queries: Queries, plug: PortRef, host: PortRef, answer: Fit, reason: str
) -> Placement:
    was = next(iter(host_ports(queries, plug)), None)
    words = f"{plug.device} into {host.device} {host.port}: {reason}."
    if was is not None:
        words = f"{words[:-1]}; {was.port} has two devices."
    return Placement(plug=plug, host=host, reason=words, setting=answer.option, was_in=was)


def _conflict(
    task: Assignment,
    refs: tuple[PortRef, ...],
    plugs: tuple[PortRef, ...],
    members: tuple[int, ...],
) -> Conflict:
    sockets = sorted({edge.socket for edge in task.edges if edge.plug in members})
    return Conflict(
        plugs=tuple(plugs[member] for member in members),
        hosts=tuple(refs[socket] for socket in sockets),
    )


def _switch_of(answer: Fit) -> tuple[str, str] | None:
    if answer.option is None:
        return None
    return f"{answer.host.device}/{answer.option[0]}", answer.option[1]


def _switches_of(
    queries: Queries, names: set[str], plugs: set[PortRef]
) -> tuple[tuple[str, str, int | None], ...]:
    """What each jumper stands at; it may not be turned where a plug that stays relies on it."""
    found: list[tuple[str, str, int | None]] = []
    for name in sorted(names):
        device, _, option = name.partition("/")
        value: SettingValue | None = queries.setting(device, option)
        relied = is_relied_on(queries, device, option, plugs)
        found.append((name, str(value), None if relied else TURNED))
    return tuple(found)


def _seats_left(queries: Queries, host: PortRef, plugs: set[PortRef]) -> int:
    port = queries.port(host)
    return max(1, (port.holds if port else 1) - len(_kept_by(queries, host, plugs)))


def _banks_of(queries: Queries, hosts: dict[PortRef, int], plugs: set[PortRef]) -> tuple[Bank, ...]:
    """The free ports of each kind on each board, where it has several: one is better left over."""
    found: dict[tuple[str, str], list[PortRef]] = {}
    for ref in _board_order(queries):
        port = queries.port(ref)
        if port is not None and not _kept_by(queries, ref, plugs):
            found.setdefault((ref.device, port.kind), []).append(ref)
    return tuple(
        Bank(tuple(hosts[ref] for ref in refs), NO_SPARE)
        for refs in found.values()
        if len(refs) >= BANK_OF and all(ref in hosts for ref in refs)
    )


def _class_of(queries: Queries, host: PortRef) -> str:
    device = queries.device(host.device)
    return device.part if device else ""


def _groups_of(queries: Queries, plugs: tuple[PortRef, ...]) -> tuple[tuple[int, ...], ...]:
    """The motors of one axis, which go to drivers of one kind."""
    found: dict[str, list[int]] = {}
    for number, plug in enumerate(plugs):
        axis = queries.axis_of(plug.device)
        if axis is not None and plug.device in axis.drives:
            found.setdefault(axis.id, []).append(number)
    return tuple(tuple(members) for members in found.values() if len(members) > 1)
