"""The groups of ports of a board that is described: what they are, and which circuits they have."""

from collections.abc import Mapping
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from vervain.catalogue.board_copper import called_isolated, joined_names, joined_with
from vervain.catalogue.boards import asked_circuits
from vervain.catalogue.circuits import CircuitPins, circuit_named, circuits_for
from vervain.catalogue.port_groups import PortGroup, in_words
from vervain.catalogue.port_places import (
    EXAMPLE,
    PortPlace,
    place_of,
    places_in_words,
    read_places,
)
from vervain.catalogue.port_roles import AS_LINE, AS_MODULE, roles_of
from vervain.catalogue.told_circuits import ALL_INPUTS, inputs_of_contacts, with_told
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.shared.replacing import put_inside
from vervain.desktop.theme import looks
from vervain.model.connectors import connector_kinds
from vervain.model.part import Part, PartKind
from vervain.model.problem import Problem

NOT_KNOWN: dict[CircuitPins, str] = {
    "input": "levels not known",
    "output": "levels not known",
    "plus": "nothing known",
}
ASKED: dict[CircuitPins, str] = {"input": "in", "output": "out", "plus": "gives"}


class GroupPanel(QScrollArea):
    """A row for each group with its choices; what is chosen stays while the table is typed."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setAccessibleName("Groups of ports")
        self.roles: dict[str, str] = {}
        self.circuits: dict[str, str] = {}
        self.apart: set[str] = set()
        # The ports at which another group of alike ones begins.
        self.begins: set[str] = set()
        self.connectors: dict[str, str] = {}
        self.boxes: dict[str, QComboBox] = {}
        # Where groups lie, as it was typed, and what of that was not understood.
        self.lies: dict[str, QLineEdit] = {}
        self.typed: dict[str, str] = {}
        self.places: dict[str, PortPlace] = {}
        self.wrong: list[str] = []
        self._kind: PartKind = "controller"
        self._groups: tuple[PortGroup, ...] = ()
        self._shown: object = None

    def clear(self) -> None:
        """Forgets what was chosen."""
        self.roles, self.circuits, self.apart, self.connectors = {}, {}, set(), {}
        self.begins = set()
        self.typed, self.places, self.wrong = {}, {}, []
        self._shown = None

    def show_groups(self, kind: PartKind, groups: tuple[PortGroup, ...], title: str = "") -> None:
        """Shows the groups, unless they are those that are shown."""
        apart = called_isolated(title)
        shown = kind, groups, looks.scale, self.circuits.get(ALL_INPUTS), apart
        if self._shown == shown:
            return
        self._shown = shown
        focused = next((key for key, box in self.boxes.items() if box.hasFocus()), "")
        self.boxes, self.lies = {}, {}
        self._kind, self._groups = kind, groups
        self._read_places()
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(8, 6, 8, 6)
        column.setSpacing(3)
        if not groups:
            column.addWidget(_faded("Alike ports come here as one. In a table with a column “port”,"
                                    " “IN 1-8” are eight."))  # fmt: skip
        if groups:
            column.addWidget(_faded("Plugs of all ports"))
            self._connector(column, "", "plugs not known", "All ports")
        known = with_told(kind, groups, self.circuits)
        if len(inputs_of_contacts(kind, groups)) > 1:
            column.addWidget(_faded("Levels of all inputs"))
            self._circuit(column, ALL_INPUTS, "input", self.circuits, "All inputs")
        for group in groups:
            self._head(column, group)
            column.addWidget(_faded(", ".join(pin.name for pin in group.pins)))
            words = [role.words for role in roles_of(kind)]
            self._choice(column, group.key, words, group.role.words, "is", f"{group.words} are")
            if len(groups) > 1:
                self._connector(column, group.key, "plugs as all", group.words)
            for key in asked_circuits(kind, group, groups):
                pins = "plus" if key.endswith("/plus") else group.role.signals or "input"
                self._circuit(column, key, pins, known, group.words, group.role == AS_LINE)
            self._lies(column, group)
        names = joined_names(groups, known, apart)
        if names:
            column.addWidget(_faded("Joined on the board:"))
        for name in names:
            other = joined_with(groups, name)
            box = QCheckBox(f"{name} and {other}" if other else name)
            box.setChecked(name not in self.apart)
            box.toggled.connect(partial(self._join, name))
            column.addWidget(box)
        column.addStretch(1)
        put_inside(self, inside)
        if focused in self.boxes:
            # The rows are made anew; whoever works by keys stays where they are.
            self.boxes[focused].setFocus()
            self.ensureWidgetVisible(self.boxes[focused])

    def _head(self, column: QVBoxLayout, group: PortGroup) -> None:
        """Which ports are one group: its name, or of several the choice how many they are."""
        every = (*group.ports, *group.more)
        if len(every) < 2:
            head = PlainLabel(group.words)
            head.setObjectName("head")
            column.addWidget(head)
            return
        box = QComboBox(self)
        box.setFont(looks.font(bold=True))
        box.addItems([in_words(every[:count]) for count in range(1, len(every) + 1)])
        box.setCurrentIndex(len(group.ports) - 1)
        box.setAccessibleName(f"{group.words}, which ports are alike")
        box.setToolTip("Which of them are alike. The others are a group of their own below.")
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(12)
        box.activated.connect(lambda index: self._part(every, index + 1))
        self.boxes[f"ports {group.key}"] = box
        column.addWidget(box)

    def _part(self, ports: tuple[str, ...], count: int) -> None:
        """So many of some alike ports are one group, the others another."""
        self.begins -= set(ports[1 : count + 1])
        self.begins |= set(ports[count : count + 1])
        self.changed.emit()

    def _connector(self, column: QVBoxLayout, key: str, none: str, said: str) -> None:
        """The connectors of a group, or of all ports: family and pitch."""
        kinds = connector_kinds()
        chosen = kinds.get(self.connectors.get(key, ""), none)
        self._choice(column, key, [none, *kinds.values()], chosen, "plug", f"{said}, plugs")

    def _circuit(
        self,
        column: QVBoxLayout,
        key: str,
        pins: CircuitPins,
        known: Mapping[str, str],
        said: str,
        gives_too: bool = False,
    ) -> None:
        """Which circuit the pins of a kind have, of a group or of all inputs."""
        titles = (circuit.title for circuit in circuits_for(pins, gives_too))
        choices = [NOT_KNOWN[pins], *titles]
        chosen = known.get(key) or choices[0]
        self._choice(column, key, choices, chosen, "circuit", f"{said}, {ASKED[pins]}")

    def _lies(self, column: QVBoxLayout, group: PortGroup) -> None:
        """The field that says where a group lies on the board."""
        field = QLineEdit(self.typed.get(group.key, ""))
        field.setAccessibleName(f"{group.words} lie at")
        field.setToolTip(plain(f"Where they lie. {EXAMPLE}"))
        field.editingFinished.connect(partial(self._take_lies, group.key, field))
        self.lies[group.key] = field
        column.addWidget(field)

    def _take_lies(self, key: str, field: QLineEdit) -> None:
        if field.text().strip() == self.typed.get(key, ""):
            return
        self.typed[key] = field.text().strip()
        self._read_places()
        self.changed.emit()

    def _read_places(self) -> None:
        """Reads what was typed of where groups lie."""
        self.places, self.wrong = {}, []
        for group in self._groups:
            try:
                self.places.update(read_places(self.typed.get(group.key, ""), group.ports))
            except Problem as problem:
                self.wrong.append(f"{group.words}: {problem}")

    def show_places(self, part: Part) -> None:
        """Shows in grey where groups lie of which nothing was typed."""
        found = {port.id: place_of(port) for port in part.ports}
        for group in self._groups:
            field = self.lies.get(group.key)
            if field is not None:
                words = places_in_words(group.ports, found)
                field.setPlaceholderText(words or "each where it was put")

    def forget_places(self) -> None:
        """Forgets what was typed: the ports were put by hand."""
        self.typed, self.places, self.wrong = {}, {}, []
        for field in self.lies.values():
            field.clear()

    def _choice(
        self, column: QVBoxLayout, key: str, choices: list[str], chosen: str, what: str, said: str
    ) -> None:
        box = QComboBox(self)
        box.addItems(choices)
        box.setCurrentText(chosen)
        box.setAccessibleName(said)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        box.setMinimumContentsLength(12)
        circuit = circuit_named(chosen)
        box.setToolTip(plain(f"{self._whence(key)}{circuit.source}" if circuit is not None else ""))
        box.activated.connect(lambda _: self._chosen(key, box.currentText(), what))
        self.boxes[f"{what} {key}"] = box
        column.addWidget(box)

    def _whence(self, key: str) -> str:
        """From where a circuit is known that nobody chose here."""
        if key in self.circuits:
            return ""
        as_all = key in inputs_of_contacts(self._kind, self._groups)
        return "As all inputs. " if as_all else "So it is printed at the pins. "

    def _chosen(self, key: str, text: str, what: str) -> None:
        if what == "is":
            self.roles[key] = text
            if (key, text) == ("CONTROL", AS_MODULE.words):
                # Of a module that was wired pin by pin: it sits in a slot after all.
                self.roles.pop("PORT", None)
                del self.roles[key]
        elif what == "plug":
            chosen = {words: kind for kind, words in connector_kinds().items()}.get(text)
            self.connectors.pop(key, None)
            self.connectors.update({key: chosen} if chosen else {})
        else:
            # What is not known is said, too: the print may tell otherwise.
            self.circuits[key] = text if circuit_named(text) is not None else ""
        self.changed.emit()

    def _join(self, name: str, joined: bool) -> None:
        (self.apart.discard if joined else self.apart.add)(name)
        self.changed.emit()


def _faded(words: str) -> PlainLabel:
    label = PlainLabel(words)
    label.setObjectName("faded")
    label.setWordWrap(True)
    return label
