"""Machines of a yard and a hobby room: an annealer on three lines of the mains, a dolly for a
camera, and a robot that follows a line.
"""

from functools import cache

from msgspec.structs import replace

from builder import accepted_finding
from described_machines import wired
from small_board_machines import made
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine

LINE_3V3, LINE_5V = "3.3 V input, not for 5 V", "5 V input, CMOS levels"
BEARS_5V = "3.3 V input that bears 5 V"
ANNEALER = (
    "J1 inlet Mains", "Q1 main Main switch", "F1 three Heating", "F2 one Control",
    "K1 contactor Safety contactor", "A1 pid Control", "K2 relay Heating", "E1 elements Heating",
    "B1 couple Chamber", "S1 limit Limiter", "S2 door Door", "S3 stop Stop", "S4 start Start",
    "H1 lamp On", "X1 earth Earth",
)  # fmt: skip
DOLLY = (
    "G1 cells Battery", "S1 rocker Main switch", "G2 five Logic", "K1 board Board",
    "T1 step Track", "T2 step Pan", "M1 track Track", "M2 pan Pan", "R1 stick Stick",
    "S2 lever Track end left", "S3 lever Track end right",
)  # fmt: skip
FOLLOWER = (
    "G1 two Battery", "S1 slide Power", "K1 small Board", "B1 eyes Line", "A1 bridge Bridge",
    "M1 gear Left", "M2 gear Right", "H1 buzzer Buzzer", "B2 ahead Ahead",
)  # fmt: skip


def _annealer_drafts() -> dict[str, Draft]:
    return {
        "inlet": Draft(kind="connector", title="Mains inlet, 400 V", pins_text="L1 L2 L3 N PE"),
        "main": Draft(
            kind="switch", title="Main switch", pins_text="1/L1 2/T1 3/L2 4/T2 5/L3 6/T3",
            numbers={"contact_max_a": 32},
        ),
        "three": Draft(
            kind="fuse", title="Breaker, 3 poles, 16 A", pins_text="1 2 3 4 5 6",
            numbers={"fuse_max_a": 16, "v_max_v": 400},
        ),
        "one": Draft(
            kind="fuse", title="Breaker, 6 A", pins_text="1 2",
            numbers={"fuse_max_a": 6, "v_max_v": 230},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor, coil 230 V",
            pins_text="1/L1 2/T1 3/L2 4/T2 5/L3 6/T3 A1 A2 13 14",
            numbers={"nominal_v": 230, "current_a": 0.05, "contact_max_a": 25},
        ),
        "pid": Draft(
            kind="controller", title="Temperature controller",
            pins_text="L N\nTC+ TC-\nSSR+ SSR-\nAL1 AL1",
            numbers={"v_min_v": 90, "v_max_v": 264, "current_a": 0.05},
        ),
        "relay": Draft(
            kind="solid-state relay", title="Relay, 3 poles, 40 A",
            pins_text="L1 T1 L2 T2 L3 T3 A1+ A2-",
            numbers={"v_min_v": 4, "v_max_v": 32, "current_a": 0.02, "contact_max_a": 40},
        ),
        "elements": Draft(
            kind="heater", title="Elements, 400 V, star", pins_text="U V W PE",
            numbers={"nominal_v": 400, "current_a": 10},
        ),
        "couple": Draft(kind="sensor", title="Thermocouple, type K", pins_text="+ -"),
        "limit": Draft(
            kind="switch", title="Over-temperature limiter", pins_text="11 12",
            numbers={"contact_max_a": 10},
        ),
        "door": Draft(
            kind="switch", title="Door switch", pins_text="21 22", numbers={"contact_max_a": 6}
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="11 12", numbers={"contact_max_a": 6}
        ),
        "start": Draft(
            kind="switch", title="Start button", pins_text="13 14", numbers={"contact_max_a": 6}
        ),
        "lamp": Draft(
            kind="lamp", title="Lamp, 230 V", pins_text="X1 X2",
            numbers={"nominal_v": 230, "current_a": 0.02},
        ),
        "earth": Draft(kind="terminal strip", title="Earth terminals", pins_text="PE PE PE PE PE"),
    }  # fmt: skip


