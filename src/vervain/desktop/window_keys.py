"""The window's keys: which pane has the keyboard, and what is pressed where."""

from collections.abc import Callable

from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QLineEdit, QWidget

from vervain.desktop.keys_help import EVERYWHERE, ROUTE, KeyEntry
from vervain.desktop.shared.context_menu import send_key
from vervain.desktop.shared.head import Head
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.trace_strip import TraceStrip
from vervain.desktop.shared.tray import Tray
from vervain.desktop.stage_host import StageHost


class WindowKeys:
    """Moves the keyboard between the panes of a window, and does what its keys do."""

    def __init__(self, host: StageHost, head: Head, tray: Tray, strip: TraceStrip) -> None:
        self.host, self.head, self.tray, self.strip = host, head, tray, strip

    def bind(self, actions: tuple[tuple[str, Callable[[], object]], ...]) -> None:
        """Makes a shortcut of the window of each key."""
        own: tuple[tuple[str, Callable[[], object]], ...] = (
            ("Ctrl+L", self.focus_trace), ("Ctrl+F", self.focus_filter), ("F6", self.next_pane),
        )  # fmt: skip
        for keys, action in (*actions, *own):
            shortcut = QShortcut(QKeySequence(keys), self.host)
            shortcut.activated.connect(lambda do=action: do())

    def next_pane(self) -> None:
        """Moves the keyboard to the next pane."""
        host = self.host
        left = host.shelf if host.stage == "Machine" else self.tray.list
        shown = host.stack.currentWidget()
        wanted = (self.head.rail, left, shown, host.side, self.strip.field)
        panes = [pane for pane in wanted if pane is not None and pane.isVisible()]
        focus = host.focusWidget()
        holds = [focus is not None and (p is focus or p.isAncestorOf(focus)) for p in panes]
        at = holds.index(True) if True in holds else -1
        following = panes[(at + 1) % len(panes)]
        if following is host.side and host.side.findings.cards:
            host.side.findings.cards[0].setFocus()
        else:
            following.setFocus()

    def focus_trace(self) -> None:
        """Gives the keyboard to the field where a label is traced."""
        self.strip.field.setFocus()
        self.strip.field.selectAll()

    def focus_filter(self) -> None:
        """Gives the keyboard to the filter of the stage."""
        host = self.host
        fields: dict[str, Callable[[], QLineEdit]] = {
            "Harness": lambda: host.harness.filter, "Machine": lambda: host.shelf.field,
        }  # fmt: skip
        field = fields.get(host.stage, lambda: self.tray.field)()
        field.setFocus()
        field.selectAll()

    def area(self) -> str:
        """The area whose keys mean something now."""
        if self.host.stage == "Harness" and self.host.harness.route.hasFocus():
            return ROUTE
        return self.host.stage

    def press(self, entry: KeyEntry) -> None:
        """Does what a key does, where it does it."""
        target: QWidget = self.host
        if entry.area == ROUTE:
            self.host.stage_wanted.emit("Harness")
            target = self.host.harness.route
        elif entry.area != EVERYWHERE:
            self.host.stage_wanted.emit(entry.area)
            shown = self.host.stack.currentWidget()
            target = shown.leader if isinstance(shown, LedFocus) else shown or self.host
        target.setFocus()
        if entry.area == EVERYWHERE:
            for shortcut in self.host.findChildren(QShortcut):
                if shortcut.key() == QKeySequence(entry.keys.replace("Enter", "Return")):
                    shortcut.activated.emit()
                    return
        if entry.is_sent:
            send_key(target, entry.keys)
