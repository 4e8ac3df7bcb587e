"""Outputs against inputs: every inequality on both sides, and what drives what."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from tests import small
from vervain.electrical.levels import (
    inputs_driven_by,
    levels_of,
    mismatches,
    reading_of,
    supply_v,
)
from vervain.files.demos import open_demo
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries

ENTRY = LogicInput(high_min_v=11, low_max_v=5, max_v=30)


def troubles(output: LogicOutput, supply=(23.76, 24.24), entry=ENTRY, reads="either") -> list[str]:
    return [m.trouble for m in mismatches(output, levels_of(output, supply), entry, reads)]


class Inequalities(unittest.TestCase):
    def test_levels_follow_the_supply_less_the_drop(self) -> None:
        pnp = LogicOutput(drive="PNP", drop_v=2.0, low_max_v=2.0)
        levels = levels_of(pnp, (23.76, 24.24))
        self.assertEqual((24.24, 21.76), (levels.high_max_v, levels.high_min_v))
        self.assertIsNone(levels_of(pnp, None).high_max_v)
        npn = LogicOutput(drive="NPN", low_max_v=2.0)
        self.assertIsNone(levels_of(npn, (23.76, 24.24)).high_max_v)

    def test_own_levels_win_over_the_supply(self) -> None:
        fixed = LogicOutput(drive="push-pull", high_min_v=4.4, high_max_v=5.0)
        self.assertEqual(5.0, levels_of(fixed, (23.76, 24.24)).high_max_v)

    def test_table(self) -> None:
        five = {"high_min_v": 4.4, "high_max_v": 5.0, "low_max_v": 0.4}
        push = LogicOutput(drive="push-pull", **five)
        pnp = LogicOutput(drive="PNP", drop_v=2.0)
        npn = LogicOutput(drive="NPN", low_max_v=2.0)
        logic = LogicInput(high_min_v=3.5, low_max_v=1.0, max_v=5.5)
        for name, output, entry, reads, expected in (
            ("5 V logic into 5 V logic", push, logic, "either", []),
            ("5 V logic into 24 V input", push, ENTRY, "either", ["high too low"]),
            ("PNP into an input that reads PNP", pnp, ENTRY, "PNP", []),
            ("PNP into an input that reads NPN", pnp, ENTRY, "NPN", ["wrong drive"]),
            ("NPN into an input that reads NPN", npn, ENTRY, "NPN", []),
            ("NPN into an input that reads PNP", npn, ENTRY, "PNP", ["wrong drive"]),
            ("PNP at 24 V into 5 V logic", pnp, logic, "either", ["too high"]),
            ("NPN with a high low into 5 V logic", npn, logic, "either", ["low too high"]),
            ("push-pull is read by any", push, logic, "NPN", []),
        ):
            with self.subTest(name):
                self.assertEqual(expected, troubles(output, entry=entry, reads=reads))

    @given(
        st.floats(0, 30), st.floats(0, 30), st.floats(0, 10), st.floats(0.1, 30), st.floats(0, 10)
    )
    def test_silence_means_every_inequality_holds(self, high, spread, low, v_ih, v_il) -> None:
        output = LogicOutput(
            drive="push-pull", high_min_v=high, high_max_v=high + spread, low_max_v=low
        )
        entry = LogicInput(high_min_v=v_ih, low_max_v=v_il, max_v=24.0)
        holds = high + spread <= 24.0 and high >= v_ih and low <= v_il
        self.assertEqual(holds, not troubles(output, entry=entry))


class InMachines(unittest.TestCase):
    def test_a_jumper_decides_what_a_bank_reads(self) -> None:
        machine = small.sensor_in("IN 1")
        pin = PinRef(device="K1", port="IN 1", pin="2")
        entry = Queries(machine).pin(pin).electrical
        self.assertEqual("NPN", reading_of(Queries(machine), pin, entry))
        turned = small.with_setting(machine, "K1", "JP1", "PNP")
        self.assertEqual("PNP", reading_of(Queries(turned), pin, entry))

    def test_supply_at_a_sensor_is_that_of_its_source(self) -> None:
        queries = Queries(small.sensor_in("IN 5"))
        low, high = supply_v(queries, PinRef(device="B1", port="LEADS", pin="2"))
        self.assertAlmostEqual(23.76, low)
        self.assertAlmostEqual(24.24, high)
        self.assertIsNone(supply_v(queries, PinRef(device="K1", port="STOP", pin="1")))

    def test_step_outputs_drive_exactly_one_driver_each(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        for axis in range(1, 6):
            driven = inputs_driven_by(queries, PinRef(device="K1", port=f"AXIS {axis}", pin="1"))
            self.assertEqual([f"T{axis}"], [pin.device for pin in driven])
