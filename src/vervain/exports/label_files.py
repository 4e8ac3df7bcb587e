"""Labels as PDF and SVG at their true size, and as CSV for programs that print."""

import io
import xml.etree.ElementTree as ElementTree
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

from vervain.exports.formats import csv_bytes
from vervain.exports.tables import Table
from vervain.harness.bundles import insulated_mm, strand_of_cable
from vervain.harness.label_layout import (
    PAPERS_MM,
    Label,
    Line,
    Placed,
    SheetForm,
    Square,
    Style,
    Text,
    check_sheet,
    lay_out_label,
    on_sheets,
)
from vervain.harness.label_texts import LabelText, changed_labels, label_texts
from vervain.harness.terminations import core_area_mm2
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_length

MM = 72 / 25.4
HAIRLINE_MM = 0.1
# Between two labels on tape.
GAP_MM = 4.0
# Fonts with more letters than a PDF's own, where the machine has them.
WIDE_FONTS = (
    ("/usr/share/fonts/truetype/dejavu/DejaVuSans.ttf",
     "/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf"),
)  # fmt: skip


@cache
def fonts() -> tuple[str, str]:
    """The names of the regular and the bold font for PDFs: one with many scripts where there is
    one, else that which comes with the PDF package.
    """
    import reportlab
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFError, TTFont

    shipped = Path(reportlab.__file__).parent / "fonts"
    choices = (*WIDE_FONTS, (str(shipped / "Vera.ttf"), str(shipped / "VeraBd.ttf")))
    for regular, bold in choices:
        try:
            pdfmetrics.registerFont(TTFont("vervain", regular))
            pdfmetrics.registerFont(TTFont("vervain-bold", bold))
        except TTFError:
            continue
        return "vervain", "vervain-bold"
    return "Helvetica", "Helvetica-Bold"


def letters_lacking(text: str) -> str:
    """The letters of a text that the font for PDFs has no shape for, each once, in order."""
    from reportlab.pdfbase import pdfmetrics

    face = getattr(pdfmetrics.getFont(fonts()[0]), "face", None)
    shapes: dict[int, int] | None = getattr(face, "charToGlyph", None)

    def is_known(letter: str) -> bool:
        # A font of the PDF reader's own has what Windows-1252 has.
        return ord(letter) in shapes if shapes else bool(letter.encode("cp1252", "ignore"))

    return "".join(c for c in dict.fromkeys(text) if c.isprintable() and not is_known(c))


def width_mm(text: str, size_mm: float, bold: bool) -> float:
    """The width of a text in a PDF; the size is that of the letters from top to bottom."""
    from reportlab.pdfbase.pdfmetrics import stringWidth

    return float(stringWidth(text, fonts()[bold], size_mm * MM)) / MM


def wire_diameter_mm(queries: Queries, text: LabelText) -> float:
    """The diameter of what a label goes around: a cable, or one insulated core."""
    if text.owner == "cable":
        strand = strand_of_cable(queries, text.cable)
        return strand.diameter_mm if strand is not None else 5.0
    area = core_area_mm2(queries, text.key[0]) if text.key else None
    return insulated_mm(area or 0.25)


def wanted_labels(
    queries: Queries, machine: Machine, owners: frozenset[str], only_changed: bool, cables: set[str]
) -> tuple[LabelText, ...]:
    """The labels to print: of cores, of cables; only those that changed since the last print; only
    of some cables, where any are named.
    """
    found = tuple(label for label in label_texts(queries) if label.owner in owners)
    if only_changed:
        found = changed_labels(found, machine.printed)
    return tuple(label for label in found if not cables or label.cable in cables)


def lay_out_labels(
    queries: Queries, name: str, texts: tuple[LabelText, ...], style: Style, sheet: SheetForm
) -> tuple[Label, ...]:
    """Every label laid out, for tape, or for the cells of a sheet. Raises `Problem`."""
    size = None
    if style.tape_mm is None:
        check_sheet(sheet)
        size = sheet.label_mm
    return tuple(
        lay_out_label(text, style, wire_diameter_mm(queries, text), name, width_mm, size)
        for text in texts
    )


