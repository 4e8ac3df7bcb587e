"""The Harness stage: the conductor table, sorted, filtered, traced, labelled and exported."""

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, QRectF, Qt
from PyQt6.QtGui import QHideEvent, QPainter, QPalette, QShowEvent
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QStackedLayout,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.painting.wires import draw_bar
from vervain.desktop.session import Selection, Session
from vervain.desktop.stages.harness_model import COLOUR_COLUMNS, COLUMNS, NAMES, ConductorModel
from vervain.desktop.theme import looks
from vervain.desktop.widgets.stage_line import StageLine
from vervain.harness.templates import FIELDS, check_templates
from vervain.machine.edits import set_label_templates
from vervain.machine.machine import LabelTemplates
from vervain.machine.problem import Problem

NOTHING_YET = (
    "No conductor yet.\n\nPut a device into a port on the Ports stage; its leads appear here with "
    "their labels."
)
NOTHING_HOLDS = "No conductor holds all of these words.\n\nShorten the filter, or clear it."


class RowDelegate(QStyledItemDelegate):
    """Draws a cell without a frame of its own: the whole row is what is selected."""

    def initStyleOption(self, option: QStyleOptionViewItem | None, index: QModelIndex) -> None:
        super().initStyleOption(option, index)
        if option is not None:
            option.state &= ~QStyle.StateFlag.State_HasFocus
            chosen = bool(option.state & QStyle.StateFlag.State_Selected)
            option.font.setBold(index.column() == 0)
            if chosen and index.column() == 0:
                option.palette.setColor(QPalette.ColorRole.HighlightedText, looks.colour("accent"))


class ColourDelegate(RowDelegate):
    """Draws conductor colours as bars with their letters."""

    def paint(
        self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex
    ) -> None:
        if painter is None:
            return
        codes = str(index.data() or "").split()
        super().paint(painter, option, QModelIndex())
        box = QRectF(option.rect)
        width = looks.px(36)
        left = box.left() + 4
        for code in codes:
            draw_bar(painter, QRectF(left, box.top() + 3, width, box.height() - 6), code)
            left += width + 3


class RowsTable(QTableView):
    """The table of conductors; one row is selected at a time and traced."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.conductors = ConductorModel(session)
        self.setModel(self.conductors)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSortingEnabled(True)
        self.setShowGrid(False)
        self.setTabKeyNavigation(False)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setAccessibleName("Conductors")
        self.setItemDelegate(RowDelegate(self))
        for name in COLOUR_COLUMNS:
            self.setItemDelegateForColumn(NAMES.index(name), ColourDelegate(self))
        header = self.verticalHeader()
        if header is not None:
            header.hide()
        top = self.horizontalHeader()
        if top is not None:
            top.setDefaultAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
            top.setSectionResizeMode(QHeaderView.ResizeMode.Interactive)
            top.setHighlightSections(False)
            top.setStretchLastSection(True)
            top.setSortIndicator(0, Qt.SortOrder.AscendingOrder)
        self.conductors.modelReset.connect(self.follow_selection)
        session.machine_changed.connect(self.conductors.reload)
        session.selection_changed.connect(self.follow_selection)
        self.fit_columns()
        self.follow_selection()

    def fit_columns(self) -> None:
        """Sets the row height and the columns' widths for the text scale in force."""
        for number, width in enumerate(COLUMNS.values()):
            self.setColumnWidth(number, looks.px(width))
        header = self.verticalHeader()
        if header is not None:
            header.setDefaultSectionSize(looks.px(22))
            header.setMinimumSectionSize(looks.px(18))

    def currentChanged(self, current: QModelIndex, previous: QModelIndex) -> None:
        super().currentChanged(current, previous)
        if current.isValid() and self.hasFocus():
            self._select(current.row())

    def mousePressEvent(self, event) -> None:
        super().mousePressEvent(event)
        current = self.currentIndex()
        if current.isValid():
            self._select(current.row())

    def _select(self, number: int) -> None:
        row = self.conductors.rows[number].conductor
        if self.session.selection.conductor != row.key:
            self.session.select(Selection(conductor=row.key))

    def follow_selection(self) -> None:
        """Selects the row of the selected conductor, and shows it."""
        chosen = self.session.selection.conductor
        position = self.conductors.position(chosen) if chosen else None
        model = self.selectionModel()
        if model is None:
            return
        if position is None:
            model.clearSelection()
            return
        index = self.conductors.index(position, 0)
        flags = (
            QItemSelectionModel.SelectionFlag.ClearAndSelect
            | QItemSelectionModel.SelectionFlag.Rows
        )
        model.setCurrentIndex(index, flags)
        self.scrollTo(index)


