"""Pages of paper: the machine's stamp and the page's number on each, titles in the outline, tables
page by page, drawings as large as there is room.
"""

import io
from datetime import date
from functools import partial
from typing import Any
from xml.sax.saxutils import escape

from msgspec.structs import replace

from vervain.exports.formats import CONTROL
from vervain.exports.label_files import fonts, letters_lacking
from vervain.exports.stamp import Stamp, stamp_of
from vervain.exports.tables import Table
from vervain.files.machine_file import encode_machine
from vervain.harness.shapes import Code, Disc, Drawing, Frame, Shape, Stroke, Words
from vervain.model.machine import Machine
from vervain.tables.table_view import Cell

MARGIN = 36.0
# The line over every page: its size in points, its colour, and the most letters of one name.
HEAD_PT, FADED, MOST_NAME = 8, "#6A6674", 40
CONTINUED = ", continued"
LACKING = "The font of these pages has no shapes for some letters of the machine"
MOST_LACKING = 24
BODY, HEAD, TITLE, PAD = 7.5, 7.5, 14.0, 1.5
# A cell longer than this is cut: a page must not be filled by one name.
LONGEST_CELL = 300
PAGES = {"a4": (841.89, 595.28), "letter": (792.0, 612.0)}


def printable(text: str) -> str:
    """Text without what neither paper nor XML can hold."""
    return CONTROL.sub("", text)


class Paged:
    """A document whose pages have the machine's stamp and their number out of all."""

    def __init__(self, machine: Machine, title: str, paper: str, day: date | None) -> None:
        from reportlab.platypus import BaseDocTemplate, PageTemplate
        from reportlab.platypus import Frame as PageFrame

        self.size = width, height = PAGES[paper]
        self.stream = io.BytesIO()
        stamp = stamp_of(machine, day)
        self.lacking = letters_lacking(encode_machine(machine).decode())
        self.document = BaseDocTemplate(
            self.stream, pagesize=self.size, title=title, invariant=1,
            author=printable(machine.author), subject=printable(stamp.line),
            leftMargin=MARGIN, rightMargin=MARGIN, topMargin=MARGIN + 14, bottomMargin=MARGIN,
        )  # fmt: skip
        frame = PageFrame(MARGIN, MARGIN, width - 2 * MARGIN, height - 2 * MARGIN - 14, 0, 0, 0, 0)
        over = partial(_page_head, stamp, width, height)
        self.document.addPageTemplates([PageTemplate(id="page", frames=[frame], onPage=over)])
        self.document.afterFlowable = partial(_into_outline, self.document)

    def built(self, story: list[Any]) -> bytes:
        """The document with what is on its pages; letters of the machine that its font lacks are
        told on a page before them.
        """
        from reportlab.platypus import PageBreak, Paragraph

        width, height = self.size
        if self.lacking:
            # In numbers, for the letters themselves are what the font has not.
            named = ", ".join(f"U+{ord(letter):04X}" for letter in self.lacking[:MOST_LACKING])
            more = " and more" if len(self.lacking) > MOST_LACKING else ""
            told = Paragraph(f"{LACKING}: {named}{more}.", page_styles()["body"])
            title = Paragraph("Letters that are missing on these pages", page_styles()["title"])
            story = [title, told, PageBreak(), *story]
        maker = partial(_numbered_canvas(), width=width, height=height)
        self.document.build(story, canvasmaker=maker)
        return self.stream.getvalue()


def page_styles() -> dict[str, Any]:
    """The styles of paragraphs, by name: body, right, head, title."""
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


def _page_head(stamp: Stamp, width: float, height: float, canvas: Any, _: Any) -> None:
    """The stamp over every page, at the left; what does not fit is left out of the names."""
    regular, _bold = fonts()
    canvas.saveState()
    canvas.setFont(regular, HEAD_PT)
    canvas.setFillColor(FADED)
    texts = {"machine": stamp.machine, "state": stamp.state, "author": stamp.author}
    short = replace(stamp, **{key: printable(text)[:MOST_NAME] for key, text in texts.items()})
    canvas.drawString(MARGIN, height - MARGIN, short.line)
    canvas.restoreState()


def _into_outline(document: Any, flowable: Any) -> None:
    """Every title, and every drawing that is called something, is an entry of the outline, but for
    what goes on from the page before.
    """
    text = getattr(flowable, "entry", "")
    if getattr(flowable, "style", None) is not None and flowable.style.name == "title":
        text = flowable.getPlainText()
    if text and not text.endswith(CONTINUED):
        key = f"title {document.page} {text}"
        document.canv.bookmarkPage(key)
        document.canv.addOutlineEntry(text, key, 0)


def _numbered_canvas() -> type:
    """A canvas that writes "page n of N" once it knows how many there are."""
    from reportlab.pdfgen.canvas import Canvas

    class Numbered(Canvas):  # type: ignore[misc]
        def __init__(self, *arguments: Any, width: float, height: float, **keywords: Any) -> None:
            super().__init__(*arguments, **keywords)
            self.size = (width, height)
            self.pages: list[dict[str, Any]] = []

        def showPage(self) -> None:  # noqa: N802
            self.pages.append(dict(self.__dict__))
            self._startPage()

        def save(self) -> None:
            regular, _ = fonts()
            width, height = self.size
            for number, page in enumerate(self.pages, 1):
                self.__dict__.update(page)
                self.setFont(regular, HEAD_PT)
                self.setFillColor(FADED)
                words = f"page {number} of {len(self.pages)}"
                self.drawRightString(width - MARGIN, height - MARGIN, words)
                super().showPage()
            super().save()

    return Numbered


def table_pages(table: Table, width: float, room: float, styles: dict[str, Any]) -> list[Any]:
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


def flowable(drawing: Drawing, width: float, height: float) -> Any:
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
    elif isinstance(shape, Code):
        canvas.setFillColor("#000000")
        for box in shape.dark:
            canvas.rect(box.x, height - box.bottom, box.width, box.height, stroke=0, fill=1)
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
