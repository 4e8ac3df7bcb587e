"""What goes through a contactor of its own, a stop without one, and a button that is held."""

import unittest

from msgspec.structs import replace

from builder import Builder
from mains_machines import wired_hoist, wired_saw
from panel_machines import unwired_headed, unwired_pack, unwired_panel
from tests.supply.test_feeding_safety_relay import at, grave, wired
from vervain import api
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.electrical.mains import lines_at
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.stops.what_goes import goes_at_stop
from vervain.supply.mains_tree import mains_tree


def pressed_and_held(coil_v: float) -> Machine:
    """A heater on one contactor, with a stop, a button for on, one for off, and a door."""
    contact = {"contact_max_a": 10}
    build = Builder(Machine(name="Held"))
    for name, called, typed in (
        ("X1", "Inlet", Draft(kind="connector", pins_text="L N PE")),
        ("G1", "Supply", Draft(kind="supply", pins_text="L N PE -V +V",
                               numbers={"nominal_v": 24, "current_a": 2})),
        ("S1", "Stop", Draft(kind="emergency stop", pins_text="11 12\n21 22", numbers=contact)),
        ("S2", "Start button", Draft(kind="switch", pins_text="13 14 NO", numbers=contact)),
        ("S3", "Off button", Draft(kind="switch", pins_text="21 22 NC", numbers=contact)),
        ("S4", "Door", Draft(kind="switch", pins_text="31 32 NC", numbers=contact)),
        ("Q1", "Contactor", Draft(
            kind="contactor", pins_text="A1 A2\n1 2\n3 4\n13 14",
            numbers={"nominal_v": coil_v, "current_a": 0.1, "contact_max_a": 16},
        )),
        ("E1", "Plate", Draft(kind="heater", pins_text="L N PE",
                              numbers={"nominal_v": 230, "current_a": 4})),
    ):  # fmt: skip
        part = describe(replace(typed, title=called), f"my-{name}").part
        assert part is not None
        build.add(name, part, called)
    return build.machine


