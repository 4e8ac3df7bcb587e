"""A part drawn into a file: its board or its plug, as PNG, SVG or PDF."""

import tempfile
from pathlib import Path

from PyQt6.QtCore import QMarginsF
from PyQt6.QtGui import QImage, QPageSize, QPainter, QPdfWriter
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import QWidget

from vervain.desktop.stages.machine.board_picture import BoardPicture, part_picture
from vervain.desktop.theme import PAPER, looks, narrow_family
from vervain.files.problems import FileProblem
from vervain.files.writing import write_whole
from vervain.model.part import Part

FORMS = ("png", "svg", "pdf")
BOARD_WIDE_PX, MOST_HIGH_PX, PLUG_WIDE_PX, SCALE, DOTS_PER_INCH = 1400, 2000, 520, 1.8, 144


def draw_part(part: Part, path: Path) -> None:
    """Writes the drawing of a part; the form is that of the file's name. Raises `FileProblem`."""
    form = path.suffix.removeprefix(".").casefold()
    if form not in FORMS:
        raise FileProblem(str(path), f"A drawing is {', '.join(FORMS[:-1])} or {FORMS[-1]}.")
    before = looks.theme, looks.scale, looks.family
    looks.change(PAPER, SCALE, narrow_family())
    try:
        picture = part_picture(part)
        if isinstance(picture, BoardPicture):
            picture.resize(BOARD_WIDE_PX, min(MOST_HIGH_PX, picture.height_for(BOARD_WIDE_PX)))
        else:
            picture.resize(PLUG_WIDE_PX, picture.sizeHint().height())
        data = _drawn(picture, part.title, form)
    finally:
        looks.change(*before)
    write_whole(path, data)


def _drawn(picture: QWidget, title: str, form: str) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        made = Path(folder) / f"part.{form}"
        if form == "png":
            image = QImage(picture.size(), QImage.Format.Format_RGB32)
            picture.render(image)
            image.save(str(made))
        elif form == "svg":
            svg = QSvgGenerator()
            svg.setFileName(str(made))
            svg.setSize(picture.size())
            svg.setViewBox(picture.rect())
            svg.setTitle(title)
            painter = QPainter(svg)
            picture.render(painter)
            painter.end()
        else:
            writer = QPdfWriter(str(made))
            writer.setResolution(DOTS_PER_INCH)
            writer.setTitle(title)
            size = picture.size() * 72.0 / DOTS_PER_INCH
            writer.setPageSize(QPageSize(size))
            writer.setPageMargins(QMarginsF(0, 0, 0, 0))
            painter = QPainter(writer)
            picture.render(painter)
            painter.end()
        return made.read_bytes()
