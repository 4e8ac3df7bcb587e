"""What every place of the feed trees says to a feed in hand: voltage, current left, chained."""

from typing import Literal

from vervain.electrical.feeds import consumers_of, sources_of
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_inputs import FeedInput, input_at, purpose_of
from vervain.supply.feed_sources import FeedSource, feed_sources, suits
from vervain.supply.rewiring import outlet_of
from vervain.text.units import volts_words

FeedVerdict = Literal["fits", "fits with", "does not fit"]
ORDER: tuple[FeedVerdict, ...] = ("fits", "fits with", "does not fit")


class FeedAnswer(Record, frozen=True, kw_only=True):
    """The answer of one place, with its reason; `rank` sorts them, the best first."""

    place: PinRef
    verdict: FeedVerdict
    words: str
    rank: tuple[float, ...]


def feed_answers(
    queries: Queries, plus: PinRef, places: tuple[PinRef, ...]
) -> tuple[FeedAnswer, ...]:
    """What places that feed on say to the feed of a consumer's pin, the best first. Places whose
    device lets no feed go on are left out.
    """
    item = input_at(queries, plus)
    sources = {source.plus: source for source in feed_sources(queries)}
    found = []
    for place in places:
        if place.device == plus.device or outlet_of(queries, place) is None:
            continue
        feeding = [s.pin for s in sources_of(queries, place) if s.pin in sources]
        source = sources[feeding[0]] if feeding else None
        part = queries.part_of(place.device)
        if source is None and (part is None or part.kind != "terminal strip"):
            continue
        found.append(_answer(queries, item, place, source))
    return tuple(sorted(found, key=lambda answer: answer.rank))


def _answer(
    queries: Queries, item: FeedInput, place: PinRef, source: FeedSource | None
) -> FeedAnswer:
    part = queries.part_of(place.device)
    is_strip = part is not None and part.kind == "terminal strip"
    is_source = source is not None and source.plus.device == place.device
    here, there = queries.device(place.device), queries.device(item.plus.device)
    near = here is not None and there is not None and here.place == there.place
    verdict: FeedVerdict = "fits"
    left_a = source.left_a if source is not None else 0.0
    apart = 0
    if source is None:
        verdict, words = "fits with", "is not fed itself yet"
    elif not suits(source, item):
        window = volts_words(item.v_min_v, item.v_max_v)
        words = f"{source.feed.nominal_v:g} V from {source.plus.device}; it takes {window}"
        verdict = "does not fit"
    else:
        words = f"{source.feed.nominal_v:g} V from {source.plus.device}, {left_a:.2g} A left"
        if left_a < item.current_a:
            verdict = "fits with"
            words += f", {item.current_a - left_a:.2g} A too few"
        others = {purpose_of(queries, d) for d in _fed_by(queries, place)}
        apart = bool(others - {item.purpose})
        if apart:
            words += ", with what moves" if "motion" in others else ", with what controls"
    if not is_strip and not is_source:
        words += f"; chained through {place.device}"
    rank = (
        ORDER.index(verdict), apart, not (is_strip or is_source), not is_strip, not near, -left_a,
    )  # fmt: skip
    return FeedAnswer(place=place, verdict=verdict, words=words, rank=rank)


def _fed_by(queries: Queries, place: PinRef) -> set[str]:
    """The devices that take power from the copper of a place."""
    net = set(queries.net(place))
    return {taker.pin.device for taker in consumers_of(queries, place) if taker.pin in net}
