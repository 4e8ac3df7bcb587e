"""A kart on four batteries in series, a walking robot whose servos pass their bus on, and a vending
machine with a keypad, a coin counter and relays of its own board.
"""

from functools import cache

from msgspec.structs import replace

from builder import accepted_finding
from described_machines import wired
from small_board_machines import made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

TO_0_V = "5 V input, pulled up, for contacts to 0 V"
LOW_TO_0_V = "3.3 V input, pulled up, for contacts to 0 V"
SWITCHED = "Low-side switch, 0.5 A, with a diode for coils"
KART = (
    "B1 cell Battery 1", "B2 cell Battery 2", "B3 cell Battery 3", "B4 cell Battery 4",
    "F1 fuse Main", "F2 small Control", "Q1 contactor Main", "A1 drive Drive", "M1 motor Drive",
    "N1 pedal Throttle", "S1 contact Brake", "S2 key Key", "S3 stop Stop", "G1 twelve Twelve",
    "P1 horn Horn", "S4 contact Horn", "H1 lamp Head lamp", "H2 lamp Tail",
)  # fmt: skip
WALKER = (
    "B1 cells Battery", "S1 power Power", "F1 fuse Fuse", "G1 five Five", "K1 board Board",
    "A1 bus Servo bus", "M1 servo Hip", "M2 servo Knee", "M3 servo Hip 2", "M4 servo Knee 2",
    "N1 motion Motion", "N2 ears Ears",
)  # fmt: skip
VENDING = (
    "J1 inlet Mains", "F1 breaker Mains", "G1 supply Supply", "K1 board Board",
    "M1 spiral Spiral 1", "M2 spiral Spiral 2", "S1 home Home 1", "S2 home Home 2", "N1 coin Coin",
    "N2 drop Drop", "S5 door Door", "N3 display Display", "S6 keys Keys", "H1 light Light",
    "P1 cool Cool",
)  # fmt: skip


def _kart_drafts() -> dict[str, Draft]:
    return {
        "cell": Draft(
            kind="battery", title="Battery, 12 V, 35 Ah", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 150},
        ),
        "fuse": Draft(
            kind="fuse", title="Main fuse, 125 A", pins_text="1 2",
            numbers={"fuse_max_a": 125, "v_max_v": 80},
        ),
        "small": Draft(
            kind="fuse", title="Control fuse, 5 A", pins_text="1 2",
            numbers={"fuse_max_a": 5, "v_max_v": 80},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, 48 V coil", pins_text="A1 A2\n1 2",
            numbers={"nominal_v": 48, "current_a": 0.4, "contact_max_a": 150},
        ),
        "drive": Draft(
            kind="servo drive", title="Brushless controller, 48 V",
            pins_text="B+ B-\nU V W\nHALL: 5V GND HA HB HC\nTHROTTLE: 5V SIG GND\n"
            "BRAKE: SIG GND\nREV: SIG GND\nKEY",
            numbers={"v_min_v": 36, "v_max_v": 63, "current_a": 60},
            circuits={
                "THROTTLE/input": "Analogue input, 0 to 5 V", "BRAKE/input": TO_0_V,
                "REV/input": TO_0_V, "HALL/input": TO_0_V, "HALL/plus": "5 V from the board, 0.3 A",
            },
        ),
        "motor": Draft(
            kind="three-phase motor", title="Hub motor", pins_text="U V W\n5V GND HA HB HC",
            numbers={"nominal_v": 48, "current_a": 60},
        ),
        "pedal": Draft(
            kind="sensor", title="Throttle pedal", pins_text="5V SIG GND", drive="volts",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.01},
        ),
        "contact": Draft(
            kind="switch", title="Push button", pins_text="NO NO", numbers={"contact_max_a": 5}
        ),
        "key": Draft(
            kind="switch", title="Key switch", pins_text="1 2", numbers={"contact_max_a": 5}
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="NC NC", numbers={"contact_max_a": 5}
        ),
        "twelve": Draft(
            kind="supply", title="Converter to 12 V", pins_text="IN+ IN- OUT+ OUT-",
            numbers={"nominal_v": 12, "current_a": 10, "v_min_v": 36, "v_max_v": 72},
        ),
        "horn": Draft(
            kind="load", title="Horn", pins_text="+ -",
            numbers={"nominal_v": 12, "current_a": 3},
        ),
        "lamp": Draft(
            kind="lamp", title="Lamp", pins_text="RED BLACK",
            numbers={"nominal_v": 12, "current_a": 0.5},
        ),
    }  # fmt: skip


