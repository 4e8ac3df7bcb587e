"""The Machine stage, worked with keys and mouse."""

from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDragMoveEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton

from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.desktop.stages.machine.lane_view import PART_MIME
from vervain.edits.axis_edits import find_axis
from vervain.files.part_files import shipped_shelf
from vervain.files.part_writing import part_text
from vervain.model.machine import Machine
from vervain.queries.axis_places import Place, lane_devices

LEFT = Qt.MouseButton.LeftButton
Key = Qt.Key


class StageCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.go(self.window)

    def go(self, window) -> None:
        self.window = window
        window.show_stage("Machine")
        self.settle()
        self.stage = window.machine_stage
        self.view = self.stage.view

    def axis(self, axis_id: str):
        return find_axis(self.session.machine, axis_id)

    def click(self, place: Place) -> None:
        point = self.view.position_of(place).toPoint()
        QTest.mouseClick(self.view.viewport(), LEFT, pos=point)

    def field(self, name: str):
        facts = self.window.side.facts
        found = [
            w
            for kind in (QLineEdit, QComboBox)
            for w in facts.findChildren(kind)
            if w.accessibleName() == name and not w.isHidden()
        ]
        return found[-1]

    def type_into(self, name: str, text: str) -> None:
        field = self.field(name)
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Key.Key_Return)
        self.settle()


class Places(StageCase):
    def test_from_an_empty_place_by_keys_alone(self) -> None:
        """Enter at an empty place shows what fits, and takes words; Enter puts a part there."""
        self.view.choose(Place(axis="X", role="min_limit"))
        self.keys(self.view, Key.Key_Return)
        field, rows = self.window.shelf.field, self.window.shelf.rows
        self.assertTrue(field.hasFocus())
        kinds = {port.kind for row in rows.rows if row.part for port in row.part.ports}
        self.assertLessEqual({"contact", "sensor"}, kinds)
        self.assertFalse(kinds & {"transducer", "analogue sensor"}, "A limit is on or off.")
        QTest.keyClicks(field, "roller")
        self.keys(field, Key.Key_Return)
        self.assertEqual("B2", self.axis("X").min_limit)
        self.assertEqual("osier-rl2", self.session.queries.device("B2").part)
        self.assertTrue(self.view.hasFocus())
        self.assertEqual("B2", self.session.selection.device)
        self.assertNotIn("machine.axis-limit:X:min", self.finding_keys())
        self.assertIsNone(rows.place)
        self.session.undo()
        self.assertIsNone(self.axis("X").min_limit)

    def test_what_the_shelf_has_not_is_described_with_the_same_key_and_escape_leaves(self) -> None:
        self.session.select(Selection(axis="X"))
        self.keys(self.view, Key.Key_Return)
        shelf = self.window.shelf
        self.assertEqual("For X min limit", shelf.asked.text(), "It has its motor and its home.")
        QTest.keyClicks(shelf.field, "wobble plate")
        self.assertIn("Enter describes it", shelf.note.text())
        self.keys(shelf.field, Key.Key_Return)
        self.assertIs(self.window.describing, self.stage.page)
        self.stage.show_page(None)
        for left in ("For X min limit", ""):
            self.keys(shelf.field, Key.Key_Escape)
            self.assertEqual(left, shelf.asked.text())
        self.assertTrue(self.view.hasFocus())

    def test_arrows_aim_only_at_what_can_take_it_and_escape_puts_back(self) -> None:
        before = self.session.machine
        hand = self.stage.hand
        hand.take_part(self.window.shelf.part_of("larkmoor-e1000"))
        aimed = set()
        for _ in range(8):
            aimed.add(hand.target)
            self.keys(self.view, Key.Key_Right)
        self.assertIn(Place(axis="X", role="feedback"), aimed)
        self.assertNotIn(Place(axis="X", role="min_limit"), aimed)
        self.keys(self.view, Key.Key_Escape)
        self.assertTrue(hand.is_empty)
        self.assertIs(before, self.session.machine)

    def test_a_click_puts_what_is_in_hand(self) -> None:
        self.stage.hand.take_part(self.window.shelf.part_of("osier-rl2"))
        self.click(Place(axis="A", role="home"))
        self.assertIsNotNone(self.axis("A").home)

    def test_a_part_dropped_from_the_shelf_goes_where_it_is_dropped(self) -> None:
        hand = self.stage.hand
        for place in (Place(axis="Z", role="min_limit"), None):
            hand.take_part(self.window.shelf.part_of("osier-rl2"))
            data = QMimeData()
            data.setData(PART_MIME, b"osier-rl2")
            spot = self.view.position_of(place) if place else QPointF(4, 4)
            for kind, handler in (
                (QDragMoveEvent, self.view.dragMoveEvent),
                (QDropEvent, self.view.dropEvent),
            ):
                where = spot.toPoint() if kind is QDragMoveEvent else spot
                event = kind(
                    where, Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier
                )
                handler(event)
            self.assertTrue(hand.is_empty)
            self.assertEqual("B2", self.axis("Z").min_limit)
        self.assertEqual(59, len(self.session.machine.devices))

    def test_a_device_moves_from_role_to_role_by_dragging(self) -> None:
        start = self.view.position_of(Place(axis="X", role="max_limit", device="B3")).toPoint()
        area = self.view.viewport()
        QTest.mousePress(area, LEFT, pos=start)
        QTest.mouseMove(area, start + QPoint(0, 20))
        end = self.view.position_of(Place(axis="X", role="min_limit")).toPoint()
        QTest.mouseMove(area, end)
        QTest.mouseRelease(area, LEFT, pos=end)
        self.assertEqual(("B3", "B3"), (self.axis("X").min_limit, self.axis("X").max_limit))

    def test_a_sensor_that_belongs_to_no_axis_goes_to_its_lane(self) -> None:
        self.session.select(Selection(device="B10"))
        self.keys(self.view, Key.Key_Return)
        self.stage.hand.aim(Place(lane="Tools"))
        self.keys(self.view, Key.Key_Return)
        self.assertNotIn("B10", self.axis("A").members)
        self.assertIsNotNone(self.session.queries.device("B10"))


