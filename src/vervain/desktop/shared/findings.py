"""The findings in the side column: worst first, one of them open with its reason and its fix."""

from collections import Counter
from datetime import date
from functools import partial

from PyQt6.QtCore import QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import MarkupLabel, PlainLabel, escaped, plain
from vervain.desktop.shared.replacing import clear
from vervain.desktop.shared.to_do import ToDoList
from vervain.desktop.shared.wire_painting import CONSEQUENCE_COLOURS
from vervain.desktop.theme import looks
from vervain.edits.note_edits import accept_finding, reopen_finding
from vervain.harness.conductors import natural_key
from vervain.model.problem import Problem
from vervain.queries.changes import changes
from vervain.rules.finding import Finding, Fix, acceptance_of
from vervain.text.units import figure_and_limit

MOST_SHOWN = 30
# How many stay while the cards of a selected run or conductor stand under them.
FEW_SHOWN = 2
PREVIEW_LINES = 4
# How many findings are written out under the mistake that they come from.
MOST_EXPLAINED = 4
# So many findings of one rule are shown; of more the first, and how many others there are.
MOST_ALIKE, ALIKE_LETTERS = 3, 18


class ConsequenceTag(QWidget):
    """The consequence as a word in a box, and the place it is about at the right."""

    def __init__(self, finding: Finding) -> None:
        super().__init__()
        self.finding = finding
        self.setFixedHeight(looks.px(18))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        font = looks.font(10, bold=True)
        word = self.finding.consequence.upper()
        width = QFontMetricsF(font).horizontalAdvance(word) + looks.px(12)
        name, filled = CONSEQUENCE_COLOURS[self.finding.consequence]
        box = QRectF(0.5, 0.5, width, self.height() - 1)
        painter.setPen(looks.colour(name))
        painter.setBrush(looks.colour(name) if filled else looks.colour("sheet"))
        painter.drawRoundedRect(box, 3, 3)
        ink = "on_accent" if filled else "doubt_text" if name == "doubt" else name
        painter.setPen(looks.colour(ink))
        painter.setFont(font)
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, word)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        place = self.finding.subjects[0].text if self.finding.subjects else ""
        room = QRectF(width + 6, 0, self.width() - width - 6, self.height())
        text = painter.fontMetrics().elidedText(
            place, Qt.TextElideMode.ElideMiddle, int(room.width())
        )
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(room, flags, text)


class Gauge(QWidget):
    """The measured value against its limit as a bar, and both in figures."""

    def __init__(self, finding: Finding) -> None:
        super().__init__()
        self.finding = finding
        self.setFixedHeight(looks.px(16))

    def text(self) -> str:
        """The figures beside the bar."""
        value, limit = self.finding.value or 0.0, self.finding.limit or 0.0
        return figure_and_limit(value, limit, self.finding.unit)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        finding = self.finding
        value, limit = finding.value or 0.0, finding.limit or 0.0
        painter.setFont(looks.font(11, bold=True))
        extent = painter.fontMetrics().horizontalAdvance(self.text()) + looks.px(8)
        bar = QRectF(0, self.height() / 2 - 3, self.width() - extent, 6)
        largest = max(value, limit) * 1.15 or 1.0
        painter.fillRect(bar, looks.colour("rule"))
        name, _ = CONSEQUENCE_COLOURS[finding.consequence]
        painter.fillRect(
            QRectF(bar.left(), bar.top(), bar.width() * value / largest, bar.height()),
            looks.colour(name),
        )
        mark = bar.left() + bar.width() * limit / largest
        painter.fillRect(QRectF(mark - 1, bar.top() - 3, 2, 12), looks.colour("ink"))
        painter.setPen(looks.colour("ink"))
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(self.rect()), flags, self.text())


def faded_label(text: str) -> PlainLabel:
    """A wrapped label in the faded ink."""
    label = PlainLabel(text)
    label.setObjectName("faded")
    label.setWordWrap(True)
    return label


