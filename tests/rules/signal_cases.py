"""Machines on which the rules on plugs, resources and signals fire, and others on which they are
silent: limits from both sides.
"""

from collections.abc import Callable

from msgspec.structs import replace

from mistake_machines import MACHINES
from tests import small
from vervain.model.axis import Axis, Screw
from vervain.model.elements import Resistor
from vervain.model.machine import Alternate, AlternateSetting, Cable, Machine, PortRef
from vervain.model.part import Part
from vervain.model.place import Run
from vervain.ports.adapters import pull_down_part, pull_up_part

Made = Callable[[], Machine]
FOUR = "BK-1 GN-2 RD-3 BU-4"
STRAIGHT = " ".join(f"{n}-{n}" for n in range(1, 17))
TURNED = " ".join(f"{n}-{17 - n}" for n in range(1, 17))


def with_port(machine: Machine, part_id: str, port_id: str, **values) -> Machine:
    """The machine with some values of a port of one of its parts changed."""

    def change(part: Part) -> Part:
        port = part.port(port_id)
        ports = tuple(replace(p, **values) if p is port else p for p in part.ports)
        return replace(part, ports=ports)

    return small.with_part(machine, part_id, change)


def with_pin(machine: Machine, part_id: str, port_id: str, pin_id: str, **values) -> Machine:
    """The machine with some electrical values of a pin of one of its parts changed."""
    return small.with_part(
        machine, part_id, lambda part: small.with_electrical(part, port_id, pin_id, **values)
    )


def servo_plug(connector: str) -> Machine:
    """A servo whose plug is of this family, in a header for it."""
    return with_port(small.servo(), "quoin-ps9", "PLUG", connector=connector)


def module(pins: str) -> Machine:
    build = small.bench("K1 osier-mb4", "T1 tarn-pd25", "G1 fell-ps24")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("T1:FOOT", "K1:SLOT X", pins)
    return build.machine


def heard(pins: str) -> Machine:
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Home sensor", None)
    build.join("B1:LEADS", "K1:IN 5", pins)
    return build.machine


def crowded(count: int) -> Machine:
    """Switches whose commons share a screw terminal for two."""
    build = small.bench("X1 quoin-ts12", *(f"B{n} osier-rl2" for n in range(1, count + 1)))
    for number in range(1, count + 1):
        build.join(f"B{number}:LEADS", "X1:9", "1-1")
    return build.machine


def keyed_module() -> Machine:
    machine = module(STRAIGHT)
    return with_port(machine, "tarn-pd25", "FOOT", connector="crimp-2.5-2x8")


def look_alikes(second: str) -> Machine:
    """A servo and a bridge's control in three-way headers beside each other."""
    build = small.bench("K1 quoin-rc8", "T1 fell-hb2", "M1 quoin-ps9", "G1 fell-ps6")
    build.join("G1:OUT", "K1:SERVO PWR", "1-1 2-2")
    build.join("M1:PLUG", "K1:MOTOR 3", "S-S −-3 +-2")
    build.join("T1:CTRL 1", f"K1:{second}", "P-1 D-2 0V-3")
    return build.machine


def chained(mirrored: bool) -> Machine:
    """A driver whose feed goes through to the next, with the way out turned or not."""
    build = small.bench("T1 fell-d36", "T2 fell-d36", "G1 fell-ps24")
    build.join("G1:OUT", "T1:FEED", "1-1 2-2")
    build.join("T1:NEXT", "T2:FEED", "24V-24V")

    def turn(part: Part) -> Part:
        port = part.port("NEXT")
        turned = replace(port, pins=port.pins[::-1])
        return replace(part, ports=tuple(turned if p is port else p for p in part.ports))

    return small.with_part(build.machine, "fell-d36", turn) if mirrored else build.machine


def two_edges(opposite: bool) -> Machine:
    """Inputs on the left and the right of a controller, numbered alike or not."""
    build = small.Builder(small.switch_in("IN 5"))
    build.device("B2", "osier-rl2", "Other", None)
    build.join("B2:LEADS", "K1:IN 1", "COM-0V NC-IN")

    def change(part: Part) -> Part:
        ports = []
        for port in part.ports:
            number = int(port.id[3:]) if port.id.startswith("IN ") else 0
            if number > 4:
                way = 9 - number if opposite else number - 4
                port = replace(port, edge="left", at_mm=10.0 * way)
            elif number:
                port = replace(port, edge="right", at_mm=10.0 * number)
            ports.append(port)
        return replace(part, ports=tuple(ports))

    return small.with_part(build.machine, "tarn-mc5", change)


