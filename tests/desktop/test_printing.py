"""Papers by the print dialog: what is chosen there is what the system's queue is given."""

import os
import stat
import tempfile
from pathlib import Path
from unittest import mock

from pypdf import PdfReader
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QPageRanges, QPageSize
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QApplication, QMenu

from tests.desktop.case import WindowCase
from vervain.desktop.printing import PAPERS

LP = """#!/bin/sh
printf '%s\\n' "$@" > "$0.args"
cat > "$0.pdf"
[ "$2" != "Broken" ] || { echo "lp: The printer is out of paper" >&2; exit 1; }
"""


class Printing(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.lp = Path(folder.name) / "lp"
        self.lp.write_text(LP)
        self.lp.chmod(self.lp.stat().st_mode | stat.S_IXUSR)
        path = f"{folder.name}:{os.environ['PATH']}"
        patched = mock.patch.dict(os.environ, {"PATH": path})
        patched.start()
        self.addCleanup(patched.stop)

    def choose(self, name: str) -> None:
        """Answers the dialog: two copies of pages 2 and 3 on both sides, on Letter, in grey."""

        def answer(printer: QPrinter, _title: str, _parent: object) -> bool:
            printer.setPageSize(QPageSize(QPageSize.PageSizeId.Letter))
            printer.setCopyCount(2)
            printer.setPageRanges(QPageRanges.fromString("2-3"))
            printer.setColorMode(QPrinter.ColorMode.GrayScale)
            return True

        self.window.printing.ask = answer
        # Where no printer is set up, Qt keeps neither its name nor its two sides.
        both = QPrinter.DuplexMode.DuplexLongSide
        for what, answer_of in (("printerName", lambda _: name), ("duplex", lambda _: both)):
            patched = mock.patch.object(QPrinter, what, answer_of)
            patched.start()
            self.addCleanup(patched.stop)

    def test_what_was_chosen_goes_to_the_queue_and_is_kept_as_printed(self) -> None:
        self.choose("Bench printer")
        self.window.printing.print_paper("sheets")
        args = Path(f"{self.lp}.args")
        self.until(lambda: any("Sent to Bench printer" in words for words in self.said))
        given = args.read_text().splitlines()
        self.assertEqual(["-d", "Bench printer"], given[:2])
        self.assertEqual(["-n", "2", "-P", "2-3"], given[4:8])
        options = set(given[9::2])
        wanted = {"sides=two-sided-long-edge", "print-color-mode=monochrome",
                  "print-scaling=none", "media=Letter"}  # fmt: skip
        self.assertEqual(wanted, options)
        pages = PdfReader(f"{self.lp}.pdf").pages
        self.assertAlmostEqual(612, float(min(pages[0].mediabox[2:])), delta=1)
        self.assertIn("sheets", {paper.form for paper in self.window.session.machine.papers})

    def test_a_queue_that_refuses_is_said_and_nothing_counts_as_printed(self) -> None:
        self.choose("Broken")
        self.window.printing.print_paper("pdf")
        self.until(lambda: any("out of paper" in words for words in self.said))
        self.assertEqual((), self.window.session.machine.papers)

    def test_labels_on_a_tape_keep_their_own_size(self) -> None:
        self.choose("Tape printer")
        self.window.show_stage("Harness")
        self.window.harness.toggle_labels()
        self.window.harness.labels_panel.print_button.click()
        self.until(lambda: any("labels went to Tape printer" in words for words in self.said))
        self.assertNotIn("media", Path(f"{self.lp}.args").read_text())
        height = float(min(PdfReader(f"{self.lp}.pdf").pages[0].mediabox[2:]))
        self.assertAlmostEqual(12, height / 72 * 25.4, delta=0.5)

    def test_the_systems_dialog_opens_from_the_menu_and_leaving_it_prints_nothing(self) -> None:
        seen: list[str] = []

        def leave() -> None:
            dialog = QApplication.activeModalWidget()
            if isinstance(dialog, QPrintDialog):
                seen.append(dialog.windowTitle())
                dialog.reject()
            else:
                QTimer.singleShot(50, leave)

        self.window.printing.open_below(self.window.head.name)
        menu = QApplication.activePopupWidget()
        self.assertIsInstance(menu, QMenu)
        self.assertEqual(len(PAPERS), len(menu.actions()))
        QTimer.singleShot(50, leave)
        menu.actions()[0].trigger()
        menu.close()
        self.assertEqual(["Print: Glazing gantry, Harness"], seen)
        self.assertEqual((), self.window.session.machine.papers)
