"""What a conductor between two pins would mean: it belongs, nothing speaks against it, or it should
not be.
"""

from typing import Literal

from vervain.electrical.feeds import (
    RETURN_FUNCTIONS,
    consumers_of,
    feed_pins,
    is_supply_return,
    sources_of,
    voltage_fit,
)
from vervain.electrical.open_ends import strangers_met
from vervain.electrical.pin_needs import Need, needs_of_port
from vervain.electrical.unmet_needs import is_met, is_started, meets
from vervain.model.base import Record
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.text.units import volts_words

Verdict = Literal["belongs", "may be", "against advice", "cannot be"]
# Whose need a conductor meets: that of the first pin, of the other, of a port that is not used yet.
Urgency = Literal["own", "other", "unused"]


class Judgement(Record, frozen=True):
    """A verdict on a conductor, with its reason in a sentence, and whose need it meets."""

    verdict: Verdict
    words: str
    urgency: Urgency = "own"


@query
def judge_join(queries: Queries, first: PinRef, second: PinRef) -> Judgement:
    """What a conductor between two pins would mean for what both need."""
    one, two = queries.pin(first), queries.pin(second)
    if one is None or two is None:
        return Judgement("cannot be", "One of the pins is not there.")
    if first == second:
        return Judgement("cannot be", "That is one pin, not two.")
    if any(step.end == second for step in queries.steps(first)):
        return Judgement("against advice", "A wire joins them already.")
    is_one_net = second in queries.net(first)
    if is_one_net and queries.steps(first) and queries.steps(second):
        return Judgement("against advice", "They are joined already, by others.")
    stranger = None if is_one_net else strangers_met(queries, first, second)
    if stranger is not None:
        return Judgement(
            "against advice", f"{stranger[0]} and {stranger[1]} have nothing to do on one net."
        )
    for at, other in ((first, second), (second, first)):
        found = _feed_judged(queries, at, other) or _return_judged(queries, at, other)
        if found is not None:
            return _with_urgency(queries, found, at, first)
    for at, other in ((first, second), (second, first)):
        for need in _needs_at(queries, at):
            if not is_met(queries, need, at) and meets(queries, need, at, other):
                found = Judgement("belongs", f"{pin_in_words(queries, at)} gets {need.goal}.")
                return _with_urgency(queries, found, at, first)
    if is_one_net:
        return Judgement("may be", "They are one net already; this is one more way.")
    return Judgement("may be", "Nothing speaks against it.")


def _with_urgency(queries: Queries, found: Judgement, at: PinRef, first: PinRef) -> Judgement:
    """A judgement with whose need it is: of a port in use, or one that may stay empty."""
    if at == first:
        return found
    port = queries.port(at.port_ref)
    if port is None or port.end != "host" or is_started(queries, at.port_ref):
        return Judgement(found.verdict, found.words, "other")
    takes_power = any(isinstance(pin.electrical, FeedIn) for pin in port.pins)
    return Judgement(found.verdict, found.words, "other" if takes_power else "unused")


def _feed_judged(queries: Queries, taker: PinRef, giver: PinRef) -> Judgement | None:
    """What feeding the rail of one pin from that of another means: the voltage that comes, against
    the windows there. None where that is not what the conductor does.
    """
    sources, fed = sources_of(queries, giver), sources_of(queries, taker)
    if sources and fed and {s.pin for s in sources} != {s.pin for s in fed}:
        names = f"{pin_in_words(queries, sources[0].pin)} and {pin_in_words(queries, fed[0].pin)}"
        return Judgement("against advice", f"{names} would be joined plus to plus.")
    takers = consumers_of(queries, taker)
    if not sources or fed or not takers:
        return None
    source = sources[0]
    for taken in takers:
        low, high = source.feed.lowest_v, source.feed.highest_v
        if voltage_fit(low, high, taken.feed):
            name = pin_in_words(queries, taken.pin)
            window = volts_words(taken.feed.v_min_v, taken.feed.most_v)
            words = f"{name} takes {window}, not {source.feed.nominal_v:g} V."
            return Judgement("against advice", words)
    words = f"{source.feed.nominal_v:g} V from {source.pin.device}"
    return Judgement("belongs", f"{pin_in_words(queries, takers[0].pin)} gets {words}.")


def _return_judged(queries: Queries, taker: PinRef, giver: PinRef) -> Judgement | None:
    """Whether a pin gets its way back to the source that feeds its plus. None where it has one, or
    needs none.
    """
    pin, port = queries.pin(taker), queries.port(taker.port_ref)
    if pin is None or port is None or pin.function not in RETURN_FUNCTIONS:
        return None
    plus = next((p for p in feed_pins(queries, taker.device) if p.port == taker.port), None)
    others = (ref for ref in queries.rail(taker) if ref.device != taker.device)
    if plus is None or any(is_supply_return(queries, ref) for ref in others):
        return None
    backs = [ref for ref in queries.rail(giver) if is_supply_return(queries, ref)]
    if not backs:
        return None
    feeders = {source.pin.device for source in sources_of(queries, plus)}
    if feeders and feeders.isdisjoint(ref.device for ref in backs):
        return None
    return Judgement(
        "belongs", f"{pin_in_words(queries, taker)} gets its way back to {backs[0].device}."
    )


def _needs_at(queries: Queries, at: PinRef) -> list[Need]:
    pin, port, part = queries.pin(at), queries.port(at.port_ref), queries.part_of(at.device)
    if pin is None or port is None or part is None:
        return []
    return [row for row in needs_of_port(part, port) if pin.function in row.functions]
