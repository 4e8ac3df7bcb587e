"""The guide to a stage: a picture of the window as it is now, with numbers, and a line to each."""

from collections.abc import Iterator
from functools import partial
from operator import attrgetter

from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PyQt6.QtWidgets import QFrame, QMainWindow, QVBoxLayout, QWidget

from vervain.desktop.shared.plain import MarkupLabel, PlainLabel, escaped
from vervain.desktop.theme import looks
from vervain.tables.guide import Guide, guides

MARGIN, WIDEST, BADGE = 16, 660, 11
# So much of the window's width, and so of its height, the picture takes at most.
MOST_OF_WINDOW = 0.52
LAST = "Any key or click puts it away. F1: what is selected, and its keys."


class GuidePanel(QFrame):
    """The guide over the window that it is about; any click or key puts it away."""

    def __init__(self, window: QMainWindow) -> None:
        super().__init__(window)
        self.setObjectName("popup")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.head, self.picture, self.text = MarkupLabel(), PlainLabel(), MarkupLabel()
        self.head.setWordWrap(True)
        self.text.setWordWrap(True)
        column = QVBoxLayout(self)
        for part in (self.head, self.picture, self.text):
            column.addWidget(part)
        self.hide()

    def open(self, stage: str) -> None:
        """Shows the guide to a stage, drawn of the window as it is: in two turns, neither of which
        takes long.
        """
        window = self.parentWidget()
        assert window is not None
        self.hide()
        guide = guides()[stage]
        width = min(looks.px(WIDEST), round(window.width() * MOST_OF_WINDOW))
        self.head.setText(f"<b>{escaped(stage)}</b><br>{escaped(guide.what)}")
        self.picture.setAccessibleName(f"The {stage} stage, with numbers at its parts")
        self.text.setText(f"<table>{''.join(_rows(guide))}</table>{LAST}")
        self.setFixedWidth(width + 2 * MARGIN)
        QTimer.singleShot(0, partial(self._show, window, guide, width))

    def _show(self, window: QWidget, guide: Guide, width: int) -> None:
        self.picture.setPixmap(_drawn(window, guide, width))
        self.adjustSize()
        free = window.width() - self.width(), window.height() - self.height()
        self.move(free[0] // 2, max(0, free[1] // 2))
        self.show()
        self.raise_()
        self.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        self.hide()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.hide()


def _rows(guide: Guide) -> Iterator[str]:
    for number, step in enumerate(guide.step, 1):
        keys = f"<b>{escaped(step.keys)}</b>&nbsp; " if step.keys else ""
        yield f"<tr><td><b>{number}</b>&nbsp;&nbsp;</td><td>{keys}{escaped(step.words)}</td></tr>"


def widget_at(window: QWidget, path: str) -> QWidget | None:
    """The part of the window that a step is about; None where a builder's table names none."""
    try:
        found = attrgetter(path)(window)
    except AttributeError:
        return None
    return found if isinstance(found, QWidget) else None


def _drawn(window: QWidget, guide: Guide, width: int) -> QPixmap:
    """The window as it is, as wide as that, with the number of each step at its part."""
    ratio, scale = window.devicePixelRatioF(), width / window.width()
    height = round(window.height() * scale)
    found = QPixmap(round(width * ratio), round(height * ratio))
    found.setDevicePixelRatio(ratio)
    painter = QPainter(found)
    painter.scale(scale, scale)
    window.render(painter, QPoint(0, 0))
    painter.resetTransform()
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(looks.font(11, bold=True))
    at_widget: dict[str, int] = {}
    for number, step in enumerate(guide.step, 1):
        part = widget_at(window, step.at)
        if part is None:
            continue
        corner = part.mapTo(window, QPoint(0, 0))
        beside = at_widget.get(step.at, 0)
        at_widget[step.at] = beside + 1
        radius = looks.px(BADGE)
        middle = QPointF(corner.x() * scale, corner.y() * scale)
        middle += QPointF(
            min(part.width() * scale / 2, looks.px(40)) + beside * radius * 2.4,
            min(part.height() * scale / 2, looks.px(30)),
        )
        painter.setPen(QPen(looks.colour("paper"), 1.5))
        painter.setBrush(looks.colour("accent"))
        painter.drawEllipse(middle, radius, radius)
        painter.setPen(looks.colour("on_accent"))
        box = QRectF(middle.x() - radius, middle.y() - radius, 2 * radius, 2 * radius)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, str(number))
    painter.setPen(QPen(looks.colour("faded"), 1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(QRectF(0.5, 0.5, width - 1, height - 1))
    painter.end()
    return found
