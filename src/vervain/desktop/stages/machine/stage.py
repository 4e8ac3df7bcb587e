"""The Machine stage: axes as lanes, what is missing on them, and parts put where they belong."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QGridLayout,
    QPushButton,
    QScrollArea,
    QStackedLayout,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.session import Session
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.machine.describe import DescribePage
from vervain.desktop.stages.machine.lane_actions import LaneActs
from vervain.desktop.stages.machine.lane_hand import LaneHand
from vervain.desktop.stages.machine.lane_view import LanesView
from vervain.desktop.stages.machine.like_page import LikePage
from vervain.desktop.theme import looks
from vervain.files.demos import DEMOS, TEMPLATES
from vervain.queries.axis_places import places_of_axis


class Beginning(QScrollArea):
    """What an empty machine shows: the ways to begin."""

    def __init__(
        self,
        add_axis: Callable[[], object],
        open_template: Callable[[str], object],
        open_demo: Callable[[str], object],
        open_machine: Callable[[], object],
    ) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        inside = QWidget()
        inside.setObjectName("blank")
        self.setWidget(inside)
        grid = QGridLayout(inside)
        grid.setContentsMargins(looks.px(40), looks.px(30), looks.px(40), looks.px(30))
        grid.setHorizontalSpacing(looks.px(14))
        grid.setVerticalSpacing(looks.px(8))
        self.buttons: list[QPushButton] = []
        rows: list[tuple[str, list[tuple[str, str, Callable[[], object]]]]] = [
            (
                "From nothing",
                [
                    ("Add an axis  A", "Then put motors and switches on it.", add_axis),
                    ("Open a machine  Ctrl+O", "A .vervain file of yours.", open_machine),
                ],
            ),
            (
                "From a template",
                [(t.title, t.note, partial(open_template, t.key)) for t in TEMPLATES],
            ),
            (
                "Look at a finished one",
                [(d.title, d.note, partial(open_demo, d.key)) for d in DEMOS],
            ),
        ]
        at = 0
        for title, actions in rows:
            head = PlainLabel(title)
            head.setObjectName("head")
            grid.addWidget(head, at, 0, 1, 2)
            at += 1
            for words, note, act in actions:
                button = QPushButton(words)
                button.setStyleSheet("text-align: left;")
                button.clicked.connect(lambda _, act=act: act())
                said = PlainLabel(note)
                said.setObjectName("faded")
                said.setWordWrap(True)
                grid.addWidget(button, at, 0)
                grid.addWidget(said, at, 1)
                self.buttons.append(button)
                at += 1
        self.buttons[0].setObjectName("main")
        grid.setColumnStretch(1, 1)
        grid.setRowStretch(at, 1)


class MachineStage(LedFocus):
    """The stage: its line, and the lanes under it, or the ways to begin."""

    # A page over the lanes is opened or left.
    page_shown = pyqtSignal()

    def __init__(
        self,
        session: Session,
        describe: Callable[[], object],
        make_like: Callable[[], object],
        open_template: Callable[[str], object],
        open_demo: Callable[[str], object],
        open_machine: Callable[[], object],
    ) -> None:
        super().__init__()
        self.session = session
        self.hand = LaneHand(session)
        self.acts = LaneActs(session, describe, make_like)
        self.view = LanesView(session, self.hand, self.acts)
        self.line = StageLine()
        self.line.said.connect(Voice(session, self.view).say_line)
        self.buttons: dict[str, QPushButton] = {}
        for words, act in (
            ("Add an axis  A", self.acts.add_axis),
            ("Copy  C", self.acts.duplicate),
            ("Mirror the motor  M", self.acts.mirror),
        ):
            button = self.line.add_button(QPushButton(words))
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, act=act: act())
            self.buttons[words.split("  ")[0]] = button
        self.beginning = Beginning(self.acts.add_axis, open_template, open_demo, open_machine)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        # Without a parent a stack shows its first widget as a window of its own.
        self.body = QStackedLayout()
        column.addLayout(self.body, 1)
        self.body.addWidget(self.view)
        self.body.addWidget(self.beginning)
        self.page: DescribePage | LikePage | None = None
        self.lead_focus_to(self.view)
        for signal in (session.machine_changed, session.selection_changed, session.checked):
            signal.connect(self.say_what_matters)
        self.hand.changed.connect(self.say_what_matters)
        self.view.cursor_moved.connect(self.say_what_matters)
        self.say_what_matters()

    def show_page(self, page: DescribePage | LikePage | None) -> None:
        """Shows the description of a part over the lanes, or the lanes again."""
        if page is not None and self.body.indexOf(page) < 0:
            self.body.addWidget(page)
        self.page = page
        self.page_shown.emit()
        self.say_what_matters()
        if page is not None:
            page.begin()
        else:
            self.view.setFocus()

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.view.arrange()
        self.say_what_matters()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        act = self.acts.keys.get(event.text().casefold()) if event is not None else None
        if act is not None:
            act()
            if self.page is None:
                self.setFocus()
        else:
            super().keyPressEvent(event)

    def say_what_matters(self) -> None:
        """The line: what is in hand and where Enter puts it; else what is missing first."""
        session, hand = self.session, self.hand
        machine = session.machine
        is_empty = not machine.axes and not machine.devices and hand.is_empty
        self.lead_focus_to(self.beginning.buttons[0] if is_empty else self.view)
        lanes: QWidget = self.beginning if is_empty else self.view
        self.body.setCurrentWidget(self.page or lanes)
        for button in self.buttons.values():
            button.setVisible(self.page is None)
        if self.page is not None:
            self.line.say(self.page.words, "Compare the drawn plug with the thing itself.")
            return
        chosen = session.selection
        axis = session.queries.axis_of(chosen.device) if chosen.device else None
        self.buttons["Copy"].setVisible(bool(chosen.device or chosen.axis) and hand.is_empty)
        motor = axis is not None and chosen.device in axis.drives
        self.buttons["Mirror the motor"].setVisible(
            (motor or bool(chosen.axis)) and hand.is_empty and self.view.at is None
        )
        if not hand.is_empty:
            rest = "No place here can take it. Esc puts it back."
            if hand.target is not None:
                rest = f"Enter puts it at {hand.target.words}. Arrows aim, Esc puts back."
            self.line.say(f"{hand.words} in hand.", rest)
        elif is_empty:
            self.line.say("An empty machine.", "Begin with an axis, a template, or a demo.")
        elif self.view.at is not None:
            rest = "Enter shows the parts that go there."
            if hand.wanted == self.view.at:
                rest = "Words find a part at the left; Enter puts it there, Esc leaves."
            self.line.say(f"{self.view.at.words}.", rest)
        else:
            self._say_what_is_missing()

    def _say_what_is_missing(self) -> None:
        session, queries = self.session, self.session.queries
        found = session.findings(lambda f: f.stage == "Machine")
        if found:
            more = f" {len(found)} findings at the right." if len(found) > 1 else ""
            self.line.say(found[0].consequence + ".", found[0].sentence + more)
            return
        axes = [axis for name in queries.axes() if (axis := queries.axis(name))]
        if not axes:
            self.line.say("No axis yet.", "A adds one; parts come from the shelf at the left.")
            return
        empty = [p for axis in axes for p in places_of_axis(axis) if p.device is None]
        devices = len(queries.devices())
        words = f"{len(axes)} {'axis' if len(axes) == 1 else 'axes'}, "
        words += f"{devices} device{'' if devices == 1 else 's'}."
        rest = "Enter on an empty place finds parts for it." if empty else "Every place is filled."
        self.line.say(words, rest)
