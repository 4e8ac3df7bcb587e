"""How a motor's windings are used: the choices with their figures, and where every lead goes."""

from datetime import date

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import tell
from vervain.desktop.shared.wire_painting import draw_bar, elided
from vervain.desktop.theme import looks
from vervain.edits.measurement_edits import add_series_test, clear_series_tests
from vervain.leads.motors import leads_port
from vervain.leads.phases import Ends, next_test, phases_of
from vervain.leads.rewiring import use_windings
from vervain.leads.winding_connection import (
    USE_WORDS,
    Plan,
    Use,
    UseKind,
    motor_use,
    plan_of,
    uses_of,
    wired_use,
)
from vervain.model.measurements import SeriesTest

FIVE = 5
MIDDLE, RIGHT = Qt.AlignmentFlag.AlignVCenter, Qt.AlignmentFlag.AlignRight
SEEN = (
    ("Twice one winding  1", "double"),
    ("About nothing  2", "nothing"),
    ("About 1.4 times  3", "between"),
)
POWER_OFF = "Power off first: an opened motor lead can kill a live driver."
TERMINALS = ("phase A+", "phase A-", "phase B+", "phase B-")


def figures(use: Use) -> tuple[str, str, str, str]:
    """Resistance, inductance, current and voltage of a use, in words."""
    ohms = f"{use.resistance_ohm:.3g} Ω" if use.resistance_ohm is not None else "–"
    henry = f"{use.inductance_h * 1000:.3g} mH" if use.inductance_h is not None else "–"
    voltage_v = f"{use.voltage_v:.3g} V" if use.voltage_v is not None else "–"
    ampere = f"{use.current_a:.3g} A" if use.current_a is not None else "–"
    return ohms, henry, ampere, voltage_v


