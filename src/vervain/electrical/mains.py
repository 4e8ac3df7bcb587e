"""Where mains comes into a machine: inlets and terminals, but for those that others feed."""

from vervain.model.electrical import MAINS_V, FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import PinFunction, Port, PortKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached

POLES = ("line", "neutral", "pe")
# How many lines three-phase mains have.
THREE = 3
MOTOR_PHASES: tuple[PinFunction, ...] = ("phase U", "phase V", "phase W")
# Ports whose pins lie in somebody's line, of whatever volts.
CONTACTS: tuple[PortKind, ...] = ("contact", "relay contact", "stop contacts", "terminals")
TAKING_POWER: tuple[PinFunction, ...] = (
    "plus", "zero", "load+", "load-", "coil+", "coil-", "motor+", "motor-",
)  # fmt: skip


def passes_mains(port: Port) -> bool:
    """Whether mains comes in or goes on at a port: it is no consumer's."""
    return port.end != "device" and any(pin.function == "line" for pin in port.pins)


def takes_mains(feed: FeedIn) -> bool:
    """Whether what takes power works at mains."""
    return feed.middle_v is not None and feed.middle_v >= MAINS_V


@query
def is_not_for_mains(queries: Queries, at: PinRef) -> bool:
    """Whether a pin is of what mains has nothing to do at: no contact, fuse or connector, no pole,
    and nothing that takes mains or whose volts are not known.
    """
    pin, port = queries.pin(at), queries.port(at.port_ref)
    if pin is None or port is None or port.end == "through" or port.kind in CONTACTS:
        return False
    if any(other.function in POLES[:2] for other in port.pins):
        return False
    if port.end == "device" and pin.function in MOTOR_PHASES:
        return not is_motor_for_mains(queries, at.device)
    if isinstance(pin.electrical, LogicInput | LogicOutput | FeedOut):
        return True
    feeds = [p.electrical for p in port.pins if isinstance(p.electrical, FeedIn)]
    takes_power = pin.function in TAKING_POWER
    is_known = bool(feeds) and all(feed.middle_v is not None for feed in feeds)
    if any(map(takes_mains, feeds)) or (takes_power and not is_known):
        return False
    return pin.function not in ("pe", "shield", "through")


def has_mains(queries: Queries, device: str) -> bool:
    """Whether mains comes into a device."""
    part = queries.part_of(device)
    return any(pin.function == "line" for port in (part.ports if part else ()) for pin in port.pins)


@query
def mains_entries(queries: Queries) -> frozenset[PinRef]:
    """The line, neutral and earth pins of what brings mains in."""
    return frozenset(pin for device in _that_bring_mains(queries) for pin in _pins(queries, device))


@query
def _that_bring_mains(queries: Queries) -> tuple[str, ...]:
    """Of the terminals that are joined to each other those that the others hang on: what protects
    them, or what nothing comes to at its first terminals.
    """
    passing = [device for device in queries.devices() if _pins(queries, device)]
    found: list[str] = []
    seen: set[str] = set()
    for device in passing:
        if device not in seen:
            joined = list(reached([device], lambda name: _linked(queries, name)))
            seen.update(joined)
            found.append(min(joined, key=lambda name: _is_behind(queries, name)))
    return tuple(found)


def _is_behind(queries: Queries, device: str) -> tuple[bool, bool]:
    """Sort key: what is fed by others comes last, what protects them first."""
    part = queries.part_of(device)
    guards = any(isinstance(element, Fuse | Contact) for element in (part.inside if part else ()))
    return _is_fed(queries, device), not guards


def _pins(queries: Queries, device: str) -> tuple[PinRef, ...]:
    part = queries.part_of(device)
    return tuple(
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        if passes_mains(port)
        for pin in port.pins
        if pin.function in POLES
    )


def _linked(queries: Queries, device: str) -> list[str]:
    """The other terminals of mains that conductors go to."""
    ends = {
        step.end for pin in _pins(queries, device) for step in queries.steps(pin)
        if step.end.device != device
    }  # fmt: skip
    return sorted({end.device for end in ends if end in _pins(queries, end.device)})


def _is_fed(queries: Queries, device: str) -> bool:
    """Whether other terminals of mains come to the first ones of this."""
    pins = _pins(queries, device)
    others = set(_linked(queries, device))
    return any(
        step.end.device in others
        for pin in pins
        if pin.port == pins[0].port
        for step in queries.steps(pin)
    )


@query
def poles_on_rail(queries: Queries, first: PinRef) -> tuple[PinRef, ...]:
    """The line and neutral pins on the rail whose first pin this is."""
    return tuple(
        ref for ref in queries.rail(first)
        if (pin := queries.pin(ref)) is not None and pin.function in POLES[:2]
    )  # fmt: skip


@query
def lines_at(queries: Queries, at: PinRef) -> frozenset[str]:
    """The lines of the mains that come to a pin over fuses and closed contacts, as they are printed
    where mains comes in: L1 and L3 behind two contactors that turn a motor round.
    """
    return frozenset(
        pin.text for ref in queries.rail(at)
        if ref in mains_entries(queries) and (pin := queries.pin(ref)) and pin.function == "line"
    )  # fmt: skip


@query
def is_motor_for_mains(queries: Queries, device: str) -> bool:
    """Whether a device is a three-phase motor whose phases may lie at the mains: all, but those
    that are made for lower volts.
    """
    part = queries.part_of(device)
    if part is None or part.kind != "three-phase motor":
        return False
    feeds = [
        pin.electrical for port in part.ports for pin in port.pins
        if pin.function in MOTOR_PHASES and isinstance(pin.electrical, FeedIn)
    ]  # fmt: skip
    return not any(feed.middle_v is not None and feed.middle_v < MAINS_V for feed in feeds)


@query
def lines_that_come_in(queries: Queries) -> int:
    """How many lines the mains of a machine have: one, or three."""
    pins = (queries.pin(ref) for ref in mains_entries(queries))
    return len({pin.text for pin in pins if pin is not None and pin.function == "line"})


def lines_of_taker(queries: Queries, device: str) -> dict[PinRef, frozenset[str]]:
    """The phases of a three-phase motor, or the lines of a drive for three-phase mains, and which
    lines of the mains come to each; empty for anything else.
    """
    part = queries.part_of(device)
    for port in part.ports if part is not None else ():
        is_motor = part is not None and part.kind == "three-phase motor"
        wanted = MOTOR_PHASES if is_motor and port.kind == "motor phases" else ("line",)
        pins = [pin for pin in port.pins if pin.function in wanted]
        if port.end == "device" and len(pins) == THREE:
            refs = (PinRef(device=device, port=port.id, pin=pin.id) for pin in pins)
            return {ref: lines_at(queries, ref) for ref in refs}
    return {}
