"""The conductor table as Qt sees it: rows sorted and filtered by the core's own keys."""

from typing import NamedTuple

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from vervain.desktop.session import Session
from vervain.files.tables import CONDUCTOR_COLUMNS, Cell, conductor_cells
from vervain.harness.conductors import ConductorRow, natural_key, rows_of_hookup
from vervain.harness.labels import core_name
from vervain.machine.look import Look, query

ROOT = QModelIndex()
# Columns of the window with their widths at 100 %; the exports split devices and pins.
COLUMNS = {
    "Label": 66,
    "From": 104,
    "Cable": 52,
    "Core": 42,
    "To": 74,
    "Lead": 82,
    "Device": 132,
    "mm²": 42,
    "m": 40,
    "Far label": 64,
    "Note": 54,
}
NAMES = tuple(COLUMNS)
EXPORTED = tuple(name for name, _ in CONDUCTOR_COLUMNS)
RIGHT_ALIGNED = ("mm²", "m")
COLOUR_COLUMNS = ("Core", "Lead")


class ShownRow(NamedTuple):
    """A conductor, its cells in the order of `COLUMNS`, and the text that the filter searches."""

    conductor: ConductorRow
    cells: tuple[Cell, ...]
    text: str


@query
def shown_rows(look: Look, hookup_id: str) -> tuple[ShownRow, ...]:
    """The rows of one hookup as the window shows them; kept until something in them changes."""
    names = {place.id: place.name for place in look.places()}
    found = []
    for row in rows_of_hookup(look, hookup_id):
        cells = shown_cells(look, row)
        ends = (look.device(name) for name in (row.start.device, row.end.device, *row.devices))
        places = [names.get(end.place or "", "") for end in ends if end is not None]
        text = " ".join(str(cell) for cell in (*cells, *places) if cell is not None)
        found.append(ShownRow(row, cells, text.casefold()))
    return tuple(found)


def shown_cells(look: Look, row: ConductorRow) -> tuple[Cell, ...]:
    """One conductor as the cells of `COLUMNS`."""
    cells = dict(zip(EXPORTED, conductor_cells(look, row), strict=True))
    return (
        cells["Label"],
        f"{cells['From']} {cells['From pin']}",
        core_name(row.cable, row.core) if row.cable else "",
        cells["Core colour"],
        f"{cells['To']} {cells['To pin']}",
        cells["Lead"],
        cells["Device"],
        cells["mm2"],
        cells["m"],
        cells["Label at To"],
        cells["Note"],
    )


class ConductorModel(QAbstractTableModel):
    """Rows of conductors; filtered by words, sorted by a column."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.rows: list[ShownRow] = []
        self._all: list[ShownRow] = []
        self.is_seen, self.is_stale = True, False
        self.filter = ""
        self.column = 0
        self.order = Qt.SortOrder.AscendingOrder
        self.reload()

    def reload(self) -> None:
        """Takes the rows from the machine; while nobody sees them, only once they are seen."""
        if not self.is_seen:
            self.is_stale = True
            return
        self.is_stale = False
        look = self.session.look
        made = [row for hookup in look.hookups() for row in shown_rows(look, hookup)]
        if made != self._all:
            self._all = made
            self._arrange()

    @property
    def count(self) -> int:
        """How many conductors there are, filtered or not."""
        return len(self._all)

    def set_filter(self, text: str) -> None:
        """Shows only the rows that hold every word."""
        self.filter = text
        self._arrange()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        self.column, self.order = column, order
        self._arrange()

    def _arrange(self) -> None:
        words = self.filter.casefold().split()
        self.beginResetModel()
        kept = [row for row in self._all if all(word in row.text for word in words)]
        column = self.column

        def key(row: ShownRow):
            cell = row.cells[column]
            if cell is None or cell == "":
                return 2, 0.0, ()
            if isinstance(cell, str):
                return 1, 0.0, natural_key(cell)
            return 0, float(cell), ()

        kept.sort(key=key, reverse=self.order == Qt.SortOrder.DescendingOrder)
        self.rows = kept
        self.endResetModel()

    def position(self, key: tuple[str, int]) -> int | None:
        """The place of a conductor among the rows shown."""
        return next((n for n, row in enumerate(self.rows) if row.conductor.key == key), None)

    def with_label(self, label: str) -> ConductorRow | None:
        """The conductor that carries a label at one of its ends, filtered or not."""
        wanted = label.strip().casefold()
        for row, _, _ in self._all:
            if wanted in (row.label_from.casefold(), row.label_to.casefold()):
                return row
        return None

    def rowCount(self, parent: QModelIndex = ROOT) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = ROOT) -> int:
        return 0 if parent.isValid() else len(COLUMNS)

    def headerData(self, section: int, orientation, role: int = Qt.ItemDataRole.DisplayRole):
        if orientation == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return NAMES[section]
        return None

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole):
        if not index.isValid():
            return None
        cell = self.rows[index.row()].cells[index.column()]
        name = NAMES[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            if cell is None:
                return ""
            return cell if isinstance(cell, str) else f"{cell:g}"
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = (
                Qt.AlignmentFlag.AlignRight if name in RIGHT_ALIGNED else Qt.AlignmentFlag.AlignLeft
            )
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        return None
