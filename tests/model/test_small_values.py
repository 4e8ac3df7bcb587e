"""Small values that much else rests on: colours as codes and words, jumpers on turned boards."""

import unittest

from vervain.files.part_files import shipped_shelf
from vervain.model.colours import base_and_stripe, colour_words, is_colour, read_colour
from vervain.model.orientation import as_it_lies


class Colours(unittest.TestCase):
    def test_codes_of_one_and_two_colours(self) -> None:
        for code, known in (
            ("RD", True), ("WHBN", True), ("GNYE", True), ("RDX", False), ("XXRD", False),
            ("RDXX", False), ("", False), ("RDBNWH", False),
        ):  # fmt: skip
            self.assertEqual(known, is_colour(code), code)
        self.assertIsNone(base_and_stripe("RD")[1])
        self.assertEqual(["white", "brown"], [c.word for c in base_and_stripe("WHBN")])
        self.assertEqual("white with brown stripe", colour_words("WHBN"))
        self.assertEqual("green-yellow", colour_words("GNYE"))

    def test_colours_as_people_write_them(self) -> None:
        for text, code in (
            ("brown", "BN"), ("wht/brn", "WHBN"), ("white with brown stripe", "WHBN"),
            ("yellow/green", "GNYE"), ("rd", "RD"), ("b", None), ("with", None), ("", None),
            ("red green blue", None), ("stripe", None),
        ):  # fmt: skip
            self.assertEqual(code, read_colour(text), text)


class Jumpers(unittest.TestCase):
    def test_a_jumper_goes_round_with_its_board(self) -> None:
        part = shipped_shelf().parts["tarn-mc5"]
        width, height = part.board.width_mm, part.board.height_mm
        drawn = next(option.drawn for option in part.options if option.drawn is not None)

        def lies(deg: int, over: bool) -> tuple[float, float]:
            found = next(o.drawn for o in as_it_lies(part, deg, over).options if o.drawn)
            return round(found.x_mm, 6), round(found.y_mm, 6)

        x, y = drawn.x_mm, drawn.y_mm
        self.assertNotEqual(width / 2, x)
        self.assertEqual((x, y), lies(0, False))
        self.assertEqual((round(height - y, 6), x), lies(90, False))
        self.assertEqual((round(width - x, 6), round(height - y, 6)), lies(180, False))
        self.assertEqual((y, round(width - x, 6)), lies(270, False))
        self.assertEqual((round(width - x, 6), y), lies(0, True))
