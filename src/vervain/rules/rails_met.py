"""Plugs of which a wire leads from a plus to a 0 V: what is at these two pins may be exchanged."""

from collections.abc import Iterator

from vervain.model.machine import PinRef, PortRef, ends_of
from vervain.queries.machine_queries import Queries

# What the two rails of a feed are.
RAILS = {"plus", "zero"}


def rails_that_met(queries: Queries) -> Iterator[tuple[PortRef, str, str]]:
    """The plugs with a wire from a plus to a 0 V and another one at the other rail, each with the
    pin of that wire and the one of that rail, in the order of the machine's hookups.
    """
    seen: set[PortRef] = set()
    for ref in _ends_of_the_wrong_rail(queries):
        other = _other_rail(queries, ref, is_joined=True)
        if other is not None and ref.port_ref not in seen:
            seen.add(ref.port_ref)
            yield ref.port_ref, ref.pin, other


def alone_at_the_wrong_rail(queries: Queries) -> Iterator[PortRef]:
    """The plugs of two pins of which the only wire leads from a plus to a 0 V: it may be meant for
    the pin beside.
    """
    for ref in _ends_of_the_wrong_rail(queries):
        port = queries.port(ref.port_ref)
        if port is not None and len(port.pins) == len(RAILS) and _other_rail(queries, ref, False):
            yield ref.port_ref


def _ends_of_the_wrong_rail(queries: Queries) -> Iterator[PinRef]:
    """Both ends of each wire from a plus to a 0 V."""
    for hookup in queries.machine.hookups:
        for conductor in hookup.conductors:
            ends = ends_of(hookup, conductor)
            pins = [queries.pin(ref) for ref in ends]
            if {pin.function for pin in pins if pin is not None} == RAILS:
                yield from ends


def _other_rail(queries: Queries, at: PinRef, is_joined: bool) -> str | None:
    """The pin of the same plug that is a 0 V where one is a plus, or the other way round, and that
    something is joined to, or nothing.
    """
    port, own = queries.port(at.port_ref), queries.pin(at)
    return next(
        (
            pin.id for pin in (port.pins if port is not None else ())
            if own is not None and {pin.function, own.function} == RAILS
            and bool(queries.steps(PinRef(device=at.device, port=at.port, pin=pin.id))) == is_joined
        ),
        None,
    )  # fmt: skip
