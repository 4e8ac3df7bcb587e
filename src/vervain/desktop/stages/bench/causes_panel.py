"""What to look at when a step failed or a machine does not work: the measurement that tells most
first, then the causes that are left, nearest first.
"""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from vervain.bench.causes import Cause, causes
from vervain.bench.step import BenchStep
from vervain.bench.troubleshooting import Answer, Split, left_over, next_split, splits
from vervain.desktop.analysis import LatestWork, ShouldContinue
from vervain.desktop.bench_worker import BenchWorker
from vervain.desktop.message import Message
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.replacing import clear
from vervain.desktop.theme import looks
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries

MOST_SHOWN = 8
TITLE = "What to look at, nearest first"


class CauseRow(QWidget):
    """A cause: its number, what it is, the test that tells, the way there, and "Not it"."""

    def __init__(self, number: int, cause: Cause) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 4, 0, 6)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(2)
        figure, what, test = PlainLabel(str(number)), PlainLabel(cause.what), PlainLabel(cause.test)
        figure.setStyleSheet(f"color: {looks.theme.accent}; font-weight: bold;")
        what.setStyleSheet("font-weight: bold;")
        test.setObjectName("faded")
        for label in (what, test):
            label.setWordWrap(True)
        self.go, self.not_it = QPushButton(cause.stage), QPushButton("Not it")
        self.go.setAccessibleName(f"To {cause.what}, on {cause.stage}")
        self.not_it.setAccessibleName(f"Not it: {cause.what}")
        for button in (self.go, self.not_it):
            button.setObjectName("flat")
            button.setStyleSheet("padding: 0;")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        top = Qt.AlignmentFlag.AlignTop
        grid.addWidget(figure, 0, 0, top)
        grid.addWidget(what, 0, 1, top)
        grid.addWidget(self.go, 0, 2, top)
        grid.addWidget(test, 1, 1, top)
        grid.addWidget(self.not_it, 1, 2, top)
        grid.setColumnStretch(1, 1)


