"""What fits where, with the exact reason; putting down, moving and taking off."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from tests import small
from tests.strategies import INPUTS, LEADS, k1
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.connectors import missing_to_mate
from vervain.model.machine import PinRef, PortRef
from vervain.model.problem import Problem
from vervain.model.references import faults_of
from vervain.ports.compatibility import mates
from vervain.ports.fit import fit, ranked_fits
from vervain.ports.occupancy import boards, is_conflict, seen_at, who_sits_at
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.connectivity import host_ports, occupants, paths_from, steps_from
from vervain.queries.device_groups import groups, state_of
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine

PLANNED = open_demo("glazing-gantry-as-planned")
FOUND = open_demo("glazing-gantry-as-found")
LEADS_OF = {
    name: PortRef(device=name, port="LEADS") for name in ("B7", "B8", "B10", "M4", "M6", "B9")
}


class Fits(unittest.TestCase):
    def test_each_answer_has_its_exact_reason(self) -> None:
        for device, host, verdict, words in (
            ("B7", "K1:IN 8", "fits", ""),
            ("B7", "K1:IN 2", "fits with", "JP1 at PNP"),
            ("B7", "K1:IN 6", "does not fit", "B8 sits there"),
            ("B7", "K1:PROBE", "does not fit", "as little as 4.9 V there; it needs at least 10 V"),
            ("B7", "K1:AXIS 1", "does not fit", "It is for step and direction"),
            ("B10", "K1:IN 7", "fits with", "JP2 at NPN"),
            ("M6", "T1:MOTOR", "does not fit", "no pin for U, V, W"),
            ("M4", "T5:MOTOR", "does not fit", "no pin for A+"),
            ("B9", "K1:ENC 1", "fits with", "a line receiver"),
        ):
            port = small.at(host)
            answer = fit(Queries(FOUND), LEADS_OF[device], port)
            with self.subTest(f"{device} into {host}"):
                self.assertEqual(verdict, answer.verdict)
                self.assertIn(words, f"{answer.needs} {answer.reason}")

    def test_the_best_comes_first_and_near_its_axis(self) -> None:
        ranked = ranked_fits(Queries(FOUND), LEADS_OF["B7"])
        self.assertEqual(["IN 7", "IN 8", "IN 2"], [fit.host.port for fit in ranked[:3]])
        verdicts = [answer.verdict for answer in ranked]
        order = ("fits", "fits with", "does not fit")
        self.assertEqual(sorted(verdicts, key=order.index), verdicts)

    def test_every_row_of_the_table_names_pins_that_exist(self) -> None:
        for row in mates():
            self.assertTrue(row.pairs or row.by_pin)
            self.assertLessEqual(set(row.needed), {pair[0] for pair in row.pairs})


class Placing(unittest.TestCase):
    def test_an_output_s_contact_and_its_switch_each_have_their_limit(self) -> None:
        # Crimp contacts of 2.5 mm carry 3 A, the switch behind them 0.5 A.
        bare = small.bench("K1 tarn-mc5", "M1 quoin-bf24").machine
        for current_a, said in (
            (0.5, ""), (0.51, "of 0.5 A"), (3.0, "of 0.5 A"), (3.01, "a contact there carries 3 A"),
        ):  # fmt: skip
            machine = small.with_part(
                bare,
                "quoin-bf24",
                lambda p, a=current_a: small.with_electrical(p, "LEADS", "1", current_a=a),
            )
            found = fit(Queries(machine), small.at("M1:LEADS"), k1("OUT 1"))
            with self.subTest(current_a):
                self.assertEqual(bool(said), found.verdict == "does not fit")
                self.assertIn(said, found.reason)

    def test_a_smaller_plug_goes_on_a_bare_header_only(self) -> None:
        plug_part, board = shipped_shelf().parts["quoin-bf24"], shipped_shelf().parts["tarn-mc5"]
        plug, host = plug_part.ports[0], board.ports[0]
        for ours, theirs, missing in (
            ("pin-2.54-2", "pin-2.54-4", ""),
            ("pin-2.54-4", "pin-2.54-4", ""),
            ("pin-2.54-4", "pin-2.54-2", "an adapter lead"),
            ("crimp-2.5-2", "crimp-2.5-4", "an adapter lead"),
            ("crimp-2.5-4", "crimp-2.5-4", ""),
            ("crimp-2.0-4", "crimp-2.5-4", "an adapter lead"),
        ):
            with self.subTest((ours, theirs)):
                found = missing_to_mate(
                    plug_part, replace(plug, connector=ours), board, replace(host, connector=theirs)
                )
                self.assertEqual(missing, found)

    def test_the_sensor_goes_home_with_its_cable(self) -> None:
        machine = plug_in(FOUND, LEADS_OF["B7"], k1("IN 7"))
        queries = Queries(machine)
        self.assertEqual((k1("IN 7"),), host_ports(queries, LEADS_OF["B7"]))
        hookup = machine.hookups[-1]
        self.assertEqual("W19", hookup.cable)
        self.assertEqual([1, 2, 3], [c.core for c in hookup.conductors])
        signal = PinRef(device="K1", port="IN 7", pin="2")
        self.assertEqual(["BK"], [seen.colour for seen in seen_at(queries, signal)])
        self.assertNotIn("ports.loose:B7:LEADS", {f.key for f in check_machine(machine).open})

    def test_moving_keeps_cores_and_frees_the_old_port(self) -> None:
        moved = plug_in(PLANNED, LEADS_OF["B7"], k1("IN 2"))
        queries = Queries(moved)
        self.assertEqual((), who_sits_at(queries, k1("IN 7")))
        back = plug_in(moved, LEADS_OF["B7"], k1("IN 7"))
        before = {
            (c.a, c.b, c.core) for h in PLANNED.hookups if h.cable == "W19" for c in h.conductors
        }
        after = {(c.a, c.b, c.core) for h in back.hookups if h.cable == "W19" for c in h.conductors}
        self.assertEqual(before, after)

    def test_an_8_lead_motor_brings_two_leads_to_each_terminal(self) -> None:
        off = unplug(PLANNED, LEADS_OF["M4"])
        self.assertEqual((), host_ports(Queries(off), LEADS_OF["M4"]))
        machine = plug_in(off, LEADS_OF["M4"], PortRef(device="T4", port="MOTOR"))
        queries = Queries(machine)
        for pin in "1234":
            ref = PinRef(device="T4", port="MOTOR", pin=pin)
            self.assertEqual(1, len(steps_from(queries, ref)))
            self.assertEqual(2, len(paths_from(queries, ref)))
        self.assertEqual([], [f for f in check_machine(machine).open if f.stage == "Leads"])

    def test_what_cannot_be_joined_is_refused_with_the_reason(self) -> None:
        with self.assertRaises(Problem) as caught:
            plug_in(FOUND, LEADS_OF["B7"], PortRef(device="T1", port="MOTOR"))
        self.assertIn("motor phases", caught.exception.remedy)
        with self.assertRaises(Problem):
            unplug(FOUND, LEADS_OF["B7"])

    def test_a_second_device_is_shown_as_a_conflict_not_forbidden(self) -> None:
        machine = plug_in(FOUND, LEADS_OF["B7"], k1("IN 6"))
        queries = Queries(machine)
        self.assertTrue(is_conflict(queries, k1("IN 6")))
        self.assertEqual(("B7", "B8"), who_sits_at(queries, k1("IN 6")))

    def test_taking_one_off_leaves_the_other_where_it_is(self) -> None:
        machine = unplug(FOUND, LEADS_OF["B10"])
        self.assertEqual(["B4"], [ref.device for ref in occupants(Queries(machine), k1("IN 4"))])

    @settings(max_examples=40, deadline=None)
    @given(st.lists(st.tuples(st.sampled_from(sorted(LEADS)), st.sampled_from(INPUTS)), max_size=6))
    def test_whatever_is_put_where_the_machine_stays_whole(self, moves) -> None:
        machine = PLANNED
        for device, port in moves:
            try:
                machine = plug_in(machine, LEADS[device], k1(port))
            except Problem:
                continue
            self.assertIn(k1(port), host_ports(Queries(machine), LEADS[device]))
        self.assertEqual([], list(faults_of(machine)))
        used = [
            (h.cable, c.core) for h in machine.hookups if h.cable for c in h.conductors if c.core
        ]
        self.assertEqual(len(used), len(set(used)), "a core is used twice")


class Faces(unittest.TestCase):
    def test_series_switches_share_a_port_without_conflict(self) -> None:
        queries = Queries(PLANNED)
        self.assertEqual(("B5", "B6"), who_sits_at(queries, k1("IN 5")))
        self.assertFalse(is_conflict(queries, k1("IN 5")))

    def test_boards_are_what_something_is_plugged_into(self) -> None:
        shown = "K1 K2 K3 T1 T2 T3 T4 T5 X1 X2 X3 X4"
        self.assertEqual(tuple(shown.split()), boards(Queries(PLANNED)))

    def test_groups_hold_every_device_once(self) -> None:
        queries = Queries(PLANNED)
        listed = [name for group in groups(queries) for name in group.devices]
        self.assertEqual(sorted(queries.devices()), sorted(listed))
        by_title = {group.title: group.devices for group in groups(queries)}
        self.assertIn("T4", by_title["Z axis"])

    def test_states(self) -> None:
        queries = Queries(FOUND)
        for device, state in (("B7", "loose"), ("M11", "placed"), ("M4", "wired"), ("K1", "wired")):
            with self.subTest(device):
                self.assertEqual(state, state_of(queries, device))
