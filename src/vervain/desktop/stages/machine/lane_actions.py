"""What is done to axes and devices on the Machine stage; every act is one undoable step."""

from collections.abc import Callable

from vervain.desktop.session import Selection, Session
from vervain.edits.axis_edits import (
    add_axis,
    duplicate_axis,
    duplicate_device,
    mirror_motor,
    move_axis,
    move_device,
    remove_axis,
)
from vervain.edits.device_edits import remove_device
from vervain.model.machine import Machine
from vervain.queries.axis_places import lane_devices


class LaneActs:
    """Acts on the selected device or axis."""

    def __init__(
        self, session: Session, describe: Callable[[], object], make_like: Callable[[], object]
    ) -> None:
        self.session = session
        self.keys: dict[str, Callable[[], object]] = {
            "a": self.add_axis,
            "d": describe,
            "l": make_like,
            "c": self.duplicate,
            "m": self.mirror,
        }

    def _made(self, words: str, edit: Callable[[Machine], tuple[Machine, str]]) -> str | None:
        """Applies an edit that also names what it made; that name, or None where refused."""
        names: list[str] = []

        def apply(machine: Machine) -> Machine:
            changed, name = edit(machine)
            names.append(name)
            return changed

        return names[-1] if self.session.apply(words, apply) else None

    def add_axis(self) -> None:
        """Adds an axis and selects it."""
        if self.session.apply("Added an axis", add_axis):
            self.session.select(Selection(axis=self.session.machine.axes[-1].id))

    def duplicate(self) -> None:
        """A second device, or a second axis with devices of its own, like the selected one."""
        chosen = self.session.selection
        if chosen.device is not None:
            device = chosen.device
            made = self._made(f"Copied {device}", lambda m: duplicate_device(m, device))
            if made is not None:
                self.session.select(Selection(device=made))
        elif chosen.axis is not None:
            axis = chosen.axis
            made = self._made(f"Copied the axis {axis}", lambda m: duplicate_axis(m, axis))
            if made is not None:
                self.session.select(Selection(axis=made))
        else:
            self.session.say("Select a device or an axis to copy.")

    def mirror(self) -> None:
        """A second motor, mirrored, on the selected axis or the axis of the selected motor."""
        chosen = self.session.selection
        axis = self.session.queries.axis_of(chosen.device) if chosen.device else None
        axis_id = axis.id if axis is not None else chosen.axis
        if axis_id is None:
            self.session.say("Select an axis or its motor to mirror the motor.")
            return
        made = self._made(f"Mirrored the motor of {axis_id}", lambda m: mirror_motor(m, axis_id))
        if made is not None:
            self.session.select(Selection(device=made))

    def move(self, by: int) -> None:
        """Moves the selected axis, or the selected device past its neighbour, up or down."""
        session, chosen = self.session, self.session.selection
        if chosen.device is not None:
            device = chosen.device
            session.apply(
                f"Moved {device} {'down' if by > 0 else 'up'}",
                lambda m: move_device(m, device, by, self._neighbours(device)),
            )
        elif chosen.axis is not None:
            axis = chosen.axis
            session.apply(
                f"Moved the axis {axis} {'down' if by > 0 else 'up'}",
                lambda m: move_axis(m, axis, by),
            )

    def _neighbours(self, device: str) -> tuple[str, ...]:
        axis = self.session.queries.axis_of(device)
        if axis is not None:
            return next((names for names in (axis.drives, axis.also) if device in names), ())
        return next(
            (names for _, names in lane_devices(self.session.queries) if device in names), ()
        )

    def remove(self) -> None:
        """Takes the selected device or axis out; the devices of an axis stay."""
        chosen = self.session.selection
        if chosen.device is not None:
            device = chosen.device
            self.session.apply(f"Took {device} out", lambda m: remove_device(m, device))
        elif chosen.axis is not None:
            axis = chosen.axis
            if self.session.apply(f"Took the axis {axis} out", lambda m: remove_axis(m, axis)):
                self.session.say(f"The axis {axis} is gone; its devices stay, in the lanes below.")
