"""Small machines for the rules that grow from general truths: needs, partners, volts and amps.

`CASES` are one faulty and one sound machine for each rule; `FAULTY` and `SOUND` are further ones,
each with the rule that must speak, or with none that may above Workmanship.
"""

from collections.abc import Callable

from msgspec.structs import replace

from mistake_machines import own_parts
from tests import small
from tests.rules.signal_cases import STRAIGHT, with_pin
from vervain.model.axis import Axis
from vervain.model.elements import Fuse, Winding
from vervain.model.machine import Machine
from vervain.model.part import Part
from vervain.ports.adapters import pull_up_part

Made = Callable[[], Machine]


def stepped(pins: str = "1-1 2-2 3-3 4-4") -> Machine:
    """A driver on a controller, both fed, without a motor."""
    build = small.powered_controller()
    build.device("T1", "fell-d72", "Driver", None)
    build.join("K1:AXIS 1", "T1:SIGNAL", pins)
    build.join("G1:OUT", "T1:POWER", "1-1 2-2")
    return build.machine


def fused(pins: str = "OUT-+") -> Machine:
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "M1:LEADS", pins)
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return build.machine


def in_line_fan(*pins: str) -> Machine:
    """A fan on a supply, by pairs of ports and pins."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24")
    for pair in pins:
        a, b, rows = pair.split("|")
        build.join(a, b, rows)
    return build.machine


def module(pins: str) -> Machine:
    build = small.bench("K1 osier-mb4", "T1 tarn-pd25", "G1 fell-ps24")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("T1:FOOT", "K1:SLOT X", pins)
    return build.machine


def contact_at(port: str, pins: str) -> Machine:
    build = small.powered_controller()
    build.device("B1", "osier-rl2", "Limit", None)
    build.join("B1:LEADS", f"K1:{port}", pins)
    return build.machine


def plain_input(pull_up: bool) -> Machine:
    """A switch between an input that reads either way and 0 V, with or without a resistor."""
    build = small.bench("K1 quoin-rc8", "G1 fell-ps6", "B1 osier-ms2")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("B1:LEADS", "K1:DIGITAL 1", "COM-0V NC-S")
    if pull_up:
        build.add("R1", pull_up_part(4700.0))
        build.join("R1:WIRE", "K1:DIGITAL 1", "1-3V3 2-S")
    return with_pin(build.machine, "quoin-rc8", "DIGITAL 1", "2", pull_up_ohm=None, reads="either")


def pulled_to(supply_pin: str, resistance_ohm: float = 1000.0) -> Machine:
    """An open collector with a resistor to 24 V or to the input's own supply."""
    build = small.bench("K1 quoin-rc8", "G1 fell-ps6", "G2 fell-ps24", "B1 larkmoor-in12")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("G2:OUT", "G1:OUT", "2-2")
    build.join("G2:OUT", "B1:LEADS", "1-+ 2-−")
    build.join("B1:LEADS", "K1:DIGITAL 1", "OUT-S")
    build.add("R1", pull_up_part(resistance_ohm))
    port, pin = supply_pin.split("|")
    build.join("R1:WIRE", port, f"1-{pin}")
    build.join("R1:WIRE", "K1:DIGITAL 1", "2-S")
    return build.machine


def diode_across(anode: str, cathode: str) -> Machine:
    """A valve on a transistor, with a diode across it."""
    build = small.powered_controller()
    build.device("M1", "larkmoor-av24", "Valve", None)
    build.device("V1", "quoin-fd3", "Diode", None)
    build.join("M1:LEADS", "K1:OUT 1", "1-24V 2-OUT")
    build.join("V1:WIRE", "K1:OUT 1", f"1-{anode} 2-{cathode}")
    return build.machine


def coil_by_a_strip(part: str) -> Machine:
    """A coil on a transistor without a diode of its own, over a strip."""
    port = "COIL" if part == "fell-c20" else "LEADS"
    build = small.bench("K1 osier-mb4", "G1 fell-ps24", "X1 quoin-ts8", f"M1 {part}")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("K1:COOLANT", "X1:1", "V-+ OUT-0V")
    build.join("X1:2", f"M1:{port}", "+-A1 0V-A2" if port == "COIL" else "1-1 2-2")
    return build.machine


def on_strip(*devices: str) -> Machine:
    """Loads whose minus goes to an output over a strip."""
    build = small.powered_controller()
    build.device("X1", "quoin-ts8", "Strip", None)
    build.join("K1:OUT 1", "X1:1", "24V-+ OUT-0V")
    for number, part in enumerate(devices, 1):
        build.device(f"P{number}", part, f"Load {number}", None)
        build.join(f"X1:{number + 1}", f"P{number}:LEADS", "1-1 2-2")
    return build.machine


