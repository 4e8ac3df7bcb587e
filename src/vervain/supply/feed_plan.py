"""A proposal that feeds everything unfed: which source, by which fuse, contacts and strip, and why.

Inputs are given to sources by voltage window, what is left of each, and what for: motion apart from
control, and behind the contacts that a stop opens. Each source and purpose gets one way out: a fuse
at the source, the contacts, a strip where several hang on it.
"""

from collections.abc import Callable

from msgspec.structs import replace

from vervain.electrical.feeds import feed_pins, zero_pin_of
from vervain.model.elements import Fuse
from vervain.model.machine import Machine, PinRef
from vervain.model.part import CablePart, Part
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_cut_outs import plan_cut_outs, shared_words
from vervain.supply.feed_inputs import FeedInput, Purpose, unfed_inputs
from vervain.supply.feed_mains import plan_mains
from vervain.supply.feed_sizes import (
    area_for,
    area_for_way,
    area_that_carries,
    by_fuse,
    rating_for,
)
from vervain.supply.feed_sources import FeedSource, feed_sources, preference, suits
from vervain.supply.feed_steps import (
    FeedPlan,
    FeedStep,
    NewCable,
    NewDevice,
    NewWire,
)
from vervain.supply.feed_ways import (
    Strip,
    free_pairs,
    fresh_contacts,
    fresh_fuses,
    fresh_strip,
    outlets_behind,
)
from vervain.supply.results import LOW_V
from vervain.supply.states import feed_table

# What leads to a fuse has none itself, and is kept short: rule supply.fuse-missing.
TO_THE_FUSE_M = 0.3
# Words in the names of fuses that tell what they are for.
PURPOSE_WORDS: dict[Purpose, str] = {
    "motion": "motion motor motors drive drives driver drivers bridge heat",
    "control": "control logic controller signal",
}
# Thicker than this a fuse is cheaper than copper.
THICKEST_WITHOUT_FUSE_MM2 = 2.5

Order = list[tuple[FeedSource, Purpose, list[FeedInput]]]


def plan_feeds(
    machine: Machine,
    shelf: tuple[Part, ...] = (),
    cables: tuple[CablePart, ...] = (),
    should_continue: Callable[[], bool] = lambda: True,
) -> FeedPlan:
    """A proposal for everything that has to be fed and is not, mains and earth included. Strips,
    fuses and mains terminals that are not there are taken from `shelf`, cables from `cables`.
    """
    planner = _Planner(machine, shelf, cables)
    for source, purpose, inputs in planner.given_out():
        if not should_continue():
            break
        planner.feed(source, purpose, inputs)
    plan_mains(planner)
    plan_cut_outs(planner)
    return FeedPlan(steps=tuple(planner.steps), decisions=tuple(planner.decisions))


