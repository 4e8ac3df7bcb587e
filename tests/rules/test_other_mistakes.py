"""One mistake at a time in the planned printer and arm: exactly the findings that it deserves."""

import unittest

from builder import hookup_between, with_part, without
from tests import small
from tests.rules.test_mistakes import deserved
from tests.sampling import seeded, some
from vervain.edits import axis_edits, device_edits, hookup_edits
from vervain.files.demos import open_demo
from vervain.leads.rewiring import use_windings
from vervain.model.machine import Machine
from vervain.rules.engine import Engine

PRINTER = open_demo("clay-printer-as-planned")
ARM = open_demo("seedling-arm-as-planned")


def exchanged(machine: Machine, a: str, b: str, side: str, first: str, second: str) -> Machine:
    return hookup_edits.exchange_pins(machine, hookup_between(machine, a, b), side, first, second)


def joined(machine: Machine, a: str, b: str, pins: str) -> Machine:
    build = small.Builder(machine)
    build.join(a, b, pins)
    return build.machine


def fed_by(machine: Machine, designator: str, part: str) -> Machine:
    return with_part(machine, designator, part)


def faster(machine: Machine, axis: str, speed: float) -> Machine:
    return axis_edits.set_axis_number(machine, axis, "speed_max", speed)


# What is done wrong, the machine before, the machine with it, and the keys that are new.
MISTAKES: tuple[tuple[str, Machine, Machine, set[str]], ...] = (
    (
        "a driver is pulled out of its slot",
        PRINTER,
        without(PRINTER, "T1:FOOT", "K1:SLOT X"),
        {"ports.empty-slot:K1:X", "ports.loose:T1:FOOT"},
    ),
    (
        "one of two motors on a slot is unplugged: the other gets all the current",
        PRINTER,
        without(PRINTER, "M4:LEADS", "K1:Z B"),
        {"ports.loose:M4:LEADS", "supply.driver-current:M3:T3:over"},
    ),
    (
        "both Z motors turn the same way round, and they look at each other",
        PRINTER,
        exchanged(PRINTER, "M4:LEADS", "K1:Z B", "a", "BK", "GN"),
        {"machine.twins-direction:Z"},
    ),
    (
        "a thermistor is turned round, which it does not mind",
        PRINTER,
        exchanged(PRINTER, "B4:LEADS", "K1:TH 1", "a", "1", "2"),
        set(),
    ),
    (
        "the fan is turned round",
        PRINTER,
        exchanged(PRINTER, "M6:LEADS", "X13:A", "a", "1", "2"),
        {"supply.polarity:M6:LEADS"},
    ),
    (
        "the heater sits in the fan's output",
        PRINTER,
        joined(without(PRINTER, "E2:LEADS", "K1:HEAT"), "E2:LEADS", "K1:FAN 2", "1-1 2-2"),
        {
            "signals.output-current:K1:FAN 2",
            # Its cut-out is joined from HEAT to the fan's plus: it cuts nothing any more.
            "signals.contact-idle:B7:LEADS 2",
            "supply.contact-current:K1:FAN 2 2",
            "harness.unused-cores:W15",
            "harness.short-lead:H31:K1",
            "harness.contact-gauge:H31:K1 FAN 2",
        },
    ),
    (
        "the small 24 V supply feeds the 12 V printer",
        PRINTER,
        fed_by(PRINTER, "G1", "fell-ps24"),
        {
            "supply.budget:G1:OUT",
            "supply.voltage:E1:G1:LEADS over",
            "supply.voltage:E2:G1:LEADS over",
            "supply.voltage:M6:G1:LEADS over",
            "supply.voltage:Q1:G1:COIL over",
            # The coil takes more at 24 V than the fuse of the control was chosen for.
            "supply.fuse-load:F1",
        },
    ),
    (
        "the fuse on the board is too large for the heater's wires",
        PRINTER,
        device_edits.set_setting(PRINTER, "K1", "rating_a", 10.0),
        {"supply.fuse:K1"},
    ),
    (
        "an endstop sits in the input of another axis",
        PRINTER,
        joined(without(PRINTER, "B1:LEADS", "K1:STOP X"), "B1:LEADS", "K1:STOP Y", "COM-0V NC-S"),
        {"ports.two-devices:K1:STOP Y", "ports.axis-name:B1:K1 STOP Y"},
    ),
    (
        "a coil of the auger is split",
        PRINTER,
        exchanged(PRINTER, "X11:B", "K1:E0", "b", "2", "3"),
        {"leads.split-coil:M5"},
    ),
    (
        "the printer's X axis is asked for more than its board gives",
        PRINTER,
        faster(PRINTER, "X", 2001),
        {"machine.step-rate:X", "supply.speed:X:M1"},
    ),
    (
        "a link of the chained feed is missing: all behind it are dead",
        ARM,
        without(ARM, "T3:NEXT", "T4:FEED"),
        {"supply.unfed:T4:FEED", "supply.unfed:T5:FEED"},
    ),
    (
        "a link of the chained feed is turned round",
        ARM,
        exchanged(ARM, "T4:NEXT", "T5:FEED", "b", "1", "2"),
        {"supply.polarity:T5:FEED"},
    ),
    (
        "the duty limit of the wheels is forgotten",
        ARM,
        device_edits.set_setting(ARM, "T6", "duty_max", 100.0),
        {"supply.bridge-duty:T6:M7", "supply.bridge-duty:T6:M8"},
    ),
    (
        "a wheel motor is turned round: it only turns the other way",
        ARM,
        exchanged(ARM, "M7:LEADS", "T6:OUT 1", "a", "1", "2"),
        set(),
    ),
    (
        "the common of the joint switches is off: none of them is heard",
        ARM,
        hookup_edits.set_conductors(
            ARM,
            hookup_between(ARM, "X11:B", "K1:IN 1"),
            hookup_edits.find_hookup(ARM, hookup_between(ARM, "X11:B", "K1:IN 1")).conductors[:1],
        ),
        {f"signals.contact-unread:B{n + 5}:K1 IN {n}" for n in range(1, 6)},
    ),
    (
        "the inputs are set to read PNP: the switches to 0 V are not read",
        ARM,
        device_edits.set_setting(ARM, "K1", "JP1", "PNP"),
        {f"signals.contact-unread:B{n + 5}:K1 IN {n}" for n in range(1, 6)}
        # The relays' own contacts, which go to 0 V as well.
        | {"signals.unchanging:K1:K1 IN 6"},
    ),
    (
        "an encoder's channels are crossed",
        ARM,
        exchanged(ARM, "B1:LEADS", "K1:COUNT 1", "a", "3", "4"),
        {"leads.swapped:B1"},
    ),
    (
        "the encoder of the hand is faster than its counter",
        ARM,
        faster(ARM, "J5", 4100),
        {
            "machine.step-rate:J5",
            "machine.step-pulse:J5:M5",
            "machine.encoder-rate:J5:channel",
            "supply.speed:J5:M5",
        },
    ),
    (
        "the probe of 5 V is fitted",
        ARM,
        fed_by(ARM, "B11", "quoin-sm5"),
        {"signals.level:B11:K2 ANALOGUE 1:too high"},
    ),
    (
        "the small converter feeds the servo",
        ARM,
        fed_by(ARM, "G2", "quoin-dc6s"),
        {"supply.budget:G2:OUT"},
    ),
    (
        "the wheels' fuse is larger than their wire",
        ARM,
        device_edits.set_setting(ARM, "F2", "rating_a", 20.0),
        {"supply.fuse:F2"},
    ),
)