def sharing(port: str) -> Machine:
    build = small.bench("K1 osier-mb4", "B1 osier-ms2", "B2 quoin-lg5")
    build.join("B1:LEADS", f"K1:{port}", "COM-0V NC-S")
    build.join("B2:LEADS", "K1:SPINDLE", "+-5V OUT-S −-0V")
    return build.machine


def fan_in(port: str) -> Machine:
    build = small.bench("K1 osier-mb4", "M1 quoin-cf12")
    build.join("M1:LEADS", f"K1:{port}", "1-1 2-2")
    return build.machine


def follower(jumper: str, axis: str) -> Machine:
    """Two motors on the slots X and A, of one axis or of two."""
    build = small.bench(
        "K1 osier-mb4", "T1 tarn-pd25", "T2 tarn-pd25", "M1 fell-s42", "M2 fell-s42"
    )
    for number, slot in (("1", "X"), ("2", "A")):
        build.join(f"T{number}:FOOT", f"K1:SLOT {slot}", STRAIGHT)
        build.join(f"M{number}:LEADS", f"K1:{slot}", FOUR)
    drives = {"X": ("M1",), "Y": ("M2",)} if axis == "two" else {"X": ("M1", "M2")}
    axes = tuple(Axis(id=name, name="a", drives=motors) for name, motors in drives.items())
    return small.with_setting(replace(build.machine, axes=axes), "K1", "JA", jumper)


def stop_in(jumper: str) -> Machine:
    build = small.bench("K1 osier-mb4", "B1 osier-ms2")
    build.join("B1:LEADS", "K1:STOP", "COM-0V NC-S")
    return small.with_setting(build.machine, "K1", "JS", jumper)


def homing(value: str) -> Machine:
    machine = small.with_axis(small.bench("M1 fell-s57").machine, drives=("M1",))
    axes = (replace(machine.axes[0], homing=value),)
    return replace(machine, axes=axes)


def facing(second: str, setting: str = "forward") -> Machine:
    """Two motors that look at each other, the second with these leads."""
    build = small.bench("K1 tarn-mc5", "M1 fell-s57", "M2 fell-s57", "T1 fell-d72", "T2 fell-d72")
    for number, pins in (("1", FOUR), ("2", second)):
        build.join(f"M{number}:LEADS", f"T{number}:MOTOR", pins)
        build.join(f"T{number}:SIGNAL", f"K1:AXIS {number}", "1-1 2-2 3-3 4-4")
    machine = small.with_axis(build.machine, drives=("M1", "M2"), faces="each other")
    return small.with_setting(machine, "K1", "direction/AXIS 2", setting)


def swapped_in(current_a: float, homing_value: str = "off") -> Machine:
    """A weaker motor M2 in the port of M1, with the settings that it wants kept beside it."""
    build = small.bench("M1 fell-s57", "M2 fell-s42", "T1 fell-d72")
    build.join("M2:LEADS", "T1:MOTOR", FOUR)
    axes = (
        Axis(id="X", name="a", drives=("M1",), home="M1"),
        Axis(id="Y", name="b", drives=("M2",), homing=homing_value),
    )
    kept = AlternateSetting(device="T1", key="current_peak_a", value=2.0)
    port = PortRef(device="T1", port="MOTOR")
    item = Alternate(device="M2", port=port, settings=(kept,), homing_off=True)
    machine = replace(build.machine, axes=axes, alternates=(item,))
    return small.with_setting(machine, "T1", "current_peak_a", current_a)


def lacking(kept_a: float) -> Machine:
    """An alternate of 1.5 A RMS, 2.1213 A peak, that waits with this current kept for it."""
    machine = swapped_in(2.0)
    kept = AlternateSetting(device="T1", key="current_peak_a", value=kept_a)
    return replace(machine, alternates=(replace(machine.alternates[0], settings=(kept,)),))


