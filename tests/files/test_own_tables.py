"""Tables of the builder's own: taken, or told where not understood; the shipped ones stay."""

import tempfile
import unittest
from pathlib import Path

from vervain.catalogue.pin_words import read_function
from vervain.data import FOLDER, data_text, replace_tables
from vervain.electrical.copper import ampacity_a, check_tables
from vervain.files.own_tables import READERS, take_own_tables
from vervain.supply.states import feed_table


class OwnTables(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.addCleanup(check_tables)
        self.addCleanup(lambda: replace_tables(dict.fromkeys(READERS)))

    def test_an_own_table_is_used(self) -> None:
        text = data_text("tables/copper.toml").replace("[0.5, 7.5]", "[0.5, 6.0]")
        (self.folder / "copper.toml").write_text(text)
        self.assertEqual((["copper.toml"], []), take_own_tables(self.folder))
        self.assertEqual(6.0, ampacity_a(0.5, 40.0))

    def test_a_word_of_ones_own_is_read_in_pin_tables(self) -> None:
        self.assertIsNone(read_function("ZORK", "sensor"))
        text = data_text("tables/pin_words.toml")
        (self.folder / "pin_words.toml").write_text(
            text + '\n[[function]]\nfunction = "signal"\nwords = ["zork"]\n'
        )
        self.assertEqual((["pin_words.toml"], []), take_own_tables(self.folder))
        self.assertEqual("signal", read_function("ZORK", "sensor"))

    def test_what_is_not_understood_is_told_and_the_shipped_one_stays(self) -> None:
        before = feed_table()
        for name, text, words in (
            ("feeds.toml", "contact_ohm = ", "no such table"),
            ("feeds.toml", 'contact_ohm = "thin"', "no such table"),
            ("copper.toml", "ampacity = [[0.5, -1]]", "above 0"),
            ("copper.toml", "ampacity = 5", "no such table"),
            ("copper.toml", "\x00", "no such table"),
            ("copper.toml", "x = " + "[" * 3000, "no such table"),
            ("pin_words.toml", "function = 3", "no such table"),
            ("figures.toml", "pin = 3", "no such table"),
            ("mine.toml", "", "No table has this name"),
            ("feeds.toml", "#" * 2_000_000, "too large"),
        ):
            with self.subTest(f"{name} {text[:20]}"):
                path = self.folder / name
                path.write_text(text)
                taken, problems = take_own_tables(self.folder)
                self.assertEqual(([], 1), (taken, len(problems)))
                self.assertIn(words, str(problems[0]))
                self.assertIn(str(path), str(problems[0]))
                self.assertEqual(before, feed_table())
                self.assertEqual(7.5, ampacity_a(0.5, 40.0))
                path.unlink()

    def test_every_shipped_table_may_stand_in_for_itself_and_none_for_nothing(self) -> None:
        shipped = sorted(path.name for path in (FOLDER / "tables").glob("*.toml"))
        for name in shipped:
            (self.folder / name).write_text(data_text(f"tables/{name}"))
        self.assertEqual((shipped, []), take_own_tables(self.folder))
        for name in shipped:
            (self.folder / name).write_text('[thing]\nwhat = ["no table reads this"]\n')
        taken, problems = take_own_tables(self.folder)
        self.assertEqual([], taken)
        self.assertEqual(shipped, [Path(problem.path).name for problem in problems])

    def test_no_folder_is_no_problem(self) -> None:
        self.assertEqual(([], []), take_own_tables(self.folder / "none"))
