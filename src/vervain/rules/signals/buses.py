"""Rules about buses: what ends a pair of lines, and at which volts single lines work."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.electrical.levels import supply_v
from vervain.electrical.unmet_needs import natures
from vervain.model.electrical import FeedOut, LogicInput
from vervain.model.elements import Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_port
from vervain.rules.rule import RuleOutput, rule

# What is meant as a terminator; a resistor far above it holds the line at rest.
TERMINATOR_MOST_OHM = 250.0
# The heaviest load that a driver must bear: TIA-485-A, 54 ohm; two of 120 ohm are 60.
LEAST_OHM = 54.0
# Lines of a bus that some transistor drives low.
LINES = frozenset({"data", "data+", "data-", "clock", "transmit", "receive", "select"})
# Lines that are measured from 0 V, and how far apart their supplies may be in V.
SINGLE_LINES = frozenset({"data", "clock", "transmit", "receive", "select"})
APART_V = 0.6


@rule(
    id="signals.bus-ends",
    consequence="Unreliable",
    scope="device",
    title="A bus is not ended with one terminator at each end",
    reason="A fast edge comes back from an open end and is read as another bit; a third terminator "
    "loads the drivers until their levels are no levels.",
    source="TIA-485-A: 54 ohm at the least; ISO 11898-2: 120 ohm at each end.",
)
def bus_ends(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        pins = {pin.function: PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins}
        plus, minus = pins.get("data+"), pins.get("data-")
        if plus is None or minus is None or "bus head" not in natures(queries, plus):
            continue
        ends = _terminators(queries, plus, minus)
        if not ends:
            continue
        together_ohm = 1 / sum(1 / ohms for _, ohms in ends)
        ref = PortRef(device=device, port=port.id)
        named = ", ".join(dict.fromkeys(at for at, _ in ends))
        if len(ends) == 1:
            yield RuleOutput(
                f"The bus of {device} {port.id} has a terminator at {named} only.",
                (about(ref), about(ends[0][0])),
                at=(about_port(plus),),
                consequence="Workmanship",
            )
        elif together_ohm < LEAST_OHM:
            yield RuleOutput(
                f"{len(ends)} terminators load the bus of {device} {port.id}: {named}.",
                (about(ref), *(about(at) for at, _ in ends)),
                at=(about_port(plus),),
                value=round(together_ohm, 1),
                limit=LEAST_OHM,
                unit="Ω",
                over=False,
            )


def _terminators(queries: Queries, plus: PinRef, minus: PinRef) -> list[tuple[str, float]]:
    """What lies between the two lines of a bus, each with its device."""
    high, low = queries.net(plus), set(queries.net(minus))
    found: list[tuple[str, float]] = []
    for device in dict.fromkeys(ref.device for ref in high):
        part = queries.part_of(device)
        for element in part.inside if part else ():
            if not isinstance(element, Resistor) or element.resistance_ohm > TERMINATOR_MOST_OHM:
                continue
            a, b = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
            if (a in high and b in low) or (b in high and a in low):
                found.append((device, element.resistance_ohm))
    for ref in high:
        pin = queries.pin(ref)
        entry = pin.electrical if pin else None
        if isinstance(entry, LogicInput) and entry.termination_ohm:
            found.append((ref.device, entry.termination_ohm))
    return found


@rule(
    id="signals.bus-volts",
    consequence="Unreliable",
    scope="device",
    title="A bus works at other volts than a device on it",
    reason="A line goes up to the supply of whoever drives it, or pulls it up. A board of 3.3 V "
    "may not bear 5 V; 3.3 V may be too low for a board of 5 V.",
    source="JEDEC JESD8C: 3.3 V logic bears 0.3 V above its supply; 5 V CMOS reads high from "
    "3.5 V.",
)
def bus_volts(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        given = [pin.electrical for pin in port.pins if isinstance(pin.electrical, FeedOut)]
        if port.kind != "bus" or port.end != "host" or not given:
            continue
        said: set[str] = set()
        for pin in port.pins:
            if pin.function not in SINGLE_LINES:
                continue
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            for other in queries.net(ref):
                fed = supply_v(queries, other)
                is_line = (there := queries.pin(other)) and there.function in SINGLE_LINES
                if other.device == device or other.device in said or fed is None or not is_line:
                    continue
                apart_v = max(fed[0] - given[0].highest_v, given[0].lowest_v - fed[1])
                if apart_v > APART_V:
                    said.add(other.device)
                    yield RuleOutput(
                        f"{other.device} works at {fed[1]:.2g} V, the bus of {device} {port.id} "
                        f"at {given[0].nominal_v:g} V.",
                        (about(ref), about(other)),
                        at=(about_port(ref),),
                        detail=other.device,
                    )


@rule(
    id="signals.bus-on-rail",
    consequence="Damage",
    scope="device",
    title="A supply comes to a line of a bus",
    reason="What drives the line low shorts the supply through its own transistor. It does not "
    "matter whether a wire, a fuse or a closing contact brings it.",
    source="Kirchhoff's laws; joined by copper alone it is told by ports.partner.",
)
def bus_on_rail(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if pin.function not in LINES or pin.electrical is not None or not queries.steps(at):
                continue
            source = next(iter(sources_of(queries, at)), None)
            if source is None or source.pin in queries.net(at):
                continue
            yield RuleOutput(
                f"{source.pin.device} brings {source.feed.nominal_v:g} V to {pin.text} of "
                f"{device}, a line of a bus.",
                (about(at), about(source.pin)),
                at=(about(at),),
            )


@rule(
    id="signals.bridge-on-rail",
    consequence="Won't run",
    scope="device",
    title="The output of a measuring bridge lies on 0 V",
    reason="Both ends of what a bridge gives stand at half of what feeds it, and differ by "
    "millivolts. One of them held at 0 V, half of the bridge is shorted.",
    source="Wheatstone's bridge: U = U_e (R2/(R1+R2) - R4/(R3+R4)).",
)
def bridge_on_rail(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if not any(pin.function == "excitation+" for pin in port.pins):
            continue
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if pin.function not in ("measure+", "measure-") or not queries.steps(at):
                continue
            zero = next((ref for ref in queries.net(at) if "return" in natures(queries, ref)), None)
            if zero is not None:
                yield RuleOutput(
                    f"{device} measures nothing: {pin.text} lies on 0 V of {zero.device}.",
                    (about(at), about(zero)),
                    at=(about(at),),
                )


RULES = (bus_ends, bus_volts, bus_on_rail, bridge_on_rail)
