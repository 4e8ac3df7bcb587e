"""What the side column shows while a feed is in hand: where it can come from, and why."""

from vervain.desktop.session import Session
from vervain.desktop.shared.answer_list import AnswerList, AnswerRow
from vervain.desktop.stages.supply.feed_view import FeedView
from vervain.supply.feed_answers import FeedAnswer

MOST_SHOWN = 7


class FeedAnswers(AnswerList):
    """The places that the feed in hand can come from, ranked; a click aims at one."""

    def __init__(self, session: Session, view: FeedView) -> None:
        super().__init__(lines=2)
        self.session, self.view = session, view
        self.shown: tuple[FeedAnswer, ...] = ()
        view.hand.changed.connect(self.refresh)
        self.chosen.connect(self._aim)

    def _aim(self, number: int) -> None:
        hand = self.view.hand
        hand.target = self.view.picture.of_pin(self.shown[number].place)
        hand.changed.emit()

    def refresh(self) -> None:
        """Shows the best places, and the one that is aimed at."""
        hand = self.view.hand
        if hand.carried is None or not hand.answers:
            self.hide()
            return
        good = [a for a in hand.answers if a.verdict != "does not fit"]
        shown, aimed = good[:MOST_SHOWN], hand.answer()
        if aimed is not None and aimed not in shown:
            shown = [*shown[: MOST_SHOWN - 1], aimed]
        self.shown = tuple(shown)
        bad = [a for a in hand.answers if a.verdict == "does not fit"]
        example = f", e.g. {bad[0].place.device}: {bad[0].words}" if bad else ""
        self.show_rows(
            f"What can feed {hand.carried.device} {hand.carried.pin.port}",
            f"{len(good)} of {len(hand.answers)} places",
            tuple(self._row(answer) for answer in self.shown),
            f"{len(bad)} do not fit{example}" if bad else "",
        )

    def _row(self, answer: FeedAnswer) -> AnswerRow:
        device = self.session.queries.device(answer.place.device)
        return AnswerRow(
            name=f"{answer.place.device}  {device.name if device is not None else ''}",
            tag=answer.verdict if answer.verdict != "fits with" else "fits, but",
            reason=answer.words[:1].upper() + answer.words[1:] + ".",
            is_target=answer == self.view.hand.answer(),
            is_sure=answer.verdict == "fits",
        )
