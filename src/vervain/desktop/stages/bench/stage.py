"""The Bench stage: the machine is proven step by step, and what was seen is kept."""

from collections.abc import Callable
from datetime import datetime
from functools import partial

from msgspec.structs import replace
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QDragEnterEvent, QDropEvent, QHideEvent, QKeyEvent, QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QMenu, QPushButton, QSplitter, QVBoxLayout

from vervain.bench.cause_table import Symptom
from vervain.bench.judging import judge
from vervain.bench.results import StepResult, make_result
from vervain.bench.step import BenchStep
from vervain.bench.troubleshooting import symptom_step, symptoms_of
from vervain.desktop.bench_worker import BenchFigures, BenchWorker
from vervain.desktop.keys_help import BENCH
from vervain.desktop.session import Selection, Session
from vervain.desktop.settings import Settings
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.live_links import LiveLinks
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.bench.causes_panel import CausesPanel
from vervain.desktop.stages.bench.live_side import LiveSide
from vervain.desktop.stages.bench.photo_menu import PhotoMenu, dropped_photos
from vervain.desktop.stages.bench.progress_squares import ProgressSquares
from vervain.desktop.stages.bench.speech import Speech
from vervain.desktop.stages.bench.step_list import StepList
from vervain.desktop.stages.bench.step_page import StepPage
from vervain.desktop.theme import looks
from vervain.edits.bench_edits import forget_result, keep_result
from vervain.model.bench_result import LONGEST_SEEN, BenchResult, Outcome
from vervain.text.quantities import NotAQuantity

WAIT_MS = 60
LIST_WIDTH = 250
EMPTY = (
    "Nothing to prove yet.\n\nWhat is wired on Ports and fed on Supply is listed here, step by "
    "step: what to do, what to see."
)
WORKING = "Working the steps out …"


