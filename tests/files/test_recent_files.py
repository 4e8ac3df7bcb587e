"""The desktop's own list of recent files: ours in it, everybody else's left as it was."""

import tempfile
import unittest
from datetime import UTC, datetime
from pathlib import Path
from unittest import mock
from xml.etree import ElementTree

from vervain.entry import main
from vervain.files.recent_files import BOOKMARK, MIME, TYPE, add_recent

MORNING = datetime(2031, 5, 4, 8, 0, tzinfo=UTC)
OTHERS = f"""<?xml version="1.0" encoding="UTF-8"?>
<xbel version="1.0" xmlns:bookmark="{BOOKMARK}" xmlns:mime="{MIME}">
  <bookmark href="file:///tmp/a%20b.txt" added="2030-01-01T00:00:00Z"><info>
    <metadata owner="http://freedesktop.org"><mime:mime-type type="text/plain"/>
    <bookmark:applications><bookmark:application name="Other" exec="'other %u'" count="3"/>
    </bookmark:applications></metadata></info></bookmark>
</xbel>"""


class Recent(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.list = self.folder / "share/recently-used.xbel"
        self.machine = self.folder / "Töpferei <1> & Co.vervain"

    def entries(self) -> dict[str, ElementTree.Element]:
        root = ElementTree.parse(self.list).getroot()
        return {entry.get("href", ""): entry for entry in root.findall("bookmark")}

    def test_a_new_list_is_begun_and_a_second_use_is_counted(self) -> None:
        self.assertTrue(add_recent(self.machine, self.list, MORNING))
        self.assertTrue(add_recent(self.machine, self.list, MORNING.replace(hour=9)))
        ((href, entry),) = self.entries().items()
        self.assertEqual(self.machine.resolve().as_uri(), href)
        self.assertEqual("2031-05-04T08:00:00Z", entry.get("added"))
        self.assertEqual("2031-05-04T09:00:00Z", entry.get("modified"))
        self.assertEqual(TYPE, entry.find(f".//{{{MIME}}}mime-type").get("type"))
        used = entry.findall(f".//{{{BOOKMARK}}}application")
        self.assertEqual([("Vervain", "2")], [(a.get("name"), a.get("count")) for a in used])

    def test_what_others_wrote_stays(self) -> None:
        self.list.parent.mkdir()
        self.list.write_text(OTHERS, "utf-8")
        self.assertTrue(add_recent(self.machine, self.list, MORNING))
        other = self.entries()["file:///tmp/a%20b.txt"]
        application = other.find(f".//{{{BOOKMARK}}}application")
        self.assertEqual(("Other", "3"), (application.get("name"), application.get("count")))
        self.assertEqual("text/plain", other.find(f".//{{{MIME}}}mime-type").get("type"))
        self.assertEqual(2, len(self.entries()))

    def test_a_list_that_is_none_is_left_as_it_is(self) -> None:
        self.list.parent.mkdir()
        for bad in (b"", b"<xbel", b"<html/>", b"\x00\xff", OTHERS.encode()[:200]):
            self.list.write_bytes(bad)
            with self.subTest(bad[:20]):
                self.assertFalse(add_recent(self.machine, self.list, MORNING))
                self.assertEqual(bad, self.list.read_bytes())
        self.assertFalse(add_recent(self.machine, self.folder / "share", MORNING))


class SeveralFiles(unittest.TestCase):
    def test_the_first_opens_here_and_each_other_in_a_window_of_its_own(self) -> None:
        with (
            mock.patch("vervain.desktop.app.run_window", return_value=0) as here,
            mock.patch("vervain.desktop.documents.other_windows.subprocess.Popen") as there,
        ):
            self.assertEqual(0, main(["a.vervain", "b.vervain", "c.vervain"]))
        self.assertEqual(Path("a.vervain"), here.call_args.args[0])
        started = [call.args[0][-1] for call in there.call_args_list]
        self.assertEqual([str(Path(n).resolve()) for n in ("b.vervain", "c.vervain")], started)
