"""Machines that measure and regulate, on which the rules fire, and on which they are silent."""

from collections.abc import Callable

from msgspec.structs import replace

from builder import Builder, at, bench
from mistake_machines import MACHINES
from process_machines import process_parts
from tests import small
from tests.rules.signal_cases import with_pin
from vervain.edits.plug_edits import exchange_two, take_conductor_off
from vervain.model.elements import Contact
from vervain.model.machine import Machine

Made = Callable[[], Machine]


def own(*devices: str) -> Builder:
    """A machine of shipped parts and of those that are described."""
    build = bench()
    for text in devices:
        designator, part = text.split()
        if part in process_parts():
            build.add(designator, process_parts()[part])
        else:
            build.device(designator, part, "Device", None)
    return build


def loop(**limits) -> Machine:
    """A pressure transmitter with two wires in the input for 4 to 20 mA of a fed controller."""
    build = own("G1 fell-ps24", "K1 my-press-controller", "B1 my-transmitter")
    build.join("G1:OUT", "K1:POWER", "1-L+ 2-M")
    build.join("G1:OUT", "B1:LEADS", "1-1")
    build.join("B1:LEADS", "K1:AI 0", "2-AI0")
    return with_pin(build.machine, "my-press-controller", "AI 0", "1", **limits)


def solid_state(direct: bool) -> Machine:
    """A solid-state relay in 24 V, or in the line of a heater."""
    build = own("G1 fell-ps24", "K2 my-ssr", "X4 quoin-mt4", "E1 my-element", "P1 quoin-bl24")
    if direct:
        build.join("G1:OUT", "K2:1-2", "1-1")
        build.join("K2:1-2", "P1:LEADS", "2-+")
        build.join("P1:LEADS", "G1:OUT", "−-2")
    else:
        build.join("X4:1", "K2:1-2", "L-1")
        build.join("K2:1-2", "E1:LEADS", "2-1")
        build.join("X4:1", "E1:LEADS", "N-2")
    return build.machine


def lights(common: bool) -> Machine:
    """Lights on an isolated supply of their own, with the 0 V of their data joined or not."""
    build = own("G1 fell-ps24", "G2 quoin-dc5", "K1 my-lathe-board", "P1 my-lights")
    build.join("G1:OUT", "K1:POWER", "1-+24V 2-GND")
    build.join("G1:OUT", "G2:IN", "1-1 2-2")
    build.join("G2:OUT", "P1:IN", "1-5V 2-GND")
    build.join("K1:LIGHTS", "P1:IN", "DATA-DIN GND-GND" if common else "DATA-DIN")
    return build.machine


def couple(pins: str) -> Machine:
    """A thermocouple on its amplifier, which a board feeds."""
    build = own("G1 fell-ps24", "K1 my-kiln-board", "K3 my-amplifier", "B1 my-couple")
    build.join("G1:OUT", "K1:POWER", "1-24V 2-GND")
    build.join("K3:LEADS", "K1:SPI", "VCC-5V GND-GND SCK-SCK CS-CS SO-MISO")
    build.join("B1:LEADS", "K3:INPUT", pins)
    return build.machine


def valve(poles: bool) -> Machine:
    """A valve on an output that gives plus, through a contact or not at all."""
    build = own("G1 fell-ps24", "K1 my-press-controller", "M1 larkmoor-av24", "S3 quoin-pb1")
    build.join("G1:OUT", "K1:POWER", "1-L+ 2-M")
    build.join("K1:DO 0", "M1:LEADS", "M-−")
    build.join("S3:13-14", "M1:LEADS", "14-+")
    if poles:
        build.join("K1:DO 0", "S3:13-14", "Q0-13")
    return build.machine


def sourced(pins: str) -> Machine:
    """A valve at an output that gives plus."""
    build = own("G1 fell-ps24", "K1 my-press-controller", "M1 larkmoor-av24")
    build.join("G1:OUT", "K1:POWER", "1-L+ 2-M")
    build.join("K1:DO 0", "M1:LEADS", pins)
    return build.machine


def exchanged_select() -> Machine:
    """An amplifier whose plus and select have changed places at its board."""
    build = own("G1 fell-ps24", "K1 my-kiln-board", "K3 my-amplifier")
    build.join("G1:OUT", "K1:POWER", "1-24V 2-GND")
    build.join("K3:LEADS", "K1:SPI", "VCC-CS GND-GND SCK-SCK CS-5V SO-MISO")
    return build.machine


