"""A vacuum former of parts from their labels: a temperature controller at the mains with a solid-
state relay and a cut-out, a valve that a pedal works, a contactor that a stop drops; no board.
"""

from functools import cache

from msgspec.structs import replace

from builder import Builder, accepted_finding
from described_machines import wired
from drive_machines import described
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.model.part import Part

FORMER = (
    "J1 inlet Mains", "F1 fuse Mains fuse", "Q1 main Main switch", "K1 heat Heat",
    "B1 couple Heat", "Q2 relay Heat", "E1 panel Heat", "F2 cutout Heat", "M1 pump Vacuum",
    "Y1 valve Vacuum", "G1 supply Supply", "S1 pedal Vacuum", "S2 stop Emergency stop",
    "Q3 contactor Machine on", "S3 start Start",
)  # fmt: skip


def _drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L N PE"),
        "fuse": Draft(
            kind="fuse", title="Mains fuse", pins_text="1 2",
            numbers={"fuse_max_a": 16, "v_max_v": 250},
        ),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1 2\n3 4", numbers={"contact_max_a": 25}
        ),
        "heat": Draft(
            kind="controller", title="Temperature controller",
            pins_text="1: L\n2: N\n3: TC+\n4: TC-\n6: SSR+\n7: SSR-",
            numbers={"v_min_v": 100, "v_max_v": 240, "current_a": 0.03},
            circuits={"SSR/output": "Output for a solid-state relay, 12 V, 30 mA"},
        ),
        "couple": Draft(kind="sensor", title="Thermocouple, type K", pins_text="T+ T-"),
        "relay": Draft(
            kind="solid-state relay", title="Solid-state relay", pins_text="3+ 4-\n1 2",
            numbers={"v_min_v": 3, "v_max_v": 32, "current_a": 0.012, "contact_max_a": 40},
        ),
        "panel": Draft(
            kind="heater", title="Heater panel", pins_text="1 2 PE",
            numbers={"nominal_v": 230, "current_a": 6},
        ),
        "cutout": Draft(
            kind="switch", title="Thermal cut-out", pins_text="1 2", numbers={"contact_max_a": 16}
        ),
        "pump": Draft(
            kind="load", title="Vacuum pump", pins_text="L N PE",
            numbers={"nominal_v": 230, "current_a": 2},
        ),
        "valve": Draft(
            kind="valve", title="Vacuum valve", pins_text="1 2",
            numbers={"nominal_v": 24, "current_a": 0.3},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE\n+V -V",
            numbers={"nominal_v": 24, "current_a": 2},
        ),
        "pedal": Draft(
            kind="switch", title="Foot pedal", pins_text="COM NO", numbers={"contact_max_a": 5}
        ),
        "stop": Draft(
            kind="emergency stop", title="Emergency stop", pins_text="11 12\n21 22",
            numbers={"contact_max_a": 6},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, coil 24 V",
            pins_text="A1 A2\n1/L1 2/T1\n3/L2 4/T2\n13 14\n21 22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 25},
        ),
        "start": Draft(
            kind="switch", title="Push button", pins_text="13 14", numbers={"contact_max_a": 6}
        ),
    }  # fmt: skip


@cache
def former_parts() -> dict[str, Part]:
    """The parts, by their id."""
    return described({f"my-former-{name}": draft for name, draft in _drafts().items()})


@cache
def wired_former() -> Machine:
    """The vacuum former, wired by what Vervain proposes, with what its builder decides."""
    build = Builder(Machine(name="Vacuum former"))
    for row in FORMER:
        designator, part, called = row.split(maxsplit=2)
        build.add(designator, former_parts()[f"my-former-{part}"], called)
    known = (
        accepted_finding("stops.unnoticed:S2:Y1", "One contactor.", "2026-11-30"),
        accepted_finding("stops.unnoticed:S2:E1:Y1", "One contactor.", "2026-11-30"),
        accepted_finding("stops.weld-unread:Q3:3/L2-4/T2", "One contactor.", "2026-11-30"),
    )
    return replace(wired(build.machine), accepted=known)
