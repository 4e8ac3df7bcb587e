"""Labels: unique, stable, in the template's form; traces from end to end."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from mistake_machines import MACHINES
from tests import small
from tests.strategies import a_change, applied
from vervain.edits import cable_edits
from vervain.files.demos import open_demo
from vervain.harness.conductors import conductor_rows, natural_key
from vervain.harness.label_templates import FIELDS, check_template, fill
from vervain.harness.labels import labels
from vervain.harness.trace import trace_of_conductor, trace_of_pin
from vervain.model.machine import LabelTemplates, Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.ports.plugging import unplug
from vervain.queries.machine_queries import Queries

PLANNED = open_demo("glazing-gantry-as-planned")


def labels_of(machine: Machine) -> dict[tuple[str, int], tuple[str, str]]:
    return {key: (entry.at_a, entry.at_b) for key, entry in labels(Queries(machine)).items()}


def core_label(machine: Machine, cable: str, core: int) -> str:
    found = labels(Queries(machine))
    for hookup in machine.hookups:
        for row, conductor in enumerate(hookup.conductors):
            if hookup.cable == cable and conductor.core == core:
                return found[hookup.id, row].at_a
    raise KeyError(cable)


class Templates(unittest.TestCase):
    def test_stretches_in_brackets_go_when_a_field_is_empty(self) -> None:
        values = {"cable": "W14", "core": "2", "device": "M4", "axis": ""}
        for template, expected in (
            ("{cable}[.{core}]", "W14.2"),
            ("{device}[/{axis}]", "M4"),
            ("[{axis}-]{cable}", "W14"),
            ("#{cable}#", "#W14#"),
            ("[{axis}{cable}]!", "!"),
        ):
            with self.subTest(template):
                check_template(template)
                self.assertEqual(expected, fill(template, values))

    def test_what_is_not_in_the_form_is_refused_with_its_column(self) -> None:
        for template, place in (
            ("{cabel}", "column 1"),
            ("W{cable", "column 2"),
            ("{cable}[.{core}", "column 15"),
            ("{cable}]", "column 8"),
            ("[{cable}[{core}]]", "column 9"),
            ("plain", ""),
            ("", ""),
            ("{}", "column 1"),
        ):
            with self.subTest(template), self.assertRaises(Problem) as caught:
                check_template(template)
            self.assertEqual(place, caught.exception.place)

    @settings(max_examples=200, deadline=None)
    @given(st.text(st.sampled_from("{}[].W cabledorn"), max_size=20))
    def test_any_template_is_refused_or_fills(self, template: str) -> None:
        try:
            check_template(template)
        except Problem:
            return
        fill(template, dict.fromkeys(FIELDS, ""))


class Unique(unittest.TestCase):
    def test_no_two_conductors_share_a_label_whatever_the_form(self) -> None:
        for form in ("{cable}[.{core}]", "{device}", "{axis}", "{pin}", "{far}-{pin}", "[{axis}]"):
            machine = replace(PLANNED, label_templates=LabelTemplates(core=form, lead="{device}"))
            seen: dict[str, tuple[str, int]] = {}
            for key, ends in labels_of(machine).items():
                for text in set(ends):
                    with self.subTest(form):
                        self.assertTrue(text)
                        self.assertEqual(key, seen.setdefault(text, key))

    def test_two_leads_of_one_pin_have_a_label_each(self) -> None:
        build = small.bench("G1 fell-ps24", "G2 fell-ps24", "M1 quoin-bf24")
        build.join("M1:LEADS", "G1:OUT", "+-1")
        build.join("M1:LEADS", "G2:OUT", "+-1")
        for form in ("{device}", "{far}-{pin}", "{pin}"):
            templates = LabelTemplates(core=form, lead=form)
            found = labels_of(replace(build.machine, label_templates=templates))
            texts = [text for ends in found.values() for text in set(ends)]
            self.assertEqual(sorted(set(texts)), sorted(texts))

    def test_a_pole_is_called_by_its_number_alone(self) -> None:
        machine = MACHINES["hoist"]()
        texts = {text for pair in labels_of(machine).values() for text in pair}
        self.assertIn("Q1.2/K1.1", texts)
        self.assertFalse({text for text in texts if "/L" in text or "/T" in text})

    def test_labels_are_short_enough_for_9_mm_tape(self) -> None:
        longest = max(len(text) for ends in labels_of(PLANNED).values() for text in ends)
        self.assertLessEqual(longest, 14)

    def test_one_core_cables_carry_the_cables_name(self) -> None:
        self.assertEqual("W2", core_label(PLANNED, "W2", 1))
        self.assertEqual("W14.2", core_label(PLANNED, "W14", 2))


class Stable(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(a_change())
    def test_an_edit_changes_no_label_of_another_cable(self, change) -> None:
        if change[0][0] == "form":
            return
        before, after = labels_of(PLANNED), labels_of(applied(PLANNED, change))
        cables = {h.id: h.cable for h in PLANNED.hookups}
        for key in before.keys() & after.keys():
            if cables.get(key[0]) and cables[key[0]] != "W14" and change[0][0] in (
                "fuse", "current", "jumper", "name", "length", "label", "rename",
            ):  # fmt: skip
                self.assertEqual(before[key], after[key])

    def test_adding_a_device_changes_no_label(self) -> None:
        before = labels_of(PLANNED)
        build = small.Builder(PLANNED)
        build.device("B11", "osier-rl2", "Another limit", "left")
        build.cable("W90", "flex-2x0.5", 2.0)
        build.join("B11:LEADS", "K1:PROBE", "COM-3 NC-2", "W90")
        after = labels_of(build.machine)
        self.assertEqual(before, {key: after[key] for key in before})

    def test_an_own_label_wins_and_goes_back(self) -> None:
        marked = cable_edits.set_core_label(PLANNED, "W14", 2, "Z A-")
        self.assertEqual("Z A-", core_label(marked, "W14", 2))
        self.assertEqual(PLANNED, cable_edits.set_core_label(marked, "W14", 2, ""))


class Rows(unittest.TestCase):
    def test_each_core_and_each_lead_is_in_one_row(self) -> None:
        rows = conductor_rows(Queries(PLANNED))
        self.assertEqual(len(rows), len({row.key for row in rows}))
        shown = {(row.cable, row.core) for row in rows if row.cable}
        used = {(h.cable, c.core) for h in PLANNED.hookups if h.cable for c in h.conductors}
        self.assertEqual(used, shown)
        leads = {lead.pin for row in rows for lead in row.leads}
        for hookup in PLANNED.hookups:
            for conductor in hookup.conductors:
                pin = PinRef(device=hookup.a.device, port=hookup.a.port, pin=conductor.a)
                known = Queries(PLANNED).pin(pin)
                if known is not None and known.lead:
                    self.assertIn(pin, leads)

    def test_labels_sort_as_people_count(self) -> None:
        names = ["W10.2", "W2", "W10.10", "B9.A", "W10.1"]
        self.assertEqual(["B9.A", "W2", "W10.1", "W10.2", "W10.10"], sorted(names, key=natural_key))


class Traces(unittest.TestCase):
    def test_a_motor_phase_from_terminal_to_winding(self) -> None:
        queries = Queries(PLANNED)
        lead = PinRef(device="M4", port="LEADS", pin="WHBK")
        trace = trace_of_pin(queries, lead)
        self.assertEqual("T4", trace.stretches[0].start.device)
        self.assertEqual(lead, trace.stretches[-1].end)
        self.assertEqual(["BN", "WHBK"], [s.colour for s in trace.stretches])
        self.assertAlmostEqual(6.9, trace.length_m)

    def test_every_conductor_traces_without_a_gap_and_holds_itself(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-found"))
        for hookup in queries.machine.hookups:
            for row in range(len(hookup.conductors)):
                trace = trace_of_conductor(queries, hookup.id, row)
                for before, after in zip(trace.stretches, trace.stretches[1:], strict=False):
                    self.assertEqual(before.end.device, after.start.device)
                self.assertIn(hookup.id, {stretch.hookup for stretch in trace.stretches})

    def test_nothing_at_a_free_pin(self) -> None:
        free = PinRef(device="K1", port="PROBE", pin="2")
        self.assertIsNone(trace_of_pin(Queries(PLANNED), free))
        off = unplug(PLANNED, PortRef(device="B8", port="LEADS"))
        self.assertIsNone(trace_of_pin(Queries(off), PinRef(device="B8", port="LEADS", pin="1")))
