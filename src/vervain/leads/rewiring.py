"""Bringing a motor's leads onto its driver's terminals for a use of its windings: one edit."""

from msgspec.structs import replace

from vervain.edits.hookup_edits import add_hookup, find_hookup, set_conductors
from vervain.leads.motors import leads_port
from vervain.leads.phases import phases_of
from vervain.leads.winding_connection import Plan, UseKind, plan_of
from vervain.model.machine import Conductor, Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.queries.connectivity import steps_from, terminal_of
from vervain.queries.machine_queries import Queries


def _near_pins(queries: Queries, leads: PortRef) -> tuple[str, dict[str, str]]:
    """The hookup that the leads go into, and for each driver terminal's function the pin of that
    hookup, on the far side of the leads, that leads to it.
    """
    port = queries.port(leads)
    hookup = ""
    found: dict[str, str] = {}
    for pin in port.pins if port else ():
        ref = PinRef(device=leads.device, port=leads.port, pin=pin.id)
        terminal = terminal_of(queries, ref)
        there = queries.pin(terminal) if terminal else None
        steps = [step for step in steps_from(queries, ref) if step.end.device != leads.device]
        if there is None or not steps:
            continue
        if hookup and steps[0].hookup != hookup:
            raise Problem(
                f"The leads of {leads.device} go into more than one cable.",
                place=leads.device,
                remedy="Exchange them pin by pin on the Ports stage.",
            )
        hookup = steps[0].hookup
        found[there.function] = steps[0].end.pin
    return hookup, found


def use_windings(machine: Machine, motor: str, kind: UseKind) -> Machine:
    """The machine with a motor's leads on its driver for a use of its windings.

    Leads of one terminal share its pin; leads in series are joined to each other; what is left
    over is taken off. Raises `Problem` where the phases are not known or the motor is in no port.
    """
    queries = Queries(machine)
    part, phases = queries.part_of(motor), phases_of(queries, motor)
    port = leads_port(part) if part else None
    if port is None or phases is None or len(phases.first) != 2:
        raise Problem(
            f"Which windings of {motor} share a phase is not known.",
            place=motor,
            remedy="Measure the coils; with eight leads also test two windings in series.",
        )
    leads = PortRef(device=motor, port=port.id)
    plan = plan_of(phases, kind)
    hookup_id, near = _near_pins(queries, leads)
    missing = [function for function in plan.terminals if function not in near]
    if missing:
        raise Problem(
            f"No lead of {motor} reaches {missing[0]} of a driver yet.",
            place=motor,
            remedy="Put the motor into its driver's port first.",
        )
    machine = _without_joints(machine, leads)
    hookup = find_hookup(machine, hookup_id)
    near_side = hookup.a == leads
    rows = []
    for function, names in plan.terminals.items():
        for lead in names:
            old = next(
                (c for c in hookup.conductors if (c.b if near_side else c.a) == near[function]),
                Conductor(a=lead, b=near[function]),
            )
            ends = (lead, near[function]) if near_side else (near[function], lead)
            rows.append(replace(old, a=ends[0], b=ends[1]))
    machine = set_conductors(machine, hookup_id, tuple(rows))
    return _with_joints(machine, leads, plan)


def _without_joints(machine: Machine, leads: PortRef) -> Machine:
    """The machine without what joins leads of one motor to each other."""
    return replace(
        machine, hookups=tuple(h for h in machine.hookups if not (h.a == leads and h.b == leads))
    )


def _with_joints(machine: Machine, leads: PortRef, plan: Plan) -> Machine:
    if not plan.joints:
        return machine
    conductors = tuple(Conductor(a=a, b=b, note="joined, insulated") for a, b in plan.joints)
    return add_hookup(machine, leads, leads, conductors)
