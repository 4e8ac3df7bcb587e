"""Every rule was seen firing and silent; limits are tried on both sides."""

import unittest
from collections.abc import Callable
from functools import cache

from msgspec.structs import replace

from tests import small
from tests.rules import (
    contact_cases,
    described_cases,
    harness_cases,
    joined_cases,
    mains_cases,
    measuring_cases,
    signal_cases,
    stop_cases,
    supply_cases,
    truth_cases,
)
from tests.rules.findings import found
from tests.sampling import seeded, some
from vervain.edits import axis_edits as edits_axis
from vervain.edits import measurement_edits
from vervain.files.demos import open_demo
from vervain.model.machine import CoreMark, LabelTemplates, Machine
from vervain.model.measurements import BODY, Reading
from vervain.model.part import OutputBank
from vervain.rules.finding import Finding
from vervain.rules.registry import RULES
from vervain.rules.rule import FAMILY_STAGES, rule

Made = Callable[[], Machine]


def no_motor() -> Machine:
    return small.with_axis(small.bench("B1 osier-rl2").machine, home="B1")


def open_axis(**roles: str) -> Machine:
    return small.with_axis(small.bench("M1 fell-s57").machine, drives=("M1",), **roles)


def endstop(pins: str) -> Machine:
    """A two-lead switch in a three-pin port of a printer board."""
    build = small.bench("K1 tarn-pb5", "B1 osier-ms2")
    build.join("B1:LEADS", "K1:STOP X", pins)
    return build.machine


def bed_on(port: str) -> Machine:
    """A drying bed of 11 A on one of the board's outputs."""
    build = small.bench("K1 tarn-pb5", "E1 osier-hb300")
    build.join("E1:LEADS", f"K1:{port}", "1-1 2-2")
    return build.machine


def wheel(duty: float) -> Machine:
    """A 12.6 V motor on a bridge at 24 V plus 1 %: 12.6 / 24.24 is 51.98 %."""
    build = small.bench("T1 fell-hb2", "M1 quoin-gm12", "G1 fell-ps24")
    build.join("G1:OUT", "T1:FEED", "1-1 2-2")
    build.join("M1:LEADS", "T1:OUT 1", "+-1 −-2")
    return small.with_setting(build.machine, "T1", "duty_max", duty)


def eight(pins: str) -> Machine:
    """An eight-lead motor on a driver."""
    build = small.bench("M1 osier-sm86-8", "T1 fell-d72")
    build.join("M1:LEADS", "T1:MOTOR", pins)
    return build.machine


def six(pins: str) -> Machine:
    """A six-lead motor on a driver."""
    build = small.bench("M1 osier-sm57-6", "T1 fell-d72")
    build.join("M1:LEADS", "T1:MOTOR", pins)
    return build.machine


def unknown_motor() -> Machine:
    """A motor of which nothing tells the coils."""
    return small.with_part(
        small.bench("M1 fell-s57").machine, "fell-s57", lambda part: replace(part, inside=())
    )


def valves(count: int) -> Machine:
    """Valves of 0.45 A on outputs of 0.5 A, of which a bank gives 1 A."""
    build = small.powered_controller()
    for number in range(1, count + 1):
        build.device(f"Y{number}", "larkmoor-av24", "Valve", None)
        build.join(f"Y{number}:LEADS", f"K1:OUT {number}", "1-1 2-2")
    bank = OutputBank(name="A", ports=("OUT 1", "OUT 2", "OUT 3"), current_max_a=1.0)
    return small.with_part(build.machine, "tarn-mc5", lambda part: replace(part, banks=(bank,)))


def read_motor(first_ohm: float, second_ohm: float, body: str = "open") -> Machine:
    """A motor of 0.9 ohm a coil, measured with a meter that errs by 1 % and 0.05 ohm: the datasheet
    allows 0.9 +- 0.149, two coils 0.085 + 0.0585 + 0.0604 (0.06) apart.
    """
    machine = small.bench("M1 fell-s57").machine
    machine = replace(machine, meter=replace(machine.meter, leads_ohm=0.0))
    for a, b, ohms in (("BK", "GN", first_ohm), ("RD", "BU", second_ohm)):
        reading = Reading(a=a, b=b, saw="ohms", resistance_ohm=ohms)
        machine = measurement_edits.add_reading(machine, "M1", reading)
    if body == "touch":
        reading = Reading(a="BK", b=BODY, saw="ohms", resistance_ohm=4.0)
        machine = measurement_edits.add_reading(machine, "M1", reading)
    return measurement_edits.set_coils(machine, "M1", (("BK", "GN"), ("RD", "BU")))


def sensor_pins(pins: str) -> Machine:
    """A sensor in an input with its leads on these pins."""
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Sensor", None)
    build.join("B1:LEADS", "K1:IN 5", pins)
    return build.machine


