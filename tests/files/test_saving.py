"""Saving: proven, kept in versions, never over another's work, into nothing that is no file."""

import os
import socket
import stat
import subprocess
import sys
import tempfile
import threading
import unittest
from datetime import UTC, datetime, timedelta
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from tests import ROOT
from tests.sampling import IS_WHOLE
from vervain.files.autosave import (
    Seat,
    autosave_path,
    autosave_paths,
    drop_autosave,
    forget,
    left_over,
    never_saved,
    write_autosave,
)
from vervain.files.demos import open_template
from vervain.files.machine_file import Unsavable, encode_machine, open_machine, save_machine
from vervain.files.open_marks import OpenElsewhere, OpenMark, is_marked, mark_open
from vervain.files.problems import FileProblem
from vervain.files.reading import Cancelled, read_bytes, read_stamped
from vervain.files.saving import ChangedOnDisk, save_document
from vervain.files.versions import VersionRules, open_version, version_rows, versions_of
from vervain.files.writing import unfinished, write_whole
from vervain.model.machine import Device

OLD = open_template("rover")
NEW = replace(OLD, name="The new one")


class InFolder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.path = self.folder / "m.vervain"
        self.rules = VersionRules(self.folder / "versions", 3)
        patched = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patched.start()
        self.addCleanup(patched.stop)

    def refusal(self, act, *given) -> str:
        with self.assertRaises(FileProblem) as caught:
            act(*given)
        return str(caught.exception)


class Killed(InFolder):
    def test_a_kill_at_any_call_to_the_system_loses_nothing(self) -> None:
        every = "1" if IS_WHOLE else "3"
        done = subprocess.run(
            [sys.executable, "-m", "tests.files.kill_points", str(self.folder), every],
            env={**os.environ, "PYTHONPATH": f"{ROOT}/src:{ROOT}/tools"},
            cwd=ROOT, capture_output=True, text=True,
        )  # fmt: skip
        self.assertEqual("", done.stderr)
        tried, lost = done.stdout.split()[:2]
        self.assertGreater(int(tried) * int(every), 150)
        self.assertEqual("0", lost, done.stdout)

    def test_file_and_folder_are_flushed_before_it_counts_as_saved(self) -> None:
        flushed: list[int] = []
        real = os.fsync

        def noted(handle: int) -> None:
            flushed.append(stat.S_IFMT(os.fstat(handle).st_mode))
            real(handle)

        with mock.patch("os.fsync", noted):
            save_machine(NEW, self.path)
        self.assertEqual([stat.S_IFREG, stat.S_IFDIR], flushed)

    def test_a_save_that_was_cut_off_is_found_and_one_without_work_is_cleaned(self) -> None:
        save_machine(OLD, self.path)
        (self.folder / ".m.vervain.0123abcd.saving").write_bytes(encode_machine(NEW))
        (self.folder / ".m.vervain.4567abcd.saving").write_bytes(encode_machine(NEW)[:500])
        (self.folder / ".other.vervain.4567abcd.saving").write_bytes(b"")
        kept = left_over(self.path)
        self.assertEqual(NEW, kept.machine)
        self.assertEqual([kept.kept_in], unfinished(self.path))
        self.assertEqual(1, len(list(self.folder.glob(".other*"))))

    def test_one_that_is_being_written_is_left_alone(self) -> None:
        import fcntl

        busy = self.folder / ".m.vervain.0123abcd.saving"
        with busy.open("wb") as stream:
            fcntl.flock(stream, fcntl.LOCK_EX)
            self.assertEqual([], unfinished(self.path))
            self.assertIsNone(left_over(self.path))
        self.assertTrue(busy.exists())


class Proven(InFolder):
    def test_what_could_not_be_opened_again_is_not_saved_and_its_values_are_kept(self) -> None:
        save_machine(OLD, self.path)
        twin = OLD.devices[0]
        for name, broken in (
            (
                "designator",
                replace(OLD, devices=(Device(designator="MOTOR-1", name="M", part="x"),)),
            ),
            ("“", replace(OLD, devices=(*OLD.devices, twin))),
            ("half a character", replace(OLD, name="a\ud800")),
            ("inf", replace(OLD, prices={"x": float("inf")})),
        ):
            with self.subTest(name), self.assertRaises(Unsavable) as caught:
                save_machine(broken, self.path)
            self.assertIn("at ", str(caught.exception))
            self.assertEqual(OLD, open_machine(self.path))
            rescue = Path(str(self.path) + ".rescue.json")
            self.assertIn(str(rescue), str(caught.exception))
            self.assertIn(b"vervain machine", rescue.read_bytes())
            rescue.unlink()


