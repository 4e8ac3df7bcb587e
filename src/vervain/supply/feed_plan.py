"""A proposal that feeds everything unfed: which source, by which fuse, contacts and strip, and why.

Inputs are given to sources by voltage window, what is left of each, and what for: motion apart from
control, and behind the contacts that a stop opens. Each source and purpose gets one way out: a fuse
at the source, the contacts, a strip where several hang on it.
"""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from vervain.electrical.feeds import current_words, feed_pins, zero_pin_of
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part
from vervain.ports.hand_switched import fed_all_the_time
from vervain.supply.feed_contactors import plan_contactors
from vervain.supply.feed_cut_outs import plan_cut_outs
from vervain.supply.feed_earth import join_zero_once
from vervain.supply.feed_finish import finish
from vervain.supply.feed_inputs import FeedInput, Purpose, lacks_own_return, unfed_inputs
from vervain.supply.feed_main_switch import plan_main_switch
from vervain.supply.feed_mains import plan_mains
from vervain.supply.feed_mains_coils import plan_mains_coils
from vervain.supply.feed_mains_fuses import rate_mains_fuses
from vervain.supply.feed_returns import plan_returns
from vervain.supply.feed_safety_relay import plan_safety_relay
from vervain.supply.feed_series import plan_series
from vervain.supply.feed_sizes import (
    area_for,
    area_for_way,
    by_fuse,
)
from vervain.supply.feed_sources import FeedSource, board_sources, feed_sources, preference, suits
from vervain.supply.feed_steps import (
    FeedPlan,
    FeedStep,
    NewWire,
)
from vervain.supply.feed_stops import free_coils, plan_stops, source_for
from vervain.supply.feed_switched import plan_switched
from vervain.supply.feed_told import tell_of_cuts
from vervain.supply.feed_way_out import WayBuilder, needed
from vervain.supply.feed_ways import (
    outlets_behind,
)
from vervain.supply.states import feed_table
from vervain.supply.stop_contacts import free_stops
from vervain.text.units import in_area, volts_words
from vervain.text.words import in_a_row

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
    plan_series(planner)
    for source, purpose, inputs in planner.given_out():
        if not should_continue():
            break
        planner.feed(source, purpose, inputs)
    plan_returns(planner)
    plan_mains(planner)
    plan_switched(planner)
    plan_contactors(planner)
    plan_mains_coils(planner)
    plan_stops(planner)
    tell_of_cuts(planner)
    plan_safety_relay(planner)
    plan_cut_outs(planner)
    plan_main_switch(planner)
    join_zero_once(planner)
    rate_mains_fuses(planner)
    finish(planner)
    return FeedPlan(steps=tuple(planner.steps), decisions=tuple(planner.decisions))


