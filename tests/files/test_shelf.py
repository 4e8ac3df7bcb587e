"""The shelf: shipped parts that hold together, and the builder's own from their folder."""

import tempfile
import unittest
from pathlib import Path

from msgspec.structs import replace

from vervain.catalogue.ratings import facts_in_words, pins_of
from vervain.files.part_files import read_part_file, shipped_shelf
from vervain.files.part_import import keep_taken, parts_to_take, said_of
from vervain.files.part_writing import part_text
from vervain.files.problems import FileProblem
from vervain.files.shelf import free_part_id, read_shelf, save_own_part
from vervain.model.connectors import connector_words
from vervain.model.part import DESIGNATOR_LETTERS
from vervain.model.references import part_faults
from vervain.ports.compatibility import hosts_of

PARTS = tuple(shipped_shelf().parts.values())


class ShippedParts(unittest.TestCase):
    def test_every_part_holds_together_and_says_what_it_is(self) -> None:
        for part in PARTS:
            with self.subTest(part.id):
                self.assertEqual([], list(part_faults(part)))
                self.assertTrue(part.title and part.maker and part.model)
                self.assertIn(part.kind, DESIGNATOR_LETTERS)
                if part.kind not in ("controller", "jumper", "emergency stop", "hand wheel"):
                    self.assertTrue(facts_in_words(part) or part.note or len(pins_of(part)) < 30)

    def test_every_kind_that_the_demos_need_is_on_the_shelf(self) -> None:
        kinds = {part.kind for part in PARTS}
        self.assertEqual(set(), set(DESIGNATOR_LETTERS) - kinds - {"load"})
        leads = {
            (part.stepper.phases, len(pins_of(part))) for part in PARTS if part.stepper is not None
        }
        self.assertLessEqual({(2, 4), (2, 5), (2, 6), (2, 8), (3, 3), (3, 6)}, leads)
        drives = {
            pin.electrical.drive
            for part in PARTS
            if part.kind == "sensor"
            for pin in pins_of(part)
            if getattr(pin.electrical, "drive", None)
        }
        self.assertLessEqual({"NPN", "PNP"}, drives)

    def test_every_plug_has_somewhere_to_go(self) -> None:
        hosts = {port.kind for part in PARTS for port in part.ports if port.end == "host"}
        for part in PARTS:
            for port in part.ports:
                wanted = hosts_of(port.kind)
                if port.end == "device" and wanted:
                    with self.subTest(f"{part.id} {port.id}"):
                        self.assertTrue(hosts & set(wanted))

    def test_connectors_are_told_in_words(self) -> None:
        for part in PARTS:
            for port in part.ports:
                words = connector_words(port.connector)
                with self.subTest(port.connector):
                    self.assertTrue(words.endswith("-way") or words == "flying leads", words)
        self.assertEqual("odd thing", connector_words("odd thing"))


class OwnParts(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "not yet made"
        self.part = replace(PARTS[0], id="my-thing", title="My thing")

    def test_a_saved_part_comes_back_as_it_was(self) -> None:
        for part in PARTS:
            own = replace(part, id=free_part_id(part.title, frozenset()))
            path = save_own_part(own, self.folder)
            with self.subTest(part.id):
                self.assertEqual((own,), read_part_file(path).part)
                path.unlink()

    def test_no_folder_is_no_parts_and_no_problem(self) -> None:
        contents = read_shelf(self.folder)
        self.assertEqual((frozenset(), ()), (contents.own_ids, contents.problems))
        self.assertEqual(len(PARTS), len(contents.parts))

    def test_own_parts_stand_beside_the_shipped_and_saving_again_replaces(self) -> None:
        save_own_part(self.part, self.folder)
        save_own_part(replace(self.part, revision=2), self.folder)
        contents = read_shelf(self.folder)
        self.assertEqual(frozenset({"my-thing"}), contents.own_ids)
        self.assertEqual(2, contents.part("my-thing").revision)
        self.assertEqual(1, len(list(self.folder.glob("*"))))

    def test_bad_files_are_told_by_name_and_the_others_stay(self) -> None:
        save_own_part(self.part, self.folder)
        (self.folder / "torn.toml").write_text('[[part]]\nid = "x"\nkind = ')
        (self.folder / "binary.toml").write_bytes(b"\xff\xfe\x00")
        (self.folder / "unknown.toml").write_text('[[part]]\nid = "y"\nkind = "spaceship"\n')
        head = '[[part]]\nid = "z"\nkind = "load"\ntitle = "Z"\n[[part.ports]]\nid = "L"\n'
        for number, text in enumerate(
            ("pins = 5", "ids = 3", 'pins = [{ id = ["a"] }]', "x = " + "[" * 4000, "step_mm = []")
        ):
            (self.folder / f"odd{number}.toml").write_text(head + text)
        taken = replace(self.part, id=PARTS[0].id)
        (self.folder / "taken.toml").write_text(part_text(taken))
        contents = read_shelf(self.folder)
        said = "\n".join(contents.problems)
        odd = tuple(f"odd{number}.toml" for number in range(5))
        for name in ("torn.toml", "binary.toml", "unknown.toml", "taken.toml", *odd):
            self.assertIn(name, said)
        self.assertEqual(frozenset({"my-thing"}), contents.own_ids)

    def test_hostile_ids_stay_in_the_folder(self) -> None:
        hostile = replace(self.part, id="../../etc/passwd")
        path = save_own_part(hostile, self.folder)
        self.assertEqual(self.folder, path.parent)

    def test_a_folder_that_cannot_be_made_is_a_problem_with_its_place(self) -> None:
        blocker = self.folder.parent / "file"
        blocker.write_text("")
        with self.assertRaises(FileProblem) as refused:
            save_own_part(self.part, blocker / "parts")
        self.assertIn("parts", str(refused.exception))

    def test_a_file_of_somebody_else_is_taken_in_part_by_part(self) -> None:
        save_own_part(self.part, self.folder)
        save_own_part(replace(PARTS[1], id="my-other", title="Other"), self.folder)
        theirs = (
            replace(self.part, revision=4),
            replace(PARTS[1], id="my-other", title="Other", note="better"),
            replace(PARTS[2], note="not the shelf's"),
            replace(PARTS[3], id="their-own", title="Theirs"),
        )
        sent = self.folder.parent / "sent.toml"
        sent.write_text("".join(part_text(part) for part in theirs))
        taken = parts_to_take(sent, read_shelf(self.folder))
        self.assertEqual(
            ["there already", "newer", "renamed", "new"], [item.verdict for item in taken]
        )
        self.assertIn("1 new (Theirs); 1 newer than yours (Other)", said_of(taken))
        self.assertEqual(3, keep_taken(taken, self.folder))
        shelf = read_shelf(self.folder)
        self.assertEqual((), shelf.problems)
        newer = shelf.part("my-other")
        self.assertEqual(("better", 2), (newer.note, newer.revision))
        self.assertEqual(PARTS[2], shelf.part(PARTS[2].id))
        self.assertEqual(4, len(shelf.own_ids))
        again = parts_to_take(sent, shelf)
        self.assertEqual(["there already"] * 2, [again[n].verdict for n in (0, 3)])

    def test_a_broken_file_of_somebody_else_leaves_all_as_it_is(self) -> None:
        sent = self.folder.parent / "sent.toml"
        sent.write_text(part_text(self.part).replace("kind =", "kimd ="))
        with self.assertRaisesRegex(FileProblem, "Did you mean “kind”"):
            parts_to_take(sent, read_shelf(self.folder))
        self.assertFalse(self.folder.exists())
