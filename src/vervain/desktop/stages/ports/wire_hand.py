"""The end of a wire in hand: every pin answers, the best are tried, Enter joins."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.analysis import LatestWork
from vervain.desktop.session import Selection, Session
from vervain.edits.common import Edit
from vervain.edits.pin_names import written
from vervain.edits.plug_edits import put_conductor
from vervain.edits.wire_edits import put_beside, put_into_wire
from vervain.model.machine import Machine, PinRef
from vervain.ports.joins import PinAnswer, across_from, join_answers, way_from
from vervain.queries.machine_queries import Queries

if TYPE_CHECKING:
    from vervain.rules.join_trial import JoinTrial

# How many of the best answers are tried on a copy, and how many before what came of it is shown.
MOST_TRIED, TRIED_AT_ONCE = 6, 2


class WireHand(QObject):
    """Carries the end of a wire from a pin to another; every act is one undoable step."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.start: PinRef | None = None
        self.target: PinRef | None = None
        self.answers: tuple[PinAnswer, ...] = ()
        self.trials: dict[PinRef, JoinTrial] = {}
        self._aimed = self._joins_when_tried = False
        self._rank = LatestWork(session.analysis, self._ranked)
        self._try = LatestWork(session.analysis, self._tried, gives_way=True)
        self._rank.done.connect(self._take_answers)
        self._try.done.connect(self._take_trials)
        session.machine_changed.connect(self._machine_changed)
        session.hand_changed.connect(self._hand_changed)
        self.changed.connect(self._show_where)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is in hand."""
        return self.start is None

    @property
    def is_ranking(self) -> bool:
        """Whether the answers are still being worked out."""
        return self.start is not None and not self.answers

    def take(self, start: PinRef | None) -> None:
        """Takes the end of a wire from a pin in hand, or puts it out of hand."""
        self._try.give_up()
        self._rank.give_up()
        self.start, self.target, self.answers, self.trials = start, None, (), {}
        self._aimed = self._joins_when_tried = False
        if start is not None:
            if self.session.in_hand is not None:
                self.session.take_in_hand(None)
            self._rank.ask(self.session.machine)
        self.changed.emit()

    def aim(self, pin: PinRef | None) -> None:
        """Sets the pin that the wire would go to."""
        if pin != self.target and pin != self.start:
            self.target, self._aimed, self._joins_when_tried = pin, True, False
            self.changed.emit()
            if pin is not None and pin not in self.trials and self.answers:
                self._try.ask(self.session.machine)

    def _show_where(self) -> None:
        ends = (self.start, self.target) if self.start and self.target else None
        self.session.lead_wire(ends)

    def answer_of(self, pin: PinRef | None) -> PinAnswer | None:
        """What a pin says, with what trying it came to."""
        return next((answer for answer in self.answers if answer.pin == pin), None)

    def words_of(self, pin: PinRef) -> str:
        """What is to be said of joining a pin."""
        trial, answer = self.trials.get(pin), self.answer_of(pin)
        if trial is not None and trial.words:
            return trial.words
        return answer.words if answer is not None else ""

    # Answers, on the worker.

    def _ranked(
        self, queries: Queries, should_continue: Callable[[], bool]
    ) -> tuple[PinRef, tuple[PinAnswer, ...]] | None:
        start = self.start
        if start is None or queries.pin(start) is None:
            return PinRef(device="", port="", pin=""), ()
        answers = join_answers(queries, start, should_continue)
        return (start, answers) if answers is not None else None

    def _to_try(self) -> list[PinRef]:
        """The pins that are not tried yet: the one that is aimed at, then the best."""
        best = [a.pin for a in self.answers[:MOST_TRIED] if a.verdict in ("belongs", "may be")]
        wanted = [self.target, *best] if self.target is not None else best
        return [pin for pin in dict.fromkeys(wanted) if pin not in self.trials]

    def _tried(
        self, queries: Queries, should_continue: Callable[[], bool]
    ) -> "tuple[PinRef | None, dict[PinRef, JoinTrial]] | None":
        from vervain.rules.engine import check_look
        from vervain.rules.join_trial import JoinTrial, try_join

        start = self.start
        found: dict[PinRef, JoinTrial] = {}
        before = check_look(queries, should_continue)
        for pin in self._to_try()[:TRIED_AT_ONCE]:
            if start is None or before is None or not should_continue():
                return None
            found[pin] = try_join(queries, before, start, pin) or JoinTrial()
        return start, found

    def _take_answers(self, machine: Machine, found: tuple[PinRef, tuple[PinAnswer, ...]]) -> None:
        start, answers = found
        if machine is not self.session.machine or start != self.start:
            return
        self.answers = answers
        self._aim_at_best()
        self.changed.emit()
        self._try.ask(machine)

    def _take_trials(
        self, machine: Machine, found: "tuple[PinRef | None, dict[PinRef, JoinTrial]]"
    ) -> None:
        start, trials = found
        if machine is not self.session.machine or start != self.start or start is None:
            return
        self.trials |= trials
        told = (_with_trial(answer, trials.get(answer.pin)) for answer in self.answers)
        self.answers = tuple(sorted(told, key=self._rank_of))
        self._aim_at_best()
        if self._to_try():
            self._try.ask(machine)
        self.changed.emit()
        if self._joins_when_tried and self.target in self.trials:
            self.join()

    def _rank_of(self, answer: PinAnswer) -> tuple[bool, int, tuple[int, ...]]:
        trial = self.trials.get(answer.pin)
        healed = len(trial.clears) if trial is not None else 0
        return answer.verdict in ("against advice", "cannot be"), -healed, answer.rank

    def _aim_at_best(self) -> None:
        best = next(iter(self.answers), None)
        if not self._aimed and best is not None and best.verdict != "against advice":
            self.target = best.pin

    def _machine_changed(self) -> None:
        if self.start is not None:
            known = self.session.queries.pin(self.start)
            self.take(self.start if known is not None else None)

    def _hand_changed(self) -> None:
        if self.session.in_hand is not None and self.start is not None:
            self.take(None)

    # Acts.

    def join(self, against_advice: bool = False) -> bool:
        """Joins the pin in hand to the one that is aimed at, once it is known what comes of it.
        What is advised against stays in hand, with the reason.
        """
        session, start, end = self.session, self.start, self.target
        if start is None or end is None:
            session.say("Aim at a pin first: click it, or go there with the arrows.")
            return False
        if end not in self.trials and not against_advice:
            self._joins_when_tried = True
            if self.answers:
                self._try.ask(session.machine)
            return False
        answer = self.answer_of(end)
        speaks_against = answer is not None and answer.verdict in ("against advice", "cannot be")
        if speaks_against and not against_advice:
            session.say(f"{self.words_of(end)} Ctrl+Enter joins it all the same.")
            return False
        words = f"{self._name(start)} joined to {self._name(end)}"
        return self._apply(words, lambda m: put_conductor(m, start, end), (start, end))

    def put_in_series(self) -> bool:
        """Leads the wire at the pin that is aimed at through the contact, fuse or connector whose
        pin is in hand.
        """
        session, start, end = self.session, self.start, self.target
        if start is None or end is None:
            return False
        way = way_from(session.queries, start)
        steps = session.queries.steps(end)
        if way is None:
            session.say(f"{self._name(start)} is no free end of a contact, fuse or connector.")
            return False
        if not steps:
            session.say(f"Nothing comes to {self._name(end)} yet: join it with Enter.")
            return False
        if len(steps) > 1:
            session.say(f"{len(steps)} wires come to {self._name(end)}. Aim at one's other end.")
            return False
        step = steps[0]
        hookup = session.queries.hookup(step.hookup)
        assert hookup is not None
        row = hookup.conductors.index(step.conductor)
        words = f"{start.device} put into the wire to {self._name(end)}"

        def edit(machine: Machine) -> Machine:
            return put_into_wire(machine, step.hookup, row, end, way.near, way.far)

        return self._apply(words, edit, (start, end))

    def put_beside(self) -> bool:
        """Joins the two ends of the contact in hand to those of the contact that is aimed at."""
        session, start, end = self.session, self.start, self.target
        if start is None or end is None:
            return False
        ours, theirs = way_from(session.queries, start), across_from(session.queries, end)
        if ours is None:
            session.say(f"{self._name(start)} is no free end of a contact, fuse or connector.")
            return False
        if theirs is None:
            session.say(f"{self._name(end)} is no end of a contact, fuse or resistor.")
            return False
        words = f"{start.device} put beside {end.device}"

        def edit(machine: Machine) -> Machine:
            return put_beside(machine, (ours.near, ours.far), (end, theirs))

        return self._apply(words, edit, (start, end))

    def _apply(self, words: str, edit: Edit, ends: tuple[PinRef, PinRef]) -> bool:
        self.session.analysis.take_away(self._try)
        start, self.start = self.start, None
        if not self.session.apply(words, edit):
            self.start = start
            return False
        self.take(None)
        queries, pin = self.session.queries, ends[1]
        made = None
        for step in queries.steps(ends[0]):
            hookup = queries.hookup(step.hookup)
            if step.end == pin and hookup is not None:
                made = hookup.id, hookup.conductors.index(step.conductor)
        self.session.select(
            Selection(device=pin.device, port=pin.port, pin=pin.pin, conductor=made)
        )
        return True

    def _name(self, pin: PinRef) -> str:
        return written(self.session.machine, pin)


def _with_trial(answer: PinAnswer, trial: "JoinTrial | None") -> PinAnswer:
    """An answer as it stands after it was tried: what would do harm is against advice."""
    if trial is None or answer.verdict in ("against advice", "cannot be"):
        return answer
    if trial.brings:
        return replace(answer, verdict="against advice", words=trial.words)
    return replace(answer, words=trial.words or answer.words)