def twice_plugged(port: str) -> Machine:
    """A switch in two inputs."""
    build = small.Builder(small.switch_in("IN 5"))
    build.join("B1:LEADS", f"K1:{port}", "COM-1 NC-2")
    return build.machine


def printer_stop(port: str) -> Machine:
    """The home switch of X in a stop port of a printer board, beside an axis Y."""
    build = small.bench("K1 tarn-pb5", "B1 osier-ms2")
    build.join("B1:LEADS", f"K1:{port}", "COM-0V NC-S")
    machine = small.with_axis(build.machine, home="B1")
    return edits_axis.add_axis(machine, "Y")


def pulling(second: str) -> Machine:
    """Two motors on one axis."""
    return small.with_axis(small.bench("M1 fell-s57", f"M2 {second}").machine, drives=("M1", "M2"))


def far_encoder(length_m: float) -> Machine:
    """A single-ended encoder with leads of 0.5 m on a cable."""
    build = small.bench("K1 larkmoor-pc12", "B1 larkmoor-e600")
    build.cable("W1", "pair-4x2x0.14", length_m)
    build.join("B1:LEADS", "K1:COUNT 1", "+-5V A-A B-B −-0V", "W1")
    return build.machine


def coloured(plus: str, minus: str) -> Machine:
    """A sensor whose plus and minus have these colours."""

    def change(part):
        port = part.port("LEADS")
        colours = {"plus": plus, "zero": minus}
        pins = tuple(replace(p, lead=colours.get(p.function, p.lead)) for p in port.pins)
        return replace(part, ports=(replace(port, pins=pins),))

    return small.with_part(small.bench("B1 larkmoor-ip12").machine, "larkmoor-ip12", change)


def servo_in(part: str) -> Machine:
    """A servo's plug straight in a port with the order signal, 0 V, plus."""
    build = small.bench("K1 tarn-mc5", f"M1 {part}")
    build.join("M1:PLUG", "K1:SERVO", "S-S −-2 +-3")
    return build.machine


def gantry_x(**values) -> Machine:
    """The planned gantry with other values of X."""
    machine = open_demo("glazing-gantry-as-planned")
    axes = tuple(replace(axis, **values) if axis.id == "X" else axis for axis in machine.axes)
    return replace(machine, axes=axes)


def turning(speed_max: float, travel: float = 360) -> Machine:
    """The planned gantry with its turntable faster; 250 kHz a channel is 15,000 degrees/s."""
    machine = open_demo("glazing-gantry-as-planned")
    axes = tuple(
        replace(axis, speed_max=speed_max, travel=travel, endless=False) if axis.id == "A" else axis
        for axis in machine.axes
    )
    return replace(machine, axes=axes)


def two_in_one() -> Machine:
    build = small.Builder(small.sensor_in("IN 5"))
    build.device("B2", "larkmoor-ip12", "Other", None)
    build.join("B2:LEADS", "K1:IN 5", "+-1 OUT-2 −-3")
    return build.machine


def plugless() -> Machine:
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Sensor", None)
    return build.machine


def wrong_port() -> Machine:
    build = small.powered_controller()
    build.device("B1", "larkmoor-ip12", "Sensor", None)
    build.join("B1:LEADS", "K1:WHEEL", "OUT-A")
    return build.machine


def encoder_on(port: str) -> Machine:
    build = small.powered_controller()
    build.device("B1", "larkmoor-e1000", "Encoder", None)
    build.device("K2", "quoin-dr3", "Receiver", None)
    build.join("K2:OUT", "K1:ENC 1", "5V-5V 0V-0V")
    build.join("B1:LEADS", port, "A-A B-B +-5V −-0V")
    return build.machine


def twins(second: float) -> Machine:
    build = small.bench("M1 fell-s57", "M2 fell-s57", "T1 fell-d72", "T2 fell-d72")
    for number in "12":
        build.join(f"M{number}:LEADS", f"T{number}:MOTOR", "BK-1 GN-2 RD-3 BU-4")
    machine = small.with_axis(build.machine, drives=("M1", "M2"))
    machine = small.with_setting(machine, "T1", "current_peak_a", 3.0)
    return small.with_setting(machine, "T2", "current_peak_a", second)


def beside_a_fan(pins: str) -> Machine:
    """A supply beside that of a fan, one of its terminals joined to the other's 0 V."""
    build = small.Builder(small.fan())
    build.device("G9", "fell-ps24", "Supply", None)
    build.join("G9:OUT", "G1:OUT", pins)
    return build.machine


def two_supplies() -> Machine:
    build = small.bench("G1 fell-ps24", "G2 fell-ps24")
    build.join("G1:OUT", "G2:OUT", "1-1 2-2")
    return build.machine


