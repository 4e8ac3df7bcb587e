"""Rules about inputs that can never change, or that nothing holds while their contact is open."""

from collections.abc import Iterator

from msgspec.structs import replace

from vervain.electrical.feeds import sources_of, zero_pin_of
from vervain.electrical.levels import (
    READ_BY_CONTACTS,
    driving_outputs,
    inputs_driven_by,
    reading_of,
)
from vervain.electrical.pull_up import (
    PULL_OHM,
    is_held_high,
    largest_pull_down_ohm,
    pull_down_ohm,
    pull_up_at,
)
from vervain.electrical.unmet_needs import pins_it_meets
from vervain.model.electrical import FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.ways_back import is_return_of
from vervain.ports.adapters import ohms, preferred
from vervain.queries.connectivity import is_fuse, nets_reached
from vervain.queries.index import Net
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import PutAcross
from vervain.rules.rule import RuleOutput, rule

# Of 5 V a smaller one takes more than the 10 mA that small outputs carry.
LEAST_PULL_OHM = 470.0


def _inputs(queries: Queries, device: str) -> Iterator[tuple[PinRef, LogicInput]]:
    """The inputs of a device for contacts that something other than an output is joined to."""
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.end != "host" or port.kind not in READ_BY_CONTACTS:
            continue
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if not isinstance(pin.electrical, LogicInput) or not queries.steps(at):
                continue
            met = [queries.pin(other) for other in queries.net(at)]
            parts = [queries.part_of(other.device) for other in queries.net(at)]
            driven = any(found and isinstance(found.electrical, LogicOutput) for found in met)
            if not driven and not any(part and part.kind == "jumper" for part in parts):
                yield at, pin.electrical


