"""Rules about heat and the instant of switching on: drivers, boxes, fuses."""

from collections.abc import Iterator

from vervain.electrical.feeds import downstream_pins
from vervain.model.elements import Fuse
from vervain.queries.connectivity import motors_of
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.box_heat import driver_heat_w, heat_in_place
from vervain.supply.inrush import MAX_MELTING_FRACTION, inrush_of, melting_a2s
from vervain.supply.results import supply_loads


@rule(
    id="supply.driver-heat",
    consequence="Unreliable",
    scope="device",
    title="A driver grows too hot without a heat sink",
    reason="The whole motor current runs through its switches. Too hot, it switches itself off in "
    "the middle of a movement and the axis loses its place.",
    source="P = phases x I_rms^2 x R_on, against what the part sheds bare.",
)
def driver_heat(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    heat_w = driver_heat_w(queries, device)
    if part is None or part.driver is None or part.driver.bare_w is None or heat_w is None:
        return
    if heat_w > part.driver.bare_w and motors_of(queries, device):
        if queries.setting(device, "heat_sink") == "fitted":
            return
        yield RuleOutput(
            f"{device} makes {heat_w:.2g} W of heat; without a heat sink it sheds "
            f"{part.driver.bare_w:g} W.",
            (about(device),),
            value=round(heat_w, 2),
            limit=part.driver.bare_w,
            unit="W",
        )


@rule(
    id="supply.box-heat",
    consequence="Workmanship",
    scope="machine",
    title="A box gets more heat than it sheds",
    reason="What supplies, drivers and boards lose stays in the box. Electronics live half as long "
    "for every ten degrees more.",
    source="Sum of the losses at work against what the builder gives for the place.",
)
def box_heat(queries: Queries, _: str) -> Iterator[RuleOutput]:
    for place in queries.places():
        if place.sheds_w is None:
            continue
        heat_w = heat_in_place(queries, place.id)
        if heat_w > place.sheds_w:
            yield RuleOutput(
                f"{place.name} gets {heat_w:.3g} W of heat.",
                tuple(about(name) for name in _warm_devices(queries, place.id)),
                detail=place.id,
                value=round(heat_w, 1),
                limit=place.sheds_w,
                unit="W",
            )


def _warm_devices(queries: Queries, place: str) -> Iterator[str]:
    """The supplies and drivers in a place."""
    for name in queries.devices():
        device, part = queries.device(name), queries.part_of(name)
        if device is None or device.place != place or part is None:
            continue
        if part.kind == "supply" or part.driver is not None:
            yield name


@rule(
    id="supply.inrush",
    consequence="Unreliable",
    scope="device",
    title="Switching on wears a fuse out",
    reason="Empty capacitors are a short for an instant. A fuse that feels more than half of what "
    "melts it at each switching on blows some day without a fault.",
    source="I2t = C V^2 / 2R against half the fuse's melting I2t (data/tables/fuses.toml).",
)
def inrush(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part, rating = queries.part_of(device), queries.setting(device, "rating_a")
    fuses = [element for element in (part.inside if part else ()) if isinstance(element, Fuse)]
    if not fuses or not isinstance(rating, int | float):
        return
    found, melts = inrush_of(queries, downstream_pins(queries, device)), melting_a2s(float(rating))
    if found is None or melts is None or found.energy_a2s <= MAX_MELTING_FRACTION * melts:
        return
    yield RuleOutput(
        f"{device} feels {found.energy_a2s:.2g} A²s at each switching on.",
        (about(device),),
        why=f"{found.capacitance_f * 1e6:.0f} µF at {found.voltage_v:g} V, first peak "
        f"{found.peak_a:.0f} A, {found.charge_s * 1000:.2g} ms.",
        value=round(found.energy_a2s, 2),
        limit=MAX_MELTING_FRACTION * melts,
        unit="A²s",
    )


@rule(
    id="supply.battery-cut-off",
    consequence="Unreliable",
    scope="device",
    title="A battery under load is at its cut-off before it is empty",
    reason="Under load a battery's voltage sags. What sags under the cut-off switches the machine "
    "off in the middle of its work, or, without a cut-off, ruins the battery.",
    source="Lowest voltage of the battery less I x R inside, against its cut-off.",
)
def battery_cut_off(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.battery is None:
        return
    loads = [load for load in supply_loads(queries, "everything") if load.pin.device == device]
    for load in loads:
        pin = queries.pin(load.pin)
        tolerance = getattr(pin.electrical, "tolerance", 0.0) if pin else 0.0
        lowest = load.voltage_v - load.nominal_v * tolerance
        if lowest < part.battery.cut_off_v:
            yield RuleOutput(
                f"{device} sags to {lowest:.3g} V before it is empty.",
                (about(load.pin),),
                value=round(lowest, 2),
                limit=part.battery.cut_off_v,
                unit="V",
                over=False,
            )


RULES = (driver_heat, box_heat, inrush, battery_cut_off)
