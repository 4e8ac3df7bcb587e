"""The table under the route: one face at a time, its columns, its cells edited in place."""

from collections.abc import Callable

from PyQt6.QtCore import (
    QAbstractItemModel,
    QItemSelectionModel,
    QModelIndex,
    QRectF,
    Qt,
    pyqtSignal,
)
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPalette, QPen, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHeaderView,
    QLineEdit,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from vervain.desktop.session import Selection, Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.wire_painting import draw_bar
from vervain.desktop.stages.harness.table_model import FaceModel
from vervain.desktop.stages.harness.table_worker import TableWorker
from vervain.desktop.theme import looks
from vervain.edits.common import Edit
from vervain.harness.cable_routes import cable_ports
from vervain.model.cable_part import CablePart
from vervain.model.problem import Problem
from vervain.tables.cell_edits import OPEN, SPARES, edit_for, tick, tick_next
from vervain.tables.sheet_face import DONE, NO_STEP
from vervain.tables.table_view import Face, TableRow
from vervain.text.quantities import NotAQuantity

LETTER_PX, TITLE_PX = 6.4, 7.4
HEADS_BESIDE = 16


class RowDelegate(QStyledItemDelegate):
    """Draws a cell without a frame of its own, colours as bars; edits what is ours."""

    def __init__(self, table: "FaceTable") -> None:
        super().__init__(table)
        self.table = table

    def initStyleOption(self, option: QStyleOptionViewItem | None, index: QModelIndex) -> None:
        super().initStyleOption(option, index)
        if option is not None:
            option.state &= ~QStyle.StateFlag.State_HasFocus
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            option.font.setBold(index.column() == 0)
            if chosen and index.column() == 0:
                option.palette.setColor(QPalette.ColorRole.HighlightedText, looks.colour("accent"))

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        column = self.table.faces.columns[index.column()][1]
        if painter is not None and column.is_tick and index.data() != NO_STEP:
            self._paint_tick(painter, option, str(index.data() or ""))
            return
        if painter is None or not column.is_colours:
            super().paint(painter, option, index)
            return
        codes = str(index.data() or "").split()
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, looks.colour("wash"))
        width = min(looks.px(36), (box.width() - 6) / max(1, len(codes)) - 3)
        left = box.left() + 4
        for code in codes:
            draw_bar(painter, QRectF(left, box.top() + 3, width, box.height() - 6), code)
            left += width + 3

    def _paint_tick(self, painter: QPainter, option: QStyleOptionViewItem, text: str) -> None:
        """A box, ticked where its step is done; beside it what else is to be said."""
        box = QRectF(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(box, looks.colour("wash"))
        side = looks.px(11)
        tick = QRectF(box.left() + 4, box.center().y() - side / 2, side, side)
        painter.setPen(QPen(looks.colour("faded"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRect(tick)
        painter.setFont(looks.font(bold=text == DONE))
        painter.setPen(looks.colour("good" if text == DONE else "doubt_text"))
        if text == DONE:
            painter.drawText(tick.adjusted(-4, -4, 4, 4), Qt.AlignmentFlag.AlignCenter, DONE)
        else:
            words = box.adjusted(side + 8, 0, 0, 0)
            painter.drawText(words, Qt.AlignmentFlag.AlignVCenter, text)

    def createEditor(
        self, parent: QWidget | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> QWidget | None:
        key = self.table.faces.columns[index.column()][1].key
        choices: tuple[str, ...] = ()
        if key == "kind":
            choices = tuple(part.title for part in self.table.shelf().values())
        elif key == "spares":
            choices = tuple(word or OPEN for word in SPARES)
        elif key == "cable" and self.table.shows_conductors():
            kinds = (part.title for part in self.table.shelf().values())
            choices = ("", *self.table.session.queries.cables(), *kinds)
        elif key == "shield_at":
            choices = ("nowhere", "both", *self.table.shield_ends(index.row()))
        elif key == "own_sleeve":
            choices = ("", "yes")
        if not choices:
            field = QLineEdit(parent)
            field.setFrame(False)
            return field
        box = QComboBox(parent)
        box.setEditable(key in ("kind", "cable", "shield_at"))
        box.addItems(choices)
        box.setMinimumWidth(looks.px(220 if key in ("kind", "cable") else 96))
        return box

    def setEditorData(self, editor: QWidget | None, index: QModelIndex) -> None:
        text = str(index.data() or "")
        if isinstance(editor, QComboBox):
            editor.setCurrentText(text)
        elif isinstance(editor, QLineEdit):
            editor.setText(text)
            editor.selectAll()

    def setModelData(
        self, editor: QWidget | None, model: QAbstractItemModel | None, index: QModelIndex
    ) -> None:
        text = ""
        if isinstance(editor, QComboBox):
            text = editor.currentText()
        elif isinstance(editor, QLineEdit):
            text = editor.text()
        if text != str(index.data() or ""):
            self.table.take(index, text)


class FaceTable(QTableView):
    """The rows of the face that is shown. The current row is traced; several are edited at once."""

    arranged = pyqtSignal()

    def __init__(
        self,
        session: Session,
        keeper: TableWorker,
        settings: Settings,
        shelf: Callable[[], dict[str, CablePart]],
    ) -> None:
        super().__init__()
        self.session, self.keeper, self.settings, self.shelf = session, keeper, settings, shelf
        self.faces = FaceModel()
        self._following = False
        self._shown_face = ""
        self.setModel(self.faces)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        triggers = QAbstractItemView.EditTrigger
        self.setEditTriggers(triggers.EditKeyPressed | triggers.DoubleClicked)
        self.setSortingEnabled(True)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setItemDelegate(RowDelegate(self))
        rows, top = self.verticalHeader(), self.horizontalHeader()
        if rows is not None:
            rows.hide()
            rows.setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        if top is not None:
            top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            top.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
            top.setHighlightSections(False)
            top.setStretchLastSection(True)
            top.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
        keeper.changed.connect(self.show_face)
        session.selection_changed.connect(self.follow_selection)
        self.fit_rows()

    def shows_conductors(self) -> bool:
        """Whether the face that is shown is Conductors."""
        face = self.faces.face
        return face is not None and face.name == "Conductors"

    def shield_ends(self, number: int) -> tuple[str, ...]:
        """The ports that the cable of a row comes to, as they are written."""
        cable = self.faces.rows[number].cable
        ports = cable_ports(self.session.queries, cable) if cable else ()
        return tuple(f"{port.device} {port.port}" for port in ports)

    # Columns.

    def chosen_columns(self, face: Face) -> tuple[str, ...]:
        """The keys of the columns that the builder chose for a face, else of those that it begins
        with.
        """
        kept = self.settings.columns(face.name)
        known = [key for key in kept if key in face.keys]
        if known:
            return tuple(known)
        return tuple(column.key for column in face.columns if column.is_shown)

    def choose_column(self, key: str, shown: bool) -> None:
        """Shows a column, or hides it; the last one stays."""
        face = self.keeper.face
        if face is None:
            return
        chosen = [other for other in self.chosen_columns(face) if other != key]
        if shown:
            chosen.append(key)
        if chosen:
            self.settings.keep_columns(face.name, tuple(chosen))
            self._shown_face = ""
            self.show_face()

    def show_face(self) -> None:
        """Takes the face that is shown from the keeper."""
        face = self.keeper.face
        if face is None:
            return
        if self._shown_face != face.name:
            self.faces.sorted_by = None
            top = self.horizontalHeader()
            if top is not None:
                top.blockSignals(True)
                top.setSortIndicator(-1, Qt.SortOrder.AscendingOrder)
                top.blockSignals(False)
        keys = {self.faces.rows[index.row()].key for index in self._chosen_indexes()}
        self.faces.show_face(face, self.chosen_columns(face))
        self.setAccessibleName(face.name)
        if self._shown_face != face.name:
            self._shown_face = face.name
            self.fit_columns()
            self.setCurrentIndex(QModelIndex())
            self.scrollToTop()
        self._choose_again(keys)
        self.follow_selection()
        self.arranged.emit()

    def fit_rows(self) -> None:
        """The row height for the text scale in force."""
        header = self.verticalHeader()
        if header is not None:
            header.setMinimumSectionSize(looks.px(18))
            header.setDefaultSectionSize(looks.px(22))

    def fit_columns(self) -> None:
        """The columns' widths: what their letters want, the rest shared out where there is room."""
        columns = [column for _, column in self.faces.columns]
        wanted = [max(c.letters, len(c.title) + 1) * LETTER_PX + HEADS_BESIDE for c in columns]
        area = self.viewport()
        room = area.width() / looks.scale if area is not None else 0.0
        bar = self.verticalScrollBar()
        if bar is not None and not bar.isVisible():
            # Many rows bring the bar in; the last column takes what it leaves.
            room -= bar.sizeHint().width() / looks.scale
        factor = max(1.0, min(1.6, room / sum(wanted))) if wanted else 1.0
        if sum(wanted) > room > 0:
            factor = max(0.8, room / sum(wanted))
        for number, (width, column) in enumerate(zip(wanted, columns, strict=True)):
            least = len(column.title) * TITLE_PX + HEADS_BESIDE
            self.setColumnWidth(number, looks.px(max(width * factor, least)))

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if event is not None and event.oldSize().width() != event.size().width():
            self.fit_columns()

    # Selecting.

    def _chosen_indexes(self) -> list[QModelIndex]:
        model = self.selectionModel()
        return model.selectedRows() if model is not None else []

    def chosen_rows(self) -> list[TableRow]:
        """The rows that are selected, from above."""
        numbers = sorted(index.row() for index in self._chosen_indexes())
        return [self.faces.rows[number] for number in numbers if number < len(self.faces.rows)]

    def _choose_again(self, keys: set[object]) -> None:
        """After an edit the same rows are selected."""
        model = self.selectionModel()
        if model is None or len(keys) < 2:
            return
        flags = QItemSelectionModel.SelectionFlag
        for number, row in enumerate(self.faces.rows):
            if row.key in keys:
                index = self.faces.index(number, 0)
                model.select(index, flags.Select | flags.Rows)

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.isValid() and self.hasFocus() and not self._following:
            self._select(current.row())

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        super().mousePressEvent(event)
        current = self.currentIndex()
        if current.isValid():
            self._select(current.row())
        if event is None or event.modifiers() or event.button() != Qt.MouseButton.LeftButton:
            return
        pressed = self.indexAt(event.position().toPoint())
        if pressed.isValid() and self.faces.columns[pressed.column()][1].is_tick:
            self.tick(pressed)

    def _select(self, number: int) -> None:
        if number >= len(self.faces.rows):
            return
        row = self.faces.rows[number]
        chosen = self.session.selection
        if row.conductor is not None:
            if chosen.conductor != row.conductor or row.pin is not None:
                pin = row.pin
                self.session.select(
                    Selection(
                        conductor=row.conductor,
                        device=pin.device if pin else None,
                        port=pin.port if pin else None,
                        pin=pin.pin if pin else None,
                    )
                )
        elif row.pin is not None:
            pin = row.pin
            self.session.select(Selection(device=pin.device, port=pin.port, pin=pin.pin))

    def follow_selection(self) -> None:
        """Selects the row of the selected conductor, and shows it."""
        chosen = self.session.selection.conductor
        current = self.currentIndex()
        rows = self.faces.rows
        if chosen is None:
            return
        at = current.row() if current.isValid() else -1
        if 0 <= at < len(rows) and rows[at].conductor == chosen:
            return
        position = self.faces.position_of(chosen)
        hookup = self.session.queries.hookup(chosen[0])
        if position is None and hookup is not None and hookup.cable:
            position = self.faces.position_of_cable(hookup.cable)
        model = self.selectionModel()
        if model is None or position is None:
            return
        index = self.faces.index(position, 0)
        flags = QItemSelectionModel.SelectionFlag
        self._following = True
        model.setCurrentIndex(index, flags.ClearAndSelect | flags.Rows)
        self._following = False
        self.scrollTo(index)

    # Editing.

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None or self.state() == QAbstractItemView.State.EditingState:
            # The key that ends an edit comes through here as well.
            return
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.edit_row()
            return
        if event.key() == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
            return
        if event.text().isalpha() and not event.modifiers():
            # Letters are the stage's keys, not a search in the first column.
            event.ignore()
            return
        super().keyPressEvent(event)

    def edit_row(self) -> None:
        """Opens the cell under the keyboard, or the first of its row that is ours to change."""
        current = self.currentIndex()
        if not current.isValid():
            return
        if self.faces.columns[current.column()][1].is_tick:
            self.tick(current)
            return
        ours = [n for n, (_, column) in enumerate(self.faces.columns) if column.is_ours]
        if not ours:
            self.session.say("Nothing in this face is changed here.")
            return
        column = current.column() if current.column() in ours else ours[0]
        index = self.faces.index(current.row(), column)
        model = self.selectionModel()
        if model is not None:
            model.setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
        self.edit(index)

    def tick(self, index: QModelIndex) -> None:
        """Ticks the step under the keyboard or the mouse, in every selected row."""
        step = self.faces.columns[index.column()][1]
        try:
            self._apply_ticks(step.title, tick(self._rows_at(index), step.key), index)
        except Problem as problem:
            self.session.say(str(problem))

    def tick_next(self) -> None:
        """Ticks the next step of each selected row."""
        current = self.currentIndex()
        if not current.isValid():
            return
        try:
            self._apply_ticks("Next step", tick_next(self._rows_at(current)), current)
        except Problem as problem:
            self.session.say(str(problem))

    def _rows_at(self, index: QModelIndex) -> list[TableRow]:
        return self.chosen_rows() or [self.faces.rows[index.row()]]

    def _apply_ticks(self, words: str, edit: Edit, index: QModelIndex) -> None:
        rows = self._rows_at(index)
        names = f"{rows[0].cells[0]}" if len(rows) == 1 else f"{len(rows)} cables"
        self.session.apply(f"{words}: {names}", edit)

    def take(self, index: QModelIndex, text: str) -> None:
        """Gives the cell, and the same cell of every other selected row, the value in a text."""
        face = self.keeper.face
        if face is None:
            return
        column = self.faces.columns[index.column()][1]
        rows = self.chosen_rows()
        here = self.faces.rows[index.row()]
        if here not in rows:
            rows = [here]
        try:
            edit = edit_for(face, column.key, rows, text, self.shelf)
        except (Problem, NotAQuantity) as problem:
            self.session.say(str(problem))
            return
        many = f" in {len(rows)} rows" if len(rows) > 1 else f" of {here.cells[0]}"
        self.session.apply(f"{column.title}{many}: {text.strip() or 'none'}"[:70], edit)