class OneMistake(unittest.TestCase):
    def test_each_gives_its_findings_and_no_other(self) -> None:
        engines = {id(PRINTER): Engine(), id(ARM): Engine()}
        chance = seeded("mistakes of other machines")
        for words, before, wrong, expected in some(chance, MISTAKES, len(MISTAKES) // 2):
            engine = engines[id(before)]
            known = {finding.key for finding in engine.check(before).open}
            new = deserved(engine.check(wrong), expected) - known
            with self.subTest(words):
                self.assertEqual(expected, new)


class WindingMistakes(unittest.TestCase):
    def test_the_gantrys_eight_leads_in_series_need_another_current(self) -> None:
        gantry = open_demo("glazing-gantry-as-planned")
        engine = Engine()
        known = {finding.key for finding in engine.check(gantry).open}
        series = use_windings(gantry, "M4", "series")
        new = {finding.key for finding in engine.check(series).open} - known
        # Four times the inductance does not reach the top speed either.
        self.assertEqual({"supply.driver-current:M4:T4:over", "supply.speed:Z:M4"}, new)
        mended = device_edits.set_setting(series, "T4", "current_peak_a", 2.1)
        left = {finding.key for finding in engine.check(mended).open}
        self.assertEqual(known | {"supply.speed:Z:M4"}, left)
