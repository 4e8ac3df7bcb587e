"""The bench list: what is asked, in which order, with which figures, and what is held back."""

import io
import json
import unittest
from contextlib import redirect_stdout

from build_demos import DATA
from mains_machines import wired_saw, wired_watering
from mistake_machines import MACHINES
from printed_machines import unwired_winder
from tests import small
from tests.sampling import seeded, some
from tests.stops.circuits import one_channel
from tests.supply.test_feeding_safety_relay import wired
from vervain import api
from vervain.bench.checklist import bench_list
from vervain.bench.step import SECTIONS
from vervain.edits.cable_edits import set_cable
from vervain.edits.device_edits import set_name, set_setting
from vervain.entry import main
from vervain.files.demos import open_demo
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

PLANNED = open_demo("glazing-gantry-as-planned")


def steps(machine) -> dict:
    return {step.id: step for step in bench_list(Queries(machine))}


GANTRY = steps(PLANNED)


class Lists(unittest.TestCase):
    def test_sections_come_in_the_order_of_the_work_and_names_stand_once(self) -> None:
        for name in some(seeded("lists of machines"), list(MACHINES), 6):
            listed = bench_list(Queries(MACHINES[name]()))
            order = [SECTIONS.index(step.section) for step in listed]
            with self.subTest(name):
                self.assertEqual(sorted(order), order)
                self.assertEqual(len(listed), len({step.id for step in listed}))
                self.assertTrue(all(s.do and s.see and s.why for s in listed))
                self.assertGreater(len(listed), 5)

    def test_every_input_contact_supply_axis_and_stop_of_the_gantry_is_asked(self) -> None:
        for name in ("B1", "B2", "B7", "B10"):
            self.assertIn(f"input {name}", GANTRY)
        for wanted in (
            "earth K1", "short G2 OUT 1", "coils M1", "contact B1 LEADS COM", "volts G1 OUT 1",
            "feed T1 POWER 1", "feed B9 LEADS 1", "amps G2 OUT 1", "counts A",
            "output K1 OUT 1", "lock M2", "lock M3", "direction Y", "distance Z", "agree A",
            "stop S1", "stop S2", "set K1 JP2: IN 5 to IN 8 read",
        ):  # fmt: skip
            self.assertIn(wanted, GANTRY)

    def test_the_figures_are_those_of_the_design(self) -> None:
        # 48 V with its tolerance of 1 %; 48 V over 8.9 A at most, half of it.
        self.assertEqual("47.5 to 48.5 V", GANTRY["volts G1 OUT 1"].see)
        self.assertIn("above 2.7 Ω", GANTRY["short G1 OUT 1"].see)
        # NC to 24 V: the lamp is lit at rest.
        self.assertIn("K1 IN 1 goes out; no other", GANTRY["input B1"].see)
        self.assertIn("counts up by 4000", GANTRY["counts A"].see)
        self.assertIn("M8 Glaze pump", GANTRY["output K1 OUT 1"].see)
        self.assertIn("P1 Beacon lamp: it lights", GANTRY["output K1 OUT 1"].see)
        self.assertIn("M2 and M3 together", GANTRY["direction Y"].see)
        self.assertIn("Stops released", GANTRY["feed T1 POWER 1"].do)
        self.assertNotIn("Stops released", GANTRY["feed B7 LEADS 1"].do)
        # Two limits in series: the input says the same for both.
        self.assertIn("so it does for B6", GANTRY["input B5"].see)
        self.assertIn("RD to BK", GANTRY["coils M6"].do)

    def test_contacts_rest_as_they_are_made_and_only_steppers_are_held(self) -> None:
        relay = steps(MACHINES["safety relay"]())
        for name, see in (
            ("contact S1 11-12 11", "beeps, and stops when worked"),
            ("contact S2 13-14 13", "silent, and beeps when worked"),
        ):
            self.assertEqual(see, relay[name].see)
        self.assertIn("lock M1", relay)
        # Brushed motors turn freely, whatever their bridge does.
        self.assertFalse([name for name in steps(MACHINES["rover"]()) if name.startswith("lock")])

    def test_a_light_curtain_is_reached_into_and_its_relay_is_nobodys_output(self) -> None:
        gate = steps(MACHINES["gate"]())
        self.assertIn("Reach into B3", gate["input B3"].do)
        self.assertIn("K2 STOP goes out", gate["input B3"].see)
        self.assertEqual(["output K1 DO 1"], [n for n in gate if n.startswith("output")])

    def test_coils_outputs_and_channels_are_those_that_are_joined(self) -> None:
        self.assertIn("ohms at BK to GN, RD to BU", GANTRY["coils M1"].do)
        relays = steps(MACHINES["relays"]())
        self.assertIn("its relay clicks", relays["output K1 OUT 1"].see)
        self.assertEqual(
            ["output K1 OUT 1", "output K1 OUT 2", "output K1 OUT 3"],
            [name for name in relays if name.startswith("output")],
        )
        rover = [name for name in steps(MACHINES["rover"]()) if name.startswith("channel")]
        self.assertEqual([f"channel K2 CH {n}" for n in (1, 2)], rover)

    def test_only_plugs_that_open_a_stop_input_are_pulled(self) -> None:
        self.assertEqual(["unplug X41 B"], [name for name in GANTRY if name.startswith("unplug")])
        self.assertIn("K1 STOP A+ open", GANTRY["unplug X41 B"].see)

    def test_what_works_a_contactor_is_on_before_what_it_switches(self) -> None:
        machine, _ = wired(unwired_winder())
        steps = [step.do for step in api.bench_steps(machine)]
        control = next(n for n, do in enumerate(steps) if "only G2 on" in do)
        motors = next(n for n, do in enumerate(steps) if "only G1 on" in do)
        self.assertLess(control, motors, "the coil is fed by G2, what it switches by G1")
        driver = next(do for do in steps if "loose plug of T1 POWER" in do)
        self.assertTrue(driver.startswith("G2 on as well. Stops released"), driver)
        coil = next(do for do in steps if "loose plug of Q1 COIL" in do)
        self.assertTrue(coil.startswith("Stops released"), coil)

    def test_a_coil_is_plugged_before_what_its_contacts_feed(self) -> None:
        printer = bench_list(Queries(open_demo("clay-printer-as-planned")))
        steps = [step.do for step in printer if "loose plug of" in step.do]
        coil = next(n for n, do in enumerate(steps) if "Q1 COIL" in do)
        feet = [n for n, do in enumerate(steps) if "FOOT, plus" in do]
        self.assertTrue(feet and all(coil < foot for foot in feet), steps)

    def test_what_has_no_earth_is_not_asked_for_it(self) -> None:
        machine = one_channel()
        self.assertNotIn("earth T1", steps(machine))
        self.assertEqual("power goes at T1", steps(machine)["stop S1"].see[:16])

    def test_a_step_stays_the_same_while_what_it_proves_does(self) -> None:
        renamed = steps(set_cable(set_name(PLANNED, "M9", "Other"), "W11", 9.0, ""))
        moved = steps(set_setting(PLANNED, "T1", "microsteps", "4"))
        marks = {name: step.mark for name, step in GANTRY.items()}
        self.assertEqual({*marks}, {*renamed})
        changed = {name for name in marks if marks[name] != renamed[name].mark}
        self.assertFalse({n for n in changed if not n.startswith("output")}, changed)
        changed = {name for name in marks if moved[name].mark != marks[name]}
        self.assertIn("distance X", changed)
        self.assertNotIn("distance Y", changed)

    def test_what_an_open_finding_makes_harmful_is_held_back(self) -> None:
        found = open_demo("glazing-gantry-as-found")
        result = check_machine(found)
        held = [step for step in bench_list(Queries(found), result.open) if step.held]
        grave = {f.sentence for f in result.open if f.consequence == "Damage"}
        self.assertTrue(held)
        self.assertLessEqual({step.held for step in held}, grave)
        self.assertNotIn("Before power", {step.section for step in held})
        # Whatever brings power to a device is held with it: its supply, a stop with everything on.
        for step in bench_list(Queries(found), result.open):
            under = {step.device, *step.powers} if step.section != "Before power" else set()
            named = {s.device for f in result.open if f.consequence == "Damage"
                     for s in f.subjects}  # fmt: skip
            self.assertEqual(bool(under & named), bool(step.held), step.id)
        by_name = {step.id: step for step in bench_list(Queries(found), result.open)}
        self.assertTrue(by_name["stop S1"].held)
        self.assertLess({"M1", "T1"}, {*by_name["direction X"].powers, "x"})
        self.assertFalse([s for s in bench_list(Queries(PLANNED), check_machine(PLANNED).open)
                          if s.held])  # fmt: skip

    def test_the_command_prints_every_step(self) -> None:
        path = str((DATA / "demos") / "glazing-gantry-as-planned.vervain")
        said, listed = io.StringIO(), io.StringIO()
        with redirect_stdout(said):
            self.assertEqual(0, main(["bench", path]))
        with redirect_stdout(listed):
            main(["bench", path, "--json"])
        document = json.loads(listed.getvalue())
        self.assertEqual(list(GANTRY), [step["id"] for step in document["steps"]])
        self.assertEqual(len(GANTRY), said.getvalue().count("[ ] "))
        self.assertEqual({}, steps(small.bench().machine))

    def test_three_lines_and_alternating_current_have_steps_of_their_own(self) -> None:
        saw = steps(wired_saw())
        self.assertIn("S1 pressed", saw["turn M1"].do)
        self.assertEqual(
            "power goes at M1 within 20 ms; released: stays stopped", saw["stop S2"].see
        )
        # What a drive turns is an axis, or its own affair.
        self.assertFalse([name for name in steps(MACHINES["lathe"]()) if name.startswith("turn ")])
        watering = steps(wired_watering())
        volts = watering["volts G1 24V~ 1"]
        # Without load a transformer gives up to a fifth more; its winding alone shows no ohms.
        self.assertAlmostEqual(28.8, volts.window.most)
        self.assertIn("alternating", volts.do)
        self.assertNotIn("short G1 24V~ 1", watering)
