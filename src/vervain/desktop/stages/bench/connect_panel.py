"""Where controllers and the meter answer, and which register shows which port."""

from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QFrame,
    QGridLayout,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.live_links import CLOSED, LiveLinks
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.replacing import clear
from vervain.desktop.theme import looks
from vervain.edits.device_edits import set_address, update_part
from vervain.live.map_text import map_text, read_map
from vervain.live.register_map import register_map
from vervain.model.problem import Problem

METER_KEY, WIDE = "bench/meter", 430
ABOUT = (
    "Inputs are read over Modbus/TCP, a meter by SCPI. Nothing is switched, but for an output that "
    "you switch on at its step. Without hardware: “vervain simulate FILE” answers at "
    "127.0.0.1:5020 and 127.0.0.1:5025."
)
MAP_HINT = "A line a port: IN 4  discrete input 3. Addresses begin at 0."


class AddressField(QLineEdit):
    """A field whose Enter connects, and no more."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        super().keyPressEvent(event)
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            event.accept()


class ConnectPanel(QFrame):
    """A line a controller, one for the meter; under them the map that is being changed."""

    left = pyqtSignal()

    def __init__(
        self, parent: QWidget, session: Session, links: LiveLinks, settings: Settings
    ) -> None:
        super().__init__(parent)
        self.session, self.links, self.settings = session, links, settings
        self.setObjectName("popup")
        column = QVBoxLayout(self)
        about = PlainLabel(ABOUT)
        about.setWordWrap(True)
        about.setObjectName("faded")
        column.addWidget(about)
        self.rows = QGridLayout()
        column.addLayout(self.rows)
        self.fields: dict[str, QLineEdit] = {}
        self.buttons: dict[str, QPushButton] = {}
        self.maps: dict[str, QPushButton] = {}
        self.states: dict[str, PlainLabel] = {}
        self.map_device = ""
        self.map_title, self.map = PlainLabel(), QPlainTextEdit()
        self.map_title.setObjectName("faded")
        self.map.setAccessibleName("Register map")
        self.map.setTabChangesFocus(True)
        self.keep = QPushButton("Keep the map")
        self.keep.clicked.connect(self.keep_map)
        for widget in (self.map_title, self.map, self.keep):
            widget.hide()
            column.addWidget(widget)
        links.changed.connect(self.refresh)
        self.hide()

    def open(self) -> None:
        """Shows the panel, with a line for each controller there is."""
        self._build()
        parent = self.parentWidget()
        self.setFixedWidth(looks.px(WIDE))
        self.adjustSize()
        if parent is not None:
            self.move(max(0, parent.width() - self.width() - 12), looks.px(44))
        self.show()
        self.raise_()
        first = next(iter(self.fields.values()), None)
        if first is not None:
            first.setFocus()
            first.selectAll()

    def leave(self) -> None:
        """Hides the panel."""
        self.hide()
        self.left.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif event is not None:
            event.accept()

    def _build(self) -> None:
        clear(self.rows)
        for kept in (self.fields, self.buttons, self.maps, self.states):
            kept.clear()
        queries = self.session.queries
        for name in queries.devices():
            part, device = queries.part_of(name), queries.device(name)
            if part is not None and device is not None and part.kind == "controller":
                self._add_row(name, f"{name} {device.name}", device.address)
                self.maps[name] = QPushButton("Map …")
                self.maps[name].clicked.connect(partial(self.show_map, name))
                self.rows.addWidget(self.maps[name], 2 * (len(self.fields) - 1), 3)
        kept_meter = str(self.settings.kept(METER_KEY, ""))
        self._add_row("", "Bench meter", kept_meter)
        self.refresh()

    def _add_row(self, name: str, title: str, address: str) -> None:
        row = 2 * len(self.fields)
        field, button, state = AddressField(address), QPushButton("Connect"), PlainLabel()
        field.setPlaceholderText(
            "host, host:port or /dev/ttyUSB0" if not name else "host, host:port, host:port/unit"
        )
        field.setAccessibleName(f"Address of {title}")
        state.setObjectName("faded")
        field.returnPressed.connect(partial(self.toggle, name))
        button.clicked.connect(partial(self.toggle, name))
        self.fields[name], self.buttons[name], self.states[name] = field, button, state
        self.rows.addWidget(PlainLabel(title), row, 0)
        self.rows.addWidget(field, row, 1)
        self.rows.addWidget(button, row, 2)
        self.rows.addWidget(state, row + 1, 1, 1, 3)
        self.rows.setColumnStretch(1, 1)

    def refresh(self) -> None:
        """Shows how each link is."""
        if self.isHidden() and not self.fields:
            return
        for name, button in self.buttons.items():
            if name:
                state, is_open = self.links.states.get(name, CLOSED), name in self.links.links
            else:
                state, is_open = self.links.meter_state, self.links.meter is not None
            button.setText("Leave" if is_open else "Connect")
            self.states[name].setText(state.words)

    def toggle(self, name: str) -> None:
        """Connects to a controller, or the meter where no name is given, or leaves it."""
        text = self.fields[name].text().strip()
        try:
            if not name:
                if self.links.meter is not None:
                    self.links.leave_meter()
                else:
                    self.links.connect_meter(text)
                    self.settings.keep(METER_KEY, text)
            elif name in self.links.links:
                self.links.leave_controller(name)
            else:
                self.links.connect_controller(name, text)
                words = f"{name} answers at {text}"
                self.session.apply(words, lambda machine: set_address(machine, name, text))
        except Problem as problem:
            words = f"{problem.what} {problem.remedy}".strip()
            self.session.said.emit(Message(words, is_bad=True))
            self.fields[name].setFocus()

    def show_map(self, name: str) -> None:
        """Lets the map of a controller be changed."""
        self.map_device = name
        self.map.setPlainText(map_text(register_map(self.session.queries, name)))
        self.map_title.setText(f"{name}. {MAP_HINT}")
        for widget in (self.map_title, self.map, self.keep):
            widget.show()
        self.map.setMinimumHeight(looks.px(180))
        self.adjustSize()
        self.map.setFocus()

    def keep_map(self) -> None:
        """Keeps the map with the part, and reads by it."""
        name = self.map_device
        part = self.session.queries.part_of(name)
        if part is None:
            return
        try:
            entries = read_map(self.map.toPlainText(), part)
        except Problem as problem:
            words = f"{problem.place}: {problem.what} {problem.remedy}".strip()
            self.session.said.emit(Message(words, is_bad=True))
            return
        changed = replace(part, live=entries)
        self.session.apply(f"Map of {name}", lambda machine: update_part(machine, changed))
        if name in self.links.links:
            self.links.connect_controller(name, self.fields[name].text())
        for widget in (self.map_title, self.map, self.keep):
            widget.hide()
        self.adjustSize()
