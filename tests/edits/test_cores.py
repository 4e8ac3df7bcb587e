"""Cores: given to other conductors, exchanged, taken off and laid in; where a shield ends."""

import unittest

from msgspec.structs import replace

from tests import small
from vervain.edits.cable_edits import add_cable, set_cable_part
from vervain.edits.core_edits import core_written, give_core, lay_in
from vervain.edits.plug_edits import shift_plug
from vervain.files.part_files import shipped_shelf
from vervain.model.machine import CoreMark, Machine, PortRef
from vervain.model.problem import Problem
from vervain.model.validation import faults_of
from vervain.queries.machine_queries import Queries
from vervain.tables.cable_face import cable_face
from vervain.tables.cell_edits import edit_for
from vervain.tables.conductor_face import conductor_face

CABLES = shipped_shelf().cable_parts


def by_cable() -> Machine:
    """A motor on its driver by a cable of four cores."""
    build = small.bench("M1 fell-s57", "T1 fell-d72")
    build.cable("W1", "motor-4x1", 2.0)
    build.join("M1:LEADS", "T1:MOTOR", "BK-1 GN-2 RD-3 BU-4", "W1")
    return build.machine


def cores(machine: Machine) -> dict[str, tuple[str | None, int | None]]:
    """The cable and core of each lead."""
    return {row.a: (h.cable, row.core) for h in machine.hookups for row in h.conductors}


class Cores(unittest.TestCase):
    def test_a_plug_is_shifted_along_its_pins_and_what_hangs_over_is_off(self) -> None:
        machine = by_cable()
        pins = {"BK": "1", "GN": "2", "RD": "3", "BU": "4"}
        for by in (1, -1):
            moved = shift_plug(machine, PortRef(device="T1", port="MOTOR"), by)
            there = {row.a: row.b for hookup in moved.hookups for row in hookup.conductors}
            wanted = {lead: str(int(pin) + by) for lead, pin in pins.items()}
            with self.subTest(by):
                self.assertEqual({k: v for k, v in wanted.items() if v in pins.values()}, there)

    def test_pairs_are_used_whole_before_a_core_beside_another_signal(self) -> None:
        paired = next(p for p in CABLES.values() if p.pairs and len(p.cores) >= 6)
        self.assertEqual([(1, 2), (3, 4), (5, 6)], list(paired.core_pairs)[:3])
        self.assertEqual((2, 1, None), (paired.mate_of(1), paired.mate_of(2), paired.mate_of(99)))
        self.assertEqual((1, 3, 5), tuple(map(paired.free_core, ((), (1,), (1, 4)))))
        all_begun = range(1, len(paired.cores) + 1, 2)
        self.assertEqual(2, paired.free_core(all_begun))
        self.assertIsNone(paired.free_core(range(1, len(paired.cores) + 1)))

    def test_a_cable_with_fewer_cores_keeps_the_marks_of_those_it_has(self) -> None:
        build = small.bench("M1 quoin-bf24", "G1 fell-ps24")
        build.cable("W1", "motor-4x1", 2.0)
        build.join("G1:OUT", "M1:LEADS", "1-1 2-2", "W1")
        marks = tuple(CoreMark(core=core, label=f"C{core}") for core in (1, 2, 3))
        machine = replace(build.machine, cables=(replace(build.machine.cables[0], marks=marks),))
        fewer = set_cable_part(machine, "W1", CABLES["flex-2x0.5"])
        self.assertEqual([1, 2], [mark.core for mark in fewer.cables[0].marks])

    def test_two_conductors_exchange_their_cores(self) -> None:
        machine = by_cable()
        hookup = machine.hookups[0].id
        changed = cores(give_core(machine, hookup, 0, 3))
        self.assertEqual(
            {"BK": ("W1", 3), "GN": ("W1", 2), "RD": ("W1", 1), "BU": ("W1", 4)}, changed
        )
        for text, core in (("2", 2), ("gn", 3), (" WH ", 1)):
            self.assertEqual(core, core_written(machine, "W1", text))
        for text in ("5", "0", "PK", ""):
            with self.assertRaisesRegex(Problem, "no core"):
                core_written(machine, "W1", text)

    def test_a_conductor_comes_out_of_its_cable_and_goes_in_again(self) -> None:
        machine = by_cable()
        hookup = machine.hookups[0].id
        out = lay_in(machine, hookup, 1, None)
        self.assertEqual((None, None), cores(out)["GN"])
        self.assertEqual(("W1", 3), cores(out)["RD"], "the others keep theirs")
        bare = next(h.id for h in out.hookups if h.cable is None)
        back = lay_in(out, bare, 0, "W1")
        self.assertEqual(cores(machine), cores(back))
        self.assertEqual(1, len(back.hookups))
        self.assertEqual([], list(faults_of(back)))
        full = add_cable(back, CABLES["wire-rd-0.5"])
        one = lay_in(full, back.hookups[0].id, 0, full.cables[-1].id)
        with self.assertRaisesRegex(Problem, "no core free"):
            lay_in(one, hookup, 0, full.cables[-1].id)


class Cells(unittest.TestCase):
    def change(self, machine: Machine, name: str, column: str, numbers: list[int], text: str):
        queries = Queries(machine)
        face = cable_face(queries) if name == "Cables" else conductor_face(queries, {})
        rows = [face.rows[number] for number in numbers]
        return edit_for(face, column, rows, text, lambda: CABLES)(machine)

    def test_cable_and_core_are_cells_of_the_conductors(self) -> None:
        machine = by_cable()
        colour = {row.cells[8].split()[0]: n for n, row in
                  enumerate(conductor_face(Queries(machine), {}).rows)}  # fmt: skip
        changed = self.change(machine, "Conductors", "core_colour", [colour["BK"]], "gn")
        self.assertEqual(("W1", 3), cores(changed)["BK"])
        off = self.change(machine, "Conductors", "cable", [0, 1, 2, 3], "")
        self.assertEqual({(None, None)}, set(cores(off).values()))
        laid = self.change(off, "Conductors", "cable", [0, 1], "Red and black, 0.5 mm2")
        self.assertEqual(["W1", "W2"], [cable.id for cable in laid.cables])
        self.assertEqual({1, 2}, {core for cable, core in cores(laid).values() if cable == "W2"})
        with self.assertRaisesRegex(Problem, "cannot have one core"):
            self.change(machine, "Conductors", "core_number", [0, 1], "2")
        with self.assertRaisesRegex(Problem, "no cable"):
            self.change(off, "Conductors", "core_number", [0], "2")

    def test_where_a_shield_ends_is_a_cell_of_the_cables(self) -> None:
        machine = by_cable()
        host, motor = (PortRef(device=d, port=p) for d, p in (("T1", "MOTOR"), ("M1", "LEADS")))
        for text, ports in (
            ("t1", {host}), ("both", {host, motor}), ("M1 LEADS", {motor}), ("nowhere", set()),
        ):  # fmt: skip
            changed = self.change(machine, "Cables", "shield_at", [0], text)
            self.assertEqual(ports, set(changed.cables[0].shield_to), text)
        with self.assertRaisesRegex(Problem, "It comes to"):
            self.change(machine, "Cables", "shield_at", [0], "K7")
