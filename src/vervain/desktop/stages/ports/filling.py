"""Filling in the rest: a proposal worked out on a worker, shown as ghosts, taken or left."""

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.auto_placement import Placement, Proposal, accept, plugs_to_place, propose
from vervain.ports.fit import fit


class PlacementController(QObject):
    """Asks for a proposal, keeps which of it is wanted, and carries it out as one step."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.proposal: Proposal | None = None
        self.made_for: Machine | None = None
        self.wanted: set[int] = set()
        self.running = False
        self._stopped = False
        session.machine_changed.connect(self._machine_changed)

    @property
    def loose(self) -> int:
        """How many plugs could be placed."""
        return len(plugs_to_place(self.session.queries))

    def _machine_changed(self) -> None:
        if self.made_for is not None and self.made_for is not self.session.machine:
            self.drop()

    def start(self) -> None:
        """Works a proposal out on a worker."""
        if self.running or not self.session.queries.devices():
            return
        if not self.loose:
            self.session.say("Every plug is in a port already.")
            return
        machine = self.session.machine
        self.running, self._stopped = True, False
        self.proposal, self.made_for = None, machine
        self.session.take_in_hand(None)
        self.changed.emit()

        def work() -> Proposal | None:
            from vervain.ports.placement_solver import PlacementCancelled

            try:
                return propose(machine, lambda: not self._stopped)
            except PlacementCancelled:
                return None

        in_background(work, lambda found: self._show(machine, found), self._refused)

    def _show(self, machine: Machine, found: Proposal | None) -> None:
        if self.made_for is not machine:
            return
        self.running = False
        if found is None:
            self.drop()
            return
        self.proposal = found
        self.wanted = set(range(len(found.placements)))
        if not found.placements:
            words = " ".join(conflict.words for conflict in found.conflicts)
            self.session.say(f"Nothing can be placed. {words}".strip())
            self.drop()
            return
        self.changed.emit()

    def _refused(self, problem: object) -> None:
        self.drop()
        self.session.say(str(problem))

    def toggle(self, number: int) -> None:
        """Wants one placement, or does not."""
        if self.proposal is not None and 0 <= number < len(self.proposal.placements):
            self.wanted.symmetric_difference_update({number})
            self.changed.emit()

    def taken(self) -> tuple[Placement, ...]:
        """The placements that are wanted."""
        proposal = self.proposal
        rows = proposal.placements if proposal is not None else ()
        return tuple(row for number, row in enumerate(rows) if number in self.wanted)

    def put_in(self) -> None:
        """Carries out what is wanted, as one step."""
        rows = self.taken()
        if not rows:
            self.drop()
            return
        conflicts = self.proposal.conflicts if self.proposal is not None else ()
        words = f"Filled in {len(rows)} plug{'s' if len(rows) > 1 else ''}"
        self.made_for = None
        if self.session.apply(words, lambda machine: accept(machine, rows)) and conflicts:
            self.session.say(" ".join(conflict.words for conflict in conflicts))
        self.drop()

    def drop(self) -> None:
        """Leaves it as it was; stops the work where it still runs."""
        self._stopped = True
        self.running = False
        self.proposal = self.made_for = None
        self.wanted = set()
        self.changed.emit()

    def ghosts(self) -> tuple[dict[PinRef, str | None], dict[PortRef, str]]:
        """The pins that would be filled with their colours, and who would sit in each port."""
        pins: dict[PinRef, str | None] = {}
        names: dict[PortRef, str] = {}
        queries = self.session.queries
        for row in self.taken():
            names[row.host] = row.plug.device
            port = queries.port(row.plug)
            for ours, theirs in fit(queries, row.plug, row.host).pairs:
                pin = port.pin(ours) if port else None
                ref = PinRef(device=row.host.device, port=row.host.port, pin=theirs)
                pins[ref] = pin.lead if pin else None
        return pins, names
