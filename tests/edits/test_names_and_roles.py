"""What leaves, and what stays, when something is renamed, taken out or accepted."""

import unittest
from types import SimpleNamespace

from msgspec.structs import replace

from tests import small
from vervain.edits.axis_edits import take_from_roles
from vervain.edits.cable_edits import rename_cable
from vervain.edits.note_edits import accept_finding
from vervain.files.demos import open_demo
from vervain.model.axis import Axis
from vervain.model.machine import Alternate, PortRef
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.ports.alternates import displaced_by, is_in
from vervain.queries.machine_queries import Queries

GANTRY = open_demo("glazing-gantry-as-planned")


class Names(unittest.TestCase):
    def test_a_cable_keeps_its_name_or_takes_a_free_one(self) -> None:
        first, second = GANTRY.cables[0].id, GANTRY.cables[1].id
        self.assertIs(GANTRY, rename_cable(GANTRY, first, f" {first} "))
        renamed = rename_cable(GANTRY, first, "W900")
        self.assertIn("W900", [cable.id for cable in renamed.cables])
        self.assertEqual(
            sum(h.cable == first for h in GANTRY.hookups),
            sum(h.cable == "W900" for h in renamed.hookups),
        )
        for name, words in ((second, "taken"), ("", "1 to 80"), ("x" * 81, "1 to 80")):
            with self.assertRaisesRegex(Problem, words):
                rename_cable(GANTRY, first, name)

    def test_one_acceptance_for_one_finding(self) -> None:
        def finding(key: str):
            return SimpleNamespace(key=key, rule="supply.drop", about=None, at=(), detail=key)

        machine = replace(GANTRY, accepted=())
        one, two = finding("a"), finding("b")
        one.about = two.about = Subject(device="M8")
        machine = accept_finding(machine, one, "for now", "2030-01-01")
        machine = accept_finding(machine, two, "as well", "2030-01-01")
        self.assertEqual(2, len(machine.accepted))
        one.key = machine.accepted[0].key
        again = accept_finding(machine, one, "looked at again", "2030-02-02")
        self.assertEqual(2, len(again.accepted))
        self.assertIn("looked at again", {a.reason for a in again.accepted})
        with self.assertRaisesRegex(Problem, "reason"):
            accept_finding(machine, one, "  ", "2030-02-02")


class Roles(unittest.TestCase):
    def test_only_the_device_that_leaves_loses_its_roles(self) -> None:
        axis = Axis(
            id="X", name="carriage", travel=100, drives=("M1", "M2"), home="B1", min_limit="B1",
            max_limit="B2", brake="M5", feedback="B9", also=("B3",),
        )  # fmt: skip
        parts = {"M1": "fell-s57", "M2": "fell-s57", "M5": "larkmoor-hb24", "B9": "larkmoor-e600"}
        names = ("M1", "M2", "M5", "B1", "B2", "B3", "B8", "B9")
        build = small.bench(*(f"{name} {parts.get(name, 'osier-rl2')}" for name in names))
        machine = replace(build.machine, axes=(axis,))
        for name, left in (
            ("B1", {"home": None, "min_limit": None}), ("M2", {"drives": ("M1",)}),
            ("B3", {"also": ()}), ("M5", {"brake": None}), ("B8", {}),
        ):  # fmt: skip
            with self.subTest(name):
                self.assertEqual((replace(axis, **left),), take_from_roles(machine, name).axes)


class Alternates(unittest.TestCase):
    def test_who_is_in_and_who_is_displaced(self) -> None:
        build = small.bench("T1 fell-d72", "M1 fell-s57", "M2 fell-s57", "M3 fell-s57")
        build.join("M1:LEADS", "T1:MOTOR", "BK-1 GN-2 RD-3 BU-4")
        port, other = PortRef(device="T1", port="MOTOR"), PortRef(device="T2", port="MOTOR")
        waiting = tuple(
            Alternate(device=name, port=ref)
            for name, ref in (("M2", port), ("M3", port), ("M1", other))
        )
        queries = Queries(replace(build.machine, alternates=waiting))
        self.assertEqual([False, False, False], [is_in(queries, item) for item in waiting])
        self.assertEqual(("M1", "M3"), displaced_by(queries, waiting[0]))
        self.assertTrue(is_in(queries, Alternate(device="M1", port=port)))
        self.assertEqual((), displaced_by(queries, waiting[2]))
