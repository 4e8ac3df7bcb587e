"""What a plug still needs is named, made to measure and put in with it; swaps and directions."""

import unittest

from msgspec.structs import replace

from tests import small
from tests.rules import signal_cases as cases
from tests.small import at
from vervain.data import data_text
from vervain.edits import device_edits
from vervain.electrical.opto import diode_current_a, resistor_window_ohm
from vervain.electrical.pull_up import pull_up_window
from vervain.files.demos import open_demo
from vervain.files.machine_file import decode_machine, encode_machine
from vervain.files.part_files import decode_parts
from vervain.files.problems import FileProblem
from vervain.leads.direction import DIRECTIONS, direction_of, set_direction
from vervain.model.axis import Axis
from vervain.model.electrical import Opto
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.place import Place, Run
from vervain.model.problem import Problem
from vervain.model.references import faults_of
from vervain.ports.adapters import power_rating_w, put_splice
from vervain.ports.alternates import add_alternate, drop_alternate, is_in, swap_in
from vervain.ports.extension import extension_length_m, short_by_m
from vervain.ports.fit import fit
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.connectivity import host_ports, paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between
from vervain.rules.engine import check_machine


def apart(machine: Machine, *, length_m: float = 2.4, moving: bool = True) -> Machine:
    """K1 in the box, every other device at the head, a run between them."""
    return replace(
        machine,
        places=(Place(id="box", name="Box"), Place(id="head", name="Head")),
        runs=(Run(id="R1", a="head", b="box", length_m=length_m, moving=moving),),
        devices=tuple(
            replace(device, place="box" if device.designator == "K1" else "head")
            for device in machine.devices
        ),
    )


def bare_input() -> Machine:
    """An open collector before an input that pulls nothing up itself."""
    machine = small.bench("K1 osier-mb4", "B1 quoin-lg5").machine
    return cases.with_pin(machine, "osier-mb4", "LIMIT X", "3", pull_up_ohm=None, reads="either")


def moisture() -> Machine:
    """A probe that gives up to 5 V, before a pin for 3.3 V."""
    build = small.bench("K1 quoin-rc8", "B1 quoin-sm5")
    return build.machine


def part_text(part_id: str) -> str:
    """The shipped text of one part."""
    whole = data_text("parts/boards.toml")
    start = whole.index(f'[[part]]\nid = "{part_id}"')
    end = whole.find("\n[[part]]\n", start)
    return whole[start : end if end > 0 else None]


LOOSE = {
    "an adapter lead": (lambda: cases.servo_plug("crimp-2.5-3"), "M1:PLUG", "K1:SERVO"),
    "in line": (lambda: cases.isolated_driver(high_max_v=6.3), "T1:SIGNAL", "K1:AXIS 1"),
    "a pull-up of": (bare_input, "B1:LEADS", "K1:LIMIT X"),
    "a divider": (moisture, "B1:LEADS", "K1:ANALOGUE 1"),
    "an extension of 2.2 m": (
        lambda: apart(small.switch_in("IN 1")),
        "B1:LEADS",
        "K1:IN 1",
    ),
}


def free(machine: Machine, plug: PortRef) -> Machine:
    return unplug(machine, plug) if host_ports(Queries(machine), plug) else machine


