"""The build sheet of the chosen cable, as it is printed."""

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QAbstractScrollArea

from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.session import Session
from vervain.desktop.shared.shape_painting import paint_drawing
from vervain.desktop.theme import looks
from vervain.harness.build_sheet import build_sheet
from vervain.harness.shapes import WHITE, Drawing
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables.build_sheet_drawing import draw_build_sheet

MARGIN, LARGEST = 24.0, 1.3
NOTHING = "Choose a cable below: its sheet appears here."
READY = "{cable} comes ready-made: nothing of it is made here."
WORKING = "Working it out …"


class SheetView(QAbstractScrollArea):
    """A page with the sheet; as wide as there is room, and scrolled."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.cable: str | None = None
        self.drawing: Drawing | None = None
        self._machine: Machine | None = None
        self._work = LatestWork(session.analysis, self._draw)
        self._work.done.connect(self._take)
        self.setAccessibleName("Build sheet")
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)

    def show_cable(self, cable: str | None) -> None:
        """Shows the sheet of a cable, of the machine as it is now."""
        machine = self.session.machine
        if cable == self.cable and machine is self._machine:
            return
        if cable != self.cable:
            self.drawing = None
        self.cable, self._machine = cable, machine
        name = f"Build sheet of {cable}" if cable else "Build sheet"
        self.setAccessibleName(name)
        if cable is not None:
            self._work.ask(machine)
        self._arrange()

    def _draw(
        self, queries: Queries, _should_continue: ShouldContinue
    ) -> tuple[str | None, Drawing | None]:
        cable = self.cable
        sheet = build_sheet(queries, cable) if cable else None
        return cable, draw_build_sheet(sheet, queries.machine.page) if sheet is not None else None

    def _take(self, machine: Machine, made: tuple[str | None, Drawing | None]) -> None:
        cable, drawing = made
        if cable == self.cable and machine is self._machine:
            self.drawing = drawing
            self._arrange()

    @property
    def _scale(self) -> float:
        area = self.viewport()
        if self.drawing is None or area is None:
            return 1.0
        room = (area.width() - 2 * looks.px(MARGIN)) / self.drawing.width
        return max(0.2, min(room, LARGEST * looks.scale))

    def _arrange(self) -> None:
        bar, area = self.verticalScrollBar(), self.viewport()
        if bar is None or area is None:
            return
        high = self.drawing.height * self._scale + 2 * looks.px(MARGIN) if self.drawing else 0
        bar.setRange(0, max(0, round(high) - area.height()))
        bar.setPageStep(area.height())
        bar.setSingleStep(looks.px(24))
        area.update()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._arrange()

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        bar = self.verticalScrollBar()
        if event is not None and bar is not None:
            bar.setValue(bar.value() - event.angleDelta().y() // 2)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        area, bar = self.viewport(), self.verticalScrollBar()
        if area is None or bar is None:
            return
        painter = QPainter(area)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(area.rect(), looks.colour("paper"))
        if self.drawing is None:
            words = NOTHING
            if self.cable is not None:
                words = WORKING if self._work.is_running else READY.format(cable=self.cable)
            painter.setFont(looks.font())
            painter.setPen(looks.colour("faded"))
            painter.drawText(area.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        scale, margin = self._scale, looks.px(MARGIN)
        left = (area.width() - self.drawing.width * scale) / 2
        page = QRectF(
            left - margin / 2, margin / 2 - bar.value(), self.drawing.width * scale + margin,
            self.drawing.height * scale + margin,
        )  # fmt: skip
        painter.fillRect(page, QColor(WHITE))
        painter.translate(left, margin - bar.value())
        painter.scale(scale, scale)
        paint_drawing(painter, self.drawing, looks.font())
