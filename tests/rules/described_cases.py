"""Cases of rules on machines of described parts: a faulty one, and one that is right."""

from collections.abc import Callable

from msgspec.structs import replace

from builder import Builder, bench
from described_machines import station_parts, wired_lathe, wired_station
from novice_machines import wired_cutter, wired_plant
from source_machines import unrated_engraver, wired_engraver
from street_machines import wired_walker
from tests.catalogue.test_device_ports import made
from tests.rules.measuring_cases import loose
from tests.supply.test_feeding_safety_relay import at
from vervain.edits.plug_edits import (
    exchange_two,
    put_conductor,
    shift_plug,
    take_conductor_off,
    turn_plug,
)
from vervain.model.machine import Machine, PortRef, ends_of

Made = Callable[[], Machine]


def _without(device: str, port: str, pin: str, machine: Machine | None = None) -> Machine:
    """The lathe, or another machine, without the conductor at a pin of a plug."""
    machine = machine or wired_lathe()
    return next(
        take_conductor_off(machine, hookup.id, number)
        for hookup in machine.hookups
        for number, row in enumerate(hookup.conductors)
        if (hookup.a.device, hookup.a.port, row.a) == (device, port, pin)
    )


def _lamps(common: str) -> Machine:
    """A lamp with two colours at two contacts of a controller's relays, by a common of a name."""
    build = bench("G1 fell-ps24")
    outputs = "\n".join(f"OUT\t{name}" for name in ("1L", "0.0", "0.1"))
    feed = "port\tpin\nPOWER\tL+\nPOWER\tM\n"
    plc = made(
        kind="controller", pins_text=feed + outputs,
        numbers={"v_min_v": 20.0, "v_max_v": 28.0, "current_a": 0.1},
    )  # fmt: skip
    lamp = made(
        kind="lamp", pins_text=f"{common}\nRED\nGREEN",
        numbers={"nominal_v": 24.0, "current_a": 0.05},
    )  # fmt: skip
    build.add("K1", replace(plc, id="my-plc"))
    build.add("P1", replace(lamp, id="my-lamp"))
    build.join("G1:OUT", "K1:POWER", "1-1 2-2")
    build.join("G1:OUT", "K1:OUT 0.0", "1-1")
    plus = "1" if common == "COM" else "2"
    build.join("P1:RED", "K1:OUT 0.0", f"{plus}-2")
    build.join("P1:GREEN", "K1:OUT 0.1", f"{'1' if common == 'COM' else '3'}-2")
    build.join("P1:RED", "G1:OUT", f"{'2' if common == 'COM' else '1'}-2")
    return build.machine


def _rail_at_both() -> Machine:
    """Two relays of a controller with the supply at the ends that close, a load at each common."""
    build = Builder(Machine(name="Relays"))
    for name, part in (("K1", "controller"), ("G1", "supply"), ("P1", "pump"), ("P2", "pump")):
        build.add(name, station_parts()[f"my-station-{part}"])
    for load, output in (("P1", "0.2"), ("P2", "0.3")):
        build.join("G1:OUT", f"K1:OUTPUTS {output}", "2-2")
        build.join(f"{load}:LEADS", f"K1:OUTPUTS {output}", "1-1")
        build.join(f"{load}:LEADS", "G1:OUT", "2-1")
    return build.machine


def _weighed(minus_at: str = "") -> Machine:
    """A load cell at its amplifier, which a supply of 5 V feeds; its A- may lead to a pin too."""
    build = Builder(Machine(name="Scale"))
    five_v = {"v_min_v": 2.7, "v_max_v": 5.5, "current_a": 0.01}
    for name, part in {
        "G1": made(kind="supply", pins_text="IN+ IN-\nOUT+ OUT-",
                   numbers={"nominal_v": 5, "current_a": 1, "v_min_v": 7, "v_max_v": 30}),
        "A1": made(kind="signal converter", pins_text="VCC DT SCK GND\nE+ E- A- A+",
                   numbers=five_v),
        "N1": made(kind="sensor", pins_text="E+\nE-\nA+\nA-"),
    }.items():  # fmt: skip
        build.add(name, replace(part, id=f"my-{name}"))
    build.join("G1:OUT", "A1:PLUG 1", "1-1 2-4")
    build.join("N1:LEADS", "A1:PLUG 2", "1-1 2-2 3-4 4-3")
    if not minus_at:
        return build.machine
    return put_conductor(build.machine, at("N1:LEADS:4"), at(minus_at))