def isolated_driver(alarm: bool = False, **values) -> Machine:
    """A driver with isolated inputs on a controller's 5 V outputs: (4.4 - 1.5)/(270 x 1.05) is
    10.2 mA, (5.0 - 1.1)/(270 x 0.95) 15.2 mA.
    """
    build = small.bench("K1 tarn-mc5", "T1 fell-d80")
    build.join("K1:AXIS 1", "T1:SIGNAL", "STP-STP DIR-DIR EN-EN 0V-COM")
    if alarm:
        build.join("T1:SIGNAL", "K1:PROBE", "ALM-2")
    machine = small.with_setting(build.machine, "K1", "enable/AXIS 1", "low")
    return with_pin(machine, "tarn-mc5", "AXIS 1", "1", **values) if values else machine


def gate(pull_up_ohm: float | None = None) -> Machine:
    """An open collector of 20 mA at 5 V +- 2 % in an input without a pull-up: at least
    (5.1 - 0.4)/0.02 = 235 ohm. To reach 2.4 V with 1 mA of leak at most (4.9 - 2.4)/0.001 = 2500.
    """
    build = small.bench("K1 larkmoor-pc12", "B1 quoin-lg5")
    build.join("B1:LEADS", "K1:COUNT 1", "+-5V OUT-A −-0V")
    if pull_up_ohm is not None:
        build.add("R1", pull_up_part(pull_up_ohm))
        build.join("R1:WIRE", "K1:COUNT 1", "1-A")
        build.join("R1:WIRE", "K1:COUNT 1", "2-5V")
    return with_pin(build.machine, "quoin-lg5", "LEADS", "2", leak_a=1e-3)


def given_high(has_pull_down: bool) -> Machine:
    """The same with an output that only gives high, 5 V less 0.4."""
    machine = gate()
    build = small.Builder(machine)
    if has_pull_down:
        build.add("R1", pull_down_part(1e4))
        build.join("R1:WIRE", "K1:COUNT 1", "1-A 2-0V")
    return with_pin(build.machine, "quoin-lg5", "LEADS", "2", drive="PNP", high_max_v=5.0)


def silver(pull_up_ohm: float) -> Machine:
    """A switch that wants 5 mA on an input of 5 V less 5 %: 950 ohm give it."""
    build = small.bench("K1 osier-mb4", "B1 osier-rl2")
    build.join("B1:LEADS", "K1:LIMIT X", "COM-0V NC-S")
    return with_pin(build.machine, "osier-mb4", "LIMIT X", "3", pull_up_ohm=pull_up_ohm)


def relayed(current_a: float, **values) -> Machine:
    """A load behind a relay contact for 5 A, of coils 2 A, of at least 10 mA, at most 30 V."""
    build = small.bench("K2 quoin-r4", "M1 quoin-bf24", "G1 fell-ps24")
    build.join("G1:OUT", "K2:RELAY 1", "1-COM")
    build.join("K2:RELAY 1", "M1:LEADS", "NO-+")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return with_pin(build.machine, "quoin-bf24", "LEADS", "1", current_a=current_a, **values)


def coil_on(port: str, **values) -> Machine:
    build = small.bench("K1 osier-mb4", "M1 larkmoor-wv24")
    build.join("M1:LEADS", f"K1:{port}", "1-1 2-2")
    machine = build.machine
    return with_pin(machine, "larkmoor-wv24", "LEADS", "1", **values) if values else machine


def lamp_on(port: str) -> Machine:
    build = small.bench("K1 tarn-mc5", "P1 quoin-bl24")
    build.join("P1:LEADS", f"K1:{port}", "2-1" if port == "AXIS 1" else "1-1 2-2")
    return build.machine


def starting(inrush_a: float) -> Machine:
    """A lamp on an output that gives 1.5 A for an instant."""
    return with_pin(lamp_on("OUT 1"), "quoin-bl24", "LEADS", "1", inrush_a=inrush_a)


def enabled(setting: str) -> Machine:
    return small.with_setting(isolated_driver(), "K1", "enable/AXIS 1", setting)


def stepping(**values) -> Machine:
    """A driver on a controller; 5 us of direction before and after a step."""
    machine = facing("BK-2 GN-1 RD-3 BU-4")

    def change(part: Part) -> Part:
        return replace(part, driver=replace(part.driver, **values))

    return small.with_part(machine, "fell-d72", change)


