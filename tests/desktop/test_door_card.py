"""The door card: one page of the right size, with every used port in its text."""

import unittest
from pathlib import Path

try:
    from PyQt6.QtPdf import QPdfDocument
except ImportError:  # The reader is a part of Qt that some systems leave out.
    QPdfDocument = None

from mistake_machines import MACHINES
from tests.desktop.case import WindowCase
from tests.test_cli import run
from vervain.desktop.stages.ports.door_card import with_cards, write_door_card
from vervain.desktop.theme import NIGHT, looks, use
from vervain.edits.device_edits import set_lie, set_name
from vervain.files.demos import DEMOS, open_demo
from vervain.files.problems import FileProblem
from vervain.model.machine import Machine

# Points of 1/72 inch, landscape: A4 is 297 x 210 mm, Letter 11 x 8.5 inch.
SIZES = {"a4": (842, 595), "letter": (792, 612)}


@unittest.skipUnless(QPdfDocument, "Qt has no PDF reader here")
class DoorCard(WindowCase):
    demo = "glazing-gantry-as-planned"

    def read(self, path: Path):
        document = QPdfDocument(None)
        self.assertEqual(QPdfDocument.Error.None_, document.load(str(path)))
        self.addCleanup(document.close)
        return document, document.getAllText(0).text()

    def test_one_page_in_either_paper_with_every_used_port(self) -> None:
        machine = open_demo(self.demo)
        for paper, (width, height) in SIZES.items():
            path = write_door_card(machine, "K1", self.folder / paper / "K1.pdf", paper)
            document, text = self.read(path)
            self.assertEqual(1, document.pageCount())
            size = document.pagePointSize(0)
            self.assertAlmostEqual(width, size.width(), delta=1)
            self.assertAlmostEqual(height, size.height(), delta=1)
            for words in ("IN 7", "B7 Z home sensor", "W19.2", "Reads PNP: inverted", "JP1"):
                self.assertIn(words, text)

    def test_every_controller_of_every_demo_turned_or_not(self) -> None:
        for demo in DEMOS:
            machine = open_demo(demo.key)
            for device in with_cards(machine):
                turned = set_lie(machine, device, 90, True)
                path = write_door_card(turned, device, self.folder / f"{demo.key}-{device}.pdf")
                with self.subTest(f"{demo.key} {device}"):
                    self.assertEqual(1, self.read(path)[0].pageCount())

    def test_a_stack_is_one_card_and_strips_have_one(self) -> None:
        machine = MACHINES["shield"]()
        self.assertEqual(("K1",), tuple(n for n in with_cards(machine) if n[0] in "KT"))
        text = self.read(write_door_card(machine, "T1", self.folder / "K1.pdf"))[1]
        for words in ("K1", "T1", "M1 quoin-gm12 M1", "POWER", "VM"):
            self.assertIn(words, text)
        self.assertIn("X2", with_cards(open_demo(self.demo)))

    def test_the_page_is_paper_and_the_window_keeps_its_theme(self) -> None:
        use(NIGHT, 1.5)
        write_door_card(open_demo(self.demo), "K2", self.folder / "K2.pdf")
        self.assertEqual((NIGHT, 1.5), (looks.theme, looks.scale))

    def test_long_names_stay_on_the_page(self) -> None:
        machine = set_name(open_demo(self.demo), "K1", "A controller with a very long name " * 2)
        path = write_door_card(machine, "K1", self.folder / "K1.pdf")
        self.assertEqual(1, self.read(path)[0].pageCount())

    def test_from_the_window_and_from_the_command_line(self) -> None:
        self.window.exchange.door_cards_to(self.folder / "cards")
        self.until(lambda: any("Door cards written: K1.pdf, K2.pdf" in text for text in self.said))
        saved = self.folder / "m.vervain"
        self.window.documents.save_to(saved)
        self.settle()
        status, out, _ = run("cards", saved, "--to", self.folder / "more", "--paper", "letter")
        self.assertEqual(0, status)
        self.assertIn("K1.pdf", out)

    def test_what_cannot_be_written_or_is_no_controller_is_told(self) -> None:
        machine = open_demo(self.demo)
        blocker = self.folder / "file"
        blocker.write_text("")
        for device, path in (("K1", blocker / "K1.pdf"), ("M1", self.folder / "M1.pdf")):
            with self.subTest(device), self.assertRaises(FileProblem):
                write_door_card(machine, device, path)
        window = self.open(Machine(name="New"))
        window.exchange.door_cards_to(self.folder)
        self.assertIn("no board", self.said[-1])
