"""Rules about how windings are used, and what was measured at them."""

from collections.abc import Iterator, Sequence

from vervain.leads.merge import Contradiction, contradictions
from vervain.leads.motors import datasheet_of, leads_port
from vervain.leads.phases import phases_of
from vervain.leads.resistance import (
    AGREES,
    allowed_ohm,
    differs,
    meter_error_ohm,
    winding_resistances,
)
from vervain.leads.winding_connection import reversed_windings, wired_use
from vervain.model.electrical import LogicInput
from vervain.model.elements import Winding
from vervain.model.machine import PinRef
from vervain.queries.connectivity import terminal_of
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, Fix, about, about_port
from vervain.rules.fixes import UseWindings
from vervain.rules.leads.coils import exchange
from vervain.rules.rule import RuleOutput, rule

SERVO_ORDER = ("signal", "plus", "zero")
# Colours of three-lead and four-lead sensors by IEC 60947-5-2.
SENSOR_COLOURS = {"BN": "plus", "BU": "zero", "BK": "signal", "WH": "signal"}


@rule(
    id="leads.winding-reversed",
    consequence="Damage",
    scope="device",
    title="One winding works against the other of its phase",
    reason="Their fluxes cancel: no torque and almost no inductance, so the current rises as fast "
    "as the supply allows and the driver trips or burns.",
    source="Derivation: N I of the two windings add with their signs; L is proportional to N².",
)
def winding_reversed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    kind = wired_use(queries, device)
    for start, end in reversed_windings(queries, device):
        fixes: tuple[Fix, ...] = ()
        if kind is not None:
            remedy = UseWindings(device=device, kind=kind)
            fixes = (Fix(words=f"turn {start} and {end} round", remedy=remedy),)
        yield RuleOutput(
            f"The winding {start}–{end} of {device} is reversed.",
            (about(device),),
            detail=start,
            fixes=fixes,
        )


