"""Machines on which rules about contacts and lettered ports fire, and on which they are silent."""

from collections.abc import Callable

from msgspec.structs import replace

from builder import at
from mistake_machines import MACHINES
from shared_machines import wired_coils, wired_sorter
from tests import small
from vervain.edits.plug_edits import exchange_two, put_conductor
from vervain.model.axis import Axis
from vervain.model.elements import Contact
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part, Pin

Made = Callable[[], Machine]


def feeder(*lines: str) -> Machine:
    """Two bridges with two lines of their control exchanged."""
    return exchange_two(MACHINES["feeder"](), at("T1:LOGIC"), *lines)


def leads_of_b1(pins: str) -> Machine:
    """A switch in IN 5 with its leads on these pins."""
    build = small.powered_controller()
    build.device("B1", "osier-rl2", "Switch", None)
    build.join("B1:LEADS", "K1:IN 5", pins)
    return build.machine


def common_through(pins: str) -> Machine:
    """Three switches with their commons joined; that of the first is in IN 5 by these pins."""
    build = small.powered_controller()
    for number in (1, 2, 3):
        build.device(f"B{number}", "osier-rl2", "Switch", None)
    build.join("B1:LEADS", "K1:IN 5", pins)
    for number, port in ((2, "IN 6"), (3, "IN 7")):
        build.join(f"B{number}:LEADS", "B1:LEADS", "COM-COM")
        build.join(f"B{number}:LEADS", f"K1:{port}", "NC-2")
    return build.machine


def selected(pins: str) -> Machine:
    """A selector of three positions: its common on the first pin of IN 5, each throw on an input;
    `pins` are its pins for the common and for the inputs 5, 6 and 7.
    """
    build = small.powered_controller()
    build.device("S2", "osier-rl2", "Selector", None)

    def as_selector(part: Part) -> Part:
        port = replace(part.ports[0], pins=tuple(
            Pin(id=name, function="com" if name == "C" else "no") for name in "CXYZ"
        ))  # fmt: skip
        inside = tuple(Contact(pins=((port.id, "C"), (port.id, e)), rest="NO") for e in "XYZ")
        return replace(part, ports=(port,), inside=inside)

    build.machine = small.with_part(build.machine, "osier-rl2", as_selector)
    common, *throws = pins
    build.join("S2:LEADS", "K1:IN 5", f"{common}-1")
    for number, throw in enumerate(throws, 5):
        build.join("S2:LEADS", f"K1:IN {number}", f"{throw}-2")
    return build.machine


def homes(of_x: str, of_y: str) -> Machine:
    """The home switches of X and of Y in ports of a board that are lettered."""
    build = small.bench("K1 osier-mb4", "B1 osier-rl2", "B2 osier-rl2")
    for device, port in (("B1", of_x), ("B2", of_y)):
        build.join(f"{device}:LEADS", f"K1:{port}", "COM-2 NC-1")
    axes = (Axis(id="X", name="x", home="B1"), Axis(id="Y", name="y", home="B2"))
    return replace(build.machine, axes=axes)


def switched(pins: str) -> Machine:
    """A fan behind a main switch; `pins` are those of the way to the switch."""
    build = small.bench("G1 fell-ps24", "Q1 quoin-ms2", "M1 quoin-bf24")
    build.join("G1:OUT", "Q1:1-2", pins)
    build.join("Q1:1-2", "M1:LEADS", "2-+")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return build.machine


def fused(pins: str) -> Machine:
    """A fan behind a fuse; `pins` are those of the fuse's feed, and of what goes on from it."""
    build = small.bench("M1 quoin-bf24", "G1 fell-ps24", "F1 quoin-fh1")
    build.join("G1:OUT", "F1:FUSE", pins)
    build.join("F1:FUSE", "M1:LEADS", "OUT-+")
    build.join("M1:LEADS", "G1:OUT", "−-2")
    return build.machine


def start_at_the_common_of_a_valve() -> Machine:
    """The sorting line with its inverter's second input at a contact beside that of the valve."""
    machine = wired_sorter()
    used = {
        ref.port for hookup in machine.hookups for ref in (hookup.a, hookup.b) if ref.device == "K1"
    }
    valve = next(h.b.port for h in machine.hookups if h.a.device == "Y1" and h.b.device == "K1")
    commons = (("Q0.0", "Q0.1", "Q0.2"), ("Q0.3", "Q0.4", "Q0.5"))
    beside = next(group for group in commons if valve in group)
    free = next(port for port in beside if port not in used)
    start = PinRef(device="T1", port="CONTROL", pin="2")
    return put_conductor(machine, start, PinRef(device="K1", port=free, pin="2"))


def coil_at_a_line() -> Machine:
    """The table of coils with the lower end of one at the line of a button."""
    return put_conductor(
        wired_coils(),
        PinRef(device="Y1", port="LEADS", pin="2"),
        PinRef(device="S1", port="LEADS", pin="1"),
    )


CASES: dict[str, tuple[Made, Made]] = {
    "signals.load-on-input": (coil_at_a_line, wired_coils),
    "ports.common-of-another": (start_at_the_common_of_a_valve, wired_sorter),
    "supply.switch-bridged": (lambda: switched("1-1 1-2"), lambda: switched("1-1")),
    "supply.fuse-bridged": (lambda: fused("1-IN 1-OUT"), lambda: fused("1-IN")),
    "signals.contact-idle": (
        lambda: leads_of_b1("COM-1 NC-1"),
        lambda: leads_of_b1("COM-1 NC-2"),
    ),
    "signals.contact-in-the-way": (
        lambda: common_through("NC-1"),
        lambda: common_through("COM-1 NC-2"),
    ),
    "signals.selector": (lambda: selected("XCYZ"), lambda: selected("CXYZ")),
    "ports.channel-mixed": (lambda: feeder("3", "5"), MACHINES["feeder"]),
    "ports.axes-exchanged": (
        lambda: homes("LIMIT Y", "LIMIT X"),
        lambda: homes("LIMIT X", "LIMIT Y"),
    ),
}
