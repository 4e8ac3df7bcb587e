"""Small stop circuits in words: “G1 OUT.24V - S1 11-12.11 | W1” joins two pins, in a cable."""

from msgspec.structs import replace

from builder import Builder, bench
from tests.small import at, with_electrical, with_part
from vervain.edits.device_edits import set_at_stop
from vervain.files.part_files import shipped_shelf
from vervain.model.axis import Axis
from vervain.model.machine import Machine
from vervain.model.part import Part
from vervain.model.place import Place

BASE = ("G1 fell-ps24", "S1 larkmoor-es2", "Q1 fell-c20", "T1 fell-d36")
# The supply's plus to the stop, the stop to the coil, the coil back; the driver behind the contact.
ONE_CHANNEL = """
G1 OUT.24V - S1 11-12.11 | W1
S1 11-12.12 - Q1 COIL.A1 | W1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
TWO_CHANNELS = """
G1 OUT.24V - S1 11-12.11 | W1
S1 11-12.12 - Q1 COIL.A1 | W1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - S1 21-22.21 | W2
S1 21-22.22 - Q2 COIL.A1 | W2
Q2 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - Q2 MAIN.13
Q2 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
READ = """
Q1 COIL.A1 - K1 STOP.A+
Q1 COIL.A2 - K1 STOP.A−
Q2 COIL.A1 - K1 STOP.B+
Q2 COIL.A2 - K1 STOP.B−
G1 OUT.24V - K1 POWER.24V
G1 OUT.0V - K1 POWER.0V
"""
# The contact of a relay that keeps its own coil on once the button was pressed.
HOLDING = """
G1 OUT.24V - S1 11-12.11 | W1
S1 11-12.12 - S3 13-14.13 | W1
S3 13-14.14 - K2 CH 1.V+
K2 CH 1.IN - G1 OUT.0V
S1 11-12.12 - K2 RELAY 1.COM
K2 RELAY 1.NO - K2 CH 1.V+
K2 CH 1.V+ - Q1 COIL.A1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
PENDANT_IN_SERIES = """
G1 OUT.24V - S1 11-12.11
S1 11-12.12 - S2 11-12.11 | W1
S2 11-12.12 - Q1 COIL.A1 | W1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
PENDANT_BESIDE = (
    PENDANT_IN_SERIES.replace("S1 11-12.12 - S2 11-12.11 | W1", "G1 OUT.24V - S2 11-12.11 | W1")
    + "S1 11-12.12 - Q1 COIL.A1\n"
)
PROGRAM_ONLY = """
G1 OUT.24V - S1 11-12.11
S1 11-12.12 - K1 STOP.A+
G1 OUT.0V - K1 STOP.A−
G1 OUT.24V - K1 POWER.24V
G1 OUT.0V - K1 POWER.0V
G1 OUT.24V - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
# A coil behind the contact that it works; and one whose stop is between it and 0 V.
OWN_RAIL = """
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
Q1 MAIN.14 - S1 11-12.11
S1 11-12.12 - Q1 COIL.A1
Q1 COIL.A2 - G1 OUT.0V
"""
MINUS_SIDE = """
G1 OUT.24V - Q1 COIL.A1
Q1 COIL.A2 - S1 11-12.11
S1 11-12.12 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
FEEDBACK = """
K1 IN 1.0V - Q1 AUX.21
Q1 AUX.22 - Q2 AUX.21
Q2 AUX.22 - K1 IN 1.IN
"""
# The stop takes mains from the supply of what moves, by a contactor and by itself.
BY_CONTACTOR = """
X4 OUT.L - Q1 MAIN.13
Q1 MAIN.14 - G1 MAINS.L
X4 OUT.N - G1 MAINS.N
X4 OUT.L - G2 MAINS.L
X4 OUT.N - G2 MAINS.N
G2 OUT.24V - S1 11-12.11
S1 11-12.12 - Q1 COIL.A1
Q1 COIL.A2 - G2 OUT.0V
G1 OUT.24V - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
IN_MAINS = """
X4 OUT.L - S1 11-12.11
S1 11-12.12 - G1 MAINS.L
X4 OUT.N - G1 MAINS.N
G1 OUT.24V - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
# Both channels end in the drive's own inputs; its power stays.
TORQUE_OFF = """
G1 OUT.24V - S1 11-12.11 | W1
S1 11-12.12 - T1 STOP.A+ | W1
T1 STOP.A− - G1 OUT.0V
G1 OUT.24V - S1 21-22.21 | W2
S1 21-22.22 - T1 STOP.B+ | W2
T1 STOP.B− - G1 OUT.0V
G1 OUT.24V - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
# A remote's receiver in the coil's line.
BY_RADIO = """
G1 OUT.24V - K9 POWER.24V
K9 POWER.0V - G1 OUT.0V
G1 OUT.24V - K9 13-14.13 | W1
K9 13-14.14 - Q1 COIL.A1 | W1
Q1 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
# The start button goes from plus, past the stop.
START_PAST_STOP = HOLDING.replace("S1 11-12.12 - S3 13-14.13 | W1", "G1 OUT.24V - S3 13-14.13")
# Each contactor's coil through the other's NC contact: the quicker one wins.
RACE = """
G1 OUT.24V - S1 11-12.11
S1 11-12.12 - Q2 AUX.21
Q2 AUX.22 - Q1 COIL.A1
S1 11-12.12 - Q1 AUX.21
Q1 AUX.22 - Q2 COIL.A1
Q1 COIL.A2 - G1 OUT.0V
Q2 COIL.A2 - G1 OUT.0V
G1 OUT.24V - Q1 MAIN.13
Q1 MAIN.14 - T1 FEED.24V
T1 FEED.0V F - G1 OUT.0V
"""
UNTOLD = """
G1 OUT.24V - K1 POWER.24V
G1 OUT.0V - K1 POWER.0V
"""
# A motor on a switch by hand, and on a contactor that holds itself.
ON_A_SWITCH = """
G1 OUT.24V - S4 13-14.13
S4 13-14.14 - M1 LEADS.+
M1 LEADS.− - G1 OUT.0V
"""
ON_A_CONTACTOR = HOLDING.replace("T1 FEED.24V", "M1 LEADS.+").replace("T1 FEED.0V F", "M1 LEADS.−")
# A motor on the driver behind the contact.
DRIVEN_MOTOR = """
M1 LEADS.BK - T1 MOTOR.A+
M1 LEADS.GN - T1 MOTOR.A−
M1 LEADS.RD - T1 MOTOR.B+
M1 LEADS.BU - T1 MOTOR.B−
"""
DRIVEN = ONE_CHANNEL + DRIVEN_MOTOR
PENDANT = (*BASE, "S2 larkmoor-es2")
ON = {
    "two": (*BASE, "Q2 fell-c20"),
    "read": (*BASE, "Q2 fell-c20", "K1 tarn-mc5"),
    "holding": (*BASE, "S3 quoin-pb1", "K2 quoin-r4"),
}  # fmt: skip