class _Planner(WayBuilder):
    """Gives inputs out to sources, and builds the ways to them."""

    # Which source feeds what.

    def given_out(self) -> Order:
        """The inputs that each source is to feed, by purpose; converters after their loads."""
        sources = feed_sources(self.queries)
        wanted = unfed_inputs(self.queries)
        converters = {s.plus.device for s in sources if s.fed_by is not None}
        loads = [item for item in wanted if not converters & set(item.feeds)]
        loads.sort(key=lambda item: -item.current_a)
        at_terminal = self._by_stops()
        taken = {self.queries.rail(plus)[0]: current_a for plus, current_a in at_terminal.items()}
        used: dict[PinRef, set[str]] = {}
        given: dict[tuple[PinRef, Purpose], tuple[FeedSource, list[FeedInput]]] = {}

        def rail(source: FeedSource) -> PinRef:
            # What hangs at one terminal of a supply is missing at the other.
            return self.queries.rail(source.plus)[0]

        def give(item: FeedInput) -> None:
            if not item.is_known:
                self.decisions.append(_not_given(item))
                return
            fitting = [
                s
                for s in sources
                if s.plus.device not in item.feeds and suits(s, item) and self._may(s, item)
            ]
            if not fitting:
                # A 0 V that is there by a signal alone is no way back for a feed of its own.
                item = replace(item, minus=zero_pin_of(self.queries, item.plus, None))
                fitting = [s for s in sources if item.minus is not None and suits(s, item)]
                fitting = [s for s in fitting if s.plus.device not in item.feeds]
            if not fitting and item.purpose == "control":
                # What a board gives besides is enough for a display or a sensor on its bus.
                fitting = [
                    s for s in board_sources(self.queries)
                    if s.plus.device not in item.feeds and suits(s, item)
                    and item.current_a <= s.left_a - taken.get(rail(s), 0.0)
                ]  # fmt: skip
            if not fitting:
                self.decisions.append(_nothing_suits(item, sources))
                return

            def weight_a(source: FeedSource) -> float:
                # A stop's own contact is there once: what goes off with it hangs together.
                if item.purpose == "motion" and self.goes_through_stops(source, 0.0):
                    return taken.get(rail(source), 0.0)
                return at_terminal.get(source.plus, 0.0)

            best = min(
                fitting,
                key=lambda s: preference(s, item, weight_a(s), frozenset(used.get(s.plus, ()))),
            )
            if best.left_a - taken.get(rail(best), 0.0) < item.current_a:
                self.decisions.append(
                    f"{best.plus.device} gives {best.feed.current_a:g} A: too little for "
                    f"{item.words} besides. Take a larger supply, or one more."
                )
            taken[rail(best)] = taken.get(rail(best), 0.0) + item.current_a
            at_terminal[best.plus] = at_terminal.get(best.plus, 0.0) + item.current_a
            used.setdefault(best.plus, set()).add(item.purpose)
            given.setdefault((best.plus, item.purpose), (best, []))[1].append(item)

        for item in loads:
            give(item)
        for item in wanted:
            if converters & set(item.feeds):
                out = {rail(s): s for s in sources if s.plus.device in item.feeds}.values()
                watts = sum(
                    (s.taken_a + taken.get(rail(s), 0.0) or s.feed.current_a) * s.feed.nominal_v
                    for s in out
                )
                volts = min(
                    (s.feed.nominal_v for s in sources if s not in out and suits(s, item)),
                    default=item.nominal_v or item.middle_v,
                )
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

    def _by_stops(self) -> dict[PinRef, float]:
        """What the coils take that the stops will work, by the source that they will hang on."""
        coils = free_coils(self.queries)
        source = source_for(self.queries, coils) if free_stops(self.queries) else None
        if source is None:
            return {}
        return {source.plus: sum(told.feed.current_a or 0.0 for told in coils)}

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
        coils_a = self._by_stops().get(source.plus, 0.0) if purpose == "control" else 0.0
        groups = by_fuse(self.queries, inputs)
        total_a = sum(item.current_a for item in inputs)
        if purpose == "motion" and self.goes_through_stops(source, total_a):
            # A stop's contact is there once: what goes off with it hangs behind it together.
            groups = [inputs]
        for number, group in enumerate(groups):
            made = self.way_out(source, purpose, group, 0.0 if number else coils_a)
            if made is None:
                continue
            ways, area = made
            for item, ((plus, minus), step) in zip(group, ways, strict=False):
                self._branch(source, purpose, item, plus, minus, area, needed(step))

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
        is_back = back is not None and source.minus in self.queries.rail(back)
        if is_back and back is not None and not lacks_own_return(self.queries, item.plus, back):
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
        if fed_all_the_time(self.queries, item.plus.port_ref):
            apart = "on whenever there is power, as no output is for it"
        self.add(
            FeedStep(
                words=words,
                reason=f"{volts}, takes {taken}; {apart}. {in_area(part.core_mm2)}.",
                cables=(cable,),
                wires=tuple(wires),
                needs=needs,
            )
        )


def _not_given(item: FeedInput) -> str:
    return f"How many volts {item.words} takes is not given. Give it with the part, on Machine."


def _nothing_suits(item: FeedInput, sources: Sequence[FeedSource]) -> str:
    if item.v_min_v > item.v_max_v:
        takers = in_a_row(item.feeds)
        return f"What hangs at {item.words} takes no volts in common: {takers}."
    window = volts_words(item.v_min_v, item.v_max_v)
    for source in sources:
        of_its_type = replace(item, current_type=source.feed.current_type)
        if suits(source, of_its_type) and not suits(source, item):
            taken, given = (
                current_words(replace(source.feed, current_type=which.current_type))
                for which in (item, of_its_type)
            )
            return (
                f"{item.words} takes {window} of {taken}; {source.plus.device} gives {given}. "
                "Say with the part which of them it takes, or add a supply, on Machine."
            )
    return f"{item.words} takes {window}, and no supply gives that. Add one on Machine."
