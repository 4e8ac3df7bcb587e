"""One mistake at a time in the machine as planned: exactly the findings that it deserves."""

import unittest

from msgspec.structs import replace

from tests import small
from tests.sampling import seeded, some
from vervain.edits import cable_edits, common, device_edits, hookup_edits, route_edits
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.machine import Conductor, CoreMark, Machine, PortRef
from vervain.ports.plugging import plug_in, unplug
from vervain.rules.engine import Engine
from vervain.rules.finding import Result

PLANNED = open_demo("glazing-gantry-as-planned")


def hookup(a: str, b: str, machine: Machine = PLANNED) -> str:
    return next(h.id for h in machine.hookups if (h.a, h.b) == (small.at(a), small.at(b)))


def without(a: str, b: str) -> Machine:
    return hookup_edits.set_conductors(PLANNED, hookup(a, b), ())


def part_of(device: str, part_id: str) -> Machine:
    """Another part of the shelf in a device's place."""
    part = shipped_shelf().parts[part_id]
    found = device_edits.find_device(PLANNED, device)
    parts = PLANNED.parts if part in PLANNED.parts else (*PLANNED.parts, part)
    devices = common.swapped(PLANNED.devices, found, replace(found, part=part_id))
    return replace(PLANNED, parts=parts, devices=devices)


def leads(device: str) -> PortRef:
    return PortRef(device=device, port="LEADS")