def _dolly_drafts() -> dict[str, Draft]:
    return {
        "cells": Draft(
            kind="battery", title="Battery, 4 cells", pins_text="+ -",
            numbers={"nominal_v": 14.8, "current_a": 20},
        ),
        "rocker": Draft(
            kind="switch", title="Rocker switch", pins_text="1 2", numbers={"contact_max_a": 10}
        ),
        "five": Draft(
            kind="supply", title="Converter to 5 V", pins_text="IN+ IN- OUT+ OUT-",
            numbers={"nominal_v": 5, "current_a": 3, "v_min_v": 7, "v_max_v": 24},
        ),
        "board": Draft(
            kind="controller", title="Small board",
            pins_text="5V GND 3V3 GPIO0 GPIO1 GPIO2 GPIO3 GPIO4 GPIO5 GPIO12 GPIO13 GPIO14 GPIO15 "
            "ADC32 ADC33 ADC34",
            numbers={"v_min_v": 4.7, "v_max_v": 5.5, "current_a": 0.3},
            circuits={"GPIO0/input": LINE_3V3, "ADC32/input": LINE_3V3},
        ),
        "step": Draft(
            kind="stepper driver", title="Driver module, 1.2 A",
            pins_text="VM GND VIO GND\nEN MS1 MS2 UART STEP DIR\nB2 B1 A1 A2",
            numbers={"v_min_v": 4.75, "v_max_v": 28, "current_max_peak_a": 1.7},
            circuits={"CONTROL/input": BEARS_5V},
        ),
        "track": Draft(
            kind="stepper motor", title="Track motor, 1.2 A",
            pins_text="A+ BLACK / A- GREEN / B+ RED / B- BLUE", numbers={"current_a": 1.2},
        ),
        "pan": Draft(
            kind="stepper motor", title="Pan motor, 0.8 A",
            pins_text="A+ BLACK / A- GREEN / B+ RED / B- BLUE", numbers={"current_a": 0.8},
        ),
        "stick": Draft(
            kind="sensor", title="Joystick", pins_text="GND +5V VRX VRY SW",
            numbers={"current_a": 0.002},
        ),
        "lever": Draft(
            kind="switch", title="Lever switch", pins_text="C NC NO", numbers={"contact_max_a": 3}
        ),
    }  # fmt: skip


def _follower_drafts() -> dict[str, Draft]:
    return {
        "two": Draft(
            kind="battery", title="Battery, 2 cells", pins_text="+ -",
            numbers={"nominal_v": 7.4, "current_a": 10},
        ),
        "slide": Draft(
            kind="switch", title="Slide switch", pins_text="1 2", numbers={"contact_max_a": 3}
        ),
        "small": Draft(
            kind="controller", title="Small board, 5 V",
            pins_text="VIN GND 5V 3V3 D2 D3 D4 D5 D6 D7 D8 D9 D10 D11 D12 D13 A0 A1",
            numbers={"v_min_v": 6, "v_max_v": 12, "current_a": 0.1},
            circuits={"D2/input": LINE_5V, "A0/input": LINE_5V},
        ),
        "eyes": Draft(
            kind="sensor", title="Row of eyes", pins_text="VCC GND S1 S2 S3",
            numbers={"v_min_v": 3.3, "v_max_v": 5, "current_a": 0.02},
        ),
        "bridge": Draft(
            kind="motor bridge", title="Bridge, two channels",
            pins_text="VM GND VCC PWMA AIN1 AIN2 STBY BIN1 BIN2 PWMB\nAO1 AO2 BO1 BO2",
            numbers={"v_min_v": 4.5, "v_max_v": 13.5, "current_a": 1.2},
            circuits={
                f"{port}/input": "5 V input, TTL levels"
                for port in ("CONTROL", "CONTROL A", "CONTROL B")
            },
        ),
        "gear": Draft(
            kind="brushed motor", title="Gear motor", pins_text="+ -",
            numbers={"nominal_v": 7.4, "current_a": 0.6},
        ),
        "buzzer": Draft(
            kind="load", title="Buzzer, 5 V", pins_text="+ -",
            numbers={"nominal_v": 5, "current_a": 0.02},
        ),
        "ahead": Draft(
            kind="sensor", title="Distance sensor, 0.4 to 2.8 V", pins_text="VCC GND OUT",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.03},
        ),
    }  # fmt: skip


@cache
def unwired_annealer() -> Machine:
    """The annealer before anything is joined."""
    return made("Annealer", "annealer", _annealer_drafts(), ANNEALER)


@cache
def wired_annealer() -> Machine:
    """The annealer, wired by what Vervain proposes, with what its builder decides."""
    known = tuple(
        accepted_finding(f"stops.unnoticed:{name}:E1", "One contactor.", "2026-12-01")
        for name in ("S1", "S2", "S3")
    )
    return replace(wired(unwired_annealer()), accepted=known)


@cache
def unwired_dolly() -> Machine:
    """The dolly before anything is joined."""
    return made("Dolly", "dolly", _dolly_drafts(), DOLLY)


@cache
def wired_dolly() -> Machine:
    """The dolly, wired by what Vervain proposes."""
    return wired(unwired_dolly())


@cache
def unwired_follower() -> Machine:
    """The robot before anything is joined."""
    return made("Line follower", "follower", _follower_drafts(), FOLLOWER)


@cache
def wired_follower() -> Machine:
    """The robot, wired by what Vervain proposes."""
    return wired(unwired_follower())
