"""The job done in the real window, with keys and mouse, as a builder would."""

from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QPointF, QRectF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QMenu, QPushButton

from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.desktop.theme import NIGHT, PAPER, looks
from vervain.edits.device_edits import set_name
from vervain.files.demos import open_demo
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.occupancy import alternates_at, far_colours, seen_at
from vervain.queries.connectivity import host_ports, paths_from

B7 = PortRef(device="B7", port="LEADS")
IN_7 = PortRef(device="K1", port="IN 7")
KEY = Qt.Key
SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class Carrying(WindowCase):
    def test_a_sensor_is_put_into_its_port_by_keys_alone(self) -> None:
        tray = self.window.tray
        self.keys(tray.field, "home sens", KEY.Key_Return)
        self.keys(tray.list, KEY.Key_Down, KEY.Key_Return)
        self.assertEqual(B7, self.session.in_hand)
        self.assertEqual(IN_7, self.session.target)
        self.assertIn("B7 in hand", self.window.ports.line.words.text())
        self.keys(self.boards, KEY.Key_Right)
        self.assertEqual("IN 8", self.session.target.port)
        self.keys(self.boards, KEY.Key_Left, KEY.Key_Return)
        self.assertIsNone(self.session.in_hand)
        self.assertEqual((IN_7,), host_ports(self.session.queries, B7))
        self.assertNotIn("ports.loose:B7:LEADS", self.finding_keys())
        self.assertIn("Put B7 into IN 7", self.window.head.last_step.text())
        self.keys(self.window, (KEY.Key_Z, CONTROL))
        self.assertEqual((), host_ports(self.session.queries, B7))
        self.assertIn("ports.loose:B7:LEADS", self.finding_keys())
        self.keys(self.window, (KEY.Key_Z, CONTROL | SHIFT))
        self.assertEqual((IN_7,), host_ports(self.session.queries, B7))

    def test_by_mouse_and_taken_off_again(self) -> None:
        self.window.take_in_hand("B7")
        point = self.on_boards(self.shape(IN_7).frame.center())
        QTest.mouseMove(self.boards.viewport(), point)
        QTest.mouseClick(self.boards.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.assertEqual((IN_7,), host_ports(self.session.queries, B7))
        QTest.mouseClick(self.boards.viewport(), Qt.MouseButton.LeftButton, pos=point)
        self.assertEqual(IN_7, self.session.selection.port_ref)
        self.keys(self.boards, KEY.Key_Delete)
        self.assertEqual((), host_ports(self.session.queries, B7))

    def test_a_port_that_does_not_fit_says_why_and_changes_nothing(self) -> None:
        self.window.take_in_hand("B7")
        self.session.aim(PortRef(device="K1", port="AXIS 1"))
        self.assertIn("step and direction", self.window.ports.line.words.text())
        machine = self.session.machine
        self.keys(self.boards, KEY.Key_Return)
        self.assertIs(machine, self.session.machine)
        self.assertIn("does not go into AXIS 1", self.said[-1])
        self.keys(self.boards, KEY.Key_Escape)
        self.assertIsNone(self.session.in_hand)

    def test_moving_what_sits_in_a_port(self) -> None:
        self.session.select(Selection(device="K1", port="IN 6"))
        self.keys(self.boards, KEY.Key_Return)
        self.assertEqual("B8", self.session.in_hand.device)
        self.session.aim(PortRef(device="K1", port="IN 8"))
        self.keys(self.boards, KEY.Key_Return)
        b8 = PortRef(device="B8", port="LEADS")
        self.assertEqual("IN 8", host_ports(self.session.queries, b8)[0].port)
        self.assertIn("Moved B8 to IN 8", self.window.head.last_step.text())

    def test_one_key_shows_the_colours_at_the_far_end(self) -> None:
        pin = PinRef(device="T4", port="MOTOR", pin="1")
        self.assertEqual(("WH",), tuple(s.colour for s in seen_at(self.session.queries, pin)))
        self.keys(self.boards, "c")
        self.assertTrue(self.boards.scene.far_colours)
        self.assertEqual(("RD", "BK"), far_colours(self.session.queries, pin))
        self.assertEqual(("M11",), alternates_at(self.session.queries, pin.port_ref))

    def test_every_port_answers_with_fit_or_reason(self) -> None:
        self.window.take_in_hand("B7")
        for shape in self.boards.picture.ports():
            if shape.port.end == "host":
                words = self.boards.port_words(shape.ref)
                fit = self.boards.scene.fits[shape.ref]
                self.assertTrue(fit.verdict == "fits" or fit.reason or fit.needs, words)
        self.assertEqual("IN 7", self.window.side.fits.shown[0].host.port)
        self.assertIn("If put into IN 7", self.window.strip.picture.title)


class PinMap(WindowCase):
    def servo_pin(self, pin: str) -> PinRef:
        return PinRef(device="K1", port="SERVO", pin=pin)

    def test_dragging_a_bar_turns_the_servo_plug_round(self) -> None:
        self.assertIn("signals.power-on-signal:M7:1", self.finding_keys())
        self.drag(self.pin_point(self.servo_pin("1")), self.pin_point(self.servo_pin("3")))
        self.assertIn("exchanged", self.window.head.last_step.text())
        self.assertNotIn("signals.power-on-signal:M7:1", self.finding_keys())

    def test_the_same_by_keys(self) -> None:
        self.session.select(Selection(device="K1", port="SERVO"))
        self.keys(self.boards, (KEY.Key_Down, SHIFT))
        self.assertEqual("1", self.session.selection.pin)
        self.keys(self.boards, (KEY.Key_Down, CONTROL), (KEY.Key_Down, CONTROL))
        self.assertEqual("3", self.session.selection.pin)
        signal = PinRef(device="M7", port="PLUG", pin="1")
        ends = [way.end.pin for way in paths_from(self.session.queries, signal)]
        self.assertEqual(["2"], ends)

    def test_a_bar_does_not_leave_its_port(self) -> None:
        machine = self.session.machine
        other = PinRef(device="K1", port="ENC 1", pin="1")
        self.drag(self.pin_point(self.servo_pin("1")), self.pin_point(other))
        self.assertIs(machine, self.session.machine)


class Findings(WindowCase):
    def test_a_finding_is_chosen_explained_and_put_right(self) -> None:
        finding = self.session.findings(lambda f: f.rule == "supply.fuse")[0]
        self.session.select_finding(finding)
        card = self.window.side.findings.open_card()
        self.assertEqual(finding.key, card.finding.key)
        self.keys(self.window, (KEY.Key_Return, Qt.KeyboardModifier.AltModifier))
        self.assertNotIn("supply.fuse:F4", self.finding_keys())
        self.assertIn("Fit a 6 A fuse", self.window.head.last_step.text())

    def test_choosing_a_finding_or_a_device_shows_where_it_is(self) -> None:
        motor = PortRef(device="T4", port="MOTOR")
        finding = self.session.findings(lambda f: f.rule == "leads.split-coil")[0]
        for choose in (
            lambda: self.session.select_finding(finding),
            lambda: self.session.select(Selection(device="T4", port="MOTOR")),
            lambda: self.session.select(Selection(device="M4")),
        ):
            self.boards.verticalScrollBar().setValue(0)
            self.session.select(Selection())
            choose()
            seen = QRectF(self.boards.viewport().rect()).translated(self.boards._offset())
            self.assertTrue(seen.contains(self.shape(motor).box))
        self.assertEqual((motor,), self.boards.scene.related)

    def test_accept_as_is_wants_a_reason_and_keeps_it(self) -> None:
        finding = self.session.findings(lambda f: f.rule == "machine.axis-limit")[0]
        self.session.select_finding(finding)
        card = self.window.side.findings.open_card()
        button = next(b for b in card.findChildren(QPushButton) if "Accept" in b.text())
        QTest.mouseClick(button, Qt.MouseButton.LeftButton)
        self.keys(card.reason_field, KEY.Key_Return)
        self.assertIn("reason is needed", self.said[-1])
        self.keys(card.reason_field, "The frame stops it", KEY.Key_Return)
        self.assertNotIn(finding.key, self.finding_keys())
        self.assertEqual("The frame stops it", self.session.machine.accepted[-1].reason)

    def test_what_was_accepted_is_listed_and_opened_again(self) -> None:
        pane = self.window.side.findings
        QTest.mouseClick(pane.every, Qt.MouseButton.LeftButton)
        again = [b for b in pane.findChildren(QPushButton) if b.text() == "Open again"]
        self.assertEqual(len(self.session.result.accepted), len(again))
        before = self.finding_keys()
        again[0].click()
        # Before the check is back, what is shown is of the machine before.
        self.session.select_finding(self.session.findings()[0])
        self.assertEqual(1, len(self.finding_keys() - before))

    def test_a_fix_says_beforehand_what_it_changes(self) -> None:
        finding = self.session.findings(lambda f: f.rule == "supply.fuse")[0]
        self.session.select_finding(finding)
        texts = [
            label.text() for label in self.window.side.findings.open_card().findChildren(QLabel)
        ]
        self.assertIn("F4: Fuse, rated 10 → 6 A", texts)

    def test_space_opens_the_card(self) -> None:
        self.window.activateWindow()
        self.session.select(Selection(device="T2"))
        QApplication.processEvents()
        self.keys(self.boards, KEY.Key_Space)
        QApplication.processEvents()
        self.assertIsInstance(self.window.focusWidget(), QLineEdit)

    def test_numbers_are_edited_in_place_and_nonsense_is_refused(self) -> None:
        self.session.select(Selection(device="T2"))
        facts = self.window.side.facts
        field = next(
            f for f in facts.findChildren(QLineEdit) if f.accessibleName() == "Current, peak"
        )
        for text, expected in (("3900 mA", 3.9), ("3.9 V", 3.9), ("lots", 3.9), ("99 A", 3.9)):
            field = next(
                f
                for f in facts.findChildren(QLineEdit)
                if f.accessibleName() == "Current, peak" and f.isVisible()
            )
            field.setFocus()
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
            QApplication.processEvents()
            self.assertEqual(expected, self.session.queries.setting("T2", "current_peak_a"))
        self.assertIn("between", self.said[-1])

    def test_a_jumper_is_a_choice(self) -> None:
        self.session.select(Selection(device="K1", port="IN 2"))
        boxes = self.window.side.facts.findChildren(QComboBox)
        self.assertTrue(any("JP1" in box.accessibleName() for box in boxes))
        box = next(box for box in boxes if "JP1" in box.accessibleName())
        box.textActivated.emit("PNP")
        self.assertEqual("PNP", self.session.queries.setting("K1", "JP1"))


class Around(WindowCase):
    def test_jump_reaches_devices_labels_findings_and_actions(self) -> None:
        jump = self.window.jump
        for text, holds in (
            ("m4", lambda: self.session.selection.device == "M4"),
            ("W14.2", lambda: self.session.selection.conductor is not None),
            ("K1 IN 7", lambda: self.session.selection.port_ref == IN_7),
            ("bridges S2", lambda: "bridged" in (self.session.selection.finding or "")),
            ("theme night", lambda: looks.theme is NIGHT),
            ("theme paper", lambda: looks.theme is PAPER),
            ("add roller", lambda: self.session.selection.device == "B2"),
        ):
            with self.subTest(text):
                self.keys(self.window, (KEY.Key_K, CONTROL))
                self.keys(jump.field, text, KEY.Key_Return)
                self.assertFalse(jump.isVisible())
                self.assertTrue(holds())
        self.keys(self.window, (KEY.Key_K, CONTROL))
        self.keys(jump.field, "zzzz", KEY.Key_Return)
        self.assertTrue(jump.none.isVisible())
        self.keys(jump.field, KEY.Key_Escape)
        self.assertFalse(jump.isVisible())

    def test_the_list_of_steps_goes_back_and_forth(self) -> None:
        for number in range(4):
            self.session.apply(f"Step {number}", lambda m, n=number: set_name(m, "M4", f"N{n}"))
        self.keys(self.window, (KEY.Key_H, CONTROL))
        words = [goal.words for goal in self.window.history.found]
        self.assertEqual(["4. Step 3", "3. Step 2"], words[:2])
        self.keys(self.window.history.field, "step 0", KEY.Key_Return)
        self.assertEqual("N0", self.session.queries.device("M4").name)
        self.session.go_to_step(4)
        self.assertEqual("N3", self.session.queries.device("M4").name)

    def test_f6_visits_every_pane_and_f1_explains(self) -> None:
        self.window.activateWindow()
        visited = set()
        for _ in range(8):
            self.window.keys.next_pane()
            QApplication.processEvents()
            visited.add(type(self.window.focusWidget()).__name__)
        self.assertLessEqual({"StageRail", "TrayRows", "BoardsView", "QLineEdit"}, visited)
        self.session.select(Selection(device="K1", port="IN 7"))
        self.keys(self.window, KEY.Key_F1)
        self.assertIn("K1 IN 7", self.window.help.text.text())

    def test_the_tray_folds_filters_and_removes(self) -> None:
        rows = self.window.tray.list
        every = len(rows.rows)
        rows.at_row = 0
        self.keys(rows, KEY.Key_Return)
        self.assertLess(len(rows.rows), every)
        self.keys(rows, KEY.Key_Return, KEY.Key_Down, KEY.Key_Delete)
        self.assertIsNone(self.session.queries.device("M1"))
        self.assertIn(["M1", "took"][0], self.window.head.last_step.text())
        self.session.undo()
        self.assertEqual(every, len(rows.rows))


class Layout(WindowCase):
    def test_nothing_overlaps_on_a_board_at_any_text_size(self) -> None:
        for scale in (0.8, 1.0, 1.5, 2.0):
            self.window.appearance.set_scale(scale)
            ports = self.boards.picture.ports()
            for number, one in enumerate(ports):
                for other in ports[number + 1 :]:
                    both = one.box.intersected(other.box)
                    with self.subTest(f"{scale}: {one.ref.port} and {other.ref.port}"):
                        self.assertTrue(both.isEmpty() or one.ref.device != other.ref.device)
        self.window.appearance.set_scale(1.0)

    def test_titles_stay_on_their_boards(self) -> None:
        window = self.open(open_demo("glazing-gantry-as-planned"))
        for board in window.ports.view.picture.boards:
            with self.subTest(board.device):
                self.assertTrue(board.outline.contains(board.title))
                for port in board.ports:
                    self.assertFalse(board.title.intersects(port.box))

    def test_the_boards_fit_the_window_at_100_percent(self) -> None:
        self.assertLessEqual(self.boards.picture.width, self.boards.viewport().width() + 1)

    def test_every_port_can_be_reached_by_arrows(self) -> None:
        picture = self.boards.picture
        reached = {picture.ports()[0].ref}
        waiting = list(reached)
        while waiting:
            here = waiting.pop()
            for dx, dy in ((1, 0), (-1, 0), (0, 1), (0, -1)):
                there = picture.neighbour(here, dx, dy)
                if there is not None and there not in reached:
                    reached.add(there)
                    waiting.append(there)
        self.assertEqual({port.ref for port in picture.ports()}, reached)

    def test_text_has_contrast_in_both_themes(self) -> None:
        def luminance(name: str) -> float:
            parts = [int(name[i : i + 2], 16) / 255 for i in (1, 3, 5)]
            linear = [c / 12.92 if c <= 0.03928 else ((c + 0.055) / 1.055) ** 2.4 for c in parts]
            return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]

        for theme in (PAPER, NIGHT):
            for ink in ("ink", "faded", "accent", "bad", "doubt_text"):
                for ground in ("paper", "sheet"):
                    low, high = sorted(
                        (luminance(getattr(theme, ink)), luminance(getattr(theme, ground)))
                    )
                    with self.subTest(f"{theme.name}: {ink} on {ground}"):
                        self.assertGreaterEqual((high + 0.05) / (low + 0.05), 4.5)

    def test_an_empty_machine_says_what_to_do_first(self) -> None:
        window = self.open(Machine(name="New"))
        window.show_stage("Ports")
        self.assertTrue(window.ports.first_steps[0].isVisible())
        self.assertFalse(window.ports.pick.isVisible())
        window.show_stage("Harness")
        self.assertIs(window.harness.empty, window.harness.body.currentWidget())
        window.choose_part()
        self.keys(window.jump.field, "motion controller", KEY.Key_Return)
        self.assertEqual(["K1"], list(window.session.queries.devices()))
        window.show_stage("Ports")
        self.assertEqual(1, len(window.ports.view.picture.boards))

    def test_long_and_hostile_names_are_drawn_not_obeyed(self) -> None:
        hostile = "<b>bold</b> & \u202e" + "x" * 60
        machine = replace(self.session.machine, name=hostile * 3)
        for device in ("B7", "M4", "K1"):
            machine = set_name(machine, device, hostile)
        window = self.open(machine)
        window.take_in_hand("B7")
        window.session.select(Selection(device="M4"))
        QApplication.processEvents()
        self.assertIn("<b>bold</b>", window.side.facts.title.text())
        self.assertEqual(1280, window.width())


