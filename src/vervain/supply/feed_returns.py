"""The ways back of loads whose plus is there already, through a contact that others share."""

from collections.abc import Iterator

from vervain.electrical.feeds import feed_pins, is_supply_return, sources_of, zero_pin_of
from vervain.electrical.outputs import outputs_among
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder, Wiring
from vervain.supply.feed_inputs import purpose_of
from vervain.supply.feed_sizes import area_for
from vervain.supply.feed_sources import FeedSource, feed_sources
from vervain.supply.feed_ways import outlets_behind


def plan_returns(planner: PlanBuilder) -> None:
    """Joins each such way back to the minus of what feeds its plus: at a free terminal of the strip
    there, else at the supply itself.
    """
    for plus, minus in list(_without_return(planner.queries)):
        source = _source_of(planner.queries, plus)
        if source is None:
            continue
        purpose = purpose_of(planner.queries, plus.device)
        outlets = outlets_behind(planner.queries, source, purpose)
        back = outlets[0][1] if outlets else source.minus
        pin = planner.queries.pin(plus)
        feed = pin.electrical if pin is not None else None
        current_a = (feed.current_a if isinstance(feed, FeedIn) else None) or 0.0
        wiring = Wiring(planner, area_for(planner.queries, source, current_a, None))
        wiring.join(back, minus, "BK")
        words = f"{minus.device} {minus.port} back to {back.device}"
        reason = f"Its plus comes through a contact already; 0 V from {source.plus.device}."
        planner.add(wiring.step(words, reason))


def _without_return(queries: Queries) -> Iterator[tuple[PinRef, PinRef]]:
    """The loads with a source at their plus and nothing at their minus: both pins."""
    for device in queries.devices():
        for plus in feed_pins(queries, device):
            port = queries.port(plus.port_ref)
            if port is None or port.kind not in ("load", "coil", "bridge motor"):
                continue
            ends = [pin for pin in port.pins if pin.function == "motor-"]
            minus = (
                PinRef(device=device, port=port.id, pin=ends[0].id)
                if ends else zero_pin_of(queries, plus, None)
            )  # fmt: skip
            if minus is None:
                continue
            if not steps_from(queries, plus):
                # What several lamps have in common is fed by another one.
                continue
            joined = steps_from(queries, minus) or outputs_among(queries, queries.net(minus))
            returns = any(is_supply_return(queries, ref) for ref in queries.rail(minus))
            if not joined and not returns and sources_of(queries, plus):
                yield plus, minus


def _source_of(queries: Queries, plus: PinRef) -> FeedSource | None:
    """What feeds a plus."""
    pins = {source.pin for source in sources_of(queries, plus)}
    return next((source for source in feed_sources(queries) if source.plus in pins), None)
