"""What a pin reaches: along conductors and through in-line connectors, up to real devices."""

from collections.abc import Callable, Iterable, Iterator

from vervain.model.base import Record
from vervain.model.elements import Bridge, Contact, Element, Fuse, Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import is_fitted
from vervain.queries.engine import query
from vervain.queries.index import Net
from vervain.queries.machine_queries import Queries
from vervain.queries.step import Step
from vervain.queries.walk import reached

# A host pin with one of these functions is shared freely: it does not make a port occupied.
SHARED_FUNCTIONS = frozenset({"plus", "zero", "pe", "shield", "none", "through"})


class ConductorPath(Record, frozen=True, kw_only=True):
    """A pin followed outwards: the steps through connectors, to the last pin reached."""

    start: PinRef
    steps: tuple[Step, ...]
    end: PinRef
    lands: bool


def steps_from(queries: Queries, pin: PinRef) -> tuple[Step, ...]:
    """Every conductor at a pin, seen from it."""
    return queries.steps(pin)


@query
def fitted_bridges(queries: Queries, device: str) -> frozenset[Bridge]:
    """The bridges inside a device that are there as it is set: its jumpers, and its copper."""
    part, settings = queries.part_of(device), queries.settings(device)
    return frozenset(
        element
        for element in (part.inside if part else ())
        if isinstance(element, Bridge) and is_fitted(element, part, settings)
    )


@query
def joined_inside(queries: Queries, pin: PinRef) -> tuple[PinRef, ...]:
    """The pins that the same device joins to this one inside: by a bridge, or by a resistor in line
    from one of its ports to the other.
    """
    part = queries.part_of(pin.device)
    found: dict[PinRef, None] = {}
    for element in part.inside if part else ():
        if isinstance(element, Resistor):
            if element.pins[0][0] == element.pins[1][0]:
                continue
        elif element not in fitted_bridges(queries, pin.device):
            continue
        if (pin.port, pin.pin) in element.pins:
            for port, other in element.pins:
                if (port, other) != (pin.port, pin.pin):
                    found[PinRef(device=pin.device, port=port, pin=other)] = None
    return tuple(found)


def across(
    queries: Queries, pin: PinRef, passes: Callable[[str, Element], bool]
) -> tuple[PinRef, ...]:
    """The far pins of what is inside a pin's device and begins at it: of the elements that
    `passes`, asked with the device, says yes to.
    """
    part = queries.part_of(pin.device)
    return tuple(
        PinRef(device=pin.device, port=port, pin=other)
        for element in (part.inside if part else ())
        if (pin.port, pin.pin) in element.pins and passes(pin.device, element)
        for port, other in element.pins
        if (port, other) != (pin.port, pin.pin)
    )


def is_contact(device: str, element: Element) -> bool:
    """Whether an element is a contact: where contacts count as closed."""
    return isinstance(element, Contact)


def is_fuse(device: str, element: Element) -> bool:
    """Whether an element is a fuse: where fuses count as whole."""
    return isinstance(element, Fuse)


def nets_reached(
    queries: Queries,
    starts: Iterable[PinRef],
    passes: Callable[[str, Element], bool],
    ends: Callable[[Net], bool] = lambda net: False,
) -> tuple[Net, ...]:
    """The nets that are reached from some pins, nearest first, across the elements that `passes`
    says yes to; from a net that `ends` says yes to it goes no further.
    """

    def beyond(net: Net) -> Iterator[Net]:
        if not ends(net):
            for pin in net:
                for other in across(queries, pin, passes):
                    yield queries.net(other)

    return tuple(reached((queries.net(pin) for pin in starts), beyond))


def is_joint(queries: Queries, designator: str) -> bool:
    """Whether a device is an in-line connector or resistor, which a way passes through; one with
    an L is where mains comes in, and is passed as terminals are.
    """
    part = queries.part_of(designator)
    is_joint = part is not None and part.kind in ("connector", "resistor")
    return is_joint and not any(
        pin.function == "line" for port in (part.ports if part else ()) for pin in port.pins
    )


@query
def paths_from(queries: Queries, pin: PinRef) -> tuple[ConductorPath, ...]:
    """Every way outwards from a pin. A way that ends at an unplugged connector does not land."""
    found: list[ConductorPath] = []

    def follow(here: PinRef, steps: tuple[Step, ...]) -> None:
        for step in steps_from(queries, here):
            taken = (*steps, step)
            passed = {way_step.start.device for way_step in taken}
            if step.end.device in passed:
                continue
            if not is_joint(queries, step.end.device):
                found.append(ConductorPath(start=pin, steps=taken, end=step.end, lands=True))
                continue
            beyond = joined_inside(queries, step.end)
            before = len(found)
            for other in beyond:
                follow(other, taken)
            if len(found) == before:
                last = beyond[0] if beyond else step.end
                found.append(ConductorPath(start=pin, steps=taken, end=last, lands=False))

    follow(pin, ())
    return tuple(found)


