"""A face of the harness table as Qt sees it: rows filtered and sorted, the chosen columns."""

from functools import lru_cache

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt

from vervain.desktop.shared.plain import plain
from vervain.harness.conductors import natural_key
from vervain.tables.table_view import Cell, Column, Face, TableRow, cell_in_units, title_in_units

ROOT = QModelIndex()


@lru_cache(maxsize=200_000)
def sort_key(cell: Cell) -> tuple[int, float, tuple[tuple[int, int, str], ...]]:
    """Numbers first, then words in natural order, then what is empty."""
    if cell is None or cell == "":
        return 2, 0.0, ()
    if isinstance(cell, str):
        return 1, 0.0, natural_key(cell.casefold())
    return 0, float(cell), ()


def cell_text(cell: Cell) -> str:
    """A cell as it is shown."""
    if cell is None:
        return ""
    return cell if isinstance(cell, str) else f"{cell:g}"


class FaceModel(QAbstractTableModel):
    """The rows of one face that hold every word of the filter, sorted by a column."""

    def __init__(self) -> None:
        super().__init__()
        self.face: Face | None = None
        self.rows: list[TableRow] = []
        self.columns: list[tuple[int, Column]] = []
        self.filter = ""
        self.sorted_by: str | None = None
        self.order = Qt.SortOrder.AscendingOrder
        self._texts: dict[int, str] = {}

    def show_face(self, face: Face, shown: tuple[str, ...]) -> None:
        """Takes another face, or the same of a newer machine, and which columns are shown."""
        known = self.face
        same = known is not None and (known.name, known.rows) == (face.name, face.rows)
        columns = [(n, c) for n, c in enumerate(face.columns) if c.key in shown]
        if same and columns == self.columns:
            self.face = face
            return
        self.face, self.columns = face, columns
        self._texts = {}
        self._arrange()

    def set_filter(self, text: str) -> None:
        """Shows only the rows that hold every word."""
        self.filter = text
        self._arrange()

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        if 0 <= column < len(self.columns):
            self.sorted_by, self.order = self.columns[column][1].key, order
            self._arrange()

    def _text_of(self, number: int, row: TableRow) -> str:
        text = self._texts.get(number)
        if text is None:
            cells = " ".join(cell_text(cell) for cell in row.cells if cell not in (None, ""))
            text = self._texts[number] = f"{cells} {row.words}".casefold()
        return text

    def _arrange(self) -> None:
        if self.face is None:
            return
        words = self.filter.casefold().split()
        self.beginResetModel()
        rows = list(self.face.rows)
        if words:
            rows = [
                row
                for number, row in enumerate(rows)
                if all(word in self._text_of(number, row) for word in words)
            ]
        keys = self.face.keys
        if self.sorted_by in keys:
            at = keys.index(self.sorted_by)
            down = self.order == Qt.SortOrder.DescendingOrder
            # What is empty comes last, whichever way.
            filled = [row for row in rows if row.cells[at] not in (None, "")]
            empty = [row for row in rows if row.cells[at] in (None, "")]
            filled.sort(key=lambda row: sort_key(row.cells[at]), reverse=down)
            rows = filled + empty
        self.rows = rows
        self.endResetModel()

    def position_of(self, conductor: tuple[str, int]) -> int | None:
        """The first row shown of a conductor."""
        return next((n for n, row in enumerate(self.rows) if row.conductor == conductor), None)

    def position_of_cable(self, cable: str) -> int | None:
        """The first row shown of a cable."""
        return next((n for n, row in enumerate(self.rows) if row.cable == cable), None)

    def rowCount(self, parent: QModelIndex = ROOT) -> int:
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: QModelIndex = ROOT) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def headerData(
        self, section: int, orientation: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole
    ) -> str | int | None:
        if orientation != Qt.Orientation.Horizontal or section >= len(self.columns):
            return None
        column = self.columns[section][1]
        if role == Qt.ItemDataRole.DisplayRole:
            return title_in_units(column.title)
        if role == Qt.ItemDataRole.TextAlignmentRole and column.is_right:
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        return None

    def _shown(self, row: int, at: int, column: Column) -> str:
        return cell_text(cell_in_units(column.title, self.rows[row].cells[at]))

    def flags(self, index: QModelIndex) -> Qt.ItemFlag:
        flags = super().flags(index)
        if index.isValid() and self.columns[index.column()][1].is_ours:
            flags |= Qt.ItemFlag.ItemIsEditable
        return flags

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> str | int | None:
        if not index.isValid() or index.row() >= len(self.rows):
            return None
        at, column = self.columns[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self._shown(index.row(), at, column)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain(self._shown(index.row(), at, column))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.is_right else Qt.AlignmentFlag.AlignLeft
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        return None