def wired(text: str, *devices: str, may_stay: str = "", own: dict[str, Part] | None = None):
    """A machine of these devices, and `own` ones, with these wires; those of one cable lie in it in
    order.
    """
    build: Builder = bench(*devices)
    for designator, part in (own or {}).items():
        build.add(designator, part)
    cores: dict[str, int] = {}
    for line in filter(None, map(str.strip, text.splitlines())):
        ends, _, cable = line.partition(" | W")
        left, right = (end.strip() for end in ends.split(" - "))
        (port_a, pin_a), (port_b, pin_b) = (end.rsplit(".", 1) for end in (left, right))
        refs = [text.replace(" ", ":", 1) for text in (port_a, port_b)]
        name = f"W{cable.strip()}" if cable else ""
        if name and name not in cores:
            build.cable(name, "flex-8x0.25", 2.0)
        if name:
            cores[name] = cores.get(name, 0) + 1
        _join(build, refs, (pin_a, pin_b), name, cores.get(name, 0))
    machine = build.machine
    for device in may_stay.split():
        machine = set_at_stop(machine, device, "stays")
    return machine


def _join(build: Builder, refs: list[str], names: tuple[str, str], cable: str, core: int) -> None:
    pins = []
    for ref, name in zip(refs, names, strict=True):
        where = at(ref)
        device = next(d for d in build.machine.devices if d.designator == where.device)
        part = next(p for p in build.machine.parts if p.id == device.part)
        port = part.port(where.port)
        assert port is not None, ref
        pins.append(next(p.id for p in port.pins if name in (p.id, p.name)))
    build.join(refs[0], refs[1], f"{pins[0]}-{pins[1]}", cable, str(core) if cable else "")


