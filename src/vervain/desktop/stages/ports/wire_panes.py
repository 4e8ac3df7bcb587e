"""What the side column shows while a wire is in hand, or something is put into one."""

from vervain.desktop.session import Session
from vervain.desktop.shared.answer_list import AnswerList, AnswerRow
from vervain.desktop.stages.ports.inserting import InsertHand
from vervain.desktop.stages.ports.wire_hand import WireHand
from vervain.edits.pin_names import written
from vervain.ports.joins import PinAnswer

MOST_SHOWN = 7
TAGS = {"belongs": "belongs", "may be": "possible", "against advice": "not advised"}


class WireAnswers(AnswerList):
    """The pins that the end of the wire in hand can go to; a click aims at one."""

    def __init__(self, session: Session, hand: WireHand) -> None:
        super().__init__(lines=2)
        self.session, self.hand = session, hand
        self.shown: tuple[PinAnswer, ...] = ()
        hand.changed.connect(self.refresh)
        self.chosen.connect(lambda number: hand.aim(self.shown[number].pin))

    def refresh(self) -> None:
        """Shows the best answers, and the one that is aimed at."""
        hand = self.hand
        if hand.start is None:
            self.hide()
            return
        good = [a for a in hand.answers if a.verdict in ("belongs", "may be")]
        shown = good[:MOST_SHOWN]
        aimed = hand.answer_of(hand.target)
        if aimed is not None and aimed not in shown:
            shown = [*shown[: MOST_SHOWN - 1], aimed]
        self.shown = tuple(shown)
        against = len(hand.answers) - len(good)
        rest = f"{against} pins are not advised. Ctrl+Enter joins all the same." if against else ""
        self.show_rows(
            f"Where {written(self.session.machine, hand.start)} can go",
            f"{len(good)} of {len(hand.answers)} pins" if hand.answers else "…",
            tuple(self._row(answer) for answer in self.shown),
            rest,
        )

    def _row(self, answer: PinAnswer) -> AnswerRow:
        return AnswerRow(
            name=written(self.session.machine, answer.pin),
            tag=TAGS.get(answer.verdict, "impossible"),
            reason=self.hand.words_of(answer.pin),
            is_target=answer.pin == self.hand.target,
            is_sure=answer.verdict == "belongs",
        )


class InsertOffers(AnswerList):
    """What can be put into the selected wire; a click puts it in."""

    def __init__(self, hand: InsertHand) -> None:
        super().__init__()
        self.hand = hand
        self.first = 0
        hand.changed.connect(self.refresh)
        self.chosen.connect(lambda number: hand.choose(self.first + number))

    def refresh(self) -> None:
        """Shows the offers around the one that is chosen."""
        hand = self.hand
        if not hand.is_open:
            self.hide()
            return
        self.first = max(0, min(hand.chosen - MOST_SHOWN // 2, len(hand.offers) - MOST_SHOWN - 1))
        self.first_number = self.first + 1
        shown = hand.offers[self.first : self.first + MOST_SHOWN + 1]
        rows = tuple(
            AnswerRow(
                name=offer.name,
                tag="",
                reason=offer.words,
                is_target=self.first + number == hand.chosen,
            )
            for number, offer in enumerate(shown)
        )
        foot = "" if rows else "Nothing that a wire can be led through is free."
        self.show_rows("What can go into the wire", f"{len(hand.offers)}", rows, foot)
