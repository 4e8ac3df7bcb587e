"""Rules about what an axis does when a stop takes its power."""

import math
from collections.abc import Iterator

from vervain.electrical.feeds import main_feed_pin, sources_of
from vervain.model.axis import Axis, BallScrew, Screw
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.motion.mechanisms import holding_lead_mm
from vervain.queries.connectivity import drivers_of
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about, about_axis
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.chains import chains_of
from vervain.stops.what_goes import stop_table
from vervain.stops.words import names_in_words


@rule(
    id="stops.no-brake",
    consequence="Unreliable",
    scope="axis",
    title="An axis falls when its power goes",
    reason="A motor without power holds almost nothing. Belts, racks, joints, ball screws and "
    "steep screws turn back: what hangs on them comes down at every stop, on a hand or into the "
    "work.",
    source="ISO 13850: an emergency stop must make no new hazard. A trapezoidal screw holds while "
    "its lead is below pi x mean diameter x friction / cos 15°, with a mean diameter of the "
    "diameter less half the lead; friction 0.1 and, where no diameter is given, 8 mm (table "
    "stops.toml).",
)
def no_brake(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or not axis.vertical or axis.brake or not axis.drives or _holds(axis):
        return
    # How a motor is geared down within itself is not known: what only stands on a table of servos
    # or closed actuators holds or does not, and their makers say so.
    if all(
        (part := queries.part_of(name)) is not None and part.kind == "stepper motor"
        for name in axis.drives
    ):
        screw = axis.mechanism
        unknown = (
            isinstance(screw, Screw)
            and not isinstance(screw, BallScrew)
            and screw.diameter_mm is None
        )
        why = " Or give the diameter of its screw: a thick one holds." if unknown else ""
        yield RuleOutput(
            f"{axis_id} has no brake: it comes down when the power goes.{why}",
            (about_axis(axis_id),),
        )


def _holds(axis: Axis) -> bool:
    """Whether the mechanism holds without power, or is not known."""
    table, screw = stop_table(), axis.mechanism
    if screw is None:
        return True
    if not isinstance(screw, Screw) or isinstance(screw, BallScrew):
        return False
    diameter_mm = screw.diameter_mm or table["diameter_mm"]
    return screw.lead_mm < holding_lead_mm(screw.lead_mm, diameter_mm, table["friction"])


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


RULES = (no_brake, braking_energy)
