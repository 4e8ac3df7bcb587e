"""Rules about motors that two contacts turn either way, each from a plus to the 0 V."""

from collections.abc import Iterator

from msgspec.structs import replace

from vervain.electrical.unmet_needs import changes_poles, natures
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import nets_reached
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.queries.pole_changers import throws_at
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import PutConductor
from vervain.rules.rule import RuleOutput, rule

LEADS = frozenset({"motor+", "motor-", "load+", "load-"})


@rule(
    id="ports.one-way",
    consequence="Won't run",
    scope="device",
    title="A motor that two relays turn lacks a pole",
    reason="Each of the relays joins one lead to plus while it is worked, and to 0 V at rest, or "
    "the other way round. With one of the four ways open the motor turns one way only, or brakes "
    "no more.",
    source="Kirchhoff's current law; the machine's own conductors.",
)
def one_way(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part is not None and part.kind == "brushed motor" else ():
        leads = [
            PinRef(device=device, port=port.id, pin=pin.id)
            for pin in port.pins
            if pin.function in LEADS
        ]
        commons = [common for lead in leads for common in _commons_at(queries, lead)]
        if len(commons) != 2:
            continue
        throws = [
            throw
            for common in commons
            for throw in throws_at(queries.part_of(common.device), common)
        ]
        live = [throw for throw in throws if _rail_at(queries, throw) is not None]
        # With one throw less of four nothing else is told; what is joined to none is no pair.
        dead = [throw for throw in throws if throw not in live]
        if not live or not dead or {_rest_of(queries, throw) for throw in dead} == {"NC", "NO"}:
            continue
        if not any(changes_poles(queries, common) for common in commons) and not all(
            queries.steps(throw) for throw in throws
        ):
            continue
        yield RuleOutput(
            f"{device} turns one way only: nothing comes to {pin_text(queries, dead[0])} of "
            f"{dead[0].device} {dead[0].port}.",
            (about(device), *map(about, dead), about(live[0])),
            at=(about(dead[0]),),
            fixes=tuple(_to_the_other_pole(queries, dead[0], live)),
        )


def _rail_at(queries: Queries, throw: PinRef) -> PinRef | None:
    """The plus or the 0 V of a source that a throw lies at, through fuses and the contacts of
    others too; None for neither.
    """

    def passes(device: str, element: Element) -> bool:
        return isinstance(element, Fuse | Contact) and device != throw.device

    return next(
        (
            ref
            for net in nets_reached(queries, [throw], passes)
            for ref in net
            if natures(queries, ref) & {"source", "return"}
        ),
        None,
    )


def _commons_at(queries: Queries, lead: PinRef) -> list[PinRef]:
    """The commons of contacts with several throws that a lead is joined to."""
    return [ref for ref in queries.net(lead) if throws_at(queries.part_of(ref.device), ref)]


def _to_the_other_pole(queries: Queries, throw: PinRef, live: list[PinRef]) -> Iterator[Fix]:
    """A dead throw joined to where that of the other relay is which rests as it does; else to the
    pole that the others are not at.
    """
    alike = [other for other in live if _rest_of(queries, other) == _rest_of(queries, throw)]
    ends = [step.end for other in alike for step in queries.steps(other)]
    rail = _rail_at(queries, live[0])
    port = queries.port(rail.port_ref) if rail is not None else None
    if rail is not None and port is not None and not ends:
        ends = [replace(rail, pin=pin.id) for pin in port.pins if pin.id != rail.pin]
    for end in ends[:1]:
        words = f"join {pin_in_words(queries, throw)} to {pin_in_words(queries, end)}"
        yield Fix(words=words, remedy=PutConductor(first=throw, second=end))


def _rest_of(queries: Queries, throw: PinRef) -> str:
    part = queries.part_of(throw.device)
    return next(
        (
            element.rest
            for element in (part.inside if part is not None else ())
            if isinstance(element, Contact) and (throw.port, throw.pin) in element.pins
        ),
        "",
    )


RULES = (one_way,)
