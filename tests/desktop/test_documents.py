"""Opening, saving, keeping: in the window, with bad files, kills, other programs, full disks."""

import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from unittest import mock

from PyQt6.QtCore import QMimeData, QPoint, Qt, QUrl
from PyQt6.QtGui import QDropEvent

from tests import ROOT
from tests.desktop.case import WindowCase
from vervain.desktop.background import files
from vervain.desktop.documents.documents import AUTOSAVE_MS
from vervain.desktop.safety_net import SafetyNet
from vervain.desktop.settings import Settings
from vervain.desktop.theme import NIGHT
from vervain.edits.device_edits import set_name
from vervain.files.autosave import Seat, autosave_path, left_over, never_saved, write_autosave
from vervain.files.demos import open_demo
from vervain.files.machine_file import open_machine, save_machine
from vervain.files.problems import FileProblem
from vervain.files.reading import read_stamped
from vervain.files.versions import versions_of
from vervain.model.machine import Machine

KEY = Qt.Key
SHIFT, CONTROL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


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


def fields(machine: Machine) -> dict[str, object]:
    return {name: getattr(machine, name) for name in machine.__struct_fields__}


class Kept(DocumentCase):
    def test_steady_work_is_kept_some_seconds_after_its_first_edit(self) -> None:
        window = self.open_file()
        window.documents._timer.setInterval(120)
        self.assertLess(AUTOSAVE_MS, 5000)
        end, number = time.monotonic() + 1.0, 0
        while time.monotonic() < end:
            number += 1
            self.name(window, f"Name {number}")
            self.application.processEvents()
            time.sleep(0.05)
        self.assertTrue(files.wait(5))
        kept = self.named(self.kept())
        self.assertGreater(int(kept.split()[1]), number // 2)

    def test_it_goes_with_the_save_with_undo_and_does_not_come_back(self) -> None:
        window = self.open_file()
        for away in (window.documents.save, window.session.undo):
            self.name(window, f"For {away.__name__}")
            window.documents.autosave()
            self.settle_files()
            self.assertTrue(autosave_path(self.path).exists())
            away()
            self.settle_files()
            self.assertFalse(autosave_path(self.path).exists())
        self.name(window, "Saved elsewhere")
        window.documents.autosave()
        window.documents.save_to(self.folder / "elsewhere.vervain")
        self.settle_files()
        self.assertIsNone(self.kept())

    def test_what_a_kill_left_is_offered_looked_at_taken_or_left_for_good(self) -> None:
        window = self.open_file()
        self.name(window, "Unsaved")
        window.documents.autosave()
        self.settle_files()
        window.documents._mark.release()
        third = self.open_file()
        recent = third.settings.recent_list.read_text("utf-8")
        self.assertEqual(1, recent.count(f'href="{self.path.resolve().as_uri()}"'))
        third.documents.unsaved.look_for()
        self.until(lambda: "Unsaved work" in third.messages.words.text())
        self.assertIn("Called it Unsaved", third.messages.words.text())
        self.press(third, "Look at it")
        panel = third.versions
        shown = [panel.differences.item(n).text() for n in range(panel.differences.count())]
        self.assertIn("M1 is called “Unsaved”", shown)
        panel.take()
        self.assertEqual("Unsaved", self.named(third.session.machine))
        third.session.undo()
        self.assertEqual(self.machine, third.session.machine)
        self.settle_files()
        third.documents._mark.release()
        for killed in (window, third):
            # What is killed keeps nothing any more.
            killed.documents._timer.stop()
        write_autosave(window.session.machine, Seat(self.path))
        fourth = self.open_file()
        fourth.documents.unsaved.look_for()
        self.press(fourth, "Leave it")
        self.assertIsNone(self.kept())
        versions = versions_of(self.path, fourth.settings.version_rules())
        self.assertEqual(["unsaved"], [version.origin for version in versions])

    def test_machines_without_a_file_each_have_one_that_nothing_else_writes_over(self) -> None:
        first = self.open_unnamed("One")
        second = self.open_unnamed("Two")
        second.documents.save_to(self.folder / "two.vervain")
        self.settle_files()
        self.assertEqual([], [kept.machine.name for kept in never_saved()])
        first.close()
        self.assertEqual(["One"], [self.named(kept.machine) for kept in never_saved()])
        third = self.open_unnamed("Three")
        third.documents.new_machine()
        self.settle_files()
        self.assertEqual({"One", "Three"}, {self.named(kept.machine) for kept in never_saved()})
        self.press(third, "Go back to it")
        self.assertEqual("Three", self.named(third.session.machine))
        self.assertFalse(third.session.is_saved)
        third.documents.save_to(self.folder / "three.vervain")
        self.settle_files()
        self.assertEqual(["One"], [self.named(kept.machine) for kept in never_saved()])

    def open_unnamed(self, name: str):
        window = self.open(self.machine, None, autosaves=True)
        self.name(window, name)
        window.documents.autosave()
        self.settle_files()
        return window

    def test_closing_says_where_it_cannot_keep_and_lets_go_the_second_time(self) -> None:
        window = self.open_file()
        self.name(window, "Mine")
        failing = FileProblem("x", "The disk is full.")
        for error in (failing, UnicodeEncodeError("utf-8", "a", 0, 1, "surrogates")):
            with mock.patch(
                "vervain.desktop.documents.documents.write_autosave", side_effect=error
            ):
                self.assertFalse(window.close())
                self.assertIn("could not be kept", window.messages.words.text())
            self.name(window, f"Mine {error.__class__.__name__}")
        with mock.patch("vervain.desktop.documents.documents.write_autosave", side_effect=failing):
            self.assertFalse(window.close())
            self.assertTrue(window.close())

    def test_a_bug_keeps_the_machine_once_and_is_told_once(self) -> None:
        window = self.open_file()
        self.name(window, "Mine")
        net = SafetyNet(window.session, window.documents)
        written = []
        real = write_autosave

        def noted(*given):
            written.append(given)
            return real(*given)

        with (
            mock.patch("vervain.desktop.documents.documents.write_autosave", noted),
            mock.patch("sys.stderr"),
        ):
            for _ in range(300):
                try:
                    raise ZeroDivisionError("in painting")
                except ZeroDivisionError as error:
                    net.caught(type(error), error, error.__traceback__)
        self.assertEqual(1, len(written))
        told = [text for text in self.said_in(window) if "went wrong" in text]
        self.assertLessEqual(len(told), 1)
        self.assertEqual("Mine", self.named(self.kept()))

    def said_in(self, window) -> list[str]:
        return [window.messages.words.text()]

    def test_signals_keep_the_work(self) -> None:
        code = (
            "import sys, os; from pathlib import Path\n"
            "from PyQt6.QtCore import QTimer; from vervain.desktop import app\n"
            "from vervain.desktop.window import Window\n"
            "from vervain.edits.device_edits import set_name\n"
            "path = Path(sys.argv[1])\n"
            "def begin(self, *rest, real=Window.show):\n"
            "    real(self)\n"
            "    edit = lambda m: set_name(m, 'M1', 'Ended')\n"
            "    said = lambda: print('ready', flush=True)\n"
            "    QTimer.singleShot(50, lambda: (self.session.apply('x', edit), said()))\n"
            "Window.show = begin\n"
            "sys.exit(app.run_window(path))\n"
        )
        own = str(self.folder)
        for number in (signal.SIGTERM, signal.SIGHUP, signal.SIGINT):
            autosave_path(self.path).unlink(missing_ok=True)
            child = subprocess.Popen(
                [sys.executable, "-c", code, str(self.path)],
                env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "XDG_DATA_HOME": own},
                stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True,
            )  # fmt: skip
            self.assertEqual("ready\n", child.stdout.readline())
            child.send_signal(number)
            _, errors = child.communicate(timeout=30)
            self.assertEqual(("", 128 + number), (errors, child.returncode))
            self.assertEqual("Ended", self.named(self.kept()))


