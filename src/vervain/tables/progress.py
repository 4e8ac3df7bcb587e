"""How much of each stage of the work is settled."""

from vervain.electrical.feeds import feed_pins, sources_of
from vervain.harness.lengths import cable_length_m
from vervain.harness.making import ticked_steps
from vervain.leads.motors import measurable
from vervain.queries.axis_places import places_of_axis
from vervain.queries.device_groups import state_of
from vervain.queries.machine_queries import Queries
from vervain.stops.compiling import is_stop_device
from vervain.stops.contacts import used_contacts


def settled_fractions(queries: Queries) -> dict[str, float]:
    """The settled part of each stage, 0 to 1, by its name: roles filled, motors measured, devices
    wired, feeds that lead to a supply, stops with a contact in use, cables with a length and made.
    """
    names = queries.devices()
    cables = queries.cables()
    motors = [device for name in measurable(queries) if (device := queries.device(name))]
    axes = [axis for name in queries.axes() if (axis := queries.axis(name))]
    roles = [place for axis in axes for place in places_of_axis(axis)]
    feeds = [pin for name in names for pin in feed_pins(queries, name)]
    stops = [
        name for name in names
        if (part := queries.part_of(name)) is not None and is_stop_device(part)
    ]  # fmt: skip
    return {
        "Machine": _part(sum(place.device is not None for place in roles), len(roles)),
        "Leads": _part(sum(bool(device.coils) for device in motors), len(motors)),
        "Ports": _part(sum(state_of(queries, name) == "wired" for name in names), len(names)),
        "Supply": _part(sum(bool(sources_of(queries, pin)) for pin in feeds), len(feeds)),
        "Stops": _part(sum(bool(used_contacts(queries, name)) for name in stops), len(stops)),
        "Harness": _harness(queries, cables),
    }


def _harness(queries: Queries, cables: tuple[str, ...]) -> float:
    """Cables with a length; once one is being made, the steps of their making as well."""
    planned = _part(sum(cable_length_m(queries, name) is not None for name in cables), len(cables))
    done, of = ticked_steps(queries)
    return (planned + _part(done, of)) / 2 if done else planned


def _part(done: int, of: int) -> float:
    return done / of if of else 0.0
