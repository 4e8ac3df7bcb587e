"""What a cable carries: the functions and kinds of everything its cores come to."""

from typing import Literal

from vervain.model.base import Record
from vervain.model.machine import PinRef, ends_of
from vervain.queries.connectivity import paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

MAINS = ("line", "neutral")
# What may be at mains, or says nothing of its voltage.
OF_EITHER = frozenset({*MAINS, "pe", "shield", "none", "through", "com", "no", "nc"})
EARTH_ALONE = frozenset({"pe"})
# What a chopped current comes by. A motor behind a relay is a load like others.
MOTOR_KINDS = ("motor phases", "bridge output")
ENCODER_KINDS = ("encoder",)
SIGNAL_KINDS = (
    "sensor", "contact", "encoder", "servo", "digital input", "analogue input", "analogue sensor",
    "step and direction", "thermistor", "thermistor input", "radio", "pulse input", "bus",
    "analogue output", "analogue command", "bridge control", "drive control", "transducer",
    "transducer input",
)  # fmt: skip
STOP_KINDS = ("stop contacts", "stop input")
Service = Literal["mains", "motor", "encoder", "stop", "signal", "feed"]


@query
def port_kinds(queries: Queries, cable_id: str) -> frozenset[str]:
    """The kinds of all ports that a cable's conductors come to, through connectors."""
    return frozenset(
        kind
        for hookup in queries.hookups_in(cable_id)
        for kind in kinds_of_hookup(queries, hookup.id)
    )


@query
def kinds_of_hookup(queries: Queries, hookup_id: str) -> frozenset[str]:
    """The kinds of the ports that a hookup's conductors come to, through connectors; an earth alone
    comes to none.
    """
    hookup = queries.hookup(hookup_id)
    if hookup is None or functions_of_hookup(queries, hookup_id) == EARTH_ALONE:
        return frozenset()
    kinds: set[str] = set()
    for end, side in ((hookup.a, "a"), (hookup.b, "b")):
        port = queries.port(end)
        if port is not None:
            kinds.add(port.kind)
        for row in hookup.conductors:
            ref = PinRef(device=end.device, port=end.port, pin=getattr(row, side))
            for way in paths_from(queries, ref):
                far = queries.port(way.end.port_ref)
                # Other wires in the same terminal are no way of this one.
                if way.lands and far is not None and way.steps[0].hookup == hookup_id:
                    kinds.add(far.kind)
    return frozenset(kinds)


@query
def functions_of_hookup(queries: Queries, hookup_id: str) -> frozenset[str]:
    """The functions of the pins at both ends of a hookup."""
    hookup = queries.hookup(hookup_id)
    found: set[str] = set()
    for end, side in ((hookup.a, "a"), (hookup.b, "b")) if hookup else ():
        for row in hookup.conductors if hookup else ():
            pin = queries.pin(PinRef(device=end.device, port=end.port, pin=getattr(row, side)))
            if pin is not None:
                found.add(pin.function)
    return frozenset(found)


class Carried(Record, frozen=True, kw_only=True):
    """What a conductor comes to: whether it is meant for mains, through whatever contacts and
    fuses, and whether for extra-low voltage, by the functions of the pins at its ends.
    """

    is_mains: bool
    is_low: bool


@query
def carried_by(queries: Queries, hookup_id: str) -> tuple[Carried, ...]:
    """What each conductor of a hookup comes to."""
    hookup = queries.hookup(hookup_id)
    found = []
    for row in hookup.conductors if hookup else ():
        ends = ends_of(hookup, row) if hookup else ()
        rails = (queries.pin(ref) for end in ends for ref in queries.rail(end))
        own = frozenset(pin.function for end in ends if (pin := queries.pin(end)) is not None)
        is_low = not own <= OF_EITHER
        is_mains = any(pin is not None and pin.function in MAINS for pin in rails)
        found.append(Carried(is_mains=is_mains and not is_low and "pe" not in own, is_low=is_low))
    return tuple(found)


def carries_mains(queries: Queries, hookup_id: str) -> bool:
    """Whether any conductor of a hookup is at mains."""
    return any(row.is_mains for row in carried_by(queries, hookup_id))


def service_of(kinds: frozenset[str], is_mains: bool) -> Service:
    """What something is laid as: mains keep from everything, motors from signals."""
    if is_mains:
        return "mains"
    if kinds & set(MOTOR_KINDS):
        return "motor"
    if kinds & set(STOP_KINDS):
        return "stop"
    if kinds & set(ENCODER_KINDS):
        return "encoder"
    return "signal" if kinds & set(SIGNAL_KINDS) else "feed"


@query
def service_of_hookup(queries: Queries, hookup_id: str) -> Service:
    """What a hookup is laid as."""
    return service_of(kinds_of_hookup(queries, hookup_id), carries_mains(queries, hookup_id))


@query
def service_of_cable(queries: Queries, cable_id: str) -> Service:
    """What a cable is laid as."""
    is_mains = any(carries_mains(queries, hookup.id) for hookup in queries.hookups_in(cable_id))
    return service_of(port_kinds(queries, cable_id), is_mains)
