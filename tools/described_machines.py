"""Six machines of parts that no shelf has, but for terminals: each described by what is printed at
it, and wired by the two proposals, places and feeds.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding, slide_axis
from described_parts import (
    lathe_drafts,
    placer_drafts,
    station_drafts,
    table_drafts,
)
from drive_machines import PULLED_UP, described, terminals
from vervain import api
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part


def _drafts() -> dict[str, Draft]:
    axes = {f"AXIS_{n}": "PUL DIR 5V GND" for n in range(3)}
    return {
        "driver": Draft(
            kind="stepper driver", title="Driver, isolated",
            pins_text=terminals(
                SIGNAL="PUL+ PUL- DIR+ DIR- ENA+ ENA-", POWER="GND VCC A+ A- B+ B-"
            ),
            numbers={"v_min_v": 9, "v_max_v": 42, "current_max_peak_a": 4.2},
            circuits={"SIGNAL/input": "Isolated input, 5 V: diode and 270 ohm"},
        ),
        "inverter": Draft(
            kind="frequency inverter", title="Spindle inverter",
            pins_text=terminals(
                MAINS="R S T PE", MOTOR="U V W PE", BRAKE="P+ PB", DIGITAL="S1 S2 S3 S4 DCM",
                ANALOG="10V AVI ACM", RELAY="RA RB RC",
            ),
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 10},
            circuits={"DIGITAL/input": PULLED_UP, "ANALOG/input": "Analogue input, 0 to 10 V"},
        ),
        "board": Draft(
            kind="controller", title="Motion board",
            pins_text=terminals(
                POWER="24V COM", **axes, INPUTS="24V X0 X1 X2 X3 X4 X5 COM",
                OUTPUTS="Y0 Y1 COM", AVI="AVI ACM", ESTOP="ESTOP COM",
            ),
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.5, "step_rate_max_hz": 2e5},
            circuits={
                "AXIS 0/output": "5 V output, push-pull, 20 mA",
                "AXIS 0/plus": "5 V from the board, 0.3 A", "INPUTS X0/input": PULLED_UP,
                "OUTPUTS Y0/output": "Low-side switch, 0.5 A, with a diode for coils",
                "AVI/output": "Analogue output, 0 to 10 V", "ESTOP/input": PULLED_UP,
            },
        ),
        "supply-36": Draft(
            kind="supply", title="Supply, 36 V", pins_text="L\nN\nPE\n-V\n-V\n+V\n+V",
            numbers={"nominal_v": 36, "current_a": 10},
        ),
        "supply-24": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L\nN\nPE\n-V\n+V",
            numbers={"nominal_v": 24, "current_a": 2.5},
        ),
        "switch": Draft(
            kind="sensor", title="Inductive sensor, NPN", drive="NPN",
            pins_text="BN\t6-36V\nBU\tGND\nBK\tNO",
            numbers={"v_min_v": 6, "v_max_v": 36, "current_a": 0.01},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop, two contacts", pins_text="1\n2\n3\n4",
            numbers={"contact_max_a": 5},
        ),
        "spindle": Draft(
            kind="three-phase motor", title="Spindle", pins_text="1\tU\n2\tV\n3\tW\n4\tPE",
            numbers={"nominal_v": 220, "current_a": 8},
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor", pins_text="BK\tA+\nGN\tA-\nRD\tB+\nBU\tB-",
            numbers={"current_a": 2.8, "resistance_ohm": 0.9, "steps_per_turn": 200},
        ),
        "pump": Draft(
            kind="load", title="Coolant pump", pins_text="+\n-",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text="A1\nA2\n1\n2\n3\n4\n5\n6\n21\n22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
    }  # fmt: skip


def _printer_drafts() -> dict[str, Draft]:
    motors = {f"{letter}_MOTOR": "A+ A- B+ B-" for letter in "XYZE"}
    ends = {f"{letter}_MIN": "SIG GND 5V" for letter in "XYZ"}
    heat, fan = "Low-side switch for heat, 12 A", "Low-side switch, 0.5 A, with a diode for coils"
    five_v = "5 V from the board, 0.3 A"
    return {
        "board": Draft(
            kind="controller", title="Printer board, drivers built in",
            pins_text=terminals(
                POWER="24V GND", **motors, HE0="+ -", BED="+ -", FAN0="+ -", FAN1="+ -",
                TH0="SIG GND", TB="SIG GND", **ends, NEOPIXEL="5V DATA GND",
            ),
            numbers={"v_min_v": 12, "v_max_v": 28, "current_a": 0.5, "step_rate_max_hz": 1e5},
            circuits={
                "HE0/output": heat, "BED/output": heat, "FAN0/output": fan,
                "X MIN/input": "3.3 V input, pulled up, for contacts to 0 V",
                "X MIN/plus": five_v, "NEOPIXEL/plus": five_v,
            },
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor", pins_text="BK\tA+\nGN\tA-\nRD\tB+\nBU\tB-",
            numbers={"current_a": 1.2, "resistance_ohm": 2.2, "steps_per_turn": 200},
        ),
        "heater": Draft(
            kind="heater", title="Cartridge, 24 V 40 W", pins_text="1\n2",
            numbers={"nominal_v": 24, "current_a": 1.7},
        ),
        "bed": Draft(
            kind="heater", title="Bed, 24 V 200 W", pins_text="1\n2",
            numbers={"nominal_v": 24, "current_a": 8.3},
        ),
        "thermistor": Draft(kind="thermistor", title="Thermistor", pins_text="1\n2"),
        "fan": Draft(
            kind="fan", title="Fan", pins_text="RD\t+\nBK\t-",
            numbers={"nominal_v": 24, "current_a": 0.1},
        ),
        "switch": Draft(
            kind="switch", title="Micro switch", pins_text="C\nNO\nNC",
            numbers={"contact_max_a": 3},
        ),
        "gate": Draft(
            kind="sensor", title="Light gate", pins_text="V\nG\nS", drive="NPN",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V 15 A", pins_text="L\nN\nPE\n-V\n-V\n+V\n+V",
            numbers={"nominal_v": 24, "current_a": 15},
        ),
        "lights": Draft(
            kind="lamp", title="Lights", pins_text=terminals(IN="5V DIN GND"),
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.2},
        ),
    }  # fmt: skip


ROUTER = (
    "K1 board", "T1 driver", "T2 driver", "T3 driver", "T4 inverter", "M1 motor", "M2 motor",
    "M3 motor", "M4 spindle", "B1 switch", "B2 switch", "B3 switch", "S1 stop", "G1 supply-36",
    "G2 supply-24", "P1 pump", "Q1 contactor", "X4 quoin-mt4",
)  # fmt: skip
PRINTER = (
    "K1 board", "M1 motor", "M2 motor", "M3 motor", "M4 motor", "E1 heater", "E2 bed",
    "R1 thermistor", "R2 thermistor", "P1 fan", "P2 fan", "B1 switch", "B2 switch", "B3 gate",
    "G1 supply", "P3 lights", "S1 quoin-tc120", "S2 quoin-tc120", "X4 quoin-mt4",
)  # fmt: skip


TABLE = (
    "K1 board", "T1 driver", "T2 driver", "T3 driver", "T4 driver", "M1 motor", "M2 motor",
    "M3 motor", "M4 motor", "U1 height", "P1 source", "B1 home", "B2 home", "B3 home", "B4 home",
    "B5 switch", "S1 stop", "G1 supply-48", "G2 supply-24", "Q1 contactor", "X4 quoin-mt4",
)  # fmt: skip


PLACER = (
    "K1 board", "M1 motor", "M2 motor", "M3 motor", "M4 hollow", "M5 hollow", "B1 gate", "B2 gate",
    "B3 gate", "P1 pump", "Y1 valve", "Y2 valve", "B4 vacuum", "P2 ring", "P3 ring", "S1 stop",
    "Q1 contactor", "G1 supply", "X4 quoin-mt4",
)  # fmt: skip

LATHE = (
    "K1 board", "T1 pack", "T2 pack", "T3 inverter", "M1 servo", "M2 servo", "M3 spindle",
    "B1 home", "B2 home", "B3 encoder", "P1 oil", "K2 relay", "S1 stop", "G1 supply",
    "Q1 contactor",
)  # fmt: skip

STATION = (
    "K1 controller", "G1 supply", "B1 float", "B2 float", "B3 flow", "B4 pressure", "B5 probe",
    "Y1 valve", "Y2 valve", "P1 pump", "P2 lights", "S1 stop", "S2 key", "Q1 contactor",
    "F1 fuses", "X4 quoin-mt4",
)  # fmt: skip


@cache
def router_parts() -> dict[str, Part]:
    """The parts of the router by their id."""
    return described({f"my-router-{name}": draft for name, draft in _drafts().items()})


@cache
def printer_parts() -> dict[str, Part]:
    """The parts of the printer by their id."""
    return described({f"my-printer-{name}": draft for name, draft in _printer_drafts().items()})


@cache
def table_parts() -> dict[str, Part]:
    """The parts of the cutting table by their id."""
    return described({f"my-table-{name}": draft for name, draft in table_drafts().items()})


@cache
def placer_parts() -> dict[str, Part]:
    """The parts of the placer by their id."""
    return described({f"my-placer-{name}": draft for name, draft in placer_drafts().items()})


@cache
def lathe_parts() -> dict[str, Part]:
    """The parts of the lathe by their id."""
    return described({f"my-lathe-{name}": draft for name, draft in lathe_drafts().items()})


@cache
def station_parts() -> dict[str, Part]:
    """The parts of the pump station by their id."""
    return described({f"my-station-{name}": draft for name, draft in station_drafts().items()})


def unwired_router() -> Machine:
    """Its devices and axes, with nothing joined."""
    return _unwired("router", ROUTER, router_parts())


def unwired_printer() -> Machine:
    """Its devices and axes, with nothing joined."""
    return _unwired("printer", PRINTER, printer_parts())


def unwired_placer() -> Machine:
    """Its devices and axes, with nothing joined."""
    return _unwired("placer", PLACER, placer_parts())


def unwired_lathe() -> Machine:
    """Its devices and axes, with nothing joined."""
    return _unwired("lathe", LATHE, lathe_parts(), "XZ")


def unwired_station() -> Machine:
    """Its devices, with nothing joined; it has no axis."""
    return _unwired("station", STATION, station_parts(), "")


def unwired_table() -> Machine:
    """Its devices and axes; only the relay that starts the source, and the contacts of other boards
    that are read, are joined by hand.
    """
    build = Builder(_unwired("table", TABLE, table_parts(), "XYZA"))
    build.join("P1:START", "K1:RELAY", "1-2 2-1")
    for entry, contact in ((9, "U1:UP"), (10, "U1:DOWN"), (11, "P1:OK")):
        build.join(contact, f"K1:IN{entry}", "1-2 2-1")
    return build.machine


def _unwired(
    name: str, devices: tuple[str, ...], parts: dict[str, Part], axes: str = "XYZ"
) -> Machine:
    build = Builder(Machine(name=f"Described {name}"))
    for text in devices:
        designator, short = text.split()
        part = parts.get(f"my-{name}-{short}")
        if part is not None:
            build.add(designator, part, f"{part.title} {designator}")
        else:
            build.device(designator, short, designator, None)
    found = tuple(slide_axis(axis, f"M{n}", f"B{n}") for n, axis in enumerate(axes, 1))
    return replace(build.machine, axes=found)


def wired(machine: Machine) -> Machine:
    """A machine as the two proposals wire it, taken whole."""
    placed = api.apply_placements(machine, api.place(machine).placements)
    return api.apply_feeds(placed, api.plan_feeds(placed).steps)


@cache
def wired_router() -> Machine:
    """The router, with what its builder decides."""
    known = accepted_finding(
        "stops.unnoticed:S1:T1:T2:T3:T4", "One contactor; a second one is on order.", "2026-11-29"
    )
    return replace(wired(unwired_router()), accepted=(known,))


@cache
def wired_table() -> Machine:
    """The cutting table, with what its builder decides."""
    known = accepted_finding(
        "stops.unnoticed:S1:T1:T2:T3:T4", "One contactor; a second one is on order.", "2026-11-29"
    )
    return replace(wired(unwired_table()), accepted=(known,))


@cache
def wired_placer() -> Machine:
    """The placer, with what its builder decides."""
    known = accepted_finding(
        "stops.unnoticed:S1:K1:Y1:Y2", "One contactor; a second one is on order.", "2026-11-29"
    )
    return replace(wired(unwired_placer()), accepted=(known,))


@cache
def wired_lathe() -> Machine:
    """The lathe, with what its builder decides."""
    known = accepted_finding(
        "stops.unnoticed:S1:T1:T2:T3", "One contactor; a second one is on order.", "2026-11-29"
    )
    return replace(wired(unwired_lathe()), accepted=(known,))


@cache
def wired_station() -> Machine:
    """The pump station, with diodes at its valves and what its builder decides."""
    machine = wired(unwired_station())
    for finding in api.check(machine).open:
        if finding.rule == "signals.flyback":
            machine = finding.fixes[0].remedy.apply(machine)
    known = (
        accepted_finding("stops.unnoticed:S1:Y1:Y2", "One contactor.", "2026-11-29"),
        accepted_finding("stops.restarts:S1", "Valves may open again.", "2026-11-29"),
    )
    return replace(machine, accepted=known)


@cache
def wired_printer() -> Machine:
    """The printer."""
    return wired(unwired_printer())
