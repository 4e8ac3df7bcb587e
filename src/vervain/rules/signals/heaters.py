"""Rules about heaters: what keeps them from running away."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.model.part import Port
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.feed_cut_outs import is_cut_out
from vervain.text.name_words import name_words, says

# What takes no more sets nothing on fire (IEC 62368-1, PS1).
SMALL_W = 15.0


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
    title="A thermistor is open or shorted",
    reason="Open it reads as freezing, and the heater goes to full power; shorted it reads as far "
    "too hot, and the heater never starts.",
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


RULES = (heater_cutout, thermistor)
