"""Rules about heaters: what keeps them from running away."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.model.part import Port
from vervain.queries.connectivity import joined_inside, paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.feed_cut_outs import is_cut_out
from vervain.text.name_words import name_words, says

# What takes no more sets nothing on fire (IEC 62368-1, PS1).
SMALL_W = 15.0
SENSED = ("sense 1", "sense 2")
RAILS = ("plus", "zero", "pe")


@rule(
    id="signals.heater-cutout",
    consequence="Damage",
    scope="device",
    title="A heater has no cut-out of its own",
    reason="A transistor that melts shut, or a thermistor that falls out, heats without end, and "
    "the controller cannot help it. A cut-out in the feed opens by itself.",
    source="IEC 60335-1 19 in kind: a fault of the control must not make a fire. What takes no "
    "more than 15 W sets nothing on fire (IEC 62368-1, power source class PS1).",
)
def heater_cutout(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part, found = queries.part_of(device), queries.device(device)
    if part is None or part.kind != "heater":
        return
    if says(f"{part.title} / {found.name if found else ''}", name_words().free_in_air):
        return
    for port in part.ports:
        pins = [PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins]
        if not any(sources_of(queries, ref) for ref in pins) or _is_small(port):
            continue
        if not any(is_cut_out(queries, member) for ref in pins for member in queries.net(ref)):
            yield RuleOutput(
                f"{device} has no cut-out in its feed.", (about(device),), detail=port.id
            )


def _is_small(port: Port) -> bool:
    """Whether a heater takes so little that it sets nothing on fire."""
    feeds = [pin.electrical for pin in port.pins if isinstance(pin.electrical, FeedIn)]
    return any(
        0 < (feed.current_a or 0.0) * (feed.nominal_v or feed.middle_v or 0.0) <= SMALL_W
        for feed in feeds
    )


@rule(
    id="signals.thermistor",
    consequence="Damage",
    scope="device",
    title="A thermistor is open or shorted, or held by a rail",
    reason="Open it reads as freezing, and the heater goes to full power; shorted it reads as far "
    "too hot, and the heater never starts; on a rail it reads what is there.",
    source="Both ends of the thermistor and of its input.",
)
def thermistor(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "thermistor":
        return
    for port in part.ports:
        refs = [PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins]
        landed = [ref for ref in refs if any(way.lands for way in paths_from(queries, ref))]
        if len(refs) != 2 or not landed:
            continue
        if len(landed) == 1:
            yield RuleOutput(f"One lead of {device} is open.", (about(device),), detail="open")
        elif refs[1] in queries.net(refs[0]):
            yield RuleOutput(
                f"Both leads of {device} are joined.", (about(device),), detail="shorted"
            )
        for ref in refs:
            yield from _held_by_a_rail(queries, ref)


def _held_by_a_rail(queries: Queries, lead: PinRef) -> Iterator[RuleOutput]:
    """What is said of a lead at its input that is joined to plus, 0 V, earth or another input as
    well, where its own has none of them at that pin.
    """
    pins = {ref: pin for ref in queries.net(lead) if (pin := queries.pin(ref)) is not None}
    inputs = [
        ref for ref, pin in pins.items()
        if pin.function in SENSED and ref.device != lead.device
    ]  # fmt: skip
    inside = {other for ref in inputs for other in joined_inside(queries, ref)}
    rails = [
        ref for ref, pin in pins.items()
        if pin.function in RAILS or (pin.function == "signal" and _is_of_a_board(queries, ref))
    ]  # fmt: skip
    if inputs and rails and not inside & {*rails}:
        nearest = next((way.end for way in paths_from(queries, lead) if way.end in rails), rails[0])
        yield RuleOutput(
            f"{pin_in_words(queries, lead)} is joined to {pin_in_words(queries, nearest)}, "
            f"and not to {pin_in_words(queries, inputs[0])} alone.",
            (about(lead), about(nearest)),
            detail=lead.pin,
        )


def _is_of_a_board(queries: Queries, ref: PinRef) -> bool:
    port = queries.port(ref.port_ref)
    return port is not None and port.end == "host"


RULES = (heater_cutout, thermistor)