class CausesPanel(QWidget):
    """The panel under a step; hidden while there is nothing to look for."""

    answered = pyqtSignal()

    def __init__(self, session: Session, worker: BenchWorker) -> None:
        super().__init__()
        self.session, self.worker = session, worker
        self.step: BenchStep | None = None
        self.causes: tuple[Cause, ...] = ()
        self.splits: tuple[Split, ...] = ()
        self.answers: dict[str, Answer] = {}
        self.ruled_out: set[str] = set()
        self._shown: tuple[Cause, ...] = ()
        self._work = LatestWork(session.analysis, self._find)
        self._work.done.connect(self._take)
        self._work.failed.connect(
            lambda problem: session.said.emit(Message(str(problem), is_bad=True))
        )
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        self.title, self.again = PlainLabel(TITLE), QPushButton("Begin again")
        self.title.setObjectName("head")
        self.again.setObjectName("flat")
        self.again.clicked.connect(self.begin_again)
        head.addWidget(self.title, 1)
        head.addWidget(self.again)
        column.addLayout(head)
        column.addWidget(self._question_card())
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        column.addLayout(self.rows)
        self.hide()

    def _question_card(self) -> QFrame:
        self.card = QFrame()
        self.card.setObjectName("open")
        column = QVBoxLayout(self.card)
        column.setContentsMargins(12, 8, 12, 8)
        self.question, self.see = PlainLabel(), PlainLabel()
        for label in (self.question, self.see):
            label.setWordWrap(True)
        self.see.setObjectName("faded")
        self.good, self.bad = QPushButton("So it is  G"), QPushButton("It is not  B")
        self.good.clicked.connect(lambda: self.answer("good"))
        self.bad.clicked.connect(lambda: self.answer("bad"))
        line = QHBoxLayout()
        line.addWidget(self.good)
        line.addWidget(self.bad)
        line.addStretch(1)
        column.addWidget(self.question)
        column.addWidget(self.see)
        column.addLayout(line)
        return self.card

    def show_for(self, step: BenchStep | None) -> None:
        """Shows what to look at for a step, or symptom, that is not as it should be."""
        if step is None:
            self.step = None
            self.hide()
            return
        if self.step is None or self.step.id != step.id:
            self.answers, self.ruled_out = {}, set()
            self.causes, self.splits = (), ()
        self.step = step
        self._work.ask(self.session.machine)
        self._show()

    def scale(self) -> None:
        """Takes the text scale and the theme in force."""
        self._shown = ()
        self._show()

    def begin_again(self) -> None:
        """Forgets what was measured and ruled out."""
        self.answers, self.ruled_out = {}, set()
        self._show()

    def _find(
        self, queries: Queries, _should_continue: ShouldContinue
    ) -> tuple[str, tuple[Cause, ...], tuple[Split, ...]]:
        step, figures = self.step, self.worker.figures
        if step is None or figures is None:
            return "", (), ()
        found = causes(queries, step, figures.steps, figures.results, figures.findings)
        return step.id, found, splits(queries, step)

    def _take(
        self, machine: Machine, found: tuple[str, tuple[Cause, ...], tuple[Split, ...]]
    ) -> None:
        if self.step is not None and found[0] == self.step.id and machine is self.session.machine:
            _, self.causes, self.splits = found
            self._show()

    @property
    def left(self) -> tuple[Cause, ...]:
        """The causes that are left."""
        return left_over(self.causes, self.splits, self.answers, self.ruled_out)

    @property
    def asked(self) -> Split | None:
        """The measurement that tells most now."""
        return next_split(self.left, self.splits, self.answers)

    def _show(self) -> None:
        left, asked = self.left, self.asked
        self.again.setVisible(bool(self.answers or self.ruled_out))
        self.card.setVisible(asked is not None)
        if asked is not None:
            self.question.setText(f"This tells most: {asked.do[:1].lower()}{asked.do[1:]}.")
            self.see.setText(f"As it should be: {asked.see}.")
        # Nothing is left out before anything was found.
        self.setVisible(self.step is not None and bool(self.causes))
        if left == self._shown and self.rows.count():
            # Rows that stay are not taken away under the mouse.
            return
        self._shown = left
        clear(self.rows)
        for number, cause in enumerate(left[:MOST_SHOWN], 1):
            row = CauseRow(number, cause)
            row.go.clicked.connect(partial(self.go_to, cause))
            row.not_it.clicked.connect(partial(self.rule_out, cause))
            self.rows.addWidget(row)
            row.show()
        if len(left) > MOST_SHOWN or not left:
            more = f"and {len(left) - MOST_SHOWN} less likely ones"
            none = "Nothing that the design knows is left: begin again, or ask who built the part."
            label = PlainLabel(more if left else none)
            label.setObjectName("faded")
            label.setWordWrap(True)
            self.rows.addWidget(label)

    def answer(self, answer: Answer) -> None:
        """Takes what the measurement showed."""
        asked = self.asked
        if asked is not None and not self.isHidden():
            self.answers[asked.id] = answer
            self._show()
            self.answered.emit()

    def rule_out(self, cause: Cause | None = None) -> None:
        """Takes a cause from the list, the first where none is named."""
        left = self.left
        chosen = cause or (left[0] if left and not self.isHidden() else None)
        if chosen is not None:
            self.ruled_out.add(chosen.id)
            self._show()
            self.answered.emit()

    def go_to(self, cause: Cause) -> None:
        """Goes to the stage on which a cause is put right, with what it is about selected."""
        at = cause.at
        conductor = (at.hookup, 0) if at.hookup is not None else None
        self.session.stage_wanted.emit(cause.stage)
        self.session.select(
            Selection(device=at.device, port=at.port, pin=at.pin, conductor=conductor)
        )
