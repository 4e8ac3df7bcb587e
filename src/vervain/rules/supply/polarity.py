"""Rules about plus and minus that have changed places at what is fed, or worked by an output."""

from collections.abc import Iterator

from vervain.electrical.feeds import returns_of, sources_of
from vervain.model.electrical import LogicOutput
from vervain.model.machine import PinRef
from vervain.model.part import PinFunction
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import ExchangePins
from vervain.rules.rule import RuleOutput, rule
from vervain.rules.supply.voltage import fed_pins, is_driven
from vervain.stops.verdicts import given_up_at_work


@rule(
    id="supply.polarity",
    consequence="Damage",
    scope="device",
    title="Plus and minus are exchanged",
    reason="Reversed, the input conducts through its protection or its capacitors, until the "
    "fuse blows or the device does.",
    source="Derivation: the return pin lies on the source's plus.",
)
def polarity(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, feed, back in fed_pins(queries, device):
        turns = back is not None and _turns_one_way(queries, ref, back)
        if back is None or (feed.polarity_free and not turns):
            continue
        if sources_of(queries, ref):
            continue
        if not sources_of(queries, back):
            yield from _worked_the_wrong_way_round(queries, ref, back)
            continue
        source = sources_of(queries, back)[0]
        is_shorted = set(returns_of(queries, source.pin)) & set(queries.net(source.pin))
        if is_shorted or source.pin.device in given_up_at_work(queries):
            # A source that is shorted is on both; the short is told.
            continue
        if queries.steps(ref) and not _comes_back(queries, ref, source.pin):
            # Its plus lies there and no current goes back to it: it floats.
            continue
        fix = _exchange(queries, ref, back)
        way = "turns the wrong way" if turns else "is fed the wrong way round"
        yield RuleOutput(
            f"{device} {way}: plus of {source.pin.device} is on its minus.",
            (about(ref), about(back), about(source.pin)),
            detail=ref.port,
            consequence="Unreliable" if turns else "Damage",
            fixes=(fix,) if fix else (),
        )


def _worked_the_wrong_way_round(
    queries: Queries, plus: PinRef, back: PinRef
) -> Iterator[RuleOutput]:
    """Of a load that an output works from its plus side: it lies with its minus on the output, and
    with its plus on the 0 V of that.
    """
    beside = {ref.device for ref in queries.net(plus) if _has_function(queries, ref, "zero")}
    for ref in queries.net(back):
        pin, port = queries.pin(ref), queries.port(ref.port_ref)
        output = pin.electrical if pin is not None else None
        gives = isinstance(output, LogicOutput) and output.drive in ("push-pull", "PNP")
        if gives and port is not None and port.end == "host" and ref.device in beside:
            fix = _exchange(queries, plus, back)
            yield RuleOutput(
                f"{plus.device} lies the wrong way round at {pin_in_words(queries, ref)}.",
                (about(plus), about(back), about(ref)),
                detail=plus.port,
                consequence="Won't run",
                fixes=(fix,) if fix else (),
            )
            return


def _has_function(queries: Queries, ref: PinRef, function: PinFunction) -> bool:
    pin = queries.pin(ref)
    return pin is not None and pin.function == function


def _comes_back(queries: Queries, at: PinRef, plus: PinRef) -> bool:
    """Whether something that a pin meets lies at the return of a source."""
    backs = {ref.device for back in returns_of(queries, plus) for ref in queries.rail(back)}
    return bool(backs & {ref.device for ref in queries.rail(at) if ref.device != at.device})


def _turns_one_way(queries: Queries, plus: PinRef, minus: PinRef) -> bool:
    """Whether a brushed motor has its plus and minus printed, moves no axis and hangs on no bridge:
    a pump, a blower, which is made for one way.
    """
    signs = [pin.text[-1:] for ref in (plus, minus) if (pin := queries.pin(ref)) is not None]
    part = queries.part_of(plus.device)
    return (
        part is not None
        and part.kind == "brushed motor"
        and signs == ["+", "-"]
        and queries.axis_of(plus.device) is None
        and not is_driven(queries, plus)
    )


def _exchange(queries: Queries, plus: PinRef, back: PinRef) -> Fix | None:
    for step in steps_from(queries, plus):
        hookup = queries.hookup(step.hookup)
        if hookup is None or step.hookup not in {s.hookup for s in steps_from(queries, back)}:
            continue
        side = "a" if hookup.a == plus.port_ref else "b"
        remedy = ExchangePins(hookup=step.hookup, side=side, first=plus.pin, second=back.pin)
        return Fix(words=f"exchange the two conductors at {plus.device} {plus.port}", remedy=remedy)
    return None


RULES = (polarity,)