@rule(
    id="signals.unchanging",
    consequence="Won't run",
    scope="device",
    title="An input always reads the same",
    reason="An input says something only when its level changes. On plus or on "
    "0 V itself, on a contact that brings it neither, or pulled up at an output that only gives "
    "high, it looks the same for ever.",
    source="The machine's own conductors; a line left to its resistors lies at "
    "V_up R_down/(R_up + R_down).",
)
def unchanging(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, entry in _inputs(queries, device):
        zero = zero_pin_of(queries, at, entry.reference)
        net = queries.net(at)
        behind_fuses = [ref for reached in nets_reached(queries, [at], is_fuse) for ref in reached]
        sources, others = (
            [queries.pin(ref) for ref in refs if ref != at] for refs in (behind_fuses, net)
        )
        on_plus = any(pin and isinstance(pin.electrical, FeedOut) for pin in sources)
        on_zero = zero in net or any(pin and pin.function == "zero" for pin in others)
        text = f"{device} {at.port}"
        if on_plus and not on_zero and _is_switched_in_its_minus(queries, at, zero):
            continue
        if on_plus or on_zero:
            rail = "plus" if on_plus else "0 V"
            sentence = f"{text} always reads the same: its signal lies on {rail} itself."
        elif not entry.pull_up_ohm and entry.opto is None and _is_stop(queries, at):
            if sources_of(queries, at):
                continue
            sentence = f"{text} never sees a level: no plus comes to it, whatever closes."
        elif wrong := _wrong_rail(queries, at, entry, zero):
            sentence = f"{text} always reads the same: {wrong}."
        else:
            continue
        near = [about(ref) for ref in pins_it_meets(queries, at)[:4]]
        yield RuleOutput(sentence, (about(at), *near), at=(about(at),))
    yield from _held_high(queries, device)


def _held_high(queries: Queries, device: str) -> Iterator[RuleOutput]:
    """Inputs that are pulled up, at outputs that only give high: PNP on a processor's line."""
    for source, output in driving_outputs(queries, device):
        if output.drive != "PNP":
            continue
        for at in inputs_driven_by(queries, source):
            found, zero = queries.pin(at), zero_pin_of(queries, at, None)
            entry = found.electrical if found is not None else None
            if not isinstance(entry, LogicInput) or entry.opto is not None:
                continue
            reads, low_v = reading_of(queries, at, entry), entry.low_max_v
            largest_ohm = largest_pull_down_ohm(queries, at, low_v)
            if reads != "either" or largest_ohm is None or not is_held_high(queries, at, low_v):
                continue
            value = preferred(LEAST_PULL_OHM, largest_ohm)
            fixes: tuple[Fix, ...] = ()
            if zero is not None and value is not None:
                remedy = PutAcross(first=at, second=zero, resistance_ohm=value)
                fixes = (Fix(words=f"put {ohms(value)} from {at.port} to 0 V", remedy=remedy),)
            yield RuleOutput(
                f"{at.device} {at.port} always reads high: {source.device} is PNP and only gives "
                "high, and the input is pulled up.",
                (about(source), about(at)),
                at=(about(at),),
                fixes=fixes,
            )


def _is_switched_in_its_minus(queries: Queries, at: PinRef, zero: PinRef | None) -> bool:
    """Whether an input has a minus of its own that a contact joins to 0 V: STOP B+ and B−."""
    port, pin = queries.port(at.port_ref), queries.pin(at)
    minus = next(
        (
            replace(at, pin=other.id)
            for other in (port.pins if port is not None and pin is not None else ())
            if pin is not None and is_return_of(other.text, pin.text)
        ),
        zero,
    )
    if minus is None or queries.rail(minus) == queries.net(minus):
        return False
    return not any(
        (found := queries.pin(ref)) is not None and found.function == "zero"
        for ref in queries.net(minus)
    )


def _wrong_rail(queries: Queries, at: PinRef, entry: LogicInput, zero: PinRef | None) -> str:
    """Why no contact changes an input that is read one way only: they bring it to the rail that it
    rests at. Empty where they do, where none is there, and where a switch's own rule tells.
    """
    reading, rail = reading_of(queries, at, entry), queries.rail(at)
    if reading == "either" or len(rail) == len(queries.net(at)) or _is_stop(queries, at):
        return ""
    if entry.opto is not None or any(_is_switch(queries, ref) for ref in queries.net(at)):
        return ""
    functions = {pin.function for ref in rail if (pin := queries.pin(ref)) is not None}
    brings_zero = "zero" in functions or (zero is not None and zero in rail)
    brings_plus = "plus" in functions or bool(sources_of(queries, at))
    if reading == "NPN" and brings_plus and not brings_zero:
        return "it is read as NPN, and its contact closes to plus"
    if reading == "PNP" and brings_zero and not brings_plus:
        return "it is read as PNP, and its contact closes to 0 V"
    return ""


def _is_switch(queries: Queries, ref: PinRef) -> bool:
    part = queries.part_of(ref.device)
    return part is not None and part.kind in ("switch", "sensor", "emergency stop")


def _is_stop(queries: Queries, at: PinRef) -> bool:
    port = queries.port(at.port_ref)
    return port is not None and port.kind == "stop input"


@rule(
    id="signals.floating",
    consequence="Won't run",
    scope="device",
    title="Nothing holds an input while its contact is open",
    reason="A contact joins an input to one rail; open, it leaves it to itself, and it picks up "
    "whatever is near. A resistor to the other rail, or one inside the board, holds it.",
    source="The part's own input: no current of its own, no resistor inside.",
)
def floating(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for at, entry in _inputs(queries, device):
        if _is_stop(queries, at) or entry.opto is not None:
            continue
        if reading_of(queries, at, entry) != "either" or queries.rail(at) == queries.net(at):
            continue
        zero = zero_pin_of(queries, at, entry.reference)
        brings_zero, brings_plus = _brought_by_contacts(queries, at)
        if brings_zero == brings_plus:
            continue
        if brings_zero and pull_up_at(queries, at) is None:
            plus = _own_plus(queries, at)
            held, fix = "plus", (plus, f"put {ohms(PULL_OHM)} from {at.port} to plus")
        elif brings_plus and pull_down_ohm(queries, at) is None:
            held, fix = "0 V", (zero, f"put {ohms(PULL_OHM)} from {at.port} to 0 V")
        else:
            continue
        fixes: tuple[Fix, ...] = ()
        if fix[0] is not None:
            remedy = PutAcross(first=at, second=fix[0], resistance_ohm=PULL_OHM)
            fixes = (Fix(words=fix[1], remedy=remedy),)
        near = [about(ref) for ref in pins_it_meets(queries, at)[:4]]
        yield RuleOutput(
            f"{device} {at.port} floats while its contact is open: nothing holds it at {held}.",
            (about(at), *near),
            at=(about(at),),
            detail=at.port,
            fixes=fixes,
        )


def _brought_by_contacts(queries: Queries, at: PinRef) -> tuple[bool, bool]:
    """Whether contacts bring an input 0 V, and a plus; what lies behind either rail does not."""

    def rails(net: Net) -> set[str]:
        pins = (queries.pin(ref) for ref in net)
        return {str(pin.function) for pin in pins if pin is not None} & {"plus", "zero"}

    own = queries.net(at)
    nets = nets_reached(
        queries, [at], lambda _, element: isinstance(element, Contact | Fuse),
        lambda net: net != own and bool(rails(net)),
    )  # fmt: skip
    met = {rail for net in nets if net != own for rail in rails(net)}
    return "zero" in met, "plus" in met


def _own_plus(queries: Queries, at: PinRef) -> PinRef | None:
    port = queries.port(at.port_ref)
    return next(
        (
            PinRef(device=at.device, port=at.port, pin=pin.id)
            for pin in (port.pins if port else ())
            if pin.function == "plus"
        ),
        None,
    )


RULES = (unchanging, floating)