def counted(speed_max: float, part: str = "larkmoor-e600") -> Machine:
    """600 lines on a shaft that turns once a degree: 1e-6 s apart at 416.67 degrees a second."""
    build = small.bench("K1 larkmoor-pc12", f"B1 {part}")
    build.join("B1:LEADS", "K1:COUNT 1", "+-5V A-A B-B −-0V")
    axis = Axis(
        id="X", name="a", mechanism=Screw(lead_mm=1), speed_max=speed_max, feedback="B1", travel=10
    )
    return replace(build.machine, axes=(axis,))


def indexed(joined: bool) -> Machine:
    """An axis that homes to the index of an encoder on a line receiver."""
    build = small.bench("K1 tarn-mc5", "B1 larkmoor-e1000", "K2 quoin-dr3")
    z = " Z-Z" if joined else ""
    build.join("B1:LEADS", "K2:ENCODER", f"A-A B-B{z} +-5V −-0V")
    build.join("K2:OUT", "K1:ENC 1", "5V-5V A-A B-B Z-Z 0V-0V")
    return replace(build.machine, axes=(Axis(id="X", name="a", feedback="B1", travel=10),))


def pair_on(pins: str, cores: str = "", host: str = "K2:ENCODER") -> Machine:
    """A differential encoder on a line receiver, or on something else."""
    build = small.bench("K1 larkmoor-pc12", "B1 larkmoor-e1000", "K2 quoin-dr3")
    cable = "W1" if cores else ""
    if cores:
        build.cable("W1", "pair-4x2x0.14", 2.0)
    build.join("B1:LEADS", host, pins, cable, cores)
    return build.machine


def single_on(bias: bool) -> Machine:
    """A single-ended encoder on a line receiver, its minus inputs with a divider or without."""
    build = small.bench("B1 larkmoor-e600", "K2 quoin-dr3")
    build.join("B1:LEADS", "K2:ENCODER", "+-5V A-A B-B −-0V")
    for number, (line, end) in enumerate((line, end) for line in "AB" for end in ("5V", "0V")):
        if bias:
            build.add(f"R{number + 1}", pull_up_part(1000))
            build.join(f"R{number + 1}:WIRE", "K2:ENCODER", f"1-{line}−")
            build.join(f"R{number + 1}:WIRE", "K2:ENCODER", f"2-{end}")
    return build.machine


def terminated(ohm: float | None) -> Machine:
    machine = pair_on("A-A A−-A− +-5V −-0V")
    for pin in ("3", "4"):
        machine = with_pin(machine, "quoin-dr3", "ENCODER", pin, termination_ohm=ohm)
    return machine


def two_fed(second: str) -> Machine:
    """A sensor fed by one supply, into an input on another, that bears 0.3 V while off."""
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Sensor", None)
    build.device("G2", "fell-ps24", "Other", None)
    build.join("G2:OUT", "G1:OUT", "2-2")
    build.join("B1:LEADS", "K1:IN 5", "OUT-2 −-3")
    build.join("B1:LEADS", f"{second}:OUT", "+-1")
    return with_pin(build.machine, "tarn-mc5", "IN 5", "2", off_max_v=0.3)


def isolated_input(isolated: bool) -> Machine:
    return with_pin(small.sensor_in("IN 5"), "tarn-mc5", "IN 5", "2", isolated=isolated)


def in_one_cable(with_signal: bool) -> Machine:
    """A motor's phases in a cable, and a switch in it or not."""
    build = small.bench("M1 fell-s57", "T1 fell-d72", "B1 osier-sl1", "K1 tarn-mc5")
    build.cable("W1", "pair-4x2x0.14", 2.0)
    build.join("M1:LEADS", "T1:MOTOR", FOUR, "W1", "1 2 3 4")
    cable = "W1" if with_signal else ""
    build.join("B1:LEADS", "K1:IN 1", "COM-0V NC-IN", cable, "5 6" if with_signal else "")
    return build.machine


