"""One way out of a source: a fuse, the contacts that a stop opens, strips for what hangs on it."""

from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_cut_outs import shared_words
from vervain.supply.feed_inputs import FeedInput, Purpose
from vervain.supply.feed_rails import lead_from, rails_from
from vervain.supply.feed_sizes import area_for, area_for_way, area_that_carries, rating_for
from vervain.supply.feed_sources import FeedSource
from vervain.supply.feed_steps import FeedStep, NewCable, NewDevice, NewWire
from vervain.supply.feed_ways import (
    Pair,
    Strip,
    free_pairs,
    fresh_contacts,
    fresh_fuses,
    fresh_stop_contacts,
    fresh_strip,
)
from vervain.supply.results import DROP_MOST, LOW_V
from vervain.supply.sizing import ratings_of
from vervain.text.units import in_area

# What leads to a fuse has none itself, and is kept short: rule supply.fuse-missing.
TO_THE_FUSE_M = 0.3
# Words in the names of fuses that tell what they are for.
PURPOSE_WORDS: dict[Purpose, str] = {
    "motion": "motion motor motors drive drives driver drivers bridge heat",
    "control": "control logic controller signal",
}
# Thicker than this a fuse is cheaper than copper.
THICKEST_WITHOUT_FUSE_MM2 = 2.5


# Where an input can be joined, and the number of the step that makes the place, if one does.
Way = tuple[Pair, int | None]


def needed(step: int | None) -> tuple[int, ...]:
    """The steps that come before one that is joined there."""
    return (step,) if step is not None else ()


