"""The lead-order fixer: what the motor did, and the next two leads to exchange, drawn crossing."""

from datetime import date

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import tell
from vervain.desktop.shared.wire_painting import draw_bar, draw_split
from vervain.desktop.theme import looks
from vervain.edits.measurement_edits import add_trial, clear_trials
from vervain.edits.plug_edits import exchange_two
from vervain.leads.lead_order import TERMINALS, Next, exchanged, next_step
from vervain.leads.motors import leads_port, open_windings, order_at_driver
from vervain.leads.three_phase_order import TERMINALS as THREE_TERMINALS
from vervain.leads.three_phase_order import NextThree, next_three
from vervain.leads.windings import advised_exchange, measured_pairing
from vervain.model.machine import Machine, PortRef
from vervain.model.measurements import Trial
from vervain.model.problem import Problem

SEEN = (
    ("It runs, the right way  1", "runs"),
    ("It runs, the wrong way  2", "wrong way"),
    ("It buzzes or jerks  3", "does not run"),
    ("It turns freely by hand  4", "turns freely"),
    ("It holds, but never moves  5", "holds still"),
)
ADVICE_WORDS = {
    "runs": ("The order is right.", ""),
    "not the order": (
        "The order is not the fault.",
        "No order of these leads runs. Measure the coils, then look at the driver's enable, its "
        "supply and its current.",
    ),
    "check first": (
        "No holding torque: the order does not matter yet.",
        "Check first: is the driver enabled, is a lead open, has the driver tripped?",
    ),
    "check the steps": (
        "It holds: its current flows. The order is not known yet.",
        "Nothing tells it to move: check the step and direction lines, and the axis in the "
        "controller.",
    ),
    "contradiction": (
        "That contradicts what was seen before.",
        "The same leads cannot both run and not run: look for a loose contact, tug each lead, see "
        "whether the driver trips. Then begin again.",
    ),
    "try": ("Power up, move it a little. What does it do?", ""),
    "swap": ("", ""),
}
SPLIT = "They are joined to leads of the other phase: no order of the terminals helps that."
COILS_LIE_RIGHT = (
    "The measured coils lie right on the driver. Look at its enable, its supply and its current, "
    "and for a lead that is open."
)
POWER_OFF = "Power off first: an opened motor lead can kill a live driver."


class Crossing(QWidget):
    """The four terminals twice: as they are, and after the exchange; the leads cross between."""

    def __init__(self) -> None:
        super().__init__()
        self.order: tuple[str, ...] = ()
        self.after: tuple[str, ...] = ()
        self.terminals: tuple[str, ...] = TERMINALS
        self.colours: dict[str, str | None] = {}
        self.setMinimumHeight(looks.px(190))

    def show_state(
        self,
        order: tuple[str, ...],
        after: tuple[str, ...],
        colours: dict[str, str | None],
        terminals: tuple[str, ...],
    ) -> None:
        """Takes the order as it is and after the exchange, the leads' colours, the terminals."""
        self.order, self.after, self.colours = order, after, colours
        self.terminals = terminals
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.order:
            return
        width = min(looks.px(96), (self.width() - 40) / 4)
        moved = [n for n, lead in enumerate(self.order) if self.after[n] != lead]
        rows: list[tuple[tuple[str, ...], int]] = [(self.order, looks.px(26))]
        if moved:
            rows.append((self.after, looks.px(130)))
        for order, top in rows:
            for place, leads in enumerate(order):
                box = QRectF(place * (width + 10), top, width, looks.px(26))
                codes = [self.colours.get(lead) for lead in leads.split("+")]
                if len(codes) == 1:
                    draw_bar(painter, box, codes[0], text=leads)
                else:
                    draw_split(painter, box, codes, hatched=False)
        painter.setPen(looks.colour("faded"))
        painter.setFont(looks.font(12, bold=True))
        for place, terminal in enumerate(self.terminals):
            box = QRectF(place * (width + 10), 0, width, looks.px(22))
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, terminal)
        if moved:
            painter.setPen(QPen(looks.colour("accent"), 3))
            for start in moved:
                # A lead that goes to the star point has no place among the terminals.
                end = (
                    self.after.index(self.order[start])
                    if self.order[start] in self.after
                    else start
                )
                painter.drawLine(
                    QPointF(start * (width + 10) + width / 2, looks.px(56)),
                    QPointF(end * (width + 10) + width / 2, looks.px(126)),
                )


