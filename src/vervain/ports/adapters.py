"""What is put between or beside two ports so that they go together: made to measure, as parts.

Adapter leads, bare ends with ferrules, resistors in line, dividers, pull-ups and flyback diodes.
"""

import re

from msgspec.structs import replace

from vervain.edits.common import swapped
from vervain.edits.device_edits import add_device
from vervain.edits.hookup_edits import add_hookup, find_hookup, set_conductors
from vervain.model.connectors import connector_of, connector_words, gender_of
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.elements import Bridge, Diode, Resistor
from vervain.model.machine import Conductor, Machine, PinRef, PortRef
from vervain.model.part import Gender, Part, Pin, Port
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

# Preferred values of the E12 series (IEC 60063).
E12 = (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7, 5.6, 6.8, 8.2)
POWERS_W = (0.25, 0.5, 1.0, 2.0, 5.0, 10.0)


def preferred(low_ohm: float, high_ohm: float) -> float | None:
    """The E12 value nearest to the middle (by ratio) of a window; None where none lies in it."""
    middle = (max(low_ohm, high_ohm / 100) * high_ohm) ** 0.5
    values = [step * 10.0**decade for decade in range(-1, 7) for step in E12]
    inside = [value for value in values if low_ohm <= value <= high_ohm]
    return min(inside, key=lambda value: abs(value / middle - middle / value), default=None)


def power_rating_w(dissipated_w: float) -> float:
    """The usual rating that is at least twice what a resistor sheds, so that it stays cool."""
    return next((rating for rating in POWERS_W if rating >= 2 * dissipated_w), POWERS_W[-1])


def ohms(value_ohm: float) -> str:
    """A resistance as it is written: 470 ohm, 4.7 kohm."""
    return f"{value_ohm / 1000:g} kΩ" if value_ohm >= 1000 else f"{value_ohm:g} Ω"


def _id(text: str) -> str:
    return re.sub(r"[^a-z0-9.]+", "-", text.casefold()).strip("-")


def adapter_part(queries: Queries, plug: PortRef, host: PortRef) -> Part:
    """A short lead whose ends mate with a plug and with a port, pin by pin. Raises `Problem`."""
    ours, theirs = queries.port(plug), queries.port(host)
    our_part, their_part = queries.part_of(plug.device), queries.part_of(host.device)
    if ours is None or theirs is None or our_part is None or their_part is None:
        raise Problem("There is no such port.")
    ways = max(len(ours.pins), len(theirs.pins))
    pins = tuple(Pin(id=str(n + 1), function="through") for n in range(ways))
    other: dict[Gender | None, Gender | None] = {"pins": "sockets", "sockets": "pins", None: None}
    wires = (found := connector_of(theirs.connector)) is not None and found.family.takes_wires
    ends = (
        Port(
            id="A", kind="terminals", end="through", pins=pins, connector=ours.connector,
            gender=other[gender_of(our_part, ours)],
        ),
        Port(
            id="B", kind="terminals", end="through", pins=pins,
            connector=None if wires else theirs.connector,
            gender=None if wires else other[gender_of(their_part, theirs)],
        ),
    )  # fmt: skip
    title = f"{connector_words(ours.connector)} to {connector_words(ends[1].connector)}"
    bridges = tuple(Bridge(pins=(("A", pin.id), ("B", pin.id))) for pin in pins)
    gender = f"-{ends[0].gender}-{ends[1].gender}"
    return Part(
        id=_id(f"adapter-{ours.connector}-{ends[1].connector or 'wires'}{gender}"),
        kind="connector",
        title=f"Adapter lead, {title}"[:80],
        ports=ends,
        inside=bridges,
    )


def resistor_in_line(resistance_ohm: float, power_w: float) -> Part:
    """A resistor that a signal runs through."""
    ends = tuple(
        Port(id=name, kind="terminals", end="through", pins=(Pin(id="1", function="through"),))
        for name in "AB"
    )
    joint = (("A", "1"), ("B", "1"))
    return Part(
        id=_id(f"resistor-{resistance_ohm:g}-{power_w:g}"),
        kind="resistor",
        title=f"Resistor in line, {ohms(resistance_ohm)}, {power_w:g} W",
        ports=ends,
        inside=(
            Bridge(pins=joint),
            Resistor(pins=joint, resistance_ohm=resistance_ohm, power_w=power_w),
        ),
    )


def pull_up_part(resistance_ohm: float) -> Part:
    """A resistor between a signal and plus."""
    return _pull_part("up", resistance_ohm)


def pull_down_part(resistance_ohm: float) -> Part:
    """A resistor between a signal and 0 V."""
    return _pull_part("down", resistance_ohm)


