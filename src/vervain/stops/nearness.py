"""Which wires could touch what: by ISO 13849-2, tables D.4 to D.6, with what is drawn of places."""

from vervain.model.connectors import connector_of
from vervain.model.machine import PinRef, PortRef, ends_of
from vervain.queries.connectivity import is_fuse, nets_reached
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.circuit import Wire
from vervain.stops.compiling import circuit_of

Places = frozenset[str | None]


def is_within_a_box(queries: Queries, wire: Wire) -> bool:
    """Whether both ends of a wire are in one closed place: fixed and protected there, it need not
    be supposed to touch anything (table D.4).
    """
    places = _places(queries, wire)
    return len(places) == 1 and _is_closed(queries, next(iter(places)))


def are_safe_terminals(queries: Queries, ref: PortRef) -> bool:
    """Whether a port has terminals in a closed place: neighbours need not be supposed to touch
    there (tables D.5 and D.6).
    """
    port, device = queries.port(ref), queries.device(ref.device)
    kind = connector_of(port.connector) if port is not None else None
    is_terminal = kind is not None and kind.family.takes_wires
    return is_terminal and device is not None and _is_closed(queries, device.place)


def could_touch_rail(queries: Queries, wire: Wire, is_plus: bool) -> bool:
    """Whether a wire could touch the plus or the minus that the stops are fed by: a wire of it is
    in the same cable, or in the same open place and one of both has no sheath (table D.4: wires in
    separate sheathed cables need not be supposed to touch).
    """
    hookup = queries.hookup(wire[0])
    if hookup is None or _rail(queries, is_plus) & set(ends_of(hookup, hookup.conductors[wire[1]])):
        # It is on that rail already.
        return False
    own = hookup.cable
    own_sheathed = _is_sheathed(queries, own)
    own_open = _open_places(queries, wire)
    for cable, sheathed, places in _along_rail(queries, is_plus):
        if own and own == cable:
            return True
        if not (own_sheathed and sheathed) and own_open & places:
            return True
    return False


@query
def _along_rail(queries: Queries, is_plus: bool) -> tuple[tuple[str | None, bool, Places], ...]:
    """Of the wires of the stops' plus, or minus, up to the first contact: cable, whether it has a
    sheath, and the open places that it comes to.
    """
    rail, found = _rail(queries, is_plus), set()
    for wire in circuit_of(queries).wires:
        hookup = queries.hookup(wire[0])
        if hookup is not None and rail & set(ends_of(hookup, hookup.conductors[wire[1]])):
            sheathed = _is_sheathed(queries, hookup.cable)
            found.add((hookup.cable, sheathed, _open_places(queries, wire)))
    return tuple(sorted(found, key=str))


@query
def _rail(queries: Queries, is_plus: bool) -> frozenset[PinRef]:
    """The pins that lie at the plus, or the minus, of the stops' source by copper and fuses."""
    circuit = circuit_of(queries)
    if circuit.control < 0:
        return frozenset()
    source = circuit.sources[circuit.control]
    node = source.plus if is_plus else source.minus
    start = next(pin for pin, number in circuit.node_of.items() if number == node)
    return frozenset(pin for net in nets_reached(queries, [start], is_fuse) for pin in net)


def _is_sheathed(queries: Queries, cable_id: str | None) -> bool:
    cable = queries.cable(cable_id) if cable_id else None
    part = queries.cable_part(cable.part) if cable is not None else None
    return part is not None and part.is_sheathed


def _places(queries: Queries, wire: Wire) -> Places:
    """The places of both ends; None where an end is in none, which may be anywhere."""
    hookup = queries.hookup(wire[0])
    devices = [queries.device(ref.device) for ref in (hookup.a, hookup.b)] if hookup else []
    return frozenset(device.place for device in devices if device is not None)


def _open_places(queries: Queries, wire: Wire) -> Places:
    return frozenset(p for p in _places(queries, wire) if not _is_closed(queries, p))


def _is_closed(queries: Queries, place_id: str | None) -> bool:
    place = queries.place(place_id) if place_id else None
    return place is not None and place.closed
