"""A face of the harness table: its columns, and rows that know what they are about."""

from collections.abc import Hashable
from typing import Literal, NamedTuple

from vervain.model.machine import PinRef
from vervain.text.units import feet, gauge_words, is_metric

Cell = str | float | int | None


class Column(NamedTuple):
    """A column, addressed by its `key` and shown by its title. `letters` is its width; `is_right`
    aligns figures, `is_colours` cells of colour letters; `is_shown` says whether the window shows
    it before the builder chose, `is_joined` that it only joins others for the eye and is left out
    of exports; `is_ours` that it can be edited, `is_tick` that its cells are ticked; `is_printed`
    that paper has it, where room is scarce.
    """

    key: str
    title: str
    letters: int
    is_right: bool = False
    is_colours: bool = False
    is_shown: bool = True
    is_joined: bool = False
    is_ours: bool = False
    is_tick: bool = False
    is_printed: bool = True
    exported_as: str = ""

    @property
    def export_title(self) -> str:
        """The title in exports, which is kept from version to version."""
        return self.exported_as or self.title.replace("mm²", "mm2")


def _measure(title: str) -> Literal["length", "area", ""]:
    """What a column measures, by its title in the window or in an export."""
    if title == "m" or title.endswith(" m") or title == "Measured":
        return "length"
    return "area" if title in ("mm²", "mm2") else ""


def title_in_units(title: str) -> str:
    """The title of a column in the units that the builder chose."""
    measure = "" if is_metric() else _measure(title)
    if measure == "area":
        return "AWG"
    return title.removesuffix("m") + "ft" if measure and title.endswith("m") else title


def cell_in_units(title: str, cell: Cell) -> Cell:
    """A cell of a column in the units that the builder chose: feet, or a gauge in words. Lengths in
    a list, "10, 25", are turned each.
    """
    measure = "" if is_metric() or cell in (None, "") else _measure(title)
    if measure == "length":
        if isinstance(cell, str):
            pieces = cell.split(", ")
            is_list = all(piece.replace(".", "", 1).isdigit() for piece in pieces)
            return ", ".join(f"{feet(float(p)):g}" for p in pieces) if is_list else cell
        return feet(float(cell or 0))
    if measure == "area" and isinstance(cell, int | float):
        return gauge_words(cell).replace("AWG ", "")
    return cell


class TableRow(NamedTuple):
    """A row: what it is, its cells in the order of the columns, more words that a filter finds it
    by, and what is selected with it: a conductor, a cable, a pin; the marks that are kept where
    its steps are ticked.
    """

    key: Hashable
    cells: tuple[Cell, ...]
    words: str = ""
    conductor: tuple[str, int] | None = None
    cable: str | None = None
    pin: PinRef | None = None
    marks: tuple[str, ...] = ()


class Face(NamedTuple):
    """A face as a whole; `total` is what its tab tells."""

    name: str
    columns: tuple[Column, ...]
    rows: tuple[TableRow, ...]
    total: int

    @property
    def keys(self) -> tuple[str, ...]:
        """The keys of the columns."""
        return tuple(column.key for column in self.columns)

    def cell(self, row: TableRow, key: str) -> Cell:
        """The cell of a row in a column."""
        return row.cells[self.keys.index(key)]