class _Planner(PlanBuilder):
    """Gives inputs out to sources, and builds the ways to them."""

    # Which source feeds what.

    def given_out(self) -> Order:
        """The inputs that each source is to feed, by purpose; converters after their loads."""
        sources = feed_sources(self.queries)
        wanted = unfed_inputs(self.queries)
        converters = {s.plus.device for s in sources if s.fed_by is not None}
        loads = [item for item in wanted if not converters & set(item.feeds)]
        loads.sort(key=lambda item: -item.current_a)
        taken: dict[PinRef, float] = {}
        used: dict[PinRef, set[str]] = {}
        given: dict[tuple[PinRef, Purpose], tuple[FeedSource, list[FeedInput]]] = {}

        def give(item: FeedInput) -> None:
            fitting = [
                s
                for s in sources
                if s.plus.device not in item.feeds and suits(s, item) and self._may(s, item)
            ]
            if not fitting:
                self.decisions.append(_nothing_suits(item))
                return
            best = min(
                fitting,
                key=lambda s: preference(
                    s, item, taken.get(s.plus, 0.0), frozenset(used.get(s.plus, set()))
                ),
            )
            if best.left_a - taken.get(best.plus, 0.0) < item.current_a:
                self.decisions.append(
                    f"{best.plus.device} gives {best.feed.current_a:g} A: too little for "
                    f"{item.words} besides. Take a larger supply, or one more."
                )
            taken[best.plus] = taken.get(best.plus, 0.0) + item.current_a
            used.setdefault(best.plus, set()).add(item.purpose)
            given.setdefault((best.plus, item.purpose), (best, []))[1].append(item)

        for item in loads:
            give(item)
        for item in wanted:
            if converters & set(item.feeds):
                out = [s for s in sources if s.plus.device in item.feeds]
                watts = sum(
                    (s.taken_a + taken.get(s.plus, 0.0) or s.feed.current_a) * s.feed.nominal_v
                    for s in out
                )
                volts = item.nominal_v or (item.v_min_v + item.v_max_v) / 2
                more_a = watts / volts / feed_table().efficiency
                give(replace(item, current_a=item.current_a + more_a))
        order = {device: n for n, device in enumerate(self.queries.devices())}
        rows = [
            (source, purpose, sorted(items, key=lambda i: order[i.plus.device]))
            for (_, purpose), (source, items) in given.items()
        ]

        def first(row: tuple[FeedSource, Purpose, list[FeedInput]]) -> tuple[bool, float]:
            # What moves most comes first: it has the contacts that there are.
            return row[1] != "motion", -sum(item.current_a for item in row[2])

        return sorted(rows, key=first)

    def _may(self, source: FeedSource, item: FeedInput) -> bool:
        """Whether a source's return is the one that an input has, where it has one."""
        if item.minus is not None:
            return True
        takers = (PinRef(device=d, port=p.port, pin=p.pin) for d in item.feeds
                  for p in feed_pins(self.queries, d))  # fmt: skip
        backs = [zero_pin_of(self.queries, taker, None) for taker in takers]
        return any(b is not None and source.minus in self.queries.rail(b) for b in backs)

    # One way out of a source.

    def feed(self, source: FeedSource, purpose: Purpose, inputs: list[FeedInput]) -> None:
        """Feeds inputs from a source: from where such are fed already, else by a new way out; what
        has thin wires behind it by one of its own.
        """
        outlets = outlets_behind(self.queries, source, purpose)
        if len(outlets) >= len(inputs):
            load_a = sum(item.current_a for item in inputs)
            area = area_for(self.queries, source, load_a, None)
            for item, (plus, minus) in zip(inputs, outlets, strict=False):
                self._branch(source, purpose, item, plus, minus, area, ())
            return
        for group in by_fuse(self.queries, inputs):
            made = self._way_out(source, purpose, group)
            if made is None:
                continue
            outlets, area = made
            needs = (len(self.steps) - 1,)
            for item, (plus, minus) in zip(group, outlets, strict=False):
                self._branch(source, purpose, item, plus, minus, area, needs)

    def _branch(
        self,
        source: FeedSource,
        purpose: Purpose,
        item: FeedInput,
        plus: PinRef,
        minus: PinRef,
        area: float,
        needs: tuple[int, ...],
    ) -> None:
        """The pair from an outlet to an input."""
        long = area_for_way(self.queries, plus, item, source.feed.nominal_v)
        back = item.minus
        if back is not None and source.minus in self.queries.rail(back):
            back = None
        cores = ("RD", "BK") if back is not None else ("RD",)
        part = self.cable_between(plus.device, item.plus.device, cores, max(area, long))
        cable = self.new_cable(part, plus.device, item.plus.device)
        volts = f"{source.feed.nominal_v:g} V from {source.plus.device}"
        taken = f"{item.current_a:.2g} A" if item.current_a else "next to nothing"
        wires = [NewWire(a=plus, b=item.plus, cable=cable.id, core=1)]
        if back is not None:
            wires.append(NewWire(a=minus, b=back, cable=cable.id, core=2))
        words = f"{item.words} from {plus.device}"
        if plus.device != source.plus.device:
            words += f" {plus.port}"
        apart = "with what moves" if purpose == "motion" else "with what controls"
        self.add(
            FeedStep(
                words=words,
                reason=f"{volts}, takes {taken}; {apart}. {part.core_mm2:g} mm².",
                cables=(cable,),
                wires=tuple(wires),
                needs=needs,
            )
        )

    def _way_out(
        self, source: FeedSource, purpose: Purpose, inputs: list[FeedInput]
    ) -> tuple[list[tuple[PinRef, PinRef]], float] | None:
        """A fuse, the contacts that a stop opens, and a strip, as far as they are wanted: where the
        inputs can be joined then, and by what cross-section. An input that is such a strip itself
        is fed by this, and no longer among the inputs.
        """
        total_a = sum(item.current_a for item in inputs)
        adds: list[NewDevice] = []
        fuse, rating = self._fuse(source, purpose, inputs, adds)
        area = area_for(self.queries, source, total_a, rating)
        contacts = self._contacts(source, total_a) if purpose == "motion" else []
        strip = self._strip_among(inputs)
        if strip is None and len(inputs) > 1:
            strip = fresh_strip(self.queries, self.shelf, len(inputs) + 1, total_a)
            if strip is None:
                self.decisions.append(
                    f"No strip has {len(inputs) + 1} terminals for {total_a:.2g} A: add one for "
                    f"{source.plus.device}."
                )
                return None
        if strip is not None and strip.part is not None:
            added = self.new_device(
                strip.part, f"Strip, {source.plus.device} {purpose}", source.plus.device
            )
            adds.append(added)
            strip = strip.of_device(added.designator)
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
        elif not hops:
            return [(source.plus, source.minus)] * len(inputs), area
        outlets = list(strip.pairs[1:]) if strip is not None else [(start, source.minus)]
        return outlets, area

    def _way_words(
        self,
        source: FeedSource,
        hops: list[tuple[PinRef, PinRef]],
        goal: tuple[PinRef, PinRef] | None,
        rating: float | None,
        fuse: tuple[PinRef, PinRef] | None,
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
            words.append(f"The fuse protects {area:g} mm².")
        else:
            words.append(f"{area:g} mm² carries all that {source.plus.device} gives: no fuse.")
        if stops:
            words.append("What moves goes off with the stop.")
        return " ".join(words)

    # Fuses, contacts, cross-sections.

    def _fuse(
        self,
        source: FeedSource,
        purpose: Purpose,
        inputs: list[FeedInput],
        adds: list[NewDevice],
    ) -> tuple[tuple[PinRef, PinRef] | None, float | None]:
        """A fuse for a way out with its rating: one that is there and free, else a new one where no
        usual core carries all that the source gives. None where none is wanted.
        """
        total_a = sum(item.current_a for item in inputs)
        rating = rating_for(total_a)
        free = fresh_fuses(self.queries)
        carried = area_that_carries(self.queries, source.feed.current_a)
        spared = not source.is_battery and carried is not None
        spared = spared and (carried or 0.0) <= THICKEST_WITHOUT_FUSE_MM2
        if spared and source.feed.nominal_v <= LOW_V:
            # What a fuse loses counts where there are few volts.
            return None, None
        if rating is None:
            self.decisions.append(
                f"{source.plus.device} gives {total_a:.3g} A there: no blade fuse is that large."
            )
            return None, None
        if free:
            names = " ".join(item.words for item in inputs)
            wanted_for = f"{names} {source.feed.nominal_v:g} V {PURPOSE_WORDS[purpose]}"
            return max(free, key=lambda pair: self._alike(pair[0].device, wanted_for)), rating
        if spared:
            return None, None
        part = next((p for p in (*self.machine.parts, *self.shelf) if p.kind == "fuse"), None)
        element = next((e for e in (part.inside if part else ()) if isinstance(e, Fuse)), None)
        if part is None or element is None:
            self.decisions.append(f"{source.plus.device} wants a fuse of {rating:g} A: add one.")
            return None, None
        added = self.new_device(part, f"Fuse at {source.plus.device}", source.plus.device)
        adds.append(added)
        near, far = (
            PinRef(device=added.designator, port=port, pin=pin) for port, pin in element.pins
        )
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

    def _contacts(self, source: FeedSource, total_a: float) -> list[tuple[PinRef, PinRef]]:
        """The contacts that what moves goes through, one behind the other."""
        found = fresh_contacts(self.queries)
        fit = [c for c in found if c.bears(source.feed.nominal_v, total_a)]
        if found and not fit:
            self.decisions.append(
                f"{found[0].near.device} does not switch {total_a:.2g} A at "
                f"{source.feed.nominal_v:g} V: what moves stays on after a stop."
            )
        return [(contact.near, contact.far) for contact in fit]


def _nothing_suits(item: FeedInput) -> str:
    window = f"{item.v_min_v:g} to {item.v_max_v:g} V"
    return f"{item.words} takes {window}, and no supply gives that. Add one on Machine."
