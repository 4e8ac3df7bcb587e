"""Rules about what an output drives: pull-ups, isolated inputs, wetting current."""

from collections.abc import Iterator

from vervain.electrical.feeds import PLUS_FUNCTIONS, sources_of, zero_pin_of
from vervain.electrical.levels import driving_outputs, inputs_driven_by, reading_of, supply_v
from vervain.electrical.opto import (
    diode_current_a,
    dissipation_w,
    driven_v,
    resistance_on_way_ohm,
    resistor_window_ohm,
)
from vervain.electrical.pull_up import (
    CABLE_F_PER_M,
    INPUT_F,
    PULL_DOWN_OHM,
    floats,
    pull_up_at,
    pull_up_window,
)
from vervain.harness.lengths import cable_length_m
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.motion.figures import count_figures
from vervain.ports.adapters import ohms, power_rating_w, preferred
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, Fix, about, about_port
from vervain.rules.fixes import PutAcross, PutResistor
from vervain.rules.rule import RuleOutput, rule

# A channel's edge may take this part of its period to rise.
RISE_SHARE = 0.1


@rule(
    id="signals.pull-up",
    consequence="Won't run",
    scope="device",
    title="An open collector's pull-up is missing or does not suit",
    reason="An open collector only pulls down. Without a resistor to plus there is no high level; "
    "with one too small the output cannot pull it low, with one too large the input reads it late "
    "or by chance.",
    source="(Vcc_max - V_OL)/(I_sink - I_IL) <= R <= (Vcc_min - V_IH)/(I_leak + I_IH), and "
    "t_rise/(C ln(Vcc/(Vcc - V_IH))) with 100 pF a metre of cable; pull-ups in parallel count.",
)
def pull_up(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output in driving_outputs(queries, device):
        if output.drive != "NPN":
            continue
        for target in inputs_driven_by(queries, ref):
            pin = queries.pin(target)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or entry.opto is not None:
                continue
            if reading_of(queries, target, entry) != "either":
                continue
            yield from _pull_up(queries, ref, output, target, entry)


@rule(
    id="signals.pull-down",
    consequence="Unreliable",
    scope="device",
    title="Nothing brings the line of a PNP output low",
    reason="A PNP output only gives high. Off, its line hangs in the air: the input reads what the "
    "cable beside it brings, or what was there last.",
    source="An input that takes no current, and no resistor to either side; IEC 61131-2 inputs "
    "sink 2 mA and more for that reason.",
)
def pull_down(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output in driving_outputs(queries, device):
        if output.drive != "PNP":
            continue
        for target in inputs_driven_by(queries, ref):
            pin, zero = queries.pin(target), zero_pin_of(queries, target, None)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or not floats(queries, target, entry):
                continue
            if reading_of(queries, target, entry) != "either":
                continue
            fixes: tuple[Fix, ...] = ()
            if zero is not None:
                remedy = PutAcross(first=target, second=zero, resistance_ohm=PULL_DOWN_OHM)
                fixes = (Fix(words=f"put {ohms(PULL_DOWN_OHM)} to 0 V", remedy=remedy),)
            yield RuleOutput(
                f"{target.device} {target.port} lies at no level while {ref.device}, a PNP output, "
                "is off.",
                (about(ref), about(target)),
                at=(about_port(target),),
                detail=target.pin,
                fixes=fixes,
            )


def _pull_up(
    queries: Queries, ref: PinRef, output: LogicOutput, target: PinRef, entry: LogicInput
) -> Iterator[RuleOutput]:
    name = f"{target.device} {target.port}"
    there = pull_up_at(queries, ref)
    supply = (there.low_v, there.high_v) if there else supply_v(queries, target)
    window = None
    if supply is not None and output.current_a is not None:
        window = pull_up_window(
            supply_v=supply, low_v=output.low_max_v, sink_a=output.current_a,
            high_min_v=entry.high_min_v, leak_a=output.leak_a, input_a=entry.current_a,
            rise=_rise(queries, ref),
        )  # fmt: skip
    if there is None:
        fixes: tuple[Fix, ...] = ()
        plus = _plus_beside(queries, target)
        low, high = window or (1e3, 10e3)
        value = preferred(max(low, 470.0), min(high, 47e3))
        if plus is not None and value is not None:
            remedy = PutAcross(first=target, second=plus, resistance_ohm=value)
            fixes = (Fix(words=f"put a pull-up of {ohms(value)} to plus", remedy=remedy),)
        yield RuleOutput(
            f"{ref.device} has an open collector; {name} has no pull-up.",
            (about(ref), about(target)),
            at=(about_port(target),),
            detail=target.pin,
            fixes=fixes,
        )
        return
    if window is None:
        return
    for limit, over, words in ((window[0], False, "small"), (window[1], True, "large")):
        if (there.resistance_ohm > limit) == over and there.resistance_ohm != limit:
            yield RuleOutput(
                f"The pull-up of {ref.device} at {name} is too {words}: "
                f"{ohms(float(f'{there.resistance_ohm:.3g}'))}.",
                (about(ref), about(target)),
                at=(about_port(target),),
                detail=target.pin,
                value=round(there.resistance_ohm),
                limit=round(limit),
                unit="Ω",
                over=over,
                consequence="Unreliable",
            )


def _rise(queries: Queries, output: PinRef) -> tuple[float, float] | None:
    """The capacitance that an encoder's pull-up charges, and the time that it may take."""
    axis = queries.axis_of(output.device)
    counts = count_figures(queries, axis.id) if axis is not None else None
    if counts is None or counts.channel_hz is None or counts.encoder != output.device:
        return None
    length_m = 0.0
    for way in paths_from(queries, output)[:1]:
        for step in way.steps:
            hookup = queries.hookup(step.hookup)
            known_m = cable_length_m(queries, hookup.cable) if hookup and hookup.cable else None
            length_m += known_m or 0.0
    return INPUT_F + CABLE_F_PER_M * length_m, RISE_SHARE / counts.channel_hz


def _plus_beside(queries: Queries, target: PinRef) -> PinRef | None:
    """A fed plus pin in the port of an input."""
    port = queries.port(target.port_ref)
    for pin in port.pins if port else ():
        ref = PinRef(device=target.device, port=target.port, pin=pin.id)
        if pin.function in PLUS_FUNCTIONS and sources_of(queries, ref):
            return ref
    return None


@rule(
    id="signals.opto-current",
    consequence="Damage",
    scope="device",
    title="The diode of an isolated input gets the wrong current",
    reason="Below its least current the diode does not light for certain, and steps are lost; "
    "above its most it burns. A resistor in line brings a higher voltage within.",
    source="I = (V - V_sat - V_F)/(R_int + R_ext): least at the lowest V and the highest V_F and "
    "R, most at the opposite corner; resistors of 5 %.",
)
def opto_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _ in driving_outputs(queries, device):
        for target in inputs_driven_by(queries, ref):
            pin, voltage_v = queries.pin(target), driven_v(queries, ref, target)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or entry.opto is None or voltage_v is None:
                continue
            opto = entry.opto
            external = resistance_on_way_ohm(queries, ref, target)
            least, most = diode_current_a(voltage_v, opto, external)
            name = f"{target.device} {target.port}"
            fixes: tuple[Fix, ...] = ()
            low, high = resistor_window_ohm(voltage_v, opto)
            value = preferred(low, high) if high > low else None
            if most > opto.current_max_a and value is not None and not external:
                watts = power_rating_w(dissipation_w(voltage_v, opto, value))
                remedy = PutResistor(pin=target, resistance_ohm=value, power_w=watts)
                words = f"put {ohms(value)}, {watts:g} W in line"
                fixes = (Fix(words=words, remedy=remedy),)
            for wrong, current_a, limit, over, consequence in (
                (most > opto.current_max_a, most, opto.current_max_a, True, "Damage"),
                (least < opto.current_min_a, least, opto.current_min_a, False, "Unreliable"),
            ):
                if wrong:
                    worst: Consequence = "Damage" if consequence == "Damage" else "Unreliable"
                    yield RuleOutput(
                        f"{device} sends {current_a * 1000:.3g} mA through the diode of {name}.",
                        (about(target), about(ref)),
                        at=(about_port(target),),
                        detail=f"{target.pin} {'most' if over else 'least'}",
                        value=round(current_a * 1000, 2),
                        limit=limit * 1000,
                        unit="mA",
                        over=over,
                        consequence=worst,
                        fixes=fixes,
                    )


def _input_current_a(queries: Queries, target: PinRef, entry: LogicInput) -> float | None:
    """The current that closes through a contact at an input; None where it is not known."""
    there = pull_up_at(queries, target)
    if there is not None:
        # What a contact needs is a round figure, so is what is compared with it: nominal volts.
        return (there.low_v + there.high_v) / 2 / there.resistance_ohm
    return entry.current_a or None


def _is_rail(queries: Queries, ref: PinRef) -> bool:
    pin = queries.pin(ref)
    return pin is not None and pin.function in ("plus", "zero")


@rule(
    id="signals.wetting",
    consequence="Unreliable",
    scope="device",
    title="A contact switches less current than keeps it clean",
    reason="Silver contacts grow a film that only a few milliamperes break through. On an input of "
    "a fraction of one the switch works for a month and then now and then.",
    source="The contact's own least current against the current of the input.",
)
def wetting(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Contact) or element.current_min_a is None:
            continue
        for port, pin in element.pins:
            net = queries.net(PinRef(device=device, port=port, pin=pin))
            if any(_is_rail(queries, member) for member in net):
                continue
            for target in net:
                found = queries.pin(target)
                entry = found.electrical if found else None
                if not isinstance(entry, LogicInput) or target.device == device:
                    continue
                current_a = _input_current_a(queries, target, entry)
                if current_a is not None and current_a < element.current_min_a:
                    yield RuleOutput(
                        f"{device} switches {current_a * 1000:.2g} mA at {target.device} "
                        f"{target.port}; its contact needs {element.current_min_a * 1000:g} mA.",
                        (about(device), about(target)),
                        at=(about_port(target),),
                        value=round(current_a * 1000, 3),
                        limit=element.current_min_a * 1000,
                        unit="mA",
                        over=False,
                    )


RULES = (
    pull_up,
    pull_down,
    opto_current,
    wetting,
)
