"""Single changes of one plug: all conductors at one port of a device, whatever hookups they
belong to. The ways in which a plug is put in wrongly, and the ways to put it right.
"""

from collections.abc import Callable

from msgspec.structs import replace

from vervain.edits.cable_edits import find_cable, used_cores
from vervain.edits.device_edits import find_device, part_in
from vervain.edits.hookup_edits import add_hookup, set_conductors
from vervain.model.machine import Conductor, Hookup, Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.model.ways_back import signal_of

Moves = Callable[[PortRef, str], tuple[PortRef, str] | None]


def used_pins(machine: Machine, plug: PortRef) -> tuple[str, ...]:
    """The pins of a port that conductors come to, in the order of the port."""
    used = {
        pin
        for hookup in machine.hookups
        for conductor in hookup.conductors
        for ref, pin in ((hookup.a, conductor.a), (hookup.b, conductor.b))
        if ref == plug
    }
    return tuple(pin for pin in pins_of(machine, plug) if pin in used)


def pins_of(machine: Machine, plug: PortRef) -> tuple[str, ...]:
    """The pins of a port in their order."""
    part = part_in(machine, find_device(machine, plug.device))
    port = part.port(plug.port) if part else None
    return tuple(pin.id for pin in port.pins) if port else ()


def turn_plug(machine: Machine, plug: PortRef) -> Machine:
    """Turns a plug round: what was on the first pin comes to the last."""
    pins = pins_of(machine, plug)
    other = dict(zip(pins, reversed(pins), strict=True))
    return _moved(machine, (plug,), lambda ref, pin: (ref, other[pin]))


def shift_plug(machine: Machine, plug: PortRef, by: int) -> Machine:
    """Moves a plug along its pins; what comes to lie beyond the last one is off."""
    pins = pins_of(machine, plug)

    def shifted(ref: PortRef, pin: str) -> tuple[PortRef, str] | None:
        at = pins.index(pin) + by
        return (ref, pins[at]) if 0 <= at < len(pins) else None

    return _moved(machine, (plug,), shifted)


def exchange_two(machine: Machine, plug: PortRef, first: str, second: str) -> Machine:
    """Lets what is at two pins of a plug change places."""
    other = {first: second, second: first}
    return _moved(machine, (plug,), lambda ref, pin: (ref, other.get(pin, pin)))


def exchange_plugs(machine: Machine, first: PortRef, second: PortRef) -> Machine:
    """Lets two plugs change places, pin by pin in the order of their ports."""
    there = dict(zip(pins_of(machine, first), pins_of(machine, second), strict=False))
    back = dict(zip(pins_of(machine, second), pins_of(machine, first), strict=False))

    def exchanged(ref: PortRef, pin: str) -> tuple[PortRef, str] | None:
        goal, pins = (second, there) if ref == first else (first, back)
        return (goal, pins[pin]) if pin in pins else None

    return _moved(machine, (first, second), exchanged)


def take_conductor_off(machine: Machine, hookup_id: str, row: int) -> Machine:
    """Takes one conductor of a hookup off, from its place among the hookup's conductors."""
    found = []
    for hookup in machine.hookups:
        if hookup.id == hookup_id:
            rows = (*hookup.conductors[:row], *hookup.conductors[row + 1 :])
            if rows:
                found.append(replace(hookup, conductors=rows))
        else:
            found.append(hookup)
    return replace(machine, hookups=tuple(found))


def is_joined(hookup: Hookup, first: PinRef, second: PinRef) -> bool:
    """Whether a hookup has a conductor from one pin to another, whichever way round."""
    ends = {frozenset(((hookup.a, row.a), (hookup.b, row.b))) for row in hookup.conductors}
    return frozenset(((first.port_ref, first.pin), (second.port_ref, second.pin))) in ends


def take_wire_off(machine: Machine, first: PinRef, second: PinRef) -> Machine:
    """Takes the conductor from one pin to another off. Raises `Problem` where there is none."""
    ends = frozenset(((first.port_ref, first.pin), (second.port_ref, second.pin)))
    for hookup in machine.hookups:
        for row, conductor in enumerate(hookup.conductors):
            if frozenset(((hookup.a, conductor.a), (hookup.b, conductor.b))) == ends:
                return take_conductor_off(machine, hookup.id, row)
    raise Problem(
        f"{first.device} {first.port} {first.pin} is not joined to "
        f"{second.device} {second.port} {second.pin}."
    )


def put_conductor(
    machine: Machine,
    first: PinRef,
    second: PinRef,
    cable: str | None = None,
    core: int | None = None,
) -> Machine:
    """Joins two pins: in the hookup that there is between their ports, by a core that its cable has
    free, else in a new one. With a `cable` it goes by that, by its `core` where one is
    named. Raises `Problem` where they are one pin, are joined already, or no core is free.
    """
    if first == second:
        raise Problem(f"{first.device} {first.port} {first.pin} is one pin, not two.")
    if cable is not None:
        core = _core_for(machine, cable, core)
    between = [
        hookup
        for hookup in machine.hookups
        if {hookup.a, hookup.b} == {first.port_ref, second.port_ref}
    ]
    if any(is_joined(hookup, first, second) for hookup in between):
        raise Problem(
            f"{first.device} {first.port} {first.pin} is joined to {second.device} "
            f"{second.port} {second.pin} already."
        )
    for hookup in between:
        free = core if cable is not None else None
        if cable is None and hookup.cable is not None:
            free = _free_core(machine, hookup.cable, first)
        if hookup.cable != cable and (cable is not None or (free is None and hookup.cable)):
            continue
        turned = hookup.a != first.port_ref
        a, b = (second.pin, first.pin) if turned else (first.pin, second.pin)
        rows = (*hookup.conductors, Conductor(a=a, b=b, core=free))
        return set_conductors(machine, hookup.id, rows)
    rows = (Conductor(a=first.pin, b=second.pin, core=core),)
    return add_hookup(machine, first.port_ref, second.port_ref, rows, cable)