def mains_in(cable: str) -> Machine:
    """Mains and a supply's output in one cable, or in two."""
    build = small.bench("X1 quoin-mt4", "G1 fell-ps24", "M1 quoin-bf24")
    build.cable("W1", "motor-4x1", 1.0)
    build.cable("W2", "flex-2x0.5", 1.0)
    build.join("X1:1", "G1:MAINS", "L-L N-N", "W1", "1 2")
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", cable, "3 4" if cable == "W1" else "1 2")
    return build.machine


def side_by_side(length_m: float) -> Machine:
    """An unshielded sensor cable and a motor cable in one run of this length."""
    build = small.bench("M1 fell-s57", "T1 fell-d72", "K1 tarn-mc5", "B1 larkmoor-ip12")
    build.cable("W1", "flex-3x0.34", 3.0)
    build.cable("W2", "motor-4x1", 3.0)
    build.join("B1:LEADS", "K1:IN 5", "+-1 OUT-2 −-3", "W1")
    build.join("M1:LEADS", "T1:MOTOR", FOUR, "W2")
    run = Run(id="R1", a="a", b="b", length_m=length_m)
    cables = tuple(replace(cable, runs=("R1",)) for cable in build.machine.cables)
    return replace(build.machine, runs=(run,), cables=cables)


def motor_shield(*ends: str) -> Machine:
    build = small.bench("M1 fell-s57", "T1 fell-d72")
    build.cable("W1", "motor-4x1", 3.0)
    build.join("M1:LEADS", "T1:MOTOR", FOUR, "W1")
    refs = tuple(small.at(end) for end in ends)
    return small.with_cable(build.machine, "W1", shield_to=refs)


def metal(earthed: bool) -> Machine:
    """A supply in metal, with a shield to it, and with its earth or not."""
    build = small.bench("X1 quoin-mt4", "G1 fell-ps24", "M1 quoin-bf24")
    build.join("X1:1", "G1:MAINS", "L-L N-N PE-PE" if earthed else "L-L N-N")
    cable = Cable(id="W1", part="motor-4x1", length_m=1, shield_to=(small.at("G1:MAINS"),))
    build.cable("W9", "motor-4x1", 1.0)
    return replace(build.machine, cables=(*build.machine.cables, cable))


