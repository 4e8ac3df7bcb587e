"""The tray: devices under their axis, each with its name, lead colours and state."""

from collections import Counter
from dataclasses import dataclass

from PyQt6.QtCore import QMimeData, QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QDrag, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QLineEdit, QVBoxLayout, QWidget

from vervain.desktop.bench_worker import BenchWorker
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.row_steps import row_after
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.wire_painting import (
    draw_count,
    draw_mark,
    draw_stripes,
    draw_triangle,
    elided,
)
from vervain.desktop.theme import looks
from vervain.edits.device_edits import remove_device
from vervain.harness.making import is_cabled
from vervain.queries.device_groups import groups, lead_colours, state_of
from vervain.text.words import count_of

DEVICE_MIME = "application/x-vervain-device"


@dataclass(frozen=True)
class Row:
    """One line of the tray: a group's heading, or a device."""

    title: str
    device: str | None = None
    note: str = ""


class TrayRows(QAbstractScrollArea):
    """The list itself; draws only the rows that are seen."""

    picked_up = pyqtSignal(str)

    def __init__(self, session: Session, worker: BenchWorker) -> None:
        super().__init__()
        self.session, self.worker = session, worker
        self.rows: list[Row] = []
        self.folded: set[str] = set()
        self.filter = ""
        self.at_row = 0
        self._pressed_at: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setAccessibleName("Devices")
        self.voice = Voice(session, self, self.row_words)
        session.machine_changed.connect(self.refresh)
        session.checked.connect(self._repaint)
        worker.changed.connect(self.refresh)
        session.hand_changed.connect(self._repaint)
        session.selection_changed.connect(self._follow_selection)

    def row_height(self) -> int:
        """Height of a row in pixels."""
        return looks.px(22)

    def state_of(self, device: str) -> str:
        """How far a device is: loose, placed, wired, or proven at the bench."""
        figures = self.worker.figures
        state = state_of(self.session.queries, device)
        is_proven = figures is not None and device in figures.proven
        return "proven" if is_proven and state == "wired" else state

    def refresh(self) -> None:
        """Makes the rows anew from the machine, the filter and what is folded."""
        queries = self.session.queries
        wanted = self.filter.casefold().split()
        self.rows = []
        for group in groups(queries):
            members = []
            for designator in group.devices:
                device, part = queries.device(designator), queries.part_of(designator)
                if device is None or part is None:
                    continue
                if wanted:
                    text = f"{designator} {device.name} {part.title} {group.title}".casefold()
                    if not all(word in text for word in wanted):
                        continue
                members.append((designator, device.name))
            if not members:
                continue
            states = Counter(self.state_of(designator) for designator, _ in members)
            note = ", ".join(f"{count} {state}" for state, count in sorted(states.items()))
            self.rows.append(Row(title=group.title, note=note))
            if group.title not in self.folded or wanted:
                self.rows.extend(Row(title=name, device=d) for d, name in members)
        self.at_row = min(self.at_row, max(0, len(self.rows) - 1))
        self._set_range()
        self._repaint()

    def _set_range(self) -> None:
        bar = self.verticalScrollBar()
        viewport = self.viewport()
        if bar is not None and viewport is not None:
            extent = len(self.rows) * self.row_height()
            bar.setRange(0, max(0, extent - viewport.height()))
            bar.setPageStep(viewport.height())
            bar.setSingleStep(self.row_height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._set_range()

    def _repaint(self) -> None:
        self.voice.tell_soon()
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def _follow_selection(self) -> None:
        chosen = self.session.selection.device
        for number, row in enumerate(self.rows):
            if row.device is not None and row.device == chosen:
                self.at_row = number
                self._show_cursor()
        self._repaint()

    def row_words(self) -> str:
        """What the row under the cursor is, and how far."""
        row = self.rows[self.at_row] if self.rows else None
        if row is None:
            return "No device"
        if row.device is None:
            return f"{row.title}, {row.note}" + (", folded" if row.title in self.folded else "")
        count, worst = self._finding_counts().get(row.device, (0, ""))
        found = f", {worst}: {count_of(count, 'finding')}" if count else ""
        return f"{row.device} {row.title}, {self.state_of(row.device)}{found}"

    def _show_cursor(self) -> None:
        bar, viewport = self.verticalScrollBar(), self.viewport()
        if bar is None or viewport is None:
            return
        top = self.at_row * self.row_height()
        if top < bar.value():
            bar.setValue(top)
        elif top + self.row_height() > bar.value() + viewport.height():
            bar.setValue(top + self.row_height() - viewport.height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport, bar = self.viewport(), self.verticalScrollBar()
        if viewport is None or bar is None:
            return
        painter = QPainter(viewport)
        height, width = self.row_height(), viewport.width()
        counts = self._finding_counts()
        first = bar.value() // height
        last = min(len(self.rows), first + viewport.height() // height + 2)
        for number in range(first, last):
            box = QRectF(0, number * height - bar.value(), width, height)
            row = self.rows[number]
            if row.device is None:
                self._paint_heading(painter, box, row)
            else:
                self._paint_device(painter, box, row, counts)
            if number == self.at_row and self.hasFocus():
                painter.setPen(looks.colour("accent"))
                painter.drawRect(box.adjusted(1, 0, -2, -1))

    def _finding_counts(self) -> dict[str, tuple[int, str]]:
        counts: dict[str, tuple[int, str]] = {}
        for finding in self.session.findings():
            for device in {s.device for s in finding.subjects[:1] if s.device}:
                number, worst = counts.get(device, (0, finding.consequence))
                counts[device] = number + 1, worst
        return counts

    def _paint_heading(self, painter: QPainter, box: QRectF, row: Row) -> None:
        painter.setPen(looks.colour("rule"))
        painter.drawLine(box.topLeft() + QPointF(10, 0), box.topRight() - QPointF(8, 0))
        is_folded = row.title in self.folded and not self.filter
        tip = QPointF(box.right() - looks.px(14), box.center().y() + looks.px(2))
        draw_triangle(painter, tip, looks.px(4), "right" if is_folded else "down")
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        where = box.adjusted(looks.px(12), 0, -looks.px(30), 0)
        painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, row.title)
        if is_folded:
            used = painter.fontMetrics().horizontalAdvance(row.title) + looks.px(8)
            painter.setFont(looks.font(10))
            painter.setPen(looks.colour("faded"))
            note = elided(painter, row.note, where.width() - used)
            flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
            painter.drawText(where, flags, note)

    def _paint_device(
        self, painter: QPainter, box: QRectF, row: Row, counts: dict[str, tuple[int, str]]
    ) -> None:
        assert row.device is not None
        session = self.session
        in_hand = session.in_hand is not None and session.in_hand.device == row.device
        chosen = session.selection.device == row.device
        if chosen or in_hand:
            painter.fillRect(box, looks.colour("wash"))
            painter.fillRect(QRectF(0, box.top(), 3, box.height()), looks.colour("accent"))
        middle = box.center().y()
        state = self.state_of(row.device)
        draw_mark(painter, QPointF(looks.px(20), middle), state)
        right = box.right() - looks.px(10)
        colours = list(lead_colours(session.queries, row.device))[:8]
        if colours:
            right = draw_stripes(painter, right, middle, colours) - looks.px(5)
        count, worst = counts.get(row.device, (0, ""))
        if count:
            right = draw_count(painter, right, middle, count, worst) - looks.px(5)
        if is_cabled(session.queries, row.device):
            # All of its cables are made, laid and tested.
            painter.setFont(looks.font(12, bold=True))
            painter.setPen(looks.colour("good"))
            right -= looks.px(12)
            place = QRectF(right, box.top(), looks.px(12), box.height())
            painter.drawText(place, Qt.AlignmentFlag.AlignCenter, "✓")
        ink = looks.colour("accent" if chosen or in_hand else "ink")
        painter.setPen(ink)
        painter.setFont(looks.font(12, bold=True))
        painter.drawText(
            QRectF(looks.px(32), box.top(), looks.px(60), box.height()),
            Qt.AlignmentFlag.AlignVCenter,
            row.device,
        )
        extent = painter.fontMetrics().horizontalAdvance(row.device)
        painter.setFont(looks.font(12))
        left = max(looks.px(62), looks.px(37) + extent)
        name = elided(painter, row.title, right - left)
        painter.drawText(
            QRectF(left, box.top(), right - left, box.height()),
            Qt.AlignmentFlag.AlignVCenter,
            name,
        )
        if in_hand:
            pen = painter.pen()
            pen.setStyle(Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawRect(box.adjusted(looks.px(28), 1, -4, -2))

    def _row_at(self, y: float) -> int | None:
        bar = self.verticalScrollBar()
        number = int((y + (bar.value() if bar else 0)) // self.row_height())
        return number if 0 <= number < len(self.rows) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number = self._row_at(event.position().y())
        if number is None:
            return
        self.at_row = number
        self._pressed_at = event.position()
        self._choose(fold=True)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self._pressed_at is None or not self.rows:
            return
        moved = (event.position() - self._pressed_at).manhattanLength()
        row = self.rows[self.at_row]
        if moved < QApplication.startDragDistance() or row.device is None:
            return
        self._pressed_at = None
        self.picked_up.emit(row.device)
        drag = QDrag(self)
        data = QMimeData()
        data.setData(DEVICE_MIME, row.device.encode())
        drag.setMimeData(data)
        drag.exec(Qt.DropAction.MoveAction)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        self._pressed_at = None

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self._pick_up()

    def _choose(self, fold: bool = False) -> None:
        if not self.rows:
            return
        row = self.rows[self.at_row]
        if row.device is not None:
            self.session.select(Selection(device=row.device))
        elif fold:
            self.folded ^= {row.title}
            self.refresh()
        self._repaint()

    def _pick_up(self) -> None:
        if self.rows and self.rows[self.at_row].device is not None:
            self.picked_up.emit(self.rows[self.at_row].device)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        row = row_after(event.key(), self.at_row, len(self.rows))
        if row is not None:
            self.at_row = row
            self._show_cursor()
            self._choose()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if self.rows and self.rows[self.at_row].device is None:
                self._choose(fold=True)
            else:
                self._pick_up()
        elif event.key() == Qt.Key.Key_Delete:
            self._remove()
        elif event.key() == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        else:
            super().keyPressEvent(event)

    def _remove(self) -> None:
        device = self.rows[self.at_row].device if self.rows else None
        if device is not None:
            self.session.apply(f"Took {device} out", lambda m: remove_device(m, device))


class Tray(QWidget):
    """The filter field over the rows, and the legend of the state marks below them."""

    picked_up = pyqtSignal(str)

    def __init__(self, session: Session, worker: BenchWorker) -> None:
        super().__init__()
        self.field = QLineEdit()
        self.field.setClearButtonEnabled(True)
        self.field.setAccessibleName("Filter devices")
        self.list = TrayRows(session, worker)
        self.list.picked_up.connect(self.picked_up)
        self.field.textChanged.connect(self._filter)
        self.field.returnPressed.connect(self.list.setFocus)
        session.machine_changed.connect(self._count)
        self.session = session
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 10, 0, 0)
        layout.setSpacing(6)
        head = QVBoxLayout()
        head.setContentsMargins(10, 0, 10, 0)
        head.addWidget(self.field)
        layout.addLayout(head)
        layout.addWidget(self.list, 1)
        layout.addWidget(Legend())
        self._count()
        self.list.refresh()

    def _count(self) -> None:
        count = len(self.session.queries.devices())
        self.field.setPlaceholderText(f"Filter {count} devices" if count else "No devices yet")

    def _filter(self, text: str) -> None:
        self.list.filter = text
        self.list.refresh()


class Legend(QWidget):
    """What the state marks mean."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(looks.px(24))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        self.setFixedHeight(looks.px(24))
        painter = QPainter(self)
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, 0, self.width(), 0)
        painter.setFont(looks.font(11))
        left = float(looks.px(14))
        states = ("loose", "placed", "wired", "proven")
        words = sum(painter.fontMetrics().horizontalAdvance(state) for state in states)
        gap = min(looks.px(22), (self.width() - left - words) / len(states))
        for state in states:
            draw_mark(painter, QPointF(left, self.height() / 2), state)
            painter.setPen(looks.colour("faded"))
            painter.drawText(
                QRectF(left + looks.px(7), 0, looks.px(70), self.height()),
                Qt.AlignmentFlag.AlignVCenter,
                state,
            )
            left += gap + painter.fontMetrics().horizontalAdvance(state)
