"""The harness on paper: the route with its sections, then every table, paged, heads repeated."""

import io
from functools import partial
from typing import Any
from xml.sax.saxutils import escape

from vervain.exports.formats import CONTROL
from vervain.exports.label_files import fonts
from vervain.exports.tables import Table
from vervain.harness.route_shapes import draw_route
from vervain.harness.shapes import Disc, Drawing, Frame, Shape, Stroke, Words
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables.stop_drawing import draw_stops
from vervain.tables.table_view import Cell

MARGIN = 36.0
BODY, HEAD, TITLE, PAD = 7.5, 7.5, 14.0, 1.5
# A cell longer than this is cut: a page must not be filled by one name.
LONGEST_CELL = 300
PAGES = {"a4": (841.89, 595.28), "letter": (792.0, 612.0)}


def printable(text: str) -> str:
    """Text without what neither paper nor XML can hold."""
    return CONTROL.sub("", text)


def harness_pdf(machine: Machine, tables: tuple[Table, ...], paper: str = "a4") -> bytes:
    """The PDF, landscape: a page for the route, then the tables one after the other."""
    from reportlab.platypus import (
        BaseDocTemplate,
        PageBreak,
        PageTemplate,
        Paragraph,
        Spacer,
    )
    from reportlab.platypus import (
        Frame as PageFrame,
    )

    width, height = PAGES[paper]
    stream = io.BytesIO()
    name = printable(f"{machine.name} {machine.state}".strip())
    document = BaseDocTemplate(
        stream, pagesize=(width, height), title=name, author="", invariant=1,
        leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN + 14, bottomMargin=MARGIN,
    )  # fmt: skip
    frame = PageFrame(MARGIN, MARGIN, width - 2 * MARGIN, height - 2 * MARGIN - 14, 0, 0, 0, 0)
    document.addPageTemplates(
        [PageTemplate(id="page", frames=[frame], onPage=partial(_page_head, name, width, height))]
    )
    styles = _styles()
    story: list[Any] = [Paragraph(escape(f"Harness of {name}"), styles["title"])]
    queries = Queries(machine)
    drawing = draw_route(queries, 780.0)
    if drawing.shapes and drawing.height > 40:
        room = height - 2 * MARGIN - 60
        story += [Spacer(1, 6), _flowable(drawing, width - 2 * MARGIN, room)]
    room = height - 2 * MARGIN - 14 - TITLE * 1.3 - 12
    for page in draw_stops(queries, 780.0):
        title = Paragraph("The stops, drawn without power", styles["title"])
        story += [PageBreak(), title, _flowable(page, width - 2 * MARGIN, room - 12)]
    for table in tables:
        for number, part in enumerate(_pages(table, width - 2 * MARGIN, room, styles)):
            title = table.title if number == 0 else f"{table.title}, continued"
            story += [PageBreak(), Paragraph(escape(title), styles["title"]), Spacer(1, 4), part]
    document.build(story)
    return stream.getvalue()


def _styles() -> dict[str, Any]:
    from reportlab.lib.styles import ParagraphStyle

    regular, bold = fonts()
    return {
        "body": ParagraphStyle("body", fontName=regular, fontSize=BODY, leading=BODY * 1.2),
        "right": ParagraphStyle(
            "right", fontName=regular, fontSize=BODY, leading=BODY * 1.2, alignment=2
        ),
        "head": ParagraphStyle("head", fontName=bold, fontSize=HEAD, leading=HEAD * 1.2),
        "title": ParagraphStyle("title", fontName=bold, fontSize=TITLE, leading=TITLE * 1.3),
    }


def _page_head(name: str, width: float, height: float, canvas: Any, document: Any) -> None:
    """The machine at the left and the page at the right, over every page."""
    regular, _ = fonts()
    canvas.saveState()
    canvas.setFont(regular, 8)
    canvas.setFillColor("#6A6674")
    canvas.drawString(MARGIN, height - MARGIN, name[:110])
    canvas.drawRightString(width - MARGIN, height - MARGIN, f"page {document.page}")
    canvas.restoreState()