def weighed(volts: float) -> Machine:
    """A load cell's amplifier that has 5 V of its own, on a board whose bus has so many volts."""
    build = own("G1 fell-ps24", "G2 quoin-dc5", "K1 my-press-controller", "K2 my-weigher")
    build.join("G1:OUT", "K1:POWER", "1-L+ 2-M")
    build.join("G1:OUT", "G2:IN", "1-1 2-2")
    build.join("G2:OUT", "K2:OUT", "1-VCC 2-GND")
    build.join("K2:OUT", "K1:WEIGH", "GND-GND DT-DT SCK-SCK")
    return with_pin(build.machine, "my-press-controller", "WEIGH", "1", nominal_v=volts)


def contacts_of(carries_a: float) -> Machine:
    """Two contactors of 0.1 A behind the contacts of a safety relay."""
    return small.with_part(
        MACHINES["feeder"](), "my-safety-relay",
        lambda part: replace(part, inside=tuple(
            replace(element, current_max_a=carries_a) if isinstance(element, Contact) else element
            for element in part.inside
        )),
    )  # fmt: skip


def loose(name: str, a: str, b: str, pin: str) -> Made:
    """A sound machine with the conductor off that lies at a pin of the first of two ports."""

    def made() -> Machine:
        machine = MACHINES[name]()
        for hookup in machine.hookups:
            for row, conductor in enumerate(hookup.conductors):
                if (hookup.a, hookup.b, conductor.a) == (at(a), at(b), pin):
                    return take_conductor_off(machine, hookup.id, row)
        raise KeyError(pin)

    return made


def halls_exchanged() -> Machine:
    """A brushless motor with two of its Hall sensors exchanged at the drive."""
    return exchange_two(MACHINES["transporter"](), at("T1:HALL"), "2", "3")


CASES: dict[str, tuple[Made, Made]] = {
    "signals.bus-volts": (lambda: weighed(3.3), lambda: weighed(5)),
    # 24 V less 1 %, less the 10 V of the transmitter: 13.76 V are 20 mA through 688 ohm.
    "signals.current-loop": (lambda: loop(shunt_ohm=689), lambda: loop(shunt_ohm=687)),
    "signals.kind-of-current": (lambda: solid_state(True), lambda: solid_state(False)),
}
# What other rules say of such machines: the rule, one that it speaks of, one that it does not.
TOLD: dict[str, tuple[str, Made, Made]] = {
    "volts are read": ("signals.current-loop", lambda: loop(shunt_ohm=None), loop),
    "nothing fed by a loop lacks its way back": (
        "supply.no-return", lambda: with_pin(loop(), "my-transmitter", "LEADS", "2",
                                             drive="PNP"), loop,
    ),
    "data without a common": (
        "supply.no-common", lambda: lights(False), lambda: lights(True),
    ),
    "a thermocouple turned": (
        "ports.partner", lambda: couple("1-7 2-6"), lambda: couple("1-6 2-7"),
    ),
    "half a thermocouple": ("ports.need", lambda: couple("1-6"), lambda: couple("1-6 2-7")),
    "plus through a contact": ("supply.unfed", lambda: valve(False), lambda: valve(True)),
    "a load at the plus side of an output that gives plus": (
        "supply.unfed", lambda: sourced("L+-+ Q0-−"), lambda: sourced("Q0-+ M-−"),
    ),
    "a coil that the contact of a safety relay does not bear": (
        "signals.flyback", lambda: contacts_of(0.9), lambda: contacts_of(1.0),
    ),
    "two Hall sensors exchanged": (
        "ports.partner", halls_exchanged, MACHINES["transporter"],
    ),
    "a Hall sensor's wire off": (
        "ports.need", loose("transporter", "M1:HALL", "T1:HALL", "7"), MACHINES["transporter"],
    ),
    "a wheel that knows no direction": (
        "ports.need", loose("transporter", "K1:OC 2", "T1:START", "1"), MACHINES["transporter"],
    ),
    "the plus of what hears a bus": (
        "ports.need", loose("walker", "B1:LEADS", "K1:I2C", "1"), MACHINES["walker"],
    ),
    "the alarm of a drive joined at one end": (
        "ports.half-joined", loose("spindle", "T3:FAULT", "K1:DI 3", "3"), MACHINES["spindle"],
    ),
    "chip select that has plus": (
        "supply.unfed",
        exchanged_select, lambda: couple("1-6 2-7"),
    ),
}  # fmt: skip