class Axes(StageCase):
    def test_add_copy_mirror_move_and_take_out(self) -> None:
        self.keys(self.view, "a")
        self.assertEqual("B", self.session.selection.axis)
        self.keys(self.view, (Key.Key_Up, Qt.KeyboardModifier.ControlModifier))
        self.assertEqual("XYZBA", "".join(a.id for a in self.session.machine.axes))
        self.session.select(Selection(axis="X"))
        self.keys(self.view, "m")
        self.assertEqual(2, len(self.axis("X").drives))
        self.session.select(Selection(axis="X"))
        self.keys(self.view, "c")
        self.assertEqual(6, len(self.session.machine.axes))
        self.keys(self.view, Key.Key_Delete)
        self.assertEqual(5, len(self.session.machine.axes))
        self.assertIn("its devices stay", self.said[-1])

    def test_every_number_of_the_card_can_be_changed(self) -> None:
        self.session.select(Selection(axis="X"))
        self.type_into("Top speed", "300 mm/s")
        self.assertEqual(300, self.axis("X").speed_max)
        self.type_into("Travel", "32 in")
        self.assertAlmostEqual(812.8, self.axis("X").travel)
        self.type_into("Pulley teeth", "16")
        self.assertEqual(16, self.axis("X").mechanism.teeth)
        self.type_into("Letter", "u")
        self.assertEqual("U", self.session.selection.axis)
        self.type_into("Travel", "long")
        self.assertIn("not a number in mm", self.said[-1])
        self.assertAlmostEqual(812.8, self.axis("U").travel)

    def test_a_choice_of_mechanism_brings_its_own_numbers(self) -> None:
        self.session.select(Selection(axis="X"))
        self.field("Moved by a").textActivated.emit("screw")
        self.settle()
        self.type_into("Backlash", "0.05")
        self.assertEqual(0.05, self.axis("X").mechanism.backlash_mm)
        self.field("Microsteps").textActivated.emit("32")
        self.assertEqual("32", self.session.queries.setting("T1", "microsteps"))

    def test_arrows_reach_every_lane(self) -> None:
        self.session.select(Selection(axis="X"))
        chosen = []
        for _ in range(40):
            self.keys(self.view, Key.Key_Down)
            chosen.append(self.session.selection)
        axes = {
            axis for c in chosen if c.device for axis in [self.session.queries.axis_of(c.device)]
        }
        reached = {c.axis for c in chosen} | {axis.id for axis in axes if axis}
        self.assertLessEqual({"Y", "Z", "A"}, reached)
        lanes = {
            title
            for title, names in lane_devices(self.session.queries)
            for c in chosen
            if c.device in names
        }
        self.assertEqual({"Tools", "Operator", "Control", "Supplies", "Terminals"}, lanes)
        self.session.select(Selection(device="B4"))
        self.keys(self.view, Key.Key_Left, Key.Key_Left)
        self.assertEqual("Y", self.session.selection.axis)