def _pages(table: Table, width: float, room: float, styles: dict[str, Any]) -> list[Any]:
    """A table page by page, each with the head. The rows are measured here, so that the time grows
    with their number only; a table that splits itself takes longer with every page.
    """
    from reportlab.pdfbase.pdfmetrics import stringWidth
    from reportlab.platypus import Paragraph

    if not table.rows:
        return []
    regular, _ = fonts()
    letters = [letters for _, letters in table.columns]
    widths = [width * count / sum(letters) for count in letters]
    line = BODY * 1.2 + 2 * PAD

    def cell(value: Cell, wide: float) -> Any:
        """Plain text where it fits, which is ten times as fast; else broken into lines."""
        if value is None or value == "":
            return ""
        is_number = isinstance(value, int | float)
        text = f"{value:g}" if is_number else printable(str(value))[:LONGEST_CELL]
        if "\n" not in text and stringWidth(text, regular, BODY) <= wide - 6:
            return text
        return Paragraph(escape(text), styles["right" if is_number else "body"])

    def height_of(cells: list[Any]) -> float:
        heights: list[float] = [
            float(made.wrap(wide - 5, room)[1]) + 2 * PAD
            for made, wide in zip(cells, widths, strict=True)
            if not isinstance(made, str)
        ]
        return max([line, *heights])

    head = [Paragraph(escape(title), styles["head"]) for title in table.names]
    head_height = height_of(head)
    numeric = [
        all(row[n] is None or isinstance(row[n], int | float) for row in table.rows)
        for n in range(len(table.columns))
    ]
    pages: list[Any] = []
    waiting: list[list[Any]] = []
    heights: list[float] = []
    for row in table.rows:
        cells = [cell(value, wide) for value, wide in zip(row, widths, strict=True)]
        tall = height_of(cells)
        if waiting and head_height + sum(heights) + tall > room:
            pages.append(_page(head, waiting, [head_height, *heights], widths, numeric))
            waiting, heights = [], []
        waiting.append(cells)
        heights.append(min(tall, room - head_height))
    pages.append(_page(head, waiting, [head_height, *heights], widths, numeric))
    return pages


def _page(
    head: list[Any],
    rows: list[list[Any]],
    heights: list[float],
    widths: list[float],
    numeric: list[bool],
) -> Any:
    """The rows of one page under the head."""
    from reportlab.platypus import Table as PageTable

    regular, _ = fonts()
    made = PageTable([head, *rows], colWidths=widths, rowHeights=heights)
    made.setStyle(
        [
            ("BACKGROUND", (0, 0), (-1, 0), "#E9E5F4"),
            ("LINEBELOW", (0, 0), (-1, -1), 0.25, "#DAD5CA"),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
            ("LEFTPADDING", (0, 0), (-1, -1), 2),
            ("RIGHTPADDING", (0, 0), (-1, -1), 3),
            ("TOPPADDING", (0, 0), (-1, -1), PAD),
            ("BOTTOMPADDING", (0, 0), (-1, -1), PAD),
            ("FONT", (0, 1), (-1, -1), regular, BODY, BODY * 1.2),
            *(("ALIGN", (n, 1), (n, -1), "RIGHT") for n, right in enumerate(numeric) if right),
        ]
    )
    return made


def _flowable(drawing: Drawing, width: float, height: float) -> Any:
    """The drawing as part of the page, as large as there is room, never larger than drawn."""
    from reportlab.platypus import Flowable

    factor = min(1.0, width / drawing.width, height / max(drawing.height, 1.0))

    class Picture(Flowable):  # type: ignore[misc]
        """The route."""

        def wrap(self, _width: float, _height: float) -> tuple[float, float]:
            return drawing.width * factor, drawing.height * factor

        def draw(self) -> None:
            self.canv.scale(factor, factor)
            for shape in drawing.shapes:
                draw_shape(self.canv, shape, drawing.height)

    return Picture()


def draw_shape(canvas: Any, shape: Shape, height: float) -> None:
    """One shape on a canvas whose y runs up from the lower edge of a drawing of a height."""
    if isinstance(shape, Stroke):
        canvas.setStrokeColor(shape.colour)
        canvas.setLineWidth(shape.width)
        canvas.setDash(*((3, 2) if shape.dashed else ()))
        path = canvas.beginPath()
        path.moveTo(shape.points[0][0], height - shape.points[0][1])
        for x, y in shape.points[1:]:
            path.lineTo(x, height - y)
        canvas.drawPath(path)
        canvas.setDash()
    elif isinstance(shape, Disc):
        canvas.setStrokeColor(shape.edge)
        canvas.setFillColor(shape.fill)
        canvas.setLineWidth(shape.width)
        canvas.circle(shape.x, height - shape.y, shape.r, stroke=1, fill=1)
    elif isinstance(shape, Frame):
        box = shape.box
        canvas.setStrokeColor(shape.edge)
        canvas.setFillColor(shape.fill)
        canvas.setLineWidth(shape.width)
        canvas.roundRect(box.x, height - box.bottom, box.width, box.height, 2, stroke=1, fill=1)
    else:
        _draw_words(canvas, shape, height)


def _draw_words(canvas: Any, words: Words, height: float) -> None:
    canvas.saveState()
    canvas.setFillColor(words.colour)
    canvas.setFont(fonts()[words.bold], words.size)
    canvas.translate(words.x, height - words.y)
    if words.upwards:
        canvas.rotate(90)
    text = printable(words.text)
    if words.centred:
        canvas.drawCentredString(0, 0, text)
    else:
        canvas.drawString(0, 0, text)
    canvas.restoreState()
