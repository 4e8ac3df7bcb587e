"""Which way round a motor turns on its driver, as far as its leads decide it."""

from typing import Literal

from vervain.edits.device_edits import set_setting
from vervain.edits.plug_edits import exchange_two
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import Part
from vervain.model.problem import Problem
from vervain.queries.connectivity import driver_ports_of, host_ports, terminal_of
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
    part = queries.part_of(motor)
    landed: dict[str, str] = {}
    for port in part.ports if part else ():
        for pin in port.pins:
            if not pin.function.startswith("phase"):
                continue
            terminal = terminal_of(queries, PinRef(device=motor, port=port.id, pin=pin.id))
            there = queries.pin(terminal) if terminal else None
            if there is not None:
                landed[pin.function.removeprefix("phase ")] = there.function.removeprefix("phase ")
    if set("UVW") <= landed.keys():
        return tuple(landed[name] for name in "UVW") in FORWARD
    ends = [landed.get(f"{coil}{sign}", "") for coil in "AB" for sign in "+-"]
    if not all(ends) or len(ends) != 4:
        return None
    first, second = ends[:2], ends[2:]
    if first[0][0] != first[1][0] or second[0][0] != second[1][0]:
        return None
    turned = (first[0][1] == "-") + (second[0][1] == "-") + (first[0][0] == "B")
    return turned % 2 == 0


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
        machine = _exchange_first_phase(machine, motor, part)
    wanted = "reversed" if direction == "reversed in the controller" else "forward"
    for device, port in step_ports_of(queries, motor):
        host = queries.part_of(device)
        option = host.option("direction") if host else None
        if option is not None and port in option.ports:
            machine = set_setting(machine, device, f"direction/{port}", wanted)
        elif wanted == "reversed":
            raise Problem(f"{device} has no setting for the direction of {port}.", place=device)
    return machine


def _exchange_first_phase(machine: Machine, motor: str, part: Part) -> Machine:
    for port in part.ports:
        functions = {pin.function: pin.id for pin in port.pins}
        for first, second in (("phase A+", "phase A-"), ("phase U", "phase V")):
            if first in functions and second in functions:
                ref = PortRef(device=motor, port=port.id)
                return exchange_two(machine, ref, functions[first], functions[second])
    return machine
