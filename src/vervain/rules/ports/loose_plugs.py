"""Rules about plugs that are in no port, and devices that nothing is joined to."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.electrical.mains import lines_of_taker
from vervain.electrical.turned_motors import is_turned_either_way
from vervain.electrical.unmet_needs import is_started
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PartKind, Port
from vervain.ports.bridge_channels import works_nothing
from vervain.ports.ways_to_start import start_to_join
from vervain.queries.connectivity import (
    host_ports,
    ways_of_port,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import MovePlug
from vervain.rules.ports.occupancy import PLUGGED, free_fit, switches_a_load
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.contacts import input_of

# Relays, which one adds to have them switch something.
RELAYS: tuple[PartKind, ...] = ("solid-state relay", "relay module", "contactor")
# What may lie ready without a wire.
NEVER_LOOSE = ("connector", "jumper", "terminal strip")


def _without_a_wire(queries: Queries, device: str) -> list[str]:
    """The loads of a device at which no wire is, beside others of it: one colour of a beacon."""
    part = queries.part_of(device)
    loads = [
        port for port in (part.ports if part else ())
        if port.kind == "load" and port.end == "device" and not port.optional
    ]  # fmt: skip
    if len(loads) < 2 or not queries.hookups_of(device):
        return []
    return [
        port.id for port in loads
        if not is_started(queries, PortRef(device=device, port=port.id))
    ]  # fmt: skip


def _switching_nothing(queries: Queries, device: str) -> list[str]:
    """The contacts that something works and nothing is joined to, where nothing is joined to any
    other that is worked with them.
    """
    part = queries.part_of(device)
    contacts: dict[tuple[str, str | None], list[Contact]] = {}
    for element in part.inside if part is not None and part.kind in RELAYS else ():
        if isinstance(element, Contact):
            contacts.setdefault((element.worked_by, element.worked_pin), []).append(element)
    found = []
    for (port, pin), worked in contacts.items():
        by = PortRef(device=device, port=port)
        at = PinRef(device=device, port=port, pin=pin) if pin is not None else None
        is_worked = bool(queries.steps(at)) if at is not None else is_started(queries, by)
        ends = [
            PinRef(device=device, port=name, pin=end)
            for element in worked for name, end in element.pins
        ]  # fmt: skip
        if is_worked and not any(map(queries.steps, ends)):
            found.append(ends[0].port)
    return found


@rule(
    id="ports.loose",
    consequence="Won't run",
    scope="device",
    title="A device is in no port",
    reason="What is not plugged in does nothing, and an axis that relies on it cannot home, "
    "count or move.",
    source="The machine's own list of devices.",
)
def loose(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or device in {alternate.device for alternate in queries.alternates()}:
        return
    if not queries.hookups_of(device) and part.kind not in NEVER_LOOSE:
        plugged = [p for p in part.ports if p.end == "device" and p.kind in PLUGGED]
        if not plugged:
            yield RuleOutput(f"{device} is joined to nothing.", (about(device),), unfinished=True)
    for name in _without_a_wire(queries, device):
        at = about(PortRef(device=device, port=name))
        yield RuleOutput(f"{device} {name} is joined to nothing.", (at,), unfinished=True)
    for name in _switching_nothing(queries, device):
        at = about(PortRef(device=device, port=name))
        yield RuleOutput(
            f"{device} switches nothing yet: {name} is joined to nothing.", (at,), unfinished=True
        )
    for port in part.ports:
        is_needed = not port.optional or port.id == start_to_join(queries, device)
        if port.end != "device" or port.kind not in PLUGGED or not is_needed:
            continue
        ref = PortRef(device=device, port=port.id)
        if host_ports(queries, ref):
            continue
        if port.kind == "contact" and (
            input_of(queries, device) or switches_a_load(queries, device)
        ):
            continue
        if port.kind == "bridge motor" and (
            _is_fed_straight(queries, ref, port) or is_turned_either_way(queries, device)
        ):
            continue
        if port.kind == "motor phases" and any(lines_of_taker(queries, device).values()):
            continue
        if _lands_somewhere(queries, ref) or works_nothing(queries, ref):
            continue
        answer = free_fit(queries, ref)
        axis = queries.axis_of(device)
        homes = axis is not None and axis.home == device
        sentence = (
            f"{axis.id} cannot home: {device} is loose."
            if axis and homes
            else (
                f"{_what_is_loose(queries, ref)} is loose."
                if not is_started(queries, ref)
                else f"The plug of {device} is in no port."
            )
        )
        fix = None
        if answer is not None:
            words = f"put {device} into {answer.host.device} {answer.host.port}"
            fix = Fix(words=words, remedy=MovePlug(device_port=ref, host_port=answer.host))
        yield RuleOutput(
            sentence,
            (about(ref),),
            detail=port.id,
            fixes=(fix,) if fix else (),
            unfinished=not is_started(queries, ref),
        )


def _what_is_loose(queries: Queries, ref: PortRef) -> str:
    """A device, or its plug where another plug of it is in a port."""
    part = queries.part_of(ref.device)
    others = [PortRef(device=ref.device, port=port.id) for port in part.ports] if part else []
    is_one_of_several = any(other != ref and host_ports(queries, other) for other in others)
    return f"{ref.device} {ref.port}" if is_one_of_several else ref.device


def _is_fed_straight(queries: Queries, ref: PortRef, port: Port) -> bool:
    """Whether a motor lies at a source, with or without contacts: it needs no bridge then."""
    return any(
        sources_of(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id))
        for pin in port.pins
    )


def _lands_somewhere(queries: Queries, ref: PortRef) -> bool:
    """Whether a device port reaches another device in a way that another rule judges: a host, or
    what works a drive by hand.
    """
    ours = queries.port(ref)
    ends = ("host", "device") if ours is not None and ours.takes_plugs else ("host",)
    return any(
        way.lands and (port := queries.port(way.end.port_ref)) is not None and port.end in ends
        for way in ways_of_port(queries, ref)
    )


RULES = (loose,)
