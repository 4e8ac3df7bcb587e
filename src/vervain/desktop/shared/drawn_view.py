"""The base of views that draw a picture larger than themselves: extent, offset, painting anew."""

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtWidgets import QAbstractScrollArea

from vervain.desktop.theme import looks


class DrawnView(QAbstractScrollArea):
    """A frameless scroll area that takes the keyboard."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)

    def set_extent(self, width: float, height: float) -> None:
        """Sets how large the picture is, and paints it anew."""
        viewport = self.viewport()
        if viewport is None:
            return
        for bar, extent, page in (
            (self.verticalScrollBar(), height, viewport.height()),
            (self.horizontalScrollBar(), width, viewport.width()),
        ):
            if bar is not None:
                bar.setRange(0, max(0, round(extent - page)))
                bar.setPageStep(page)
                bar.setSingleStep(looks.px(20))
        self.repaint_soon()

    def repaint_soon(self) -> None:
        """Paints anew once events allow."""
        viewport = self.viewport()
        if viewport is not None:
            viewport.update()

    def offset(self) -> QPointF:
        """How far the picture is scrolled."""
        across, down = self.horizontalScrollBar(), self.verticalScrollBar()
        return QPointF(across.value() if across else 0, down.value() if down else 0)
