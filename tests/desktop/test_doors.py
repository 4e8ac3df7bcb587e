"""What the window shows of what can be done: menus, help, first start, what it looks like later."""

import tomllib
import unittest
from pathlib import Path

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QApplication

from tests.desktop.case import WindowCase
from vervain.api import save_machine
from vervain.data import replace_tables
from vervain.desktop import app
from vervain.desktop.about import BUILT_ON
from vervain.desktop.kept_view import keep_view, restore_view
from vervain.desktop.keys_help import EVERYWHERE, KEYS, PORTS, ROUTE
from vervain.desktop.session import Selection
from vervain.desktop.settings import Settings
from vervain.model.machine import Machine
from vervain.model.part import PartKind, PortKind
from vervain.rules.finding import STAGES
from vervain.tables.explanations import explanations, part_words

KEY = Qt.Key


class Menus(WindowCase):
    def entries(self, menu) -> dict[str, object]:
        return {a.text().partition("\t")[2]: a for a in menu.actions() if not a.isSeparator()}

    def test_the_menu_on_ports_does_what_the_key_does_to_what_is_under_it(self) -> None:
        shape = next(p for p in self.boards.picture.ports() if p.ref.port == "IN 6")
        at = self.on_boards(shape.pins[1].bar.center())
        self.boards.menu.open(at)
        self.assertEqual(("IN 6", "2"), (self.session.selection.port, self.session.selection.pin))
        entries = self.entries(self.boards.menu.shown)
        self.assertNotIn("B", entries, "nothing is in hand")
        entries["J"].trigger()
        self.assertEqual("IN 6", self.window.ports.wires.start.port)
        self.boards.menu.open(QPoint(5, 5))
        self.assertFalse(self.window.ports.wires.is_empty, "the click put nothing down")
        self.entries(self.boards.menu.shown)["Esc"].trigger()
        self.assertTrue(self.window.ports.wires.is_empty)
        self.boards.menu.shown.hide()

    def test_every_stage_has_its_menu(self) -> None:
        for name in STAGES:
            self.window.show_stage(name)
        for view, keys in (
            (self.window.machine_stage.view, {"A", "D"}),
            (self.window.leads, {"O", "S", "T"}),
            (self.window.supply.view, {"F"}),
            (self.window.harness, {"N", "P", "L"}),
            (self.window.harness.route, {"T"}),
        ):
            self.session.select(Selection())
            menu = view.menu.made()
            self.assertLessEqual(keys, set(self.entries(menu)), view)
        self.window.show_stage("Machine")
        before = len(self.session.machine.axes)
        menu = self.window.machine_stage.view.menu.made()
        self.entries(menu)["A"].trigger()
        self.assertEqual(before + 1, len(self.session.machine.axes))

    def test_every_key_of_the_window_is_in_the_help(self) -> None:
        listed = {QKeySequence(e.keys.replace("Enter", "Return")).toString() for e in KEYS}
        written = " ".join(entry.keys for entry in KEYS)
        for shortcut in self.window.findChildren(QShortcut):
            keys = shortcut.key().toString()
            family = keys.startswith("Alt+") and keys[4:].isdigit()
            other = keys in ("Ctrl+Y", "Ctrl++", "Ctrl+=", "Ctrl+-")
            self.assertTrue(keys in listed or family or other, keys)
        self.assertIn("Ctrl++", written)

    def test_the_menu_says_whose_work_it_is_and_where_ones_own_lies(self) -> None:
        actions = {a.text(): a for a in self.window.menu.made().actions()}
        actions["About Vervain, and its licences"].trigger()
        text = self.window.help.text.text()
        for words in ("General Public License", "PyQt6", "msgspec"):
            self.assertIn(words, text)
        self.assertTrue(self.window.help.isVisible())
        project = tomllib.loads(Path("pyproject.toml").read_text())["project"]
        asked = {text.partition(">")[0] for text in project["dependencies"]}
        self.assertEqual(asked, set(BUILT_ON))
        actions["Open my folder of parts and tables"].trigger()
        self.assertTrue(self.window.settings.parts_folder.parent.is_dir())

    def test_f1_explains_and_again_lists_what_can_be_done_and_does_it(self) -> None:
        self.session.select(Selection(device="F2"))
        self.window.explain()
        text = self.window.help.text.text()
        self.assertIn("opens for good", text)
        self.assertIn("Take the plug off", text)
        self.assertLess(self.window.help.geometry().bottom(), self.window.height())
        self.window.explain()
        self.assertFalse(self.window.help.isVisible())
        panel = self.window.all_keys
        self.assertTrue(panel.isVisible())
        self.assertEqual(PORTS, panel.found[0].kind)
        self.assertLess(panel.geometry().bottom(), self.window.height())
        self.keys(panel.field, "add an axis", KEY.Key_Return)
        self.assertEqual("Machine", self.window.stage)
        self.assertEqual("Added an axis", self.session.steps[-1].words)
        for area in (EVERYWHERE, ROUTE):
            self.window.keys.press(next(e for e in KEYS if e.area == area))

    def test_help_fits_with_large_text(self) -> None:
        self.window.resize(960, 600)
        self.window.appearance.set_scale(1.5)
        self.session.select(Selection(device="K1", port="IN 6", pin="2"))
        self.window.explain()
        self.assertLessEqual(self.window.help.geometry().right(), 960)
        self.window.appearance.set_scale(1.0)


