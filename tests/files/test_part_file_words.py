"""What a part file says wrongly is told with the words that may stand there."""

import unittest

from vervain.files.part_files import decode_parts
from vervain.files.problems import FileProblem

GOOD = """[[part]]
id = "a"
kind = "controller"
title = "x"
[[part.ports]]
id = "P"
kind = "feed in"
end = "device"
pins = [{ name = "24V", function = "plus", electrical = { type = "feed in", v_min_v = 1, v_max_v = 3 } }]
"""  # noqa: E501 - as one writes it


class Remedies(unittest.TestCase):
    def test_the_nearest_word_or_all_of_them(self) -> None:
        decode_parts(GOOD, "good")
        for old, new, where, remedy in (
            ('"controller"', '"contoller"', "part[0].kind (a)", "Did you mean “controller”?"),
            ('"device"', '"zzz"', "part[0].ports[0].end (a)", "It may be host, device, through."),
            ("title", "tittle", "part[0] (a)", "Did you mean “title”?"),
            ("v_min_v", "v_min", "part[0].ports[0].pins[0].electrical (a)", "“v_min_v”?"),
            ('type = "feed in"', 'type = "feedin"', "electrical.type", "Did you mean “feed in”?"),
            ('end = "device"\n', "", "part[0].ports[0] (a)", "It may be host, device, through."),
            ("v_min_v = 1", 'v_min_v = "1"', "v_min_v", "wants a number, not a word"),
            ("v_min_v = 1", "v_min_v = -1", "v_min_v", "must be >= 0"),
        ):
            with self.subTest(new), self.assertRaises(FileProblem) as caught:
                decode_parts(GOOD.replace(old, new, 1), "f")
            self.assertIn(where, str(caught.exception))
            self.assertIn(remedy, str(caught.exception))
