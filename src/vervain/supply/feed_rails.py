"""Wires that lead straight from a source to contacts and sensors in a proposal: they are led from
behind a fuse, as they are as thin as what they carry is little.
"""

from collections.abc import Iterator

from vervain.model.machine import PinRef
from vervain.model.part import PartKind
from vervain.queries.machine_queries import Queries
from vervain.stops.words import names_in_words
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_sources import FeedSource
from vervain.supply.feed_steps import FeedStep, NewEnd

# What a thick wire leads to, which has a fuse behind it or is one.
PASSED: tuple[PartKind, ...] = ("fuse", "terminal strip", "contactor", "supply", "battery")


def rails_from(queries: Queries, source: FeedSource) -> list[NewEnd]:
    """The wires without a cable from the plus of a source to what takes little, each with its end
    there and its far end; where it is led to is still to come.
    """
    return list(_bare_wires(queries, source.plus))


def _bare_wires(queries: Queries, plus: PinRef) -> Iterator[NewEnd]:
    for step in queries.steps(plus):
        hookup, part = queries.hookup(step.hookup), queries.part_of(step.end.device)
        is_bare = hookup is not None and hookup.cable is None
        if is_bare and part is not None and part.kind not in PASSED and step.start == plus:
            yield NewEnd(far=step.end, old=plus, new=plus)


def lead_from(
    planner: PlanBuilder, ends: list[NewEnd], pluses: list[PinRef], needs: tuple[int, ...]
) -> None:
    """Leads such wires from the pluses of a strip, one after the other."""
    moves = tuple(
        NewEnd(far=end.far, old=end.old, new=pluses[number % len(pluses)])
        for number, end in enumerate(ends)
    )
    names = names_in_words(tuple(dict.fromkeys(end.far.device for end in ends)))
    planner.add(
        FeedStep(
            words=f"{names} led from {pluses[0].device} instead of {ends[0].old.device}",
            reason="Thin wires lie behind the fuse there.",
            moves=moves,
            needs=needs,
        )
    )
