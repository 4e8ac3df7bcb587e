"""Rules about commons: what has its plus from one supply and its way back at another."""

from collections.abc import Iterator
from itertools import product

from vervain.electrical.feeds import returns_of, sources_of, zero_pin_of
from vervain.electrical.levels import driving_outputs, inputs_driven_by
from vervain.electrical.unmet_needs import is_to_be_fed
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.machine import Conductor, PinRef
from vervain.queries.connectivity import neighbours_at
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import Join
from vervain.rules.rule import RuleOutput, rule

# Lines of buses that are measured from 0 V; a pair is measured between its two.
ON_BUS = frozenset({"data", "clock", "transmit", "receive", "select", "signal"})
# The minus of what takes power.
LOAD_BACKS = ("load-", "coil-", "motor-")


@rule(
    id="supply.no-common",
    consequence="Won't run",
    scope="device",
    title="Two supplies share no common",
    reason="A signal is a voltage against 0 V. Where the negatives of the two supplies are not "
    "joined, its current has no way back, and the input reads nothing or noise.",
    source="Kirchhoff's current law: every signal current needs a return.",
)
def no_common(queries: Queries, device: str) -> Iterator[RuleOutput]:
    said: set[tuple[PinRef, PinRef]] = set()
    pairs = [
        *(
            (ref, zero_pin_of(queries, ref, output.reference), _return_pins(queries, ref, output))
            for ref, output in driving_outputs(queries, device)
        ),
        *(
            (ref, zero_pin_of(queries, ref, None), _returns_on_bus(queries, ref))
            for ref in _bus_lines(queries, device)
        ),
    ]
    for ref, zero, returns in pairs:
        for theirs in returns:
            if zero is None or theirs in queries.rail(zero):
                continue
            ours, others = _negative_of(queries, zero), _negative_of(queries, theirs)
            if ours is None or others is None or (ours, others) in said:
                continue
            said.add((ours, others))
            remedy = Join(
                a=others.port_ref,
                b=ours.port_ref,
                conductors=(Conductor(a=others.pin, b=ours.pin),),
            )
            words = f"join 0 V of {others.device} to 0 V of {ours.device}"
            yield RuleOutput(
                f"{others.device} and {ours.device} share no common: the signal at {device} "
                f"{ref.port} has no way back.",
                (about(others), about(ours), about(ref)),
                at=(about(others.device), about(ours.device)),
                fixes=(Fix(words=words, remedy=remedy),),
            )


@rule(
    id="supply.other-common",
    consequence="Won't run",
    scope="device",
    title="A load lies between the plus of one supply and an output of another",
    reason="What comes from the plus of a supply goes back to its own minus. Where the output has "
    "another 0 V, the current finds no way round, and the load does nothing.",
    source="Kirchhoff's current law: every current returns to its source.",
)
def other_common(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part is not None else ():
        plus = next((pin for pin in port.pins if isinstance(pin.electrical, FeedIn)), None)
        back = next((pin for pin in port.pins if pin.function in LOAD_BACKS), None)
        if plus is None or back is None or port.end != "device":
            continue
        ends = [PinRef(device=device, port=port.id, pin=pin.id) for pin in (plus, back)]
        for one, other in (ends, ends[::-1]):
            pair = next(_without_common(queries, one, other), None)
            if pair is None:
                continue
            source, output = pair
            yield RuleOutput(
                f"{device} {port.id} has plus from {source.device} and lies at {output.device} "
                f"{output.port}, whose 0 V is another: nothing flows.",
                (*map(about, ends), about(output), about(source)),
                at=(about(output),),
                detail=port.id,
                unfinished=is_to_be_fed(queries, output.device),
            )
            break


def _without_common(
    queries: Queries, at_plus: PinRef, at_output: PinRef
) -> Iterator[tuple[PinRef, PinRef]]:
    """The sources at one end of a load and the outputs at its other one that share no 0 V."""
    outputs = (
        ref for ref in queries.net(at_output)
        if (pin := queries.pin(ref)) is not None and isinstance(pin.electrical, LogicOutput)
        and ref.device != at_output.device
    )  # fmt: skip
    for source, output in product((s.pin for s in sources_of(queries, at_plus)), outputs):
        zero, backs = zero_pin_of(queries, output, None), set(returns_of(queries, source))
        if zero is not None and backs and not backs & set(queries.rail(zero)):
            yield source, output


def _return_pins(queries: Queries, ref: PinRef, output: LogicOutput) -> Iterator[PinRef]:
    """The 0 V pins that what is plugged in measures the output against."""
    port = queries.port(ref.port_ref)
    if output.reference is not None and port is not None and neighbours_at(queries, ref.port_ref):
        for pin in port.pins:
            if pin.function == "zero":
                yield PinRef(device=ref.device, port=ref.port, pin=pin.id)
    for target in inputs_driven_by(queries, ref):
        pin_there = queries.pin(target)
        if pin_there is not None and isinstance(pin_there.electrical, LogicInput):
            theirs = zero_pin_of(queries, target, pin_there.electrical.reference)
            if theirs is not None:
                yield theirs


def _bus_lines(queries: Queries, device: str) -> Iterator[PinRef]:
    """The lines of a device's buses that are measured from 0 V, at their head."""
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins if port.kind == "bus" and port.end == "host" else ():
            if pin.electrical is None and pin.function in ON_BUS:
                yield PinRef(device=device, port=port.id, pin=pin.id)


def _returns_on_bus(queries: Queries, ref: PinRef) -> Iterator[PinRef]:
    """The 0 V pins that other devices on a line measure it from."""
    for target in queries.net(ref):
        there = queries.pin(target)
        if target.device != ref.device and there is not None and there.function in ON_BUS:
            theirs = zero_pin_of(queries, target, None)
            if theirs is not None:
                yield theirs


def _negative_of(queries: Queries, zero: PinRef) -> PinRef | None:
    """The negative terminal of the supply on a 0 V rail: of several, that of the first device in
    the builder's order, which no renaming changes.
    """
    found = [ref for ref in queries.rail(zero) if _is_negative(queries, ref)]
    order = queries.devices()
    return min(found, key=lambda ref: order.index(ref.device), default=None)


def _is_negative(queries: Queries, ref: PinRef) -> bool:
    port, part, pin = queries.port(ref.port_ref), queries.part_of(ref.device), queries.pin(ref)
    is_source = part is not None and part.kind in ("supply", "battery")
    is_outlet = port is not None and port.kind == "feed out"
    return is_source and is_outlet and pin is not None and pin.function == "zero"


RULES = (no_common, other_common)