CASES: dict[str, tuple[Made, Made]] = {
    "signals.bus-on-rail": (
        lambda: put_conductor(wired_walker(), at("M1:IN:3"), at("F2:FUSE:1")), wired_walker,
    ),
    "signals.bridge-on-rail": (lambda: _weighed("G1:OUT:2"), _weighed),
    "signals.outputs-meet": (lambda: _lamps("COM"), _rail_at_both),
    "signals.output-held": (
        lambda: turn_plug(wired_lathe(), PortRef(device="K1", port="OUT1")), wired_lathe,
    ),
}  # fmt: skip


def _bypassed() -> Machine:
    """The pump station with the plus of its valves at a valve too: no contact works it."""
    build = Builder(wired_station())
    build.join("Y1:LEADS", "K1:OUTPUTS 0.0", "1-1")
    return build.machine


def _common_off() -> Machine:
    """The pump station without the plus of the common of its valves' contacts."""
    machine = wired_station()
    return next(
        take_conductor_off(machine, hookup.id, number)
        for hookup in machine.hookups
        for number, row in enumerate(hookup.conductors)
        if {(ref.device, ref.port) for ref in ends_of(hookup, row)}
        == {("Q1", "1/L1-2/T1"), ("K1", "OUTPUTS 0.0")}
    )


def _direction_at_an_input() -> Machine:
    """The direction of a drive at an input of its controller, which gives nothing."""
    off = replace(loose("transporter", "K1:OC 2", "T1:START", "1")(), accepted=())
    (pin,) = (
        at(f"T1:START:{pin.id}")
        for part in off.parts for port in part.ports if port.id == "START"
        for pin in port.pins if pin.function == "direction" and part.id == _part_of(off, "T1")
    )  # fmt: skip
    return put_conductor(off, pin, at("K1:DI 4:2"))


def _part_of(machine: Machine, designator: str) -> str:
    return next(d.part for d in machine.devices if d.designator == designator)


FAULTY: dict[str, tuple[Made, str]] = {
    "a load that is fed past its contact": (_bypassed, "signals.contact-idle"),
    "nothing at the common of several contacts": (_common_off, "ports.half-joined"),
    "a motor behind a drive on mains without earth": (
        lambda: _without("M1", "PWR", "4"), "supply.earth",
    ),
    "a drive's direction at an input": (_direction_at_an_input, "ports.need"),
    "a start on 0 V": (
        lambda: turn_plug(wired_lathe(), PortRef(device="T3", port="START")), "signals.output-held",
    ),
    "line and neutral exchanged before terminals": (
        lambda: exchange_two(wired_engraver(), PortRef(device="X1", port="OUT"), "1", "2"),
        "ports.partner",
    ),
    "a pole lost before terminals": (
        lambda: shift_plug(wired_engraver(), PortRef(device="X1", port="OUT"), -1), "ports.need",
    ),
    "earth lost before terminals": (
        lambda: _without("X1", "OUT", "3", wired_engraver()), "ports.need",
    ),
    "a pump that turns the wrong way": (
        lambda: exchange_two(wired_plant(), PortRef(device="X2", port="3"), "1", "2"),
        "supply.polarity",
    ),
    "the way back of what switches a module off": (
        lambda: _without("K2", "IN", "2", wired_cutter()), "ports.need",
    ),
    "split coils of a motor without figures": (
        lambda: exchange_two(unrated_engraver(), PortRef(device="T1", port="MOTOR"), "1", "3"),
        "leads.split-coil",
    ),
    "a board without figures turned": (
        lambda: turn_plug(unrated_engraver(), PortRef(device="K1", port="POWER")),
        "supply.polarity",
    ),
}  # fmt: skip
