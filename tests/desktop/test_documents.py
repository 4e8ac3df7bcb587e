"""Opening, saving, keeping: in the window, with bad files, kills, other programs, full disks."""

import os
import time
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QMimeData, QPoint, Qt, QUrl
from PyQt6.QtGui import QDropEvent

from tests.desktop.case import WindowCase
from vervain.desktop.background import files
from vervain.desktop.settings import Settings
from vervain.desktop.theme import NIGHT
from vervain.edits.device_edits import set_name
from vervain.files.autosave import left_over
from vervain.files.demos import open_demo
from vervain.files.machine_file import open_machine, save_machine
from vervain.files.reading import read_stamped
from vervain.model.machine import Machine

KEY = Qt.Key
SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


def fields(machine: Machine) -> dict[str, object]:
    return {name: getattr(machine, name) for name in machine.__struct_fields__}


class DocumentCase(WindowCase):
    """A window on a file of its own."""

    demo = "seedling-arm-as-planned"

    def setUp(self) -> None:
        super().setUp()
        self.path = self.folder / "mine.vervain"
        self.machine = open_demo(self.demo)
        save_machine(self.machine, self.path)

    def open_file(self):
        """A second window, on the file."""
        return self.open(open_machine(self.path), self.path)

    def name(self, window, name: str) -> None:
        """An edit of a window's machine that is easy to find again."""
        window.session.apply(f"Called it {name}", lambda m: set_name(m, "M1", name))

    def named(self, machine: Machine) -> str:
        return next(device.name for device in machine.devices if device.designator == "M1")

    def press(self, window, words: str) -> None:
        """Presses a button of the message line."""
        self.until(lambda: any(b.text() == words for b in window.messages._buttons))
        next(b for b in window.messages._buttons if b.text() == words).click()
        self.settle_files()

    def settle_files(self) -> None:
        """Waits until everything is written, and told."""
        self.assertTrue(files.wait(20))
        self.settle()

    def kept(self) -> Machine | None:
        found = left_over(self.path)
        return found.machine if found else None


class Opening(DocumentCase):
    def open_and_wait(self, path: Path) -> None:
        before, machine = len(self.said), self.session.machine
        self.window.documents.open_path(path)
        self.until(lambda: self.session.machine is not machine or len(self.said) > before)
        self.settle()

    def test_bad_files_are_refused_in_words_and_nothing_is_lost(self) -> None:
        self.name(self.window, "Mine")
        kept = self.session.machine
        data = self.path.read_bytes()
        os.mkfifo(self.folder / "pipe.vervain")
        for name, content, word in (
            ("cut.vervain", data[:9000], "line"),
            ("new.vervain", data.replace(b'"version": 2', b'"version": 7'), "newer"),
            ("picture.vervain", b"\x89PNG\xff", "not text"),
            ("=1+1<b>.vervain", b"{}", "not a Vervain machine file"),
            ("pipe.vervain", None, "a pipe"),
        ):
            path = self.folder / name
            if content is not None:
                path.write_bytes(content)
            with self.subTest(name):
                self.open_and_wait(path)
                self.assertIs(kept, self.session.machine)
                self.assertIn(word, self.said[-1])
                self.assertIn(name, self.said[-1])
                self.assertTrue(self.window.messages.isVisible())

    def test_a_broken_or_lost_file_offers_what_there_is_of_it(self) -> None:
        window = self.open_file()
        self.name(window, "Saved")
        window.documents.save()
        self.name(window, "Unsaved")
        window.documents.autosave()
        self.settle_files()
        window.documents._mark.release()
        self.path.write_bytes(b"{ broken")
        self.window.documents.open_path(self.path)
        self.press(self.window, "Open its last version")
        self.until(lambda: self.session.path == self.path)
        self.assertEqual("Saved", self.named(self.session.machine))
        self.path.unlink()
        self.window.documents.open_path(self.path)
        self.press(self.window, "Open its unsaved work")
        self.assertEqual("Unsaved", self.named(self.session.machine))
        self.assertFalse(self.session.is_saved)
        self.window.documents.save()
        self.settle_files()
        self.assertEqual("Unsaved", self.named(open_machine(self.path)))

    def test_what_takes_long_can_be_stopped_and_never_holds_the_window(self) -> None:
        import threading

        answers = threading.Event()
        self.addCleanup(answers.set)

        def slow(path, should_continue):
            answers.wait(30)
            return read_stamped(path)

        window, machine = self.open_file(), self.machine
        with mock.patch("vervain.desktop.documents.documents.read_stamped", slow):
            window.documents.open_path(self.path)
            self.press_when_told(window, "Stop")
            with mock.patch("vervain.desktop.window.PATIENCE_S", 0.05):
                self.assertTrue(window.close())
        self.assertEqual(machine, window.session.machine)

    def press_when_told(self, window, words: str) -> None:
        self.until(lambda: any(b.text() == words for b in window.messages._buttons))
        next(b for b in window.messages._buttons if b.text() == words).click()

    def test_a_file_dropped_on_the_window_opens(self) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(self.path))])
        self.window.dropEvent(
            QDropEvent(
                QPoint(400, 300).toPointF(), Qt.DropAction.CopyAction, data,
                Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier,
            )
        )  # fmt: skip
        self.until(lambda: self.session.path == self.path)


