"""The door card: one page of a board, or of a stack, for inside the lid, as vector PDF.

The board's face as it lies, and under it every used port with its device, pin by pin with colour
and label, and what is set there.
"""

from pathlib import Path
from typing import Literal

from PyQt6.QtCore import QMarginsF, QRectF, Qt
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter

from vervain.desktop.shared.wire_painting import draw_bar, elided
from vervain.desktop.stages.ports.board_layout import is_slot
from vervain.desktop.stages.ports.board_painting import Scene, paint_board
from vervain.desktop.stages.ports.picture_layout import lay_out
from vervain.desktop.stages.ports.shapes import BoardShape, Picture
from vervain.desktop.theme import PAPER, looks, narrow_family
from vervain.exports.stamp import stamp_of
from vervain.files.problems import FileProblem
from vervain.harness.labels import conductor_labels
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.part import Port
from vervain.ports.occupancy import seen_at, stacks, who_sits_at
from vervain.queries.machine_queries import Queries
from vervain.tables.setting_row import SettingRow
from vervain.tables.settings_sheet import settings_sheet

Paper = Literal["a4", "letter"]
PAPERS = {"a4": QPageSize.PageSizeId.A4, "letter": QPageSize.PageSizeId.Letter}
MARGIN_MM, DOTS_PER_INCH = 10.0, 144
# The page is drawn as if it were so many pixels wide at the screen's scale.
WIDE = 1080.0
ROW, GAP, FOOT = 34.0, 10.0, 26.0
# How much of the height the boards take, and of the width where they would be higher.
MOST_HIGH, NARROWER = 0.46, (1.0, 0.85, 0.75)
MIDDLE = int(Qt.AlignmentFlag.AlignVCenter)


def with_cards(machine: Machine) -> tuple[str, ...]:
    """The devices that a door card is made for: everything with ports to plug into, and strips; of
    a stack the lowest board.
    """
    queries = Queries(machine)
    return tuple(stack[0] for stack in stacks(queries) if _has_more_than_a_motor(queries, stack))


def _has_more_than_a_motor(queries: Queries, stack: tuple[str, ...]) -> bool:
    """Whether a card would say more than that a driver drives its motor."""
    ports = [
        port for name in stack if (part := queries.part_of(name)) is not None
        for port in part.ports if port.end != "device" and port.kind != "motor phases"
    ]  # fmt: skip
    return bool(ports)


def write_door_card(machine: Machine, device: str, path: Path, paper: Paper = "a4") -> Path:
    """Writes the card of one device, with what is stacked on it. Raises `FileProblem` where it
    cannot be written.
    """
    queries = Queries(machine)
    stack = next((stack for stack in stacks(queries) if device in stack), None)
    if stack is None:
        raise FileProblem(str(path), f"{device} has no board with ports.")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.touch()
    except OSError as error:
        raise FileProblem(str(path), f"It cannot be written: {error.strerror}.") from None
    writer = QPdfWriter(str(path))
    writer.setPageSize(QPageSize(PAPERS[paper]))
    writer.setPageOrientation(QPageLayout.Orientation.Landscape)
    writer.setPageMargins(
        QMarginsF(MARGIN_MM, MARGIN_MM, MARGIN_MM, MARGIN_MM), QPageLayout.Unit.Millimeter
    )
    writer.setResolution(DOTS_PER_INCH)
    writer.setTitle(f"{machine.name}: {device}")
    before = looks.theme, looks.scale, looks.family
    looks.change(PAPER, 1.0, narrow_family())
    painter = QPainter(writer)
    try:
        factor = writer.width() / WIDE
        painter.scale(factor, factor)
        _draw(painter, queries, machine, stack, writer.height() / factor)
    finally:
        painter.end()
        looks.change(*before)
    return path


def _draw(
    painter: QPainter, queries: Queries, machine: Machine, stack: tuple[str, ...], height: float
) -> None:
    names = [f"{name}  {found.name}" for name in stack if (found := queries.device(name))]
    title = "   +   ".join(names)
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(19, bold=True))
    painter.drawText(QRectF(0, 0, WIDE * 0.44, 28), MIDDLE, elided(painter, title, WIDE * 0.44))
    painter.setFont(looks.font(11))
    painter.setPen(looks.colour("faded"))
    parts = [part for name in stack if (part := queries.part_of(name)) is not None]
    made = ", ".join(f"{part.maker} {part.model}".strip() for part in parts)
    right = QRectF(WIDE * 0.45, 0, WIDE * 0.55, 14)
    for words in (stamp_of(machine).line, made):
        shown = elided(painter, words, right.width())
        painter.drawText(right, MIDDLE | int(Qt.AlignmentFlag.AlignRight), shown)
        right.translate(0, 15)
    top = 34.0
    pictures = _beside(queries, stack, height * MOST_HIGH)
    wide = sum(picture.width for picture in pictures)
    high = max(picture.height for picture in pictures)
    shrink = min(1.0, height * MOST_HIGH / high)
    painter.save()
    painter.translate((WIDE - wide * shrink) / 2, top)
    painter.scale(shrink, shrink)
    for picture in pictures:
        everything = QRectF(-100, -100, picture.width + 200, picture.height + 200)
        for board in picture.boards:
            paint_board(painter, board, Scene(queries), everything)
        painter.translate(picture.width, 0)
    painter.restore()
    laid = [board for picture in pictures for board in picture.boards]
    _rows(painter, queries, laid, top + high * shrink + 8, height - FOOT)
    _foot(painter, queries, stack, height)


def _beside(queries: Queries, stack: tuple[str, ...], room: float) -> list[Picture]:
    """The boards of a stack beside each other, as wide as they are high enough for."""
    pictures: list[Picture] = []
    for part in NARROWER:
        width = WIDE / len(stack) * part
        pictures = [lay_out(queries, width, 1.0, only=name) for name in stack]
        if max(picture.height for picture in pictures) <= room:
            break
    return pictures