# What is done wrong, the machine with it, and the keys that are new; nothing else may be.
MISTAKES: tuple[tuple[str, Machine, set[str]], ...] = (
    ("a sensor is unplugged", unplug(PLANNED, leads("B7")), {"ports.loose:B7:LEADS"}),
    (
        "a sensor sits in the other bank",
        plug_in(unplug(PLANNED, leads("B10")), leads("B7"), PortRef(device="K1", port="IN 2")),
        {"signals.sensor-drive:B7:K1 IN 2", "ports.loose:B10:LEADS"},
    ),
    (
        "a jumper is at the wrong bank",
        device_edits.set_setting(PLANNED, "K1", "JP2", "NPN"),
        {
            "signals.sensor-drive:B7:K1 IN 7",
            "signals.contact-unread:B2:K1 IN 8",
            "signals.contact-unread:B5:K1 IN 5",
            "signals.contact-unread:B6:K1 IN 5",
            "signals.contact-unread:B8:K1 IN 6",
        },
    ),
    (
        "two leads of a motor are exchanged",
        hookup_edits.exchange_pins(PLANNED, hookup("M1:LEADS", "X11:A"), "a", "GN", "RD"),
        {"leads.split-coil:M1"},
    ),
    (
        "a motor's direction is turned",
        hookup_edits.exchange_pins(PLANNED, hookup("M1:LEADS", "X11:A"), "a", "BK", "GN"),
        set(),
    ),
    (
        "the servo's plug is turned round",
        hookup_edits.exchange_pins(PLANNED, hookup("X16:B", "K1:SERVO"), "b", "1", "3"),
        {"signals.power-on-signal:M7:1"},
    ),
    (
        "the pump's feed is exchanged at its plug",
        hookup_edits.exchange_pins(PLANNED, hookup("M8:LEADS", "X31:A"), "a", "1", "2"),
        {"supply.polarity:M8:LEADS"},
    ),
    (
        "the lamp's feed is exchanged, which it does not mind",
        hookup_edits.exchange_pins(PLANNED, hookup("P1:LEADS", "X31:A"), "a", "1", "2"),
        set(),
    ),
    (
        "the small supply is fitted",
        part_of("G2", "fell-ps24"),
        {"supply.budget:G2:OUT"},
    ),
    (
        "the 48 V supply is fitted for 24 V",
        part_of("G2", "fell-ps48"),
        {
            *(
                f"supply.voltage:{d}:G2:{p} over"
                for d, p in (
                    ("K1", "POWER"),
                    ("K2", "CH 1"),
                    ("K2", "CH 2"),
                    ("K2", "CH 3"),
                    ("M5", "LEADS"),
                    ("M8", "LEADS"),
                    ("M9", "LEADS"),
                    ("M10", "LEADS"),
                    ("P1", "LEADS"),
                    ("Q1", "COIL"),
                    ("Q2", "COIL"),
                    ("B7", "LEADS"),
                    ("B10", "LEADS"),
                )
            ),
            *("supply.fuse-load:F2", "supply.contact-current:X31:B 1"),
            "supply.contact-current:X31:B 2",
            *(
                f"signals.contact-rating:K2:(('RELAY {n}', '1'), ('RELAY {n}', '2'))volts"
                for n in (1, 2, 3)
            ),
            "signals.level:B7:K1 IN 7:too high",
        },
    ),
    (
        "a fuse is taken from the wrong box",
        device_edits.set_setting(PLANNED, "F2", "rating_a", 10.0),
        {"supply.fuse:F2"},
    ),
    (
        "a driver is set for another motor",
        device_edits.set_setting(PLANNED, "T1", "current_peak_a", 5.0),
        {"supply.driver-current:M1:T1:over"},
    ),
    (
        "one of two drivers is set lower",
        device_edits.set_setting(PLANNED, "T3", "current_peak_a", 3.0),
        {"supply.twins:Y:current_peak_a"},
    ),
    (
        "one of two drivers has other microsteps",
        device_edits.set_setting(PLANNED, "T2", "microsteps", "8"),
        {"supply.twins:Y:microsteps"},
    ),
    (
        "the negatives are not joined",
        without("G3:OUT", "X2:3"),
        {"supply.no-common:K1:G2:G3"},
    ),
    (
        "the 48 V strip is not fed",
        without("Q2:MAIN", "X1:1"),
        {f"supply.unfed:T{n}:POWER" for n in range(1, 6)},
    ),
    (
        "a stop is on its NO contact",
        hookup_edits.move_port(PLANNED, "S2", "21-22", "23-24", {"21": "23", "22": "24"}),
        {"stops.estop-no:S2:23-24"},
    ),
    (
        "a wire bridges the door stop",
        hookup_edits.add_hookup(
            PLANNED,
            PortRef(device="S1", port="11-12"),
            PortRef(device="S1", port="11-12"),
            (Conductor(a="11", b="12"),),
        ),
        {"stops.bridged:S1:11-12"},
    ),
    (
        "a limit is taken as it is",
        device_edits.set_setting(PLANNED, "K1", "invert/IN 3", "as it is"),
        {"stops.invert:B3:IN 3"},
    ),
    (
        "a limit in a series string is taken as it is: both are named",
        device_edits.set_setting(PLANNED, "K1", "invert/IN 5", "as it is"),
        {"stops.invert:B5:IN 5", "stops.invert:B6:IN 5"},
    ),
    (
        "a limit is wired NO",
        hookup_edits.move_pins(PLANNED, hookup("B3:LEADS", "X18:A"), "a", {"2": "3"}),
        {"stops.limit-no:B3", "stops.invert:B3:IN 3"},
    ),
    (
        "a shield is joined at both ends",
        cable_edits.set_shield(
            PLANNED,
            "W22",
            (PortRef(device="K3", port="ENCODER"), PortRef(device="X22", port="B")),
        ),
        {"harness.shield:W22:both ends"},
    ),
    (
        "a motor cable's shield hangs loose",
        cable_edits.set_shield(PLANNED, "W13", ()),
        {"harness.shield:W13:floating", "harness.beside-motor:W19:W13"},
    ),
    (
        "a label is written twice",
        small.with_cable(PLANNED, "W14", marks=(CoreMark(core=1, label="W14.2"),)),
        {"harness.duplicate-label:W14.2"},
    ),
    (
        "a run is missing",
        route_edits.remove_run(PLANNED, "R7"),
        {f"harness.no-length:{cable}" for cable in ("W40", "W43", "W46")},
    ),
    (
        "a limit was never bought",
        device_edits.remove_device(PLANNED, "B3"),
        {"machine.axis-limit:X:max"},
    ),
    (
        "the encoder's receiver is left out",
        device_edits.remove_device(PLANNED, "K3"),
        {"ports.loose:B9:LEADS"},
    ),
    ("a device gets another name", device_edits.set_name(PLANNED, "M4", "Lift"), set()),
    ("a device gets another number", device_edits.set_designator(PLANNED, "M4", "M44"), set()),
)


# Rules that grow from general truths speak beside those that know the very mistake; what they come
# to is the mistake table's (tests/rules/test_truths.py).
GENERAL = (
    "ports.need", "ports.partner", "ports.half-joined", "signals.supply-on-input",
    "supply.contact-shorts", "harness.no-cable",
)  # fmt: skip


def deserved(result: Result, expected: set[str]) -> set[str]:
    """The keys of what a check found, those of the general rules only where they are expected."""
    found = (*result.open, *result.to_do)
    return {f.key for f in found if f.rule not in GENERAL or f.key in expected}


class OneAtATime(unittest.TestCase):
    def test_each_mistake_makes_its_findings_and_no_other(self) -> None:
        engine = Engine()
        before = {finding.key for finding in engine.check(PLANNED).open}
        self.assertEqual(set(), before)
        chance = seeded("mistakes one at a time")
        for words, machine, expected in some(chance, MISTAKES, len(MISTAKES) // 2):
            with self.subTest(words):
                self.assertEqual(expected, deserved(engine.check(machine), expected))
