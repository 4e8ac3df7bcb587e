"""Putting a device's plug into a port, and taking it off, as edits of the machine."""

from msgspec.structs import replace

from vervain.edits.common import swapped
from vervain.edits.hookup_edits import add_hookup, set_conductors
from vervain.model.machine import Cable, Conductor, Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.ports.adapters import placed
from vervain.ports.fit import fit
from vervain.ports.insertions import ConverterAt, add_missing
from vervain.queries.connectivity import (
    ConductorPath,
    host_ports,
    is_joint,
    joined_inside,
    paths_from,
    steps_from,
    ways_of_port,
)
from vervain.queries.machine_queries import Queries


def landed_on_hosts(queries: Queries, device_port: PortRef) -> tuple[ConductorPath, ...]:
    """The ways of a device port that end on host ports: what taking it off undoes."""
    found = []
    for way in ways_of_port(queries, device_port):
        port = queries.port(way.end.port_ref) if way.lands else None
        if port is not None and port.takes_plugs:
            found.append(way)
    return tuple(found)


def unplug(machine: Machine, device_port: PortRef) -> Machine:
    """Takes a device's plug out of the host ports it is in; a cable stays at the device's end.

    Conductors that other devices use as well stay where they are. Raises `Problem` where the
    device is in no port.
    """
    queries = Queries(machine)
    ways = landed_on_hosts(queries, device_port)
    if not ways:
        raise Problem(f"{device_port.device} is in no port.")
    for way in ways:
        last = way.steps[-1]
        if _is_shared(queries, last.start, device_port):
            continue
        hookup = next((h for h in machine.hookups if h.id == last.hookup), None)
        if hookup is None:
            continue
        kept = tuple(c for c in hookup.conductors if c != last.conductor)
        machine = set_conductors(machine, hookup.id, kept)
        machine = _keep_attached(machine, hookup.cable, last.start.port_ref)
    return machine


def _is_shared(queries: Queries, joint_pin: PinRef, device_port: PortRef) -> bool:
    """Whether a conductor at a connector also serves another device port."""
    if not is_joint(queries, joint_pin.device):
        return False
    users = {
        way.end.port_ref
        for pin in (joint_pin, *joined_inside(queries, joint_pin))
        for way in paths_from(queries, pin)
        if way.lands
    }
    devices = {ref for ref in users if (port := queries.port(ref)) and port.end == "device"}
    return bool(devices - {device_port})


def _keep_attached(machine: Machine, cable_id: str | None, end: PortRef) -> Machine:
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    if cable is None or cable.attached_to is not None:
        return machine
    changed = replace(cable, attached_to=end)
    return replace(machine, cables=swapped(machine.cables, cable, changed))


def plug_in(
    machine: Machine, device_port: PortRef, host_port: PortRef, complete: bool = False
) -> Machine:
    """Puts a device's plug into a host port, taking it off where it was.

    Pins are joined by function; the cable that is attached to the plug comes along. With `complete`
    what it needs goes in as well: an adapter, a resistor, a divider, and a jumper that nothing else
    relies on. Raises `Problem` where no pin of the one goes to a pin of the other.
    """
    if host_port in host_ports(Queries(machine), device_port):
        return machine
    answer = fit(Queries(machine), device_port, host_port)
    if not answer.pairs:
        raise Problem(
            f"{device_port.device} cannot go into {host_port.device} {host_port.port}.",
            remedy=answer.reason,
        )
    if complete and answer.verdict == "fits with":
        for addition in answer.adds:
            if isinstance(addition, ConverterAt):
                return _through_converter(machine, device_port, host_port, addition)
    kept = _cores_before(Queries(machine), device_port)
    if landed_on_hosts(Queries(machine), device_port):
        machine = unplug(machine, device_port)
    queries = Queries(machine)
    groups: dict[PortRef, list[Conductor]] = {}
    for our_pin, their_pin in answer.pairs:
        free = _free_end(
            queries, PinRef(device=device_port.device, port=device_port.port, pin=our_pin)
        )
        rows = groups.setdefault(free.port_ref, [])
        theirs = PinRef(device=host_port.device, port=host_port.port, pin=their_pin)
        if _is_there(queries, device_port, our_pin, theirs):
            continue
        if all(row.a != free.pin for row in rows) and not _lands(queries, free):
            rows.append(Conductor(a=free.pin, b=their_pin))
    for end, rows in groups.items():
        cable = _attached_cable(machine, end)
        if cable is not None:
            rows = _with_cores(machine, cable, end, rows, kept)
        if rows:
            machine = add_hookup(machine, end, host_port, tuple(rows), cable.id if cable else None)
    if complete and answer.verdict == "fits with":
        machine = add_missing(machine, device_port, host_port, answer.adds, answer.option)
    return machine


def _is_there(queries: Queries, plug: PortRef, pin: str, theirs: PinRef) -> bool:
    """Whether the common of a contact comes to a port already, by that of another one: a selector's
    wants one wire for all its throws.
    """
    port = queries.port(plug)
    ours = port.pin(pin) if port is not None else None
    is_common = ours is not None and port is not None and port.kind == "contact"
    is_common = is_common and ours is not None and ours.function == "com"
    return is_common and theirs in queries.net(PinRef(device=plug.device, port=plug.port, pin=pin))


def _through_converter(
    machine: Machine, device_port: PortRef, host_port: PortRef, converter: ConverterAt
) -> Machine:
    """Places a converter, puts the plug into it and the converter into the port."""
    title = converter.part.title
    machine, made = placed(machine, converter.part, title, host_port.device)
    into = PortRef(device=made, port=converter.into)
    machine = plug_in(machine, device_port, into)
    return plug_in(machine, PortRef(device=made, port=converter.out), host_port)


def _cores_before(queries: Queries, device_port: PortRef) -> dict[PinRef, int]:
    return {
        way.steps[-1].start: way.steps[-1].conductor.core
        for way in landed_on_hosts(queries, device_port)
        if way.steps[-1].conductor.core is not None
    }


def _free_end(queries: Queries, pin: PinRef) -> PinRef:
    """Where an unplugged lead ends: the far side of its connector, or the pin itself."""
    for way in paths_from(queries, pin):
        if not way.lands:
            return way.end
        last = way.steps[-1].start
        if is_joint(queries, last.device):
            return last
    return pin


def _lands(queries: Queries, pin: PinRef) -> bool:
    """Whether a free end is joined to something already, as a shared common is."""
    return is_joint(queries, pin.device) and bool(steps_from(queries, pin))


def _attached_cable(machine: Machine, end: PortRef) -> Cable | None:
    return next((cable for cable in machine.cables if cable.attached_to == end), None)


def _with_cores(
    machine: Machine,
    cable: Cable,
    end: PortRef,
    rows: list[Conductor],
    kept: dict[PinRef, int],
) -> list[Conductor]:
    """Gives every row a core: the one it had, the one of its pin's number, else the next free."""
    part = next((part for part in machine.cable_parts if part.id == cable.part), None)
    count = len(part.cores) if part else 0
    used = {
        conductor.core
        for hookup in machine.hookups
        if hookup.cable == cable.id
        for conductor in hookup.conductors
    }
    found = []
    for row in rows:
        pin = PinRef(device=end.device, port=end.port, pin=row.a)
        wanted = kept.get(pin, int(row.a) if row.a.isdecimal() else 0)
        if wanted in used or not 1 <= wanted <= count:
            wanted = next((n for n in range(1, count + 1) if n not in used), 0)
        used.add(wanted)
        found.append(replace(row, core=wanted or None))
    return found
