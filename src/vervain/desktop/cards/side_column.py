"""The side column: where what is in hand can go, the findings, the card of the selection."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from vervain.desktop.cards.device_card import FactsCard
from vervain.desktop.session import Session
from vervain.desktop.shared.answer_list import AnswerList, AnswerRow
from vervain.desktop.shared.findings import FindingsPane
from vervain.ports.fit import Fit, ranked_fits

MOST_SHOWN = 5


class FitList(AnswerList):
    """The ports that what is in hand fits, ranked, each with its reason; a click aims at one."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.shown: list[Fit] = []
        session.hand_changed.connect(self.refresh)
        session.machine_changed.connect(self.refresh)
        self.chosen.connect(lambda number: session.aim(self.shown[number].host))

    def refresh(self) -> None:
        """Ranks the ports for what is in hand."""
        hand = self.session.in_hand
        if hand is None:
            self.hide()
            return
        fits = ranked_fits(self.session.queries, hand)
        good = [fit for fit in fits if fit.verdict != "does not fit"]
        self.shown = good[:MOST_SHOWN]
        near = [fit for fit in fits if fit.verdict == "does not fit" and fit.pairs]
        bad = [fit for fit in fits if fit.verdict == "does not fit"]
        first = next(iter(near or bad), None)
        example = f", e.g. {first.host.port}: {first.reason}" if first else ""
        self.show_rows(
            f"Where {hand.device} can go",
            f"{len(good)} of {len(fits)} ports",
            tuple(self._row(fit) for fit in self.shown),
            f"{len(bad)} do not fit{example}",
        )

    def _row(self, fit: Fit) -> AnswerRow:
        one_board = fit.host.device == self.shown[0].host.device
        return AnswerRow(
            name=fit.host.port if one_board else f"{fit.host.device} {fit.host.port}",
            tag="fits" if fit.verdict == "fits" else f"fits with {fit.needs}",
            reason=fit.reason or self._near(fit),
            is_target=fit.host == self.session.target,
            is_sure=fit.verdict == "fits",
        )

    def _near(self, fit: Fit) -> str:
        hand = self.session.in_hand
        axis = self.session.queries.axis_of(hand.device) if hand else None
        if axis is not None and fit.distance == 1:
            return f"Beside another port of {axis.id}."
        return "Free."


class SideColumn(QScrollArea):
    """Findings over the card of the selection; what is in hand above both."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setWidgetResizable(True)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(12)
        self.fits = FitList(session)
        self.findings = FindingsPane(session)
        self.facts = FactsCard(session)
        column.addWidget(self.fits)
        column.addWidget(self.findings)
        column.addWidget(self.facts)
        column.addStretch(1)
        self.setWidget(inner)
        self.setAccessibleName("Findings and facts")
        self.column = column

    def add_below(self, widget: QWidget) -> None:
        """Puts a widget of a stage under the findings."""
        self.column.insertWidget(self.column.indexOf(self.facts), widget)

    def add_above(self, widget: QWidget) -> None:
        """Puts what a stage says of what is in hand or proposed at the head."""
        self.column.insertWidget(0, widget)
