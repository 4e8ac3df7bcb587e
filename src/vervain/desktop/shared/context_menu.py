"""The menu at the mouse: everything that can be done with what is selected, with its key. It sends
that key, so that menu and key cannot differ.
"""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QPoint, QPointF, Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence, QMouseEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QApplication, QMenu, QWidget

from vervain.desktop.keys_help import KeyEntry, keys_of
from vervain.desktop.session import Session

NAMES = {"Enter": "Return"}


def send_key(target: QWidget, keys: str) -> None:
    """Presses a key or combination, written as the help writes it, in a widget."""
    written = "+".join(NAMES.get(name, name) for name in keys.split("+"))
    combination = QKeySequence(written)[0]
    text = keys.lower() if len(keys) == 1 else ""
    for kind in (QEvent.Type.KeyPress, QEvent.Type.KeyRelease):
        event = QKeyEvent(kind, combination.key(), combination.keyboardModifiers(), text)
        QApplication.sendEvent(target, event)


def click(view: QAbstractScrollArea, at: QPoint) -> None:
    """Clicks into a view with the left button, as before a menu opens there."""
    viewport = view.viewport()
    if viewport is None:
        return
    point = QPointF(at)
    for kind, buttons in (
        (QEvent.Type.MouseButtonPress, Qt.MouseButton.LeftButton),
        (QEvent.Type.MouseButtonRelease, Qt.MouseButton.NoButton),
    ):
        event = QMouseEvent(
            kind, point, QPointF(viewport.mapToGlobal(at)), Qt.MouseButton.LeftButton, buttons,
            Qt.KeyboardModifier.NoModifier,
        )  # fmt: skip
        QApplication.sendEvent(viewport, event)


def possible(session: Session, area: str) -> list[KeyEntry]:
    """The keys of an area that mean something for what is selected."""
    chosen = session.selection
    return [
        entry
        for entry in keys_of(area)
        if entry.is_sent and (not entry.needs or getattr(chosen, entry.needs) is not None)
    ]


class ContextMenu:
    """Gives a widget the menu of an area; `target` gets the keys. `is_carrying` tells whether
    something is in hand: then the click before the menu would put it down, and is left out.
    """

    def __init__(
        self,
        session: Session,
        widget: QWidget,
        area: str,
        is_carrying: Callable[[], bool] = lambda: False,
        target: QWidget | None = None,
    ) -> None:
        self.session, self.widget, self.area = session, widget, area
        self.is_carrying, self.target = is_carrying, target or widget
        self.shown: QMenu | None = None
        widget.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        widget.customContextMenuRequested.connect(self.open)

    def open(self, at: QPoint) -> None:
        """Opens the menu at a point of the widget, on what lies there."""
        if isinstance(self.widget, QAbstractScrollArea) and not self.is_carrying():
            click(self.widget, at)
        if self.shown is not None:
            self.shown.deleteLater()
        self.shown = self.made()
        self.shown.popup(self.widget.mapToGlobal(at))

    def made(self) -> QMenu:
        """The menu, made anew each time."""
        menu = QMenu(self.widget)
        for entry in possible(self.session, self.area):
            carried = entry.words.startswith("In hand: ")
            if carried != (carried and self.is_carrying()):
                continue
            action = menu.addAction(f"{entry.words.removeprefix('In hand: ')}\t{entry.keys}")
            if action is not None:
                action.triggered.connect(lambda _, keys=entry.keys: send_key(self.target, keys))
        return menu
