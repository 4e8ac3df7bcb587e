"""Rules about which axis a port and what sits in it belong to."""

from collections.abc import Iterator
from itertools import combinations

from vervain.model.machine import PortRef
from vervain.model.part import Port
from vervain.ports.belonging import axes_at, axis_lettered, is_of_another_drive, partner_of
from vervain.queries.connectivity import host_ports, motors_of, neighbours_at
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_axis, about_port
from vervain.rules.fixes import ExchangePlugs
from vervain.rules.ports.occupancy import PLUGGED
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="ports.belonging",
    consequence="Won't run",
    scope="device",
    title="A motor and its encoder are in channels that do not belong together",
    reason="A channel closes its loop over the counter that belongs to it. With the encoder of "
    "another axis there it sees no movement, and drives on to the end of the travel.",
    source="The part's own ports, `belongs_to`; the axes of what is joined to them.",
)
def belonging(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        partner = partner_of(part, port) if part else None
        if partner is None or any(_other_drives(queries, device, port)):
            continue
        here = PortRef(device=device, port=port.id)
        there = PortRef(device=device, port=partner)
        ours, theirs = axes_at(queries, here), axes_at(queries, there)
        if ours and theirs and not ours & theirs:
            yield RuleOutput(
                f"{port.id} of {device} serves {', '.join(sorted(ours))}, but belongs to "
                f"{partner}, which moves {', '.join(sorted(theirs))}.",
                (about(here), about(there)),
                at=(about(here),),
            )


@rule(
    id="ports.feedback",
    consequence="Won't run",
    scope="device",
    title="A motor tells another drive how it stands",
    reason="A drive turns the current in its motor by what the motor tells of itself. Told by "
    "another one, or by none, it trips at once, or runs away.",
    source="The ports of drives and motors: whose phases and whose channels are at which drive.",
)
def feedback(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        here = PortRef(device=device, port=port.id)
        for plug, reason in _other_drives(queries, device, port):
            other = _feedback_of_its_motor(queries, here)
            fixes: tuple[Fix, ...] = ()
            if other is not None:
                words = (
                    f"exchange the plugs in {device} {here.port} and {other.device} {other.port}"
                )
                fixes = (Fix(words=words, remedy=ExchangePlugs(first=here, second=other)),)
            yield RuleOutput(
                f"{plug.port} of {plug.device} is at {device} {port.id}. {reason}",
                (about(plug), about(here)),
                at=(about(here),),
                detail=f"{plug.device} {plug.port}",
                fixes=fixes,
            )


def _other_drives(queries: Queries, device: str, port: Port) -> Iterator[tuple[PortRef, str]]:
    """What is at a port and tells how the motor of another drive stands, with why it is wrong."""
    here = PortRef(device=device, port=port.id)
    if port.kind != "encoder" or port.end != "host":
        return
    for plug in neighbours_at(queries, here):
        if reason := is_of_another_drive(queries, plug, here):
            yield plug, reason


def _feedback_of_its_motor(queries: Queries, here: PortRef) -> PortRef | None:
    """Where the motor goes that this port is for: the port where it tells how it stands."""
    for motor in motors_of(queries, here.device):
        part = queries.part_of(motor)
        for port in part.ports if part else ():
            plug = PortRef(device=motor, port=port.id)
            if port.kind == "encoder":
                return next((h for h in host_ports(queries, plug) if h != here), None)
    return None


@rule(
    id="ports.axis-name",
    consequence="Workmanship",
    scope="device",
    title="A port is named after another axis",
    reason="Who looks into the box later goes by the print on the board: the plug of one axis in a "
    "port named after another is looked for in the wrong place.",
    source="The letters of the ports and of the axes.",
)
def axis_name(queries: Queries, device: str) -> Iterator[RuleOutput]:
    axis, part = queries.axis_of(device), queries.part_of(device)
    others = {name for name in queries.axes() if axis is not None and name != axis.id}
    for port in part.ports if part and axis is not None else ():
        if port.end != "device" or port.kind not in PLUGGED:
            continue
        for host in host_ports(queries, PortRef(device=device, port=port.id)):
            letters = set(host.port.split())
            if axis is not None and letters & others and axis.id not in letters:
                yield RuleOutput(
                    f"{device} of {axis.id} sits in {host.device} {host.port}.",
                    (about(device), about(host)),
                    at=(about_port(host),),
                )


@rule(
    id="ports.axes-exchanged",
    consequence="Won't run",
    scope="device",
    title="Two axes have changed places",
    reason="Each plug is in the port that carries the letter of the other axis: when one is told "
    "to move, the other does, and a limit stops what does not run into it.",
    source="The letters at the ports of the part; the axes of what is joined to them.",
)
def axes_exchanged(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    hosts = [
        (port.kind, ref, axis)
        for port in (part.ports if part else ())
        if port.end == "host"
        and (axis := axis_lettered(queries, ref := PortRef(device=device, port=port.id)))
    ]
    yield from _in_the_port_beside(queries, device)
    for (kind, first, one), (other_kind, second, two) in combinations(hosts, 2):
        if kind != other_kind or one == two:
            continue
        if axes_at(queries, first) == {two} and axes_at(queries, second) == {one}:
            words = f"exchange the plugs in {device} {first.port} and {second.port}"
            yield RuleOutput(
                f"{first.port} of {device} moves {two}, and {second.port} moves {one}.",
                (about(first), about(second), about_axis(one), about_axis(two)),
                at=(about(first),),
                detail=f"{first.port}-{second.port}",
                fixes=(Fix(words=words, remedy=ExchangePlugs(first=first, second=second)),),
            )


def _in_the_port_beside(queries: Queries, device: str) -> Iterator[RuleOutput]:
    """Of an input that carries the letter of an axis and reads what is on none, while the switch of
    that axis is at an input of another name.
    """
    part = queries.part_of(device)
    ports = [
        PortRef(device=device, port=port.id) for port in (part.ports if part else ())
        if port.end == "host" and port.kind == "digital input"
    ]  # fmt: skip
    read = [ref for ref in ports if neighbours_at(queries, ref)]
    bare = [ref for ref in read if axis_lettered(queries, ref) is None]
    for own in read:
        axis = axis_lettered(queries, own)
        other = [ref for ref in bare if axes_at(queries, ref) == {axis}]
        if axis is None or axes_at(queries, own) or len(other) != 1:
            continue
        if any(axis_lettered(queries, ref) == axis for ref in read if ref != own):
            # Its other end is where it belongs: what is here was meant to be.
            continue
        words = f"exchange the plugs in {device} {own.port} and {other[0].port}"
        yield RuleOutput(
            f"{own.port} of {device} reads nothing of {axis}, whose switch is at {other[0].port}.",
            (about(own), about(other[0]), about_axis(axis)),
            at=(about(own),),
            detail=f"{own.port}-{other[0].port}",
            fixes=(Fix(words=words, remedy=ExchangePlugs(first=own, second=other[0])),),
        )


RULES = (belonging, feedback, axis_name, axes_exchanged)