class FindingCard(QFrame):
    """One finding; when open, with its reason, source, fix and "Accept as is"."""

    chosen = pyqtSignal(str)

    def __init__(self, session: Session, finding: Finding, is_open: bool) -> None:
        super().__init__()
        self.session = session
        self.finding = finding
        self.setObjectName("open" if is_open else "card")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Preferred)
        self.setAccessibleName(f"{finding.consequence}: {finding.sentence}")
        self.reason_field: QLineEdit | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(9, 8, 9, 8)
        column.setSpacing(5)
        column.addWidget(ConsequenceTag(finding))
        sentence = PlainLabel(finding.sentence)
        sentence.setWordWrap(True)
        column.addWidget(sentence)
        if finding.value is not None and finding.limit is not None:
            column.addWidget(Gauge(finding))
        if finding.explains:
            count = len(finding.explains)
            words = "1 more finding comes" if count == 1 else f"{count} more findings come"
            column.addWidget(faded_label(f"{words} from this."))
        if is_open:
            self._open(column)

    def _open(self, column: QVBoxLayout) -> None:
        # The rules are imported by the checker's first run, long before a card opens.
        from vervain.rules.registry import RULE_BY_ID

        rule = RULE_BY_ID[self.finding.rule]
        column.addWidget(faded_label(f"{rule.reason} {self.finding.why}".strip()))
        column.addWidget(faded_label(f"Source: {rule.source}"))
        buttons = QHBoxLayout()
        buttons.setSpacing(6)
        for fix in self.finding.fixes[:1]:
            label = MarkupLabel(f"<b>Fix</b>&nbsp; {escaped(fix.words)}")
            label.setWordWrap(True)
            column.addWidget(label)
            preview = self._preview(fix)
            if preview:
                column.addWidget(faded_label(preview))
            button = QPushButton("Do it  Alt+Enter")
            button.setObjectName("main")
            button.clicked.connect(self.do_fix)
            buttons.addWidget(button)
        accept = QPushButton("Accept as is")
        accept.clicked.connect(self._ask_reason)
        buttons.addWidget(accept)
        buttons.addStretch(1)
        column.addLayout(buttons)
        for sentence in self.finding.explains[:MOST_EXPLAINED]:
            column.addWidget(faded_label(f"· {sentence}"))
        if len(self.finding.explains) > MOST_EXPLAINED:
            column.addWidget(
                faded_label(f"· and {len(self.finding.explains) - MOST_EXPLAINED} more")
            )
        self.reason_field = QLineEdit()
        self.reason_field.setPlaceholderText("Why may it stay? Enter keeps it")
        self.reason_field.setMaxLength(80)
        self.reason_field.hide()
        self.reason_field.returnPressed.connect(self._accept)
        column.addWidget(self.reason_field)

    def _preview(self, fix: Fix) -> str:
        """What the fix would change, in a few lines."""
        machine = self.session.machine
        try:
            found = changes(machine, fix.remedy.apply(machine))
        except Problem as problem:
            return str(problem)
        more = [f"and {len(found) - PREVIEW_LINES} more"] if len(found) > PREVIEW_LINES else []
        return "\n".join([*found[:PREVIEW_LINES], *more])

    def do_fix(self) -> None:
        """Carries out the first fix as one undoable step."""
        if self.finding.fixes:
            fix = self.finding.fixes[0]
            words = fix.words[:1].upper() + fix.words[1:]
            self.session.apply(words, fix.remedy.apply)

    def _ask_reason(self) -> None:
        if self.reason_field is not None:
            self.reason_field.show()
            self.reason_field.setFocus()

    def _accept(self) -> None:
        if self.reason_field is not None:
            reason, finding = self.reason_field.text(), self.finding
            today = date.today().isoformat()
            self.session.apply(
                f"Accepted: {self.finding.sentence}",
                lambda machine: accept_finding(machine, finding, reason, today),
            )

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.chosen.emit(self.finding.key)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.chosen.emit(self.finding.key)
        else:
            super().keyPressEvent(event)