def stacked_supplies(part: str, port: str) -> Machine:
    """A consumer on two supplies in series, 48 V together."""
    build = small.bench("G1 fell-ps24", "G2 fell-ps24", f"T1 {part}")
    build.join("G1:OUT", "G2:OUT", "1-2")
    build.join("G2:OUT", f"T1:{port}", "1-1")
    build.join("G1:OUT", f"T1:{port}", "2-2")
    return build.machine


def of_kind(kind: str, rating_a: float, **values) -> Machine:
    """A fan behind a fuse of a kind."""
    machine = small.fused_fan(rating_a)

    def change(part: Part) -> Part:
        link = next(e for e in part.inside if isinstance(e, Fuse))
        return replace(part, inside=(replace(link, kind=kind, **values),))

    return small.with_part(machine, "quoin-fh1", change)


def earthed(mains_mm2: str, earth: str) -> Machine:
    build = small.bench("X4 quoin-mt4", "G1 fell-ps24")
    build.cable("W1", mains_mm2, 1.0)
    build.cable("W2", earth, 1.0)
    build.join("X4:1", "G1:MAINS", "L-L N-N", "W1")
    build.join("X4:1", "G1:MAINS", "PE-PE", "W2")
    return build.machine


def supplied(*mains: str) -> Machine:
    build = small.bench("X4 quoin-mt4", "G1 fell-ps24", "M1 quoin-bf24")
    build.join("X4:1", "G1:MAINS", " ".join(mains))
    build.join("G1:OUT", "M1:LEADS", "1-1 2-2")
    return build.machine


def common_at_plus(pins: str) -> Machine:
    """A driver with its common at plus, on outputs that sink."""
    build = small.bench("G1 fell-ps24")
    build.add("K1", own_parts()["sinking-board"])
    build.add("T1", own_parts()["plus-common-driver"])
    build.cable("W1", "flat-4x0.25", 0.5)
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("G1:OUT", "T1:FEED", "1-1 2-2")
    build.join("K1:AXIS 1", "T1:PULSES", pins, "W1")
    return build.machine


def shorting_switch(pins: str) -> Machine:
    build = small.powered_controller()
    build.device("B1", "osier-ms2", "Switch", None)
    build.join("B1:LEADS", "K1:IN 5", pins)
    return build.machine


def bridged_motor(current_a: float, resistance_ohm: float | None = None) -> Machine:
    """A brushed motor on a bridge at a battery."""
    build = small.bench("G1 osier-lb24", "T1 fell-hb2", "M1 quoin-gm12")
    build.join("G1:OUT", "T1:FEED", "1-1 2-2")
    build.join("M1:LEADS", "T1:OUT 1", "1-1 2-2")
    machine = with_pin(build.machine, "quoin-gm12", "LEADS", "1", current_a=current_a)
    machine = small.with_setting(machine, "T1", "duty_max", 50.0)
    if resistance_ohm is None:
        return machine
    ends = (("LEADS", "1"), ("LEADS", "2"))
    winding = Winding(pins=ends, resistance_ohm=resistance_ohm)
    return small.with_part(machine, "quoin-gm12", lambda part: replace(part, inside=(winding,)))


def motor_on_a_board(supply: str, current_a: float) -> Machine:
    """A brushed motor on a bridge of a controller, which has a feed of its own for its bridges."""
    build = small.bench(f"G2 {supply}", "K1 quoin-rc8", "M1 quoin-gm12")
    build.join("G2:OUT", "K1:MOTOR PWR", "1-1 2-2")
    build.join("M1:LEADS", "K1:MOTOR 1", "1-1 2-2")
    return with_pin(build.machine, "quoin-gm12", "LEADS", "1", current_a=current_a)


def two_motors(joined: str, peak_a: float) -> Machine:
    """Two motors of 2.8 A RMS on one driver."""
    build = small.bench("T1 fell-d72", "M1 fell-s57", "M2 fell-s57")
    if joined == "in series":
        build.join("M1:LEADS", "T1:MOTOR", "BK-1 RD-3")
        build.join("M1:LEADS", "M2:LEADS", "GN-BK BU-RD")
        build.join("M2:LEADS", "T1:MOTOR", "GN-2 BU-4")
    else:
        for name in ("M1", "M2"):
            build.join(f"{name}:LEADS", "T1:MOTOR", "BK-1 GN-2 RD-3 BU-4")
    machine = small.with_setting(build.machine, "T1", "current_peak_a", peak_a)
    return small.with_axis(machine, drives=("M1", "M2"), home="M1", min_limit="M1", max_limit="M1")