def one_channel(extra: str = "", *more: str, **options: str) -> Machine:
    return wired(ONE_CHANNEL + extra, *BASE, *more, **options)


def two_channels(extra: str = "", *more: str, **options: str) -> Machine:
    return wired(TWO_CHANNELS + extra, *ON["two"], *more, **options)


def read_channels(extra: str = "", *more: str, **options: str) -> Machine:
    return wired(TWO_CHANNELS + READ + extra, *ON["read"], *more, **options)


def holding(extra: str = "", *more: str) -> Machine:
    return wired(HOLDING + extra, *ON["holding"], *more)


def torque_off() -> Machine:
    """A stop that ends in the safe torque off of a drive."""
    parts = shipped_shelf().parts
    stop = parts["tarn-mc5"].port("STOP")
    drive = replace(parts["fell-d36"], id="drive", ports=(*parts["fell-d36"].ports, stop))
    return wired(TORQUE_OFF, *BASE[:2], own={"T1": drive})


def by_radio(rest: str = "NO") -> Machine:
    """A stop by radio; as "NC" its receiver opens only on a remote's word."""
    machine = wired(BY_RADIO, "G1 fell-ps24", "K9 osier-rs2", "Q1 fell-c20", "T1 fell-d36")
    parts = tuple(
        replace(part, inside=tuple(replace(e, rest=rest) for e in part.inside))
        if part.id == "osier-rs2" else part
        for part in machine.parts
    )  # fmt: skip
    return replace(machine, parts=parts)


def motor(text: str, *devices: str) -> Machine:
    """A machine with a brushed motor M1 that moves an axis."""
    machine = wired(text, *devices, "M1 quoin-gm12")
    axis = Axis(id="X", name="conveyor", endless=True, drives=("M1",))
    return replace(machine, axes=(axis,))


def heavy(moved_kg: float) -> Machine:
    """An axis of a mass at half a metre a second, on a driver with a capacitor of 470 microfarads
    that takes 36 V.
    """
    machine = with_part(
        wired(DRIVEN, *BASE, "M1 fell-s42"), "fell-d36",
        lambda part: with_electrical(part, "FEED", "1", capacitance_f=470e-6),
    )  # fmt: skip
    axis = Axis(id="X", name="slide", drives=("M1",), speed_max=500, moved_kg=moved_kg)
    return replace(machine, axes=(axis,))


def by_contactor(extra: str = "", *more: str) -> Machine:
    return wired(BY_CONTACTOR + extra, *BASE, "X4 quoin-mi1", "G2 fell-ps24", *more)


def in_mains() -> Machine:
    return wired(IN_MAINS, *BASE[:2], "T1 fell-d36", "X4 quoin-mi1")


def boxed(machine: Machine) -> Machine:
    """The machine with everything but the stops in one closed box."""
    return replace(
        machine,
        places=(Place(id="box", name="Box", closed=True),),
        devices=tuple(
            device if device.part == "larkmoor-es2" else replace(device, place="box")
            for device in machine.devices
        ),
    )