class HarnessStage(QWidget):
    """The stage: its line, the label templates, the table."""

    def __init__(self, session: Session, save_as) -> None:
        super().__init__()
        self.session = session
        self._save_as = save_as
        self.line = StageLine()
        self.table = RowsTable(session)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter: Z head, W14, RD …   Ctrl+F")
        self.filter.setClearButtonEnabled(True)
        self.filter.setAccessibleName("Filter conductors")
        self.filter.textChanged.connect(self.table.conductors.set_filter)
        self.filter.returnPressed.connect(self.table.setFocus)
        self.filter.setFixedWidth(looks.px(230))
        self.templates_button = self.line.add_button(QPushButton("Label form"))
        self.templates_button.setCheckable(True)
        self.templates_button.toggled.connect(self._show_templates)
        self.export_button = self.line.add_button(QPushButton("Export  Ctrl+E"))
        self.export_button.clicked.connect(self.open_export)
        self.templates = self._template_editor()
        self.count = QLabel()
        self.count.setObjectName("head")
        self.empty = QLabel(NOTHING_YET)
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setObjectName("faded")
        head = QHBoxLayout()
        head.setContentsMargins(16, 6, 12, 6)
        head.addWidget(self.count)
        head.addStretch(1)
        head.addWidget(self.filter)
        self.body = QStackedLayout()
        self.body.addWidget(self.table)
        self.body.addWidget(self.empty)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        column.addWidget(self.templates)
        column.addLayout(head)
        column.addLayout(self.body, 1)
        self.setFocusProxy(self.table)
        for signal in (session.machine_changed, session.checked, session.selection_changed):
            signal.connect(self.refresh)
        self.table.conductors.modelReset.connect(self.refresh)
        self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        self.table.conductors.is_seen = True
        if self.table.conductors.is_stale:
            self.table.conductors.reload()
        super().showEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        self.table.conductors.is_seen = False
        super().hideEvent(event)

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.table.fit_columns()
        self.filter.setFixedWidth(looks.px(230))
        self.refresh()

    def refresh(self) -> None:
        """The line and the counts."""
        shown, every = len(self.table.conductors.rows), self.table.conductors.count
        filtered = f"{shown} of {every}" if shown != every else str(every)
        self.count.setText(f"Conductors  {filtered}")
        self.empty.setText(NOTHING_YET if not every else NOTHING_HOLDS)
        self.body.setCurrentWidget(self.table if shown else self.empty)
        found = self.session.findings(lambda f: f.stage == "Harness")
        if found:
            self.line.say(found[0].sentence, found[0].fixes[0].words if found[0].fixes else "")
        elif every:
            self.line.say("", "Every label is its own. Arrows trace a conductor below.")
        else:
            self.line.say("", "Nothing to label yet.")

    def go_to_label(self, text: str) -> bool:
        """Selects the conductor that carries a label."""
        self.table.conductors.is_seen = True
        if self.table.conductors.is_stale:
            self.table.conductors.reload()
        row = self.table.conductors.with_label(text)
        if row is None:
            return False
        if self.table.conductors.position(row.key) is None:
            self.filter.clear()
        self.session.select(Selection(conductor=row.key))
        return True

    def _template_editor(self) -> QFrame:
        frame = QFrame()
        row = QHBoxLayout(frame)
        row.setContentsMargins(16, 6, 12, 6)
        self.core_template, self.lead_template = QLineEdit(), QLineEdit()
        for title, field in (("Cores", self.core_template), ("Leads", self.lead_template)):
            row.addWidget(QLabel(title))
            row.addWidget(field, 1)
            field.returnPressed.connect(self.take_templates)
            field.setToolTip("Fields: " + ", ".join(f"{{{name}}}" for name in FIELDS))
            field.setAccessibleName(f"Label form of {title.lower()}")
        take = QPushButton("Label anew")
        take.clicked.connect(self.take_templates)
        row.addWidget(take)
        frame.hide()
        return frame

    def _show_templates(self, shown: bool) -> None:
        templates = self.session.machine.label_templates
        self.core_template.setText(templates.core)
        self.lead_template.setText(templates.lead)
        self.templates.setVisible(shown)
        if shown:
            self.core_template.setFocus()

    def take_templates(self) -> None:
        """Takes the label templates, or says what is wrong with them."""
        wanted = LabelTemplates(core=self.core_template.text(), lead=self.lead_template.text())
        try:
            check_templates(wanted)
        except Problem as problem:
            self.session.say(str(problem))
            return
        self.session.apply(
            f"Label form: {wanted.core}", lambda machine: set_label_templates(machine, wanted)
        )

    def open_export(self) -> None:
        """Asks for the form of the export, then where to."""
        menu = QMenu(self)
        for form, words in (
            ("csv", "Conductors as CSV …"),
            ("xlsx", "Workbook: conductors, cables, devices, findings …"),
            ("json", "All tables as JSON …"),
        ):
            action = menu.addAction(words)
            if action is not None:
                action.triggered.connect(lambda _, form=form: self._save_as(form))
        button = self.export_button
        menu.popup(button.mapToGlobal(button.rect().bottomLeft()))