def behind_a_switch(rating_a: float) -> Machine:
    """A fan behind a hand switch that rests open, on a supply of a rating."""
    build = small.bench("G1 fell-ps24", "M1 quoin-bf24")
    build.add("S1", own_parts()["toggle"])
    build.join("G1:OUT", "S1:WIRE", "1-1")
    build.join("S1:WIRE", "M1:LEADS", "2-1")
    build.join("M1:LEADS", "G1:OUT", "2-2")
    return with_pin(build.machine, "fell-ps24", "OUT", "1", current_a=rating_a)


def closed_loop(counter: str) -> Machine:
    """Two axes on a controller whose counters belong to its channels; X is counted at one."""
    build = small.bench("K1 larkmoor-pc12", "G1 fell-ps24", "B1 larkmoor-e600")
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    for number in (1, 2):
        build.device(f"T{number}", "fell-d72", f"Driver {number}", None)
        build.device(f"M{number}", "fell-s57", f"Motor {number}", None)
        build.join(f"M{number}:LEADS", f"T{number}:MOTOR", "BK-1 GN-2 RD-3 BU-4")
        build.join(f"K1:AXIS {number}", f"T{number}:SIGNAL", "1-1 2-2 3-3 4-4")
    build.join("B1:LEADS", f"K1:{counter}", "+-1 A-A B-B −-4")
    axes = (
        Axis(id="X", name="slide", drives=("M1",), feedback="B1"),
        Axis(id="Y", name="slide", drives=("M2",)),
    )
    return replace(build.machine, axes=axes)


def bare_pins() -> Machine:
    """A sensor on an input of which the part says nothing."""
    machine = small.sensor_in("IN 5")

    def change(part: Part) -> Part:
        port = part.port("IN 5")
        pins = tuple(replace(pin, electrical=None) for pin in port.pins)
        ports = tuple(replace(p, pins=pins) if p is port else p for p in part.ports)
        return replace(part, ports=ports)

    return small.with_part(machine, "tarn-mc5", change)


CASES: dict[str, tuple[Made, Made]] = {
    "ports.not-given": (bare_pins, lambda: small.sensor_in("IN 5")),
    "ports.need": (lambda: stepped("1-1 3-3 4-4"), stepped),
    "ports.foot": (
        lambda: module(STRAIGHT.replace("3-3", "3-4").replace("4-4", "4-3").replace("6-6 ", "")),
        lambda: module(STRAIGHT),
    ),
    "ports.partner": (lambda: stepped("1-2 2-1 3-3 4-4"), stepped),
    "ports.belonging": (lambda: closed_loop("COUNT 2"), lambda: closed_loop("COUNT 1")),
    "ports.half-joined": (lambda: half_fuse(), fused),
    "supply.short": (
        lambda: in_line_fan("M1:LEADS|G1:OUT|+-1 −-2", "M1:LEADS|G1:OUT|+-2"),
        small.fan,
    ),
    "supply.contact-shorts": (
        lambda: shorting_switch("COM-24V NC-0V"),
        lambda: shorting_switch("COM-24V NC-IN"),
    ),
    "supply.same-rail": (lambda: in_line_fan("M1:LEADS|G1:OUT|+-1 −-1"), small.fan),
    "supply.fuse-loop": (lambda: fan_far_away(40.0), lambda: fan_far_away(10.0)),
    "supply.fuse-voltage": (
        lambda: of_kind("blade", 2.0, v_max_v=12.0),
        lambda: of_kind("blade", 2.0),
    ),
    "supply.earth-size": (
        lambda: earthed("pair-bnbu-0.75", "wire-bn-0.5"),
        lambda: earthed("pair-bnbu-0.75", "pair-rdbk-2.5"),
    ),
    "supply.bridge-current": (
        lambda: bridged_motor(11.0),
        lambda: bridged_motor(9.0, resistance_ohm=1.4),
    ),
    "signals.unchanging": (
        lambda: _on_zero(),
        lambda: contact_at("IN 5", "COM-24V NC-IN"),
    ),
    "signals.floating": (lambda: plain_input(False), lambda: plain_input(True)),
    "signals.supply-on-input": (
        lambda: _twenty_four_on("PROBE"),
        lambda: _twenty_four_on("IN 5"),
    ),
    "signals.output-on-rail": (lambda: _on_step("1"), stepped),
    "signals.pull-up-volts": (
        lambda: pulled_to("G2:OUT|1"),
        lambda: pulled_to("K1:DIGITAL 1|3V3"),
    ),
    "signals.resistor-power": (
        lambda: pulled_to("G2:OUT|1", 470.0),
        lambda: pulled_to("G2:OUT|1", 4700.0),
    ),
    "signals.diode-reversed": (
        lambda: diode_across("24V", "OUT"),
        lambda: diode_across("OUT", "24V"),
    ),
}


