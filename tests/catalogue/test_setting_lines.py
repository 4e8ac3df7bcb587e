"""Settings of a board in lines, and where its ports lie in words: what they mean, and nonsense."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from vervain.catalogue.port_places import PortPlace, places_in_words, read_places
from vervain.catalogue.setting_lines import read_setting_lines
from vervain.files.part_files import shipped_shelf
from vervain.model.elements import Bridge, Fuse
from vervain.model.part import Option, Reserved
from vervain.model.problem import Problem

PARTS = shipped_shelf().parts
BOARD = PARTS["osier-mb4"]
PIECES = (
    "JP1|on|IN 1-4|:|NPN|PNP|1-2|2-3|,|=|joins|5V|V|\n|off|follows|SLOT X|shared|fuse|to|0.3|4.2|A|"
    "current|microsteps|010|∞|bridges|STOP|."
)
WORDS = st.sampled_from(tuple(PIECES.split("|")))


def option(line: str) -> Option:
    found = read_setting_lines(line, BOARD.ports)
    assert not found.problems, found.problems
    return found.options[0]


class Lines(unittest.TestCase):
    def test_jumpers_switches_and_numbers(self) -> None:
        jumper = option("JP3 spindle: 5V 1-2, 10V 2-3 = 10V")
        self.assertEqual(("JP3", "JP3: spindle", "10V"), (jumper.id, jumper.title, jumper.default))
        self.assertEqual(("jumper", {"5V": "1-2", "10V": "2-3"}),
                         (jumper.drawn.form, jumper.drawn.positions))  # fmt: skip
        switches = option("SW1 microsteps: 1 00, 2 10, 4 01")
        self.assertEqual(("microsteps", "switches"), (switches.id, switches.drawn.form))
        number = option("current: 300 to 4200 mA = 2 A")
        self.assertEqual(("current_peak_a", "A", 0.3, 4.2, 2.0), (
            number.id, number.unit, number.minimum, number.maximum, number.default))  # fmt: skip
        self.assertEqual(("LIMIT X", "LIMIT Y"), option("filter on LIMIT X, Y: off, 1 ms").ports)

    def test_which_pin_works_a_relay(self) -> None:
        foot = PARTS["osier-mh2"].ports
        found = read_setting_lines("M1: worked by FOOT D.D4\nM2: worked by d4", foot)
        self.assertEqual({"M1": ("FOOT D", "4"), "M2": ("FOOT D", "4")}, found.workers)
        wrong = read_setting_lines("M1: worked by\nM9: worked by D4\nM1: worked by D44", foot)
        self.assertEqual(["Setting 1", "Setting 2", "Setting 3"], [p[:9] for p in wrong.problems])

    def test_what_choices_do_to_pins_and_ports(self) -> None:
        found = read_setting_lines(
            "JP1 on LIMIT X: NPN 1-2, PNP 2-3\nJP2: on 1-2 joins 5V V, off\n"
            "JA on SLOT A: on its own, as X 1-2 follows SLOT X\n"
            "JS: fitted 1-2 bridges STOP, removed\n"
            "shared pin 9: LIMIT Z.S, SPINDLE.S\nfuse F1 7.5 A: POWER.V to SLOT X.V",
            BOARD.ports,
        )
        self.assertEqual(((), {"LIMIT X": "JP1"}), (found.problems, found.reads))
        joined, shared, fuse = found.inside
        self.assertEqual(7.5, found.options[-1].default)
        self.assertEqual(("JP2", "on"), joined.when)
        self.assertLess({port for port, _ in shared.pins}, {p.id for p in BOARD.ports})
        self.assertEqual((Bridge, "pin 9", Fuse), (type(shared), shared.name, type(fuse)))
        self.assertEqual((Reserved(option="JA", value="as X", twin_of="SLOT X"),),
                         found.reserved["SLOT A"])  # fmt: skip
        self.assertTrue(found.reserved["STOP"][0].bridged)

    def test_a_lamp_says_what_it_means_and_where_it_lies(self) -> None:
        found = read_setting_lines("lamp PWR green at 12, 30.5 mm: 24 V is there\n"
                                   "lamp ERR 1 Red: a driver is too hot", BOARD.ports)  # fmt: skip
        self.assertEqual((), found.problems)
        self.assertEqual(
            [
                ("PWR", "green", "24 V is there", 12, 30.5),
                ("ERR 1", "red", "a driver is too hot", 0, 0),
            ],
            [(i.id, i.colour, i.means, i.x_mm, i.y_mm) for i in found.indicators],
        )  # fmt: skip
        wrong = read_setting_lines("lamp PWR: on\nlamp X pink: y\nlamp A red: b\nlamp A red: c",
                                   BOARD.ports)  # fmt: skip
        self.assertEqual([1, 2, 4], [int(words.split()[1][:-1]) for words in wrong.problems])

    def test_what_is_wrong_is_told_with_its_line_and_the_rest_stays(self) -> None:
        text = "JP1\nJP2: a\nJP3 on IN 99: x, y\nJP4: x, y = z\nJP5: a, b\nJP5: c, d"
        found = read_setting_lines(f"{text}\ncurrent: 5 to 1 A\nshared p: LIMIT X.NIX", BOARD.ports)
        self.assertEqual(["JP5"], [one.id for one in found.options])
        told = [words.partition(":")[0] for words in found.problems]
        self.assertEqual([f"Setting {n}" for n in (1, 2, 3, 4, 6, 7, 8)], told)

    @settings(max_examples=150, deadline=None)
    @given(st.lists(WORDS, max_size=24))
    def test_no_line_breaks_it(self, words: list[str]) -> None:
        read_setting_lines(" ".join(words), BOARD.ports)

    @settings(max_examples=80, deadline=None)
    @given(st.sampled_from(("top", "left", "bottom", "right")), st.integers(0, 200),
           st.integers(1, 40), st.booleans(), st.integers(1, 9),
           st.sampled_from((0, 7.5, 30)), st.booleans())  # fmt: skip
    def test_places_said_are_the_places_read(
        self, edge, first, step, turned, count, inset, across
    ) -> None:
        names = [f"IN {n}" for n in range(count)]
        places = {
            name: PortPlace(edge=edge, at_mm=first + n * step / 2, reversed=turned,
                            inset_mm=inset, across=across)
            for n, name in enumerate(names)
        }  # fmt: skip
        self.assertEqual(places, read_places(places_in_words(names, places), names))

    def test_places_that_are_none(self) -> None:
        for text in ("top or left, from 3", "bottom", "right, from −5 mm, every 9", "up, from 3",
                     "top, from 3, every 2, −4 mm inside"):  # fmt: skip
            with self.subTest(text), self.assertRaises(Problem):
                read_places(text, ("A", "B"))
        self.assertEqual(25.4, read_places("left at 1 in", ("A",))["A"].at_mm)
