"""A part like another one: its figures, changed; and what a part leaves open."""

import random
import unittest

import msgspec

from vervain.catalogue.part_doubts import doubts
from vervain.catalogue.part_figures import (
    figure_text,
    figures,
    read_figure,
    with_figures,
)
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.part_writing import part_text
from vervain.model.part import Part
from vervain.model.problem import Problem

PARTS = tuple(shipped_shelf().parts.values())


def leaves(value: object, path: str = "") -> dict[str, object]:
    """Every plain value of a part by its place."""
    if isinstance(value, msgspec.Struct):
        items = [(name, getattr(value, name)) for name in value.__struct_fields__]
    elif isinstance(value, tuple):
        items = [(str(number), item) for number, item in enumerate(value)]
    else:
        return {path: value}
    return {k: v for name, item in items for k, v in leaves(item, f"{path}.{name}").items()}


class Figures(unittest.TestCase):
    def figure(self, part: Part, where: str, words: str):
        return next(f for f in figures(part) if f.where.startswith(where) and f.words == words)

    def test_what_is_typed_as_it_stands_changes_nothing(self) -> None:
        for part in PARTS:
            same = [(f, read_figure(f, figure_text(f.value))) for f in figures(part)]
            self.assertEqual(part, with_figures(part, same))

    def test_a_figure_changes_at_its_places_and_nowhere_else(self) -> None:
        chance = random.Random(4)
        for part in PARTS:
            numbers = [f for f in figures(part) if isinstance(f.value, float) and f.value > 0]
            for figure in chance.sample(numbers, min(3, len(numbers))):
                changed = with_figures(part, [(figure, figure.value * 1.01)])
                before, after = leaves(part), leaves(changed)
                places = {k for k in before if before[k] != after.get(k)}
                self.assertEqual({"." + ".".join(map(str, p)) for p in figure.paths}, places)
                self.assertEqual(changed, decode_parts(part_text(changed), "x").part[0])

    def test_alike_ports_are_asked_once(self) -> None:
        board = shipped_shelf().parts["tarn-mc5"]
        figure = self.figure(board, "IN 1", "high from")
        self.assertEqual(8, len(figure.paths))
        self.assertEqual("IN 1, IN to IN 8, IN (8)", figure.where)

    def test_what_is_typed_is_read_with_its_unit_or_refused(self) -> None:
        sensor = shipped_shelf().parts["larkmoor-ip12"]
        self.assertEqual(4.5, read_figure(self.figure(sensor, "LEADS, +", "works from"), "4500 mV"))
        drives = self.figure(sensor, "LEADS, OUT", "drives")
        self.assertEqual("NPN", read_figure(drives, "npn"))
        colour = self.figure(sensor, "LEADS, OUT", "colour")
        self.assertEqual("WH", read_figure(colour, "white"))
        for figure, typed in (
            (drives, "sideways"), (colour, "loud"),
            (self.figure(sensor, "LEADS, +", "takes"), "12 V"),
            (self.figure(sensor, "LEADS, +", "takes"), "5e9"),
        ):  # fmt: skip
            with self.assertRaises(Problem):
                read_figure(figure, typed)
        with self.assertRaises(Problem) as caught:
            board = shipped_shelf().parts["tarn-mc5"]
            with_figures(board, [(self.figure(board, "IN 1", "high from"), None)])
        self.assertEqual("IN 1, IN to IN 8, IN (8)", caught.exception.place)


HEAD = '[[part]]\nid = "a"\nkind = "controller"\ntitle = "A"\n'
PORT = '[[part.ports]]\nid = "P"\nkind = "digital input"\nend = "host"\n'
INPUT = '{ name = "S", function = "signal", electrical = { type = "logic input", %s } }'


class Doubts(unittest.TestCase):
    def told(self, text: str) -> str:
        return "; ".join(" ".join(d) for d in doubts(decode_parts(text, "x").part[0]))

    def test_the_shelf_leaves_nothing_open(self) -> None:
        self.assertEqual([], [(p.id, *d) for p in PARTS for d in doubts(p)])

    def test_what_is_left_open_is_told_at_its_place(self) -> None:
        plain = '{ name = "S", function = "signal" }'
        levels = "high_min_v = %s, low_max_v = %s, max_v = 5"
        cases = (
            (f"{PORT}pins = [{plain}]", "P S has no levels"),
            (f"{PORT}pins = [{INPUT % (levels % (2, 0.8))}]", ""),
            (f"{PORT}pins = [{INPUT % (levels % (0.8, 2))}]", "low up to 2 V and high from 0.8 V"),
            (f"{PORT}pins = [{INPUT % (levels % (6, 2))}]", "bears only 5 V"),
            (f'{PORT}connector = "crmp-2.5-1"\npins = [{INPUT % (levels % (2, 0.8))}]', "“crimp”"),
            (
                f'{PORT}connector = "crimp-2.5-1"\npins = [{INPUT % (levels % (2, 0.8))}, '
                '{ name = "0V", function = "zero" }]',
                "2 pins in 1 ways",
            ),
            (
                '[[part.options]]\nid = "current_pek_a"\ntitle = "Current"\nunit = "A"\n'
                f"{PORT}pins = [{INPUT % (levels % (2, 0.8))}]",
                "“current_peak_a”",
            ),
        )
        for text, words in cases:
            with self.subTest(words):
                told = self.told(HEAD + text)
                self.assertIn(words, told)
                self.assertEqual(bool(words), bool(told))