def _walker_drafts() -> dict[str, Draft]:
    return {
        "cells": Draft(
            kind="battery", title="Battery, 2 cells", pins_text="+ -",
            numbers={"nominal_v": 7.4, "current_a": 30},
        ),
        "power": Draft(
            kind="switch", title="Power switch", pins_text="1 2", numbers={"contact_max_a": 20}
        ),
        "fuse": Draft(
            kind="fuse", title="Fuse", pins_text="1 2", numbers={"fuse_max_a": 20, "v_max_v": 32}
        ),
        "five": Draft(
            kind="supply", title="Converter to 5 V", pins_text="VIN+ VIN- VOUT+ VOUT-",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 6, "v_max_v": 28},
        ),
        "board": Draft(
            kind="controller", title="Small board, 3.3 V",
            pins_text="VIN GND\n3V3 GND\nGPIO1 GPIO2 GPIO3 GPIO4\nTX1 RX1 GND\nSDA SCL 3V3 GND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.5},
            circuits={"GPIO1/input": "Line of a 3.3 V processor, pulled up"},
        ),
        "bus": Draft(
            kind="signal converter", title="Servo bus adapter",
            pins_text="5V GND TX RX\nBUS1: GND V DATA\nBUS2: GND V DATA\nVIN GND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05},
        ),
        "servo": Draft(
            kind="servo", title="Servo on a bus", pins_text="GND VCC DATA\nGND VCC DATA",
            numbers={"v_min_v": 6, "v_max_v": 8.4, "current_a": 0.3},
        ),
        "motion": Draft(
            kind="sensor", title="Motion sensor", pins_text="VCC GND SCL SDA INT",
            numbers={"v_min_v": 3, "v_max_v": 5, "current_a": 0.01},
        ),
        "ears": Draft(
            kind="sensor", title="Ultrasonic sensor", pins_text="VCC TRIG ECHO GND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.02},
        ),
    }  # fmt: skip


def _vending_drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(kind="connector", title="Mains inlet", pins_text="L N PE"),
        "breaker": Draft(
            kind="fuse", title="Breaker, 6 A", pins_text="1 2",
            numbers={"fuse_max_a": 6, "v_max_v": 250},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L N PE +V +V -V -V",
            numbers={"nominal_v": 24, "current_a": 6},
        ),
        "board": Draft(
            kind="controller", title="Vending board",
            pins_text="24V GND\nM1: + -\nM2: + -\nHOME1 GND\nHOME2 GND\nCOIN: 12V GND PULSE INH\n"
            "DROP: 5V OUT GND\nDOOR GND\nDISP: 5V GND SDA SCL\nKEYS: R1 R2 R3 R4 C1 C2 C3\n"
            "LED: + -\nCOOL: NO COM",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.5},
            circuits={
                "HOME1/input": LOW_TO_0_V, "DOOR/input": LOW_TO_0_V, "DROP/input": LOW_TO_0_V,
                "COIN PULSE/input": LOW_TO_0_V, "KEYS C1/input": LOW_TO_0_V,
                "KEYS R1/output": "3.3 V output, push-pull, 8 mA",
                "COIN INH/output": "Open collector, 50 mA", "M1/output": SWITCHED,
                "LED/output": SWITCHED, "COIN PULSE/plus": "12 V from the board, 0.5 A",
                "DROP/plus": "5 V from the board, 0.3 A",
            },
        ),
        "spiral": Draft(
            kind="brushed motor", title="Spiral motor", pins_text="M+ M-",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "home": Draft(
            kind="switch", title="Home switch", pins_text="COM NO", numbers={"contact_max_a": 1}
        ),
        "coin": Draft(
            kind="sensor", title="Coin acceptor", pins_text="DC12V GND COIN INH", drive="NPN",
            numbers={"v_min_v": 11, "v_max_v": 13, "current_a": 0.3, "drop_v": 0.4},
        ),
        "drop": Draft(
            kind="sensor", title="Drop sensor", pins_text="+5V GND OUT", drive="NPN",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05},
        ),
        "door": Draft(
            kind="switch", title="Door switch", pins_text="NC NC", numbers={"contact_max_a": 1}
        ),
        "display": Draft(
            kind="load", title="Display", pins_text="GND VCC SCL SDA",
            numbers={"nominal_v": 5, "current_a": 0.05},
        ),
        "keys": Draft(kind="switch", title="Keypad", pins_text="R1 R2 R3 R4 C1 C2 C3"),
        "light": Draft(
            kind="lamp", title="Light strip", pins_text="+ -",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "cool": Draft(
            kind="load", title="Compressor", pins_text="L N PE",
            numbers={"nominal_v": 230, "current_a": 1.2},
        ),
    }  # fmt: skip


@cache
def unwired_kart() -> Machine:
    """The kart before anything is joined."""
    return made("Kart", "kart", _kart_drafts(), KART)


@cache
def wired_kart() -> Machine:
    """The kart, wired by what Vervain proposes, with what its builder decides."""
    known = (
        accepted_finding("stops.unnoticed:S3:A1", "One contactor.", "2026-11-30"),
        accepted_finding("stops.restarts:S3", "It moves by its pedal alone.", "2026-11-30"),
    )
    return replace(wired(unwired_kart()), accepted=known)


@cache
def unwired_walker() -> Machine:
    """The walking robot before anything is joined."""
    return made("Walking robot", "walker", _walker_drafts(), WALKER)


@cache
def wired_walker() -> Machine:
    """The walking robot, wired by what Vervain proposes."""
    return wired(unwired_walker())


@cache
def unwired_vending() -> Machine:
    """The vending machine before anything is joined."""
    return made("Vending machine", "vending", _vending_drafts(), VENDING)


@cache
def wired_vending() -> Machine:
    """The vending machine, wired by what Vervain proposes."""
    return wired(unwired_vending())
