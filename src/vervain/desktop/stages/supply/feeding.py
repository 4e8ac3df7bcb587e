"""Feeding the rest: a way from a source proposed for everything unfed, taken in part or whole."""

from collections.abc import Callable

from vervain.desktop.session import Session
from vervain.desktop.shared.proposing import ProposalController, Row
from vervain.files.shelf import ShelfContents
from vervain.model.machine import Machine, PinRef
from vervain.supply.feed_inputs import unfed_inputs
from vervain.supply.feed_steps import FeedPlan, carry_out
from vervain.supply.mains_ways import mains_inputs
from vervain.text.words import count_of


class FeedingController(ProposalController):
    """Proposes feeds. A step that needs another one goes and comes with it."""

    proposal: FeedPlan | None
    warning_ink = "doubt_text"

    def __init__(self, session: Session, read_shelf: Callable[[], ShelfContents]) -> None:
        super().__init__(session)
        self.read_shelf = read_shelf

    def waiting(self) -> int:
        """How many inputs have to be fed."""
        queries = self.session.queries
        return len(unfed_inputs(queries)) + len(mains_inputs(queries))

    def nothing_to_do(self) -> str:
        return "Everything that has to be fed is fed."

    def work_out(self, machine: Machine, should_continue: Callable[[], bool]) -> FeedPlan:
        from vervain.rules.feeding import propose_feeds

        shelf = self.read_shelf()
        return propose_feeds(machine, shelf.parts, shelf.cable_parts, should_continue)

    def rows(self) -> tuple[Row, ...]:
        found = self.proposal.steps if self.proposal is not None else ()
        return tuple((step.words, step.reason) for step in found)

    def warnings(self) -> tuple[str, ...]:
        return self.proposal.decisions if self.proposal is not None else ()

    def toggle(self, number: int) -> None:
        """Wants one step with all that it needs, or leaves it with all that need it."""
        if self.proposal is None or not 0 <= number < len(self.proposal.steps):
            return
        if number in self.wanted:
            self.wanted.discard(number)
            self.wanted = set(self.proposal.with_needed(self.wanted))
        else:
            self.wanted |= self.proposal.with_all_it_needs(number)
        self.changed.emit()

    def carried_out(self, machine: Machine) -> Machine:
        assert self.proposal is not None
        for number in self.proposal.with_needed(self.wanted):
            machine = carry_out(machine, self.proposal.steps[number])
        return machine

    def ghosts(self) -> dict[PinRef, str]:
        """Where each pin that is wanted would be fed from, in words."""
        steps = self.proposal.steps if self.proposal is not None else ()
        queries = self.session.queries
        return {
            ref: f"from {wire.a.device} {wire.a.port}?"
            for number in sorted(self.wanted)
            for wire in steps[number].wires
            for ref in queries.rail(wire.b)
        }

    def step_words(self) -> str:
        count = len(self.wanted)
        return f"Fed the rest, {count_of(count, 'step')}"

    def title(self) -> str:
        return f"Proposed: {len(self.wanted)} of {len(self.rows())} steps"
