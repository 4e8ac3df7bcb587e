"""The side column: where what is in hand can go, the findings, the card of the selection."""

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from vervain.desktop.cards.device_card import FactsCard
from vervain.desktop.session import Session
from vervain.desktop.shared.findings import FindingsPane
from vervain.desktop.shared.wire_painting import elided
from vervain.desktop.theme import looks
from vervain.model.machine import PortRef
from vervain.ports.fit import Fit, ranked_fits

MOST_SHOWN = 5


class FitList(QWidget):
    """The ports that what is in hand fits, ranked, each with its reason; a click aims at one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.shown: list[Fit] = []
        self.refused = 0
        self.example = ""
        self.total = 0
        session.hand_changed.connect(self.refresh)
        session.machine_changed.connect(self.refresh)
        self.hide()

    def refresh(self) -> None:
        """Ranks the ports for what is in hand."""
        hand = self.session.in_hand
        self.setVisible(hand is not None)
        if hand is None:
            return
        fits = ranked_fits(self.session.queries, hand)
        good = [fit for fit in fits if fit.verdict != "does not fit"]
        self.shown = good[:MOST_SHOWN]
        self.total, self.refused = len(fits), len(fits) - len(good)
        near = [fit for fit in fits if fit.verdict == "does not fit" and fit.pairs]
        bad = [fit for fit in fits if fit.verdict == "does not fit"]
        first = next(iter(near or bad), None)
        self.example = f"{first.host.port}: {first.reason}" if first else ""
        self.updateGeometry()
        self.update()

    def _row_height(self) -> int:
        return looks.px(42)

    def sizeHint(self) -> QSize:
        return QSize(200, looks.px(26) + len(self.shown) * self._row_height() + looks.px(46))

    def minimumSizeHint(self) -> QSize:
        return self.sizeHint()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        hand = self.session.in_hand
        if hand is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        head = QRectF(0, 0, self.width(), looks.px(24))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, f"Where {hand.device} can go")
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        count = self.total - self.refused
        painter.drawText(head, flags, f"{count} of {self.total} ports")
        top = float(looks.px(26))
        frame = QRectF(
            0.5, top, self.width() - 1, len(self.shown) * self._row_height() + looks.px(42)
        )
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRoundedRect(frame, 3, 3)
        for number, fit in enumerate(self.shown):
            self._paint_fit(
                painter, QRectF(1, top, self.width() - 2, self._row_height()), number, fit
            )
            top += self._row_height()
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        text = f"{self.refused} do not fit" + (f", e.g. {self.example}" if self.example else "")
        box = QRectF(10, top + 4, self.width() - 20, looks.px(34))
        painter.drawText(box, int(Qt.TextFlag.TextWordWrap), text)

    def _paint_fit(self, painter: QPainter, box: QRectF, number: int, fit: Fit) -> None:
        is_target = fit.host == self.session.target
        if is_target:
            painter.fillRect(box, looks.colour("wash"))
            painter.fillRect(QRectF(0, box.top(), 3, box.height()), looks.colour("accent"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(box.bottomLeft(), box.bottomRight())
        painter.setPen(looks.colour("accent"))
        painter.setFont(looks.font(12, bold=True))
        upper = QRectF(box.left() + 10, box.top() + 3, box.width() - 20, box.height() / 2 - 2)
        painter.drawText(upper, Qt.AlignmentFlag.AlignVCenter, f"{number + 1}")
        painter.setPen(looks.colour("ink"))
        where = fit.host.port if number == 0 or fit.host.device == self.shown[0].host.device else ""
        name = where or f"{fit.host.device} {fit.host.port}"
        painter.drawText(upper.adjusted(looks.px(16), 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, name)
        verdict = "fits" if fit.verdict == "fits" else f"fits with {fit.needs}"
        painter.setFont(looks.font(10.5, bold=True))
        extent = painter.fontMetrics().horizontalAdvance(verdict) + looks.px(10)
        tag = QRectF(upper.right() - extent, upper.top() + 2, extent, upper.height() - 3)
        pen = QPen(looks.colour("accent"), 1)
        if fit.verdict == "fits with":
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(tag, 3, 3)
        painter.setPen(looks.colour("accent"))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, verdict)
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        lower = upper.translated(looks.px(16), upper.height())
        lower.setWidth(upper.width() - looks.px(16))
        reason = fit.reason or self._near(fit.host)
        painter.drawText(
            lower, Qt.AlignmentFlag.AlignVCenter, elided(painter, reason, lower.width())
        )

    def _near(self, host: PortRef) -> str:
        hand = self.session.in_hand
        axis = self.session.queries.axis_of(hand.device) if hand else None
        fit = next((f for f in self.shown if f.host == host), None)
        if axis is not None and fit is not None and fit.distance == 1:
            return f"Beside another port of {axis.id}."
        return "Free."

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number = int((event.position().y() - looks.px(26)) // self._row_height())
        if 0 <= number < len(self.shown):
            self.session.aim(self.shown[number].host)


class SideColumn(QScrollArea):
    """Findings over the card of the selection; what is in hand above both."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(12)
        self.fits = FitList(session)
        self.proposal: QWidget | None = None
        self.findings = FindingsPane(session)
        self.facts = FactsCard(session)
        column.addWidget(self.fits)
        column.addWidget(self.findings)
        column.addWidget(self.facts)
        column.addStretch(1)
        self.setWidget(inner)
        self.setAccessibleName("Findings and facts")
        self.column = column

    def add_below(self, widget: QWidget) -> None:
        """Puts a widget of a stage under the findings."""
        self.column.insertWidget(self.column.indexOf(self.facts), widget)

    def add_proposal(self, widget: QWidget) -> None:
        """Puts the list of a proposal at the head."""
        self.proposal = widget
        self.column.insertWidget(0, widget)
