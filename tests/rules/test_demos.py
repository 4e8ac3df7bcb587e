"""The demos carry the findings that they were built with, and no other."""

import unittest

from tests.rules.test_mistakes import deserved
from vervain.files.demos import DEMOS, open_demo
from vervain.rules.engine import Engine, check_machine


class Demos(unittest.TestCase):
    def test_as_planned_has_nothing_above_workmanship(self) -> None:
        for demo in DEMOS:
            if demo.key.endswith("as-planned"):
                result = check_machine(open_demo(demo.key))
                with self.subTest(demo.key):
                    above = [f.key for f in result.open if f.consequence != "Workmanship"]
                    self.assertEqual([], above)

    def test_the_printer_and_the_arm_as_found_carry_exactly_their_mistakes(self) -> None:
        for demo, expected in (
            ("clay-printer-as-found", {
                "ports.shorts-supply:B1:K1 STOP X", "signals.output-current:K1:HEAT",
                "supply.driver-current:M1:T1:over", "supply.fuse:F2", "supply.polarity:M6:LEADS",
                "leads.split-coil:M2", "ports.empty-slot:K1:E1", "ports.loose:B5:LEADS",
                "signals.sensor-drive:B3:K1 STOP Z", "supply.voltage:B3:K1:LEADS under",
                "stops.invert:B2:STOP Y", "harness.duplicate-label:W12.1",
                # What the short and the bed in the heater's output do to the feeds.
                "supply.budget:K1:STOP X", "supply.fuse-load:K1", "supply.drop:W1",
                "supply.driver-heat:T1",
                "stops.minus-side:S1:11-12", "stops.restarts:S1",
                "stops.unnoticed:S1:E1:E2:T1:T2:T3:T4",
                # The bridge over the start button, seen by itself.
                "signals.contact-idle:S2:13-14 14", "ports.crowded-contact:S2:13-14 13",
            }),
            ("seedling-arm-as-found", {
                "signals.level:B11:K2 ANALOGUE 1:too high", "signals.power-on-signal:M6:1",
                "supply.bridge-duty:T6:M7", "supply.bridge-duty:T6:M8",
                "supply.driver-current:M4:T4:over", "supply.fuse:F2", "stops.estop-no:S1:13-14",
                "machine.step-rate:J2", "leads.split-coil:M3", "ports.loose:B4:LEADS",
                "ports.two-devices:K1:IN 4", "supply.no-common:K2:G1:G2", "supply.no-return:K3",
                # The top speed that asks for too many steps asks for too much voltage as well.
                "supply.speed:J2:M2",
                "harness.duplicate-label:W40.2",
                "stops.power-stays:S1:T5", "supply.fuse:F4", "stops.no-brake:J2",
                "stops.invert:B8:IN 3",
            }),
        ):  # fmt: skip
            with self.subTest(demo):
                result = check_machine(open_demo(demo))
                self.assertEqual(expected, deserved(result, expected))

    def test_as_found_carries_its_mistakes_over_the_stages(self) -> None:
        result = check_machine(open_demo("glazing-gantry-as-found"))
        keys = {finding.key for finding in result.open}
        for key in (
            "leads.split-coil:M4",
            "ports.two-devices:K1:IN 4",
            "ports.loose:B7:LEADS",
            "signals.level:B9:K1 ENC 1:too high",
            "signals.power-on-signal:M7:1",
            "supply.no-common:K1:G2:G3",
            "supply.budget:G2:OUT",
            "supply.fuse:F4",
            "stops.estop-no:S2:23-24",
            "stops.bridged:S2:23-24",
            "harness.duplicate-label:W16.2",
        ):
            self.assertIn(key, keys)
        self.assertEqual(
            {"Machine", "Leads", "Ports", "Supply", "Stops", "Harness"},
            {finding.stage for finding in result.open},
        )

    def test_doing_every_fix_leaves_only_what_needs_a_part(self) -> None:
        machine = open_demo("glazing-gantry-as-found")
        engine = Engine()
        for _ in range(40):
            fixable = [f for f in engine.check(machine).open if f.fixes]
            if not fixable:
                break
            machine = fixable[0].fixes[0].remedy.apply(machine)
        left = {finding.rule for finding in check_machine(machine).open}
        # A larger supply has to be bought.
        self.assertEqual({"supply.budget"}, left)