def thin_return(cable: str) -> Machine:
    """A fan behind 10 A by a wire that bears them, with another wire back."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.cable("W1", "wire-bn-2.5", 1.0)
    build.join("F1:FUSE", "M1:LEADS", "OUT-+", "W1")
    build.cable("W2", cable, 1.0)
    build.join("M1:LEADS", "G1:OUT", "−-2", "W2")
    return small.with_setting(build.machine, "F1", "rating_a", 10.0)


def fan_far_away(length_m: float) -> Machine:
    """A fan behind 7.5 A, by 0.5 mm2 there and back."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.cable("W1", "wire-rd-0.5", length_m)
    build.join("F1:FUSE", "M1:LEADS", "OUT-+", "W1")
    build.cable("W2", "wire-bu-0.5", length_m)
    build.join("M1:LEADS", "G1:OUT", "−-2", "W2")
    return small.with_setting(build.machine, "F1", "rating_a", 7.5)


def fed_by_a_diode(first: str, second: str) -> Machine:
    """A fan whose plus comes through a diode, against reversed polarity."""
    build = small.bench("G1 fell-ps24", "M1 quoin-bf24", "V1 quoin-fd3")
    pins = {"A": "1", "K": "2"}
    build.join("G1:OUT", "V1:WIRE", f"1-{pins[first]}")
    build.join("V1:WIRE", "M1:LEADS", f"{pins[second]}-+")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return build.machine


def half_fuse() -> Machine:
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("F1:FUSE", "M1:LEADS", "OUT-+")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return build.machine


def _on_zero() -> Machine:
    build = small.Builder(contact_at("IN 5", "COM-24V NC-IN"))
    build.join("K1:IN 5", "G1:OUT", "IN-2")
    return build.machine


def _twenty_four_on(port: str) -> Machine:
    build = small.powered_controller()
    build.device("B1", "osier-ms2", "Switch", None)
    build.join("G1:OUT", "B1:LEADS", "1-COM")
    build.join("B1:LEADS", f"K1:{port}", "NC-IN")
    return build.machine


def _on_step(pin: str) -> Machine:
    build = small.Builder(stepped())
    build.join("G1:OUT", "K1:AXIS 1", f"{pin}-STP")
    return build.machine


# Faulty machines, each with a rule of which one finding at least must speak.
FAULTY: dict[str, tuple[Made, str]] = {
    "step on direction": (lambda: stepped("1-2 2-1 3-3 4-4"), "ports.partner"),
    "step on 0 V": (lambda: stepped("1-4 2-2 3-3 4-1"), "ports.need"),
    "enable off": (lambda: stepped("1-1 2-2 4-4"), "ports.need"),
    "0 V of the pulses off": (lambda: stepped("1-1 2-2 3-3"), "ports.need"),
    "line and neutral exchanged": (lambda: supplied("L-N", "N-L", "PE-PE"), "ports.need"),
    "line on the supply's earth": (lambda: supplied("L-PE", "N-N", "PE-L"), "supply.earth"),
    "neutral off": (lambda: supplied("L-L", "PE-PE"), "ports.need"),
    "earth off": (lambda: supplied("L-L", "N-N"), "ports.need"),
    "minus of a fan off": (lambda: in_line_fan("M1:LEADS|G1:OUT|+-1"), "ports.need"),
    "48 V of two supplies on 36 V": (
        lambda: stacked_supplies("fell-d36", "FEED"),
        "supply.voltage",
    ),
    "three lamps by a strip on half an ampere": (
        lambda: on_strip("quoin-bl24", "quoin-bl24", "quoin-bl24"),
        "signals.output-current",
    ),
    "a valve by a strip without a diode": (
        lambda: coil_by_a_strip("larkmoor-wv24"),
        "signals.flyback",
    ),
    "a contactor on a transistor": (
        lambda: coil_by_a_strip("fell-c20"),
        "signals.flyback",
    ),
    "a pump on a transistor": (lambda: coil_by_a_strip("quoin-gp24"), "signals.flyback"),
    "common of the inputs open": (lambda: common_at_plus("P-PUL D-DIR E-ENA"), "ports.need"),
    "common of the inputs on an output": (
        lambda: common_at_plus("5V-ENA P-PUL D-DIR E-COM"),
        "ports.need",
    ),
    "a motor that takes too much when it stands": (
        lambda: bridged_motor(5.0, resistance_ohm=0.3),
        "supply.bridge-current",
    ),
    "a motor on the bridge of a board that gives less": (
        lambda: motor_on_a_board("fell-ps24", 2.5),
        "supply.bridge-current",
    ),
    "a board's bridge above its motor's voltage": (
        lambda: motor_on_a_board("fell-ps24", 1.0),
        "supply.bridge-duty",
    ),
    "a diode in a feed the wrong way round": (
        lambda: fed_by_a_diode("K", "A"),
        "supply.unfed",
    ),
    "too much behind a diode for its supply": (
        lambda: with_pin(fed_by_a_diode("A", "K"), "quoin-bf24", "LEADS", "1", current_a=9.0),
        "supply.budget",
    ),
    "a thin return behind a fuse": (
        lambda: thin_return("wire-rd-0.5"),
        "supply.fuse",
    ),
    "two motors in series with the current of two": (
        lambda: two_motors("in series", 7.0),
        "supply.driver-current",
    ),
    "two motors in parallel with the current of one": (
        lambda: two_motors("in parallel", 3.0),
        "supply.driver-current",
    ),
    "a load behind a hand switch on too small a supply": (
        lambda: behind_a_switch(0.5),
        "supply.budget",
    ),
    "gG fuse against its wire": (lambda: of_kind("gG", 7.2), "supply.fuse"),
    "sinking sensor on 24 V pull-up": (lambda: pulled_to("G2:OUT|1"), "signals.pull-up-volts"),
    "a stop plug that is one cavity off": (
        lambda: small.stop_chain("11-12", ("12", "12")),
        "ports.half-joined",
    ),
}