class Missing(unittest.TestCase):
    def test_what_is_missing_goes_in_with_the_plug_and_is_then_not_missed(self) -> None:
        for words, (made, device_port, host_port) in LOOSE.items():
            plug, host = at(device_port), at(host_port)
            loose = free(made(), plug)
            answer = fit(Queries(loose), plug, host)
            with self.subTest(words):
                self.assertEqual("fits with", answer.verdict, answer.reason)
                self.assertIn(words, answer.needs)
                alone = plug_in(loose, plug, host)
                whole = plug_in(loose, plug, host, complete=True)
                self.assertGreater(len(whole.devices), len(alone.devices))
                self.assertIn(host, host_ports(Queries(whole), plug))
                self.assertEqual([], list(faults_of(whole)))
                self.assertEqual(whole, decode_machine(encode_machine(whole), "m"))
                more = {f.rule for f in check_machine(alone).open} - {
                    f.rule for f in check_machine(whole).open
                }
                self.assertTrue(more or "extension" in words)

    def test_a_lead_that_reaches_needs_no_extension(self) -> None:
        plug, host = at("B1:LEADS"), at("K1:IN 1")
        for length_m, short in ((0.35, 0.0), (0.36, 0.01), (2.4, 2.05)):
            machine = apart(small.switch_in("IN 1"), length_m=length_m)
            with self.subTest(length_m):
                self.assertAlmostEqual(short, short_by_m(Queries(machine), plug, host), 6)
        self.assertEqual(0.0, short_by_m(Queries(small.switch_in("IN 1")), plug, host))
        self.assertEqual(2.2, extension_length_m(2.05))
        self.assertEqual(2.3, extension_length_m(2.06))

    def test_an_extension_in_a_moving_run_flexes_and_keeps_every_lead_on_its_pin(self) -> None:
        plug, host = at("B1:LEADS"), at("K1:IN 1")
        before = apart(small.switch_in("IN 1"))
        after = plug_in(unplug(before, plug), plug, host, complete=True)
        self.assertEqual([("R1",)], [cable.runs for cable in after.cables])
        self.assertTrue(after.cable_parts[-1].flexing)
        for pin in ("COM", "NC"):
            ref = PinRef(device="B1", port="LEADS", pin=pin)
            ends = [[way.end for way in paths_from(Queries(m), ref)] for m in (before, after)]
            self.assertEqual(*ends)

    def test_the_shortest_route_is_taken(self) -> None:
        machine = apart(small.switch_in("IN 1"))
        detour = (
            Run(id="R2", a="head", b="side", length_m=0.5),
            Run(id="R3", a="side", b="box", length_m=0.75),
        )
        places = (*machine.places, Place(id="side", name="Side"), Place(id="far", name="Far"))
        machine = replace(machine, places=places, runs=(*machine.runs, *detour))
        route = route_between(Queries(machine), "B1", "K1")
        self.assertEqual((("R2", "R3"), 1.25, False), (route.runs, route.length_m, route.moving))
        away = replace(
            machine,
            devices=tuple(
                replace(d, place="far") if d.designator == "B1" else d for d in machine.devices
            ),
        )
        self.assertIsNone(route_between(Queries(away), "B1", "K1"))

    def test_a_splice_takes_all_that_share_a_contact(self) -> None:
        machine = cases.crowded(3)
        pin = PinRef(device="X1", port="9", pin="1")
        after = put_splice(machine, pin)
        joined = [h for h in after.hookups if at("X1:9") in (h.a, h.b)]
        self.assertEqual(1, len(joined))
        self.assertEqual(len(machine.devices) + 1, len(after.devices))
        for number in (1, 2, 3):
            ref = PinRef(device=f"B{number}", port="LEADS", pin="1")
            self.assertIn(pin, Queries(after).net(ref))
        with self.assertRaises(Problem):
            put_splice(after, pin)


class Windows(unittest.TestCase):
    def test_pull_up_between_sink_and_leak_by_hand(self) -> None:
        low, high = pull_up_window(
            supply_v=(4.9, 5.1), low_v=0.4, sink_a=0.02, high_min_v=2.4, leak_a=1e-3, input_a=0.0
        )
        self.assertAlmostEqual(235, low)
        self.assertAlmostEqual(2500, high)

    def test_a_diodes_current_at_both_corners_by_hand(self) -> None:
        opto = Opto(
            forward_min_v=1.1, forward_max_v=1.5, current_min_a=0.007, current_max_a=0.016,
            resistance_ohm=270,
        )  # fmt: skip
        least, most = diode_current_a((4.4, 5.0), opto, 0.0)
        self.assertAlmostEqual((4.4 - 1.5) / (270 * 1.05), least)
        self.assertAlmostEqual((5.0 - 1.1) / (270 * 0.95), most)
        low, high = resistor_window_ohm((22.8, 25.2), opto)
        for ohm in (low, high):
            ends = diode_current_a((22.8, 25.2), opto, ohm)
            self.assertTrue(ends[0] * 1.0001 >= 0.007 and ends[1] <= 0.016 * 1.0001)
        self.assertGreater(diode_current_a((22.8, 25.2), opto, low * 0.99)[1], 0.016)
        self.assertLess(diode_current_a((22.8, 25.2), opto, high * 1.01)[0], 0.007)