def earthed(joints: int) -> Machine:
    build = small.bench("X1 quoin-mt4", "G1 fell-ps24", "M1 quoin-bf24")
    build.join("X1:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("G1:OUT", "M1:LEADS", "1-+ 2-−")
    for number in range(joints):
        build.join("G1:OUT", f"X1:{number + 1}", "2-PE")
    return build.machine


def heater(cut_out: bool) -> Machine:
    build = small.bench("K1 tarn-pb5", "E1 osier-hb300", "B1 quoin-tc120", "G1 fell-ps12")
    build.join("G1:OUT", "K1:MOTORS", "1-1 2-2")
    if cut_out:
        build.join("K1:BED", "B1:LEADS", "1-1")
        build.join("B1:LEADS", "E1:LEADS", "2-1")
        build.join("E1:LEADS", "K1:BED", "2-2")
    else:
        build.join("E1:LEADS", "K1:BED", "1-1 2-2")
    return build.machine


def thermistor(pins: str) -> Machine:
    build = small.bench("K1 tarn-pb5", "B1 quoin-th100")
    build.join("B1:LEADS", "K1:TH 1", pins)
    return build.machine


def ended(terminators: int) -> Machine:
    """Drives along a bus whose head has so many terminators of 120 ohm on it."""
    ends = (Resistor(pins=(("CAN", "1"), ("CAN", "2")), resistance_ohm=120),) * terminators
    return small.with_part(
        MACHINES["walker"](), "my-robot-board", lambda p: replace(p, inside=(*p.inside, *ends))
    )


CASES: dict[str, tuple[Made, Made]] = {
    "leads.signal-open": (lambda: heard("+-1 −-3"), lambda: heard("+-1 OUT-2 −-3")),
    "ports.crowded-contact": (lambda: crowded(3), lambda: crowded(2)),
    "ports.mating": (lambda: servo_plug("crimp-2.5-3"), lambda: servo_plug("pin-2.54-3")),
    "ports.module-reversed": (lambda: module(TURNED), lambda: module(STRAIGHT)),
    "ports.reversible": (lambda: module(STRAIGHT), keyed_module),
    "ports.exchangeable": (lambda: look_alikes("DRIVE 1"), lambda: look_alikes("RADIO 1")),
    "ports.mirrored-twin": (lambda: chained(True), lambda: chained(False)),
    "ports.opposite-numbering": (lambda: two_edges(True), lambda: two_edges(False)),
    "ports.shared-pin": (lambda: sharing("LIMIT Z"), lambda: sharing("LIMIT Y")),
    "ports.ability": (lambda: fan_in("COOLANT"), lambda: fan_in("FAN")),
    "ports.reserved": (lambda: follower("as X", "two"), lambda: follower("as X", "one")),
    "machine.homing-on": (lambda: homing("on"), lambda: homing("as wired")),
    "machine.twins-direction": (lambda: facing(FOUR), lambda: facing("BK-2 GN-1 RD-3 BU-4")),
    "ports.alternate": (lambda: swapped_in(3.0), lambda: swapped_in(2.0)),
    "ports.alternate-lacks": (lambda: lacking(2.13), lambda: lacking(2.12)),
    "ports.alarm-unused": (isolated_driver, lambda: isolated_driver(alarm=True)),
    "signals.pull-up": (gate, lambda: gate(1000)),
    "signals.pull-down": (lambda: given_high(False), lambda: given_high(True)),
    "signals.opto-current": (lambda: isolated_driver(high_max_v=6.3), isolated_driver),
    "signals.bus-ends": (lambda: ended(3), lambda: ended(2)),
    "signals.wetting": (lambda: silver(1001), lambda: silver(999)),
    "signals.contact-rating": (lambda: relayed(5.01), lambda: relayed(5.0)),
    "signals.flyback": (lambda: coil_on("COOLANT"), lambda: coil_on("FAN")),
    "signals.bare-pin": (lambda: lamp_on("AXIS 1"), lambda: lamp_on("OUT 1")),
    "signals.inrush": (lambda: starting(1.51), lambda: starting(1.5)),
    "signals.at-start": (lambda: coil_on("COOLANT", flyback=True), lambda: coil_on("FAN")),
    "signals.enable-polarity": (lambda: enabled("high"), lambda: enabled("low")),
    "machine.direction-time": (
        lambda: stepping(direction_setup_s=5.1e-6),
        lambda: stepping(direction_setup_s=5e-6),
    ),
    "machine.step-edge": (
        lambda: stepping(step_edge="falling"),
        lambda: stepping(step_edge="rising"),
    ),
    "machine.edge-spacing": (lambda: counted(417), lambda: counted(416)),
    "machine.index-unread": (lambda: indexed(False), lambda: indexed(True)),
    "signals.complement": (
        lambda: pair_on("A-A A−-0V +-5V −-0V", host="K1:COUNT 1"),
        lambda: pair_on("A-A +-5V −-0V", host="K1:COUNT 1"),
    ),
    "signals.single-into-differential": (lambda: single_on(False), lambda: single_on(True)),
    "signals.termination": (lambda: terminated(None), lambda: terminated(120)),
    "signals.back-feed": (lambda: two_fed("G2"), lambda: two_fed("G1")),
    "signals.isolation-bridged": (lambda: isolated_input(True), lambda: isolated_input(False)),
    "harness.mains-beside": (lambda: mains_in("W1"), lambda: mains_in("W2")),
    "harness.motor-beside": (lambda: in_one_cable(True), lambda: in_one_cable(False)),
    "harness.pair-split": (
        lambda: pair_on("A-A A−-A− +-5V −-0V", "1 3 5 6"),
        lambda: pair_on("A-A A−-A− +-5V −-0V", "1 2 5 6"),
    ),
    "harness.beside-motor": (lambda: side_by_side(1.1), lambda: side_by_side(1.0)),
    "harness.motor-shield": (
        lambda: motor_shield("T1:MOTOR"),
        lambda: motor_shield("T1:MOTOR", "M1:LEADS"),
    ),
    "harness.shield-as-earth": (lambda: metal(False), lambda: metal(True)),
    "supply.earth-joint": (lambda: earthed(0), lambda: earthed(1)),
    "signals.heater-cutout": (lambda: heater(False), lambda: heater(True)),
    "signals.thermistor": (lambda: thermistor("1-1"), lambda: thermistor("1-1 2-2")),
}
