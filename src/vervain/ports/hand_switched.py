"""Which switch or pedal a hand works a load with: the one that is called as the load is, in a
machine where nothing would read it, or no output would do for the load.
"""

from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact
from vervain.model.machine import PortRef
from vervain.model.part import PartKind
from vervain.ports.called_alike import are_called_alike
from vervain.ports.fit import ranked_fits
from vervain.ports.port_wishes import is_closed_by_hand, is_main_switch, may_go, start_button_port
from vervain.ports.switched_loads import LOADS
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What may be on whenever there is power.
ON_WITH_THE_SUPPLY: tuple[PartKind, ...] = ("fan", "lamp", "load")


@query
def switch_of_load(queries: Queries, load: str) -> PortRef | None:
    """The contact that lies in the feed of a load; None where there is none, or several."""
    part = queries.part_of(load)
    if part is None or part.kind not in LOADS or queries.hookups_of(load):
        return None
    fed = [
        PortRef(device=load, port=port.id) for port in part.ports
        if port.end == "device" and any(isinstance(p.electrical, FeedIn) for p in port.pins)
    ]  # fmt: skip
    found = [ref for ref in _switches(queries) if _is_for(queries, ref, load)]
    if len(found) != 1 or len(fed) != 1:
        return None
    has_no_output = bool(ranked_fits(queries, fed[0])) and _fits_nowhere(queries, fed[0])
    works_it = has_no_output and _bears(queries, found[0], fed[0])
    if _is_read_somewhere(queries, found[0]) and not works_it:
        return None
    return found[0]


def _fits_nowhere(queries: Queries, plug: PortRef) -> bool:
    """Whether no output of the machine, free or not, would do for a load."""
    answers = ranked_fits(queries, plug)
    return not any(answer.verdict != "does not fit" or answer.taken_by for answer in answers)


def _bears(queries: Queries, switch: PortRef, load: PortRef) -> bool:
    """Whether the contact of a switch is known to carry what a load takes."""
    part, port = queries.part_of(switch.device), queries.port(load)
    most_a = [
        element.current_max_a for element in (part.inside if part is not None else ())
        if isinstance(element, Contact) and element.pins[0][0] == switch.port
    ]  # fmt: skip
    taken_a = [
        pin.electrical.current_a for pin in (port.pins if port is not None else ())
        if isinstance(pin.electrical, FeedIn) and pin.electrical.current_a is not None
    ]  # fmt: skip
    known = [a for a in most_a if a is not None]
    return bool(known and taken_a) and max(taken_a) <= max(known)


@query
def fed_all_the_time(queries: Queries, plug: PortRef) -> bool:
    """Whether a fan, a lamp or the like hangs on its supply alone: no output of the machine would
    do for it, free or not, and no switch is called as it is.
    """
    part, port = queries.part_of(plug.device), queries.port(plug)
    if part is None or port is None or part.kind not in ON_WITH_THE_SUPPLY:
        return False
    is_only = sum(other.kind == "load" for other in part.ports) == 1
    if port.kind != "load" or not is_only or queries.hookups_of(plug.device):
        return False
    called = (queries.device(ref.device) for ref in _switches(queries))
    if any(d is not None and are_called_alike(queries, plug.device, d.name) for d in called):
        return False
    return _fits_nowhere(queries, plug)


@query
def worked_by_hand(queries: Queries) -> frozenset[str]:
    """The loads that a switch of their own works, and these switches."""
    pairs = ((load, switch_of_load(queries, load)) for load in queries.devices())
    return frozenset(
        name for load, switch in pairs if switch is not None for name in (load, switch.device)
    )


@query
def _switches(queries: Queries) -> tuple[PortRef, ...]:
    """The contacts that a hand closes and that nothing is joined to, but for what starts."""
    return tuple(
        PortRef(device=name, port=port.id)
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None and not queries.hookups_of(name)
        and not is_main_switch(queries, name)
        for port in part.ports
        if is_closed_by_hand(part, port.id)
        and start_button_port(queries) != PortRef(device=name, port=port.id)
    )  # fmt: skip


def _is_for(queries: Queries, switch: PortRef, load: str) -> bool:
    """Whether a switch is called as a load is, and as no other."""
    device = queries.device(switch.device)
    if device is None:
        return False
    loads = [
        name for name in queries.devices()
        if (part := queries.part_of(name)) is not None and part.kind in LOADS
        and are_called_alike(queries, name, device.name)
        and not any(pin.function == "line" for port in part.ports for pin in port.pins)
    ]  # fmt: skip
    return loads == [load]


def _is_read_somewhere(queries: Queries, plug: PortRef) -> bool:
    return any(
        answer.verdict != "does not fit" and may_go(queries, plug, answer.host)
        for answer in ranked_fits(queries, plug)
    )
