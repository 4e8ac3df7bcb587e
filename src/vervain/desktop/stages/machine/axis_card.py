"""The card of an axis: every number that is given can be changed; what follows stands below."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from vervain.desktop.session import Selection, Session
from vervain.edits.axis_edits import (
    rename_axis,
    set_axis_choice,
    set_axis_number,
    set_mechanism,
    set_mechanism_number,
)
from vervain.edits.device_edits import set_setting
from vervain.model.axis import Axis
from vervain.model.machine import Machine
from vervain.model.part import Option
from vervain.motion.mechanisms import MECHANISMS, mechanism_kind
from vervain.motion.words import derived_facts
from vervain.queries.connectivity import drivers_of

if TYPE_CHECKING:
    from vervain.desktop.shared.property_rows import FactRows

NOT_GIVEN = "not given"
FACES = ("same way", "each other")
HOMINGS = ("as wired", "on", "off")
YES_NO = ("no", "yes")


class AxisFacts:
    """Shows one axis in a card."""

    def __init__(self, card: FactRows, session: Session, axis_id: str) -> None:
        self.card, self.session, self.id = card, session, axis_id

    def show(self) -> None:
        """Fills the card."""
        axis = self.session.queries.axis(self.id)
        if axis is None:
            return
        self.card.title.setText(f"{axis.id}  {axis.name}")
        self._field("Letter", axis.id, lambda text: self._rename(text.strip().upper(), axis.name))
        self._field("Name", axis.name, lambda text: self._rename(axis.id, text))
        self._mechanism(axis)
        unit = axis.unit
        self._number("Gear ratio", "gear_ratio", axis.gear_ratio, "")
        self._number("Travel", "travel", axis.travel, unit)
        self._number("Top speed", "speed_max", axis.speed_max, f"{unit}/s")
        self._number("Speeds up at", "acceleration_max", axis.acceleration_max, f"{unit}/s²")
        self._number("Torque at a motor", "torque_nm", axis.torque_nm, "N m")
        if axis.motion == "linear":
            self._number("Moves along", "moved_kg", axis.moved_kg, "kg")
        self._microsteps(axis)
        if axis.home is not None and not axis.endless:
            self._number("Home is at", "home_at", axis.home_at, unit)
        ends = ("min end", "max end")
        self._choice("Motors sit at the", ends, f"{axis.pulls_at} end", self._take_end)
        if axis.feedback is not None:
            self._choice(
                "Encoder turns with", ("motor", "axis"), axis.feedback_at, self._take_shaft
            )
        if len(axis.drives) > 1:
            stands = axis.faces or NOT_GIVEN
            self._choice("Motors look", (NOT_GIVEN, *FACES), stands, self._take_faces)
        self._choice("Homing is set", HOMINGS, axis.homing, self._take_homing)
        self._choice("No end", YES_NO, YES_NO[axis.endless], partial(self._take_flag, "endless"))
        self._choice("Upright", YES_NO, YES_NO[axis.vertical], partial(self._take_flag, "vertical"))
        for name, value in derived_facts(self.session.queries, self.id):
            self.card.row(name, value)

    def _choice(
        self, name: str, choices: tuple[str, ...], chosen: str, take: Callable[[str], object]
    ) -> None:
        self.card.row(name, self.card.choice(choices, chosen, take, name))

    def _field(self, name: str, text: str, take: Callable[[str], bool]) -> None:
        self.card.row(name, self.card.field(text, take, name))

    def _rename(self, new_id: str, name: str) -> bool:
        done = self.session.apply(
            f"{self.id} is now {new_id} {name}", lambda m: rename_axis(m, self.id, new_id, name)
        )
        if done:
            self.session.select(Selection(axis=new_id))
        return done

    def _number(self, words: str, field: str, value: float | None, unit: str) -> None:
        shown = f"{value:g} {unit}".strip() if value is not None else ""

        def take(text: str) -> bool:
            number, wrong = self._read(text, unit)
            if wrong:
                return False
            return self.session.apply(
                f"{words} of {self.id}: {text.strip() or NOT_GIVEN}",
                lambda m: set_axis_number(m, self.id, field, number),
            )

        box = self.card.field(shown, take, words)
        box.setPlaceholderText(NOT_GIVEN)
        self.card.row(words, box)

    def _read(self, text: str, unit: str) -> tuple[float | None, bool]:
        """A number in the axis's unit; (None, False) for an empty field, True where it is wrong."""
        from vervain.text.quantities import NotAQuantity, read_number_in

        if not text.strip():
            return None, False
        try:
            return read_number_in(text, unit), False
        except NotAQuantity as wrong:
            self.session.say(str(wrong))
            return None, True

    def _mechanism(self, axis: Axis) -> None:
        kinds = [kind.word for kind in MECHANISMS]
        kind = mechanism_kind(axis.mechanism) if axis.mechanism is not None else None
        chosen = kind.word if kind else NOT_GIVEN
        choices = (NOT_GIVEN, *kinds)
        self._choice("Moved by a", choices, chosen, self._take_mechanism)
        for field, words, unit in kind.numbers if kind else ():
            value = getattr(axis.mechanism, field)
            shown = f"{value:g} {unit}".strip() if value is not None else ""
            take = partial(self._take_mechanism_number, field, words, unit)
            box = self.card.field(shown, take, words)
            box.setPlaceholderText(NOT_GIVEN)
            self.card.row(words, box)

    def _take_mechanism(self, word: str) -> None:
        kind = next((kind for kind in MECHANISMS if kind.word == word), None)
        self.session.apply(
            f"{self.id} is moved by a {word}" if kind else f"What moves {self.id}: {NOT_GIVEN}",
            lambda m: set_mechanism(m, self.id, kind.example if kind else None),
        )

    def _take_mechanism_number(self, field: str, words: str, unit: str, text: str) -> bool:
        number, wrong = self._read(text, unit)
        if wrong:
            return False
        return self.session.apply(
            f"{words} of {self.id}: {text.strip() or NOT_GIVEN}",
            lambda m: set_mechanism_number(m, self.id, field, number),
        )

    def _take_end(self, text: str) -> None:
        end = text.split()[0]
        self.session.apply(
            f"Motors of {self.id} at the {text}",
            lambda m: set_axis_choice(m, self.id, pulls_at=end),
        )

    def _take_shaft(self, text: str) -> None:
        self.session.apply(
            f"Encoder of {self.id} turns with the {text}",
            lambda m: set_axis_choice(m, self.id, feedback_at=text),
        )

    def _take_faces(self, text: str) -> None:
        faces = text if text in FACES else ""
        self.session.apply(
            f"Motors of {self.id} look {text}", lambda m: set_axis_choice(m, self.id, faces=faces)
        )

    def _take_homing(self, text: str) -> None:
        self.session.apply(
            f"Homing of {self.id}: {text}", lambda m: set_axis_choice(m, self.id, homing=text)
        )

    def _take_flag(self, field: str, text: str) -> None:
        words = {"endless": "has no end", "vertical": "is upright"}[field]
        self.session.apply(
            f"{self.id} {words}: {text}",
            lambda m: set_axis_choice(m, self.id, **{field: text == "yes"}),
        )

    def _drivers(self, axis: Axis) -> list[tuple[str, Option]]:
        """The drivers of the axis's motors that have microsteps to set."""
        queries, found = self.session.queries, {}
        for motor in axis.drives:
            for driver in drivers_of(queries, motor):
                part = queries.part_of(driver)
                option = part.option("microsteps") if part else None
                if option is not None and option.choices:
                    found[driver] = option
        return list(found.items())

    def _microsteps(self, axis: Axis) -> None:
        """Microsteps of all drivers of the axis at once."""
        drivers = self._drivers(axis)
        if not drivers:
            return
        first, option = drivers[0]

        def take(text: str) -> None:
            def edit(machine: Machine) -> Machine:
                for driver, _ in drivers:
                    machine = set_setting(machine, driver, "microsteps", text)
                return machine

            named = ", ".join(driver for driver, _ in drivers)
            self.session.apply(f"Microsteps of {named}: {text}", edit)

        chosen = str(self.session.queries.setting(first, "microsteps"))
        self._choice("Microsteps", option.choices, chosen, take)