class UseTable(QWidget):
    """A row for each use with its figures of one phase; the wired one is filled, one is chosen."""

    chosen = pyqtSignal(int)
    HEADS = ("Resistance", "Inductance", "Current", "Voltage")

    def __init__(self) -> None:
        super().__init__()
        self.uses: tuple[Use, ...] = ()
        self.wired: UseKind | None = None
        self.at = 0

    def show_uses(self, uses: tuple[Use, ...], wired: UseKind | None, at: int) -> None:
        """Takes the rows, which use is wired, and which row is chosen."""
        self.uses, self.wired, self.at = uses, wired, at
        self.setAccessibleName("; ".join(f"{use.kind} {figures(use)[2]}" for use in uses))
        self.setFixedHeight(self.sizeHint().height())
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(looks.px(400), looks.px(22) + len(self.uses) * looks.px(46))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        columns = min(looks.px(86), self.width() * 0.17)
        left_width = self.width() - columns * len(self.HEADS) - looks.px(10)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        for number, head in enumerate(self.HEADS):
            box = QRectF(left_width + number * columns, 0, columns, looks.px(20))
            painter.drawText(box, int(MIDDLE | RIGHT), elided(painter, head, columns - 4))
        for number, use in enumerate(self.uses):
            row = QRectF(0.5, looks.px(22) + number * looks.px(46), self.width() - 1, looks.px(42))
            self._row(painter, row, number, use, left_width, columns)

    def _row(
        self,
        painter: QPainter,
        row: QRectF,
        number: int,
        use: Use,
        left_width: float,
        columns: float,
    ) -> None:
        chosen, wired = number == self.at, use.kind == self.wired
        painter.setPen(QPen(looks.colour("accent" if chosen else "rule"), 2 if chosen else 1))
        painter.setBrush(looks.colour("wash" if chosen else "sheet"))
        painter.drawRoundedRect(row, 3, 3)
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(13, bold=True))
        upper = QRectF(looks.px(12), row.top() + 3, left_width - looks.px(16), row.height() / 2)
        mark = "   as wired" if wired else ""
        title = f"{number + 1}  {use.kind}{mark}"
        painter.drawText(upper, int(MIDDLE), elided(painter, title, upper.width()))
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        words = USE_WORDS[use.kind].partition(": ")[2] or USE_WORDS[use.kind]
        lower = upper.translated(0, row.height() / 2 - 4)
        painter.drawText(lower, int(MIDDLE), elided(painter, words, lower.width()))
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12, bold=wired))
        for column, text in enumerate(figures(use)):
            box = QRectF(left_width + column * columns, row.top(), columns, row.height())
            painter.drawText(box, int(MIDDLE | RIGHT), text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        number = int((event.position().y() - looks.px(22)) // looks.px(46))
        if 0 <= number < len(self.uses):
            self.chosen.emit(number)


class PlanPicture(QWidget):
    """The driver's terminals with the leads on each; joints and insulated leads beside them."""

    def __init__(self) -> None:
        super().__init__()
        self.plan: Plan | None = None
        self.colours: dict[str, str | None] = {}
        self.setMinimumHeight(looks.px(120))

    def show_plan(self, plan: Plan | None, colours: dict[str, str | None]) -> None:
        """Takes a plan and the colours of the leads."""
        self.plan, self.colours = plan, colours
        self.update()

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.plan is None:
            return
        painter = QPainter(self)
        groups = [
            (name.removeprefix("phase ").replace("-", "−"), self.plan.terminals.get(name, ()))
            for name in TERMINALS
        ]
        groups += [("joined", joint) for joint in self.plan.joints]
        if self.plan.insulated:
            groups.append(("insulate singly", self.plan.insulated))
        bar, gap = looks.px(44), looks.px(18)
        left, top = 0.0, 0.0
        for title, leads in groups:
            width = max(len(leads) * bar, looks.px(88) if len(title) > 6 else bar)
            if left + width > self.width():
                left, top = 0.0, top + looks.px(54)
            painter.setFont(looks.font(12, bold=True))
            painter.setPen(looks.colour("faded"))
            painter.drawText(QRectF(left, top, width, looks.px(20)), int(MIDDLE), title)
            for number, lead in enumerate(leads):
                box = QRectF(left + number * bar, top + looks.px(22), bar - 3, looks.px(22))
                draw_bar(painter, box, self.colours.get(lead), text=lead)
            left += width + gap


class UsePanel(QWidget):
    """Chooses how the windings are used; with eight leads first asks for the test in series."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.device: str | None = None
        self.test: tuple[Ends, Ends] | None = None
        self.at = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("How the windings are used")
        self.words, self.more, self.kept = PlainLabel(), PlainLabel(), PlainLabel()
        self.more.setObjectName("faded")
        self.kept.setObjectName("faded")
        for label in (self.words, self.more, self.kept):
            label.setWordWrap(True)
        self.table, self.picture = UseTable(), PlanPicture()
        self.table.chosen.connect(self.choose)
        self.wire = QPushButton("Wire it so  Enter")
        self.wire.setObjectName("main")
        self.wire.clicked.connect(self.do_wire)
        self.anew = QPushButton("Test again")
        self.anew.clicked.connect(self.test_again)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 14, 16, 12)
        column.setSpacing(10)
        for widget in (self.words, self.more, self.table, self.picture):
            column.addWidget(widget)
        self.answers: list[QPushButton] = []
        row = QHBoxLayout()
        for words, saw in SEEN:
            button = QPushButton(words)
            button.setMinimumHeight(looks.px(38))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _, seen=saw: self.saw(seen))
            row.addWidget(button)
            self.answers.append(button)
        column.addLayout(row)
        acts = QHBoxLayout()
        acts.addWidget(self.wire)
        acts.addWidget(self.anew)
        acts.addStretch(1)
        column.addLayout(acts)
        column.addWidget(self.kept)
        column.addStretch(1)

    def show_device(self, designator: str) -> None:
        """Turns to a motor."""
        queries = self.session.queries
        if designator != self.device:
            self.at = 0
        self.device = designator
        device, part = queries.device(designator), queries.part_of(designator)
        port = leads_port(part) if part else None
        colours = {pin.id: pin.lead for pin in port.pins} if port else {}
        phases, uses = phases_of(queries, designator), uses_of(queries, designator)
        coils = tuple((coil[0], coil[-1]) for coil in (device.coils if device else ()))
        tests = device.series_tests if device else ()
        self.test = next_test(coils, tests) if phases is None else None
        self.words.setStyleSheet(f"font-size: {looks.px(18)}px; font-weight: bold;")
        for button in self.answers:
            button.setVisible(self.test is not None)
        self.anew.setVisible(bool(tests))
        for widget in (self.table, self.picture, self.wire):
            widget.setVisible(bool(uses))
        self.kept.setText("\n".join(_test_words(test) for test in tests))
        if not uses:
            self._say_what_is_missing(designator, len(port.pins) if port else 0)
            tell(self, f"{self.words.text()} {self.more.text()}")
            return
        self.at = min(self.at, len(uses) - 1)
        wired = wired_use(queries, designator)
        self.table.show_uses(uses, wired, self.at)
        plan = plan_of(phases, uses[self.at].kind) if phases else None
        self.picture.show_plan(plan, colours)
        use = motor_use(queries, designator)
        if wired is not None and use is not None:
            ohms, henry, current_a, voltage_v = figures(use)
            self.words.setText(
                f"Wired: {wired}. {current_a} RMS, {ohms}, {henry}, {voltage_v} a phase."
            )
        else:
            self.words.setText("Wired for none of these uses.")
        self.wire.setEnabled(uses[self.at].kind != wired)
        self.more.setText(f"Arrows choose. {POWER_OFF}")
        tell(self, f"{uses[self.at].kind}. {self.words.text()}")

    def _say_what_is_missing(self, designator: str, leads: int) -> None:
        if self.test is not None:
            (free, joined), (other_free, other_joined) = self.test
            self.words.setText(
                f"Join {joined} to {other_joined}. Turn the shaft steadily and read the AC volts "
                f"between {free} and {other_free}."
            )
            self.more.setText(
                "Read one winding alone first, at the same speed, and compare: an electric drill "
                "on the shaft turns it evenly. At most four such readings."
            )
        elif leads == FIVE:
            self.words.setText(f"{designator} can be used one way only: unipolar.")
            self.more.setText(
                "Its four windings meet in one lead, so no bridge can turn the current round: the "
                "common goes to plus, the four ends to the switches of a unipolar driver."
            )
        else:
            self.words.setText(f"Which windings of {designator} share a phase is not known.")
            self.more.setText("Measure the coils first: U goes back to the meter.")

    # What is done.

    def choose(self, number: int) -> None:
        """Chooses a row."""
        if self.device is not None and 0 <= number < len(self.table.uses):
            self.at = number
            self.show_device(self.device)

    def do_wire(self) -> None:
        """Brings the leads onto the driver for the chosen use, as one step."""
        device = self.device
        if device is None or not self.table.uses:
            return
        kind = self.table.uses[self.at].kind
        self.session.apply(
            f"Windings of {device}: {kind}", lambda machine: use_windings(machine, device, kind)
        )

    def saw(self, seen: str) -> None:
        """Keeps what two windings in series showed."""
        device, pair = self.device, self.test
        if device is None or pair is None:
            return
        day = date.today().isoformat()
        test = SeriesTest(first=pair[0], second=pair[1], saw=seen, day=day)  # type: ignore[arg-type]
        words = f"{'–'.join(pair[0])} and {'–'.join(pair[1])} of {device} in series: {seen}"
        self.session.apply(words, lambda machine: add_series_test(machine, device, test))

    def test_again(self) -> None:
        """Forgets the tests in series."""
        device = self.device
        if device is not None:
            self.session.apply(
                f"Tests of {device} begun again", lambda m: clear_series_tests(m, device)
            )

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key, text = event.key(), event.text()
        if text in ("1", "2", "3"):
            if self.test is not None:
                self.saw(SEEN[int(text) - 1][1])
            else:
                self.choose(int(text) - 1)
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.choose(self.at + (1 if key == Qt.Key.Key_Down else -1))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.do_wire()
        else:
            super().keyPressEvent(event)


def _test_words(test: SeriesTest) -> str:
    seen = {"double": "twice one winding", "nothing": "nothing", "between": "1.4 times"}[test.saw]
    return f"{test.first[1]} joined to {test.second[1]}: {seen}"
