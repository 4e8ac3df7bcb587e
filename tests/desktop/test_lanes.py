"""Where the lanes stand: plain shapes for any machine, width and text size."""

import itertools
import unittest

from PyQt6.QtCore import QRectF

from large import large_machine
from tests import small
from vervain.desktop.stages.machine.lane_layout import Lanes, lay_out
from vervain.edits.axis_edits import put_in_role, set_axis_choice, set_axis_number
from vervain.files.demos import DEMOS, open_demo
from vervain.model.axis import Axis
from vervain.model.machine import Machine
from vervain.queries.axis_places import Place, lane_devices, places_of_axis
from vervain.queries.machine_queries import Queries

SIZES = ((752, 1.0), (752, 0.8), (590, 1.5), (560, 2.0), (1500, 1.0))


def lanes_of(machine: Machine, width: float = 752, scale: float = 1.0) -> Lanes:
    return lay_out(Queries(machine), width, scale)


def overlaps(boxes: list[QRectF]) -> list[tuple[QRectF, QRectF]]:
    inner = [box.adjusted(0.5, 0.5, -0.5, -0.5) for box in boxes]
    return [(a, b) for a, b in itertools.combinations(inner, 2) if a.intersects(b)]


class Shapes(unittest.TestCase):
    def test_no_card_overlaps_another_or_leaves_its_lane(self) -> None:
        for demo, (width, scale) in itertools.product(DEMOS, SIZES):
            lanes = lanes_of(open_demo(demo.key), width, scale)
            with self.subTest(f"{demo.key} {width} {scale}"):
                self.assertEqual([], overlaps([card.box for card in lanes.cards()]))
                for lane in (*lanes.axes, *lanes.groups):
                    for card in lane.cards:
                        self.assertTrue(lane.band.contains(card.box.adjusted(1, 1, -1, -1)))
                bands = [lane.band for lane in (*lanes.axes, *lanes.groups)]
                self.assertEqual([], overlaps(bands))

    def test_every_device_stands_in_its_places_and_nowhere_else(self) -> None:
        for demo in DEMOS:
            machine = open_demo(demo.key)
            queries = Queries(machine)
            shown = [card.place.device for card in lanes_of(machine).cards() if card.place.device]
            expected = [
                place.device
                for axis in machine.axes
                for place in places_of_axis(axis)
                if place.device
            ]
            expected += [name for _, names in lane_devices(queries) for name in names]
            self.assertEqual(sorted(expected), sorted(shown))
            self.assertEqual({d.designator for d in machine.devices}, set(shown))

    def test_switches_act_where_the_numbers_say(self) -> None:
        lanes = lanes_of(open_demo("glazing-gantry-as-planned"))
        x = next(lane for lane in lanes.axes if lane.axis.id == "X")
        rule = x.bars[-1]
        at = {card.place.role: card.acts_at for card in x.cards if card.acts_at}
        self.assertLess(at["min_limit"].x(), rule.left())
        self.assertGreater(at["max_limit"].x(), rule.right())
        share = (at["home"].x() - rule.left()) / rule.width()
        self.assertAlmostEqual(30 / 820, share, places=6)

    def test_motors_stand_at_the_end_where_they_pull(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        for end, is_left in (("min", True), ("max", False)):
            changed = set_axis_choice(machine, "Y", pulls_at=end)
            lane = next(lane for lane in lanes_of(changed).axes if lane.axis.id == "Y")
            motors = [card.box for card in lane.cards if card.place.role == "drive"]
            self.assertEqual(2, len(motors))
            self.assertEqual(2, len(lane.bars))
            for box, bar in zip(motors, lane.bars, strict=True):
                self.assertEqual(is_left, box.right() <= bar.left())
                self.assertAlmostEqual(box.center().y(), bar.center().y())

    def test_an_encoder_on_the_motor_stands_on_its_shaft_one_on_the_axis_above(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        for where, in_row in (("motor", True), ("axis", False)):
            changed = set_axis_choice(machine, "A", feedback_at=where)
            lane = next(lane for lane in lanes_of(changed).axes if lane.axis.id == "A")
            boxes = {card.place.device: card.box for card in lane.cards}
            same_row = abs(boxes["B9"].top() - boxes["M6"].top()) < 1
            self.assertEqual(in_row, same_row)

    def test_endless_axes_have_no_limits_and_a_dial_where_they_turn(self) -> None:
        lanes = lanes_of(open_demo("glazing-gantry-as-planned"))
        a = next(lane for lane in lanes.axes if lane.axis.id == "A")
        self.assertIsNotNone(a.dial)
        roles = {card.place.role for card in a.cards}
        self.assertFalse({"min_limit", "max_limit"} & roles)
        wheels = lanes_of(open_demo("seedling-arm-as-planned")).axes[-1]
        self.assertIsNone(wheels.dial)

    def test_an_empty_axis_shows_what_is_missing(self) -> None:
        machine = Machine(name="x", axes=(Axis(id="Z", name="z", vertical=True),))
        roles = [card.place.role for card in lanes_of(machine).axes[0].cards]
        self.assertEqual(
            {"min_limit", "home", "max_limit", "drive", "feedback", "brake"}, set(roles)
        )
        lanes = lanes_of(machine)
        self.assertEqual(5, len(lanes.groups))
        self.assertTrue(all(len(group.cards) == 1 for group in lanes.groups))

    def test_positions_outside_the_travel_stay_on_the_rule(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        for home in (-500.0, 99_999.0):
            changed = set_axis_number(machine, "X", "home_at", home)
            lane = lanes_of(changed).axes[0]
            card = next(card for card in lane.cards if card.place.role == "home")
            rule = lane.bars[-1]
            self.assertTrue(rule.left() <= card.acts_at.x() <= rule.right())

    def test_a_large_machine_is_laid_out_without_overlaps(self) -> None:
        lanes = lanes_of(large_machine(200))
        self.assertEqual(55, len(lanes.axes))
        self.assertGreater(lanes.height, 5000)
        last = lanes.groups[-1].band
        self.assertAlmostEqual(last.bottom(), lanes.height)

    def test_offered_places_get_cards_of_their_own(self) -> None:
        machine = small.bench("M1 fell-s57").machine
        axis = Axis(id="X", name="x")
        machine = put_in_role(
            Machine(name="x", axes=(axis,), devices=machine.devices, parts=machine.parts),
            "X",
            "drive",
            "M1",
        )
        second = Place(axis="X", role="drive")
        lanes = lay_out(Queries(machine), 752, 1.0, (second, Place(lane="Tools")))
        offered = [card.place for card in lanes.cards() if card.offered]
        self.assertEqual([second, Place(lane="Tools")], offered)
        self.assertEqual(2, len(lanes.axes[0].bars))
        self.assertEqual(lanes.card_of(second).place, second)
