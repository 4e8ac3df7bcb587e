"""Plugs of which a wire leads from a plus to a 0 V: what is at these two pins may be exchanged."""

from collections.abc import Iterator

from vervain.model.machine import PinRef, PortRef, ends_of
from vervain.queries.machine_queries import Queries


def rails_that_met(queries: Queries) -> Iterator[tuple[PortRef, str, str]]:
    """The plugs with a wire from a plus to a 0 V, each with the pin of that wire and the one of the
    other rail, in the order of the machine's hookups.
    """
    seen: set[PortRef] = set()
    for hookup in queries.machine.hookups:
        for conductor in hookup.conductors:
            ends = ends_of(hookup, conductor)
            pins = [queries.pin(ref) for ref in ends]
            if {pin.function for pin in pins if pin is not None} != {"plus", "zero"}:
                continue
            for ref in ends:
                other = _other_rail(queries, ref)
                if other is not None and ref.port_ref not in seen:
                    seen.add(ref.port_ref)
                    yield ref.port_ref, ref.pin, other


def _other_rail(queries: Queries, at: PinRef) -> str | None:
    """The pin of the same plug that is a 0 V where one is a plus, or the other way round, and that
    something is joined to.
    """
    port, own = queries.port(at.port_ref), queries.pin(at)
    return next(
        (
            pin.id for pin in (port.pins if port is not None else ())
            if own is not None and {pin.function, own.function} == {"plus", "zero"}
            and queries.steps(PinRef(device=at.device, port=at.port, pin=pin.id))
        ),
        None,
    )  # fmt: skip
