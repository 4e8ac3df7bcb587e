"""Part files written: short and whole for new parts; what did not change stays as it is written."""

import random
import tempfile
import unittest
from pathlib import Path

from msgspec.structs import replace

from vervain.catalogue.part_figures import figures, with_figures
from vervain.data import FOLDER
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.part_writing import part_text, updated_text
from vervain.files.shelf import read_shelf, save_own_part
from vervain.model.part import Part

FILES = sorted((FOLDER / "parts").glob("*.toml"))
PARTS = tuple(shipped_shelf().parts.values())
BY_HAND = """# my own boards
[[part]]
id = "my-board"   # do not rename
kind = "controller"
title = "Board"
joined = ["0V"]   # one copper area

[[part.ports]]
ids = ["IN 1", "IN 2", "IN 3"]   # along the lower edge
kind = "digital input"
end = "host"
at_mm = 10
step_mm = 12
pins = [
  # as the manual has it
  { name = "IN", function = "signal", electrical = { type = "logic input", high_min_v = 11, low_max_v = 5, max_v = 30 } },
  { name = "0V", function = "zero" },
]
"""  # noqa: E501


def comments(text: str) -> set[str]:
    return {line.partition("#")[2].strip() for line in text.splitlines() if "#" in line}


class Written(unittest.TestCase):
    def test_every_shipped_part_is_written_short_and_read_again(self) -> None:
        lines = 0
        for part in PARTS:
            text = part_text(part)
            lines += len(text.splitlines())
            self.assertEqual((part,), decode_parts(text, "x").part, part.id)
        by_hand = [
            len(p.read_text("utf-8").splitlines()) for p in (FOLDER / "parts").glob("*.toml")
        ]
        self.assertLess(lines, 1.5 * sum(by_hand), "about as short as by hand")

    def test_a_change_by_hand_written_text_leaves_the_rest_as_it_is(self) -> None:
        part = decode_parts(BY_HAND, "x").part[0]
        figure = next(f for f in figures(part) if f.unit == "V" and f.value == 30)
        changed = with_figures(part, [(figure, 36.0)])
        text = updated_text(BY_HAND, replace(changed, revision=2))
        self.assertEqual(BY_HAND.replace("max_v = 30", "max_v = 36.0"), text.replace(
            "\nrevision = 2", ""))  # fmt: skip
        moved = tuple(replace(p, at_mm=p.at_mm + n * n) for n, p in enumerate(part.ports))
        for other in (replace(part, ports=moved), replace(part, ports=part.ports[:2], inside=())):
            text = updated_text(BY_HAND, other)
            self.assertEqual((other,), decode_parts(text, "x").part)
            self.assertIn("do not rename", text)

    def test_changes_of_any_figure_keep_the_comments_and_the_other_parts(self) -> None:
        seed = random.randrange(10**6)
        chance = random.Random(seed)
        for _ in range(12):
            text = chance.choice([path.read_text("utf-8") for path in FILES])
            found = decode_parts(text, "x").part
            if not found:
                continue
            part = chance.choice(found)
            numbers = [f for f in figures(part) if isinstance(f.value, float) and f.value]
            if not numbers:
                continue
            figure = chance.choice(numbers)
            changed: Part = with_figures(part, [(figure, figure.value * 1.01)])
            with self.subTest(seed=seed, part=part.id, figure=figure.key):
                after = updated_text(text, changed)
                known = {p.id: p for p in decode_parts(after, "x").part}
                self.assertEqual({**{p.id: p for p in found}, part.id: changed}, known)
                self.assertLessEqual(comments(text), comments(after))

    def test_a_part_in_a_file_of_several_is_changed_there(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            text = f"{BY_HAND}\n{part_text(replace(PARTS[0], id='my-other'))}"
            (folder / "all-of-mine.toml").write_text(text, "utf-8")
            shelf = read_shelf(folder)
            save_own_part(replace(shelf.part("my-board"), title="Better"), folder)
            again = read_shelf(folder)
            self.assertEqual((shelf.own_ids, ()), (again.own_ids, again.problems))
            self.assertEqual("Better", again.part("my-board").title)
            self.assertEqual(["all-of-mine.toml"], [path.name for path in folder.iterdir()])