class Shelf(StageCase):
    def test_words_and_numbers_find_a_part(self) -> None:
        shelf = self.window.shelf
        QTest.keyClicks(shelf.field, "driver 4A 48V three phase")
        self.assertEqual(["fell-d73"], [row.part.id for row in shelf.rows.rows])
        QTest.keyClick(shelf.field, Key.Key_Return)
        self.assertEqual("fell-d73", self.session.selection.part)
        self.keys(shelf.rows, Key.Key_Return)
        self.assertEqual(Place(lane="Control"), self.stage.hand.target)
        self.keys(self.view, Key.Key_Return)
        self.assertEqual("T6", self.session.selection.device)

    def test_a_broken_file_of_the_builder_is_told_and_the_rest_stays(self) -> None:
        folder = self.window.settings.parts_folder
        folder.mkdir()
        (folder / "broken.toml").write_text("[[part]]\nid = ")
        self.window.read_shelf()
        self.settle()
        self.assertTrue(any("broken.toml" in text for text in self.said))
        self.assertGreater(len(self.window.shelf.rows.contents.parts), 30)


class Beginning(StageCase):
    def test_an_empty_machine_offers_ways_to_begin(self) -> None:
        self.go(self.open(Machine(name="New machine")))
        self.assertIs(self.stage.beginning, self.stage.body.currentWidget())
        self.assertTrue(self.stage.beginning.buttons[2].text().startswith("Three-axis"))
        QTest.mouseClick(self.stage.beginning.buttons[2], LEFT)
        self.assertEqual(["X", "Y", "Z"], [a.id for a in self.session.machine.axes])
        self.assertIs(self.view, self.stage.body.currentWidget())
        self.settle()

    def test_the_first_part_is_described_by_keys_alone(self) -> None:
        self.window = self.open(Machine(name="New machine"))
        self.window.show_stage("Machine")
        self.window.machine_stage.setFocus()
        self.keys(self.application.focusWidget(), "d")
        self.keys(self.application.focusWidget(), "Spool")
        self.assertEqual("Spool", self.window.describing.title.text())

    def test_the_first_axis_and_motor_by_keys(self) -> None:
        self.go(self.open(Machine(name="New machine")))
        self.keys(self.window.focusWidget(), "a")
        self.assertIs(self.view, self.window.focusWidget())
        self.view.choose(Place(axis="X", role="drive"))
        self.keys(self.view, Key.Key_Return)
        self.keys(self.window.shelf.rows, Key.Key_Return)
        self.keys(self.view, Key.Key_Return)
        self.assertEqual(("M1",), self.axis("X").drives)


class Describe(StageCase):
    def describe(self, title: str, pins: str, colours: str = ""):
        self.keys(self.view, "d")
        page = self.window.describing
        QTest.keyClicks(page.title, title)
        page.pins.setPlainText(pins)
        page.colours.setPlainText(colours)
        page.refresh()
        return page

    def test_from_a_pasted_table_to_a_device_on_the_machine(self) -> None:
        page = self.describe("Light gate", "1\t+5 V\n2\tOUT\n3\tGND", "1 red\n2 white\n3 black")
        self.assertIsNotNone(page.drawing.picture)
        self.assertEqual("", page.problems.text())
        self.keys(page.pins, (Key.Key_Return, Qt.KeyboardModifier.ControlModifier))
        self.settle()
        self.assertIs(self.view, self.stage.body.currentWidget())
        self.assertIn("Light gate", self.said[-1])
        part = self.window.shelf.part_of("my-light-gate")
        self.assertEqual(part, self.stage.hand.part, "what was described is in hand")
        self.keys(self.application.focusWidget(), Key.Key_Return)
        self.assertIn(part, self.session.machine.parts)
        self.describe("Foot pedal", "1 COM\n2 NO")
        self.window.describing.kind.setCurrentText("switch")
        self.window.describing.save()
        self.settle()
        self.assertEqual("Operator", self.stage.hand.target.lane, "a hand or a foot works it")
        self.keys(self.application.focusWidget(), Key.Key_Escape)
        self.assertTrue(self.stage.hand.is_empty)

    def test_tab_goes_through_the_figures_in_their_order(self) -> None:
        page = self.describe("Board", "")
        page.kind.setCurrentText("controller")
        page.model.setFocus()
        seen = []
        for _ in page.figures.asked:
            self.keys(self.application.focusWidget(), Key.Key_Tab)
            seen.append(self.application.focusWidget())
        self.assertEqual(list(page.figures.asked), seen)

    def test_a_newer_version_is_offered_with_its_differences(self) -> None:
        for colours in ("1 red\n2 white\n3 black", "1 brown\n2 white\n3 black"):
            page = self.describe("Gate", "1 +\n2 OUT\n3 GND", colours)
            page.save()
            self.settle()
            if "brown" not in colours:
                self.stage.hand.take_part(self.window.shelf.part_of("my-gate"))
                self.keys(self.view, Key.Key_Return)
        device = self.session.machine.devices[-1].designator
        self.session.select(Selection(device=device))
        self.settle()
        offer = [
            button
            for button in self.window.side.facts.findChildren(QPushButton)
            if button.accessibleName() == "Take the newer version"
        ]
        QTest.mouseClick(offer[-1], LEFT)
        self.assertEqual("BN", self.session.queries.part_of(device).ports[0].pins[0].lead)

    def test_bad_rows_stay_and_a_part_without_a_name_is_not_saved(self) -> None:
        page = self.describe("", "1 +\n1 FROB\n3 GND", "1 B")
        self.assertEqual(3, page.table.rowCount())
        self.assertIn("two functions", page.table.item(1, 4).text())
        page.save()
        self.assertIn("name", self.said[-1])
        self.assertEqual([], list(self.window.settings.parts_folder.glob("*")))
        self.keys(page, Key.Key_Escape)
        self.keys(self.view, "d")
        self.assertEqual("1 +\n1 FROB\n3 GND", page.pins.toPlainText())

    def test_rows_from_a_csv_file_and_from_one_that_is_none(self) -> None:
        page = self.describe("Board", "")
        good, bad = self.folder / "pins.csv", self.folder / "picture.csv"
        good.write_text("Pin;Function\n1;+24V\n2;GND\n")
        bad.write_bytes(b"\x89PNG\0\xff\xfe\0")
        page.take_csv(page.pins, good)
        self.settle()
        page.refresh()
        self.assertEqual(2, page.table.rowCount())
        page.take_csv(page.pins, bad)
        self.settle()
        self.assertIn("picture.csv", self.said[-1])
        self.assertIn("+24V", page.pins.toPlainText())


