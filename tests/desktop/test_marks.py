"""No meaning by colour alone: in one grey for all colours, marks that differ look different."""

import unittest
from collections.abc import Callable
from dataclasses import replace
from itertools import combinations

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QImage, QPainter

from vervain.desktop.app import make_application
from vervain.desktop.shared.wire_painting import CONSEQUENCE_COLOURS, draw_count, draw_mark
from vervain.desktop.stages.bench.step_list import MARKS, draw_state
from vervain.desktop.theme import NIGHT, PAPER, Theme, use

SIZE = 40


def in_greys(theme: Theme) -> Theme:
    """A theme as somebody sees it who tells no colours apart: what has a colour is one grey."""
    grey = theme.faded
    return replace(
        theme, accent=grey, good=grey, doubt=grey, doubt_text=grey, bad=grey, wash=theme.paper
    )


class Marks(unittest.TestCase):
    def setUp(self) -> None:
        make_application()
        self.addCleanup(use, PAPER, 1.0)

    def drawn(self, draw: Callable[[QPainter], object]) -> QImage:
        image = QImage(SIZE, SIZE, QImage.Format.Format_RGB32)
        image.fill(0xFFFFFF)
        painter = QPainter(image)
        draw(painter)
        painter.end()
        return image

    def test_marks_of_one_family_differ_without_their_colours(self) -> None:
        middle = QPointF(SIZE / 2, SIZE / 2)
        families: dict[str, dict[str, Callable[[QPainter], object]]] = {
            "state of a device": {
                state: lambda p, s=state: draw_mark(p, middle, s)
                for state in ("loose", "placed", "wired", "proven")
            },
            "worst finding": {
                worst: lambda p, w=worst: draw_count(p, 30, 20, 7, w)
                for worst in CONSEQUENCE_COLOURS
            },
            "step at the bench": {
                state: lambda p, s=state: draw_state(p, middle, s, False)
                for state in (*MARKS, "open")
            }
            | {"held": lambda p: draw_state(p, middle, "open", True)},
        }
        for theme in (PAPER, NIGHT):
            use(in_greys(theme), 1.0)
            for family, marks in families.items():
                images = {name: self.drawn(draw) for name, draw in marks.items()}
                for one, other in combinations(images, 2):
                    with self.subTest(f"{theme.name}, {family}: {one} and {other}"):
                        self.assertNotEqual(images[one], images[other])
