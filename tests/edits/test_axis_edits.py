"""Edits of axes and roles: what they change, what they leave, what they refuse."""

import unittest

from msgspec.structs import replace

from tests import small
from vervain.edits import axis_edits as edits
from vervain.files.demos import open_demo, open_template
from vervain.files.part_files import shipped_shelf
from vervain.model.axis import Joint, Screw
from vervain.model.problem import Problem
from vervain.model.references import faults_of

GANTRY = open_demo("glazing-gantry-as-planned")
PARTS = shipped_shelf().parts


def axis(machine, axis_id):
    return edits.find_axis(machine, axis_id)


class Axes(unittest.TestCase):
    def test_added_axes_take_the_next_letter(self) -> None:
        machine = edits.add_axis(GANTRY)
        self.assertEqual(["X", "Y", "Z", "A", "B"], [a.id for a in machine.axes])
        arm = edits.add_axis(edits.add_axis(small.bench().machine, "J1"))
        self.assertEqual(["J1", "J2"], [a.id for a in arm.axes])

    def test_a_renamed_axis_keeps_what_was_accepted_of_it(self) -> None:
        machine = edits.rename_axis(GANTRY, "Z", "W", "head")
        self.assertEqual("machine.axis-limit:W:min", machine.accepted[0].key)
        for wrong in ("X", "x", "", "1A", "TOOLONGNAME"):
            with self.subTest(wrong), self.assertRaises(Problem):
                edits.rename_axis(GANTRY, "Z", wrong, "head")

    def test_numbers_have_bounds(self) -> None:
        self.assertEqual(900, axis(edits.set_axis_number(GANTRY, "X", "travel", 900), "X").travel)
        self.assertIsNone(axis(edits.set_axis_number(GANTRY, "X", "travel", None), "X").travel)
        for field, value in (
            ("travel", 0), ("travel", float("nan")), ("gear_ratio", None), ("speed_max", -1),
        ):  # fmt: skip
            with self.subTest((field, value)), self.assertRaises(Problem):
                edits.set_axis_number(GANTRY, "X", field, value)
        for field, value in (("teeth", 20.5), ("teeth", 0), ("pitch_mm", None), ("lead_mm", 3)):
            with self.subTest((field, value)), self.assertRaises(Problem):
                edits.set_mechanism_number(GANTRY, "X", field, value)
        self.assertIsNone(
            axis(edits.set_mechanism_number(GANTRY, "Z", "backlash_mm", None), "Z")
            .mechanism.backlash_mm
        )  # fmt: skip

    def test_mechanism_and_motion_agree(self) -> None:
        joint = edits.set_mechanism(GANTRY, "X", Joint())
        self.assertEqual("rotary", axis(joint, "X").motion)
        self.assertEqual(
            "linear", axis(edits.set_mechanism(joint, "X", Screw(lead_mm=2)), "X").motion
        )
        self.assertIsNone(axis(edits.set_axis_choice(joint, "X", motion="linear"), "X").mechanism)

    def test_order_and_removal(self) -> None:
        self.assertEqual("YXZA", "".join(a.id for a in edits.move_axis(GANTRY, "X", 1).axes))
        self.assertEqual(GANTRY, edits.move_axis(GANTRY, "X", -1))
        gone = edits.remove_axis(GANTRY, "X")
        self.assertEqual(GANTRY.devices, gone.devices)
        swapped = edits.move_device(GANTRY, "M2", 1, ("M2", "M3"))
        self.assertEqual(("M3", "M2"), axis(swapped, "Y").drives)

    def test_a_copy_has_devices_of_its_own_joined_to_nothing(self) -> None:
        machine, name = edits.duplicate_axis(GANTRY, "Y")
        copy, old = axis(machine, name), axis(GANTRY, "Y")
        self.assertFalse(set(copy.members) & set(old.members))
        self.assertEqual((old.travel, old.mechanism), (copy.travel, copy.mechanism))
        joined = {h.a.device for h in machine.hookups} | {h.b.device for h in machine.hookups}
        self.assertFalse(set(copy.members) & joined)
        self.assertEqual([], list(faults_of(machine)))
        self.assertEqual(["X", "Y", "B", "Z", "A"], [a.id for a in machine.axes])

    def test_a_copied_device_goes_where_the_next_axis_lacks_it(self) -> None:
        grown = edits.add_axis(GANTRY)
        machine, name = edits.duplicate_device(grown, "M1")
        self.assertEqual((name,), axis(machine, "B").drives)
        self.assertEqual(axis(GANTRY, "X").drives, axis(machine, "X").drives)
        made = next(d for d in machine.devices if d.designator == name)
        self.assertTrue(made.name.startswith("B "), made.name)
        again, other = edits.duplicate_device(machine, "M1")
        self.assertEqual(machine.axes, again.axes, "no axis lacks a motor any more")
        self.assertNotEqual(name, other)

    def test_a_mirrored_motor_is_a_second_one_of_the_same_part(self) -> None:
        machine, name = edits.mirror_motor(GANTRY, "X")
        self.assertEqual(("M1", name), axis(machine, "X").drives)
        first, second = (
            next(d for d in machine.devices if d.designator == n) for n in ("M1", name)
        )
        self.assertEqual((first.part, first.place), (second.part, second.place))
        with self.assertRaises(Problem):
            edits.mirror_motor(edits.add_axis(GANTRY), "B")


