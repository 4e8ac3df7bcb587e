"""What is drawn, told to assistive technology: a drawn view's description follows the selection and
what its stage's line newly says.
"""

from collections.abc import Callable

from PyQt6.QtCore import QEvent, QObject, QTimer
from PyQt6.QtWidgets import QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.explaining import title_of
from vervain.desktop.shared.tips import pin_tip, port_tip
from vervain.harness.labels import conductor_labels
from vervain.model.machine import ends_of
from vervain.queries.pin_words import pin_in_words


def tell(view: QWidget, words: str) -> None:
    """Makes the words a view's description; what is the same already is not told again."""
    if words != view.accessibleDescription():
        view.setAccessibleDescription(words)


def selection_words(session: Session) -> str:
    """What is selected, in a sentence or two; "" where nothing is."""
    chosen, queries = session.selection, session.queries
    for finding in session.chosen_findings():
        return f"{finding.consequence}: {finding.sentence}"
    if chosen.pin_ref is not None:
        return pin_tip(queries, chosen.pin_ref)
    if chosen.conductor is not None:
        return _conductor_words(session, *chosen.conductor)
    if chosen.port_ref is not None:
        return port_tip(queries, chosen.port_ref, None)
    if chosen.run is not None:
        return f"Way {chosen.run}"
    title = title_of(session)
    about = chosen.device or chosen.axis
    found = session.findings(
        lambda f: about is not None and any(about in (s.device, s.axis) for s in f.subjects[:1])
    )
    part = queries.part_of(chosen.device) if chosen.device is not None else None
    worst = f"{len(found)} findings: {found[0].sentence}" if len(found) > 1 else ""
    only = found[0].sentence if len(found) == 1 else ""
    return ", ".join(filter(None, (title, part.title if part else "", worst or only)))


def _conductor_words(session: Session, hookup_id: str, row: int) -> str:
    queries = session.queries
    hookup = queries.hookup(hookup_id)
    if hookup is None or row >= len(hookup.conductors):
        return ""
    entry = conductor_labels(queries, hookup_id, row)
    start, end = ends_of(hookup, hookup.conductors[row])
    label = entry.at_a if entry is not None else "wire"
    return f"{label} from {pin_in_words(queries, start)} to {pin_in_words(queries, end)}"


class Voice(QObject):
    """Keeps the description of a drawn view to what is selected, once events allow. What its
    stage's line says comes after it where it is new: where something in hand would go, for one.
    """

    def __init__(
        self, session: Session, view: QWidget, words: Callable[[], str] | None = None
    ) -> None:
        super().__init__(view)
        self.view = view
        self.words = words or (lambda: selection_words(session))
        self.line_words = ""
        self._told = ("", "")
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.tell_now)
        session.selection_changed.connect(self.tell_soon)
        session.checked.connect(self.tell_soon)
        view.installEventFilter(self)

    def say_line(self, words: str) -> None:
        """Takes what the stage's line says now."""
        self.line_words = words
        self.tell_soon()

    def tell_soon(self) -> None:
        """Tells what is new, once events allow."""
        self._soon.start()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() in (QEvent.Type.FocusIn, QEvent.Type.Show):
            self.tell_soon()
        return False

    def tell_now(self) -> None:
        """Brings the description up to date, if the view is seen and something is new."""
        if not self.view.isVisible():
            return
        chosen, before = self.words(), self._told
        self._told = (chosen, self.line_words)
        if self._told != before:
            line = self.line_words if self.line_words != before[1] else ""
            tell(self.view, ". ".join(words.rstrip(".") for words in (chosen, line) if words))
