"""The shortest way from one pin to others over conductors, fuses and closed contacts."""

from collections.abc import Callable, Collection, Iterator

from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import across, is_contact, joined_inside
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import path_to, reached

Passes = Callable[[str, Element], bool]


def over_fuses_and_contacts(device: str, element: Element) -> bool:
    """Whether current goes on by an element with every fuse whole and every contact closed."""
    return isinstance(element, Fuse | Contact)


def over_copper(device: str, element: Element) -> bool:
    """Whether current goes on by an element while nothing is worked and no fuse is passed: over
    none, what is joined inside is always passed.
    """
    return False


def way_over_contacts(
    queries: Queries,
    start: PinRef,
    goals: Collection[PinRef],
    passes: Passes = over_fuses_and_contacts,
) -> list[PinRef]:
    """The pins on the shortest way from one to any of some others across what `passes` says yes
    to; none where there is no way.
    """

    def beside(pin: PinRef) -> Iterator[PinRef]:
        yield from (step.end for step in queries.steps(pin))
        yield from joined_inside(queries, pin)
        yield from across(queries, pin, passes)

    found = reached([start], beside)
    ways = (path_to(goal, found) for goal in goals)
    return min((way for way in ways if way), key=len, default=[])


def is_at_a_contact(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is the end of a contact."""
    return bool(across(queries, ref, is_contact))
