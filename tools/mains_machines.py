"""Machines whose mains are more than a line and a neutral at a supply: a saw whose three-phase
motor a contactor starts, and valves behind a transformer, wired by the proposals; a hoist that two
contactors turn either way, wired by hand.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding
from described_machines import wired
from drive_machines import PULLED_UP, described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

SAW = (
    "J1 inlet Mains inlet", "Q1 main Main switch", "Q2 protection Saw protection",
    "K1 contactor Saw", "M1 motor Saw", "G1 supply Control supply", "S1 button Start",
    "S2 stop Emergency stop", "S3 guard Guard",
)  # fmt: skip
HOIST = (
    "J1 inlet Mains inlet", "Q1 main Main switch", "K1 contactor Up", "K2 contactor Down",
    "M1 motor Hoist", "G1 supply Control supply", "S1 button Up", "S2 button Down",
    "S3 stop Emergency stop", "S4 limit Top", "S5 limit Bottom",
)  # fmt: skip
WATERING = (
    "J1 inlet1 Mains inlet", "Q1 main1 Main switch", "G1 transformer Valve transformer",
    "G2 logic Board supply", "K1 board Board", "K2 relays Valve relays", "Y1 valve Bed 1",
    "Y2 valve Bed 2", "Y3 valve Bed 3", "Y4 valve Bed 4", "B1 rain Rain", "B2 flow Flow",
)  # fmt: skip
RELAY_INPUT = "Input of a relay board, 5 V, on at a low level: diode, lamp and 1 kohm to 5 V"
POLES = ("1/L1-2/T1", "3/L2-4/T2", "5/L3-6/T3")


def _drafts() -> dict[str, Draft]:
    poles = "1/L1 2/T1\n3/L2 4/T2\n5/L3 6/T3"
    return {
        "inlet": Draft(kind="connector", title="Inlet", pins_text="L1 L2 L3 N PE"),
        "main": Draft(
            kind="switch", title="Main switch", pins_text=poles, numbers={"contact_max_a": 25}
        ),
        "protection": Draft(
            kind="switch", title="Motor circuit-breaker", pins_text=poles,
            numbers={"contact_max_a": 6.3},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, 24 V",
            pins_text=f"A1 A2\n{poles}\n13 14\n21 22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 12},
        ),
        "motor": Draft(
            kind="three-phase motor", title="Motor, 400 V", pins_text="U1 V1 W1\nPE",
            numbers={"nominal_v": 400, "current_a": 4.8},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE\n+V -V",
            numbers={"nominal_v": 24, "current_a": 2.5},
        ),
        "button": Draft(
            kind="switch", title="Push button", pins_text="13 14", numbers={"contact_max_a": 3}
        ),
        "stop": Draft(
            kind="emergency stop", title="Emergency stop", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 3},
        ),
        "guard": Draft(
            kind="switch", title="Guard switch", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 3},
        ),
        "inlet1": Draft(kind="connector", title="Inlet", pins_text="L N PE"),
        "main1": Draft(
            kind="switch", title="Main switch", pins_text="1 2\n3 4", numbers={"contact_max_a": 16}
        ),
        "transformer": Draft(
            kind="supply", title="Transformer", pins_text="L N PE\n24V~: 1 2",
            numbers={"nominal_v": 24, "current_a": 2},
        ),
        "logic": Draft(
            kind="supply", title="Supply, 5 V", pins_text="L N PE\n+V -V",
            numbers={"nominal_v": 5, "current_a": 3},
        ),
        "relays": Draft(
            kind="relay module", title="Four relays",
            pins_text="VCC GND IN1 IN2 IN3 IN4\nCOM1 NO1 NC1\nCOM2 NO2 NC2\nCOM3 NO3 NC3\n"
            "COM4 NO4 NC4",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.3, "contact_max_a": 10},
            circuits={"IN1/input": RELAY_INPUT},
        ),
        "board": Draft(
            kind="controller", title="Board with radio",
            pins_text="5V GND\nOUT1: 12\nOUT2: 13\nOUT3: 14\nOUT4: 27\nRAIN: 32 GND\n"
            "FLOW: 5V 33 GND",
            numbers={"v_min_v": 4.7, "v_max_v": 5.3, "current_a": 0.3, "logic_v": 3.3},
            circuits={
                **{f"OUT{n}/output": "5 V output, push-pull, 20 mA" for n in range(1, 5)},
                "RAIN/input": PULLED_UP, "FLOW/input": "3.3 V input that bears 5 V",
            },
        ),
        "valve": Draft(
            kind="valve", title="Valve, 24 V AC", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 0.25},
        ),
        "rain": Draft(
            kind="switch", title="Rain switch", pins_text="1 2 NC", numbers={"contact_max_a": 1}
        ),
        "flow": Draft(
            kind="sensor", title="Flow meter", pins_text="red: 5V\nblack: GND\nyellow: pulse",
            numbers={"v_min_v": 4.5, "v_max_v": 18, "current_a": 0.015},
        ),
        "limit": Draft(
            kind="switch", title="Limit switch", pins_text="11 12", numbers={"contact_max_a": 3}
        ),
    }  # fmt: skip


@cache
def mains_parts() -> dict[str, Part]:
    """The parts, by their id."""
    return described({f"my-mains-{name}": draft for name, draft in _drafts().items()})


def _unwired(name: str, rows: tuple[str, ...]) -> Builder:
    build = Builder(Machine(name=name))
    for row in rows:
        designator, part, called = row.split(maxsplit=2)
        build.add(designator, mains_parts()[f"my-mains-{part}"], called)
    return build


def unwired_saw() -> Machine:
    """The saw with nothing joined yet."""
    return _unwired("Saw bench", SAW).machine


@cache
def wired_saw() -> Machine:
    """The saw, wired by what Vervain proposes, and with what its builder decides."""
    known = (
        accepted_finding("stops.unnoticed:S2:M1", "One contactor.", "2026-11-30"),
        accepted_finding("stops.unnoticed:S3:M1", "One contactor.", "2026-11-30"),
        accepted_finding("stops.weld-unread:K1:3/L2-4/T2", "One contactor.", "2026-11-30"),
    )
    return replace(wired(unwired_saw()), accepted=known)


def hoist(interlocked: bool = True) -> Machine:
    """A hoist whose two contactors exchange two lines; each in the coil of the other where they
    are interlocked.
    """
    build = _unwired("Hoist", HOIST)
    for number, pole in enumerate(POLES, 1):
        near, far = pole.split("-")
        build.join("J1:B", f"Q1:{pole}", f"L{number}-{near}")
        for contactor, phases in (("K1", "UVW"), ("K2", "WVU")):
            build.join(f"Q1:{pole}", f"{contactor}:{pole}", f"{far}-{near}")
            build.join(f"{contactor}:{pole}", "M1:LEADS", f"{far}-{phases[number - 1]}1")
    build.join("J1:B", "M1:LEADS", "PE-PE")
    build.join("Q1:1/L1-2/T1", "G1:MAINS", "2/T1-L")
    build.join("J1:B", "G1:MAINS", "N-N PE-PE")
    build.join("G1:OUT", "J1:A", "2-PE")
    build.join("G1:OUT", "S3:11-12", "1-11")
    for button, limit, own, other in (("S1", "S4", "K1", "K2"), ("S2", "S5", "K2", "K1")):
        build.join("S3:11-12", f"{button}:13-14", "12-13")
        build.join(f"{button}:13-14", f"{limit}:11-12", "14-11")
        if interlocked:
            build.join(f"{limit}:11-12", f"{other}:21-22", "12-21")
            build.join(f"{other}:21-22", f"{own}:COIL", "22-A1")
        else:
            build.join(f"{limit}:11-12", f"{own}:COIL", "12-A1")
        build.join(f"{own}:COIL", "G1:OUT", "A2-2")
    return build.machine


@cache
def wired_hoist() -> Machine:
    """The hoist, interlocked, with what its builder decides."""
    known = accepted_finding("stops.unnoticed:S3:M1", "One channel.", "2026-11-30")
    return replace(hoist(), accepted=(known,))


@cache
def wired_watering() -> Machine:
    """Valves for alternating current behind relays, wired by what Vervain proposes."""
    return wired(_unwired("Watering", WATERING).machine)
