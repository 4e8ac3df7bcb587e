"""What is kept of machines that were not saved, other windows on a file, versions."""

import os
import signal
import subprocess
import sys
import time
from unittest import mock

from tests import ROOT
from tests.desktop.test_documents import CONTROL, KEY, SHIFT, DocumentCase
from tests.timing import PATIENCE_S
from vervain.desktop.background import files
from vervain.desktop.documents.documents import AUTOSAVE_MS
from vervain.desktop.safety_net import SafetyNet
from vervain.desktop.settings import Settings
from vervain.edits.device_edits import set_name
from vervain.files.autosave import Seat, autosave_path, never_saved, write_autosave
from vervain.files.machine_file import open_machine, save_machine
from vervain.files.problems import FileProblem
from vervain.files.versions import versions_of


class Kept(DocumentCase):
    def test_steady_work_is_kept_some_seconds_after_its_first_edit(self) -> None:
        window = self.open_file()
        window.documents._timer.setInterval(120)
        self.assertLess(AUTOSAVE_MS, 5000)
        end, number = time.monotonic() + 1.0, 0
        # On a busy machine one edit alone may take that long.
        while time.monotonic() < end or number < 8:
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
            _, errors = child.communicate(timeout=PATIENCE_S)
            self.assertEqual("", errors)
            self.assertEqual(128 + number, child.returncode)
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