class WayBuilder(PlanBuilder):
    """Builds ways out of sources."""

    def way_out(
        self, source: FeedSource, purpose: Purpose, inputs: list[FeedInput], besides_a: float
    ) -> tuple[list[Way], float] | None:
        """A fuse, the contacts that a stop opens, and a strip, as far as they are wanted: where the
        inputs can be joined then with the number of the step that makes it, and by what
        cross-section. An input that is such a strip itself is fed by this, and no longer among the
        inputs. `besides_a` is what else will hang there.
        """
        total_a = sum(item.current_a for item in inputs) + besides_a
        adds: list[NewDevice] = []
        fuse, rating = self._fuse(source, purpose, inputs, total_a, adds)
        area = area_for(self.queries, source, total_a, rating)
        contacts = self._contacts(source, total_a) if purpose == "motion" else []
        # What leads straight from the source in thin wires goes behind the fuse as well.
        thin = rails_from(self.queries, source) if fuse is not None and purpose == "control" else []
        strip = self._strip_among(inputs)
        if strip is None and (len(inputs) > 1 or thin):
            count = len(inputs) + 1 + len(thin) + (besides_a > 0)
            volts = source.feed.nominal_v
            ways = (area_for_way(self.queries, source.plus, item, volts) for item in inputs)
            thickest = max(area, *ways)
            strip = self._strip(count, total_a, thickest, source, purpose, adds)
            if strip is None:
                strip = self._strip(count, total_a, area, source, purpose, adds)
            if strip is None:
                self.decisions.append(
                    f"No strip bears {total_a:.3g} A and takes {in_area(area)}: add one for "
                    f"{source.plus.device}."
                )
                return None
        hops = [*([fuse] if fuse is not None else []), *contacts]
        start = source.plus
        cables: list[NewCable] = []
        wires: list[NewWire] = []
        goal = strip.pairs[0] if strip is not None else None
        for near, far in hops:
            first = fuse is not None and near == fuse[0]
            length_m = TO_THE_FUSE_M if first else None
            self.wire(start, near, "RD", area, cables, wires, length_m)
            start = far
        if goal is not None:
            self.wire(start, goal[0], "RD", area, cables, wires)
            self.wire(source.minus, goal[1], "BK", area, cables, wires)
        ratings = ((fuse[0].device, rating),) if fuse is not None and rating is not None else ()
        if wires or adds:
            self.add(
                FeedStep(
                    words=self._way_words(source, hops, goal, rating, fuse),
                    reason=self._way_reason(source, total_a, rating, area, bool(contacts)),
                    adds=tuple(adds),
                    cables=tuple(cables),
                    wires=tuple(wires),
                    ratings=ratings,
                )
            )
        made = len(self.steps) - 1 if wires or adds else None
        if strip is None:
            return [((start, source.minus), made)] * len(inputs), area
        outlets: list[Way] = [(pair, made) for pair in strip.pairs[1:]]
        while len(outlets) < len(inputs):
            outlets = self._longer(outlets, len(inputs), total_a, source, purpose, area)
        if thin:
            left = [plus for (plus, _), _ in outlets[len(inputs) :]] or [outlets[-1][0][0]]
            lead_from(self, thin, left[: len(thin)], needed(outlets[-1][1]))
        return outlets, area

    def _strip(
        self,
        count: int,
        current_a: float,
        area_mm2: float,
        source: FeedSource,
        purpose: Purpose,
        adds: list[NewDevice],
    ) -> Strip | None:
        """A strip of so many terminals, else the longest that there is, three at least; what has to
        be added for it is put among `adds`.
        """
        found = (
            fresh_strip(self.queries, self.shelf, n, current_a, area_mm2)
            for n in range(count, 2, -1)
        )
        strip = next((strip for strip in found if strip is not None), None)
        if strip is not None and strip.part is not None:
            name = f"Strip, {source.plus.device} {purpose}"
            adds.append(self.new_device(strip.part, name, source.plus.device))
            strip = strip.of_device(adds[-1].designator)
        return strip

    def _longer(
        self,
        outlets: list[Way],
        count: int,
        current_a: float,
        source: FeedSource,
        purpose: Purpose,
        area: float,
    ) -> list[Way]:
        """One more strip behind the last outlet, where a single one is too short."""
        ((plus, minus), before) = outlets[-1]
        adds: list[NewDevice] = []
        wanted = count - len(outlets) + 2
        strip = self._strip(wanted, current_a, area, source, purpose, adds)
        assert strip is not None
        cables: list[NewCable] = []
        wires: list[NewWire] = []
        self.wire(plus, strip.pairs[0][0], "RD", area, cables, wires)
        self.wire(minus, strip.pairs[0][1], "BK", area, cables, wires)
        self.add(
            FeedStep(
                words=f"{plus.device} {plus.port} on to {strip.pairs[0][0].device}",
                reason=f"One strip is too short for {count}.",
                adds=tuple(adds),
                cables=tuple(cables),
                wires=tuple(wires),
                needs=needed(before),
            )
        )
        made = len(self.steps) - 1
        return [*outlets[:-1], *((pair, made) for pair in strip.pairs[1:])]

    def _way_words(
        self,
        source: FeedSource,
        hops: list[Pair],
        goal: Pair | None,
        rating: float | None,
        fuse: Pair | None,
    ) -> str:
        names = []
        for near, _ in hops:
            is_fuse = fuse is not None and near == fuse[0]
            names.append(f"{near.device}, {rating:g} A" if is_fuse else near.device)
        if goal is not None:
            names.append(goal[0].device)
        return f"{source.plus.device} to {' to '.join(names)}"

    def _way_reason(
        self, source: FeedSource, total_a: float, rating: float | None, area: float, stops: bool
    ) -> str:
        words = [f"{total_a:.2g} A of {source.feed.current_a:g} A."]
        if rating is not None:
            words.append(f"The fuse protects {in_area(area)}.")
        else:
            words.append(f"{in_area(area)} carries all that {source.plus.device} gives: no fuse.")
        if stops:
            words.append("What moves goes off with the stop.")
        return " ".join(words)

    # Fuses, contacts, cross-sections.

    def _fuse(
        self,
        source: FeedSource,
        purpose: Purpose,
        inputs: list[FeedInput],
        total_a: float,
        adds: list[NewDevice],
    ) -> tuple[Pair | None, float | None]:
        """A fuse for a way out with its rating: one that is there and free, else a new one where no
        usual core carries all that the source gives. None where none is wanted.
        """
        # What takes a power takes the more amperes, the fewer volts arrive.
        rating = rating_for(total_a * (1 + DROP_MOST))
        free = fresh_fuses(self.queries)
        carried = area_that_carries(self.queries, source.feed.current_a)
        spared = not source.is_battery and carried is not None
        spared = spared and (carried or 0.0) <= THICKEST_WITHOUT_FUSE_MM2
        if spared and source.feed.nominal_v <= LOW_V:
            # What a fuse loses counts where there are few volts.
            return None, None
        if rating is None:
            self.decisions.append(
                f"{source.plus.device} gives {total_a:.3g} A there: no usual fuse is that large."
            )
            return None, None
        free = [pair for pair in free if rating in ratings_of(self.queries.part_of(pair[0].device))]
        if free:
            names = " ".join(item.words for item in inputs)
            wanted_for = f"{names} {source.feed.nominal_v:g} V {PURPOSE_WORDS[purpose]}"
            return max(free, key=lambda pair: self._alike(pair[0].device, wanted_for)), rating
        if spared:
            return None, None
        made = self.new_fuse(source.plus.device, rating)
        if made is None:
            self.decisions.append(f"{source.plus.device} wants a fuse of {rating:g} A: add one.")
            return None, None
        added, near, far = made
        adds.append(added)
        return (near, far), rating

    def _strip_among(self, inputs: list[FeedInput]) -> Strip | None:
        """The strip among the inputs from which all the others can be fed; it is one no longer."""
        best: tuple[FeedInput, Strip] | None = None
        for item in inputs:
            part = self.queries.part_of(item.plus.device)
            net = set(self.queries.net(item.plus))
            pairs = tuple(
                pair
                for pair in (free_pairs(self.queries, item.plus.device) if part else ())
                if pair[0] in net
            )
            if len(pairs) >= len(inputs) and (best is None or len(pairs) > len(best[1].pairs)):
                best = item, Strip(pairs=pairs)
        if best is None:
            return None
        inputs.remove(best[0])
        return best[1]

    def _alike(self, device: str, words: str) -> int:
        """How many words a device's name shares with others."""
        found = self.queries.device(device)
        return shared_words(found.name if found is not None else "", words)

    def _contacts(self, source: FeedSource, total_a: float) -> list[Pair]:
        """The contacts that what moves goes through, one behind the other."""
        found = fresh_contacts(self.queries)
        if not found:
            return self._stop_contacts(source, total_a)
        fit = [c for c in found if c.bears(source.feed.nominal_v, total_a)]
        if not fit:
            self.decisions.append(
                f"{found[0].near.device} does not switch {total_a:.2g} A at "
                f"{source.feed.nominal_v:g} V: what moves stays on after a stop."
            )
        return [(contact.near, contact.far) for contact in fit]

    def goes_through_stops(self, source: FeedSource, current_a: float) -> bool:
        """Whether what moves goes through contacts of the stops themselves."""
        stops = () if fresh_contacts(self.queries) else fresh_stop_contacts(self.queries)
        return bool(stops) and all(c.bears(source.feed.nominal_v, current_a) for c in stops)

    def _stop_contacts(self, source: FeedSource, total_a: float) -> list[Pair]:
        """Where there is no contactor, a contact of every stop itself, if all of them bear it."""
        stops = fresh_stop_contacts(self.queries)
        weak = [c for c in stops if not c.bears(source.feed.nominal_v, total_a)]
        if weak:
            self.decisions.append(
                f"{weak[0].near.device} is not known to switch {total_a:.2g} A at "
                f"{source.feed.nominal_v:g} V: give what its contact carries, or add a contactor."
            )
            return []
        return [(contact.near, contact.far) for contact in stops]