class Contactors(unittest.TestCase):
    def test_one_that_is_called_after_a_load_works_that_and_no_stop(self) -> None:
        machine, plan = wired(unwired_panel())
        self.assertEqual(["stops.restarts", "stops.unnoticed"], grave(machine))
        queries = Queries(machine)
        self.assertIn("M3 goes through Q3", [step.words for step in plan.steps])
        self.assertIn(at("Q3:COIL:A1+"), queries.net(at("K1:DO1:2")))
        for pin, pole in (("1", "1-2:2"), ("2", "3-4:4")):
            self.assertIn(at(f"Q3:{pole}"), queries.net(at(f"M3:LEADS:{pin}")))
        (demand,) = stop_demands(queries)
        self.assertEqual(
            ("S1", (), False), (demand.stop, demand.stays, goes_at_stop(queries, "M3"))
        )

    def test_the_mains_are_a_tree_by_what_their_line_goes_through(self) -> None:
        machine, _ = wired(unwired_panel())
        tree = mains_tree(Queries(machine))
        rows = [(b.kind, b.label, b.depth) for b in tree.branches]
        self.assertEqual(
            [("mains", "Mains", 0), ("contact", "Q1", 1), ("fuse", "F1 8 A", 2), ("strip", "X2", 3),
             ("taker", "G1", 4), ("taker", "G2", 4), ("contact", "Q3", 4), ("taker", "M3", 5)],
            rows,
        )  # fmt: skip
        taken = {b.device: b.current_a for b in tree.branches if b.kind == "taker"}
        self.assertEqual((5, sum(taken.values())), (taken["M3"], tree.source.current_a))
        # What nobody has joined yet stands last.
        bare = mains_tree(Queries(unwired_panel()))
        self.assertEqual({"not joined"}, {b.note for b in bare.branches[1:]})
        self.assertIsNone(mains_tree(Queries(unwired_pack())))

    def test_a_motor_for_three_lines_goes_through_what_protects_it_and_its_contactor(self) -> None:
        machine = wired_saw()
        queries = Queries(machine)
        for number, phase in enumerate("123", 1):
            with self.subTest(phase):
                at_phase = lines_at(queries, at(f"M1:LEADS:{phase}"))
                self.assertEqual({f"L{number}"}, at_phase)
        rows = [(b.label, b.depth, b.current_a) for b in mains_tree(queries).branches[1:]]
        self.assertEqual(
            [("Q1", 1), ("Q2", 2), ("K1", 3), ("M1", 4), ("G1", 2)], [row[:2] for row in rows]
        )
        self.assertEqual(4.8, rows[3][2])
        demands = {d.stop: (d.stays, d.restarts) for d in stop_demands(queries)}
        self.assertEqual({"S2": ((), False), "S3": ((), False)}, demands)
        self.assertEqual([], grave(machine))

    def test_a_load_that_a_hand_works_is_fed_through_the_switch_called_as_it_is(self) -> None:
        figures = {"nominal_v": 24, "current_a": 0.3}
        build = Builder(Machine(name="Clamp"))
        for name, called, typed in (
            ("G1", "Supply", Draft(kind="supply", pins_text="L N PE V+ V-",
                                   numbers={"nominal_v": 24, "current_a": 2})),
            ("S1", "Clamp pedal", Draft(kind="switch", pins_text="COM NO")),
            ("S2", "Start button", Draft(kind="switch", pins_text="13 14")),
            ("Y1", "Clamp", Draft(kind="valve", pins_text="1 2", numbers=figures)),
        ):  # fmt: skip
            part = describe(replace(typed, title=called), f"my-{name}").part
            assert part is not None
            build.add(name, part, called)
        machine, plan = wired(build.machine)
        self.assertIn("Y1 goes through S1", [step.words for step in plan.steps])
        self.assertIn(at("S1:LEADS:2"), Queries(machine).net(at("Y1:LEADS:1")))
        self.assertEqual((), api.place(build.machine).placements)

    def test_what_is_held_down_starts_nothing_by_itself(self) -> None:
        machine = wired_hoist()
        (demand,) = (d for d in stop_demands(Queries(machine)) if d.stop == "S3")
        self.assertEqual(((), False, ()), (demand.stays, demand.restarts, demand.racing))
        self.assertEqual([], grave(machine))

    def test_the_common_of_a_hand_wheels_throws_has_one_wire(self) -> None:
        machine, _ = wired(unwired_panel())
        ends = [h for h in machine.hookups if h.a.device == "S2" and h.a.port.startswith("COM-")]
        self.assertEqual(5, len(ends))
        self.assertEqual(1, sum(c.a == "COM" for h in ends for c in h.conductors))

    def test_each_thermistor_goes_to_the_board_of_its_heater(self) -> None:
        hosts = {p.plug.device: p.host for p in api.place(unwired_headed()).placements}
        for heater, thermistor in (("E1", "B1"), ("E2", "B2")):
            self.assertEqual(hosts[heater].device, hosts[thermistor].device)
        self.assertEqual(("K2", "RGB"), (hosts["P1"].device, hosts["P1"].port))
        self.assertEqual([], grave(wired(unwired_headed())[0]))

    def test_a_stop_without_a_contactor_lies_in_the_feed_itself(self) -> None:
        machine, plan = wired(unwired_pack())
        self.assertEqual(["stops.unnoticed"], grave(machine))
        self.assertEqual("G1 goes through S1", plan.steps[-1].words)
        (demand,) = stop_demands(Queries(machine))
        self.assertEqual((), demand.stays)

    def test_a_board_with_a_bridge_goes_with_the_stop_and_an_unknown_output_is_not_judged(
        self,
    ) -> None:
        build = Builder(Machine(name="Press"))
        for name, called, typed in (
            ("G1", "Supply", Draft(kind="supply", pins_text="L N PE V+ V-",
                                   numbers={"nominal_v": 24, "current_a": 5})),
            ("S1", "Stop", Draft(kind="emergency stop", pins_text="11 12 NC",
                                 numbers={"contact_max_a": 10})),
            ("K1", "Board", Draft(
                kind="controller", pins_text="24V GND\nSSR: + -\nMOTOR: M+ M-",
                numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.3},
            )),
            ("K2", "Plate relay", Draft(kind="solid-state relay", pins_text="3+ 4-\n1 2")),
            ("M1", "Ram", Draft(kind="brushed motor", pins_text="red\nblack",
                                numbers={"nominal_v": 24, "current_a": 3})),
        ):  # fmt: skip
            part = describe(replace(typed, title=called), f"my-{name}").part
            assert part is not None
            build.add(name, part, called)
        machine, _ = wired(build.machine)
        self.assertIn(at("K1:PORT:1"), Queries(machine).net(at("S1:11-12:12")))
        rules = {found.rule for found in api.check(machine).open}
        self.assertEqual(set(), rules & {"supply.unfed", "ports.need", "leads.swapped"})

    def test_a_button_starts_a_contact_holds_and_whatever_opens_ends_it(self) -> None:
        for coil_v in (24, 230):
            machine, plan = wired(pressed_and_held(coil_v))
            with self.subTest(coil_v):
                words = next(step.words for step in plan.steps if "starts" in step.words)
                self.assertTrue(
                    all(name in words for name in ("S1", "S3", "S4", "Q1", "S2")), words
                )
                queries = Queries(machine)
                self.assertIn(at("Q1:13-14:14"), queries.net(at("S2:13-14:14")))
                self.assertIn(at("Q1:COIL:A1"), queries.net(at("S2:13-14:14")))
                demands = {d.stop: (d.stays, d.restarts) for d in stop_demands(queries)}
                self.assertEqual(((), False), demands["S1"])