class BenchStage(LedFocus):
    """The line with the counts, the squares, the list, and the chosen step in large letters."""

    def __init__(
        self,
        session: Session,
        worker: BenchWorker,
        links: LiveLinks,
        settings: Settings,
        export: Callable[[str], object],
    ) -> None:
        super().__init__()
        self.session, self.worker, self.export = session, worker, export
        self.live = LiveSide(session, links, settings, self)
        self.at = 0
        self.anyway: set[str] = set()
        self.symptom: BenchStep | None = None
        self.symptoms: QMenu | None = None
        self._is_leading = False
        self.line = StageLine()
        self.trouble = self.line.add_button(QPushButton("It does not work  T"))
        self.trouble.clicked.connect(self.begin_trouble)
        self.next_button = self.line.add_button(QPushButton("Next open step  Enter"))
        self.next_button.clicked.connect(self.go_on)
        self.connect_button = self.line.add_button(QPushButton("Live  C"))
        self.connect_button.clicked.connect(self.live.toggle_connections)
        self.report_button = self.line.add_button(QPushButton("Report  R"))
        self.report_button.clicked.connect(self.write_report)
        buttons = self.trouble, self.next_button, self.connect_button, self.report_button
        for button in buttons:
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.squares, self.list, self.page = ProgressSquares(), StepList(), StepPage(session)
        self.causes = CausesPanel(session, worker)
        self.photos = PhotoMenu(session, self, lambda: (self.step, self._kept()))
        self.speech = Speech()
        self.setAcceptDrops(True)
        self.page.column.addWidget(self.causes)
        self.page.column.addStretch(1)
        self.menu = ContextMenu(session, self.list, BENCH)
        self.empty = PlainLabel(EMPTY)
        self.empty.setObjectName("faded")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self._arrange()
        self._connect()
        self.lead_focus_to(self.list)
        self.refresh()

    def _arrange(self) -> None:
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(self.list)
        self.split.addWidget(self.page)
        self.split.addWidget(self.live)
        self.split.setStretchFactor(1, 1)
        self.split.setChildrenCollapsible(False)
        self.split.setSizes([looks.px(LIST_WIDTH), 500])
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        body = QHBoxLayout()
        body.addWidget(self.split, 1)
        body.addWidget(self.empty, 1)
        column.addWidget(self.line)
        column.addWidget(self.squares)
        column.addLayout(body, 1)

    def _connect(self) -> None:
        session, page = self.session, self.page
        self.list.chose.connect(self.choose)
        self.squares.chose.connect(self.choose)
        page.passed.connect(lambda: self.judge_by_eye("passed"))
        page.failed.connect(lambda: self.judge_by_eye("failed"))
        page.read.connect(self.take_reading)
        page.noted.connect(self.keep_note)
        page.anyway.connect(self.do_anyway)
        page.photo_wanted.connect(self._open_photos)
        page.switch_wanted.connect(self.live.switch_output)
        self.live.passed.connect(self._passed_by_itself)
        self.live.told.connect(page.show_watched)
        self.live.reading_taken.connect(self.take_reading)
        self.live.can_switch.connect(page.show_switch)
        self.live.connections.left.connect(self.list.setFocus)
        self.worker.changed.connect(self.refresh)
        session.selection_changed.connect(self._follow_selection)
        session.opened.connect(self._forget)
        self._want_timer = QTimer(self)
        self._want_timer.setSingleShot(True)
        self._want_timer.timeout.connect(self._want)
        session.machine_changed.connect(lambda: self._want_timer.start(WAIT_MS))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self.worker.is_shown = True
        self._want()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        # Nothing is switched from here once nobody looks.
        self.live.links.disarm()

    def _want(self) -> None:
        if self.isVisible():
            self.worker.want()

    def _forget(self) -> None:
        self.at, self.symptom = 0, None
        self.anyway.clear()

    def scale(self) -> None:
        """Takes the text scale and the theme in force."""
        self.list.arrange()
        self.causes.scale()
        self.refresh()

    # What is shown.

    @property
    def figures(self) -> BenchFigures | None:
        """The steps, once they were worked out."""
        return self.worker.figures

    @property
    def step(self) -> BenchStep | None:
        """The chosen step."""
        steps = self.figures.steps if self.figures is not None else ()
        return steps[self.at] if self.at < len(steps) else None

    def refresh(self) -> None:
        """Shows the steps as they are now; the chosen one stays chosen."""
        figures, before = self.figures, self.page_step
        steps = figures.steps if figures is not None else ()
        if before is not None:
            number = next((n for n, step in enumerate(steps) if step.id == before), self.at)
            self.at = number
        self.at = min(self.at, max(0, len(steps) - 1))
        queries = self.session.queries
        names = {n: d.name for n in queries.devices() if (d := queries.device(n)) is not None}
        names |= {n: a.name for n in queries.axes() if (a := queries.axis(n)) is not None}
        self.list.show_steps(figures, names, self.anyway)
        for widget in (self.squares, self.split):
            widget.setVisible(bool(steps))
        self.empty.setVisible(not steps)
        self.empty.setText(WORKING if figures is None and queries.devices() else EMPTY)
        self._show_step()

    page_step: str | None = None

    def _show_step(self) -> None:
        figures, step = self.figures, self.step
        self.squares.show_steps(figures, self.at)
        self.page_step = step.id if step is not None else None
        if figures is None or step is None:
            self.page.show_step(None, 0, 0, StepResult(""), False)
            self._say()
            return
        self.list.choose(self.at)
        result = figures.state(step)
        if self.symptom is not None:
            self.page.show_symptom(self.symptom)
            self.causes.show_for(self.symptom)
        else:
            self.page.show_step(step, self.at + 1, len(figures.steps), result, self._is_held(step))
            self.causes.show_for(step if result.state == "failed" else None)
        is_watched = self.symptom is None and not self._is_held(step)
        self.live.show_step(step if is_watched else None)
        self._say()

    def _is_held(self, step: BenchStep) -> bool:
        return bool(step.held) and step.id not in self.anyway

    def _say(self) -> None:
        figures = self.figures
        if figures is None or not figures.steps:
            self.line.say("Bench.", "Prove it step by step, before it runs.")
            return
        passed, of = figures.count("passed"), len(figures.steps)
        held = sum(self._is_held(step) for step in figures.steps)
        told = [
            f"{count} {words}"
            for count, words in (
                (figures.count("failed"), "failed"), (figures.count("again"), "to be seen again"),
                (held, "held back"),
            )
            if count
        ]  # fmt: skip
        rest = ", ".join(told) or ("The machine is proven." if passed == of else "")
        self.line.say(f"{passed} of {of} passed.", rest)

    # Choosing.

    def choose(self, number: int) -> None:
        """Goes to a step, and selects what it is about."""
        self.at, self.symptom = number, None
        self._show_step()
        self._lead_selection()

    def _lead_selection(self) -> None:
        step = self.step
        if step is None:
            return
        ref = step.port
        port = ref.port if ref is not None and ref.device == step.device else None
        self._is_leading = True
        try:
            self.session.select(Selection(device=step.device, port=port))
        finally:
            self._is_leading = False

    def _follow_selection(self) -> None:
        """A device that is selected elsewhere brings its first step that is open."""
        device = self.session.selection.device
        step, figures = self.step, self.figures
        if self._is_leading or not self.isVisible() or device is None or figures is None:
            return
        if step is not None and step.device == device:
            return
        mine = [n for n, item in enumerate(figures.steps) if item.device == device]
        open_ones = [n for n in mine if figures.state(figures.steps[n]).state != "passed"]
        if mine:
            self.at, self.symptom = (open_ones or mine)[0], None
            self._show_step()

    def go_on(self) -> None:
        """Goes to the next step that has not passed and is not held back; after the last, to the
        first.
        """
        figures = self.figures
        if figures is None or not figures.steps:
            return
        count = len(figures.steps)
        for number in ((self.at + n) % count for n in range(1, count + 1)):
            step = figures.steps[number]
            if figures.state(step).state in ("", "again") and not self._is_held(step):
                self.choose(number)
                return
        if self.isVisible():
            self.session.say("No step is open that is not held back or failed.")

    # What was seen.

    def judge_by_eye(self, outcome: Outcome) -> None:
        """Keeps that the step passed or failed."""
        step = self.step
        if step is not None and not self._is_held(step):
            self._keep(outcome, "")

    def take_reading(self, text: str) -> None:
        """Judges what the meter shows, and keeps it; what is no number is told."""
        step = self.step
        if step is None or step.window is None or self._is_held(step):
            return
        try:
            judgement = judge(step.window, text)
        except NotAQuantity as refusal:
            self.session.say(str(refusal))
            return
        self._keep(judgement.outcome, judgement.seen)
        if judgement.outcome == "failed":
            self.session.say(f"{judgement.seen} is {judgement.wrong}.")

    def keep_note(self, note: str) -> None:
        """Keeps a note with what was seen; one alone is no result."""
        kept = self._kept()
        if kept is None:
            self.session.say("Pass or fail the step first: the note is kept with it.")
            return
        noted = replace(kept, note=" ".join(note.split()))
        self.session.apply(f"Note at step {self.at + 1}", lambda m: keep_result(m, noted))
        self.list.setFocus()

    def forget(self) -> None:
        """Takes back what was seen at the step."""
        kept = self._kept()
        if kept is not None:
            words = f"Took back step {self.at + 1}"
            self.session.apply(words, lambda m: forget_result(m, kept))

    def _kept(self) -> BenchResult | None:
        step, figures = self.step, self.figures
        return figures.state(step).result if step is not None and figures is not None else None

    def _keep(self, outcome: Outcome, seen: str) -> None:
        step, kept = self.step, self._kept()
        if step is None:
            return
        note, photos = (kept.note, kept.photos) if kept is not None else ("", ())
        now = datetime.now()
        result = make_result(self.session.queries, step, outcome, seen, note, photos, now)
        words = f"{outcome.capitalize()} step {self.at + 1}: {step.subject}"[:70]
        self.session.apply(words, lambda machine: keep_result(machine, result))
        self.list.setFocus()
        if outcome == "passed":
            self.go_on()

    def do_anyway(self) -> None:
        """Holds the step back no longer, until another machine is opened."""
        step = self.step
        if step is not None and step.held:
            self.anyway.add(step.id)
            self.refresh()
            self.list.setFocus()

    def write_report(self) -> None:
        """Asks where the report goes, and writes it."""
        self.export("bench")

    def _open_photos(self) -> None:
        button = self.page.photo_button
        self.photos.open(button.mapToGlobal(button.rect().bottomLeft()))

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        if event is not None and dropped_photos(event.mimeData()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        if event is not None:
            self.photos.add(dropped_photos(event.mimeData()))

    def _passed_by_itself(self, words: str) -> None:
        if self.isVisible() and self.symptom is None:
            self._keep("passed", words[:LONGEST_SEEN])

    def speak(self) -> None:
        """Reads the step aloud."""
        step = self.step
        if step is not None and not self.speech.say(f"{step.do}. {step.see}."):
            self.session.say("This desktop has no speech service.")

    # Without a step.

    def begin_trouble(self) -> None:
        """Asks what is seen of the selected device, and looks for its cause."""
        device = self.session.selection.device or (self.step.device if self.step else "")
        found = symptoms_of(self.session.queries, device)
        if not found:
            self.session.say("Choose a device first: a motor, switch, supply, controller …")
            return
        self.symptoms = QMenu(self)
        for symptom in found:
            action = self.symptoms.addAction(symptom.words)
            if action is not None:
                action.triggered.connect(partial(self.look_for, symptom, device))
        self.symptoms.popup(self.trouble.mapToGlobal(self.trouble.rect().bottomLeft()))

    def look_for(self, symptom: Symptom, device: str) -> None:
        """Shows what to look at for a symptom of a device."""
        steps = self.figures.steps if self.figures is not None else ()
        self.symptom = symptom_step(self.session.queries, symptom, device, steps)
        self._show_step()

    def leave_trouble(self) -> None:
        """Back to the step."""
        self.symptom = None
        self._show_step()
        self.list.setFocus()

    # Keys.

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, text = event.key(), event.text().casefold()
        has_modifier = bool(event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier)
        act = None if has_modifier else self._key_acts().get(text)
        if act is not None:
            act()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.go_on()
        elif key == Qt.Key.Key_Space:
            # Where something live shows what the step asks for, that is taken.
            if self.live.has_reading:
                self.live.take_reading()
            else:
                self.session.card_wanted.emit()
        elif key == Qt.Key.Key_Escape:
            self.leave_trouble()
        elif self.symptom is not None:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            self.forget()
        elif not (text and text in "0123456789.,-" and self.page.begin_reading(text)):
            super().keyPressEvent(event)

    def _key_acts(self) -> dict[str, Callable[[], object]]:
        """What letters do: with a step, and while a fault is looked for without one."""
        looking: dict[str, Callable[[], object]] = {
            "t": self.begin_trouble, "r": self.write_report, "c": self.live.toggle_connections,
            "x": self.causes.rule_out,
            "g": lambda: self.causes.answer("good"), "b": lambda: self.causes.answer("bad"),
        }  # fmt: skip
        if self.symptom is not None:
            return looking
        return looking | {
            "p": lambda: self.judge_by_eye("passed"), "f": lambda: self.judge_by_eye("failed"),
            "s": self.speak, "n": self.page.write_note, "a": self.do_anyway,
            "o": self.live.switch_output,
        }  # fmt: skip
