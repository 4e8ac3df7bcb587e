"""A described board on which ports are moved by mouse and keys, over a photograph of the board."""

from collections.abc import Iterable
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QEvent, QLineF, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import (
    QImageReader,
    QKeyEvent,
    QKeySequence,
    QMouseEvent,
    QPainter,
    QPixmap,
    QTransform,
)

from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_places import EDGE_WORDS, PortPlace, place_of
from vervain.desktop.stages.machine.board_picture import DEEP, BoardPicture
from vervain.desktop.theme import looks
from vervain.model.orientation import as_it_lies
from vervain.model.part import Board, Edge, Part, Port

MOST_PX = 3000
STEP_MM, LARGE_STEP_MM, GRID_MM = 1.0, 5.0, 0.5
Places = dict[str, PortPlace]
HOW = (
    "Arrows move it, Shift its whole group, E to the next edge, R pin 1 to the other end, "
    "X across its edge, M mirrors the board, Ctrl+Z takes back, Page keys go on."
)


def places_of(ports: Iterable[Port]) -> Places:
    """Where ports lie now."""
    return {port.id: place_of(port) for port in ports}


class BoardEditor(BoardPicture):
    """The picture of a board whose ports can be taken hold of. `placed` tells where all of them lie
    after a move; `said` what is chosen, and how it is moved.
    """

    placed = pyqtSignal(object)
    said = pyqtSignal(str)
    picked = pyqtSignal(str)
    # The board's width was measured between two points of the photograph: in pixels of the photo.
    spanned = pyqtSignal(object)

    def __init__(self, part: Part) -> None:
        super().__init__(part)
        self.groups: tuple[PortGroup, ...] = ()
        self.before: list[Places] = []
        self.held: str | None = None
        self.photo: QPixmap | None = None
        # The photo's points that are the board's upper corners, once they were clicked.
        self.corners: list[QPointF] = []
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_part(self, part: Part, groups: tuple[PortGroup, ...]) -> None:
        """Shows another version of the board."""
        self.part, self.groups = part, groups
        self.setAccessibleName(f"{part.title}, {len(part.ports)} ports")
        if self.chosen is not None and part.port(self.chosen) is None:
            self.chosen = None
        self.update()

    # What is done.

    def choose(self, name: str | None) -> None:
        """Takes a port as the one that is moved."""
        self.chosen = name
        port = self.part.port(name) if name else None
        self.picked.emit(name or "")
        if port is not None:
            ends = ("outer", "inner") if port.across else ("left or upper", "right or lower")
            inside = f", {port.inset_mm:g} mm inside" if port.inset_mm else ""
            self.said.emit(
                f"{port.id}: {port.edge} edge, middle at {port.at_mm:g} mm{inside}, pin 1 at the "
                f"{ends[port.reversed]} end. {HOW}"
            )
            self.setAccessibleDescription(f"{port.id}, {port.edge} edge, {port.at_mm:g} mm")
        self.update()

    def _fellows(self, name: str, whole_group: bool) -> tuple[str, ...]:
        group = next((group for group in self.groups if name in group.ports), None)
        return group.ports if group is not None and whole_group else (name,)

    def _move(
        self, names: Iterable[str], edge: Edge | None = None, along_mm: float = 0.0,
        inwards_mm: float = 0.0,
    ) -> None:  # fmt: skip
        """Moves ports along their edge, away from it, or to another one."""
        places = places_of(self.part.ports)
        for name in names:
            old = places[name]
            there = edge or old.edge
            at_mm = max(0.0, min(self._edge_mm(there), old.at_mm + along_mm))
            inset_mm = max(0.0, min(self._depth_mm(there), old.inset_mm + inwards_mm))
            places[name] = replace(
                old, edge=there, at_mm=round(at_mm, 3), inset_mm=round(inset_mm, 3)
            )
        self._place(places)

    def _turn(self, names: Iterable[str], *, across: bool = False) -> None:
        """Turns pin 1 of ports to the other end, or their rows across the edge and back."""
        places = places_of(self.part.ports)
        for name in names:
            old = places[name]
            places[name] = replace(
                old, reversed=old.reversed == across, across=old.across != across
            )
        self._place(places)

    def _edge_mm(self, edge: Edge) -> float:
        board = self.part.board or Board(width_mm=1, height_mm=1)
        return board.width_mm if edge in ("top", "bottom") else board.height_mm

    def _depth_mm(self, edge: Edge) -> float:
        """How far inside a port can lie from an edge."""
        return self._edge_mm("left" if edge in ("top", "bottom") else "top")

    def _place(self, places: Places) -> None:
        self.before.append(places_of(self.part.ports))
        self.placed.emit(places)
        self.choose(self.chosen)

    def mirror(self) -> None:
        """Turns the board over: as it is seen from its other side."""
        self._place(places_of(as_it_lies(self.part, 0, turned_over=True).ports))

    def take_back(self) -> None:
        """Takes the last move back."""
        if self.before:
            self.placed.emit(self.before.pop())
            self.choose(self.chosen)

    def event(self, event: QEvent | None) -> bool:
        # Ctrl+Z takes back a move here, not a step of the machine.
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and event.matches(QKeySequence.StandardKey.Undo)
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, shift = Qt.Key(event.key()), event.modifiers() & Qt.KeyboardModifier.ShiftModifier
        control = event.modifiers() & Qt.KeyboardModifier.ControlModifier
        names = [port.id for port in self.part.ports]
        if key in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp, Qt.Key.Key_Home) and names:
            at = names.index(self.chosen) if self.chosen in names else -1
            by = {Qt.Key.Key_PageDown: 1, Qt.Key.Key_PageUp: -1}.get(key, -at)
            self.choose(names[(at + by) % len(names)])
        elif key == Qt.Key.Key_M:
            self.mirror()
        elif key == Qt.Key.Key_Z and control:
            self.take_back()
        elif self.chosen is None or not self._key_moves(key, bool(shift), bool(control)):
            super().keyPressEvent(event)

    def _key_moves(self, key: Qt.Key, shift: bool, control: bool) -> bool:
        """Moves the chosen port, or its group, as a key says; whether it said anything."""
        assert self.chosen is not None
        port = self.part.port(self.chosen)
        names = self._fellows(self.chosen, shift)
        by_mm = LARGE_STEP_MM if control else STEP_MM
        sideways = {Qt.Key.Key_Left: -by_mm, Qt.Key.Key_Right: by_mm}
        upright = {Qt.Key.Key_Up: -by_mm, Qt.Key.Key_Down: by_mm}
        if port is None:
            return False
        along, inwards = sideways, upright
        if port.edge in ("left", "right"):
            along, inwards = upright, sideways
        if key in along:
            self._move(names, along_mm=along[key])
        elif key in inwards:
            away = -1 if port.edge in ("bottom", "right") else 1
            self._move(names, inwards_mm=away * inwards[key])
        elif key == Qt.Key.Key_E:
            after = EDGE_WORDS[(EDGE_WORDS.index(port.edge) + 1) % len(EDGE_WORDS)]
            self._move(names, after)
        elif key in (Qt.Key.Key_R, Qt.Key.Key_X):
            self._turn(names, across=key == Qt.Key.Key_X)
        else:
            return False
        return True

    # The mouse.

    def _port_under(self, at: QPointF) -> str | None:
        reach = looks.px(5)
        for port in self.part.ports:
            if self.port_box(port).adjusted(-reach, -reach, reach, reach).contains(at):
                return port.id
        return None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus()
        if self.is_spanning:
            self._span(event.position())
            return
        self.held = self._port_under(event.position())
        self.choose(self.held)
        if self.held is not None:
            self.before.append(places_of(self.part.ports))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        if self.held is None:
            over = self._port_under(event.position())
            shape = Qt.CursorShape.PointingHandCursor if over else Qt.CursorShape.ArrowCursor
            self.setCursor(Qt.CursorShape.CrossCursor if self.is_spanning else shape)
            return
        shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        self.placed.emit(self._dragged(self.held, event.position(), shift))
        self.choose(self.held)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self.held = None
        if self.before and self.before[-1] == places_of(self.part.ports):
            self.before.pop()

    def _dragged(self, name: str, at: QPointF, whole_group: bool) -> Places:
        """Where ports lie when one is pulled to a point, on a grid: at the edge that is near, else
        inside the board, seen from the edge that it was at.
        """
        outline, scale = self.outline(), self.px_per_mm()
        places = places_of(self.part.ports)
        far: dict[Edge, float] = {
            "top": abs(at.y() - outline.top()), "bottom": abs(at.y() - outline.bottom()),
            "left": abs(at.x() - outline.left()), "right": abs(at.x() - outline.right()),
        }  # fmt: skip
        old = places[name]
        # The edge on which it is keeps it, unless another one is clearly nearer.
        edge = min(far, key=lambda e: far[e] + (0 if e == old.edge else looks.px(8)))
        inset_mm = 0.0
        if outline.contains(at) and far[edge] > looks.px(DEEP) * 2 and scale:
            edge = old.edge
            inset_mm = round(far[edge] / scale / GRID_MM) * GRID_MM
        along = at.x() - outline.left() if edge in ("top", "bottom") else at.y() - outline.top()
        wanted = min(self._edge_mm(edge), max(0.0, along / scale)) if scale else 0.0
        at_mm = round(wanted / GRID_MM) * GRID_MM
        for other in self._fellows(name, whole_group):
            was = places[other]
            there_mm = max(0.0, at_mm + was.at_mm - old.at_mm)
            places[other] = replace(was, edge=edge, at_mm=there_mm, inset_mm=inset_mm)
        return places

    # The photograph.

    def lay_under(self, path: Path) -> bool:
        """Lays a photograph or a page under the board; whether it could be read."""
        found = read_picture(path)
        if found is None:
            return False
        self.photo, self.corners = found, []
        self.said.emit("Click the board's upper left corner on the photograph.")
        self.update()
        return True

    def without_photo(self) -> None:
        """Takes the photograph away."""
        self.photo, self.corners = None, []
        self.update()

    @property
    def is_spanning(self) -> bool:
        """Whether the corners of the board are still to be clicked on the photograph."""
        return self.photo is not None and len(self.corners) < 2

    def _photo_shown(self) -> QTransform:
        """From the photo's pixels to the widget: whole while its corners are asked for, then so
        that they lie on the board's.
        """
        assert self.photo is not None
        if self.is_spanning:
            factor = min(self.width() / self.photo.width(), self.height() / self.photo.height())
            return QTransform.fromScale(factor, factor)
        outline, (first, second) = self.outline(), self.corners
        seen = QLineF(first, second)
        factor = outline.width() / seen.length()
        return (
            QTransform()
            .translate(outline.left(), outline.top())
            .rotate(seen.angle())
            .scale(factor, factor)
            .translate(-first.x(), -first.y())
        )

    def _span(self, at: QPointF) -> None:
        """Takes a corner of the board on the photograph."""
        inverse, _ = self._photo_shown().inverted()
        spot = inverse.map(at)
        if self.corners and QLineF(self.corners[0], spot).length() < 4:
            self.said.emit("That is the same corner. Click the upper right one.")
            return
        self.corners.append(spot)
        if self.is_spanning:
            self.said.emit("Now its upper right corner.")
        else:
            self.said.emit("Now say how wide the board is; then pull the ports onto the photo.")
            self.spanned.emit(self.corners)
        self.update()

    def paint_middle(self, painter: QPainter, outline: QRectF) -> None:
        if self.photo is None:
            super().paint_middle(painter, outline)
            return
        painter.save()
        if self.is_spanning:
            painter.fillRect(self.rect(), looks.colour("sheet"))
        else:
            painter.setOpacity(0.75)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.setTransform(self._photo_shown(), combine=True)
        painter.drawPixmap(0, 0, self.photo)
        painter.restore()


def read_picture(path: Path) -> QPixmap | None:
    """A photograph, a scan, or the first page of a PDF; None where it is none of these."""
    if path.suffix.casefold() == ".pdf":
        from PyQt6.QtPdf import QPdfDocument

        document = QPdfDocument(None)
        if document.load(str(path)) != QPdfDocument.Error.None_ or document.pageCount() < 1:
            return None
        size = document.pagePointSize(0)
        scale = min(4.0, MOST_PX / max(1.0, size.width(), size.height()))
        image = document.render(0, (size * scale).toSize())
        return None if image.isNull() else QPixmap.fromImage(image)
    reader = QImageReader(str(path))
    reader.setAutoTransform(True)
    pixels = reader.size()
    if pixels.isValid() and max(pixels.width(), pixels.height()) > MOST_PX:
        reader.setScaledSize(pixels.scaled(MOST_PX, MOST_PX, Qt.AspectRatioMode.KeepAspectRatio))
    image = reader.read()
    return None if image.isNull() else QPixmap.fromImage(image)
