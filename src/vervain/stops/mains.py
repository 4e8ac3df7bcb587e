"""Where mains comes into a machine, seen from what takes it."""

from vervain.model.elements import Bridge, Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import nets_reached
from vervain.queries.machine_queries import Queries


def mains_entry(
    queries: Queries, line: PinRef, neutral: PinRef, by_buttons: bool = False
) -> tuple[PinRef, PinRef] | None:
    """Where mains comes in for a device: the farthest line and neutral, through fuses and contacts
    that a coil or a stop works, `by_buttons` through those that a hand closes as well. A switch by
    hand is on while the machine is at work.
    """

    def passes(device: str, element: Element) -> bool:
        if isinstance(element, Contact):
            part = queries.part_of(device)
            is_button = by_buttons and part is not None and part.kind == "switch"
            return is_button or element.worked_by != "hand" or element.rest == "NC"
        return isinstance(element, Fuse | Bridge)

    def ends(start: PinRef, function: str) -> list[PinRef]:
        return [
            ref
            for net in nets_reached(queries, [start], passes)
            for ref in net
            if (pin := queries.pin(ref)) is not None and pin.function == function
            and (port := queries.port(ref.port_ref)) is not None and port.end != "device"
        ]  # fmt: skip

    backs = ends(neutral, "neutral")
    for root in reversed(ends(line, "line")):
        back = next((ref for ref in backs if ref.port_ref == root.port_ref), None)
        if back is not None:
            return root, back
    return None
