"""What goes at a stop in proposals: drives together behind one contactor, a starter whole, a coil
that a controller works; thin wires behind fuses, and sizes of what is behind them.
"""

import unittest

from msgspec.structs import replace

from builder import Builder
from stopped_machines import unwired_carrier, unwired_picker, unwired_starter, unwired_station
from tests.supply.test_feeding_safety_relay import at, grave, wired
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.supply.mains_tree import mains_tree


def by_hand_and_program() -> Machine:
    """A pump motor whose contactor an output of a controller works, with a stop."""
    build = Builder(Machine(name="Press"))
    for name, called, typed in (
        ("J1", "Mains", Draft(kind="connector", pins_text="L1 L2 L3 N PE")),
        ("Q1", "Pump", Draft(
            kind="contactor", pins_text="A1 A2\n1 2 3 4 5 6",
            numbers={"nominal_v": 24, "current_a": 0.12, "contact_max_a": 16},
        )),
        ("M1", "Pump", Draft(
            kind="three-phase motor", pins_text="U V W PE",
            numbers={"nominal_v": 400, "current_a": 5},
        )),
        ("G1", "Supply", Draft(kind="supply", pins_text="L N PE\n+ -",
                               numbers={"nominal_v": 24, "current_a": 2.5})),
        ("K1", "Press", Draft(
            kind="controller", pins_text="24V 0V\nY0 Y1 COM1",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
            circuits={"Y0/output": "High-side switch, 0.5 A, with a diode for coils"},
        )),
        ("S1", "Stop", Draft(kind="emergency stop", pins_text="11 12 21 22",
                             numbers={"contact_max_a": 6})),
    ):  # fmt: skip
        part = describe(replace(typed, title=called), f"my-{name}").part
        assert part is not None
        build.add(name, part, called)
    return build.machine


class Stopped(unittest.TestCase):
    def test_more_drives_than_poles_have_their_mains_behind_them_together(self) -> None:
        machine, plan = wired(unwired_picker())
        words = [step.words for step in plan.steps]
        self.assertIn("X2, terminals for what goes at a stop", words)
        through = {"X2 L goes through Q1 1L1-2T1", "X2 N goes through Q1 3L2-4T2"}
        self.assertEqual(set(), through - {*words})
        queries = Queries(machine)
        for drive in ("T1", "T2", "T3"):
            self.assertIn(at("Q1:1L1-2T1:2T1"), queries.net(at(f"{drive}:MAINS:1")))
        (demand,) = stop_demands(queries)
        self.assertEqual((), demand.stays)
        self.assertEqual(["stops.restarts", "stops.unnoticed"], sorted(grave(machine)))
        # What a motor takes its drive takes: the breaker is no larger for it.
        self.assertEqual(8.0, queries.setting("F1", "rating_a"))

    def test_a_starter_has_its_breaker_its_contactor_and_its_overload_relay(self) -> None:
        machine, plan = wired(unwired_starter())
        self.assertIn("S4, F2, S3 stop Q1, S2 starts", [step.words for step in plan.steps])
        tree = mains_tree(Queries(machine))
        assert tree is not None
        rows = [(b.label, b.depth) for b in tree.branches if b.device in ("S1", "F1", "Q1", "M1")]
        self.assertEqual(["S1", "F1 6 A", "Q1", "M1"], [label for label, _ in rows])
        self.assertEqual([1, 2, 3, 4], [depth for _, depth in rows])
        for pole, phase in enumerate("123", 1):
            end = f"F2:{2 * pole - 1}/L{pole}-{2 * pole}/T{pole}:{2 * pole}/T{pole}"
            self.assertIn(at(end), Queries(machine).net(at(f"M1:LEADS:{phase}")))
        self.assertEqual([], grave(machine))

    def test_a_stop_lies_in_the_coil_that_a_controller_works(self) -> None:
        machine, plan = wired(by_hand_and_program())
        self.assertIn("S1 stops Q1", [step.words for step in plan.steps])
        (demand,) = stop_demands(Queries(machine))
        self.assertEqual(("S1", ()), (demand.stop, demand.stays))
        self.assertIn(at("S1:11-12:12"), Queries(machine).net(at("Q1:COIL:A1")))

    def test_thin_wires_lie_behind_the_fuse_and_its_rating_counts_what_outputs_give(self) -> None:
        machine, plan = wired(unwired_carrier())
        words = [step.words for step in plan.steps]
        self.assertIn("B1 to F2, 5 A to X1", words)
        self.assertIn("S1 led from X1 instead of B1", words)
        direct = {step.end.device for step in Queries(machine).steps(at("B1:PORT:1"))}
        self.assertEqual({"F1", "F2"}, direct)
        self.assertEqual([], grave(machine))

    def test_what_is_lost_on_the_way_is_within_its_limit_and_coils_have_diodes(self) -> None:
        machine, _ = wired(unwired_station())
        self.assertEqual([], grave(machine))
        diodes = [d.name for d in machine.devices if d.part == "flyback-diode"]
        self.assertEqual(["Flyback diode of Y1", "Flyback diode of Y2"], diodes)
