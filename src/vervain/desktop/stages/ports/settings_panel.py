"""The settings sheet in the window: what to set outside the wiring, and because of what."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QColor, QKeyEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.plain import plain
from vervain.desktop.theme import looks
from vervain.tables.setting_row import SettingRow
from vervain.tables.settings_sheet import settings_sheet

COLUMNS = ("Where", "What", "Set to", "Because of")
WIDTHS = (84, 140, 250)
SHARES = (0.12, 0.22, 0.36)


class SettingsPanel(QTableWidget):
    """The rows group by group; Enter opens the card of what is set there."""

    left = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(0, len(COLUMNS))
        self.session = session
        self.rows: list[SettingRow | None] = []
        self._shown: tuple[SettingRow, ...] | None = None
        self.setHorizontalHeaderLabels(list(COLUMNS))
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.setSelectionBehavior(QTableWidget.SelectionBehavior.SelectRows)
        self.setSelectionMode(QTableWidget.SelectionMode.SingleSelection)
        self.setAccessibleName("Settings sheet")
        self.setTabKeyNavigation(False)
        self.setShowGrid(False)
        side, head = self.verticalHeader(), self.horizontalHeader()
        if side is not None and head is not None:
            side.hide()
            head.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
            head.setSectionResizeMode(len(COLUMNS) - 1, QHeaderView.ResizeMode.Stretch)
        self.currentCellChanged.connect(lambda row, *_: self._select(row))
        session.machine_changed.connect(self.refresh)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.refresh()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._share_width()

    def _share_width(self) -> None:
        """The columns as wide as their text wants, and at large text as the table allows."""
        area = self.viewport()
        for column, (width, share) in enumerate(zip(WIDTHS, SHARES, strict=True)):
            room = area.width() * share if area is not None else width
            self.setColumnWidth(column, round(min(looks.px(width), room)))

    def refresh(self) -> None:
        """Fills the table, if it is seen and anything changed."""
        if not self.isVisible():
            return
        sheet = settings_sheet(self.session.queries)
        side = self.verticalHeader()
        if side is not None:
            side.setDefaultSectionSize(looks.px(24))
        self._share_width()
        if sheet == self._shown:
            return
        self._shown = sheet
        self.rows = []
        for entry in sheet:
            if not self.rows or _group_of(self.rows) != entry.group:
                self.rows.append(None)
            self.rows.append(entry)
        self.blockSignals(True)
        self.setRowCount(len(self.rows))
        following = [*self.rows[1:], None]
        for at, row in enumerate(self.rows):
            below = following[at]
            if row is None:
                self._heading(at, below.group if below is not None else "")
            else:
                cells = (row.where, row.what, row.value, row.because)
                for column, text in enumerate(cells):
                    self._cell(at, column, text, bold=column == 2)
        self.blockSignals(False)

    def _heading(self, at: int, title: str) -> None:
        for column in range(len(COLUMNS)):
            self._cell(at, column, title if column == 0 else "", bold=True, heading=True)

    def _cell(self, at: int, column: int, text: str, bold: bool, heading: bool = False) -> None:
        item = QTableWidgetItem(text)
        item.setFont(looks.font(12, bold=bold))
        item.setToolTip(plain(text))
        if heading:
            item.setBackground(QColor(looks.theme.paper))
        elif column != 2:
            item.setForeground(QColor(looks.theme.ink if column < 2 else looks.theme.faded))
        self.setItem(at, column, item)

    def _select(self, at: int) -> None:
        row = self.rows[at] if 0 <= at < len(self.rows) else None
        if row is not None:
            axis = row.where if row.group == "Axes" else None
            chosen = Selection(axis=axis) if axis else Selection(device=row.device, port=row.port)
            self.session.select(chosen)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.session.card_wanted.emit()
        elif event.key() == Qt.Key.Key_Escape or event.text().casefold() == "s":
            self.left.emit()
        else:
            super().keyPressEvent(event)


def _group_of(rows: list[SettingRow | None]) -> str:
    last = rows[-1]
    return last.group if last is not None else ""
