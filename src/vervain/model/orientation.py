"""Boards as they lie on the bench: turned by quarter turns, or turned over.

A port keeps its pins and its name; what changes is its edge, its place along it, and the end that
pin 1 is at, so that left on the screen is left on the bench.
"""

from collections.abc import Callable
from typing import Literal, TypeVar

from msgspec.structs import replace

from vervain.model.part import Board, Drawn, Edge, Indicator, Option, Part, Port

Lying = TypeVar("Lying", Drawn, Indicator)

Turn = Literal[0, 90, 180, 270]
TURNS: tuple[Turn, ...] = (0, 90, 180, 270)
# A quarter turn clockwise: the new edge, and whether the order along it is turned round.
QUARTER: dict[Edge, tuple[Edge, bool]] = {
    "top": ("right", False),
    "right": ("bottom", True),
    "bottom": ("left", False),
    "left": ("top", True),
}
# Turned over about its upright middle line.
OVER: dict[Edge, tuple[Edge, bool]] = {
    "top": ("top", True),
    "bottom": ("bottom", True),
    "left": ("right", False),
    "right": ("left", False),
}


def _length_mm(board: Board, edge: Edge) -> float:
    """How long an edge of a board is."""
    return board.width_mm if edge in ("top", "bottom") else board.height_mm


def _moved(port: Port, board: Board, moves: dict[Edge, tuple[Edge, bool]]) -> Port:
    edge, turned = moves[port.edge]
    at_mm = _length_mm(board, port.edge) - port.at_mm if turned else port.at_mm
    # A row across its edge keeps the end that is at the edge.
    is_reversed = port.reversed != (turned and not port.across)
    return replace(port, edge=edge, at_mm=max(0.0, at_mm), reversed=is_reversed)


def as_it_lies(part: Part, turned_deg: Turn, turned_over: bool) -> Part:
    """The part with its board and ports as they lie; the same where it has no board."""
    board = part.board
    if board is None or (not turned_deg and not turned_over):
        return part
    ports, options, lamps = part.ports, part.options, part.indicators
    if turned_over:
        ports = tuple(_moved(port, board, OVER) for port in ports)
        options = _with_options(options, board, _over)
        lamps = tuple(_over(lamp, board) for lamp in lamps)
    for _ in range(turned_deg // 90):
        ports = tuple(_moved(port, board, QUARTER) for port in ports)
        options = _with_options(options, board, _quarter)
        lamps = tuple(_quarter(lamp, board) for lamp in lamps)
        board = Board(width_mm=board.height_mm, height_mm=board.width_mm)
    return replace(part, board=board, ports=ports, options=options, indicators=lamps)


def _over(drawn: Lying, board: Board) -> Lying:
    """Where a jumper or a lamp lies on a board that is turned over."""
    return replace(drawn, x_mm=max(0.0, board.width_mm - drawn.x_mm))


def _quarter(drawn: Lying, board: Board) -> Lying:
    """Where it lies after a quarter turn clockwise: (x, y) goes to (height - y, x)."""
    return replace(drawn, x_mm=max(0.0, board.height_mm - drawn.y_mm), y_mm=drawn.x_mm)


def _with_options(
    options: tuple[Option, ...], board: Board, move: Callable[[Drawn, Board], Drawn]
) -> tuple[Option, ...]:
    return tuple(
        option if option.drawn is None else replace(option, drawn=move(option.drawn, board))
        for option in options
    )
