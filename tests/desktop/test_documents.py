"""Opening, saving, keeping: in the window, with bad files, kills and full disks."""

from unittest import mock

from PyQt6.QtCore import Qt

from tests.desktop.case import WindowCase
from vervain.desktop.settings import Settings
from vervain.desktop.theme import NIGHT
from vervain.files.autosave import autosave_path
from vervain.files.demos import open_demo
from vervain.files.machine_file import open_machine, save_machine
from vervain.files.problems import FileProblem
from vervain.machine.edits import set_name
from vervain.machine.machine import PortRef

B7 = PortRef(device="B7", port="LEADS")
IN_7 = PortRef(device="K1", port="IN 7")
KEY = Qt.Key
SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class Files(WindowCase):
    def open_and_wait(self, path) -> None:
        before = len(self.said)
        machine = self.session.machine
        self.window.documents.open_path(path)
        self.until(lambda: self.session.machine is not machine or len(self.said) > before)
        self.settle()

    def test_bad_files_are_refused_in_words_and_nothing_is_lost(self) -> None:
        self.session.apply("Name", lambda m: set_name(m, "M4", "Mine"))
        kept = self.session.machine
        good = self.folder / "good.vervain"
        save_machine(open_demo(self.demo), good)
        for name, data, word in (
            ("cut.vervain", good.read_bytes()[:9000], "line"),
            ("new.vervain", good.read_bytes().replace(b'"version": 1', b'"version": 7'), "newer"),
            ("picture.vervain", b"\x89PNG\xff", "not text"),
            ("=1+1<b>.vervain", b"{}", "not a Vervain machine file"),
        ):
            path = self.folder / name
            path.write_bytes(data)
            with self.subTest(name):
                self.open_and_wait(path)
                self.assertIs(kept, self.session.machine)
                self.assertIn(word, self.said[-1])
                self.assertIn(name, self.said[-1])
                self.assertTrue(self.window.messages.isVisible())

    def test_save_then_open_again(self) -> None:
        path = self.folder / "mine.vervain"
        self.session.apply("Name", lambda m: set_name(m, "M4", "Mine"))
        self.assertIn("not saved", self.window.name.text())
        with mock.patch(
            "PyQt6.QtWidgets.QFileDialog.getSaveFileName",
            return_value=(str(path.with_suffix("")), ""),
        ):
            self.keys(self.window, (KEY.Key_S, CONTROL))
        self.settle()
        self.assertEqual(self.session.machine, open_machine(path))
        self.assertNotIn("not saved", self.window.name.text())

    def test_an_unsaved_machine_is_kept_when_another_takes_the_window(self) -> None:
        documents = self.window.documents
        documents.autosaves = True
        with mock.patch("platformdirs.user_state_dir", return_value=str(self.folder / "state")):
            self.session.apply("Name", lambda m: set_name(m, "M4", "Mine"))
            kept = self.session.machine
            documents.new_machine()
            self.until(lambda: any("kept as" in text for text in self.said))
            self.settle()
            self.assertEqual("New machine", self.session.machine.name)
            self.assertEqual(kept, open_machine(self.folder / "state/kept-1.vervain"))

    def test_what_a_kill_left_behind_is_taken_up_and_can_be_left(self) -> None:
        path = self.folder / "mine.vervain"
        machine = open_demo(self.demo)
        save_machine(machine, path)
        second = self.open(machine, path)
        second.session.apply("Name", lambda m: set_name(m, "M4", "Unsaved"))
        second.documents.autosave()
        self.settle()
        self.assertTrue(autosave_path(path).exists())
        self.open_and_wait(path)
        self.assertEqual("Unsaved", self.session.look.device("M4").name)
        self.assertIn("taken up", self.said[-1])
        self.session.undo()
        self.assertEqual(machine, self.session.machine)
        second.documents.save()
        self.settle()
        self.assertFalse(autosave_path(path).exists())


class Kept(WindowCase):
    def test_a_larger_text_does_not_pin_the_theme(self) -> None:
        stored = Settings(self.folder / "s.ini")
        before = stored.theme()
        self.window.set_scale(1.2)
        self.window.settings._store.sync()
        again = Settings(self.folder / "s.ini")
        self.assertEqual((before, 1.2), (again.theme(), again.scale()))
        self.assertFalse(again._store.contains("theme"))
        self.window.set_theme("night")
        self.window.settings._store.sync()
        self.assertIs(NIGHT, Settings(self.folder / "s.ini").theme())
        self.window.set_theme("paper")
        self.window.set_scale(1.0)

    def test_where_keeping_fails_the_autosave_is_not_dropped(self) -> None:
        documents = self.window.documents
        documents.autosaves = True
        with mock.patch("platformdirs.user_state_dir", return_value=str(self.folder / "state")):
            self.session.apply("Name", lambda m: set_name(m, "M4", "Mine"))
            documents.autosave()
            self.settle()
            refusal = FileProblem("x", "The disk is full.")
            with mock.patch("vervain.desktop.documents.keep_unsaved", side_effect=refusal):
                documents.new_machine()
                self.until(lambda: any("disk is full" in text for text in self.said))
            self.assertTrue(autosave_path(None).exists())
            self.settle()