def stock_words(labels: tuple[Label, ...], style: Style, sheet: SheetForm) -> str:
    """How much tape of which width labels take, with the gaps that are cut away, or how many
    sheets.
    """
    if style.tape_mm is not None:
        tape_m = sum(label.width + GAP_MM for label in labels) / 1000
        return f"{in_length(tape_m, '.1f')} of {style.tape_mm:g} mm tape"
    pages = len({placed.page for placed in on_sheets(labels, sheet)})
    return f"{pages} sheet{'' if pages == 1 else 's'}"


def labels_pdf(labels: tuple[Label, ...], style: Style, sheet: SheetForm, title: str) -> bytes:
    """A PDF at true size: a page a label on tape, sheets of cells otherwise."""
    from reportlab.pdfgen.canvas import Canvas

    stream = io.BytesIO()
    canvas = Canvas(stream, pageCompression=1)
    canvas.setTitle(title[:120])
    if style.tape_mm is not None:
        for label in labels:
            canvas.setPageSize((label.width * MM, label.height * MM))
            _draw(canvas, Placed(0, 0.0, 0.0, label), label.height)
            canvas.showPage()
    else:
        width, height = PAPERS_MM[sheet.paper]
        page = 0
        canvas.setPageSize((width * MM, height * MM))
        for placed in on_sheets(labels, sheet):
            if placed.page > page:
                canvas.showPage()
                canvas.setPageSize((width * MM, height * MM))
                page = placed.page
            _draw(canvas, placed, height)
        canvas.showPage()
    canvas.save()
    return stream.getvalue()


def _draw(canvas: Any, placed: Placed, page_height: float) -> None:
    """A label on a page of a PDF, whose y runs up from the lower edge."""
    left, top = placed.x, page_height - placed.y
    for shape in placed.label.shapes:
        if isinstance(shape, Text):
            canvas.setFont(fonts()[shape.bold], shape.size * MM)
            canvas.drawString((left + shape.x) * MM, (top - shape.y) * MM, shape.text)
        elif isinstance(shape, Square):
            x, y = left + shape.x, top - shape.y - shape.side
            canvas.rect(x * MM, y * MM, shape.side * MM, shape.side * MM, stroke=0, fill=1)
        else:
            canvas.setLineWidth(HAIRLINE_MM * MM)
            canvas.setDash(*((1.5, 1.5) if shape.dashed else ()))
            canvas.line(
                (left + shape.x1) * MM, (top - shape.y1) * MM,
                (left + shape.x2) * MM, (top - shape.y2) * MM,
            )  # fmt: skip


def label_svg(placed: tuple[Placed, ...], width: float, height: float) -> bytes:
    """One page of labels as SVG in millimetres."""
    root = ElementTree.Element(
        "svg",
        {
            "xmlns": "http://www.w3.org/2000/svg",
            "width": f"{width:g}mm",
            "height": f"{height:g}mm",
            "viewBox": f"0 0 {width:g} {height:g}",
        },
    )
    for label in placed:
        group = ElementTree.SubElement(
            root, "g", {"transform": f"translate({label.x:g} {label.y:g})"}
        )
        for shape in label.label.shapes:
            _svg_shape(group, shape)
    ElementTree.indent(root, " ")
    text = ElementTree.tostring(root, encoding="unicode")
    return f'<?xml version="1.0" encoding="UTF-8"?>\n{text}\n'.encode()


