"""Placements carried out, with what the controllers' programs must be told of them."""

from vervain.model.machine import Machine
from vervain.ports.auto_placement import Placement, accept
from vervain.queries.machine_queries import Queries
from vervain.rules.registry import RULE_BY_ID

# What is set by what was put in: whether an input is taken inverted follows from the contact.
SET_BY_PLUGS = ("stops.invert",)


def accepted(machine: Machine, placements: tuple[Placement, ...]) -> Machine:
    """The machine with placements carried out; inputs are taken as the contacts in them rest."""
    machine = accept(machine, placements)
    queries = Queries(machine)
    fixes = [
        fix
        for device in dict.fromkeys(placement.plug.device for placement in placements)
        for rule_id in SET_BY_PLUGS
        for finding in RULE_BY_ID[rule_id].check(queries, device)
        for fix in finding.fixes[:1]
    ]
    for fix in fixes:
        machine = fix.remedy.apply(machine)
    return machine
