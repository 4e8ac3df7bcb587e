"""Rules about power that comes to signal pins of hosts, and about resistors and diodes put in."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.electrical.pull_up import pull_up_at
from vervain.electrical.unmet_needs import natures, pins_it_meets
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Diode, Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PinFunction
from vervain.queries.connectivity import is_fuse, nets_reached
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import ExchangeTwo
from vervain.rules.rule import RuleOutput, rule

# The end of a load at what switches it.
LOWER_ENDS: tuple[PinFunction, ...] = ("load-", "coil-", "motor-")


def _pins(queries: Queries, device: str) -> Iterator[tuple[PinRef, object]]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            yield PinRef(device=device, port=port.id, pin=pin.id), pin.electrical


def _inputs_in_use(queries: Queries, device: str) -> Iterator[tuple[PinRef, LogicInput]]:
    """The inputs without a diode of their own that something is joined to."""
    for at, entry in _pins(queries, device):
        if isinstance(entry, LogicInput) and entry.opto is None and queries.steps(at):
            yield at, entry


@rule(
    id="signals.supply-on-input",
    consequence="Damage",
    scope="device",
    title="A supply comes to an input that does not bear it",
    reason="Above its maximum an input conducts through its protection; a supply behind it gives "
    "whatever it can. It does not matter whether a wire or a closing contact brings it.",
    source="The input's own maximum against the highest voltage of the source.",
)
def supply_on_input(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, entry in _inputs_in_use(queries, device):
        for source in sources_of(queries, at):
            if source.feed.highest_v > entry.max_v:
                yield RuleOutput(
                    f"{source.pin.device} brings {source.feed.nominal_v:g} V to {device} "
                    f"{at.port}, whose input takes {entry.max_v:g} V.",
                    (about(at), about(source.pin), *map(about, pins_it_meets(queries, at)[:3])),
                    at=(about(at),),
                    value=source.feed.highest_v,
                    limit=entry.max_v,
                    unit="V",
                )
                break


@rule(
    id="signals.load-on-input",
    consequence="Damage",
    scope="device",
    title="A load lets its supply through to an input",
    reason="While the output that works a load is off, no current flows, and the whole voltage "
    "stands at its lower end. An input there gets it through the load.",
    source="Ohm's law with no current; the input's own maximum.",
)
def load_on_input(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, entry in _inputs_in_use(queries, device):
        port = queries.port(at.port_ref)
        if port is None or port.end != "host":
            continue
        for lower, upper in _loads_between(queries, at):
            over = [s for s in sources_of(queries, upper) if s.feed.lowest_v > entry.max_v]
            if over:
                yield RuleOutput(
                    f"{lower.device} lets {over[0].feed.nominal_v:g} V of {over[0].pin.device} "
                    f"through to {device} {at.port}, whose input takes {entry.max_v:g} V.",
                    (about(at), about(lower), *map(about, pins_it_meets(queries, at)[:3])),
                    at=(about(at),),
                    value=over[0].feed.highest_v,
                    limit=entry.max_v,
                    unit="V",
                )
                break


def _loads_between(queries: Queries, at: PinRef) -> Iterator[tuple[PinRef, PinRef]]:
    """The lower and the upper ends of loads of which the lower is on the net of a pin."""
    for lower in queries.net(at):
        port, pin = queries.port(lower.port_ref), queries.pin(lower)
        if port is None or pin is None or pin.function not in LOWER_ENDS or port.end != "device":
            continue
        for upper in port.pins:
            if isinstance(upper.electrical, FeedIn):
                yield lower, PinRef(device=lower.device, port=lower.port, pin=upper.id)


@rule(
    id="signals.output-on-rail",
    consequence="Damage",
    scope="device",
    title="An output is joined to a supply or to 0 V",
    reason="An output that pulls to one rail, joined to the other, is a short through its own "
    "transistor as soon as it switches. Joined to the rail that it pulls to, it does nothing: its "
    "load is on whatever the program does.",
    source="Kirchhoff's laws; the output's own drive.",
)
def output_on_rail(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, electrical in _pins(queries, device):
        output = _as_output(queries, at, electrical)
        if output is None or not queries.steps(at):
            continue
        through, is_at_rest = "", True
        held = _held_at(queries, at, output)
        if held is None:
            held, through, is_at_rest = _held_by_contact(queries, at, output)
        if held is None:
            continue
        rail, word = held
        against = output.drive == "push-pull" or (output.drive == "PNP") == (word == "0 V")
        port = queries.port(at.port_ref)
        if not against and not is_at_rest and port is not None and port.end == "host":
            # A contact beside an output that works the same load.
            continue
        told = "against which it switches" if against else "so that what hangs there is always on"
        yield RuleOutput(
            f"{device} {at.port} is joined to {word} of {rail.device}{through}, {told}.",
            (about(at), about(rail)),
            at=(about(at),),
        )


# What a controller gives whatever is plugged in there, where nothing more is known of its levels.
GIVEN: tuple[PinFunction, ...] = ("select", "clock", "step", "direction", "pulse width")
BOTH_WAYS = LogicOutput(drive="push-pull")


def _as_output(queries: Queries, at: PinRef, electrical: object) -> LogicOutput | None:
    """What a pin gives: as its part says, else by what a host gives there."""
    if isinstance(electrical, LogicOutput):
        return electrical
    port, pin, part = queries.port(at.port_ref), queries.pin(at), queries.part_of(at.device)
    if part is None or part.kind != "controller" or port is None or port.end != "host":
        return None
    is_given = electrical is None and pin is not None and pin.function in GIVEN
    return BOTH_WAYS if is_given else None


# A rail by one of its pins, and what it is called.
Rail = tuple[PinRef, str]


def _held_at(queries: Queries, at: PinRef, output: LogicOutput) -> Rail | None:
    """The rail that a pin lies on, behind fuses or not, where an output minds; what it switches
    against first.
    """
    nets = nets_reached(queries, [at], is_fuse)
    own = [(ref, natures(queries, ref)) for net in nets for ref in net if ref != at]
    rails = {
        "plus": next((ref for ref, is_a in own if "source" in is_a), None),
        "0 V": next((ref for ref, is_a in own if "return" in is_a), None),
    }
    words = ("0 V", "plus") if output.drive == "PNP" else ("plus", "0 V")
    return next(((rail, word) for word in words if (rail := rails[word]) is not None), None)


def _held_by_contact(
    queries: Queries, at: PinRef, output: LogicOutput
) -> tuple[Rail | None, str, bool]:
    """The rail that a contact joins an output to when it closes, that it does, in words, and
    whether it is closed at rest.
    """
    for near in queries.net(at):
        # What an output has inside works it.
        part = queries.part_of(near.device) if near.device != at.device else None
        for element in part.inside if part is not None else ():
            if not isinstance(element, Contact) or (near.port, near.pin) not in element.pins:
                continue
            for port, pin in element.pins:
                far = PinRef(device=near.device, port=port, pin=pin)
                held = _held_at(queries, far, output) if far not in queries.net(at) else None
                if held is not None:
                    is_nc = element.rest == "NC"
                    words = f" through {near.device}" if is_nc else f" when {near.device} closes"
                    return held, words, is_nc
    return None, "", False


@rule(
    id="signals.output-held",
    consequence="Won't run",
    scope="device",
    title="An output lies on the rail that it switches to",
    reason="An output for loads joins its line to one rail. On that rail already, what it does "
    "changes nothing: what it is to work is on for ever, or never.",
    source="The machine's own conductors; the output's own drive.",
)
def output_held(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, output in _pins(queries, device):
        port = queries.port(at.port_ref)
        if not isinstance(output, LogicOutput) or not queries.steps(at):
            continue
        if port is None or port.end != "host":
            # What reads a sensor tells that it always reads the same.
            continue
        held_at = {"NPN": "return", "PNP": "source"}.get(output.drive)
        others = [ref for ref in queries.net(at) if ref != at]
        rail = next((ref for ref in others if held_at in natures(queries, ref)), None)
        if rail is None:
            continue
        word = "0 V" if output.drive == "NPN" else "plus"
        met = [ref for ref in pins_it_meets(queries, at) if ref.device != rail.device]
        yield RuleOutput(
            f"{device} {at.port} lies on {word} of {rail.device}, to which it switches: it changes "
            "nothing.",
            (about(at), *map(about, met[:2]), about(rail)),
            at=(about(at), *map(about, met[:1])),
        )


@rule(
    id="signals.pull-up-volts",
    consequence="Damage",
    scope="device",
    title="A pull-up leads to more than the input bears",
    reason="While nothing pulls the line down it stands at the voltage of the pull-up, which "
    "drives its current into the input's protection.",
    source="The voltage behind the pull-up against the input's own maximum.",
)
def pull_up_volts(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, entry in _pins(queries, device):
        if not isinstance(entry, LogicInput) or entry.opto is not None or not queries.steps(at):
            continue
        found = pull_up_at(queries, at)
        if found is not None and found.high_v > entry.max_v:
            yield RuleOutput(
                f"{device} {at.port} is pulled up to {found.high_v:.3g} V; it takes "
                f"{entry.max_v:g} V.",
                (about(at), *map(about, pins_it_meets(queries, at)[:3])),
                at=(about(at),),
                value=found.high_v,
                limit=entry.max_v,
                unit="V",
            )


@rule(
    id="signals.resistor-power",
    consequence="Unreliable",
    scope="device",
    title="A resistor gets hotter than it may",
    reason="With its line pulled to 0 V a pull-up has the whole supply across it, for as long as "
    "the contact stays closed.",
    source="P = U²/R against the resistor's own rating.",
)
def resistor_power(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "resistor":
        return
    for element in part.inside:
        if not isinstance(element, Resistor):
            continue
        ends = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
        for one, other in (ends, ends[::-1]):
            high_v = max((s.feed.highest_v for s in sources_of(queries, one)), default=0.0)
            heat_w = high_v**2 / element.resistance_ohm
            if heat_w > element.power_w and _is_pulled_low(queries, other):
                yield RuleOutput(
                    f"{device} sheds {heat_w:.2g} W while its line is low; it is made for "
                    f"{element.power_w:g} W.",
                    (about(device),),
                    at=(about(one),),
                    value=round(heat_w, 3),
                    limit=element.power_w,
                    unit="W",
                )


def _is_pulled_low(queries: Queries, at: PinRef) -> bool:
    """Whether a contact or an output can bring a pin to 0 V."""
    for ref in queries.rail(at):
        if "return" in natures(queries, ref):
            return True
        pin = queries.pin(ref)
        output = pin.electrical if pin else None
        if isinstance(output, LogicOutput) and output.drive != "PNP":
            return True
    return False


@rule(
    id="signals.diode-reversed",
    consequence="Damage",
    scope="device",
    title="A flyback diode is the wrong way round",
    reason="With its cathode at the switched end the diode conducts as soon as the output switches "
    "on: it shorts the coil's supply through the output.",
    source="Derivation: a diode across a coil blocks while the coil is on, cathode to plus.",
)
def diode_reversed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part and part.kind == "diode" else ():
        if not isinstance(element, Diode):
            continue
        anode, cathode = (PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
        low = set(queries.net(cathode))
        load = next(
            (
                ref
                for ref in queries.net(anode)
                if (pin := queries.pin(ref)) is not None
                and isinstance(pin.electrical, FeedIn)
                and low & set(_others(queries, ref))
            ),
            None,
        )
        if load is None or not any(_gives_plus(queries, ref) for ref in queries.rail(anode)):
            continue
        fixes: tuple[Fix, ...] = ()
        if anode.port == cathode.port:
            remedy = ExchangeTwo(plug=anode.port_ref, first=anode.pin, second=cathode.pin)
            fixes = (Fix(words=f"turn {device} round", remedy=remedy),)
        yield RuleOutput(
            f"{device} across {load.device} is the wrong way round: it conducts instead of the "
            "coil.",
            (about(device), about(load)),
            fixes=fixes,
        )


def _gives_plus(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is a supply's, or an output's that switches plus."""
    pin = queries.pin(ref)
    given = pin.electrical if pin is not None else None
    is_high = isinstance(given, LogicOutput) and given.drive in ("PNP", "push-pull")
    return is_high or isinstance(given, FeedOut)


def _others(queries: Queries, plus: PinRef) -> tuple[PinRef, ...]:
    """The other pins of a pin's port."""
    port = queries.port(PortRef(device=plus.device, port=plus.port))
    return tuple(
        PinRef(device=plus.device, port=plus.port, pin=pin.id)
        for pin in (port.pins if port else ())
        if pin.id != plus.pin
    )


RULES = (
    supply_on_input,
    load_on_input,
    output_on_rail,
    output_held,
    pull_up_volts,
    resistor_power,
    diode_reversed,
)