class Others(InFolder):
    def test_a_file_that_another_changed_is_not_written_over(self) -> None:
        save_machine(OLD, self.path)
        known = read_stamped(self.path)[1]
        # Another program may keep size and date: the content tells.
        theirs = replace(OLD, name=OLD.name[:-1] + "x")
        save_machine(theirs, self.path)
        os.utime(self.path, ns=(known.modified_ns, known.modified_ns))
        with self.assertRaises(ChangedOnDisk):
            save_document(NEW, self.path, known, self.rules)
        self.assertEqual(theirs, open_machine(self.path))
        save_document(NEW, self.path, known, self.rules, replaces=True)
        self.assertEqual(NEW, open_machine(self.path))
        kept = [open_version(version) for version in versions_of(self.path, self.rules)]
        self.assertEqual([NEW, theirs], kept)

    def test_the_same_content_written_anew_is_no_change(self) -> None:
        known = save_machine(OLD, self.path)
        self.path.write_bytes(self.path.read_bytes())
        save_document(NEW, self.path, known, self.rules)
        self.assertEqual(NEW, open_machine(self.path))

    def test_a_second_window_knows_of_the_first(self) -> None:
        first = mark_open(self.path)
        self.assertIsInstance(first, OpenMark)
        (self.folder / "link.vervain").symlink_to(self.path)
        second = mark_open(self.folder / "link.vervain")
        self.assertIsInstance(second, OpenElsewhere)
        self.assertEqual(os.getpid(), second.process)
        first.release()
        self.assertFalse(is_marked(self.path))
        self.assertIsInstance(mark_open(self.path), OpenMark)


class OddTargets(InFolder):
    def test_what_is_no_file_is_never_replaced(self) -> None:
        pipe, folder = self.folder / "pipe", self.folder / "folder.vervain"
        os.mkfifo(pipe)
        folder.mkdir()
        (self.folder / "loop").symlink_to(self.folder / "loop")
        with socket.socket(socket.AF_UNIX) as listening:
            listening.bind(str(self.folder / "sock"))
        for path, word in (
            (folder, "folder"), (self.folder / "sock", "socket"), (pipe, "cannot be written"),
            (self.folder / "loop", "link"), (Path("a\0b"), "not a file name"),
            (self.folder / ("x" * 300), "too long"), (self.folder / "no" / "x", "No such"),
        ):  # fmt: skip
            with self.subTest(str(path)):
                self.assertIn(word, self.refusal(write_whole, path, b"new"))
                self.assertIn(str(path)[:40], self.refusal(save_machine, NEW, path))
        self.assertTrue(stat.S_ISFIFO(pipe.stat().st_mode))

    def test_a_device_takes_the_bytes_and_stays_one(self) -> None:
        write_whole(Path("/dev/null"), b"all of it")
        self.assertTrue(stat.S_ISCHR(Path("/dev/null").stat().st_mode))
        pipe, read = self.folder / "pipe", []
        os.mkfifo(pipe)
        reader = threading.Thread(target=lambda: read.append(pipe.read_bytes()))
        reader.start()
        while not read and reader.is_alive():
            try:
                write_whole(pipe, b"all of it")
                break
            except FileProblem:
                continue
        reader.join()
        self.assertEqual([b"all of it"], read)

    def test_a_write_protected_file_stays_and_rights_links_and_names_are_kept(self) -> None:
        save_machine(OLD, self.path)
        self.path.chmod(0o444)
        self.assertIn("write-protected", self.refusal(save_machine, NEW, self.path))
        self.path.chmod(0o640)
        twin = self.folder / "twin.vervain"
        os.link(self.path, twin)
        save_machine(NEW, self.path)
        self.assertEqual([NEW, NEW], [open_machine(self.path), open_machine(twin)])
        self.assertEqual(0o640, stat.S_IMODE(self.path.stat().st_mode))
        before = os.umask(0o027)
        try:
            save_machine(NEW, self.folder / "fresh.vervain")
        finally:
            os.umask(before)
        self.assertEqual(0o640, stat.S_IMODE((self.folder / "fresh.vervain").stat().st_mode))
        self.assertEqual([], list(self.folder.glob(".*")))

    def test_names_of_any_bytes_and_of_the_longest_length_are_saved_and_kept(self) -> None:
        for name in (
            "я" * 120 + ".vervain",
            "x" * 247 + ".vervain",
            os.fsdecode(b"\xff\xfe.vervain"),
        ):
            path = self.folder / name
            with self.subTest(name[:10]):
                save_machine(OLD, path)
                write_autosave(NEW, Seat(path), steps=("Named it",))
                self.assertEqual((NEW, ("Named it",)), left_over(path)[0:4:3])
                drop_autosave(Seat(path))
                self.assertIsNone(left_over(path))
                save_document(NEW, path, None, self.rules, replaces=True)
                self.assertEqual(2, len(versions_of(path, self.rules)))

    def test_what_never_ends_is_not_opened_and_reading_can_be_stopped(self) -> None:
        pipe = self.folder / "f.vervain"
        os.mkfifo(pipe)
        self.assertIn("pipe", self.refusal(open_machine, pipe))
        self.assertIn("device", self.refusal(open_machine, Path("/dev/zero")))
        save_machine(OLD, self.path)
        with self.assertRaises(Cancelled):
            read_bytes(self.path, should_continue=lambda: False)