class OrderPanel(QWidget):
    """Asks what the motor did, keeps it, and exchanges the leads at the driver as one step."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.device: str | None = None
        self.where: tuple[PortRef, tuple[str, ...]] | None = None
        self.step: Next | None = None
        self.three: NextThree | None = None
        # Two leads of windings that are split among joined leads: no order of terminals helps that.
        self.split: tuple[str, str] | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What the motor does")
        self.words, self.more, self.tried = PlainLabel(), PlainLabel(), PlainLabel()
        self.more.setObjectName("faded")
        self.tried.setObjectName("faded")
        for label in (self.words, self.more, self.tried):
            label.setWordWrap(True)
        self.crossing = Crossing()
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(10)
        column.addWidget(self.words)
        column.addWidget(self.more)
        column.addWidget(self.crossing)
        acts = QHBoxLayout()
        self.exchange = QPushButton("Exchanged  Enter")
        self.exchange.setObjectName("main")
        self.exchange.clicked.connect(self.do_exchange)
        self.anew = QPushButton("Begin again")
        self.anew.clicked.connect(self.begin_again)
        for button in (self.exchange, self.anew):
            acts.addWidget(button)
        acts.addStretch(1)
        column.addLayout(acts)
        answers = QGridLayout()
        self.answers: list[QPushButton] = []
        for number, (words, saw) in enumerate(SEEN):
            button = QPushButton(words)
            button.setMinimumHeight(looks.px(38))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, seen=saw: self.saw(seen))
            answers.addWidget(button, number // 2, number % 2)
            self.answers.append(button)
        column.addLayout(answers)
        column.addWidget(self.tried)
        column.addStretch(1)

    def show_device(self, designator: str) -> None:
        """Turns to a motor and works out what to do next."""
        queries = self.session.queries
        device, part = queries.device(designator), queries.part_of(designator)
        self.device, self.where = designator, order_at_driver(queries, designator)
        self.words.setStyleSheet(f"font-size: {looks.px(20)}px; font-weight: bold;")
        usable = self.where is not None and device is not None
        for widget in (self.crossing, *self.answers, self.anew):
            widget.setVisible(usable)
        if self.where is None or device is None:
            self.step = self.three = self.split = None
            self.exchange.hide()
            self.words.setText(f"{designator} is not on all terminals of one driver.")
            self.more.setText("Put it on its driver on the Ports stage first.")
            self.tried.clear()
            return
        order = self.where[1]
        port = leads_port(part) if part else None
        colours = {pin.id: pin.lead for pin in port.pins} if port else {}
        if len(order) == len(TERMINALS):
            known = measured_pairing(queries, designator)
            mend = advised_exchange(queries, designator)
            preferred = (mend[0].pin, mend[1].pin) if mend else None
            self.split = preferred if preferred and not set(preferred) <= set(order) else None
            self.step = next_step(order, device.trials, known, preferred)
            self.three = None
            swap = self.step.swap
            after = exchanged(order, *swap) if swap else order
            if self.split is None:
                self._say(order, self.step)
            else:
                after = order
                self.words.setText(f"Exchange {self.split[0]} and {self.split[1]} of {designator}.")
                self.more.setText(f"{POWER_OFF} {SPLIT}")
            self.crossing.show_state(order, after, colours, TERMINALS)
        else:
            self.step = self.split = None
            self.three = next_three(order, open_windings(queries, designator), device.trials)
            pair = (
                dict(zip(self.three.exchange, self.three.exchange[::-1], strict=True))
                if (self.three.exchange)
                else {}
            )
            after = tuple(pair.get(lead, lead) for lead in order)
            self.crossing.show_state(order, after, colours, THREE_TERMINALS)
            self._say_three(self.three)
        advice = self.step.advice if self.step else self.three.advice if self.three else ""
        self.exchange.setVisible(advice == "swap" or self.split is not None)
        self.anew.setVisible(bool(device.trials))
        rows = [f"{' '.join(trial.order)}: {trial.saw}" for trial in device.trials]
        self.tried.setText("Tried so far\n" + "\n".join(rows) if rows else "")

    def _say_three(self, step: NextThree) -> None:
        left = f"{step.left} of {step.total} orders may be the right one."
        words, more = ADVICE_WORDS[step.advice]
        if step.exchange is not None:
            first, second = step.exchange
            words = f"Exchange {first} and {second}."
            more = POWER_OFF
        self.words.setText(words)
        self.more.setText(f"{more} {left}".strip())
        tell(self, f"{self.words.text()} {self.more.text()}")

    def _say(self, order: tuple[str, ...], step: Next) -> None:
        left = f"{step.left} of 24 orders may be the right one."
        if step.by_coils:
            left = "By the coils that were measured."
        if step.swap is not None:
            first, second = step.swap
            self.words.setText(
                f"Exchange {order[first]} at {TERMINALS[first]} with {order[second]} at "
                f"{TERMINALS[second]}."
            )
            self.more.setText(f"{POWER_OFF} {left}")
        else:
            words, more = ADVICE_WORDS[step.advice]
            if step.advice == "not the order" and step.by_coils:
                more = COILS_LIE_RIGHT
            self.words.setText(words)
            self.more.setText(f"{more} {left}".strip())
        tell(self, f"{self.words.text()} {self.more.text()}")

    # What is done.

    def saw(self, seen: str) -> None:
        """Keeps what the motor did."""
        if self.device is None or self.where is None:
            return
        device, order = self.device, self.where[1]
        trial = Trial(order=order, saw=seen, day=date.today().isoformat())  # type: ignore[arg-type]
        self.session.apply(f"{device}: {seen}", lambda machine: add_trial(machine, device, trial))

    def do_exchange(self) -> None:
        """Exchanges the two leads at the driver's terminals, in the machine as on the bench."""
        if self.three is not None and self.three.exchange is not None and self.device:
            self._exchange_leads(self.device, *self.three.exchange)
            return
        if self.split is not None and self.device:
            self._exchange_leads(self.device, *self.split)
            return
        if self.where is None or self.step is None or self.step.swap is None:
            return
        port, order = self.where
        first, second = self.step.swap
        words = f"Exchanged {order[first]} and {order[second]} at {port.device}"
        self.session.apply(words, lambda machine: self._exchanged(machine, port, first, second))

    def _exchange_leads(self, device: str, first: str, second: str) -> None:
        part = self.session.queries.part_of(device)
        port = leads_port(part) if part else None
        if port is not None:
            ref = PortRef(device=device, port=port.id)
            self.session.apply(
                f"Exchanged {first} and {second} of {device}",
                lambda machine: exchange_two(machine, ref, first, second),
            )

    def _exchanged(self, machine: Machine, port: PortRef, first: int, second: int) -> Machine:
        queries = self.session.queries
        found = queries.port(port)
        functions = ("phase A+", "phase A-", "phase B+", "phase B-")
        pins = [
            next(pin.id for pin in (found.pins if found else ()) if pin.function == function)
            for function in (functions[first], functions[second])
        ]
        changed = exchange_two(machine, port, pins[0], pins[1])
        if changed == machine:
            raise Problem(f"Nothing is joined to {port.device} {port.port}.")
        return changed

    def begin_again(self) -> None:
        """Forgets what was tried."""
        device = self.device
        if device is not None:
            self.session.apply(
                f"Began again with {device}", lambda machine: clear_trials(machine, device)
            )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        number = event.text() if event is not None else ""
        if number in tuple("12345"):
            self.saw(SEEN[int(number) - 1][1])
        elif event is not None and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.do_exchange()
        else:
            super().keyPressEvent(event)
