"""Which way round a motor turns on its driver, as far as its leads decide it."""

from typing import Literal

from vervain.edits.device_edits import set_setting
from vervain.edits.plug_edits import exchange_two
from vervain.leads.motors import leads_of, leads_port
from vervain.leads.phases import Ends, phases_of
from vervain.leads.winding_connection import terminal_function
from vervain.model.machine import Machine, PortRef
from vervain.model.part import Part
from vervain.model.problem import Problem
from vervain.queries.connectivity import driver_ports_of, host_ports
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Direction = Literal["forward", "reversed by its leads", "reversed in the controller"]
DIRECTIONS: tuple[Direction, ...] = (
    "forward",
    "reversed by its leads",
    "reversed in the controller",
)
# Turning U, V, W on by one is the same way round; exchanging two of them is the other.
FORWARD = (("U", "V", "W"), ("V", "W", "U"), ("W", "U", "V"))


@query
def rotates_positive(queries: Queries, motor: str) -> bool | None:
    """Whether a motor turns forward when its driver steps forward; None where it is not known.

    Two phases: each exchanged pair turns it round, and so does exchanging the phases. Three: any
    exchange of two leads does. The controller's own setting for the axis turns it once more.
    """
    leads = _leads_way(queries, motor)
    if leads is None:
        return None
    return leads != is_reversed_by_controller(queries, motor)


def _leads_way(queries: Queries, motor: str) -> bool | None:
    landed = _leads_by_terminal(queries, motor)
    part = queries.part_of(motor)
    if part is None or not landed:
        return None
    if {"phase U", "phase V", "phase W"} <= landed.keys():
        return _three_phase_way(part, landed)
    phases = phases_of(queries, motor)
    ways = [_way_of_phase(queries, motor, windings) for windings in phases or ()]
    if len(ways) != 2 or ways[0] is None or ways[1] is None or ways[0][0] == ways[1][0]:
        return None
    turned = (ways[0][1] == "-") + (ways[1][1] == "-") + (ways[0][0] == "B")
    return turned % 2 == 0


def _leads_by_terminal(queries: Queries, motor: str) -> dict[str, list[str]]:
    """The leads of a motor by the function of the driver terminal that they reach."""
    found: dict[str, list[str]] = {}
    for lead in leads_of(queries, motor):
        function = terminal_function(queries, motor, lead)
        if function:
            found.setdefault(function, []).append(lead)
    return found


def _three_phase_way(part: Part, landed: dict[str, list[str]]) -> bool | None:
    port = leads_port(part)
    named = {pin.id: pin.function.removeprefix("phase ") for pin in (port.pins if port else ())}
    order = tuple(named[landed[f"phase {letter}"][0]] for letter in "UVW")
    return order in FORWARD if set(order) == set("UVW") else None


def _way_of_phase(
    queries: Queries, motor: str, windings: tuple[Ends, ...]
) -> tuple[str, str] | None:
    """The driver's phase that some windings lie on, and the sign at their start: of those with both
    ends on it, else, in series, of those with one. None where they lie on several, or differ.
    """
    ways = []
    for ends in windings:
        functions = [terminal_function(queries, motor, lead) for lead in ends]
        signs = [
            (function[-2], function[-1] if end == 0 else "+-"["-+".index(function[-1])])
            for end, function in enumerate(functions)
            if function[-1:] in ("+", "-")
        ]
        ways.append(signs)
    whole = [signs for signs in ways if len(signs) == 2] or ways
    found = {sign for signs in whole for sign in signs}
    return next(iter(found)) if len(found) == 1 else None


@query
def is_reversed_by_controller(queries: Queries, motor: str) -> bool:
    """Whether the controller is set to turn a motor's axis round: its `direction` option."""
    for ref in step_ports_of(queries, motor):
        if queries.setting(ref[0], "direction", ref[1]) == "reversed":
            return True
    return False


@query
def step_ports_of(queries: Queries, motor: str) -> tuple[tuple[str, str], ...]:
    """The controller ports, (device, port), whose steps reach a motor's driver, or its slot."""
    found: dict[tuple[str, str], None] = {}
    for driver_port in driver_ports_of(queries, motor):
        port, part = queries.port(driver_port), queries.part_of(driver_port.device)
        if port is not None and port.needs is not None:
            found[driver_port.device, port.needs] = None
            continue
        for other in part.ports if part else ():
            if other.kind != "step and direction" or other.end != "device":
                continue
            for host in host_ports(queries, PortRef(device=driver_port.device, port=other.id)):
                found[host.device, host.port] = None
    return tuple(found)


@query
def direction_of(queries: Queries, motor: str) -> Direction | None:
    """How a motor is turned round, if it is; None where its leads do not tell. Turned round both
    ways it goes forward again, and is said to be reversed by its leads.
    """
    leads = _leads_way(queries, motor)
    if leads is None:
        return None
    if not leads:
        return "reversed by its leads"
    return "reversed in the controller" if is_reversed_by_controller(queries, motor) else "forward"


@query
def possible_directions(queries: Queries, motor: str) -> tuple[Direction, ...]:
    """The ways in which a motor can be made to turn; none where its leads do not tell. The
    controller can turn it round only where it has a setting for that.
    """
    if _leads_way(queries, motor) is None:
        return ()
    ports = step_ports_of(queries, motor)
    options = [
        (part := queries.part_of(device)) is not None
        and (option := part.option("direction")) is not None
        and port in option.ports
        for device, port in ports
    ]
    return DIRECTIONS if options and all(options) else DIRECTIONS[:2]


def set_direction(machine: Machine, motor: str, direction: Direction) -> Machine:
    """Turns a motor's axis round by exchanging the leads of its first phase, or by its controller.

    Raises `Problem` where the leads are in no driver, or the controller has no such setting.
    """
    queries = Queries(machine)
    leads, part = _leads_way(queries, motor), queries.part_of(motor)
    if leads is None or part is None:
        raise Problem(
            f"Which way {motor} turns is not known.",
            place=motor,
            remedy="Put all its leads on a driver first.",
        )
    if leads != (direction != "reversed by its leads"):
        machine = _exchange_first_phase(queries, motor)
    wanted = "reversed" if direction == "reversed in the controller" else "forward"
    for device, port in step_ports_of(queries, motor):
        host = queries.part_of(device)
        option = host.option("direction") if host else None
        if option is not None and port in option.ports:
            machine = set_setting(machine, device, f"direction/{port}", wanted)
        elif wanted == "reversed":
            raise Problem(f"{device} has no setting for the direction of {port}.", place=device)
    return machine


def _exchange_first_phase(queries: Queries, motor: str) -> Machine:
    """Lets all leads at A+ change places with those at A−, or at U with those at V: every winding
    of the phase, however they are connected.
    """
    landed = _leads_by_terminal(queries, motor)
    pairs = (("phase A+", "phase A-"), ("phase B+", "phase B-"), ("phase U", "phase V"))
    machine, part = queries.machine, queries.part_of(motor)
    port = leads_port(part) if part else None
    for first, second in pairs:
        one, two = landed.get(first, []), landed.get(second, [])
        if port is not None and one and len(one) == len(two):
            ref = PortRef(device=motor, port=port.id)
            for lead, other in zip(one, two, strict=True):
                machine = exchange_two(machine, ref, lead, other)
            return machine
    raise Problem(
        f"{motor} has not as many leads on one terminal of its phases as on the other.",
        place=motor,
        remedy="Exchange them at the driver by hand.",
    )