def _pull_part(way: str, resistance_ohm: float) -> Part:
    pins = (Pin(id="1", function="through"), Pin(id="2", function="through"))
    return Part(
        id=_id(f"pull-{way}-{resistance_ohm:g}"),
        kind="resistor",
        title=f"Pull-{way}, {ohms(resistance_ohm)}",
        ports=(Port(id="WIRE", kind="terminals", end="through", pins=pins),),
        inside=(Resistor(pins=(("WIRE", "1"), ("WIRE", "2")), resistance_ohm=resistance_ohm),),
    )


def splice_part(ways: int) -> Part:
    """A splice that joins this many conductors."""
    pins = tuple(Pin(id=str(number), function="through") for number in range(1, ways + 1))
    return Part(
        id=f"splice-{ways}",
        kind="connector",
        title=f"Splice, {ways} conductors",
        ports=(Port(id="JOINT", kind="terminals", end="through", pins=pins),),
        inside=(Bridge(pins=tuple(("JOINT", pin.id) for pin in pins)),),
    )


def flyback_part() -> Part:
    """A diode across a coil."""
    pins = (Pin(id="A", function="through"), Pin(id="K", function="through"))
    return Part(
        id="flyback-diode",
        kind="diode",
        title="Flyback diode",
        ports=(Port(id="WIRE", kind="terminals", end="through", pins=pins),),
        inside=(Diode(pins=(("WIRE", "A"), ("WIRE", "K"))),),
    )


def divider_part(output: LogicOutput, high_max_v: float, entry: LogicInput) -> Part | None:
    """A divider that brings an output's high level inside an input's limits, a tenth below the
    most it takes; None where what is left would be below V_IH.

    With R1 in line and R2 to 0 V: V_out = V_in R2 / (R1 + R2); R1 is 1 kohm for each 5 V, so that
    a few mA flow.
    """
    wanted_v = 0.9 * entry.max_v
    upper = preferred(200 * high_max_v, 300 * high_max_v) or 200 * high_max_v
    values = [step * 10.0**decade for decade in range(7) for step in E12]
    below = [v for v in values if v <= upper * wanted_v / (high_max_v - wanted_v)]
    if not below:
        return None
    lower = max(below)
    ratio = lower / (upper + lower)
    low_input_v = output.high_min_v if output.high_min_v is not None else high_max_v - output.drop_v
    if low_input_v * ratio * 0.95 < entry.high_min_v:
        return None
    into = Port(
        id="IN", kind="terminals", end="through",
        pins=(
            Pin(id="S", function="signal", electrical=LogicInput(
                high_min_v=0.0, low_max_v=high_max_v, max_v=high_max_v * 1.2,
            )),
            Pin(id="0V", function="zero"),
        ),
    )  # fmt: skip
    out = Port(
        id="OUT", kind="terminals", end="through",
        pins=(
            Pin(id="S", function="signal", electrical=LogicOutput(
                drive="push-pull",
                high_max_v=round(high_max_v * ratio * 1.05, 3),
                high_min_v=round(low_input_v * ratio * 0.95, 3),
                low_max_v=round(output.low_max_v * ratio, 3),
            )),
            Pin(id="0V", function="zero"),
        ),
    )  # fmt: skip
    return Part(
        id=_id(f"divider-{upper:g}-{lower:g}-{high_max_v:g}"),
        kind="resistor",
        title=f"Divider, {ohms(upper)} over {ohms(lower)}, 5 %",
        ports=(into, out),
        inside=(
            Bridge(pins=(("IN", "0V"), ("OUT", "0V"))),
            Resistor(pins=(("IN", "S"), ("OUT", "S")), resistance_ohm=upper),
            Resistor(pins=(("OUT", "S"), ("OUT", "0V")), resistance_ohm=lower),
        ),
    )


def placed(machine: Machine, part: Part, name: str, near: str) -> tuple[Machine, str]:
    """The machine with a part as a new device where another device is, and its designator."""
    machine = add_device(machine, part, name[:80])
    made = machine.devices[-1]
    place = next((d.place for d in machine.devices if d.designator == near), None)
    moved = replace(made, place=place)
    return replace(machine, devices=(*machine.devices[:-1], moved)), made.designator


