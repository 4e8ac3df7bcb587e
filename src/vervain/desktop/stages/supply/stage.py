"""The Supply stage: what feeds what, what arrives, and how much of each supply is taken."""

from pathlib import Path

from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QButtonGroup, QPushButton, QScrollArea, QSplitter, QVBoxLayout, QWidget

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.proposal_list import ProposalList
from vervain.desktop.shared.spoken import Voice
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.supply.feed_pane import FeedAnswers
from vervain.desktop.stages.supply.feed_view import FeedView
from vervain.desktop.stages.supply.feed_worker import FeedWorker, Figures
from vervain.desktop.stages.supply.feeding import FeedingController
from vervain.desktop.stages.supply.load_bars import Ladder
from vervain.desktop.stages.supply.profile_plot import AlongPlot
from vervain.electrical.mains import has_mains
from vervain.files.shelf import read_shelf
from vervain.supply.results import drop_limit, source_name
from vervain.supply.sizing import RELIABLE, supply_size_a
from vervain.supply.states import STATE_WORDS, STATES, State
from vervain.supply.voltage_profile import ProfilePoint

WAIT_MS = 60


class SupplyStage(LedFocus):
    """The stage: its line with the operating states, the feed trees, the ladder under them."""

    def __init__(self, session: Session, parts_folder: Path) -> None:
        super().__init__()
        self.session = session
        self.state: State = "everything"
        self.line = StageLine()
        self.states = QButtonGroup(self)
        self.buttons: dict[State, QPushButton] = {}
        for number, state in enumerate(STATES, 1):
            button = self.line.add_button(QPushButton(STATE_WORDS[state]))
            button.setCheckable(True)
            button.setToolTip(f"Key {number}")
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.clicked.connect(lambda _, chosen=state: self.show_state(chosen))
            self.states.addButton(button)
            self.buttons[state] = button
        self.feeder = FeedWorker(session)
        self.feeding = FeedingController(session, lambda: read_shelf(parts_folder))
        self.view = FeedView(session, self.feeder, self.feeding)
        self.line.said.connect(Voice(session, self.view).say_line)
        self.proposal_list = ProposalList(self.feeding)
        self.answers = FeedAnswers(session, self.view)
        self.fill = self.line.add_button(QPushButton("Feed the rest  F"))
        self.fill.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.fill.clicked.connect(self.feeding.start)
        self.feeding.changed.connect(self.say_what_matters)
        self.view.state_wanted.connect(self.show_state)
        self.view.hand_changed.connect(self.say_what_matters)
        self.view.plot_changed.connect(lambda: self.plot.change())
        self.plot = AlongPlot()
        self.ladder = Ladder()
        self.ladder.chose.connect(lambda device: session.select(Selection(device=device)))
        self.below = QScrollArea()
        self.below.setAccessibleName("What comes before and after it")
        self.below.setWidget(self.ladder)
        self.below.setWidgetResizable(True)
        area = self.below.viewport()
        if area is not None:
            area.setObjectName("blank")
        self.below.setFrameShape(QScrollArea.Shape.NoFrame)
        split = self.split = QSplitter(Qt.Orientation.Vertical)
        split.addWidget(self.view)
        split.addWidget(self.below)
        split.setStretchFactor(0, 3)
        split.setStretchFactor(1, 2)
        split.setChildrenCollapsible(False)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        column.addWidget(split, 1)
        self.lead_focus_to(self.view)
        self.feeder.changed.connect(self._figures_changed)
        # The feeds wait for the painting, which their worker would slow down.
        self._want_timer = QTimer(self)
        self._want_timer.setSingleShot(True)
        self._want_timer.timeout.connect(self._want)
        session.machine_changed.connect(lambda: self._want_timer.start(WAIT_MS))
        session.selection_changed.connect(self._show_ladder)
        session.selection_changed.connect(self._show_plot)
        session.selection_changed.connect(self.say_what_matters)
        session.checked.connect(self.say_what_matters)
        self.show_state(self.state)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._want()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self.plot.hide()

    def _show_plot(self) -> None:
        """The voltage along the feed of the selected consumer."""
        shape = self.view.shown()
        arrival = shape.branch.arrival if shape is not None else None
        if arrival is None or not self.isVisible():
            self.plot.hide()
            return
        state, wanted = self.state, arrival

        def show(stations: tuple[ProfilePoint, ...]) -> None:
            now = self.view.shown()
            same = now is not None and now.branch.pin == wanted.pin and self.state == state
            self.plot.setVisible(same and self.isVisible() and len(stations) > 1)
            if self.plot.isVisible():
                self.plot.show_stations(stations, drop_limit(wanted), STATE_WORDS[state])

        self.feeder.want_along(state, wanted.pin, show)

    def _want(self) -> None:
        if self.isVisible():
            self.feeder.want()

    def show_state(self, state: State) -> None:
        """Goes to another operating state."""
        self.state = state
        self.buttons[state].setChecked(True)
        self.view.show_state(state)
        self._show_ladder()
        self._show_plot()
        self.say_what_matters()

    def _figures_changed(self) -> None:
        self.view.arrange()
        self._show_ladder()
        self._show_plot()
        self.say_what_matters()

    def _show_ladder(self) -> None:
        self.ladder.show_figures(
            self.feeder.figures, self.session.queries, self.state, self.session.selection.device
        )

    def _say_selected(self, figures: Figures, words: str) -> bool:
        """What the selected consumer takes and by what this is known, or what size a supply has."""
        shape = self.view.shown()
        branch = shape.branch if shape is not None else None
        if branch is None:
            return False
        if branch.arrival is not None:
            row = branch.arrival
            self.line.say(words, f"{branch.device} takes {row.current_a:.3g} A: {row.by}.")
            return True
        if branch.kind != "source":
            return False
        most = max(
            (load for state in STATES for load in figures.loads[state] if load.pin == branch.pin),
            key=lambda load: load.current_a,
            default=None,
        )
        if most is None:
            return False
        wants = supply_size_a(most.current_a)
        self.line.say(
            words,
            f"{source_name(self.session.queries, most.pin)} gives {most.current_a:.3g} of "
            f"{most.rated_a:g} A at most; with a fifth in reserve {wants:.2g} A would do.",
        )
        return True

    def panes(self) -> tuple[QWidget, ...]:
        """What the side column shows of what is in hand or proposed."""
        return self.proposal_list, self.answers

    def _say_proposal(self) -> bool:
        """What is proposed, and what Enter does."""
        feeding = self.feeding
        if feeding.running:
            self.line.say("Working out how to feed the rest …", "Esc stops.")
        elif feeding.proposal is not None:
            left = len(feeding.warnings())
            more = f" What is yours to decide ({left}) is at the right." if left else ""
            words = f"{len(feeding.wanted)} steps proposed."
            self.line.say(words, f"Enter carries them out, Esc leaves it.{more}")
        return feeding.running or feeding.proposal is not None

    def say_what_matters(self) -> None:
        """The line: what is in hand, else the supply that is asked for most."""
        busy = self.feeding.running or self.feeding.proposal is not None
        shown = self.feeder.figures
        self.fill.setVisible(not busy and shown is not None and shown.waiting > 0)
        if self._say_proposal() or self.view.say_hand(self.line):
            return
        figures = self.feeder.figures
        if figures is None:
            self.line.say("Working out the feeds …")
            return
        loads = figures.loads[self.state]
        words = f"{STATE_WORDS[self.state]}:"
        if self._say_selected(figures, words):
            return
        if not loads:
            queries = self.session.queries
            takes_mains = any(has_mains(queries, name) for name in queries.devices())
            words = "What is here takes mains: its way and its earth are below."
            if not takes_mains:
                words = "No supply yet. Add one on the Machine stage (Alt+1)."
            self.line.say("", words)
            return
        over = [load for load in loads if load.fraction > RELIABLE]
        trees = figures.trees[self.state]
        unfed = [row for t in trees if t.source.kind == "unfed" for row in t.branches[1:]]
        wanted = [row for row in unfed if not row.note]
        if wanted and not over:
            name = wanted[0].device
            more = f" So are {len(wanted) - 1} more." if len(wanted) > 1 else ""
            rest = f"{name} is fed by nothing.{more} F proposes how, Enter takes one in hand."
            self.line.say(words, rest)
            return
        worst = max(over or loads[:1], key=lambda load: load.fraction)
        name = source_name(self.session.queries, worst.pin)
        asked = f"{name} is asked for {worst.current_a:.3g} of {worst.rated_a:g} A."
        self.line.say(words, asked)
