"""Rules about what a port gives: pins of the processor, abilities, jumpers; and alternates."""

from collections.abc import Iterator
from itertools import combinations

from vervain.model.elements import Bridge
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import (
    host_ports,
    motors_of,
    neighbours_at,
    occupants,
    paths_from,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_port
from vervain.rules.fixes import SetSetting
from vervain.rules.ports.occupancy import free_fit, move_to
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="ports.shared-pin",
    consequence="Won't run",
    scope="device",
    title="Two used ports share one pin of the processor",
    reason="Both ports end at the same pin: the controller cannot tell their signals apart, and "
    "what it gives to one goes to the other as well.",
    source="The part's own list of shared pins.",
)
def shared_pin(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Bridge) or not element.name:
            continue
        ports = dict.fromkeys(port for port, _ in element.pins)
        refs = [PortRef(device=device, port=port) for port in ports]
        seated = {ref: occupants(queries, ref) for ref in refs}
        for first, second in combinations([ref for ref in refs if seated[ref]], 2):
            ours, theirs = seated[first][0], seated[second][-1]
            if ours == theirs:
                continue
            answer = free_fit(queries, theirs)
            yield RuleOutput(
                f"{first.port} and {second.port} of {device} share {element.name}: "
                f"{ours.device} and {theirs.device} meet there.",
                (about(first), about(second), about(ours.device), about(theirs.device)),
                detail=f"{first.port}-{second.port}",
                fixes=(move_to(answer, theirs),) if answer else (),
            )


@rule(
    id="ports.ability",
    consequence="Won't run",
    scope="device",
    title="A pin cannot do what the device needs",
    reason="Pulse width, counting and interrupts are done by parts of the processor that only some "
    "of its pins reach; on a plain pin a fan runs at full speed or not at all, and edges are lost.",
    source="The parts' own lists of what their pins can do.",
)
def ability(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if port.end != "device" or not pin.wants:
                continue
            ref = PortRef(device=device, port=port.id)
            for host in host_ports(queries, ref):
                lacking = missing_abilities(
                    queries, PinRef(device=device, port=port.id, pin=pin.id)
                )
                if not lacking:
                    continue
                answer = free_fit(queries, ref)
                yield RuleOutput(
                    f"{device} needs {' and '.join(lacking)}; {host.device} {host.port} has none.",
                    (about(device), about(host)),
                    at=(about_port(host),),
                    fixes=(move_to(answer, ref),) if answer else (),
                )


def missing_abilities(queries: Queries, pin: PinRef) -> tuple[str, ...]:
    """What a device pin wants and none of the host pins that it reaches can do."""
    wants = queries.pin(pin)
    for way in paths_from(queries, pin):
        there = queries.pin(way.end) if way.lands else None
        if there is not None and there.abilities is not None and wants is not None:
            return tuple(name for name in wants.wants if name not in there.abilities)
    return ()


@rule(
    id="ports.reserved",
    consequence="Won't run",
    scope="device",
    title="A jumper keeps a port for something else",
    reason="While the jumper stands as it does, the port repeats another one or its contacts are "
    "bridged; what is plugged in does not do what its name says.",
    source="The part's own jumpers.",
)
def reserved(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        ref = PortRef(device=device, port=port.id)
        for item in port.reserved:
            seated = occupants(queries, ref)
            if not seated or queries.setting(device, item.option) != item.value:
                continue
            if item.twin_of is not None and _is_twin(queries, ref, item.twin_of):
                continue
            option = part.option(item.option) if part else None
            taken = (
                {r.value for p in part.ports for r in p.reserved if r.bridged} if part else set()
            )
            others = [c for c in (option.choices if option else ()) if c != item.value]
            # Rather the choice that bridges no other port's contacts.
            free = next(iter(sorted(others, key=lambda choice: choice in taken)), None)
            fixes: tuple[Fix, ...] = ()
            if free is not None:
                remedy = SetSetting(device=device, key=item.option, value=free)
                fixes = (Fix(words=f"set {item.option} of {device} to {free}", remedy=remedy),)
            named = " and ".join(dict.fromkeys(seat.device for seat in seated))
            does = f"repeats {item.twin_of}" if item.twin_of else "is bridged"
            yield RuleOutput(
                f"{named} sits in {port.id}, which {does} while {item.option} is at {item.value}.",
                (about(ref), *(about(seat.device) for seat in seated)),
                detail=port.id,
                consequence="Damage" if item.bridged else None,
                fixes=fixes,
            )


def _is_twin(queries: Queries, ref: PortRef, twin: str) -> bool:
    """Whether what sits in both ports moves one axis: then the jumper is as it should be."""
    other = PortRef(device=ref.device, port=twin)
    axes = []
    for port in (ref, other):
        axes.append({a.id for seat in _driven(queries, port) if (a := queries.axis_of(seat))})
    return bool(axes[0] & axes[1])


def _driven(queries: Queries, port: PortRef) -> list[str]:
    """The devices at a port; for a slot, the motors of the ports that need it."""
    part = queries.part_of(port.device)
    found = [seat.device for seat in neighbours_at(queries, port)]
    for other in part.ports if part else ():
        if other.needs == port.port:
            seats = occupants(queries, PortRef(device=port.device, port=other.id))
            found += [seat.device for seat in seats]
    return [*found, *(motor for name in found for motor in motors_of(queries, name))]


RULES = (
    shared_pin,
    ability,
    reserved,
)