class Autosaves(InFolder):
    def test_it_is_kept_elsewhere_where_its_folder_takes_none(self) -> None:
        save_machine(OLD, self.path)
        beside, elsewhere, last = autosave_paths(Seat(self.path))
        real = write_whole

        def refusing(path: Path, data: bytes, *rest: bool) -> None:
            if path.parent == self.folder:
                raise FileProblem(str(path), "Permission denied.")
            real(path, data, *rest)

        with mock.patch("vervain.files.autosave.write_whole", refusing):
            self.assertEqual(elsewhere, write_autosave(NEW, Seat(self.path)))
        self.assertEqual(NEW, left_over(self.path).machine)
        self.assertEqual(beside, write_autosave(NEW, Seat(self.path)))
        self.assertFalse(elsewhere.exists())
        everywhere = FileProblem("x", "The disk is full.")
        with mock.patch("vervain.files.autosave.write_whole", side_effect=everywhere):
            self.assertIn("disk is full", self.refusal(write_autosave, NEW, Seat(self.path)))
        self.assertNotEqual(last, elsewhere)

    def test_what_no_file_can_hold_is_kept_as_text_all_the_same(self) -> None:
        kept = write_autosave(replace(OLD, name="a\ud800"), Seat(self.path))
        self.assertIn(b"\\ud800", kept.read_bytes())

    def test_work_older_than_the_file_is_not_offered_as_newer(self) -> None:
        save_machine(OLD, self.path)
        base = read_stamped(self.path)[1].digest
        write_autosave(NEW, Seat(self.path), base, ("Named it",))
        later = (datetime.now(UTC) + timedelta(hours=1)).timestamp()
        os.utime(self.path, (later, later))
        kept = left_over(self.path)
        # The file is the one that the work began with, whatever its date says.
        self.assertFalse(kept.is_older)
        self.assertEqual(("The machine is called “The new one”",), kept.differences)
        save_machine(replace(OLD, name="Another's"), self.path)
        os.utime(self.path, (later, later))
        self.assertTrue(left_over(self.path).is_older)

    def test_machines_without_a_file_have_one_each_and_open_ones_are_not_offered(self) -> None:
        mine = mark_open("aaaa")
        write_autosave(OLD, Seat(None, "aaaa"))
        write_autosave(NEW, Seat(None, "bbbb"))
        self.assertEqual([NEW], [kept.machine for kept in never_saved()])
        mine.release()
        self.assertEqual([NEW, OLD], [kept.machine for kept in never_saved()])
        drop_autosave(Seat(None, "bbbb"))
        self.assertEqual([OLD], [kept.machine for kept in never_saved()])

    def test_what_is_left_is_handed_over_before_it_goes(self) -> None:
        save_machine(OLD, self.path)
        write_autosave(NEW, Seat(self.path))
        handed: list[bytes] = []
        forget(left_over(self.path), lambda _, data: handed.append(data))
        self.assertIn(b"The new one", handed[0])
        self.assertFalse(autosave_path(self.path).exists())


class Versions(InFolder):
    def test_the_last_saves_are_kept_within_their_bounds_and_told_apart(self) -> None:
        known = None
        for number in range(6):
            machine = replace(OLD, name=f"Save {number}")
            known = save_document(machine, self.path, known, self.rules).stamp
        save_document(machine, self.path, known, self.rules)
        versions = versions_of(self.path, self.rules)
        self.assertEqual(
            ["Save 5", "Save 4", "Save 3"], [open_version(version).name for version in versions]
        )
        rows = version_rows(open_machine(self.path), versions)
        self.assertEqual(
            [(), ("The machine is called “Save 5”",)], [row.changes for row in rows[:2]]
        )
        versions[0].path.write_bytes(b"{")
        self.assertIn("ends too early", version_rows(None, versions)[0].problem)
        size = versions[1].size
        save_document(NEW, self.path, known, self.rules._replace(most_bytes=size * 3 // 2))
        kept = versions_of(self.path, self.rules)
        self.assertEqual((2, NEW), (len(kept), open_version(kept[0])))

    def test_none_are_kept_where_they_are_switched_off_and_a_full_disk_does_not_stop_the_save(
        self,
    ) -> None:
        save_document(OLD, self.path, None, self.rules._replace(most_kept=0))
        self.assertEqual((), versions_of(self.path, self.rules))
        (self.folder / "versions").write_text("a file in its way")
        saved = save_document(NEW, self.path, None, self.rules, replaces=True)
        self.assertIn("No version was kept", saved.unkept)
        self.assertEqual(NEW, open_machine(self.path))