def _foot(painter: QPainter, queries: Queries, stack: tuple[str, ...], height: float) -> None:
    """What is set on the boards themselves, jumpers first, in one line."""
    rows = [r for r in settings_sheet(queries) if r.where in stack and r.port is None]
    several = len(stack) > 1
    words = "   ·   ".join(
        f"{row.where} {row.what}: {row.value}" if several else f"{row.what}: {row.value}"
        for row in rows
    )
    box = QRectF(0, height - FOOT + 4, WIDE, FOOT - 6)
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(11, bold=True))
    painter.drawText(box, MIDDLE, elided(painter, words, box.width()))


def _rows(
    painter: QPainter, queries: Queries, boards: list[BoardShape], top: float, height: float
) -> None:
    """The used ports in columns; smaller where they would not fit the page. What is stacked on top
    has rows of its own.
    """
    shown = {board.device for board in boards}
    used = []
    for board in boards:
        sat_at = {s.ref for s in board.ports if who_sits_at(queries, s.ref)}
        ordered = sorted(board.ports, key=lambda shape: shape.ref not in sat_at)
        used += [
            (board.device, shape.port)
            for shape in ordered
            if (shape.ref in sat_at or _has_conductor(queries, shape.ref, shape.port))
            and not (shape.port.kind == "header" and len(boards) > 1
                     and set(who_sits_at(queries, shape.ref)) <= shown)
        ]  # fmt: skip
    room = max(40.0, height - top - 6)
    columns = 3
    per_column = max(1, -(-len(used) // columns))
    squeeze = min(1.0, room / (per_column * ROW))
    width = (WIDE - GAP * (columns - 1)) / columns
    painter.save()
    painter.translate(0, top)
    painter.scale(1.0, squeeze)
    for number, (device, port) in enumerate(used):
        left = (number // per_column) * (width + GAP)
        box = QRectF(left, (number % per_column) * ROW, width, ROW)
        _row(painter, queries, PortRef(device=device, port=port.id), port, box)
    painter.restore()


def _has_conductor(queries: Queries, ref: PortRef, port: Port) -> bool:
    pins = (PinRef(device=ref.device, port=ref.port, pin=pin.id) for pin in port.pins)
    return any(seen_at(queries, pin) for pin in pins)


def _row(painter: QPainter, queries: Queries, ref: PortRef, port: Port, box: QRectF) -> None:
    """A port: its name, who sits there, its pins with colour and label, what is set."""
    painter.setPen(looks.colour("rule"))
    painter.drawLine(box.topLeft(), box.topRight())
    painter.setPen(looks.colour("ink"))
    painter.setFont(looks.font(10.5, bold=True))
    name = QRectF(box.left(), box.top(), 66, box.height() / 2)
    painter.drawText(name, MIDDLE, elided(painter, port.id, name.width()))
    painter.setFont(looks.font(10.5))
    sits = who_sits_at(queries, ref)
    who = ", ".join(f"{n} {d.name}" for n in sits if (d := queries.device(n)) is not None)
    rows = [r for r in settings_sheet(queries) if (r.device, r.port) == (ref.device, ref.port)]
    told = "; ".join(_said(r) for r in rows if r.group != "Outputs")
    upper = QRectF(box.left() + 70, box.top(), box.width() - 70, box.height() / 2)
    who = elided(painter, who, upper.width() * (0.5 if told else 1.0))
    painter.drawText(upper, MIDDLE, who)
    _told(painter, told, who, upper)
    if is_slot(port):
        driver = [r for r in settings_sheet(queries) if r.where in sits and r.group == "Drivers"]
        told = ";  ".join(map(_said, driver))
        _told(painter, told, "", box.adjusted(0, box.height() / 2, 0, 0))
        return
    painter.setPen(looks.colour("faded"))
    painter.setFont(looks.font(9.5))
    x = box.left()
    y = box.top() + box.height() / 2
    for pin in port.pins:
        for seen in seen_at(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id)):
            hookup = queries.hookup(seen.hookup)
            label = conductor_labels(queries, seen.hookup, seen.row)
            side = hookup is not None and hookup.a == ref
            text = (label.at_a if side else label.at_b) if label else ""
            words = f"{pin.text} {text}".strip()
            extent = painter.fontMetrics().horizontalAdvance(words) + 26
            if x + extent > box.right():
                return
            draw_bar(painter, QRectF(x, y + 2, 20, 11), seen.colour)
            painter.setPen(looks.colour("faded"))
            painter.setFont(looks.font(9.5))
            painter.drawText(QRectF(x + 22, y, extent, box.height() / 2), MIDDLE, words)
            x += extent + 4


def _said(row: SettingRow) -> str:
    plain = row.what.endswith(" gives") or row.what.startswith("Current")
    return row.value if plain else f"{row.what}: {row.value}"


def _told(painter: QPainter, told: str, who: str, upper: QRectF) -> None:
    """What is set, after who sits there, at the right; smaller where it is long."""
    taken = painter.fontMetrics().horizontalAdvance(who) + 10 if who else 0
    rest = upper.adjusted(taken, 0, 0, 0)
    painter.setPen(looks.colour("accent"))
    for size in (9.5, 8.5, 7.5):
        painter.setFont(looks.font(size))
        if painter.fontMetrics().horizontalAdvance(told) <= rest.width():
            break
    side = Qt.AlignmentFlag.AlignRight if who else Qt.AlignmentFlag.AlignLeft
    painter.drawText(
        rest, side | Qt.AlignmentFlag.AlignVCenter, elided(painter, told, rest.width())
    )
