"""A part like another one: its figures as a table, changed where one's own differs."""

from msgspec.structs import replace
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QResizeEvent
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QScrollArea,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
)

from vervain.catalogue.part_doubts import doubts
from vervain.catalogue.part_figures import (
    Figure,
    Value,
    figure_text,
    figures,
    read_figure,
    with_figures,
)
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.shared.replacing import put_inside
from vervain.desktop.stages.machine.board_picture import part_picture
from vervain.desktop.stages.machine.part_page import PartPage, PartPlace, make_dense
from vervain.desktop.theme import looks
from vervain.model.base import LONGEST_NAME
from vervain.model.part import Part
from vervain.model.problem import Problem

COLUMNS = ("Where", "What", "Yours", "Unit", "It may be")
# Parts of the room that the columns take; the last has what is left.
WIDTHS = (0.27, 0.27, 0.16, 0.08)
ROOM_FOR_PICTURE = 620
YOURS, MOST_DOUBTS = 2, 3


class LikePage(PartPage):
    """At the left what the part is called and its figures, at the right how it looks."""

    def __init__(self, place: PartPlace) -> None:
        super().__init__(place)
        self.part: Part | None = None
        self.made: Part | None = None
        self.rows: tuple[Figure, ...] = ()
        self.filter = QLineEdit()
        self.filter.setClearButtonEnabled(True)
        self.table = QTableWidget(0, len(COLUMNS))
        self.problem = PlainLabel()
        self.problem.setWordWrap(True)
        self.picture = QScrollArea()
        self.picture.setAccessibleName("Drawing of the part")
        self.picture.setWidgetResizable(True)
        for field in (self.title, self.maker, self.model):
            field.setMaxLength(LONGEST_NAME)
        self._build()
        self.title.textChanged.connect(self.refresh)
        self.filter.textChanged.connect(self._filter)
        self.table.itemChanged.connect(self.refresh)

    def _build(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 10, 16, 10)
        column.setSpacing(8)
        names = ("Name", self.title), ("Maker", self.maker), ("Model", self.model)
        column.addLayout(self.heads((*names, ("Find a figure", self.filter))))
        middle = QHBoxLayout()
        middle.setSpacing(10)
        middle.addWidget(self.table, 5)
        middle.addWidget(self.picture, 2)
        column.addLayout(middle, 1)
        column.addWidget(self.problem)
        column.addLayout(self.foot())
        make_dense(self.table, COLUMNS, "Figures")
        self.table.setTabKeyNavigation(False)
        self.table.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        triggers = QTableWidget.EditTrigger
        self.table.setEditTriggers(
            triggers.AnyKeyPressed | triggers.DoubleClicked | triggers.EditKeyPressed
        )

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        has_picture = self.width() > looks.px(ROOM_FOR_PICTURE)
        self.picture.setVisible(has_picture)
        room = self.width() * (5 / 7 if has_picture else 1)
        for at, part in enumerate(WIDTHS):
            self.table.setColumnWidth(at, int(room * part))

    def show_part(self, part: Part, is_own: bool) -> None:
        """Begins with a part; one of the builder's own keeps its name, and is then changed."""
        self.part, self.rows = part, figures(part)
        self.words = f"Changing {part.title}." if is_own else f"A part like {part.title}."
        self.table.blockSignals(True)
        self.table.setRowCount(len(self.rows))
        for at, figure in enumerate(self.rows):
            may_be = ", ".join(figure.choices)
            unit = {"ohm": "Ω"}.get(figure.unit, figure.unit)
            cells = (figure.where, figure.words, figure_text(figure.value), unit, may_be)
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text)
                item.setToolTip(plain(text))
                if column != YOURS:
                    if column != 1:
                        item.setForeground(QColor(looks.theme.faded))
                    item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEditable)
                self.table.setItem(at, column, item)
        self.table.blockSignals(False)
        self.filter.clear()
        self.title.setText(part.title if is_own else f"{part.title}, mine"[:LONGEST_NAME])
        self.maker.setText(part.maker if is_own else "")
        self.model.setText(part.model if is_own else "")
        self.table.setCurrentCell(0, YOURS)
        self.refresh()

    def begin(self) -> None:
        """Puts the keyboard into the name, to be typed over."""
        self.title.setFocus()
        self.title.selectAll()

    def _filter(self, text: str) -> None:
        words = text.casefold().split()
        for at, figure in enumerate(self.rows):
            said = f"{figure.where} {figure.words}".casefold()
            self.table.setRowHidden(at, not all(word in said for word in words))

    def changes(self) -> tuple[list[tuple[Figure, Value]], str, int | None]:
        """What was changed, what of it was not understood, and in which row."""
        found: list[tuple[Figure, Value]] = []
        for at, figure in enumerate(self.rows):
            item = self.table.item(at, YOURS)
            typed = item.text().strip() if item is not None else ""
            if typed == figure_text(figure.value):
                continue
            try:
                found.append((figure, read_figure(figure, typed)))
            except Problem as problem:
                return found, f"{figure.where}: {figure.words}: {problem}", at
        return found, "", None

    def refresh(self) -> None:
        """Makes the part anew, draws it, and marks what was changed or is wrong."""
        if self.part is None:
            return
        changed, words, wrong = self.changes()
        self.made = None
        if not words:
            try:
                made = with_figures(self.part, changed)
                self.made = replace(
                    made,
                    title=self.title.text().strip() or self.part.title,
                    maker=self.maker.text().strip(),
                    model=self.model.text().strip(),
                )
                put_inside(self.picture, part_picture(self.made))
            except Problem as problem:
                words = str(problem)
                wrong = next((n for n, f in enumerate(self.rows) if f.where == problem.place), None)
        self._mark({figure.key for figure, _ in changed}, wrong)
        if not words and not self.title.text().strip():
            words = "It has no name yet."
        # What is left open is told, and does not hinder.
        left = list(doubts(self.made))[:MOST_DOUBTS] if self.made is not None else []
        told = [f"{doubt.where}: {doubt.what}. {doubt.remedy}".rstrip() for doubt in left]
        self.problem.setText("\n".join(told if not words else (words,)))
        self.problem.setStyleSheet(f"color: {looks.theme.doubt_text};")
        self.problem.setVisible(bool(words or told))
        self.save_button.setEnabled(not words)

    def _mark(self, changed: set[str], wrong: int | None) -> None:
        self.table.blockSignals(True)
        for at, figure in enumerate(self.rows):
            item = self.table.item(at, YOURS)
            if item is None:
                continue
            font = item.font()
            font.setBold(figure.key in changed or at == wrong)
            item.setFont(font)
            name = looks.theme.doubt_text if at == wrong else looks.theme.ink
            item.setForeground(QColor(name))
        self.table.blockSignals(False)

    def finished(self) -> Part | None:
        self.refresh()
        if self.made is None or not self.title.text().strip():
            self.session.say(self.problem.text())
            return None
        return self.made
