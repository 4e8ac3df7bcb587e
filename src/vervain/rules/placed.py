"""Placements carried out, with what the controllers' programs must be told of them."""

from vervain.model.machine import Machine
from vervain.ports.proposal import Placement, accept
from vervain.queries.machine_queries import Queries
from vervain.rules.fixes import Remedy, SetSetting
from vervain.rules.registry import RULE_BY_ID

# What is set by what was put in: whether an input is taken inverted follows from the contact, a
# driver's current from its motor.
SET_BY_PLUGS = ("stops.invert", "supply.driver-current")


def accepted(machine: Machine, placements: tuple[Placement, ...]) -> Machine:
    """The machine with placements carried out; inputs are taken as the contacts in them rest, and
    drivers are set to their motors where nobody has set them yet.
    """
    machine = accept(machine, placements)
    queries = Queries(machine)
    remedies = [
        fix.remedy
        for device in dict.fromkeys(placement.plug.device for placement in placements)
        for rule_id in SET_BY_PLUGS
        for finding in RULE_BY_ID[rule_id].check(queries, device)
        for fix in finding.fixes[:1]
    ]
    for remedy in remedies:
        if not _is_decided(queries, remedy):
            machine = remedy.apply(machine)
    return machine


def _is_decided(queries: Queries, remedy: Remedy) -> bool:
    """Whether the builder has set what a remedy would set."""
    if not isinstance(remedy, SetSetting) or remedy.key != "current_peak_a":
        return False
    device = queries.device(remedy.device)
    return device is not None and remedy.key in device.settings