class OthersOnTheFile(DocumentCase):
    def test_another_program_is_told_at_once_and_never_written_over(self) -> None:
        window = self.open_file()
        self.name(window, "Mine")
        theirs = set_name(self.machine, "M1", "Theirs")
        save_machine(theirs, self.path)
        self.until(lambda: "was changed by another program" in window.messages.words.text())
        window.documents.save()
        self.settle_files()
        self.assertEqual(theirs, open_machine(self.path))
        self.assertIn("was changed by another", window.messages.words.text())
        self.press(window, "What differs")
        self.until(lambda: window.stage == "Harness")
        window.documents.save()
        self.settle_files()
        self.press(window, "Keep both")
        self.assertEqual("Theirs", self.named(open_machine(self.path)))
        both = self.folder / "mine-2.vervain"
        self.assertEqual("Mine", self.named(open_machine(both)))
        self.assertEqual(both, window.session.path)

    def test_a_second_window_has_an_autosave_of_its_own_and_saves_over_nothing(self) -> None:
        first = self.open_file()
        self.name(first, "First")
        first.documents.autosave()
        self.settle_files()
        second = self.open_file()
        self.assertIn("open in another window", second.messages.words.text())
        second.documents.unsaved.look_for()
        self.name(second, "Second")
        second.documents.autosave()
        self.settle_files()
        self.assertEqual("First", self.named(self.kept()))
        first.documents.save()
        self.settle_files()
        second.documents.save()
        self.settle_files()
        self.assertEqual("First", self.named(open_machine(self.path)))
        self.press(second, "Save over it")
        self.assertEqual("Second", self.named(open_machine(self.path)))
        origins = [v.origin for v in versions_of(self.path, second.settings.version_rules())]
        self.assertIn("saved", origins)

    def test_a_file_that_is_gone_is_told(self) -> None:
        window = self.open_file()
        self.path.rename(self.folder / "moved.vervain")
        self.until(lambda: "removed or renamed" in window.messages.words.text())
        window.documents.save()
        self.settle_files()
        self.assertEqual(self.machine, open_machine(self.path))


