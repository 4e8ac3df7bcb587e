"""Heat: what drivers make of their motors' current, and what stays in a box."""

from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.loads import driver_rms_a
from vervain.supply.results import delivered_power, supply_loads
from vervain.supply.states import feed_table

# Kinds that turn all that they take into heat where they are.
WARM = ("controller", "relay module", "contactor", "signal converter", "radio receiver")


@query
def driver_heat_w(queries: Queries, driver: str) -> float | None:
    """The heat in a driver's switches: phases x I_rms^2 x R_on; None where R_on is not given."""
    part, rms = queries.part_of(driver), driver_rms_a(queries, driver)
    if part is None or part.driver is None or part.driver.on_ohm is None or rms is None:
        return None
    return part.driver.phases * rms**2 * part.driver.on_ohm


@query
def heat_in_place(queries: Queries, place: str) -> float:
    """The heat in W that stays in a place with everything on: what supplies lose of what they give,
    drivers and bridges of what they take, and all that boards, relays and coils take.
    """
    table, heat = feed_table(), 0.0
    for load in supply_loads(queries, "everything"):
        part, device = queries.part_of(load.pin.device), queries.device(load.pin.device)
        if part is not None and part.kind == "supply" and device and device.place == place:
            heat += load.watts * (1 / table.efficiency - 1)
    for row in delivered_power(queries, "everything"):
        part, device = queries.part_of(row.pin.device), queries.device(row.pin.device)
        if part is None or device is None or device.place != place or row.voltage_v is None:
            continue
        watts = row.voltage_v * row.current_a
        if part.driver is not None or part.kind == "motor bridge":
            heat += watts * (1 - table.driver_efficiency)
        elif part.kind in WARM:
            heat += watts
    return heat
