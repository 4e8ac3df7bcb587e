"""The menu under the machine's name: everything that is done with a machine as a whole."""

from collections.abc import Callable, Iterator
from functools import partial

from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QMainWindow, QMenu, QTableView

from vervain.desktop.commands import Goals
from vervain.desktop.settings import Settings
from vervain.desktop.shared.head import Head
from vervain.desktop.shared.jump import Command
from vervain.edits.machine_edits import (
    LONGEST_NAME,
    MOST_LETTERS,
    rename_machine,
    set_papers,
)

# Beginnings of the commands that stand in a menu of their own, and that menu's name.
GROUPS = (
    ("Open the demo: ", "Open a demonstration"),
    ("Begin from the template: ", "Begin from a template"),
    ("Print: ", "Print"),
    ("Theme: ", "Theme"),
    ("Units: ", "Units"),
)


# What stands on every print besides the name.
PAPERS = ("state", "revision", "author", "page")
PAPER_WORDS = {"page": "Address of its page for the phone"}


class MachineMenu:
    """Opens the menu, and lets the machine's name and papers be changed in the head."""

    def __init__(self, window: QMainWindow, goals: Goals, head: Head, settings: Settings) -> None:
        self.window, self.goals, self.head, self.settings = window, goals, head, settings
        self.session = goals.session
        self.shown: QMenu | None = None
        head.name.clicked.connect(self.open)
        head.taken.connect(self._take)

    def open(self) -> None:
        """Opens the menu under the name."""
        if self.shown is not None:
            self.shown.deleteLater()
        self.shown = self.made()
        name = self.head.name
        self.shown.popup(name.mapToGlobal(QPoint(0, name.height())))

    def made(self) -> QMenu:
        """The menu, made anew each time: rename, the recent machines, and every action of Jump."""
        menu = QMenu(self.window)
        _add(menu, "Rename the machine\tF2", self.rename)
        for what in PAPERS:
            now = getattr(self.session.machine, what).replace("&", "&&") or "none"
            words = PAPER_WORDS.get(what, f"{what.capitalize()} on every print")
            _add(menu, f"{words}: {now}", partial(self.change, what))
        menu.addSeparator()
        documents = self.goals.window.documents
        recent = [path for path in self.settings.recent() if path != self.session.path]
        if recent:
            under = _submenu(menu, "Recent machines")
            for path in recent:
                _add(under, str(path).replace("&", "&&"), partial(documents.open_path, path))
        groups: dict[str, QMenu] = {}
        for words, command, group in _grouped(self.goals.actions()):
            if group and group not in groups:
                groups[group] = _submenu(menu, group)
            _add(groups[group] if group else menu, words, command.go)
        return menu

    def rename(self) -> None:
        """Lets the machine's name be changed; in a table F2 changes the cell."""
        table = self.window.focusWidget()
        if isinstance(table, QTableView) and table.currentIndex().isValid():
            table.edit(table.currentIndex())
            return
        self.change("name")

    def change(self, what: str) -> None:
        """Lets the name, the state, the revision, the author or the page be changed in the head."""
        text = getattr(self.session.machine, what)
        self.head.change(what, text, MOST_LETTERS.get(what, LONGEST_NAME))

    def _take(self, what: str, text: str) -> None:
        text = text.strip()
        if text == getattr(self.session.machine, what):
            return
        if what == "name":
            words = f"The machine is now called {text}"
            self.session.apply(words, lambda machine: rename_machine(machine, text))
        else:
            words = f"{what.capitalize()}: {text or 'none'}"
            self.session.apply(words, lambda machine: set_papers(machine, **{what: text}))


def _grouped(commands: list[Command]) -> Iterator[tuple[str, Command, str]]:
    """Each command with its words for a menu, and the menu that it stands in, if not the first."""
    for command in commands:
        name, _, keys = command.words.partition("  ")
        start, group = next((g for g in GROUPS if name.startswith(g[0])), ("", ""))
        shown = name.removeprefix(start).replace("&", "&&")
        yield (f"{shown}\t{keys}" if keys else shown), command, group


def _submenu(menu: QMenu, title: str) -> QMenu:
    found = menu.addMenu(title)
    assert found is not None
    return found


def _add(menu: QMenu, words: str, act: Callable[[], object]) -> None:
    action = menu.addAction(words)
    if action is not None:
        action.triggered.connect(lambda _: act())
