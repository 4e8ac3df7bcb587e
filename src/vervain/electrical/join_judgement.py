"""What a conductor between two pins would mean: it belongs, nothing speaks against it, or it should
not be.
"""

from typing import Literal

from vervain.electrical.open_ends import strangers_met
from vervain.electrical.pin_needs import Need, needs_of_port
from vervain.electrical.unmet_needs import is_met, meets
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Verdict = Literal["belongs", "may be", "against advice", "cannot be"]


class Judgement(Record, frozen=True):
    """A verdict on a conductor, with its reason in a sentence."""

    verdict: Verdict
    words: str


@query
def judge_join(queries: Queries, first: PinRef, second: PinRef) -> Judgement:
    """What a conductor between two pins would mean for what both need."""
    one, two = queries.pin(first), queries.pin(second)
    if one is None or two is None:
        return Judgement("cannot be", "One of the pins is not there.")
    if first == second:
        return Judgement("cannot be", "That is one pin, not two.")
    names = [f"{ref.device} {ref.port} {pin.text}" for ref, pin in ((first, one), (second, two))]
    if second in queries.net(first):
        return Judgement("against advice", "They are joined already, directly or by others.")
    stranger = strangers_met(queries, first, second)
    if stranger is not None:
        return Judgement(
            "against advice", f"{stranger[0]} and {stranger[1]} have nothing to do on one net."
        )
    for at, other, name in ((first, second, names[0]), (second, first, names[1])):
        for need in _needs_at(queries, at):
            if not is_met(queries, need, at) and meets(queries, need, at, other):
                return Judgement("belongs", f"{name} gets {need.goal}.")
    return Judgement("may be", "Nothing speaks against it.")


def _needs_at(queries: Queries, at: PinRef) -> list[Need]:
    pin, port, part = queries.pin(at), queries.port(at.port_ref), queries.part_of(at.device)
    if pin is None or port is None or part is None:
        return []
    return [row for row in needs_of_port(part, port) if pin.function in row.functions]
