"""The part shelf: parts under their headings, found by words and numbers, taken by key or mouse."""

from dataclasses import dataclass

from PyQt6.QtCore import QMimeData, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractScrollArea,
    QApplication,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
)

from vervain.catalogue.ratings import facts_in_words
from vervain.catalogue.search import search
from vervain.catalogue.shelf_groups import OWN_HEADING, shelf_groups
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.row_steps import row_after
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.wire_painting import draw_stripes, draw_triangle, elided
from vervain.desktop.stages.machine.lane_hand import LaneHand
from vervain.desktop.stages.machine.lane_view import PART_MIME
from vervain.desktop.stages.machine.part_field import PartField
from vervain.desktop.theme import looks
from vervain.edits.axis_edits import accepts
from vervain.files.shelf import ShelfContents
from vervain.model.part import Part
from vervain.queries.axis_places import Place
from vervain.queries.device_groups import group_of
from vervain.text.words import count_of

MIDDLE, RIGHT = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight


@dataclass(frozen=True)
class Row:
    """A heading with its count, or a part."""

    title: str
    count: int = 0
    part: Part | None = None


NOT_HERE = "Not on the shelf? Type its pin table; the colours follow."
NOT_FOUND = "Nothing like that on the shelf. Enter describes it: type its pin table."


