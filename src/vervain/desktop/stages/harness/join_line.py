"""The line under the Conductors face that makes a new wire: from, to, cable and core, typed with
completion, judged while one types, joined by Enter.
"""

from PyQt6.QtCore import QStringListModel, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QKeySequence
from PyQt6.QtWidgets import (
    QApplication,
    QCompleter,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.edits.cable_edits import add_cable
from vervain.edits.pin_names import every_pin, folded, pin_written, written
from vervain.edits.plug_edits import put_conductor
from vervain.electrical.join_judgement import judge_join
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem

WAIT_MS = 90
MARKS = {"belongs": "✓ ", "may be": "", "against advice": "! ", "cannot be": "✕ "}
HINT = "Type device, port and pin, “K1 IN 7 S”; Tab goes on, Enter joins, Esc goes back."


class WireField(QLineEdit):
    """A field with completion anywhere in the words. Enter joins, Esc leaves."""

    def __init__(self, name: str, hint: str, line: "JoinLine") -> None:
        super().__init__()
        self.line = line
        self.setAccessibleName(name)
        self.setPlaceholderText(hint)
        self.known = QStringListModel()
        completer = QCompleter(self.known, self)
        completer.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        completer.setFilterMode(Qt.MatchFlag.MatchContains)
        completer.setMaxVisibleItems(12)
        self.setCompleter(completer)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        clipboard = QApplication.clipboard()
        text = clipboard.text() if clipboard is not None else ""
        is_paste = event is not None and event.matches(QKeySequence.StandardKey.Paste)
        if is_paste and ("\n" in text.strip() or "\t" in text):
            self.line.pasted.emit(text)
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.line.join()
        elif event is not None and event.key() == Qt.Key.Key_Escape:
            self.line.leave()
        else:
            super().keyPressEvent(event)


class JoinLine(QWidget):
    """Makes one wire after another; each is one step that can be undone. Rows that are pasted go
    the way of a list.
    """

    pasted = pyqtSignal(str)

    def __init__(self, session: Session, back: QWidget) -> None:
        super().__init__()
        self.session, self.back = session, back
        self.shelf: dict[str, CablePart] = {}
        self.start = WireField("From", "from: device port pin", self)
        self.end = WireField("To", "to: device port pin", self)
        self.cable = WireField("By cable", "cable, or a kind", self)
        self.core = WireField("Core", "core", self)
        self.button = QPushButton("Join  Enter")
        self.button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.button.clicked.connect(self.join)
        self.words = PlainLabel(HINT)
        self.words.setObjectName("faded")
        fields = QHBoxLayout()
        fields.setSpacing(6)
        fields.addWidget(PlainLabel("New wire"))
        for field, stretch in ((self.start, 5), (self.end, 5), (self.cable, 3), (self.core, 1)):
            fields.addWidget(field, stretch)
            field.textChanged.connect(self._typed)
        fields.addWidget(self.button)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 4, 12, 6)
        column.setSpacing(2)
        column.addLayout(fields)
        column.addWidget(self.words)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(WAIT_MS)
        self._timer.timeout.connect(self.judge)
        self._named: Machine | None = None
        self.is_open = False
        self.scale()
        session.machine_changed.connect(self._machine_changed)

    def open(self, shelf: dict[str, CablePart], start: PinRef | None = None) -> None:
        """Takes the keyboard, with a pin or what is selected as the beginning."""
        self.shelf, self.is_open = shelf, True
        self._name_pins()
        chosen = start or self.session.selection.pin_ref
        if chosen is not None and (start is not None or not self.start.text()):
            self.start.setText(written(self.session.machine, chosen))
            self.end.setFocus()
        else:
            self.start.setFocus()
            self.start.selectAll()

    def leave(self) -> None:
        """Clears the line and gives the keyboard back."""
        for field in (self.start, self.end, self.cable, self.core):
            field.clear()
        self.is_open = False
        self.back.setFocus()

    def _machine_changed(self) -> None:
        if self.isVisible():
            self._timer.start()

    def _name_pins(self) -> None:
        machine = self.session.machine
        if machine is self._named:
            return
        self._named = machine
        pins = every_pin(machine)
        for field in (self.start, self.end):
            field.known.setStringList(pins)
        kinds = [part.title for part in self.shelf.values()]
        self.cable.known.setStringList([*(cable.id for cable in machine.cables), *kinds])

    def _typed(self) -> None:
        self._timer.start()

    def ends(self) -> tuple[PinRef, PinRef]:
        """The two pins that are typed. Raises `Problem`."""
        machine = self.session.machine
        return pin_written(machine, self.start.text()), pin_written(machine, self.end.text())

    def judge(self) -> None:
        """Says what the wire would mean, as far as it is typed."""
        self._name_pins()
        if not self.start.text().strip():
            self.words.setText(HINT)
            return
        try:
            first = pin_written(self.session.machine, self.start.text())
            if not self.end.text().strip():
                self.words.setText("And to where?")
                return
            second = pin_written(self.session.machine, self.end.text())
            self._joined(self.session.machine, first, second)
        except Problem as problem:
            self.words.setText(f"{problem.what} {problem.remedy}".strip())
            return
        found = judge_join(self.session.queries, first, second)
        self.words.setText(f"{MARKS[found.verdict]}{found.words}")

    def _joined(self, machine: Machine, first: PinRef, second: PinRef) -> Machine:
        """The machine with the wire that is typed. Raises `Problem`."""
        text, core = self.cable.text().strip(), self.core.text().strip()
        if core and not core.isdecimal():
            raise Problem(f"“{core[:20]}” is not the number of a core.", remedy="Cores are 1, 2 …")
        cable = next((c.id for c in machine.cables if folded(c.id) == folded(text)), None)
        if text and cable is None:
            part = next((p for p in self.shelf.values() if folded(p.title) == folded(text)), None)
            if part is None:
                raise Problem(
                    f"There is no cable “{text[:40]}”.",
                    remedy="Name one that is there, or a kind of the list.",
                )
            machine = add_cable(machine, part)
            cable = machine.cables[-1].id
        if core and cable is None:
            raise Problem("A core is of a cable.", remedy="Name the cable.")
        return put_conductor(machine, first, second, cable, int(core) if core else None)

    def join(self) -> None:
        """Makes the wire; the next one may begin at the ports that were named."""
        try:
            first, second = self.ends()
        except Problem as problem:
            self.words.setText(f"{problem.what} {problem.remedy}".strip())
            self.session.say(f"{problem.what} {problem.remedy}".strip())
            return
        words = f"{written(self.session.machine, first)} joined to "
        words += written(self.session.machine, second)
        if not self.session.apply(words, lambda machine: self._joined(machine, first, second)):
            return
        made = next(
            (hookup.id, row)
            for hookup in self.session.machine.hookups
            if {hookup.a, hookup.b} == {first.port_ref, second.port_ref}
            for row, conductor in enumerate(hookup.conductors)
            if {conductor.a, conductor.b} == {first.pin, second.pin}
        )
        self.session.select(Selection(conductor=made))
        hookup = self.session.queries.hookup(made[0])
        if self.cable.text() and hookup is not None and hookup.cable is not None:
            # A kind that was named is a cable by now; the next wire goes by that.
            self.cable.setText(hookup.cable)
        self.start.setText(f"{first.device} {first.port} ")
        self.end.setText(f"{second.device} {second.port} ")
        self.core.clear()
        self.start.setFocus()

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.core.setMinimumWidth(looks.px(64))
        self.cable.setMinimumWidth(looks.px(90))
