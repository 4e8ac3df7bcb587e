"""Every single fault of the stops as a table, filtered; the chosen one is shown in the strings."""

from collections.abc import Callable
from typing import Any

from PyQt6.QtCore import QAbstractTableModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QFont
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.shared.plain import ElidedLabel, set_tip
from vervain.desktop.theme import looks
from vervain.tables.stop_rows import NOTICED_WORDS, StopRow

COLUMNS = ("Fault", "Seen", "Power", "Noticed")
SHARES = (34, 22, 29, 15)
ROLE = Qt.ItemDataRole


class FaultModel(QAbstractTableModel):
    """The rows that the filter leaves; `at` says which of all each is."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[StopRow, ...] = ()
        self.at: list[int] = []

    def show_rows(self, rows: tuple[StopRow, ...], wanted: Callable[[StopRow], bool]) -> None:
        """Takes the rows that are wanted."""
        self.beginResetModel()
        self.rows = rows
        self.at = [number for number, row in enumerate(rows) if wanted(row)]
        self.endResetModel()

    def rowCount(self, parent: QModelIndex | None = None) -> int:
        return 0 if parent is not None and parent.isValid() else len(self.at)

    def columnCount(self, parent: QModelIndex | None = None) -> int:
        return len(COLUMNS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if orientation == Qt.Orientation.Horizontal and role == ROLE.DisplayRole:
            return COLUMNS[section]
        return None

    def data(self, index: QModelIndex, role: int = 0) -> Any:
        row = self.rows[self.at[index.row()]]
        cells = (row.fault, row.sees, row.power, NOTICED_WORDS[row.noticed])
        if role in (ROLE.DisplayRole, ROLE.ToolTipRole):
            return cells[index.column()]
        if role == ROLE.ForegroundRole:
            if row.is_grave and index.column() >= 2:
                return QColor(looks.theme.bad)
            if row.noticed == "at once" and index.column() == 3:
                return QColor(looks.theme.good)
        if role == ROLE.FontRole and row.is_grave:
            font = QFont(looks.font(11))
            font.setBold(True)
            return font
        return None


class FaultTable(QWidget):
    """The table under its head; `chose` tells which of all faults was chosen."""

    chose = pyqtSignal(int)
    wants_second = pyqtSignal(bool)

    def __init__(self) -> None:
        super().__init__()
        self.rows: tuple[StopRow, ...] = ()
        self.head = ElidedLabel()
        self.head.setObjectName("head")
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter the faults")
        self.filter.setAccessibleName("Filter the faults")
        self.filter.setClearButtonEnabled(True)
        self.grave = QCheckBox("Only what defeats a stop")
        self.after = QCheckBox("After what is broken")
        set_tip(self.after, "Which second fault would then defeat a stop?")
        self.after_words = ""
        self.model = FaultModel()
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Every single fault")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setTabKeyNavigation(False)
        self.table.setShowGrid(False)
        self.table.setAlternatingRowColors(False)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        header, rows = self.table.horizontalHeader(), self.table.verticalHeader()
        if header is not None and rows is not None:
            header.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
            header.setStretchLastSection(True)
            header.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
            rows.hide()
            rows.setDefaultSectionSize(looks.px(21))
        line = QHBoxLayout()
        line.addWidget(self.head, 1)
        line.addWidget(self.after)
        line.addWidget(self.grave)
        line.addWidget(self.filter)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 4, 16, 6)
        column.setSpacing(4)
        column.addLayout(line)
        column.addWidget(self.table, 1)
        self.filter.textChanged.connect(self._show)
        self.grave.toggled.connect(self._show)
        self.after.toggled.connect(self.wants_second)
        chosen = self.table.selectionModel()
        if chosen is not None:
            chosen.currentRowChanged.connect(lambda now, _: self._choose(now))

    def show_rows(self, rows: tuple[StopRow, ...], after_words: str = "") -> None:
        """Shows other faults: every single one, or every further one after some in words."""
        self.rows, self.after_words = rows, after_words
        self.grave.setEnabled(not after_words)
        self._show()

    def _show(self) -> None:
        words, only = self.filter.text().casefold().split(), self.grave.isChecked()

        def wanted(row: StopRow) -> bool:
            text = f"{row.fault} {row.sees} {row.power}".casefold()
            return (row.is_dangerous or not only) and all(word in text for word in words)

        self.model.show_rows(self.rows, wanted)
        if self.after_words:
            self.head.setText(f"After {self.after_words}: {len(self.rows)} more defeat a stop")
            return
        grave = sum(row.is_grave for row in self.rows)
        told = "none defeats a stop unnoticed" if not grave else f"{grave} defeat a stop unnoticed"
        self.head.setText(f"{len(self.rows)} single faults, {told}")

    def _choose(self, index: QModelIndex) -> None:
        if index.isValid():
            self.chose.emit(self.model.at[index.row()])

    def resizeEvent(self, event: object) -> None:
        viewport = self.table.viewport()
        wide = viewport.width() if viewport is not None else self.width()
        for column, share in enumerate(SHARES):
            self.table.setColumnWidth(column, wide * share // sum(SHARES))
