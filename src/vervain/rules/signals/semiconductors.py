"""Rules about solid-state relays."""

from collections.abc import Iterator

from vervain.electrical.feeds import sources_of
from vervain.electrical.unmet_needs import AT_MAINS
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.queries.connectivity import is_fuse, nets_reached
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="signals.kind-of-current",
    consequence="Damage",
    scope="device",
    title="A solid-state relay switches the other kind of current",
    reason="One for alternating current lets go only where the current passes through zero, which "
    "direct current never does: it stays on. One for direct current conducts one way only.",
    source="A thyristor conducts until its current falls below its holding current (IEC 62314).",
)
def kind_of_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Contact) or element.switches is None:
            continue
        pins = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
        sources = [source for ref in pins for source in sources_of(queries, ref)]
        members = {ref for net in nets_reached(queries, pins, is_fuse) for ref in net}
        found = [queries.pin(ref) for ref in members]
        is_alternating = any(pin is not None and pin.function in AT_MAINS for pin in found)
        name = f"{device} {element.pins[0][0]}"
        if element.switches == "AC" and sources:
            volts = sources[0].feed.nominal_v
            yield RuleOutput(
                f"{name} is made for alternating current: {volts:g} V of {sources[0].pin.device} "
                "stay on.",
                (about(pins[0]), about(sources[0].pin)),
                detail=element.pins[0][0],
            )
        elif element.switches == "DC" and is_alternating:
            yield RuleOutput(
                f"{name} is made for direct current, and mains come to it.",
                (about(pins[0]),),
                detail=element.pins[0][0],
            )


RULES = (kind_of_current,)
