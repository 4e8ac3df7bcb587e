"""Small machines for tests, written with the builder that made the demos."""

from msgspec.structs import replace

from builder import Builder, at, bench
from vervain.edits.common import swapped
from vervain.edits.device_edits import set_setting
from vervain.files.part_files import decode_parts
from vervain.model.axis import Axis
from vervain.model.elements import Contact
from vervain.model.machine import CoreMark, Machine, PortRef
from vervain.model.part import Part


def with_setting(machine: Machine, device: str, key: str, value) -> Machine:
    """The machine with one setting changed."""
    return set_setting(machine, device, key, value)


def with_axis(machine: Machine, **roles) -> Machine:
    """The machine with one axis X in the given roles."""
    axis = Axis(id="X", name="carriage", travel=100, **roles)
    return replace(machine, axes=(*machine.axes, axis))


def with_part(machine: Machine, part_id: str, change) -> Machine:
    """The machine with one of its parts changed."""
    part = next(part for part in machine.parts if part.id == part_id)
    return replace(machine, parts=swapped(machine.parts, part, change(part)))


def with_electrical(part: Part, port_id: str, pin_id: str, **values) -> Part:
    """A part with some electrical values of one pin changed."""
    port = part.port(port_id)
    pin = port.pin(pin_id)
    pins = swapped(port.pins, pin, replace(pin, electrical=replace(pin.electrical, **values)))
    return replace(part, ports=swapped(part.ports, port, replace(port, pins=pins)))


def with_contacts(part: Part, **limits: float) -> Part:
    """The part, its contacts with other limits."""
    return replace(part, inside=tuple(
        replace(e, **limits) if isinstance(e, Contact) else e
        for e in part.inside
    ))  # fmt: skip


def with_cable(machine: Machine, cable_id: str, **values) -> Machine:
    """The machine with one cable changed."""
    cable = next(cable for cable in machine.cables if cable.id == cable_id)
    return replace(machine, cables=swapped(machine.cables, cable, replace(cable, **values)))


def motor_on_driver(driver: str = "fell-d72", pins: str = "BK-1 GN-2 RD-3 BU-4") -> Machine:
    """M1 (2.8 A, two phases) on T1, on axis X, by its own leads."""
    build = bench("M1 fell-s57", f"T1 {driver}")
    build.join("M1:LEADS", "T1:MOTOR", pins)
    return with_axis(build.machine, drives=("M1",), home="M1", min_limit="M1", max_limit="M1")


def powered_controller(supply: str = "fell-ps24") -> Builder:
    """K1 fed by G1."""
    build = bench("K1 tarn-mc5", f"G1 {supply}")
    build.join("G1:OUT", "K1:POWER", "1-24V 2-0V")
    return build


def sensor_in(port: str, sensor: str = "larkmoor-ip12") -> Machine:
    """A sensor B1 in an input of a fed controller."""
    build = powered_controller()
    build.device("B1", sensor, "Home sensor", None)
    build.join("B1:LEADS", f"K1:{port}", "+-1 OUT-2 −-3")
    return build.machine


def switch_in(port: str, contact: str = "NC") -> Machine:
    """A limit switch B1 in an input that reads PNP, as the home and both limits of X."""
    build = powered_controller()
    build.device("B1", "osier-rl2", "Limit", None)
    build.join("B1:LEADS", f"K1:{port}", f"COM-1 {contact}-2")
    machine = with_setting(build.machine, "K1", f"invert/{port}", "inverted")
    return with_axis(machine, drives=("B1",), home="B1", min_limit="B1", max_limit="B1")


def stop_chain(port: str, pins: tuple[str, str]) -> Machine:
    """One contact of an emergency stop in the coil circuit of a relay."""
    build = bench("S1 larkmoor-hs3", "Q1 fell-c20", "G1 fell-ps24")
    build.join("G1:OUT", f"S1:{port}", f"1-{pins[0]}")
    build.join(f"S1:{port}", "Q1:COIL", f"{pins[1]}-A1")
    build.join("Q1:COIL", "G1:OUT", "A2-2")
    return build.machine


def servo(pins: str = "S-1 −-2 +-3", common: bool = True) -> Machine:
    """A servo in the servo port, fed by a supply of its own."""
    build = powered_controller()
    build.device("M1", "quoin-ps9", "Servo", None)
    build.device("G2", "fell-ps6", "6 V", None)
    build.join("G2:OUT", "K1:SERVO PWR", "1-6V 2-2")
    build.join("M1:PLUG", "K1:SERVO", pins)
    if common:
        build.join("G2:OUT", "G1:OUT", "2-2")
    return build.machine


def fan(pins: str = "1-+ 2-−", supply: str = "fell-ps24") -> Machine:
    """A fan on a supply."""
    build = bench("M1 quoin-bf24", f"G1 {supply}")
    build.join("G1:OUT", "M1:LEADS", pins)
    return build.machine


def fused_fan(rating_a: float, cable: str = "wire-bn-0.5") -> Machine:
    """A fan behind a fuse, by a wire."""
    build = bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.cable("W1", cable, 1.0)
    build.join("F1:FUSE", "M1:LEADS", "OUT-+", "W1")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return with_setting(build.machine, "F1", "rating_a", rating_a)


def cabled_fan(length_m: float | None = 1.0, marks: tuple[CoreMark, ...] = ()) -> Machine:
    """A fan on a supply by a two-core cable W1."""
    build = bench("M1 quoin-bf24", "G1 fell-ps24")
    build.cable("W1", "flex-2x0.5", 1.0)
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1")
    return with_cable(build.machine, "W1", length_m=length_m, marks=marks)


def shielded_encoder(*ends: str) -> Machine:
    """An encoder on a receiver by a shielded cable whose shield is joined at some ends."""
    build = bench("B1 larkmoor-e1000", "K1 quoin-dr3")
    build.cable("W1", "pair-4x2x0.14", 1.0)
    build.join("B1:LEADS", "K1:ENCODER", "A-A B-B", "W1")
    shield_to: tuple[PortRef, ...] = tuple(map(at, ends))
    return with_cable(build.machine, "W1", shield_to=shield_to)


SLOT_PARTS = """
[[part]]
id = "slotted"
kind = "controller"
title = "Controller with a driver slot"

[[part.ports]]
id = "SLOT X"
kind = "driver slot"
end = "host"
pins = [{ name = "1", function = "through" }]

[[part.ports]]
id = "X"
kind = "motor phases"
end = "host"
needs = "SLOT X"
pins = [
  { name = "A+", function = "phase A+" }, { name = "A−", function = "phase A-" },
  { name = "B+", function = "phase B+" }, { name = "B−", function = "phase B-" },
]

[[part]]
id = "module"
kind = "stepper driver"
title = "Plug-in driver"

[[part.ports]]
id = "FOOT"
kind = "driver slot"
end = "device"
pins = [{ name = "1", function = "through" }]
"""


def slotted(filled: bool) -> Machine:
    """A motor in the port of a driver slot that holds a module, or none."""
    build = bench("M1 fell-s57")
    found = {part.id: part for part in decode_parts(SLOT_PARTS, "slots").part}
    build.add("K1", found["slotted"])
    build.add("T1", found["module"])
    build.join("M1:LEADS", "K1:X", "BK-1 GN-2 RD-3 BU-4")
    if filled:
        build.join("T1:FOOT", "K1:SLOT X", "1-1")
    return build.machine
