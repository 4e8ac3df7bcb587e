"""Turned boards against geometry: where each port and its pin 1 are after the board was turned."""

import itertools
import unittest

from vervain.edits.device_edits import set_lie
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.orientation import TURNS, as_it_lies
from vervain.model.part import Board, Part, Port
from vervain.ports.occupancy import boards, lying_part
from vervain.queries.machine_queries import Queries

BOARDS = [part for part in shipped_shelf().parts.values() if part.board is not None]
ALONG = {"top": (1, 0), "bottom": (1, 0), "left": (0, 1), "right": (0, 1)}


def spot(port: Port, board: Board) -> tuple[float, float]:
    """The middle of a port on its board, from the upper left corner."""
    return {
        "top": (port.at_mm, 0.0),
        "bottom": (port.at_mm, board.height_mm),
        "left": (0.0, port.at_mm),
        "right": (board.width_mm, port.at_mm),
    }[port.edge]


def pin_way(port: Port) -> tuple[int, int]:
    """The direction from pin 1 to the last pin."""
    x, y = ALONG[port.edge]
    return (-x, -y) if port.reversed else (x, y)


def turned(part: Part, quarters: int, over: bool) -> list[tuple[str, tuple, tuple]]:
    """What geometry says: each port's middle and the way of its pins after the movement."""
    board = part.board
    width, height = board.width_mm, board.height_mm
    found = []
    for port in part.ports:
        (x, y), (dx, dy) = spot(port, board), pin_way(port)
        w, h = width, height
        if over:
            x, dx = w - x, -dx
        for _ in range(quarters):
            x, y, dx, dy, w, h = h - y, x, -dy, dx, h, w
        found.append((port.id, (round(x, 6), round(y, 6)), (dx, dy)))
    return found


class Turning(unittest.TestCase):
    def test_every_port_is_where_geometry_puts_it(self) -> None:
        for part, turn, over in itertools.product(BOARDS, TURNS, (False, True)):
            lying = as_it_lies(part, turn, over)
            got = [
                (p.id, tuple(round(v, 6) for v in spot(p, lying.board)), pin_way(p))
                for p in lying.ports
            ]
            with self.subTest(f"{part.id} {turn} {over}"):
                self.assertEqual(turned(part, turn // 90, over), got)

    def test_four_quarters_and_twice_over_are_nothing(self) -> None:
        for part in BOARDS:
            again = part
            for _ in range(4):
                again = as_it_lies(again, 90, False)
            self.assertEqual(part.ports, again.ports)
            self.assertEqual(part.ports, as_it_lies(as_it_lies(part, 0, True), 0, True).ports)
            self.assertEqual(part, as_it_lies(part, 0, False))

    def test_only_the_face_changes_and_nothing_that_is_joined(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        lying = set_lie(machine, "K1", 270, True)
        self.assertEqual(machine.hookups, lying.hookups)
        queries = Queries(lying)
        self.assertEqual(boards(Queries(machine)), boards(queries))
        part, own = lying_part(queries, "K1"), queries.part_of("K1")
        self.assertEqual([p.id for p in own.ports], [p.id for p in part.ports])
        self.assertEqual([p.pins for p in own.ports], [p.pins for p in part.ports])
        self.assertIsNone(lying_part(queries, "K99"))