def unrated() -> Machine:
    def forget(part):
        return small.with_electrical(part, "LEADS", "1", current_a=None)

    return small.with_part(small.fan(), "quoin-bf24", forget)


def long_labels() -> Machine:
    templates = LabelTemplates(core="{cable}-{core}-{device}-{port}-{pin}")
    return replace(small.cabled_fan(), label_templates=templates)


SAME_LABEL = (CoreMark(core=1, label="W1.2"),)

# Each rule's id: a machine on which it fires, and one on which it is silent.
CASES: dict[str, tuple[Made, Made]] = {
    "machine.no-motor": (no_motor, small.motor_on_driver),
    "machine.axis-limit": (lambda: open_axis(min_limit="M1"), small.motor_on_driver),
    "ports.shorts-supply": (lambda: endstop("COM-0V NC-5V"), lambda: endstop("COM-0V NC-S")),
    "signals.output-current": (lambda: bed_on("HEAT"), lambda: bed_on("BED")),
    "signals.bank-current": (lambda: valves(3), lambda: valves(2)),
    "supply.bridge-duty": (lambda: wheel(52.0), lambda: wheel(51.0)),
    "leads.winding-reversed": (
        lambda: eight("RD-1 BK-2 WHRD-2 WHBK-1 YE-3 BU-3 WHYE-4 WHBU-4"),
        lambda: eight("RD-1 BK-1 WHRD-2 WHBK-2 YE-3 BU-3 WHYE-4 WHBU-4"),
    ),
    "leads.tap-connected": (
        lambda: six("BK-1 YE-2 GN-2 RD-3 BU-4"),
        lambda: six("BK-1 GN-2 RD-3 BU-4"),
    ),
    "leads.unidentified": (unknown_motor, lambda: read_motor(0.9, 0.9)),
    "leads.fault": (lambda: read_motor(0.9, 0.9, "touch"), lambda: read_motor(0.9, 0.9)),
    "leads.resistance": (lambda: read_motor(1.06, 1.06), lambda: read_motor(1.04, 1.04)),
    "leads.unequal": (lambda: read_motor(0.85, 1.06), lambda: read_motor(0.85, 1.04)),
    "leads.sensor-colours": (lambda: coloured("BU", "BN"), lambda: coloured("BN", "BU")),
    "signals.contact-unread": (
        lambda: small.with_setting(small.switch_in("IN 5"), "K1", "JP2", "NPN"),
        lambda: small.switch_in("IN 5"),
    ),
    "ports.two-ports": (lambda: twice_plugged("IN 6"), lambda: small.switch_in("IN 5")),
    "ports.axis-name": (lambda: printer_stop("STOP Y"), lambda: printer_stop("STOP X")),
    "machine.unlike-motors": (lambda: pulling("fell-s60"), lambda: pulling("fell-s57")),
    "signals.encoder-length": (lambda: far_encoder(2.51), lambda: far_encoder(2.49)),
    "leads.swapped": (lambda: sensor_pins("+-2 OUT-1 −-3"), lambda: sensor_pins("+-1 OUT-2 −-3")),
    "leads.servo-order": (lambda: servo_in("quoin-ps20"), lambda: servo_in("quoin-ps9")),
    "machine.no-home": (open_axis, small.motor_on_driver),
    "machine.step-rate": (lambda: gantry_x(speed_max=1251), lambda: gantry_x(speed_max=1250)),
    "machine.step-pulse": (lambda: gantry_x(speed_max=2501), lambda: gantry_x(speed_max=2499)),
    "machine.encoder-rate": (lambda: turning(15_001), lambda: turning(14_999)),
    "machine.counter-range": (lambda: turning(90, 1e9), lambda: turning(90, 360)),
    "machine.no-gearing": (open_axis, lambda: gantry_x(speed_max=250)),
    "leads.split-coil": (
        lambda: small.motor_on_driver(pins="BK-1 RD-2 GN-3 BU-4"),
        small.motor_on_driver,
    ),
    "leads.left-off": (
        lambda: small.motor_on_driver(pins="BK-1 GN-2 RD-3"),
        small.motor_on_driver,
    ),
    "leads.phases": (
        lambda: small.motor_on_driver("fell-d73", "BK-1 GN-2 RD-3"),
        small.motor_on_driver,
    ),
    "ports.two-devices": (two_in_one, lambda: small.sensor_in("IN 5")),
    "ports.loose": (plugless, lambda: small.sensor_in("IN 5")),
    "ports.wrong-kind": (wrong_port, lambda: small.sensor_in("IN 5")),
    "ports.empty-slot": (lambda: small.slotted(False), lambda: small.slotted(True)),
    "signals.level": (lambda: encoder_on("K1:ENC 1"), lambda: encoder_on("K2:ENCODER")),
    "signals.sensor-drive": (
        lambda: small.sensor_in("IN 1"),
        lambda: small.sensor_in("IN 1", "larkmoor-in12"),
    ),
    "signals.power-on-signal": (lambda: small.servo("S-3 −-2 +-1"), small.servo),
    "supply.no-common": (lambda: small.servo(common=False), small.servo),
    "harness.shield": (
        lambda: small.shielded_encoder("B1:LEADS", "K1:ENCODER"),
        lambda: small.shielded_encoder("K1:ENCODER"),
    ),
    "supply.voltage": (lambda: small.fan(supply="fell-ps48"), small.fan),
    "supply.unfed": (lambda: small.bench("K1 tarn-mc5").machine, small.fan),
    "supply.polarity": (lambda: small.fan("1-− 2-+"), small.fan),
    "supply.budget": (
        lambda: small.with_part(
            small.fan(), "quoin-bf24", lambda p: small.with_electrical(p, "LEADS", "1", current_a=6)
        ),
        small.fan,
    ),
    "supply.two-sources": (two_supplies, small.fan),
    "supply.in-series": (lambda: beside_a_fan("1-2"), lambda: beside_a_fan("2-2")),
    "supply.no-rating": (unrated, small.fan),
    "supply.driver-current": (
        lambda: small.with_setting(small.motor_on_driver(), "T1", "current_peak_a", 5.0),
        small.motor_on_driver,
    ),
    "supply.fuse": (lambda: small.fused_fan(10), lambda: small.fused_fan(5)),
    "supply.twins": (lambda: twins(2.5), lambda: twins(3.0)),
    "harness.duplicate-label": (
        lambda: small.cabled_fan(marks=SAME_LABEL),
        lambda: small.cabled_fan(marks=(CoreMark(core=1, label="FAN"),)),
    ),
    "harness.long-label": (long_labels, small.cabled_fan),
    **signal_cases.CASES | supply_cases.CASES | harness_cases.CASES | truth_cases.CASES,
    **described_cases.CASES,
    **contact_cases.CASES,
    **mains_cases.CASES,
    **measuring_cases.CASES,
    **stop_cases.CASES,
    **joined_cases.CASES,
}