class Zoom(WindowCase):
    def test_wheel_and_keys_zoom_and_zero_fits(self) -> None:
        self.keys(self.boards, "++")
        self.assertGreater(self.boards.zoom, 1.2)
        wide = self.boards.picture.width
        self.keys(self.boards, "0")
        self.assertLess(self.boards.picture.width, wide)

    def test_tooltip_names_the_port(self) -> None:
        point = self.shape(IN_7).frame.center()
        self.assertEqual(IN_7, self.boards.picture.port_at(QPointF(point)).ref)
        self.assertIn("free", self.boards.port_words(IN_7))

    def test_a_change_of_theme_repaints_without_a_stray_colour(self) -> None:
        self.window.appearance.set_theme("night")
        image = self.window.grab().toImage()
        self.assertEqual(NIGHT.paper.lower(), image.pixelColor(700, 8).name())
        self.window.appearance.set_theme("paper")
        QApplication.sendEvent(self.window, QEvent(QEvent.Type.UpdateRequest))
        self.assertEqual(
            PAPER.paper.lower(), self.window.grab().toImage().pixelColor(700, 8).name()
        )


class TheMachineItself(WindowCase):
    """Its name in the head, and the menu under it."""

    def test_the_name_is_changed_in_its_place_and_undone(self) -> None:
        before = self.session.machine.name
        self.boards.setFocus()
        self.keys(self.window, KEY.Key_F2)
        field = self.window.head.field
        self.assertTrue(field.isVisible())
        self.keys(field, "Bell founder's lathe", KEY.Key_Return)
        self.assertEqual("Bell founder's lathe", self.session.machine.name)
        self.assertIn("Bell founder's lathe", self.window.windowTitle())
        self.assertFalse(field.isVisible())
        self.assertTrue(self.boards.hasFocus(), "the stage has its keys again")
        self.session.undo()
        self.assertEqual(before, self.session.machine.name)

    def test_state_revision_and_author_are_said_from_the_menu(self) -> None:
        for what, text in (("Revision", "C"), ("Author", "Night shift"), ("State", "as built")):
            menu = self.window.menu.made()
            action = next(a for a in menu.actions() if a.text().startswith(f"{what} on every"))
            action.trigger()
            field = self.window.head.field
            field.selectAll()
            self.keys(field, text, KEY.Key_Return)
        machine = self.session.machine
        self.assertEqual(("C", "Night shift", "as built"),
                         (machine.revision, machine.author, machine.state))  # fmt: skip
        self.assertIn("as built  C", self.window.head.name.text())
        self.session.undo()
        self.assertNotEqual("as built", self.session.machine.state)

    def test_an_empty_name_and_escape_change_nothing(self) -> None:
        before = self.session.machine
        for last in (KEY.Key_Escape, KEY.Key_Return):
            self.keys(self.window, KEY.Key_F2)
            field = self.window.head.field
            field.setText("   ")
            self.keys(field, last)
            self.assertIs(before, self.session.machine)
        self.assertIn("1 to 80 characters", self.said[-1])

    def test_the_menu_holds_every_action_of_jump_and_does_it(self) -> None:
        menu = self.window.menu.made()
        shown = [a.text().partition("\t")[0] for a in menu.actions() if not a.isSeparator()]
        below = {m.title(): m for m in menu.findChildren(QMenu)}
        for words in ("Rename the machine", "Open a machine", "Save", "Save as", "Keys and help"):
            self.assertIn(words, shown)
        actions = sum(len(m.actions()) for m in (menu, *below.values()))
        self.assertGreaterEqual(actions, len(self.window.goals.actions()))
        for theme in below["Theme"].actions():
            if theme.text() == "night":
                theme.trigger()
        self.assertEqual("night", looks.theme.name)
        next(a for a in menu.actions() if a.text().startswith("New empty machine")).trigger()
        self.assertEqual("New machine", self.session.machine.name)

    def test_jump_lists_what_can_be_done_first_when_it_is_empty(self) -> None:
        first = self.window.goals.everything()[0]
        self.assertEqual("action", first.kind)