class VersionsInTheWindow(DocumentCase):
    def test_versions_are_listed_compared_taken_back_and_opened(self) -> None:
        window = self.open_file()
        for name in ("One", "Two"):
            self.name(window, name)
            window.documents.save()
            self.settle_files()
        self.keys(window, (KEY.Key_H, CONTROL | SHIFT))
        panel = window.versions
        # The file as it was before the first save is kept too.
        self.until(lambda: panel.list.count() == 2)
        panel.list.setCurrentRow(1)
        shown = [panel.differences.item(n).text() for n in range(panel.differences.count())]
        self.assertEqual(["M1 is called “Two”"], shown)
        self.keys(panel.list, KEY.Key_Return)
        self.until(lambda: self.named(window.session.machine) == "One")
        window.session.undo()
        window.open_versions()
        self.until(lambda: panel.list.count() == 2)
        panel.list.setCurrentRow(1)
        panel.open_button.click()
        self.until(lambda: window.session.path is None)
        self.assertEqual("One", self.named(window.session.machine))

    def test_how_many_and_where_is_chosen_and_kept(self) -> None:
        window = self.open_file()
        window.open_versions()
        window.versions.most.setValue(0)
        window.versions.most.editingFinished.emit()
        other = self.folder / "of my own"
        with mock.patch(
            "PyQt6.QtWidgets.QFileDialog.getExistingDirectory", return_value=str(other)
        ):
            window.versions._ask_folder()
        rules = Settings(self.folder / "s.ini").version_rules()
        self.assertEqual((0, other), (rules.most_kept, rules.folder))


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