class Saving(DocumentCase):
    def test_save_then_open_again_and_the_suffix_is_never_put_over_another_file(self) -> None:
        self.name(self.window, "Mine")
        self.assertIn("not saved", self.window.head.name.text())
        for typed, name in (("other", "other.vervain"), ("v1.2", "v1.2.vervain")):
            answer = (str(self.folder / typed), "")
            with mock.patch("PyQt6.QtWidgets.QFileDialog.getSaveFileName", return_value=answer):
                self.keys(self.window, (KEY.Key_S, CONTROL | SHIFT))
                self.settle_files()
                self.assertEqual(self.session.machine, open_machine(self.folder / name))
                self.assertNotIn("not saved", self.window.head.name.text())
        answer = (str(self.folder / "mine"), "")
        with mock.patch("PyQt6.QtWidgets.QFileDialog.getSaveFileName", return_value=answer):
            self.keys(self.window, (KEY.Key_S, CONTROL | SHIFT))
            self.settle_files()
        self.assertEqual(self.machine, open_machine(self.path))
        self.assertIn("There is a mine.vervain already", self.said[-1])
        self.press(self.window, "Replace it")
        self.assertEqual("Mine", self.named(open_machine(self.path)))

    def test_a_slow_disk_never_lets_the_older_win(self) -> None:
        window, real, slow = self.open_file(), os.fsync, [0.2, 0.0]

        def fsync(handle: int) -> None:
            time.sleep(slow.pop(0) if slow else 0)
            real(handle)

        with mock.patch("os.fsync", fsync):
            for act in ("autosave", "save"):
                slow[:] = [0.2, 0, 0, 0]
                self.name(window, f"{act} first")
                getattr(window.documents, act)()
                self.name(window, f"{act} second")
                window.documents.save()
                self.settle_files()
                self.assertEqual(f"{act} second", self.named(open_machine(self.path)))
                self.assertIsNone(self.kept())
                self.assertTrue(window.session.is_saved)
            slow[:] = [0.2, 0, 0, 0]
            self.name(window, "kept first")
            window.documents.autosave()
            self.name(window, "kept second")
            window.close()
        self.assertEqual("kept second", self.named(self.kept()))

    def test_what_cannot_be_opened_again_is_not_saved(self) -> None:
        window = self.open_file()
        broken = self.machine.devices[0]
        for words, edit in (
            ("half a character", lambda m: set_name(m, "M1", "a\ud800b")),
            ("twice", lambda m: type(m)(**{**fields(m), "devices": (*m.devices, broken)})),
        ):
            before = window.session.machine
            self.assertFalse(window.session.apply("Broke it", edit))
            self.assertIn(words, window.messages.words.text())
            self.assertIs(before, window.session.machine)

    def test_a_read_only_file_is_refused_and_the_work_stays(self) -> None:
        window = self.open_file()
        self.path.chmod(0o444)
        self.name(window, "Mine")
        window.documents.save()
        self.settle_files()
        self.assertIn("write-protected", window.messages.words.text())
        self.assertFalse(window.session.is_saved)
        window.close()
        self.assertEqual("Mine", self.named(self.kept()))


class Appearance(WindowCase):
    def test_a_larger_text_does_not_pin_the_theme(self) -> None:
        stored = Settings(self.folder / "s.ini")
        before = stored.theme()
        self.window.appearance.set_scale(1.2)
        self.window.settings._store.sync()
        again = Settings(self.folder / "s.ini")
        self.assertEqual((before, 1.2), (again.theme(), again.scale()))
        self.assertFalse(again._store.contains("theme"))
        self.window.appearance.set_theme("night")
        self.window.settings._store.sync()
        self.assertIs(NIGHT, Settings(self.folder / "s.ini").theme())
        self.window.appearance.set_theme("paper")
        self.window.appearance.set_scale(1.0)