class Swaps(unittest.TestCase):
    def test_swapping_in_and_back_is_where_it_began(self) -> None:
        gantry = open_demo("glazing-gantry-as-planned")
        item = gantry.alternates[0]
        self.assertFalse(is_in(Queries(gantry), item))
        rotary = swap_in(gantry, item)
        self.assertTrue(is_in(Queries(rotary), item))
        self.assertEqual(2.8, Queries(rotary).setting("T4", "current_peak_a"))
        self.assertEqual("off", next(a for a in rotary.axes if "M11" in a.drives + a.also).homing)
        back_item = next(a for a in rotary.alternates if a.device == "M4")
        back = swap_in(rotary, back_item)
        self.assertTrue(is_in(Queries(back), back_item))
        self.assertEqual(
            Queries(gantry).setting("T4", "current_peak_a"),
            Queries(back).setting("T4", "current_peak_a"),
        )
        for machine in (rotary, back):
            self.assertEqual([], list(faults_of(machine)))
            rules = {f.rule for f in check_machine(machine).open if f.consequence == "Damage"}
            self.assertEqual(set(), rules)

    def test_the_list_of_alternates_is_kept(self) -> None:
        build = small.bench("M1 fell-s57", "M2 fell-s42", "T1 fell-d72", "B1 osier-rl2")
        build.join("M1:LEADS", "T1:MOTOR", cases.FOUR)
        listed = add_alternate(build.machine, "M2", at("T1:MOTOR"))
        for device, why in (("M2", "already"), ("B1", "does not go into")):
            with self.subTest(device), self.assertRaisesRegex(Problem, why):
                add_alternate(listed, device, at("T1:MOTOR"))
        renamed = device_edits.set_designator(listed, "T1", "T9")
        self.assertEqual(at("T9:MOTOR"), renamed.alternates[0].port)
        self.assertEqual((), drop_alternate(listed, listed.alternates[0]).alternates)
        self.assertEqual((), device_edits.remove_device(listed, "T1").alternates)


class Directions(unittest.TestCase):
    def test_a_motor_is_turned_by_its_leads_or_by_its_controller(self) -> None:
        machine = cases.facing(cases.FOUR)
        self.assertEqual("forward", direction_of(Queries(machine), "M2"))
        for first in DIRECTIONS:
            turned = set_direction(machine, "M2", first)
            for direction in DIRECTIONS:
                again = set_direction(turned, "M2", direction)
                with self.subTest(f"{first}, then {direction}"):
                    self.assertEqual(direction, direction_of(Queries(again), "M2"))
                    self.assertEqual("forward", direction_of(Queries(again), "M1"))
            self.assertEqual(
                set_direction(machine, "M2", "forward").hookups == machine.hookups,
                set_direction(turned, "M2", "forward").hookups == machine.hookups,
            )

    def test_a_motor_without_a_driver_is_refused(self) -> None:
        machine = small.bench("M1 fell-s57").machine
        machine = replace(machine, axes=(Axis(id="X", name="a", drives=("M1",)),))
        with self.assertRaisesRegex(Problem, "not known"):
            set_direction(machine, "M1", "forward")


class PartFaults(unittest.TestCase):
    def test_what_names_an_option_or_choice_that_is_not_there_is_told(self) -> None:
        text = part_text("osier-mb4")
        for old, new, words in (
            ('when = ["JS", "fitted"]', 'when = ["JX", "fitted"]', "names the option “JX”"),
            ('when = ["JS", "fitted"]', 'when = ["JS", "on"]', "names the choice “on” of JS"),
            ('value = "as Y", twin', 'value = "as Q", twin', "names the choice “as Q” of JA"),
            ('"as Y" = "2-3"', '"as U" = "2-3"', "draws JA at “as U”"),
            ('"SLOT Z", "SLOT A"] },', '"SLOT Z", "SLOT V"] },', "the port “SLOT V”"),
        ):
            with self.subTest(words):
                self.assertIn(old, text)
                with self.assertRaisesRegex(FileProblem, "osier-mb4") as caught:
                    decode_parts(text.replace(old, new, 1), "boards.toml")
                self.assertIn(words, str(caught.exception))


class Figures(unittest.TestCase):
    def test_a_resistor_is_rated_for_twice_what_it_sheds(self) -> None:
        shed = (0.01, 0.125, 0.126, 0.25, 0.26, 1.0, 4.9, 50.0)
        rated = (0.25, 0.25, 0.5, 0.5, 1.0, 2.0, 10.0, 10.0)
        self.assertEqual(rated, tuple(power_rating_w(watts) for watts in shed))
