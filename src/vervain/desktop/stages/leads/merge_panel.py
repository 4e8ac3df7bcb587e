"""The colour merge: a device's plug, pin by pin, with function, colour, and where it lands."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import tell
from vervain.desktop.shared.wire_painting import draw_bar, draw_triangle, elided
from vervain.desktop.theme import looks
from vervain.leads.merge import MergeRow, merge_rows, merged_ports, polarity_free
from vervain.model.colours import colour_words
from vervain.model.connectors import connector_words

MIDDLE, RIGHT = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
ROW = 34.0
FREE = "Either way round: these two leads may change places."


class MergedPlug(QWidget):
    """The drawn plug: number and function inside, the colour as a bar, where it lands beside it."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[MergeRow, ...] = ()
        self.free = False

    def show_rows(self, rows: tuple[MergeRow, ...], free: bool) -> None:
        """Takes the leads in pin order, and whether the two may change places."""
        self.rows, self.free = rows, free
        self.setMinimumHeight(round(looks.px(ROW) * len(rows) + looks.px(40)))
        said = (f"{row.pin} {row.words} {row.colour or 'no lead'} {row.lands}" for row in rows)
        self.setAccessibleName("; ".join(said))
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.rows:
            return
        painter = QPainter(self)
        height = looks.px(ROW)
        inside, bar = self.width() * 0.27, self.width() * 0.24
        body = QRectF(1, looks.px(6), inside, height * len(self.rows) + looks.px(6))
        painter.setPen(QPen(looks.colour("ink"), 1.4))
        painter.setBrush(looks.colour("paper"))
        painter.drawRect(body)
        for number, row in enumerate(self.rows):
            line = QRectF(0, body.top() + looks.px(3) + number * height, self.width(), height)
            self._row(painter, row, line, body, bar)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        tip = QPointF(body.left() + looks.px(8), body.top() + looks.px(3) + height / 2)
        draw_triangle(painter, tip, looks.px(4), "left")
        if self.free and len(self.rows) == 2:
            self._free_mark(painter, body, bar, height)

    def _row(
        self, painter: QPainter, row: MergeRow, line: QRectF, body: QRectF, bar: float
    ) -> None:
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("faded"))
        cell = line.adjusted(looks.px(18), 0, body.right() - line.right() - looks.px(8), 0)
        painter.drawText(cell, int(MIDDLE), elided(painter, row.pin, cell.width() * 0.4))
        extent = painter.fontMetrics().horizontalAdvance(row.pin) + looks.px(8)
        painter.setFont(looks.font(12))
        painter.setPen(looks.colour("ink"))
        words = elided(painter, row.words, cell.width() - extent)
        painter.drawText(cell, int(MIDDLE | RIGHT), words)
        box = QRectF(body.right(), line.top() + looks.px(6), bar, line.height() - looks.px(12))
        if row.colour:
            draw_bar(painter, box, row.colour)
        else:
            painter.setPen(looks.colour("faded"))
            painter.drawText(box.adjusted(looks.px(8), 0, 0, 0), int(MIDDLE), "a contact")
        text = QRectF(box.right() + looks.px(12), line.top(), 0, line.height())
        text.setRight(line.right())
        self._beside(painter, row, text)

    def _beside(self, painter: QPainter, row: MergeRow, text: QRectF) -> None:
        """The colour in words, where the lead lands, and what is wrong."""
        colour = colour_words(row.colour) if row.colour else ""
        where = f"on {row.lands}" if row.lands else "joined to nothing"
        upper = QRectF(text.left(), text.top() + 2, text.width(), text.height() / 2)
        painter.setFont(looks.font(11.5))
        painter.setPen(looks.colour("ink"))
        words = ", ".join(part for part in (colour, where) if part)
        if not row.marks:
            painter.drawText(text, int(MIDDLE), elided(painter, words, text.width()))
            return
        painter.drawText(upper, int(MIDDLE), elided(painter, words, text.width()))
        painter.setFont(looks.font(11.5, bold=True))
        painter.setPen(looks.colour("bad"))
        lower = upper.translated(0, text.height() / 2 - 3)
        painter.drawText(lower, int(MIDDLE), elided(painter, " ".join(row.marks), text.width()))

    def _free_mark(self, painter: QPainter, body: QRectF, bar: float, height: float) -> None:
        """Two arrows between the leads that may change places."""
        x = body.right() + bar * 0.5
        top = body.top() + looks.px(3) + height * 0.5 + looks.px(11)
        painter.setPen(QPen(looks.colour("accent"), 1.5))
        for shift, direction in ((-looks.px(5), "up"), (looks.px(5), "down")):
            painter.drawLine(
                QPointF(x + shift, top), QPointF(x + shift, top + height - looks.px(22))
            )
            y = top if direction == "up" else top + height - looks.px(22)
            draw_triangle(painter, QPointF(x + shift, y), looks.px(3), direction)


class MergePanel(QWidget):
    """One device: its plug, and what may and may not change places."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Plug, pin by pin")
        self.words, self.more = PlainLabel(), PlainLabel()
        self.more.setObjectName("faded")
        for label in (self.words, self.more):
            label.setWordWrap(True)
        self.plug = MergedPlug()
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(10)
        for widget in (self.words, self.more, self.plug):
            column.addWidget(widget)
        column.addStretch(1)

    def show_device(self, designator: str) -> None:
        """Turns to a device."""
        queries = self.session.queries
        part, rows = queries.part_of(designator), merge_rows(queries, designator)
        ports = merged_ports(part) if part else ()
        port = ports[0] if ports else None
        free = bool(part and port and polarity_free(part, port))
        self.words.setStyleSheet(f"font-size: {looks.px(18)}px; font-weight: bold;")
        wrong = [mark for row in rows for mark in row.marks]
        joined = sum(bool(row.lands) for row in rows)
        found = self.session.findings(lambda f: designator in {s.device for s in f.subjects[:1]})
        if wrong:
            self.words.setText(wrong[0])
        elif found:
            self.words.setText(found[0].sentence)
        elif not joined:
            self.words.setText("Not joined yet. Compare the colours with the thing itself.")
        else:
            self.words.setText("Function and colour agree with where they lie.")
        said = FREE if free else "Each lead has its own place: none may change with another."
        named = connector_words(port.connector if port else None)
        self.more.setText(f"{named[:1].upper()}{named[1:]}, pin 1 marked. {said}")
        self.plug.show_rows(rows, free)
        tell(self, f"{designator}: {self.words.text()} {self.more.text()}")
