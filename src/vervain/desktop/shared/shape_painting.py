"""Paints the plain shapes of paper in the window, as they will be printed."""

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from vervain.harness.shapes import Code, Disc, Drawing, Frame, Stroke, Words

# So many times larger letters are drawn than they are shown.
FINER = 8


def paint_drawing(painter: QPainter, drawing: Drawing, font: QFont) -> None:
    """A drawing in its own units; the painter's transformation says how large."""
    for shape in drawing.shapes:
        match shape:
            case Stroke(points, width, colour, dashed):
                pen = QPen(QColor(colour), width)
                pen.setStyle(Qt.PenStyle.DashLine if dashed else Qt.PenStyle.SolidLine)
                pen.setCapStyle(Qt.PenCapStyle.FlatCap)
                painter.setPen(pen)
                painter.drawPolyline(QPolygonF([QPointF(p.x, p.y) for p in points]))
            case Disc(x, y, r, fill, edge, width):
                painter.setPen(QPen(QColor(edge), width))
                painter.setBrush(QColor(fill))
                painter.drawEllipse(QPointF(x, y), r, r)
            case Frame(box, fill, edge, width):
                painter.setPen(QPen(QColor(edge), width))
                painter.setBrush(QColor(fill))
                painter.drawRect(QRectF(box.x, box.y, box.width, box.height))
            case Code():
                for box in shape.dark:
                    area = QRectF(box.x, box.y, box.width, box.height)
                    painter.fillRect(area, Qt.GlobalColor.black)
            case Words():
                _paint_words(painter, shape, font)


def _paint_words(painter: QPainter, words: Words, font: QFont) -> None:
    # Fonts come in whole pixels: drawn large and made small, they are as wide as on paper.
    sized = QFont(font)
    sized.setPixelSize(max(1, round(words.size * FINER)))
    sized.setBold(words.bold)
    painter.save()
    painter.setFont(sized)
    painter.setPen(QColor(words.colour))
    painter.translate(words.x, words.y)
    if words.upwards:
        painter.rotate(-90)
    painter.scale(1 / FINER, 1 / FINER)
    left = -QFontMetricsF(sized).horizontalAdvance(words.text) / 2 if words.centred else 0.0
    painter.drawText(QPointF(left, 0.0), words.text)
    painter.restore()
