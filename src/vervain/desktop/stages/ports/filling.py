"""Filling in the rest: a port proposed for every loose plug, shown as ghosts, taken or left."""

from collections.abc import Callable

from vervain.desktop.shared.proposing import ProposalController, Row
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.auto_placement import plugs_to_place
from vervain.ports.fit import fit
from vervain.ports.proposal import Placement, Proposal
from vervain.ports.proposing import propose
from vervain.rules.placed import accepted
from vervain.text.words import count_of


class PlacementController(ProposalController):
    """Proposes where loose plugs go."""

    proposal: Proposal | None

    def waiting(self) -> int:
        """How many plugs could be placed."""
        return len(plugs_to_place(self.session.queries))

    def nothing_to_do(self) -> str:
        return "Every plug is in a port already."

    def work_out(self, machine: Machine, should_continue: Callable[[], bool]) -> Proposal | None:
        from vervain.ports.placement_solver import PlacementCancelled

        try:
            return propose(machine, should_continue)
        except PlacementCancelled:
            return None

    def rows(self) -> tuple[Row, ...]:
        found = self.proposal.placements if self.proposal is not None else ()
        return tuple(
            (place, reason)
            for place, _, reason in (placement.reason.partition(": ") for placement in found)
        )

    def warnings(self) -> tuple[str, ...]:
        found = self.proposal.conflicts if self.proposal is not None else ()
        return tuple(conflict.words for conflict in found)

    def carried_out(self, machine: Machine) -> Machine:
        return accepted(machine, self.taken())

    def step_words(self) -> str:
        count = len(self.wanted)
        return f"Filled in {count_of(count, 'plug')}"

    def title(self) -> str:
        return f"Proposed: {len(self.wanted)} of {len(self.rows())} plugs"

    def left(self) -> int:
        """How many plugs contend for ports."""
        found = self.proposal.conflicts if self.proposal is not None else ()
        return sum(len(conflict.plugs) for conflict in found)

    def taken(self) -> tuple[Placement, ...]:
        """The placements that are wanted."""
        rows = self.proposal.placements if self.proposal is not None else ()
        return tuple(row for number, row in enumerate(rows) if number in self.wanted)

    def _wires(self, row: Placement) -> tuple[tuple[PinRef, PinRef], ...]:
        """The pins that a placement joins."""
        if row.over is not None:
            return row.over.wires
        plug, host = row.plug, row.host
        return tuple(
            (
                PinRef(device=plug.device, port=plug.port, pin=ours),
                PinRef(device=host.device, port=host.port, pin=theirs),
            )
            for ours, theirs in fit(self.session.queries, plug, host).pairs
        )

    def ghosts(self) -> tuple[dict[PinRef, str | None], dict[PortRef, str]]:
        """The pins that would be filled with their colours, and who would sit in each port."""
        pins: dict[PinRef, str | None] = {}
        names: dict[PortRef, str] = {}
        queries = self.session.queries
        for row in self.taken():
            for ours, theirs in self._wires(row):
                pin = queries.pin(ours)
                pins[theirs] = pin.lead if pin else None
                if ours.device != row.plug.device:
                    # A link between two ports of the host is at both.
                    pins[ours] = None
            for host in row.over.hosts if row.over is not None else (row.host,):
                names[host] = row.plug.device
        return pins, names