class FindingsPane(QWidget):
    """The findings of the stage, or of the selected device; made anew when they change."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.stage = ""
        self.cards: list[FindingCard] = []
        # The rules of which every finding is shown, however many.
        self._unfolded: set[str] = set()
        self._shown: tuple[object, ...] = ()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        head = QHBoxLayout()
        self.title = PlainLabel()
        self.title.setObjectName("head")
        self.count = PlainLabel()
        self.count.setObjectName("faded")
        self.every = QPushButton("All")
        self.every.setObjectName("flat")
        self.every.setToolTip("Show the findings of every stage")
        self.every.setCheckable(True)
        self.every.clicked.connect(self.refresh)
        head.addWidget(self.title)
        head.addStretch(1)
        head.addWidget(self.count)
        head.addWidget(self.every)
        column.addLayout(head)
        self.list = QVBoxLayout()
        self.list.setSpacing(5)
        column.addLayout(self.list)
        self.to_do = ToDoList(session)
        column.addWidget(self.to_do)
        session.checked.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.machine_changed.connect(self.refresh)

    def findings(self) -> tuple[str, list[Finding]]:
        """The title and the findings to show: of the selected device, else of the stage."""
        session = self.session
        if self.every.isChecked():
            return "All findings", session.findings()
        device, chosen = session.selection.device, session.chosen_findings()
        if device is not None:
            # At the bench everything about the device that is in hand counts.
            most = None if self.stage == "Bench" else 1
            about = session.findings(
                lambda f: any(s.device == device for s in f.subjects[:most]) or f in chosen
            )
            if about:
                return f"Findings on {device}", about
        run, cable = session.selection.run, self._cable()
        name = run or cable
        if name is not None:
            about = session.findings(
                lambda f: any(name in (s.run, s.cable) for s in f.subjects) or f in chosen
            )
            if about:
                return f"Findings on {name}", about
        if self.stage == "Bench":
            return "Holding steps back", session.findings(lambda f: f.consequence == "Damage")
        return f"Findings in {self.stage}", session.findings(lambda f: f.stage == self.stage)

    def _cable(self) -> str | None:
        """The cable of the selected conductor."""
        chosen = self.session.selection.conductor
        hookup = self.session.queries.hookup(chosen[0]) if chosen else None
        return hookup.cable if hookup is not None else None

    def _is_aside(self) -> bool:
        """Whether the stage's findings give way to the cards of what is selected there."""
        chosen = self.session.selection
        about = chosen.run or chosen.place or chosen.conductor
        return self.stage == "Harness" and about is not None and chosen.finding is None

    def refresh(self) -> None:
        """Shows what there is to show, if it is not shown already."""
        self.to_do.show_stage(None if self.every.isChecked() else self.stage)
        title, found = self.findings()
        total = len(self.session.findings())
        chosen = self.session.selection.finding
        state = (
            title,
            total,
            self.session.result is None,
            tuple(f.key for f in found),
            tuple(map(id, found)),
            chosen,
            self._is_aside(),
            frozenset(self._unfolded),
        )
        if state == self._shown:
            return
        self._shown = state
        self.title.setText(title)
        self.count.setText(f"{len(found)} of {total}" if total else "")
        self.every.setVisible(total > 0)
        clear(self.list)
        self.cards = []
        keys = [finding.key for finding in found]
        opened = chosen if chosen in keys else keys[0] if keys else None
        most = MOST_SHOWN
        if self._is_aside() and title.startswith("Findings in"):
            opened, most = None, FEW_SHOWN
        shown, folded = self._parted(found, opened)
        last_of = {finding.rule: finding.key for finding in shown}
        for finding in shown[:most]:
            card = FindingCard(self.session, finding, is_open=finding.key == opened)
            card.chosen.connect(self._choose)
            self.cards.append(card)
            self.list.addWidget(card)
            if finding.rule in folded and finding.key == last_of[finding.rule]:
                self._fold(finding.rule, folded[finding.rule])
        if self.every.isChecked():
            self._show_accepted()
        if len(shown) > most:
            self.list.addWidget(faded_label(f"and {len(shown) - most} more"))
        if not found:
            checked = self.session.result is not None
            self.list.addWidget(faded_label("Nothing found here." if checked else "Checking …"))

    def _parted(
        self, found: list[Finding], opened: str | None
    ) -> tuple[list[Finding], dict[str, list[Finding]]]:
        """The findings that get a card, and the others by their rule: of a rule with many only the
        first gets one, and the open one.
        """
        counts = Counter(finding.rule for finding in found)
        shown: list[Finding] = []
        folded: dict[str, list[Finding]] = {}
        begun: set[str] = set()
        for finding in found:
            is_few = counts[finding.rule] <= MOST_ALIKE or finding.rule in self._unfolded
            if is_few or finding.rule not in begun or finding.key == opened:
                shown.append(finding)
            else:
                folded.setdefault(finding.rule, []).append(finding)
            begun.add(finding.rule)
        return shown, folded

    def _fold(self, rule: str, alike: list[Finding]) -> None:
        """How many more there are of a rule, and what they are about; a click shows them."""
        subjects = (finding.subjects[0].text for finding in alike if finding.subjects)
        names = ", ".join(sorted(subjects, key=natural_key))
        if len(names) > ALIKE_LETTERS:
            names = f"{names[:ALIKE_LETTERS].rstrip(', ')} …"
        button = QPushButton(f"{len(alike)} more alike: {names}".replace("&", "&&"))
        button.setObjectName("todo")
        button.setToolTip(plain("\n".join(finding.sentence for finding in alike[:MOST_SHOWN])))
        button.clicked.connect(partial(self._unfold, rule))
        self.list.addWidget(button)

    def _unfold(self, rule: str) -> None:
        self._unfolded.add(rule)
        self.refresh()

    def _show_accepted(self) -> None:
        """The findings that were accepted, each with its reason and a way back."""
        session = self.session
        for finding in session.result.accepted if session.result else ():
            item = acceptance_of(session.machine.accepted, finding)
            if item is None:
                # Opened again a moment ago; the check of that is still under way.
                continue
            frame = QFrame()
            frame.setObjectName("card")
            column = QVBoxLayout(frame)
            column.setContentsMargins(9, 8, 9, 8)
            text = f"{finding.sentence} Accepted on {item.day}: {item.reason}"
            column.addWidget(faded_label(text))
            again = QPushButton("Open again")
            again.clicked.connect(partial(self._reopen, finding))
            column.addWidget(again)
            self.list.addWidget(frame)

    def _reopen(self, finding: Finding) -> None:
        item = acceptance_of(self.session.machine.accepted, finding)
        if item is not None:
            self.session.apply(
                f"Opened again: {finding.sentence}", lambda m: reopen_finding(m, item.key)
            )

    def _choose(self, key: str) -> None:
        for finding in self.session.findings():
            if finding.key == key:
                self.session.select_finding(finding)

    def open_card(self) -> FindingCard | None:
        """The card that is open: of the selected finding, else the first."""
        return next((card for card in self.cards if card.objectName() == "open"), None)
