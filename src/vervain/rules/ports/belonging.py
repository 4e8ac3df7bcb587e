"""Rules about which axis a port and what sits in it belong to."""

from collections.abc import Iterator
from itertools import combinations

from vervain.model.machine import PortRef
from vervain.ports.belonging import axes_at, axis_lettered
from vervain.queries.connectivity import (
    host_ports,
)
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
        if port.belongs_to is None:
            continue
        here = PortRef(device=device, port=port.id)
        there = PortRef(device=device, port=port.belongs_to)
        ours, theirs = axes_at(queries, here), axes_at(queries, there)
        if ours and theirs and not ours & theirs:
            yield RuleOutput(
                f"{port.id} of {device} serves {', '.join(sorted(ours))}, but belongs to "
                f"{port.belongs_to}, which moves {', '.join(sorted(theirs))}.",
                (about(here), about(there)),
                at=(about(here),),
            )


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


RULES = (belonging, axis_name, axes_exchanged)
