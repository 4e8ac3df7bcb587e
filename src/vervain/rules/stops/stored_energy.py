"""Rules about the energy that is still there once a stop took the power: of moving axes, and in the
capacitors of supplies.
"""

import math
from collections.abc import Iterator

from vervain.electrical.feeds import main_feed_pin, sources_of
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.connectivity import drivers_of
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_axis
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.chains import Chain, chains_of, devices_in_strings
from vervain.stops.compiling import circuit_of
from vervain.stops.what_goes import stop_table
from vervain.stops.words import duration_words, names_in_words
from vervain.supply.results import supply_loads


@rule(
    id="stops.braking-energy",
    consequence="Unreliable",
    scope="axis",
    title="A stop leaves the energy of an axis nowhere to go",
    reason="Cut off from its supply at speed, a motor feeds what moves back into the capacitor of "
    "its driver. Where that is small the voltage rises until the driver breaks; a larger "
    "capacitor, a braking resistor, or a contact in front of the supply takes it up.",
    source="Derivation: m v^2 / 2 into C gives V = sqrt(V0^2 + 2 E / C); friction and windings "
    "take a part of it, so that this is the most. Said where the moved mass, the top speed and the "
    "input capacitors are given.",
)
def braking_energy(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or axis.motion != "linear" or not axis.moved_kg or not axis.speed_max:
        return
    feeds = [feed for motor in axis.drives for driver in drivers_of(queries, motor)
             if (feed := main_feed_pin(queries, driver)) is not None]  # fmt: skip
    if not feeds or not all(_is_cut_off(queries, feed) for feed in feeds):
        return
    on_net = {ref for feed in feeds for ref in queries.net(feed)}
    pins = [pin for ref in on_net if (pin := queries.pin(ref)) is not None]
    inputs = [pin.electrical for pin in pins if isinstance(pin.electrical, FeedIn)]
    capacitance_f = sum(entry.capacitance_f or 0.0 for entry in inputs)
    sources = sources_of(queries, feeds[0])
    limit_v = min((entry.v_max_v for entry in inputs if entry.v_max_v), default=None)
    if not capacitance_f or not sources or limit_v is None:
        return
    energy_j = axis.moved_kg * (axis.speed_max / 1000) ** 2 / 2
    volts = math.sqrt(sources[0].feed.nominal_v ** 2 + 2 * energy_j / capacitance_f)
    if volts > limit_v:
        names = names_in_words(tuple(dict.fromkeys(feed.device for feed in feeds)))
        yield RuleOutput(
            f"Stopped at speed, {axis_id} gives {energy_j:.3g} J back: {names} comes to as much as "
            f"{volts:.3g} V.",
            (about_axis(axis_id), *(about(feed) for feed in feeds)),
            value=round(volts, 1),
            limit=limit_v,
            unit="V",
        )


def _is_cut_off(queries: Queries, feed: PinRef) -> bool:
    """Whether a stop opens a contact between a supply and a driver's feed."""
    contacts = [
        link for chain in chains_of(queries)
        if chain.is_power and any(end == feed.port_ref for end in chain.ends)
        for link in chain.links if link.kind == "contact"
    ]  # fmt: skip
    return bool(contacts)


@rule(
    id="stops.hold-up",
    consequence="Workmanship",
    scope="device",
    title="A supply feeds on after its mains was cut",
    reason="The capacitors of a supply bridge short gaps of the mains. Where a stop opens only its "
    "mains, what moves has power until they are empty, the longer the less it takes. A contact "
    "between the supply and the drivers takes it at once.",
    source="Derivation: capacitors that give P_rated for t_rated give P for t_rated x P_rated / P. "
    "P is what hangs on the supply while motors hold; where the part gives no hold-up time, "
    "that of stops.toml. IEC 60204-1 9.2.2: stop category 0 takes the power immediately.",
)
def hold_up(queries: Queries, device: str) -> Iterator[RuleOutput]:
    if device not in devices_in_strings(queries):
        return
    sources = circuit_of(queries).sources
    chains = [chain for chain in chains_of(queries) if chain.is_power]
    fed = [chain for chain in chains if sources[chain.source].device == device]
    at_mains = [c for c in chains if c.ends[0].device == device and _is_opened(c)]
    kept = tuple(
        dict.fromkeys(ref.device for chain in fed if not _is_opened(chain) for ref in chain.ends)
    )
    loads = [row for row in supply_loads(queries, "holding") if row.pin.device == device]
    if not kept or not at_mains or not loads or not loads[0].watts:
        return
    load, table = loads[0], stop_table()
    pin = queries.pin(load.pin)
    given_s = getattr(pin.electrical, "hold_up_s", None) if pin is not None else None
    rated_w = load.nominal_v * load.rated_a
    lasts_s = (given_s or table["hold_up_s"]) * rated_w / load.watts
    if lasts_s <= table["lasts_s"]:
        return
    usual = "" if given_s else f", at a usual hold-up time of {duration_words(table['hold_up_s'])}"
    yield RuleOutput(
        f"With its mains cut, {device} feeds {names_in_words(kept)} for another "
        f"{duration_words(lasts_s)}{usual}.",
        (about(device), *(about(name) for name in kept)),
        value=round(lasts_s, 2),
        limit=table["lasts_s"],
        unit="s",
    )


def _is_opened(chain: Chain) -> bool:
    """Whether a contact lies in a string."""
    return any(link.kind == "contact" for link in chain.links)


RULES = (braking_energy, hold_up)
