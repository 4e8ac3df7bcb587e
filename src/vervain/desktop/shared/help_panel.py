"""What F1 shows: what is selected, what it is, and what can be done with it now."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QFrame, QGridLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.explaining import keys_now, sentences_of, title_of
from vervain.desktop.shared.plain import MarkupLabel, escaped
from vervain.desktop.theme import looks

MARGIN = 24


class HelpPanel(QFrame):
    """Words about one thing over the keys for it."""

    def __init__(self, parent: QWidget, session: Session) -> None:
        super().__init__(parent)
        self.session = session
        self.setObjectName("popup")
        self.text = MarkupLabel()
        self.text.setWordWrap(True)
        QGridLayout(self).addWidget(self.text)
        self.hide()

    def explain(self, area: str, more: str = "") -> None:
        """Explains what is selected, with more words as they are, and its keys in an area."""
        title = title_of(self.session) or f"The {area} stage"
        lines = [f"<b>{escaped(title)}</b>", *map(escaped, sentences_of(self.session))]
        if more:
            lines.append(escaped(more))
        rows = [(entry.keys, entry.words) for entry in keys_now(self.session, area)]
        last = "F1 again: every key, to search and to do. Shift+F1: the guide to the stage."
        self._show("<br>".join(lines), rows, last)

    def tell(self, title: str, lines: Sequence[str], rows: Sequence[tuple[str, str]]) -> None:
        """Shows a title, lines and a table of two columns."""
        self._show("<br>".join((f"<b>{escaped(title)}</b>", *map(escaped, lines))), rows, "")

    def _show(self, head: str, rows: Sequence[tuple[str, str]], last: str) -> None:
        table = "".join(
            f"<tr><td><b>{escaped(name)}</b>&nbsp;&nbsp;</td><td>{escaped(words)}</td></tr>"
            for name, words in rows
        )
        self.text.setText(f"{head}<table>{table}</table>{last}")
        parent = self.parentWidget()
        over = parent.width() if parent is not None else looks.px(560)
        width = min(looks.px(520), over - 2 * MARGIN)
        self.setFixedWidth(width)
        self.adjustSize()
        if parent is not None:
            room = parent.height() - self.height()
            self.move((over - width) // 2, max(0, min(looks.px(90), room)))
        self.show()
        self.raise_()