@query
def ways_of_port(queries: Queries, ref: PortRef) -> tuple[ConductorPath, ...]:
    """The ways of every pin of a port, pin by pin."""
    port = queries.port(ref)
    return tuple(
        way
        for pin in (port.pins if port else ())
        for way in paths_from(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id))
    )


def is_shared_pin(queries: Queries, pin: PinRef) -> bool:
    """Whether a host pin is a supply, a return or a shield that several devices may share."""
    port, found = queries.port(pin.port_ref), queries.pin(pin)
    if port is None or found is None:
        return True
    if all(other.function in SHARED_FUNCTIONS for other in port.pins):
        return False
    return found.function in SHARED_FUNCTIONS


@query
def occupants(queries: Queries, ref: PortRef) -> tuple[PortRef, ...]:
    """Device ports that take a host port: those whose ways land on a pin that is not shared."""
    found: dict[PortRef, None] = {}
    for way in ways_of_port(queries, ref):
        if way.lands and not is_shared_pin(queries, way.start):
            found[way.end.port_ref] = None
    return tuple(found)


@query
def neighbours_at(queries: Queries, ref: PortRef) -> tuple[PortRef, ...]:
    """Every port that any pin of this port reaches, in pin order."""
    found = {way.end.port_ref: None for way in ways_of_port(queries, ref) if way.lands}
    return tuple(found)


@query
def host_ports(queries: Queries, ref: PortRef) -> tuple[PortRef, ...]:
    """Host ports that a device port occupies."""
    found: dict[PortRef, None] = {}
    for way in ways_of_port(queries, ref):
        port = queries.port(way.end.port_ref) if way.lands else None
        if port is not None and port.takes_plugs and not is_shared_pin(queries, way.end):
            found[way.end.port_ref] = None
    return tuple(found)


@query
def terminal_of(queries: Queries, lead: PinRef) -> PinRef | None:
    """The motor terminal of a driver that a lead reaches."""
    for way in paths_from(queries, lead):
        port = queries.port(way.end.port_ref) if way.lands else None
        if port is not None and port.kind == "motor phases" and port.end == "host":
            return way.end
    return None


@query
def driver_ports_of(queries: Queries, motor: str) -> tuple[PortRef, ...]:
    """Driver ports that any lead of a motor reaches."""
    part = queries.part_of(motor)
    found: dict[PortRef, None] = {}
    for port in part.ports if part else ():
        if port.kind == "motor phases" and port.end == "device":
            for pin in port.pins:
                terminal = terminal_of(queries, PinRef(device=motor, port=port.id, pin=pin.id))
                if terminal is not None:
                    found[terminal.port_ref] = None
    return tuple(found)


@query
def drivers_of_port(queries: Queries, port: PortRef) -> tuple[str, ...]:
    """The devices that drive a motor port: its own device, or the module in the slot it needs."""
    found = queries.port(port)
    if found is None or found.needs is None:
        return (port.device,)
    slot = PortRef(device=port.device, port=found.needs)
    return tuple(dict.fromkeys(ref.device for ref in neighbours_at(queries, slot)))


@query
def drivers_of(queries: Queries, motor: str) -> tuple[str, ...]:
    """The drivers that any lead of a motor reaches, plug-in ones in their slots."""
    found = (
        name for ref in driver_ports_of(queries, motor) for name in drivers_of_port(queries, ref)
    )
    return tuple(dict.fromkeys(found))


@query
def motors_of(queries: Queries, driver: str) -> tuple[str, ...]:
    """The motors whose leads a driver's terminals reach, or those of the slot that it sits in."""
    part = queries.part_of(driver)
    ports = [PortRef(device=driver, port=port.id) for port in (part.ports if part else ())]
    found: dict[str, None] = {}
    for ref in ports:
        port = queries.port(ref)
        if port is not None and port.kind == "driver slot":
            for slot in neighbours_at(queries, ref):
                host = queries.part_of(slot.device)
                ports += [
                    PortRef(device=slot.device, port=other.id)
                    for other in (host.ports if host else ())
                    if other.needs == slot.port
                ]
        elif port is not None and port.kind == "motor phases" and port.end == "host":
            for seat in neighbours_at(queries, ref):
                other_port = queries.port(seat)
                if other_port is not None and other_port.end == "device":
                    found[seat.device] = None
    return tuple(found)
