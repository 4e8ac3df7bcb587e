"""The session: the current machine, its history, the selection and what is in hand."""

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.analysis import Analysis
from vervain.desktop.interface_first import claim
from vervain.desktop.message import Message
from vervain.edits.common import Edit, without_stale_records
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.model.validation import checked
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding, Result

LONGEST_HISTORY = 500


@dataclass(frozen=True)
class Selection:
    """What is selected; more than one part may be set: a pin comes with its device and port."""

    device: str | None = None
    port: str | None = None
    pin: str | None = None
    conductor: tuple[str, int] | None = None
    finding: str | None = None
    axis: str | None = None
    part: str | None = None
    place: str | None = None
    run: str | None = None

    @property
    def port_ref(self) -> PortRef | None:
        """The selected port."""
        if self.device is None or self.port is None:
            return None
        return PortRef(device=self.device, port=self.port)

    @property
    def pin_ref(self) -> PinRef | None:
        """The selected pin."""
        if self.device is None or self.port is None or self.pin is None:
            return None
        return PinRef(device=self.device, port=self.port, pin=self.pin)


@dataclass(frozen=True)
class Step:
    """One undoable step: what it was, in words, and the machine after it."""

    words: str
    machine: Machine


class Session(QObject):
    """The one place that holds a machine. Views read it and send it edits."""

    machine_changed = pyqtSignal()
    selection_changed = pyqtSignal()
    hand_changed = pyqtSignal()
    wire_changed = pyqtSignal()
    checked = pyqtSignal()
    stage_wanted = pyqtSignal(str)
    said = pyqtSignal(object)
    card_wanted = pyqtSignal()
    # A fact of the card, by its name.
    fact_wanted = pyqtSignal(str)
    opened = pyqtSignal()
    meter_set = pyqtSignal(object)

    def __init__(self, machine: Machine, path: Path | None = None) -> None:
        super().__init__()
        self.path = path
        self.queries = Queries(machine)
        self.steps: list[Step] = [Step("Opened", machine)]
        self.at = 0
        self.saved: Machine | None = machine
        self.selection = Selection()
        self.in_hand: PortRef | None = None
        self.target: PortRef | None = None
        self.wire: tuple[PinRef, PinRef] | None = None
        self.result: Result | None = None
        self.checked_machine: Machine | None = None
        self.analysis = Analysis()

    @property
    def machine(self) -> Machine:
        """The current machine."""
        return self.steps[self.at].machine

    @property
    def is_saved(self) -> bool:
        """Whether the file holds the current machine."""
        return self.machine is self.saved

    def unsaved_steps(self) -> tuple[str, ...]:
        """What was done since the file was saved, a step in words each."""
        done = self.steps[: self.at + 1]
        at = next((n for n, step in enumerate(done) if step.machine is self.saved), 0)
        return tuple(step.words for step in done[at + 1 :])

    def replace_machine(self, machine: Machine, path: Path | None, saved: bool = True) -> None:
        """Starts over with another machine."""
        self.path = path
        self.steps, self.at = [Step("Opened", machine)], 0
        self.saved = machine if saved else None
        self.selection = Selection()
        self.in_hand = self.target = None
        self.result = None
        self.queries = Queries(machine)
        self._tell_all()
        self.opened.emit()

    def apply(self, words: str, edit: Edit) -> bool:
        """Applies an edit as one undoable step. A refused edit is said, and changes nothing."""
        claim()
        try:
            changed = without_stale_records(edit(self.machine))
            if changed is not self.machine:
                checked(self.machine, changed)
        except Problem as problem:
            self.said.emit(Message(f"{problem.what} {problem.remedy}".strip(), is_bad=True))
            return False
        if changed == self.machine:
            return False
        del self.steps[self.at + 1 :]
        self.steps.append(Step(words, changed))
        if len(self.steps) > LONGEST_HISTORY:
            del self.steps[0]
        self._go_to(len(self.steps) - 1)
        return True

    def read_anew(self) -> None:
        """Has everybody ask again for what they show, of a machine that is the same: for what is
        said in other words.
        """
        before = self.machine
        anew = replace(before)
        self.steps[self.at] = Step(self.steps[self.at].words, anew)
        if self.saved is before:
            self.saved = anew
        self._go_to(self.at)

    def undo(self) -> None:
        """Goes one step back."""
        if self.at > 0:
            self._go_to(self.at - 1)

    def redo(self) -> None:
        """Goes one step forward again."""
        if self.at + 1 < len(self.steps):
            self._go_to(self.at + 1)

    def go_to_step(self, number: int) -> None:
        """Goes to a step of the list."""
        if 0 <= number < len(self.steps) and number != self.at:
            self._go_to(number)

    def _go_to(self, number: int) -> None:
        claim()
        self.at = number
        self.queries.move_to(self.machine)
        if self.selection.device and self.queries.device(self.selection.device) is None:
            self.selection = Selection()
        if self.selection.axis and self.queries.axis(self.selection.axis) is None:
            self.selection = Selection()
        gone = self.selection.run and self.queries.run(self.selection.run) is None
        if gone or (self.selection.place and self.queries.place(self.selection.place) is None):
            self.selection = Selection()
        if self.in_hand and self.queries.port(self.in_hand) is None:
            self.in_hand = self.target = None
        self._tell_all()

    def _tell_all(self) -> None:
        self.machine_changed.emit()
        self.selection_changed.emit()
        self.hand_changed.emit()
        # From here on, for what is painted of it.
        claim()

    def select(self, selection: Selection) -> None:
        """Selects something."""
        if selection != self.selection:
            claim()
            self.selection = selection
            self.selection_changed.emit()

    def select_finding(self, finding: Finding) -> None:
        """Selects a finding and the first thing that it is about."""
        subject = finding.subjects[0] if finding.subjects else Subject()
        conductor = None
        if subject.cable is not None:
            conductor = self.conductor_of_core(subject.cable, subject.core)
        self.select(
            Selection(
                device=subject.device,
                port=subject.port,
                pin=subject.pin,
                conductor=conductor,
                finding=finding.key,
                axis=subject.axis,
                run=subject.run,
            )
        )

    def conductor_of_core(self, cable: str, core: int | None) -> tuple[str, int] | None:
        """The conductor that uses a core of a cable (its first one where core is None)."""
        for hookup in self.queries.hookups_in(cable):
            for row, conductor in enumerate(hookup.conductors):
                if core is None or conductor.core == core:
                    return hookup.id, row
        return None

    def take_in_hand(self, device_port: PortRef | None) -> None:
        """Picks a device's plug up, or puts it out of hand."""
        self.in_hand, self.target = device_port, None
        self.hand_changed.emit()

    def lead_wire(self, ends: tuple[PinRef, PinRef] | None) -> None:
        """Says between which pins the wire in hand would be; None where none is, or nowhere yet."""
        if ends != self.wire:
            self.wire = ends
            self.wire_changed.emit()

    def aim(self, target: PortRef | None) -> None:
        """Sets the port that what is in hand would go into."""
        if target != self.target:
            claim()
            self.target = target
            self.hand_changed.emit()

    def take_result(self, machine: Machine, result: Result) -> None:
        """Takes the findings of a machine, if it is still the current one."""
        if machine is self.machine:
            claim()
            self.result, self.checked_machine = result, machine
            self.checked.emit()
            claim()

    def findings(self, matches: Callable[[Finding], bool] = lambda _: True) -> list[Finding]:
        """The open findings that match, the worst first."""
        return [f for f in self.result.open if matches(f)] if self.result else []

    def chosen_findings(self) -> list[Finding]:
        """The open finding that is selected, in a list; none where none is."""
        key = self.selection.finding
        return self.findings(lambda finding: finding.key == key) if key is not None else []

    def say(self, text: str) -> None:
        """Says something in the message line."""
        self.said.emit(Message(text))