def _core_for(machine: Machine, cable_id: str, core: int | None) -> int:
    """The core of a cable that is named and free, or its first free one. Raises `Problem`."""
    part_id = find_cable(machine, cable_id).part
    part = next((part for part in machine.cable_parts if part.id == part_id), None)
    count = len(part.cores) if part else 0
    free = _free_core(machine, cable_id)
    if core is None:
        if free is None:
            raise Problem(f"{cable_id} has no core free.", remedy="Take another cable.")
        return free
    if not 1 <= core <= count:
        raise Problem(f"{cable_id} has no core {core}.", remedy=f"It has {count}.")
    if core in used_cores(machine, cable_id):
        hint = f"Core {free} is free." if free is not None else "No core of it is free."
        raise Problem(f"Core {core} of {cable_id} is taken.", remedy=hint)
    return core


def seat_module(machine: Machine, foot: PortRef, slot: PortRef) -> Machine:
    """Takes a module's foot off and puts it into a slot, each pin in the hole of the same name.
    Raises `Problem`.
    """
    kept = tuple(hookup for hookup in machine.hookups if foot not in (hookup.a, hookup.b))
    holes = pins_of(machine, slot)
    rows = tuple(Conductor(a=pin, b=pin) for pin in pins_of(machine, foot) if pin in holes)
    return add_hookup(replace(machine, hookups=kept), foot, slot, rows)


def cable_beside(machine: Machine, first: PinRef, second: PinRef) -> tuple[str | None, int | None]:
    """The cable, and a free core of it, by which what lies in a lead of one device comes to the
    port of the other, a heater's cut-out; None where there is none, or their ports have a hookup.
    """
    if any({h.a, h.b} == {first.port_ref, second.port_ref} for h in machine.hookups):
        return None, None
    for here, there in ((first, second), (second, first)):
        in_line = {
            other.device
            for hookup in machine.hookups
            if hookup.cable is None
            for own, other in ((hookup.a, hookup.b), (hookup.b, hookup.a))
            if own.device == here.device
        }
        for hookup in machine.hookups:
            ends = {hookup.a, hookup.b}
            if hookup.cable is None or there.port_ref not in ends:
                continue
            if in_line & {end.device for end in ends - {there.port_ref}}:
                core = _free_core(machine, hookup.cable, here)
                if core is not None:
                    return hookup.cable, core
    return None, None


def _free_core(machine: Machine, cable_id: str, pin: PinRef | None = None) -> int | None:
    """The core of a cable that is free for a pin: that beside the other line of its signal, else
    as `CablePart.free_core` chooses.
    """
    cable = next(cable for cable in machine.cables if cable.id == cable_id)
    part = next((part for part in machine.cable_parts if part.id == cable.part), None)
    used = used_cores(machine, cable_id)
    if part is None:
        return None
    own = _signal(machine, pin) if pin is not None else ""
    beside = (
        part.mate_of(row.core)
        for hookup in machine.hookups
        if hookup.cable == cable_id
        for row in hookup.conductors
        for end, at in ((hookup.a, row.a), (hookup.b, row.b))
        if own and row.core is not None and pin is not None and end.device == pin.device
        if _signal(machine, PinRef(device=end.device, port=end.port, pin=at)) == own
    )
    free = (core for core in beside if core is not None and core not in used)
    return next(free, None) or part.free_core(used)


def _signal(machine: Machine, ref: PinRef) -> str:
    """What a pin is for, without its sign: a signal and its complement are one."""
    device = next((d for d in machine.devices if d.designator == ref.device), None)
    part = next((p for p in machine.parts if device is not None and p.id == device.part), None)
    port = part.port(ref.port) if part is not None else None
    pin = port.pin(ref.pin) if port is not None else None
    return signal_of(pin.function) if pin is not None else ""


def _moved(machine: Machine, plugs: tuple[PortRef, ...], moves: Moves) -> Machine:
    """The machine with every conductor end at some plugs moved; None takes the conductor off."""
    found: list[Hookup] = []
    for hookup in machine.hookups:
        if hookup.a not in plugs and hookup.b not in plugs:
            found.append(hookup)
            continue
        rows: dict[tuple[PortRef, PortRef], list[Conductor]] = {}
        for conductor in hookup.conductors:
            a = moves(hookup.a, conductor.a) if hookup.a in plugs else (hookup.a, conductor.a)
            b = moves(hookup.b, conductor.b) if hookup.b in plugs else (hookup.b, conductor.b)
            if a is not None and b is not None:
                moved = replace(conductor, a=a[1], b=b[1])
                rows.setdefault((a[0], b[0]), []).append(moved)
        for (end_a, end_b), conductors in rows.items():
            found.append(replace(hookup, a=end_a, b=end_b, conductors=tuple(conductors)))
    return replace(machine, hookups=tuple(found))