@rule(
    id="leads.tap-connected",
    consequence="Won't run",
    scope="device",
    title="A centre tap is connected as well as both ends",
    reason="The driver sees half a coil shorted to the other half: the currents of the bridge run "
    "through the tap, and the chopper cannot regulate.",
    source="Derivation: a bridge drives two ends of a coil; a third joint takes its current away.",
)
def tap_connected(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    port = leads_port(part) if part else None
    if port is None:
        return
    landed: dict[str, str] = {
        pin.function: pin.id
        for pin in port.pins
        if terminal_of(queries, PinRef(device=device, port=port.id, pin=pin.id)) is not None
    }
    for letter in "AB":
        tap = landed.get(f"centre tap {letter}")
        if tap is None or not {f"phase {letter}+", f"phase {letter}-"} <= landed.keys():
            continue
        fixes: tuple[Fix, ...] = ()
        if phases_of(queries, device) is not None:
            remedy = UseWindings(device=device, kind="series")
            fixes = (Fix(words="take both taps off and insulate them", remedy=remedy),)
        yield RuleOutput(
            f"The tap {tap} of {device} is connected besides both ends of its coil.",
            (about(device),),
            detail=letter,
            fixes=fixes,
        )


@rule(
    id="leads.unidentified",
    consequence="Workmanship",
    scope="device",
    title="Which leads belong together is not known",
    reason="Nothing tells the coils apart: neither the part's data nor a measurement. Whether a "
    "coil is split over two phases cannot be checked.",
    source="The part's own data, and the readings kept with the device.",
)
def unidentified(queries: Queries, device: str) -> Iterator[RuleOutput]:
    found, part = queries.device(device), queries.part_of(device)
    if found is None or part is None or part.stepper is None:
        return
    if not found.coils and not any(isinstance(e, Winding) for e in part.inside):
        yield RuleOutput(f"The coils of {device} are neither given nor measured.", (about(device),))


@rule(
    id="leads.fault",
    consequence="Damage",
    scope="device",
    title="The readings show that a motor is broken",
    reason="A winding that is open, has shorted turns, or touches another or the body makes the "
    "driver trip or burn, and the body live.",
    source="The coil finder over all readings: at least 0.99 for a fault.",
)
def fault(queries: Queries, device: str) -> Iterator[RuleOutput]:
    motor = queries.device(device)
    if motor is None or not motor.readings:
        return
    # The finder needs NumPy, which few machines ask for.
    from vervain.leads.identification import coils_by_readings

    found = coils_by_readings(queries, device)
    if found is None:
        return
    if found.to_body:
        leads = " and ".join(found.to_body)
        yield RuleOutput(
            f"{leads} of {device} conduct to its body.", (about(device),), detail="body"
        )
    if found.fault is not None:
        yield RuleOutput(
            f"The readings of {device} show a fault: {found.fault}.",
            (about(device),),
            detail="coil",
        )


@rule(
    id="leads.resistance",
    consequence="Unreliable",
    scope="device",
    title="A winding's resistance is not the datasheet's",
    reason="A winding that differs is another motor than the part says, has shorted turns, or a "
    "joint that lets go; its current, its heat and its torque are then others too.",
    source="Measured at 20 °C against the part's own data: 10 % and the meter's error.",
)
def resistance(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.stepper is None:
        return
    sheet, meter = datasheet_of(queries, device), queries.meter()
    expected = sheet.winding_ohm if sheet is not None else None
    for pair, ohms in winding_resistances(queries, device) if expected is not None else ():
        if expected is not None and differs(ohms, expected, meter):
            over, allowed = ohms > expected, allowed_ohm(expected, meter)
            yield RuleOutput(
                f"{'–'.join(pair)} of {device} has {ohms:.3g} Ω; by the datasheet it is "
                f"{expected:.3g} Ω.",
                (about(device),),
                detail="-".join(pair),
                value=round(ohms, 4),
                limit=round(expected + (allowed if over else -allowed), 4),
                unit="Ω",
                over=over,
            )


@rule(
    id="leads.unequal",
    consequence="Unreliable",
    scope="device",
    title="The windings of a motor differ",
    reason="The windings of a motor are wound alike. One that has less has shorted turns, one that "
    "has more a bad joint; the motor stutters and warms on one side.",
    source="10 % and the meter's error of both readings.",
)
def unequal(queries: Queries, device: str) -> Iterator[RuleOutput]:
    alike = winding_resistances(queries, device)
    if len(alike) < 2:
        return
    low, high = (pick(alike, key=lambda row: row[1]) for pick in (min, max))
    meter = queries.meter()
    allowed = AGREES * low[1] + meter_error_ohm(low[1], meter) + meter_error_ohm(high[1], meter)
    if high[1] - low[1] > allowed:
        yield RuleOutput(
            f"The windings of {device} differ: {'–'.join(low[0])} has {low[1]:.3g} Ω, "
            f"{'–'.join(high[0])} {high[1]:.3g} Ω.",
            (about(device),),
            value=round(high[1], 4),
            limit=round(low[1] + allowed, 4),
            unit="Ω",
        )


@rule(
    id="leads.sensor-colours",
    consequence="Workmanship",
    scope="device",
    title="A sensor's colours are not those of the standard",
    reason="Sensors with three or four leads are brown plus, blue minus, black and white outputs. "
    "A part that says otherwise is another make of cable, or a slip in its description.",
    source="IEC 60947-5-2.",
)
def sensor_colours(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part and part.kind == "sensor" else ():
        colours = {pin.lead: pin.function for pin in port.pins if pin.lead}
        # The standard is meant where brown and blue are both there; other makes use red and black.
        if port.kind != "sensor" or not {"BN", "BU"} <= colours.keys():
            continue
        wrong = [
            f"{colour} is {function}"
            for colour, function in colours.items()
            if SENSOR_COLOURS.get(colour, function) != function and function != "none"
        ]
        if wrong:
            yield RuleOutput(
                f"Of {device} {', '.join(wrong)}, against the standard.",
                (about(device),),
                detail=port.id,
            )


@rule(
    id="leads.swapped",
    consequence="Won't run",
    scope="device",
    title="A lead lies on a pin of another function",
    reason="An output on plus or on 0 V is a short as soon as it switches; a feed on a signal pin "
    "drives what should be listened to; crossed channels count backwards or not at all.",
    source="The functions of the device's leads against those of the pins they reach.",
)
def swapped(queries: Queries, device: str) -> Iterator[RuleOutput]:
    found = contradictions(queries, device)
    meets = {wrong.meets for wrong in found}
    # Plus and minus exchanged, and a feed on a signal input, have rules of their own.
    if not found or "power" in meets or any(_is_input(queries, wrong) for wrong in found):
        return
    fixes: tuple[Fix, ...] = ()
    if len(found) == 2:
        remedy = exchange(queries, found[0].lead, found[1].lead)
        if remedy is not None:
            names = [pin.text for w in found if (pin := queries.pin(w.lead))]
            fixes = (Fix(words=f"{' and '.join(names)} change places", remedy=remedy),)
    plus = {wrong.end: queries.pin(wrong.end) for wrong in found}
    harm = any(pin is not None and pin.function == "plus" for pin in plus.values())
    consequence: Consequence = "Damage" if harm else "Won't run"
    if meets == {"channels"}:
        consequence = "Unreliable"
    yield RuleOutput(
        f"Of {device} {found[0].words}",
        (about(device), *(about(wrong.end) for wrong in found)),
        consequence=consequence,
        fixes=fixes,
    )


def _is_input(queries: Queries, wrong: Contradiction) -> bool:
    pin = queries.pin(wrong.lead)
    on_plus = queries.pin(wrong.end)
    return (
        pin is not None
        and isinstance(pin.electrical, LogicInput)
        and on_plus is not None
        and on_plus.function == "plus"
    )


@rule(
    id="leads.servo-order",
    consequence="Workmanship",
    scope="device",
    title="A servo's plug has another order than its port",
    reason="Plugged straight in, signal, plus and minus would meet the wrong pins; the contacts in "
    "the plug have to change places, or an adapter lead goes between.",
    source="The order of the pins of plug and port.",
)
def servo_order(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.kind != "servo" or port.end != "device" or port.connector is None:
            continue
        ours = [pin.function for pin in port.pins if pin.function in SERVO_ORDER]
        for hookup in queries.hookups_of(device):
            if hookup.cable is not None:
                continue
            other = hookup.b if hookup.a.device == device else hookup.a
            there = queries.port(other)
            theirs = [
                p.function for p in (there.pins if there else ()) if p.function in SERVO_ORDER
            ]
            if there is None or there.kind != "servo":
                continue
            if theirs not in (ours, ours[::-1]):
                yield RuleOutput(
                    f"The plug of {device} is {_order(ours)}, {other.device} {other.port} is "
                    f"{_order(theirs)}: its contacts change places.",
                    (about(device), about(other)),
                    at=(about_port(other),),
                )


def _order(functions: Sequence[str]) -> str:
    return ", ".join({"zero": "minus"}.get(name, name) for name in functions)


RULES = (
    winding_reversed,
    tap_connected,
    unidentified,
    fault,
    resistance,
    unequal,
    sensor_colours,
    swapped,
    servo_order,
)