class PartsLikeOthers(WindowCase):
    """A part of the shelf with figures of one's own, by keys."""

    def test_from_the_shelf_to_ones_own_and_its_next_revision(self) -> None:
        window = self.open(Machine(name="New machine"))
        window.show_stage("Machine")
        rows = window.shelf.rows
        self.until(lambda: bool(rows.contents.parts))
        window.shelf.field.setText("inductive pnp")
        rows.setFocus()
        rows.go_to_first_part()
        QTest.keyClick(rows, Qt.Key.Key_L)
        page = window.making_like
        self.assertIs(page, window.machine_stage.page)
        QTest.keyClicks(page.title, "Sensor from the drawer")
        at = next(n for n, f in enumerate(page.rows) if f.words == "works from")
        page.table.setCurrentCell(at, 2)
        page.table.setFocus()
        QTest.keyClick(page.table, Qt.Key.Key_F2)
        editor = page.table.findChild(QLineEdit)
        self.keys(editor, "nonsense")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.until(lambda: "is not a number in V" in page.problem.text())
        self.assertFalse(page.save_button.isEnabled())
        page.table.item(at, 2).setText("40")
        self.assertIn("works from 40 V, but bears only 30 V", page.problem.text())
        page.table.item(at, 2).setText("4.5")
        QTest.keyClick(page, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        mine = lambda: [p for p in rows.contents.parts if p.id in rows.contents.own_ids]  # noqa: E731
        self.until(lambda: len(mine()) == 1)
        own = mine()[0]
        self.assertEqual(("Sensor from the drawer", 1), (own.title, own.revision))
        self.assertEqual(4.5, own.ports[0].pins[0].electrical.v_min_v)
        window.session.select(Selection(part=own.id))
        window.make_like()
        page.table.item(at, 2).setText("5")
        page.save()
        self.until(lambda: mine()[0].revision == 2)
        self.assertEqual(5, mine()[0].ports[0].pins[0].electrical.v_min_v)
        self.assertEqual(1, len(mine()))

    def test_a_part_file_dropped_onto_the_window_is_taken_in_when_told(self) -> None:
        window = self.open(Machine(name="New machine"))
        path = window.settings.parts_folder.parent / "from a friend.toml"
        path.parent.mkdir(parents=True, exist_ok=True)
        part = replace(shipped_shelf().parts["osier-rl2"], id="friend-1", title="Friend's switch")
        path.write_text(part_text(part))
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path))])
        drop = QDropEvent(
            QPointF(5, 5), Qt.DropAction.CopyAction, data, LEFT, Qt.KeyboardModifier.NoModifier
        )
        window.dropEvent(drop)
        bar = window.messages
        self.until(lambda: "1 new (Friend's switch)" in bar.words.text())
        self.assertFalse(window.settings.parts_folder.exists())
        take = next(b for b in bar.findChildren(QPushButton) if b.text() == "Take in")
        QTest.mouseClick(take, LEFT)
        rows = window.shelf.rows
        self.until(lambda: "friend-1" in rows.contents.own_ids)
