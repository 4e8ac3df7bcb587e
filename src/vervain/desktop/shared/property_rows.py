"""A card of facts, each a name and a value; values that are ours are changed in place.

The widgets of the last facts are used again for the next: a card is filled anew after every edit,
and making widgets is what would take the time. A field that is used again keeps the keyboard.
"""

from collections.abc import Callable, Hashable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QComboBox, QFrame, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.replacing import leave
from vervain.desktop.theme import looks


class FactRows(QWidget):
    """A title over a frame of rows: `begin`, then `row` and `wide_row`, then `end`."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.title = PlainLabel()
        self.title.setObjectName("head")
        self.title.setWordWrap(True)
        column.addWidget(self.title)
        self.frame = QFrame()
        self.frame.setObjectName("card")
        column.addWidget(self.frame)
        self.grid = QGridLayout(self.frame)
        self.grid.setContentsMargins(10, 8, 10, 8)
        self.grid.setVerticalSpacing(4)
        self.grid.setColumnStretch(1, 1)
        self._rows = 0
        self._shown: list[tuple[Hashable, QWidget]] = []
        self._spare: dict[Hashable, list[QWidget]] = {}
        self._takes: dict[QWidget, tuple[str, Callable[[str], object]]] = {}

    def begin(self) -> None:
        """Takes every row off; their widgets are kept at hand."""
        while self.grid.takeAt(0) is not None:
            pass
        self._spare = {}
        for key, widget in self._shown:
            self._spare.setdefault(key, []).append(widget)
        self._shown, self._rows = [], 0

    def end(self) -> None:
        """Throws away the widgets that no row took again."""
        for widgets in self._spare.values():
            for widget in widgets:
                self._takes.pop(widget, None)
                leave(widget)
        self._spare = {}

    def _kept(self, key: Hashable, widget: QWidget) -> None:
        self._shown.append((key, widget))
        widget.show()

    def _label(self, key: Hashable, text: str) -> PlainLabel:
        spare = self._spare.get(key)
        label = spare.pop(0) if spare else PlainLabel()
        assert isinstance(label, PlainLabel)
        label.setWordWrap(True)
        label.setText(text)
        return label

    def row(self, name: str, value: QWidget | str) -> None:
        """Adds a fact: what it is, and its value or the widget to change it in."""
        label = self._label("name", name)
        if not label.objectName():
            label.setObjectName("faded")
        self.grid.addWidget(label, self._rows, 0)
        self._kept("name", label)
        if isinstance(value, str):
            shown = self._label("value", value)
            shown.setAlignment(Qt.AlignmentFlag.AlignRight)
            self.grid.addWidget(shown, self._rows, 1)
            self._kept("value", shown)
        elif isinstance(value, QComboBox):
            self.grid.addWidget(value, self._rows, 1, Qt.AlignmentFlag.AlignRight)
        else:
            self.grid.addWidget(value, self._rows, 1)
        if isinstance(value, QWidget):
            self._kept(self._key_of(value), value)
        self._rows += 1

    def wide_row(self, widget: QWidget) -> None:
        """Adds something that takes the whole width."""
        self.grid.addWidget(widget, self._rows, 0, 1, 2)
        self._kept(object(), widget)
        self._rows += 1

    def _key_of(self, widget: QWidget) -> Hashable:
        """What tells which widgets can be used again for one another."""
        if isinstance(widget, QLineEdit):
            return "field", widget.accessibleName()
        if isinstance(widget, QComboBox):
            choices = tuple(widget.itemText(n) for n in range(widget.count()))
            return "choice", widget.accessibleName(), choices
        return object()

    def field(self, text: str, take: Callable[[str], bool], name: str) -> QLineEdit:
        """A value to be changed in place; `take` says whether it was taken."""
        spare = self._spare.get(("field", name))
        if spare:
            field = spare.pop(0)
            assert isinstance(field, QLineEdit)
        else:
            field = QLineEdit()
            field.setObjectName("fact")
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            field.setAccessibleName(name)
            field.editingFinished.connect(lambda field=field: self._finish(field))
        self._takes[field] = text, take
        field.setPlaceholderText("")
        field.setText(text)
        field.setCursorPosition(0)
        return field

    def _finish(self, field: QLineEdit) -> None:
        text, take = self._takes.get(field, ("", lambda _: False))
        if field.text() != text and not take(field.text()):
            field.setText(self._takes.get(field, (text, take))[0])

    def choice(
        self,
        choices: tuple[str, ...],
        chosen: str,
        take: Callable[[str], object],
        name: str,
    ) -> QComboBox:
        """A choice to be changed in place."""
        spare = self._spare.get(("choice", name, choices))
        if spare:
            box = spare.pop(0)
            assert isinstance(box, QComboBox)
        else:
            box = QComboBox(self.frame)
            box.setObjectName("fact")
            box.addItems(choices)
            box.setAccessibleName(name)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.textActivated.connect(lambda text, box=box: self._takes[box][1](text))
        self._takes[box] = chosen, take
        box.setCurrentText(chosen)
        box.setFixedHeight(looks.px(20))
        return box

    def take_keyboard(self, name: str = "") -> None:
        """Puts the keyboard into the fact of a name that can be edited, into the first of all."""
        for _, widget in self._shown:
            if isinstance(widget, QLineEdit | QComboBox) and name in ("", widget.accessibleName()):
                widget.setFocus()
                return
