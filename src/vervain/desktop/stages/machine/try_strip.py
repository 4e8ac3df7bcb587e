"""What would go into the chosen port of a described board, of the parts on the shelf."""

from collections.abc import Callable

from PyQt6.QtWidgets import QGridLayout, QWidget

from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.files.shelf import ShelfContents
from vervain.model.part import Part
from vervain.ports.try_part import try_port

SHOWN = 5


class TryStrip(QWidget):
    """A head over a few parts with their verdicts."""

    def __init__(self, shelf: Callable[[], ShelfContents]) -> None:
        super().__init__()
        self.shelf = shelf
        self.part: Part | None = None
        self.port = ""
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(1)
        self.head = PlainLabel()
        grid.addWidget(self.head, 0, 0, 1, SHOWN)
        self.cells: list[tuple[PlainLabel, PlainLabel]] = []
        for at in range(SHOWN):
            title, verdict = PlainLabel(), PlainLabel()
            title.setObjectName("head")
            for row, label in enumerate((title, verdict), 1):
                label.setWordWrap(True)
                grid.addWidget(label, row, at)
            grid.setColumnStretch(at, 1)
            self.cells.append((title, verdict))
        self._show()

    def show_part(self, part: Part | None) -> None:
        """Takes another version of the board."""
        if part != self.part:
            self.part = part
            self._show()

    def show_port(self, port: str) -> None:
        """Takes the port that is tried."""
        if port != self.port:
            self.port = port
            self._show()

    def _show(self) -> None:
        part, port = self.part, self.part.port(self.port) if self.part else None
        found = try_port(part, self.port, self.shelf().parts) if part and port else ()
        if port is None:
            self.head.setText("Try it: choose a port to see what of the shelf would go into it.")
        elif found:
            more = f", and {len(found) - SHOWN} more" if len(found) > SHOWN else ""
            self.head.setText(f"{port.id}, if you plug in …{more}")
        else:
            self.head.setText(f"{port.id}: no part of the shelf has a plug for it.")
        for at, (title, verdict) in enumerate(self.cells):
            item = found[at] if at < len(found) else None
            for label in (title, verdict):
                label.setVisible(item is not None)
            if item is None:
                continue
            fits = item.answer.verdict != "does not fit"
            title.setText(item.title)
            verdict.setText(item.words)
            verdict.setStyleSheet(f"color: {looks.theme.accent if fits else looks.theme.faded};")
