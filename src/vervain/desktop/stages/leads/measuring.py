"""One motor's leads measured: the pair to probe, what was read, and what follows from it."""

from dataclasses import dataclass
from datetime import date

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import tell
from vervain.desktop.stages.leads.parts import Beliefs, ProbePair, ReadingField, ReadingList
from vervain.desktop.stages.leads.picture import CoilCircle
from vervain.desktop.theme import looks
from vervain.edits.measurement_edits import (
    add_reading,
    move_reading,
    remove_reading,
    replace_reading,
    set_coils,
)
from vervain.leads.conclusions import conclusions, hypotheses_in_words
from vervain.leads.datasheet import Datasheet
from vervain.leads.identification import Finding, find
from vervain.leads.motors import datasheet_of, leads_of, leads_port, printed_coils
from vervain.model.measurements import ALL_LEADS, BODY, Meter, Reading

SHOWN_BELIEFS = 5


@dataclass(frozen=True)
class Question:
    """What the finder was asked."""

    device: str
    leads: tuple[str, ...]
    readings: tuple[Reading, ...]
    datasheet: Datasheet | None
    meter: Meter


class MeasuringPage(LedFocus):
    """One motor at a time: its leads as a circle, the next pair, the readings so far."""

    # The finder has answered, or another motor is asked about.
    answered = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.question: Question | None = None
        self.finding: Finding | None = None
        # A reading that is being corrected, or a pair that was picked by hand.
        self.correcting: int | None = None
        self.picked: tuple[str, str] | None = None
        self.setObjectName("measuring")
        self.step, self.hint, self.result = PlainLabel(), PlainLabel(), PlainLabel()
        self.hint.setObjectName("faded")
        for label in (self.hint, self.result):
            label.setWordWrap(True)
        self.pair, self.field, self.read = ProbePair(), ReadingField(), ReadingList()
        self.circle, self.beliefs = CoilCircle(), Beliefs()
        self.buttons: list[QPushButton] = []
        self.left = QWidget()
        self._arrange()
        self._connect()
        self.lead_focus_to(self.field)
        self.scale()

    def _connect(self) -> None:
        self.field.saw.connect(self.enter)
        self.field.keeps.connect(self.keep_coils)
        self.field.as_printed.connect(self.take_printed)
        self.field.takes_back.connect(lambda: self.take_back())
        self.field.to_body.connect(self._probe_body)
        self.field.goes_to_list.connect(self._go_to_list)
        self.field.leaves.connect(self._leave)
        self.field.steps.connect(self._step)
        self.read.corrects.connect(self._correct)
        self.read.removed.connect(self.take_back)
        self.read.moved.connect(self._move)
        self.read.left.connect(self.field.setFocus)
        self.circle.picked.connect(self._pick)

    def _arrange(self) -> None:
        answers = QHBoxLayout()
        for words, answer in (("open  o", "open"), ("short  s", "beep"), ("next  Enter", "")):
            button = QPushButton(words)
            button.setMinimumHeight(looks.px(36))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, saw=answer: self.enter(saw or self.field.text()))
            answers.addWidget(button)
            self.buttons.append(button)
        self.buttons[-1].setObjectName("main")
        left = QVBoxLayout(self.left)
        left.setContentsMargins(0, 0, 0, 0)
        left.setSpacing(7)
        for widget in (self.step, self.pair, self.field):
            left.addWidget(widget)
        left.addLayout(answers)
        left.addWidget(self.hint)
        left.addSpacing(8)
        left.addWidget(heading("Read so far"))
        left.addWidget(self.read, 1)
        sure, follows = QVBoxLayout(), QVBoxLayout()
        sure.addWidget(heading("How sure"))
        sure.addWidget(self.beliefs, 1)
        follows.addWidget(heading("What follows"))
        follows.addWidget(self.result)
        follows.addStretch(1)
        under = QHBoxLayout()
        under.setSpacing(20)
        under.addLayout(sure, 1)
        under.addLayout(follows, 1)
        right = QVBoxLayout()
        right.addWidget(self.circle, 1)
        right.addLayout(under)
        body = QHBoxLayout(self)
        body.setContentsMargins(16, 12, 16, 10)
        body.setSpacing(18)
        body.addWidget(self.left)
        body.addLayout(right, 1)

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.left.setFixedWidth(looks.px(262))
        self.pair.setFixedHeight(looks.px(58))
        self.beliefs.setMinimumSize(looks.px(170), looks.px(142))
        self.result.setMinimumWidth(looks.px(170))
        self.circle.setMinimumSize(looks.px(300), looks.px(250))
        self.step.setStyleSheet(
            f"color: {looks.theme.accent}; font-size: {looks.px(15)}px; font-weight: bold;"
        )
        self.field.setStyleSheet(f"font-size: {looks.px(24)}px; font-weight: bold;")
        self.setStyleSheet(f"#measuring {{ background: {looks.theme.sheet}; }}")
        self.read.setStyleSheet("QListWidget::item { padding: 1px 2px; }")

    def show_device(self, name: str | None) -> None:
        """Turns to a motor and asks the finder, if anything changed; None: there is no motor."""
        device = self.session.queries.device(name) if name else None
        for widget in (self.left, self.circle, self.beliefs, self.result):
            widget.setEnabled(device is not None)
        if device is None:
            self.question = self.finding = None
            return
        queries = self.session.queries
        question = Question(
            device=device.designator,
            leads=leads_of(queries, device.designator),
            readings=device.readings,
            datasheet=datasheet_of(queries, device.designator),
            meter=self.session.machine.meter,
        )
        if question == self.question:
            return
        if self.question is None or question.device != self.question.device:
            self.correcting = self.picked = None
        self.question, self.finding = question, None
        in_background(
            lambda: find(question.leads, question.readings, question.datasheet, question.meter),
            lambda finding: self._show(question, finding),
            lambda problem: self.session.say(str(problem)),
        )

    @property
    def are_coils_known(self) -> bool:
        """Whether the readings leave one answer."""
        return self.finding is not None and self.finding.are_coils_known

    @property
    def can_take_printed(self) -> bool:
        """Whether the part says coils where neither readings nor the machine do."""
        queries, question = self.session.queries, self.question
        device = queries.device(question.device) if question else None
        if device is None or device.coils or self.are_coils_known:
            return False
        return bool(printed_coils(queries, device.designator))

    def _show(self, question: Question, finding: Finding) -> None:
        """Shows what the finder says, if that is still the question."""
        if question != self.question:
            return
        self.finding = finding
        part = self.session.queries.part_of(question.device)
        port = leads_port(part) if part else None
        colours = {pin.id: pin.lead for pin in port.pins} if port else {}
        self.circle.show_state(question.leads, colours, question.readings, finding, self._asked())
        self.pair.show_pair(self._asked(), colours)
        number = len(question.readings) + 1
        done = "A fault" if finding.fault else "Settled" if finding.is_settled else "Undecided"
        words = f"Reading {number}: probe" if self._asked() else done
        self.step.setText(words if self.correcting is None else f"Correct {self.correcting + 1}:")
        pair = self._asked()
        leads = f" {pair[0]} and {pair[1]}" if pair is not None else ""
        tell(self.field, f"{question.device}, {self.step.text()}{leads}")
        self.beliefs.show_rows(hypotheses_in_words(finding)[:SHOWN_BELIEFS])
        self.result.setText("\n".join(conclusions(finding, question.datasheet, question.meter)))
        self.hint.setText(
            "Touch both and type what the meter shows. Left and Right, or two clicks on the "
            "circle, pick another pair; B the body; Backspace takes one back; Up goes to the list. "
            "No meter? Touch the two together and turn the shaft: if it drags, s; if not, o."
        )
        self.read.clear()
        for place, reading in enumerate(question.readings, 1):
            saw = (
                f"{reading.resistance_ohm:g} Ω"
                if reading.resistance_ohm is not None
                else reading.saw
            )
            self.read.addItem(f"{place}.  {reading.a} – {reading.b}   {saw}")
        self.read.scrollToBottom()
        self.answered.emit()

    # What is done.

    def enter(self, text: str) -> None:
        """Takes a reading of the pair that is asked for: "open", "beep", or ohms."""
        question, pair = self.question, self._asked()
        if question is None or pair is None:
            return
        a, b = pair
        today = date.today().isoformat()
        if text == "open":
            reading, shown = Reading(a=a, b=b, saw="open", day=today), "open"
        elif text == "beep":
            reading, shown = Reading(a=a, b=b, saw="beep", day=today), "short"
        else:
            ohms = self._ohms(text)
            if ohms is None:
                return
            reading, shown = (
                Reading(a=a, b=b, saw="ohms", resistance_ohm=ohms, day=today),
                f"{ohms:g} Ω",
            )
        self.field.clear()
        number, self.correcting, self.picked = self.correcting, None, None
        if number is not None:
            self.session.apply(
                f"Corrected {a} and {b} of {question.device}: {shown}",
                lambda machine: replace_reading(machine, question.device, number, reading),
            )
            return
        self.session.apply(
            f"Read {a} and {b} of {question.device}: {shown}",
            lambda machine: add_reading(machine, question.device, reading),
        )

    def _asked(self) -> tuple[str, str] | None:
        """The two that are to be probed: of a reading to correct, a pair that was picked, or the
        one that the finder asks for.
        """
        question, finding = self.question, self.finding
        if question is None or finding is None:
            return None
        if self.correcting is not None and self.correcting < len(question.readings):
            wrong = question.readings[self.correcting]
            return wrong.a, wrong.b
        if self.picked is not None and {*self.picked} <= {*question.leads, BODY, ALL_LEADS}:
            return self.picked
        return finding.next_pair

    def _probe_body(self) -> None:
        """Asks for a reading between all leads together and the body; again for each lead."""
        if self.question is None:
            return
        order = (ALL_LEADS, *self.question.leads)
        now = self.picked[0] if self.picked is not None and self.picked[1] == BODY else None
        at = order.index(now) + 1 if now in order else 0
        self._take_pair((order[at], BODY) if at < len(order) else None)

    def _pick(self, first: str, second: str) -> None:
        """Asks for a reading of the two leads that were picked."""
        self._take_pair((first, second))
        self.field.setFocus()

    def _step(self, which: int, by: int) -> None:
        """Asks for the pair with the lead before or after one of the two that are asked for."""
        question = self.question
        if question is None or len(question.leads) < 2:
            return
        leads = question.leads
        asked = self._asked()
        pair = list(asked if asked is not None and {*asked} <= {*leads} else leads[:2])
        other = pair[1 - which]
        at = leads.index(pair[which])
        for _ in leads:
            at = (at + by) % len(leads)
            if leads[at] != other:
                break
        pair[which] = leads[at]
        self._take_pair((pair[0], pair[1]))

    def _take_pair(self, pair: tuple[str, str] | None) -> None:
        self.picked, self.correcting = pair, None
        if self.question is not None and self.finding is not None:
            self._show(self.question, self.finding)

    def _correct(self, number: int) -> None:
        """Asks for a reading again, to be put in the place of the wrong one."""
        if self.question is not None and self.finding is not None:
            self.correcting, self.picked = number, None
            self._show(self.question, self.finding)
            self.field.setFocus()

    def _leave(self) -> None:
        """Goes back to what the finder asks for."""
        self.correcting = self.picked = None
        if self.question is not None and self.finding is not None:
            self._show(self.question, self.finding)

    def _go_to_list(self) -> None:
        if self.read.count():
            self.read.setCurrentRow(self.read.count() - 1)
            self.read.setFocus()

    def _move(self, number: int, by: int) -> None:
        question = self.question
        if question is not None:
            self.session.apply(
                f"Reading {number + 1} of {question.device} moved",
                lambda machine: move_reading(machine, question.device, number, by),
            )

    def _ohms(self, text: str) -> float | None:
        from vervain.text.quantities import NotAQuantity, read_quantity

        try:
            ohms = read_quantity(text, "ohm")
        except NotAQuantity as wrong:
            self.session.say(f"{wrong} Type ohms, o for open, s for short.")
            return None
        if ohms < 0:
            self.session.say("A resistance is not negative. Zero the meter and read again.")
            return None
        return ohms

    def take_back(self, number: int = -1) -> None:
        """Takes a reading back, the last one where none is named."""
        question = self.question
        if question is None or not question.readings:
            return
        last = number if number >= 0 else len(question.readings) - 1
        gone = question.readings[last]
        self.correcting = None
        self.session.apply(
            f"Took back {gone.a} and {gone.b} of {question.device}",
            lambda machine: remove_reading(machine, question.device, last),
        )

    def keep_coils(self) -> None:
        """Keeps the coils that were found; the checks believe them from now on."""
        finding, question = self.finding, self.question
        if finding is None or question is None or not finding.are_coils_known:
            self.session.say("Not certain yet: read on before the coils are kept.")
            return
        coils = finding.groups()
        self.session.apply(
            f"Coils of {question.device} as measured",
            lambda machine: set_coils(machine, question.device, coils),
        )

    def take_printed(self) -> None:
        """Takes the coils that the part's colours say, marked as not measured."""
        question = self.question
        if question is None or not self.can_take_printed:
            return
        coils = printed_coils(self.session.queries, question.device)
        self.session.apply(
            f"Coils of {question.device} as printed, not measured",
            lambda machine: set_coils(machine, question.device, coils, printed=True),
        )

    def forget_coils(self) -> None:
        """Goes back to the coils that the part says."""
        question = self.question
        if question is not None:
            self.session.apply(
                f"Coils of {question.device} as the part says",
                lambda machine: set_coils(machine, question.device, ()),
            )


def heading(words: str) -> PlainLabel:
    """A small bold heading."""
    label = PlainLabel(words)
    label.setObjectName("head")
    return label
