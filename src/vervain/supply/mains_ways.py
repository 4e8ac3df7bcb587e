"""By which pins mains comes to what takes it, and by which terminals it goes on: line, neutral and
earth of a port, three lines each by its number.
"""

from collections.abc import Collection
from typing import NamedTuple

from vervain.electrical.mains import MOTOR_PHASES
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Port
from vervain.ports.contactor_loads import motors_for_mains
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries

# The line, neutral and earth pins of a port; of three lines each by its number.
Poles = dict[str, PinRef]
LINES = ("line", "line 2", "line 3")
POLES = (*LINES, "neutral", "pe")


def poles_of(device: str, port: Port) -> Poles:
    """The line, neutral and earth pins of a port, the phases of a motor as the lines they want."""
    found: Poles = {}
    lines = iter(LINES)
    for pin in port.pins:
        of_a_motor = port.end == "device" and pin.function in MOTOR_PHASES
        is_line = pin.function == "line" or of_a_motor
        name = next(lines, None) if is_line else pin.function
        if name in POLES:
            found[name] = PinRef(device=device, port=port.id, pin=pin.id)
    return found


def mains_inputs(queries: Queries) -> list[Poles]:
    """The mains inputs that no terminal reaches, pole by pole; none of coils, which are worked, and
    of motors those that nothing drives.
    """
    found = []
    for device in queries.devices():
        part, is_driven = queries.part_of(device), device not in motors_for_mains(queries)
        for port in part.ports if part else ():
            skipped = port.kind == "coil" or (port.kind == "motor phases" and is_driven)
            poles = poles_of(device, port) if not skipped else {}
            if port.end == "device" and "line" in poles and not _reaches_inlet(queries, poles):
                found.append(poles)
    return found


def _reaches_inlet(queries: Queries, poles: Poles) -> bool:
    return any(
        (port := queries.port(ref.port_ref)) is not None
        and port.end != "device"
        and (pin := queries.pin(ref)) is not None
        and pin.function == "line"
        for ref in queries.rail(poles["line"])
    )


class Block(NamedTuple):
    """Terminals by which mains goes on: where it comes in, and the free ones where it goes out.
    `is_entry` says that nothing comes to where it comes in; `protects` that a fuse or a switch lies
    between.
    """

    device: str
    entry: Poles
    is_entry: bool
    outlets: tuple[Poles, ...]
    protects: bool


def blocks_of_mains(queries: Queries, apart: Collection[str] = ()) -> list[Block]:
    """What mains comes in by and goes on from, besides switches and some terminals that stand
    apart; an inlet first.
    """
    found = []
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind == "switch" or device in apart:
            continue
        ports = [poles_of(device, port) for port in part.ports if port.end != "device"]
        whole = [poles for poles in ports if "line" in poles and {"neutral", LINES[1]} & set(poles)]
        if not whole:
            continue
        is_free = [not any(steps_from(queries, ref) for ref in poles.values()) for poles in whole]
        outlets = tuple(poles for poles, free in zip(whole[1:], is_free[1:], strict=True) if free)
        protects = any(isinstance(element, Fuse | Contact) for element in part.inside)
        found.append(Block(device, whole[0], is_free[0], outlets, protects))
    return sorted(found, key=lambda block: not block.protects)
