"""Motors that two relays turn either way: with both worked they brake, so at work it is one."""

from vervain.electrical.unmet_needs import changes_poles
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pole_changers import commons_of, throws_at


@query
def contacts_left_at_rest(queries: Queries, device: str) -> frozenset[int]:
    """The contacts of a device, by their places inside it, that change poles at the second lead of
    a motor whose first lead others change: these rest while the first are worked.
    """
    part = queries.part_of(device)
    if part is None or not any(name == device for name, _ in queries.pole_changers()):
        return frozenset()
    found: set[int] = set()
    for (port, pin), throws in commons_of(part).items():
        common = PinRef(device=device, port=port, pin=pin)
        # What one coil, or one hand, works moves together.
        own = _workers(queries, common)
        if changes_poles(queries, common) and any(
            (other.device, other.port) < (device, port) and not own & _workers(queries, other)
            for other in _other_commons(queries, common)
        ):
            found |= set(throws)
    return frozenset(found)


def _workers(queries: Queries, common: PinRef) -> set[tuple[str, str]]:
    """What works the contacts at a common."""
    part = queries.part_of(common.device)
    return {
        (common.device, element.worked_by)
        for element in (part.inside if part is not None else ())
        if isinstance(element, Contact) and (common.port, common.pin) in element.pins
    }


@query
def is_turned_either_way(queries: Queries, motor: str) -> bool:
    """Whether both leads of a motor lie at commons of contacts with several throws in use."""
    part = queries.part_of(motor)
    for port in part.ports if part is not None else ():
        leads = [
            PinRef(device=motor, port=port.id, pin=pin.id)
            for pin in port.pins
            if pin.function in ("motor+", "motor-", "load+", "load-")
        ]
        at_common = [lead for lead in leads if any(_is_used(queries, r) for r in queries.net(lead))]
        if len(leads) == len(at_common) == 2:
            return True
    return False


def _is_used(queries: Queries, common: PinRef) -> bool:
    """Whether a pin is the common of contacts of which something comes to several throws."""
    ends = throws_at(queries.part_of(common.device), common)
    return sum(bool(queries.steps(end)) for end in ends) > 1


def _other_commons(queries: Queries, common: PinRef) -> list[PinRef]:
    """The commons that change poles at the other leads of what hangs at one."""
    others = []
    for lead in queries.net(common):
        port = queries.port(lead.port_ref)
        if lead.device == common.device or port is None or port.end != "device":
            continue
        for pin in port.pins:
            ref = PinRef(device=lead.device, port=lead.port, pin=pin.id)
            if ref != lead:
                others += [there for there in queries.net(ref) if changes_poles(queries, there)]
    return others
