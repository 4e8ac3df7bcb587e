"""What is in hand on the Machine stage: a part from the shelf, or a device on its way."""

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.catalogue.terminals import is_at_a_door
from vervain.desktop.session import Selection, Session
from vervain.edits.axis_edits import accepts, add_to_role, put_in_role, take_from_roles
from vervain.edits.common import free_name
from vervain.edits.device_edits import add_device
from vervain.model.axis import ROLES, Role
from vervain.model.machine import Machine
from vervain.model.part import Part
from vervain.queries.axis_places import Place, places_of_axis
from vervain.queries.device_groups import group_of
from vervain.text.words import within_a_sentence


class LaneHand(QObject):
    """Carries a part or a device to the places that can take it; putting it is one step."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.part: Part | None = None
        self.device: str | None = None
        self.target: Place | None = None
        self.wanted: Place | None = None
        session.machine_changed.connect(self._machine_changed)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is in hand."""
        return self.part is None

    @property
    def words(self) -> str:
        """What is in hand, in words."""
        return self.device or (self.part.title if self.part else "")

    @property
    def designator(self) -> str:
        """The designator of what is in hand, or the one that it would get."""
        if self.device is not None or self.part is None:
            return self.device or ""
        return free_name(self.part.letter, self.session.queries.devices())

    def take_part(self, part: Part) -> None:
        """Takes a part from the shelf; it aims at the place that asked for it, if it fits."""
        self.part, self.device = part, None
        offered = self.offered()
        self.target = self.wanted if self.wanted in offered else (offered[0] if offered else None)
        self.changed.emit()

    def take_device(self, designator: str) -> None:
        """Takes a device out of its place, to put it into another."""
        part = self.session.queries.part_of(designator)
        if part is None:
            return
        self.part, self.device = part, designator
        offered = self.offered()
        self.target = offered[0] if offered else None
        self.changed.emit()

    def drop(self) -> None:
        """Puts it back."""
        self.part = self.device = self.target = None
        self.changed.emit()

    def _machine_changed(self) -> None:
        if self.device is not None and self.session.queries.device(self.device) is None:
            self.drop()
        elif self.target is not None and self.target not in self.offered():
            self.target = next(iter(self.offered()), None)

    def offered(self) -> tuple[Place, ...]:
        """The places that can take what is in hand: empty roles first, then more room on axes,
        then the lane of its kind, which comes first for what a hand works or a door.
        """
        part, queries = self.part, self.session.queries
        if part is None:
            return ()
        empty: list[Place] = []
        more: list[Place] = []
        for axis_id in queries.axes():
            axis = queries.axis(axis_id)
            if axis is None:
                continue
            empty += [
                place
                for place in places_of_axis(axis)
                if place.device is None and place.role and accepts(part, place.role)
            ]
            taken: tuple[Role, ...] = ("drive", "also") if axis.drives else ("also",)
            more += [
                Place(axis=axis_id, role=role)
                for role in taken
                if accepts(part, role) and role in ROLES
            ]
        first = self.session.selection.axis
        empty.sort(key=lambda place: place.axis != first)
        more.sort(key=lambda place: (place.axis != first, place.role != "drive"))
        lane = Place(lane=group_of(part))
        is_off_axis = part.is_by_hand or (part.kind == "switch" and is_at_a_door(part.title))
        return (lane, *empty, *more) if is_off_axis else (*empty, lane, *more)

    def aim_next(self, by: int) -> None:
        """Aims at the next or the previous place that can take it."""
        offered = self.offered()
        if not offered:
            return
        at = offered.index(self.target) if self.target in offered else -by
        self.target = offered[(at + by) % len(offered)]
        self.changed.emit()

    def aim(self, place: Place | None) -> None:
        """Aims at a place, if it can take what is in hand."""
        if place != self.target and (place is None or place in self.offered()):
            self.target = place
            self.changed.emit()

    def put_down(self) -> None:
        """Puts what is in hand into the place that is aimed at."""
        part, device, target = self.part, self.device, self.target
        if part is None or target is None:
            return
        put: list[str] = []

        def edit(machine: Machine) -> Machine:
            if device is not None:
                if target.axis is None or target.role is None:
                    return take_from_roles(machine, device)
                return put_in_role(machine, target.axis, target.role, device)
            if target.axis is None or target.role is None:
                machine = add_device(machine, part, part.title)
                put.append(machine.devices[-1].designator)
                return machine
            machine, designator = add_to_role(machine, target.axis, target.role, part)
            put.append(designator)
            return machine

        words = f"Put {device or within_a_sentence(part.title)} at {target.words}"
        self.wanted = None
        if self.session.apply(words, edit):
            chosen = device or put[-1]
            self.drop()
            self.session.select(Selection(device=chosen))
        else:
            self.drop()