@cache
def case(rule_id: str, number: int) -> tuple[Machine, list[Finding]]:
    """The machine on which a rule fires (0) or is silent (1), and what it says; checked once."""
    machine = CASES[rule_id][number]()
    return machine, found(machine, rule_id)


class EveryRule(unittest.TestCase):
    def test_every_rule_fires_and_is_silent(self) -> None:
        self.assertEqual({rule.id for rule in RULES}, set(CASES))
        for rule_id in CASES:
            with self.subTest(rule_id):
                self.assertTrue(case(rule_id, 0)[1], "does not fire")
                self.assertEqual([], case(rule_id, 1)[1])

    def test_machines_that_measure_are_told_by_the_rules_of_all(self) -> None:
        for words, (rule_id, wrong, right) in measuring_cases.TOLD.items():
            with self.subTest(words):
                self.assertTrue(found(wrong(), rule_id), "does not fire")
                self.assertEqual([], found(right(), rule_id))

    def test_findings_say_where_and_what(self) -> None:
        for rule_id in CASES:
            for finding in case(rule_id, 0)[1]:
                with self.subTest(rule_id):
                    self.assertTrue(finding.sentence.endswith("."))
                    self.assertTrue(finding.subjects or rule_id == "harness.long-label")
                    self.assertEqual(finding.value is None, finding.limit is None)

    def test_every_fix_takes_its_finding_away(self) -> None:
        for rule_id in some(seeded("fixes of rules"), list(CASES), len(CASES) // 2):
            machine, told = case(rule_id, 0)
            for finding in told:
                for fix in finding.fixes:
                    with self.subTest(f"{rule_id}: {fix.words}"):
                        mended = fix.remedy.apply(machine)
                        keys = {item.key for item in found(mended, rule_id)}
                        self.assertNotIn(finding.key, keys)

    def test_a_rule_without_words_is_refused(self) -> None:
        words = {"title": "t", "reason": "r", "source": "s"}
        for empty in words:
            with self.subTest(empty), self.assertRaises(ValueError):
                rule(
                    id="ports.y",
                    consequence="Damage",
                    scope="device",
                    **{**words, empty: " "},
                )

    def test_id_folder_and_stage_say_the_same(self) -> None:
        for checked in RULES:
            family, _, name = checked.id.partition(".")
            with self.subTest(checked.id):
                self.assertEqual(FAMILY_STAGES[family], checked.stage)
                self.assertIn(f"vervain.rules.{family}.", checked.module)
                self.assertTrue(name)
        with self.assertRaises(KeyError):
            rule(
                id="nowhere.y",
                consequence="Damage",
                scope="device",
                title="t",
                reason="r",
                source="s",
            )