# Sound machines: nothing above Workmanship may be said, but what the rules named do.
SOUND: dict[str, Made] = {
    "one step output for twin drivers": lambda: _twins(),
    "a diode in a feed": lambda: fed_by_a_diode("A", "K"),
    "a thick return behind a fuse": lambda: thin_return("wire-rd-2.5"),
    "two lamps on one output": lambda: _two_lamps(),
    "flyback diode at the board's terminals": lambda: diode_across("OUT", "24V"),
    "two supplies in series for 48 V": lambda: stacked_supplies("fell-d72", "POWER"),
    "two motors in series": lambda: two_motors("in series", 3.9),
    "two motors in parallel": lambda: two_motors("in parallel", 7.0),
    "a load behind a hand switch": lambda: behind_a_switch(5.0),
    "a converter that nothing hangs on": lambda: _idle_converter(),
    "a selector on three inputs": lambda: _selector(),
    "a sensor that switches a lamp": lambda: _sensor_with_a_lamp(),
    "commons at plus": lambda: common_at_plus("5V-COM P-PUL D-DIR E-ENA"),
    "an IEC fuse that is used up to its rating": lambda: _iec_fuse(),
    "a switch in mains": lambda: supplied("L-L", "N-N", "PE-PE"),
}


def _sensor_with_a_lamp() -> Machine:
    """A sensor that is fed by the supply itself, and switches a lamp."""
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Sensor", None)
    build.device("P1", "quoin-bl24", "Lamp", None)
    build.join("G1:OUT", "B1:LEADS", "1-+ 2-−")
    build.join("B1:LEADS", "P1:LEADS", "OUT-1")
    build.join("P1:LEADS", "G1:OUT", "2-2")
    return build.machine


def _twins() -> Machine:
    build = small.Builder(stepped())
    build.device("T2", "fell-d72", "Twin", None)
    build.join("K1:AXIS 1", "T2:SIGNAL", "1-1 2-2 3-3 4-4")
    build.join("G1:OUT", "T2:POWER", "1-1 2-2")
    return build.machine


def _two_lamps() -> Machine:
    machine = on_strip("quoin-bl24", "quoin-bl24")
    return with_pin(machine, "quoin-bl24", "LEADS", "1", current_a=0.2, inrush_a=None)


def _idle_converter() -> Machine:
    build = small.bench("G1 fell-ps24", "G2 fell-dc12")
    build.join("G1:OUT", "G2:IN", "1-1 2-2")
    return build.machine


def _selector() -> Machine:
    build = small.powered_controller()
    build.add("S1", own_parts()["axis-selector"])
    build.join("S1:TERMINALS", "K1:IN 5", "C-24V X-IN")
    build.join("S1:TERMINALS", "K1:IN 6", "Y-IN")
    build.join("S1:TERMINALS", "K1:IN 7", "Z-IN")
    return build.machine


def _iec_fuse() -> Machine:
    machine = of_kind("IEC 60127", 1.0)
    return with_pin(machine, "quoin-bf24", "LEADS", "1", current_a=0.9)