class LaterStarts(WindowCase):
    def test_size_stage_and_zoom_come_back_and_never_exceed_the_screen(self) -> None:
        window = self.window
        window.resize(1100, 700)
        window.show_stage("Supply")
        window.ports.view.set_zoom(1.5)
        window.supply.split.setSizes([200, 400])
        keep_view(window)
        other = self.open(self.session.machine)
        restore_view(other)
        room = other.screen().availableSize()
        wanted = min(1100, room.width()), min(700, room.height())
        self.assertEqual(wanted, (other.width(), other.height()))
        self.assertEqual("Supply", other.stage)
        self.assertEqual(1.5, other.ports.view.zoom)
        upper, lower = other.supply.split.sizes()
        self.assertLess(upper, lower)
        for kept in ("99999999 5", "-3 4", "wide", "1 2 3", "9000 9000"):
            window.settings.keep("window/size", kept)
            window.settings.keep("window/stage", "Nowhere")
            window.settings.keep("window/zoom", "large")
            restore_view(other)
            self.assertLessEqual(other.width(), room.width(), kept)
            self.assertLessEqual(other.height(), room.height(), kept)

    def test_the_first_start_offers_ways_later_ones_the_last_machine(self) -> None:
        machine, stamp, problem = app._first_machine(None, None)
        self.assertEqual(((), None, None), (machine.devices, stamp, problem))
        window = self.open(machine)
        self.assertEqual("Machine", window.stage)
        path = self.folder / "mine.vervain"
        save_machine(Machine(name="Mine"), path)
        settings = Settings(self.folder / "s.ini")
        settings.keep_recent(path)
        self.assertEqual("Mine", app._first_machine(settings.recent()[0], None)[0].name)
        self.assertTrue(app._first_machine(None, "clay-printer-as-found")[0].devices)
        QApplication.processEvents()


class Explanations(unittest.TestCase):
    def test_every_kind_of_part_and_port_is_explained(self) -> None:
        read = explanations()
        self.assertEqual(set(PartKind.__args__), set(read["parts"]))
        self.assertEqual(set(PortKind.__args__), set(read["ports"]))

    def test_an_own_table_is_taken_and_nonsense_is_refused(self) -> None:
        self.addCleanup(replace_tables, {"explanations.toml": None})
        replace_tables({"explanations.toml": '[parts]\n"fuse" = "Sicherung"\n[ports]\n'})
        self.assertEqual("Sicherung", part_words("fuse"))
        for text in ('[parts]\n"fus" = "x"\n[ports]', "parts = 3", "[parts]\nfuse = 3\n[ports]"):
            replace_tables({"explanations.toml": text})
            with self.assertRaises(ValueError):
                explanations()