class ShelfRows(QAbstractScrollArea):
    """The rows of the shelf; draws only those that are seen."""

    def __init__(self, session: Session, hand: LaneHand) -> None:
        super().__init__()
        self.session, self.hand = session, hand
        self.contents = ShelfContents()
        self.rows: list[Row] = []
        self.unfolded: set[str] = {"Switches and sensors"}
        self.filter = ""
        self.place: Place | None = None
        self.at_row = 0
        self._pressed_at: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Parts")
        self.voice = Voice(session, self, self.row_words)
        hand.changed.connect(self._repaint)
        session.selection_changed.connect(self._repaint)

    def fits_place(self, part: Part) -> bool:
        """Whether a part goes to the place that parts are looked for."""
        place = self.place
        if place is None:
            return True
        if place.role is not None:
            return accepts(part, place.role)
        return group_of(part) == place.lane

    def refresh(self) -> None:
        """Makes the rows anew from the shelf, the filter and the place that asks."""
        parts = tuple(part for part in self.contents.parts if self.fits_place(part))
        found = search(parts, self.filter)
        self.rows = []
        if self.filter.strip():
            self.rows.extend(Row(part.title, part=part) for part in found)
        else:
            for group in shelf_groups(found, self.contents.own_ids):
                self.rows.append(Row(group.title, count=len(group.parts)))
                if self.place is not None or group.title in self.unfolded:
                    self.rows.extend(Row(part.title, part=part) for part in group.parts)
        self.at_row = min(self.at_row, max(0, len(self.rows) - 1))
        self._set_range()
        self._repaint()

    def go_to_first_part(self) -> None:
        """The cursor goes to the first part."""
        self.at_row = next((n for n, row in enumerate(self.rows) if row.part), 0)
        self._choose()

    def height_of(self, row: Row) -> int:
        """Height of a row in pixels: a part has two lines."""
        return looks.px(39 if row.part is not None else 23)

    def _tops(self) -> list[int]:
        tops, top = [], 0
        for row in self.rows:
            tops.append(top)
            top += self.height_of(row)
        return [*tops, top]

    def _set_range(self) -> None:
        bar, viewport = self.verticalScrollBar(), self.viewport()
        if bar is not None and viewport is not None:
            bar.setRange(0, max(0, self._tops()[-1] - viewport.height()))
            bar.setPageStep(viewport.height())
            bar.setSingleStep(looks.px(22))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._set_range()

    def row_words(self) -> str:
        """What the row under the cursor is."""
        row = self.rows[self.at_row] if self.rows else None
        if row is None:
            return "No part"
        if row.part is not None:
            return f"{row.title}, {row.part.kind}"
        shown = "" if row.title in self.unfolded or self.place is not None else ", folded"
        return f"{row.title}, {count_of(row.count, 'part')}{shown}"

    def _repaint(self) -> None:
        self.voice.tell_soon()
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport, bar = self.viewport(), self.verticalScrollBar()
        if viewport is None or bar is None:
            return
        painter = QPainter(viewport)
        tops = self._tops()
        for number, row in enumerate(self.rows):
            top = tops[number] - bar.value()
            box = QRectF(0, top, viewport.width(), self.height_of(row))
            if box.bottom() < 0 or box.top() > viewport.height():
                continue
            if row.part is None:
                self._paint_heading(painter, box, row)
            else:
                self._paint_part(painter, box, row.part)
            if number == self.at_row and self.hasFocus():
                painter.setPen(looks.colour("accent"))
                painter.drawRect(box.adjusted(1, 0, -2, -1))
        if not self.rows:
            painter.setPen(looks.colour("faded"))
            where = QRectF(viewport.rect()).adjusted(14, 8, -14, 0)
            words = "No part answers that." if self.contents.parts else "Reading the shelf …"
            painter.drawText(where, int(Qt.TextFlag.TextWordWrap), words)

    def _paint_heading(self, painter: QPainter, box: QRectF, row: Row) -> None:
        is_open = self.place is not None or row.title in self.unfolded
        tip = QPointF(box.right() - looks.px(14), box.center().y() + looks.px(2))
        draw_triangle(painter, tip, looks.px(4), "down" if is_open else "right")
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        where = box.adjusted(looks.px(12), 0, -looks.px(50), 0)
        painter.drawText(where, int(MIDDLE), elided(painter, row.title, where.width()))
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        painter.drawText(box.adjusted(0, 0, -looks.px(26), 0), int(MIDDLE | RIGHT), str(row.count))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(box.bottomLeft(), box.bottomRight())

    def _paint_part(self, painter: QPainter, box: QRectF, part: Part) -> None:
        chosen = self.session.selection.part == part.id
        in_hand = self.hand.part is part and self.hand.device is None
        if chosen or in_hand:
            painter.fillRect(box, looks.colour("wash"))
            painter.fillRect(QRectF(0, box.top(), 3, box.height()), looks.colour("accent"))
        colours = [pin.lead for port in part.ports for pin in port.pins if pin.lead][:8]
        upper = QRectF(
            looks.px(16), box.top() + 2, box.width() - looks.px(26), box.height() / 2 - 1
        )
        right = upper.right()
        if colours:
            right = draw_stripes(painter, right, upper.center().y(), colours) - looks.px(5)
        painter.setFont(looks.font(12, bold=chosen or in_hand))
        painter.setPen(looks.colour("accent" if chosen or in_hand else "ink"))
        title = elided(painter, part.title, right - upper.left())
        painter.drawText(upper, int(MIDDLE), title)
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        made = " ".join(text for text in (part.maker, part.model) if text)
        facts = facts_in_words(part)
        note = ", ".join((made, *facts) if made else facts) or part.kind
        lower = upper.translated(0, upper.height() - 1)
        painter.drawText(lower, int(MIDDLE), elided(painter, note, lower.width()))
        if in_hand:
            pen = painter.pen()
            pen.setColor(looks.colour("accent"))
            pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawRect(box.adjusted(7, 1, -5, -2))

    # Keys and mouse.

    def _choose(self) -> None:
        """The row under the cursor: its part becomes the selection."""
        row = self.rows[self.at_row] if self.rows else None
        if row is not None and row.part is not None:
            self.session.select(Selection(part=row.part.id))
        self._show_cursor()
        self._repaint()

    def _show_cursor(self) -> None:
        bar, viewport = self.verticalScrollBar(), self.viewport()
        if bar is None or viewport is None or not self.rows:
            return
        tops = self._tops()
        if tops[self.at_row] < bar.value():
            bar.setValue(tops[self.at_row])
        elif tops[self.at_row + 1] > bar.value() + viewport.height():
            bar.setValue(tops[self.at_row + 1] - viewport.height())

    def _fold(self, title: str) -> None:
        self.unfolded.symmetric_difference_update({title})
        self.refresh()

    def enter(self) -> None:
        """Takes the part under the cursor in hand, or folds its heading. Where a place asked for a
        part, it goes there at once.
        """
        row = self.rows[self.at_row] if self.rows else None
        if row is None:
            return
        if row.part is None:
            self._fold(row.title)
            return
        asked_from = self.place
        self.hand.take_part(row.part)
        if asked_from is not None and self.hand.target == asked_from:
            self.hand.put_down()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        row = row_after(event.key(), self.at_row, len(self.rows))
        if row is not None:
            self.at_row = row
            self._choose()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.enter()
        elif event.key() == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        else:
            super().keyPressEvent(event)

    def _row_at(self, y: float) -> int | None:
        bar = self.verticalScrollBar()
        want = y + (bar.value() if bar else 0)
        tops = self._tops()
        return next((n for n in range(len(self.rows)) if tops[n] <= want < tops[n + 1]), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        number = self._row_at(event.position().y()) if event is not None else None
        if event is None or number is None:
            return
        self.at_row = number
        row = self.rows[number]
        if row.part is None:
            self._fold(row.title)
            return
        self._pressed_at = event.position()
        self._choose()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if self.rows and self.rows[self.at_row].part is not None:
            self.enter()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        row = self.rows[self.at_row] if self.rows else None
        if event is None or self._pressed_at is None or row is None or row.part is None:
            return
        moved = (event.position() - self._pressed_at).manhattanLength()
        if moved < QApplication.startDragDistance():
            return
        self._pressed_at = None
        self.hand.take_part(row.part)
        drag, data = QDrag(self), QMimeData()
        data.setData(PART_MIME, row.part.id.encode())
        drag.setMimeData(data)
        if drag.exec(Qt.DropAction.CopyAction) == Qt.DropAction.IgnoreAction:
            self.hand.drop()


class Shelf(LedFocus):
    """The filter field over the parts, for which place they are, and what to do without one."""

    describe_wanted = pyqtSignal()
    like_wanted = pyqtSignal()
    left = pyqtSignal()

    def __init__(self, session: Session, hand: LaneHand) -> None:
        super().__init__()
        self.rows = ShelfRows(session, hand)
        self.field = PartField(self.rows)
        self.field.textChanged.connect(self._filter)
        self.field.left.connect(self._leave)
        self.field.nothing_found.connect(self.describe_wanted)
        self.asked, self.all = PlainLabel(), QPushButton("All parts")
        self.asked.setObjectName("head")
        self.asked.setWordWrap(True)
        self.all.clicked.connect(lambda: self.show_for(None))
        self.note = PlainLabel(NOT_HERE)
        self.note.setObjectName("faded")
        self.note.setWordWrap(True)
        self.describe = QPushButton("Describe a part  D")
        self.describe.clicked.connect(self.describe_wanted)
        self.like = QPushButton("One like this  L")
        self.like.setToolTip("A part like the selected one, with figures of your own")
        self.like.clicked.connect(self.like_wanted)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 10, 0, 8)
        layout.setSpacing(6)
        head = QVBoxLayout()
        head.setContentsMargins(10, 0, 10, 0)
        head.addWidget(self.field)
        asking = QHBoxLayout()
        asking.addWidget(self.asked, 1)
        asking.addWidget(self.all)
        head.addLayout(asking)
        layout.addLayout(head)
        layout.addWidget(self.rows, 1)
        foot = QVBoxLayout()
        foot.setContentsMargins(10, 0, 10, 0)
        foot.addWidget(self.note)
        foot.addWidget(self.describe)
        foot.addWidget(self.like)
        layout.addLayout(foot)
        self.lead_focus_to(self.rows)
        self.show_for(None)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        wanted = {"d": self.describe_wanted, "l": self.like_wanted}
        signal = wanted.get(event.text().casefold()) if event is not None else None
        if signal is not None:
            signal.emit()
        else:
            super().keyPressEvent(event)

    def show_contents(self, contents: ShelfContents) -> None:
        """Takes what is on the shelf."""
        self.rows.contents = contents
        self.field.setPlaceholderText(f"Find in {len(contents.parts)} parts")
        self.rows.refresh()

    def show_for(self, place: Place | None) -> None:
        """Shows only the parts for a place, or all."""
        self.rows.place = place
        self.rows.hand.wanted = place
        self.asked.setText(f"For {place.words}" if place is not None else "")
        self.asked.setVisible(place is not None)
        self.all.setVisible(place is not None)
        self.field.clear()
        self.rows.refresh()
        if place is not None:
            self.rows.go_to_first_part()

    def show_own(self) -> None:
        """Unfolds the builder's own parts."""
        self.rows.unfolded.add(OWN_HEADING)
        self.rows.refresh()

    def part_of(self, part_id: str) -> Part | None:
        """A part of the shelf by its id."""
        return next((part for part in self.rows.contents.parts if part.id == part_id), None)

    def _filter(self, text: str) -> None:
        self.rows.filter = text
        self.rows.refresh()
        self.note.setText(NOT_FOUND if text.strip() and not self.rows.rows else NOT_HERE)
        if text.strip() or self.rows.place is not None:
            self.rows.go_to_first_part()

    def _leave(self) -> None:
        """What was looked for goes; then the place that asked; then the field."""
        if self.field.text():
            self.field.clear()
        else:
            self.show_for(None)
            self.left.emit()