def _svg_shape(group: ElementTree.Element, shape: Text | Line | Square) -> None:
    if isinstance(shape, Text):
        drawn = ElementTree.SubElement(
            group,
            "text",
            {
                "x": f"{shape.x:g}",
                "y": f"{shape.y:g}",
                "font-size": f"{shape.size:g}",
                "font-family": "DejaVu Sans, Verdana, sans-serif",
                "font-weight": "bold" if shape.bold else "normal",
                "textLength": f"{width_mm(shape.text, shape.size, shape.bold):.3f}",
                "lengthAdjust": "spacingAndGlyphs",
            },
        )
        drawn.text = "".join(c for c in shape.text if c.isprintable())
    elif isinstance(shape, Square):
        ElementTree.SubElement(
            group,
            "rect",
            {
                "x": f"{shape.x:g}",
                "y": f"{shape.y:g}",
                "width": f"{shape.side:g}",
                "height": f"{shape.side:g}",
            },
        )
    else:
        ElementTree.SubElement(
            group,
            "line",
            {
                "x1": f"{shape.x1:g}",
                "y1": f"{shape.y1:g}",
                "x2": f"{shape.x2:g}",
                "y2": f"{shape.y2:g}",
                "stroke": "#888",
                "stroke-width": f"{HAIRLINE_MM:g}",
                **({"stroke-dasharray": "0.5 0.5"} if shape.dashed else {}),
            },
        )


def labels_svg(labels: tuple[Label, ...], style: Style, sheet: SheetForm) -> tuple[bytes, ...]:
    """SVG pages: tape as one strip of labels with a gap of 4 mm between, else a page a sheet."""
    if style.tape_mm is not None:
        x, strip = 0.0, []
        for label in labels:
            strip.append(Placed(0, round(x, 3), 0.0, label))
            x += label.width + GAP_MM
        return (label_svg(tuple(strip), round(max(x - GAP_MM, 1.0), 3), style.tape_mm),)
    width, height = PAPERS_MM[sheet.paper]
    placed = on_sheets(labels, sheet)
    pages = sorted({item.page for item in placed})
    return tuple(
        label_svg(tuple(item for item in placed if item.page == page), width, height)
        for page in pages
    )


LABEL_COLUMNS = (
    ("Label", 12), ("Of a", 6), ("At", 20), ("To", 34), ("Cable", 8), ("Around mm", 9),
    ("Length mm", 9), ("Code", 24),
)  # fmt: skip


def labels_csv(
    queries: Queries, name: str, texts: tuple[LabelText, ...], labels: tuple[Label, ...]
) -> bytes:
    """A row a label, for a program that prints them by its own form."""
    rows = tuple(
        (
            text.text, text.owner, text.at, text.to, text.cable,
            round(wire_diameter_mm(queries, text), 1), round(label.width, 1), f"{text.text} {name}",
        )
        for text, label in zip(texts, labels, strict=True)
    )  # fmt: skip
    return csv_bytes(Table(title="Labels", columns=LABEL_COLUMNS, rows=rows))


class LabelSet(NamedTuple):
    """Labels made: their texts, the files (a page of SVG each), and all that counts as printed from
    now on.
    """

    texts: tuple[LabelText, ...]
    files: tuple[bytes, ...]
    printed: tuple[str, ...]


def label_set(
    queries: Queries,
    machine: Machine,
    owners: frozenset[str],
    only_changed: bool,
    cables: set[str],
    style: Style,
    sheet: SheetForm,
    form: str,
) -> LabelSet:
    """The labels that are wanted as pdf, svg or csv. What was printed and is on no label any more
    is forgotten. Raises `Problem`.
    """
    texts = wanted_labels(queries, machine, owners, only_changed, cables)
    laid = lay_out_labels(queries, machine.name, texts, style, sheet)
    if form == "pdf":
        files: tuple[bytes, ...] = (labels_pdf(laid, style, sheet, f"Labels of {machine.name}"),)
    elif form == "svg":
        files = labels_svg(laid, style, sheet)
    else:
        files = (labels_csv(queries, machine.name, texts, laid),)
    still = {text.content for text in label_texts(queries)}
    printed = {content for content in machine.printed if content in still}
    return LabelSet(texts, files, tuple(sorted(printed | {text.content for text in texts})))