def put_between(machine: Machine, hookup_id: str, side: str, part: Part, name: str) -> Machine:
    """Puts an in-line part with ports A and B into a hookup, at its side "a" or "b": A at the far
    side, B at the port. The cable stays on A's side.

    A part with fewer ways than the hookup raises `Problem`.
    """
    hookup = find_hookup(machine, hookup_id)
    port = part.port("A")
    host = hookup.a if side == "a" else hookup.b
    if port is None or len(port.pins) < len(hookup.conductors):
        raise Problem(f"{part.title} has too few ways for {hookup.id}.", place=host.device)
    machine, designator = placed(machine, part, name, host.device)
    a, b = (PortRef(device=designator, port=name) for name in "AB")
    inner: list[Conductor] = []
    outer: list[Conductor] = []
    for conductor, pin in zip(hookup.conductors, port.pins, strict=False):
        end = conductor.a if side == "a" else conductor.b
        if side == "a":
            outer.append(replace(conductor, a=pin.id))
        else:
            outer.append(replace(conductor, b=pin.id))
        inner.append(Conductor(a=pin.id, b=end))
    changed = (
        replace(hookup, a=a, conductors=tuple(outer))
        if side == "a"
        else replace(hookup, b=a, conductors=tuple(outer))
    )
    machine = replace(machine, hookups=swapped(machine.hookups, hookup, changed))
    return add_hookup(machine, b, host, tuple(inner))


def put_in_line(
    machine: Machine, pin: PinRef, part: Part, name: str, zero: PinRef | None = None
) -> Machine:
    """Puts a one-way part into the conductor at a pin: its A or IN end towards the far side, its B
    or OUT end at the pin. `zero` is where its 0 V goes. Raises `Problem` where nothing is there.
    """
    for hookup in machine.hookups:
        for side, ref in (("a", hookup.a), ("b", hookup.b)):
            rows = [c for c in hookup.conductors if (c.a if side == "a" else c.b) == pin.pin]
            if ref != pin.port_ref or not rows:
                continue
            far = hookup.b if side == "a" else hookup.a
            kept = tuple(c for c in hookup.conductors if c not in rows)
            machine, designator = placed(machine, part, name, pin.device)
            into, out = part.ports[0], part.ports[-1]
            start = PortRef(device=designator, port=into.id)
            conductors = tuple(
                replace(c, a=into.pins[0].id, b=c.b if side == "a" else c.a) for c in rows
            )
            machine = add_hookup(machine, start, far, conductors, hookup.cable)
            machine = set_conductors(machine, hookup.id, kept)
            last = PortRef(device=designator, port=out.id)
            joined = (Conductor(a=out.pins[0].id, b=pin.pin),)
            machine = add_hookup(machine, last, pin.port_ref, joined)
            if zero is not None:
                joined = (Conductor(a=out.pins[1].id, b=zero.pin),)
                machine = add_hookup(machine, last, zero.port_ref, joined)
            return machine
    raise Problem(f"Nothing is joined to {pin.device} {pin.port}.", place=pin.device)


def put_across(machine: Machine, first: PinRef, second: PinRef, part: Part, name: str) -> Machine:
    """Puts a two-ended part between two pins: its first end at the first."""
    machine, designator = placed(machine, part, name, first.device)
    wire = PortRef(device=designator, port=part.ports[0].id)
    ends = part.ports[0].pins
    for end, pin in zip(ends, (first, second), strict=True):
        joined = (Conductor(a=end.id, b=pin.pin),)
        machine = add_hookup(machine, wire, pin.port_ref, joined)
    return machine


def put_pull(machine: Machine, pin: PinRef, rail: PinRef, resistance_ohm: float) -> Machine:
    """Puts a resistor between a line and a plus, or a 0 V."""
    found = Queries(machine).pin(rail)
    is_down = found is not None and found.function == "zero"
    name = f"Pull-{'down' if is_down else 'up'} of {pin.device} {pin.port}"
    part = pull_down_part(resistance_ohm) if is_down else pull_up_part(resistance_ohm)
    return put_across(machine, pin, rail, part, name)


def put_splice(machine: Machine, pin: PinRef) -> Machine:
    """Joins the conductors that share a contact in a splice, with one on from there to it.
    Raises `Problem`.
    """
    shared = [
        (hookup, side, row)
        for hookup in machine.hookups
        for side, ref in (("a", hookup.a), ("b", hookup.b))
        for row in hookup.conductors
        if ref == pin.port_ref and (row.a if side == "a" else row.b) == pin.pin
    ]
    if len(shared) < 2:
        raise Problem("One conductor needs no splice.", place=f"{pin.device} {pin.port}")
    name = f"Splice at {pin.device} {pin.port}"
    machine, designator = placed(machine, splice_part(len(shared) + 1), name, pin.device)
    joint = PortRef(device=designator, port="JOINT")
    for number, (hookup, side, row) in enumerate(shared, 2):
        left = find_hookup(machine, hookup.id)
        kept = tuple(other for other in left.conductors if other != row)
        far = left.b if side == "a" else left.a
        moved = replace(row, a=str(number), b=row.b if side == "a" else row.a)
        machine = add_hookup(machine, joint, far, (moved,), left.cable)
        machine = set_conductors(machine, hookup.id, kept)
    return add_hookup(machine, joint, pin.port_ref, (Conductor(a="1", b=pin.pin),))
