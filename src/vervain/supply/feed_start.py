"""What a string of contacts that works coils has besides the stops: what else opens it, a button
that starts it, and a contact that holds it then.
"""

from vervain.catalogue.terminals import is_at_a_door
from vervain.model.elements import Contact
from vervain.model.part import Part
from vervain.ports.port_wishes import start_button_port
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import Wiring
from vervain.supply.stop_contacts import Ends, contact_ends, contacts_that_rest, free_contacts
from vervain.text.name_words import name_words, says


def start_button(queries: Queries) -> Ends | None:
    """The ends of the contact of a button that starts something and that nothing is joined to."""
    at = start_button_port(queries)
    part = queries.part_of(at.device) if at is not None else None
    ends = (
        contact_ends(at.device, element)
        for element in (contacts_that_rest(part, "NO") if part is not None else ())
        if at is not None
    )
    return next((pair for pair in ends if at is not None and pair[0].port == at.port), None)


def what_else_opens(queries: Queries) -> dict[str, list[Ends]]:
    """The contacts besides those of stops that open when something is not in order, and that
    nothing is joined to: of buttons that turn off, of doors, of limiters, and of what trips.
    """
    found: dict[str, list[Ends]] = {}
    for name in queries.devices():
        part, device = queries.part_of(name), queries.device(name)
        if part is None or device is None:
            continue
        called = f"{device.name} / {part.title}"
        by_itself = is_at_a_door(called) or says(called, name_words().limiter)
        contacts = [
            contact_ends(name, element)
            for element in part.inside
            if isinstance(element, Contact)
            and (
                (element.rest, element.worked_by) == ("NC", "trip")
                or (part.kind == "switch" and element.rest == "NC"
                    and (by_itself or (element.worked_by == "hand" and _only_opens(part))))
            )
        ]  # fmt: skip
        if contacts and not any(steps_from(queries, ref) for ends in contacts for ref in ends):
            found[name] = contacts
    return found


def _only_opens(part: Part) -> bool:
    """Whether a hand opens something at a part and closes nothing: a changeover is for either."""
    return not any(element.worked_by == "hand" for element in contacts_that_rest(part, "NO"))


def hold(wiring: Wiring, button: Ends | None, contactor: str, colour: str) -> bool:
    """Puts a free contact of a contactor that closes beside the start button."""
    queries = wiring.planner.queries
    part = queries.part_of(contactor)
    for ends in free_contacts(queries, contactor, "NO") if button is not None else ():
        port = part.port(ends[0].port) if part is not None else None
        if port is not None and port.kind == "contact" and button is not None:
            wiring.join(button[0], ends[0], colour)
            wiring.join(button[1], ends[1], colour)
            return True
    return False
