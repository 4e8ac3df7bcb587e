"""The versions of a file and unsaved work that was found: looked at, compared, taken, opened."""

from collections.abc import Callable
from datetime import datetime
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QSpinBox,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.background import in_background
from vervain.desktop.documents.documents import Documents
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.files.autosave import LeftOver
from vervain.files.versions import (
    ORIGIN_WORDS,
    VersionRow,
    VersionRules,
    open_version,
    version_rows,
    versions_of,
)
from vervain.model.machine import Machine

MOST_LINES = 400


def moment_words(at: datetime) -> str:
    """A moment as one reads it, in the zone of this computer."""
    return at.astimezone().strftime("%d %b %Y, %H:%M:%S")


class VersionsPanel(QFrame):
    """A list of versions at the left, what differs at the right, what can be done below."""

    def __init__(
        self,
        parent: QWidget,
        session: Session,
        documents: Documents,
        settings: Settings,
        compare: Callable[[Path], object],
    ) -> None:
        super().__init__(parent)
        self.setObjectName("popup")
        self.session, self.documents, self.settings = session, documents, settings
        self.compare = compare
        self.rows: tuple[VersionRow, ...] = ()
        self.kept: LeftOver | None = None
        self.title = PlainLabel()
        self.title.setObjectName("head")
        self.list = QListWidget()
        self.list.setAccessibleName("Versions, the newest first")
        self.list.currentRowChanged.connect(lambda _: self._show_row())
        self.list.itemActivated.connect(lambda _: self.take())
        self.heading = PlainLabel()
        self.heading.setObjectName("faded")
        self.differences = QListWidget()
        self.differences.setAccessibleName("What differs")
        self.differences.setWordWrap(True)
        self.take_button = self._button("Take it  Enter", self.take)
        self.take_button.setObjectName("main")
        self.open_button = self._button("Open it apart", self.open_apart)
        self.compare_button = self._button("Conductors that differ", self.compare_chosen)
        self.leave_button = self._button("Leave it", self.leave)
        self.close_button = self._button("Close  Esc", self.hide)
        self.most = self._number(" versions", 10_000)
        self.most_mb = self._number(" MB", 1_000_000)
        self.place = PlainLabel()
        self.place.setObjectName("faded")
        self._build()
        self.hide()

    def _button(self, words: str, do: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.clicked.connect(lambda: do())
        return button

    def _number(self, unit: str, most: int) -> QSpinBox:
        box = QSpinBox()
        box.setRange(0, most)
        box.setSuffix(unit)
        box.setSpecialValueText("none")
        box.editingFinished.connect(self._keep_rules)
        return box

    def _build(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.title)
        left.addWidget(self.list, 1)
        right.addWidget(self.heading)
        right.addWidget(self.differences, 1)
        middle = QHBoxLayout()
        middle.addLayout(left, 5)
        middle.addLayout(right, 6)
        buttons = QHBoxLayout()
        for button in (self.take_button, self.open_button, self.compare_button, self.leave_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        buttons.addWidget(self.close_button)
        self.foot = QWidget()
        foot = QHBoxLayout(self.foot)
        foot.setContentsMargins(0, 0, 0, 0)
        kept = PlainLabel("Kept of each file, at most")
        kept.setObjectName("faded")
        foot.addWidget(kept)
        foot.addWidget(self.most)
        foot.addWidget(self.most_mb)
        foot.addWidget(self.place, 1)
        foot.addWidget(self._button("Another folder …", self._ask_folder))
        column = QVBoxLayout(self)
        column.setContentsMargins(14, 10, 14, 10)
        column.addLayout(middle, 1)
        column.addLayout(buttons)
        column.addWidget(self.foot)

    # What is shown.

    def open(self) -> None:
        """Shows the versions of the file, worked out on a worker."""
        path, rules = self.documents.versions_path(), self.settings.version_rules()
        machine = self.session.machine
        self.kept, self.rows = None, ()
        own = self.session.path
        self.title.setText(f"Versions of {own.name}" if own else "Work that was never saved")
        self.heading.setText("Reading the versions …")
        self._show_rules(rules)
        self._fill([])
        self._appear()

        def show(rows: tuple[VersionRow, ...]) -> None:
            if self.isVisible() and self.kept is None and machine is self.session.machine:
                self.rows = rows
                self._fill([self._row_words(row) for row in rows])
                self._appear()

        in_background(
            lambda: version_rows(machine, versions_of(path, rules)), show, self.documents.refuse
        )

    def look_at(self, kept: LeftOver) -> None:
        """Shows what unsaved work that was found holds, before it is taken."""
        self.kept, self.rows = kept, ()
        self.title.setText("Unsaved work")
        self._fill([f"{moment_words(kept.at)}  ·  {kept.machine.name}"])
        self._appear()

    def _appear(self) -> None:
        parent = self.parentWidget()
        if parent is not None:
            width = min(parent.width() - 60, looks.px(820))
            rows = max(5, min(14, max(self.list.count(), self.differences.count())))
            height = min(parent.height() - 140, looks.px(150 + rows * 24))
            self.setGeometry((parent.width() - width) // 2, looks.px(60), width, height)
        self.foot.setVisible(self.kept is None)
        self.leave_button.setVisible(self.kept is not None)
        self.compare_button.setVisible(self.kept is None)
        self.show()
        self.raise_()
        self.list.setFocus()

    def _fill(self, words: list[str]) -> None:
        self.list.clear()
        self.list.addItems(words)
        self.list.setCurrentRow(0)
        self._show_row()

    def _row_words(self, row: VersionRow) -> str:
        origin = ORIGIN_WORDS[row.version.origin]
        count = len(row.changes)
        counted = "one change" if count == 1 else f"{count} changes" if count else "no change"
        after = row.problem or f"{counted} since"
        return f"{moment_words(row.version.at)}  ·  {origin}  ·  {after}"

    def _show_row(self) -> None:
        kept, row = self.kept, self._chosen()
        for button in (self.take_button, self.open_button, self.compare_button):
            button.setEnabled(kept is not None or (row is not None and not row.problem))
        if kept is not None:
            steps = [f"Done: {words}" for words in kept.steps]
            lines, heading = [*steps, *kept.differences], "What was done, and differs from the file"
        elif row is not None:
            lines, heading = [row.problem] if row.problem else list(row.changes), "Changed after it"
        else:
            lines, heading = [], "No version is kept yet. Each save keeps one (Ctrl+S)."
        if len(lines) > MOST_LINES:
            lines = [*lines[:MOST_LINES], f"and {len(lines) - MOST_LINES} more"]
        self.heading.setText(heading)
        self.differences.clear()
        self.differences.addItems(lines)

    def _chosen(self) -> VersionRow | None:
        at = self.list.currentRow()
        return self.rows[at] if 0 <= at < len(self.rows) else None

    # What is done.

    def _with_machine(self, do: Callable[[Machine, str], object]) -> None:
        """Does something with the chosen machine, read on a worker."""
        kept, row = self.kept, self._chosen()
        if kept is not None:
            self.hide()
            do(kept.machine, moment_words(kept.at))
        elif row is not None and not row.problem:
            self.hide()
            words = moment_words(row.version.at)
            in_background(
                lambda: open_version(row.version),
                lambda machine: do(machine, words),
                self.documents.refuse,
            )

    def take(self) -> None:
        """Takes the chosen one, as one step that can be undone."""
        if self.kept is not None:
            kept = self.kept
            self.hide()
            self.documents.unsaved.take_up(kept)
            return
        self._with_machine(
            lambda machine, when: self.session.apply(
                f"Took the version of {when}", lambda _: machine
            )
        )

    def open_apart(self) -> None:
        """Opens the chosen one as a machine of its own, without a file; what was open is kept."""
        self._with_machine(lambda machine, when: self.documents.take_machine(machine, None))

    def compare_chosen(self) -> None:
        """Shows which conductors and labels differ from the chosen version, on Harness."""
        row = self._chosen()
        if row is not None:
            self.hide()
            self.compare(row.version.path)

    def leave(self) -> None:
        """Leaves unsaved work; it is not offered again."""
        kept, self.kept = self.kept, None
        self.hide()
        if kept is not None:
            self.documents.unsaved.leave(kept)

    # Where versions are kept.

    def _show_rules(self, rules: VersionRules) -> None:
        for box, value in (
            (self.most, rules.most_kept),
            (self.most_mb, rules.most_bytes // 1_000_000),
        ):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
        self.place.setText(f"in {rules.folder}")
        self.place.set_tip(str(rules.folder))

    def _keep_rules(self) -> None:
        rules = self.settings.version_rules()
        self.settings.keep_version_rules(
            rules._replace(most_kept=self.most.value(), most_bytes=self.most_mb.value() * 1_000_000)
        )

    def _ask_folder(self) -> None:
        name = QFileDialog.getExistingDirectory(self, "Versions are kept in", "")
        if name:
            rules = self.settings.version_rules()._replace(folder=Path(name))
            self.settings.keep_version_rules(rules)
            self.open()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.hide()
            parent = self.parentWidget()
            if parent is not None:
                parent.setFocus()
            return
        super().keyPressEvent(event)