class Roles(unittest.TestCase):
    def test_a_device_leaves_its_old_axis(self) -> None:
        machine = edits.put_in_role(GANTRY, "X", "feedback", "B9")
        self.assertEqual(("B9", None), (axis(machine, "X").feedback, axis(machine, "A").feedback))

    def test_one_switch_may_be_home_and_limit_of_its_axis(self) -> None:
        machine = edits.put_in_role(GANTRY, "X", "min_limit", "B1")
        x = axis(machine, "X")
        self.assertEqual(("B1", "B1"), (x.home, x.min_limit))
        self.assertIsNotNone(next(d for d in machine.devices if d.designator == "B2"))

    def test_what_becomes_home_is_no_longer_of_no_role(self) -> None:
        x = replace(axis(GANTRY, "X"), also=("B1", "B2"), home="B1", max_limit=None)
        axes = tuple(x if old.id == "X" else old for old in GANTRY.axes)
        for role in ("home", "max_limit"):
            with self.subTest(role):
                machine = edits.put_in_role(replace(GANTRY, axes=axes), "X", role, "B1")
                changed = axis(machine, "X")
                self.assertEqual(("B1", ("B2",)), (getattr(changed, role), changed.also))

    def test_what_cannot_fill_a_role_is_refused(self) -> None:
        for role, device in (("drive", "B1"), ("feedback", "M1"), ("brake", "M1"), ("home", "K1")):
            with self.subTest(role), self.assertRaises(Problem):
                edits.put_in_role(GANTRY, "X", role, device)

    def test_a_new_part_gets_a_free_designator_and_its_part_is_copied(self) -> None:
        start = edits.add_axis(small.bench().machine)
        machine, name = edits.add_to_role(start, "X", "min_limit", PARTS["osier-rl2"])
        self.assertEqual(("B1", "B1"), (name, axis(machine, "X").min_limit))
        self.assertEqual(["osier-rl2"], [part.id for part in machine.parts])
        self.assertEqual("X min limit", machine.devices[0].name)
        self.assertEqual((), edits.take_from_roles(machine, "B1").axes[0].members)

    def test_a_device_is_called_after_the_role_that_it_has(self) -> None:
        start = edits.add_axis(small.bench().machine)
        machine, first = edits.add_to_role(start, "X", "min_limit", PARTS["osier-rl2"])
        # A copy of a limit goes to the other end.
        machine, second = edits.duplicate_device(machine, first)
        self.assertEqual((first, second), (machine.axes[0].min_limit, machine.axes[0].max_limit))
        self.assertEqual("X max limit", machine.devices[1].name)
        both = edits.put_in_role(machine, "X", "home", first)
        self.assertEqual("X min limit", both.devices[0].name)
        moved = edits.put_in_role(edits.add_axis(machine), "Y", "home", first)
        self.assertEqual("Y home", moved.devices[0].name)
        freed = edits.take_from_roles(machine, second)
        self.assertEqual(PARTS["osier-rl2"].title, freed.devices[1].name)
        # A name that somebody gave stays.
        named = replace(machine.devices[0], name="Lid, left")
        own = replace(machine, devices=(named, machine.devices[1]))
        self.assertEqual("Lid, left", edits.put_in_role(own, "X", "home", first).devices[0].name)


class Templates(unittest.TestCase):
    def test_every_template_is_sound_and_joined_to_nothing(self) -> None:
        from vervain.files.demos import TEMPLATES

        for template in TEMPLATES:
            machine = open_template(template.key)
            with self.subTest(template.key):
                self.assertEqual([], list(faults_of(machine)))
                self.assertEqual((), machine.hookups)
                self.assertTrue(all(a.drives and a.mechanism and a.speed_max for a in machine.axes))
                self.assertTrue(machine.axes)
