"""Random real edits: every public edit of the core, with arguments that fit it, or do not quite."""

import inspect
import random
from collections.abc import Callable
from typing import Any

from vervain.edits import (
    axis_edits,
    cable_edits,
    device_edits,
    feed_edits,
    hookup_edits,
    measurement_edits,
    note_edits,
    route_edits,
)
from vervain.files.part_files import shipped_shelf
from vervain.model.axis import Belt, Screw
from vervain.model.machine import (
    MAKING_STEPS,
    Acceptance,
    Conductor,
    LabelTemplates,
    Machine,
    PinRef,
    PortRef,
    Purchase,
)
from vervain.model.measurements import Meter, Reading, SeriesTest, Trial
from vervain.model.place import Chain
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.model.validation import checked
from vervain.ports import plugging
from vervain.supply import rewiring

NUMBERS = (0.0, 0.001, 0.5, 1.0, 2.5, 24.0, 90.0, 1000.0, 1e4, 1e9, -1.0, 1e308, 5e-324, 1e-9)
MODULES = (
    axis_edits, cable_edits, device_edits, feed_edits, hookup_edits, measurement_edits, note_edits,
    route_edits, plugging, rewiring,
)  # fmt: skip


def all_edits() -> tuple[Callable[..., Any], ...]:
    """The public functions of the core that take a machine first, and give one."""
    found = []
    for module in MODULES:
        for name, function in vars(module).items():
            if name.startswith(("_", "find_", "free_")) or not inspect.isfunction(function):
                continue
            first = next(iter(inspect.signature(function).parameters.values()), None)
            gives = str(function.__annotations__.get("return", ""))
            is_own = function.__module__ == module.__name__
            if is_own and first is not None and first.name == "machine" and "Machine" in gives:
                found.append(function)
    return tuple(dict.fromkeys(found))


class Arguments:
    """Makes arguments from the names that a machine holds."""

    def __init__(self, machine: Machine, chance: random.Random, texts: tuple[str, ...]) -> None:
        self.machine, self.chance, self.texts = machine, chance, texts
        self.parts = {part.id: part for part in machine.parts}

    def one_of(self, items: Any, otherwise: Any = None) -> Any:
        items = tuple(items)
        return self.chance.choice(items) if items else otherwise

    def port(self) -> PortRef:
        device = self.one_of(self.machine.devices)
        if device is None or device.part not in self.parts:
            return PortRef(device="M1", port="LEADS")
        port = self.one_of(self.parts[device.part].ports)
        return PortRef(device=device.designator, port=port.id if port else "X")

    def pin(self) -> PinRef:
        ref = self.port()
        device = next((d for d in self.machine.devices if d.designator == ref.device), None)
        part = self.parts.get(device.part) if device else None
        port = part.port(ref.port) if part else None
        pin = self.one_of(port.pins) if port else None
        return PinRef(device=ref.device, port=ref.port, pin=pin.id if pin else "1")

    def value(self, name: str, kind: str, edit: str) -> Any:
        """A value for a parameter of an edit, by its name, else by its type."""
        machine, chance = self.machine, self.chance
        if kind.startswith("<class 'str'") and chance.random() < 0.04:
            return chance.choice(self.texts)
        devices = [device.designator for device in machine.devices]
        places = [place.id for place in machine.places]
        number, text = chance.choice(NUMBERS), chance.choice((*self.texts, "a", "name", "M77"))
        conductor = Conductor(a=self.pin().pin, b=self.pin().pin, core=chance.choice((None, 1, 99)))
        names: dict[str, Any] = {
            "designator": devices, "near": devices, "place_id": places, "from_place": places,
            "axis_id": [axis.id for axis in machine.axes],
            "axis": [axis.id for axis in machine.axes],
            "cable_id": [cable.id for cable in machine.cables],
            "cable": [cable.id for cable in machine.cables],
            "run_id": [run.id for run in machine.runs],
            "hookup_id": [hookup.id for hookup in machine.hookups],
            "part_id": [part.id for part in machine.cable_parts],
            "old": [*devices, *(cable.id for cable in machine.cables), *places],
            "new": ["M77", "Q1", "K1", *places], "side": ["a", "b"],
            "key": ["rating_a", "current_peak_a", "microsteps", "JP1", "invert"],
            "field": [*axis_edits.NUMBERS] if edit == "set_axis_number" else ["lead_mm", "teeth"],
        }  # fmt: skip
        if name in names and ("str" in kind):
            return self.one_of(names[name], "X")
        if name in ("a", "b") and "str" in kind:
            return self.one_of(places, "bed")
        exact: dict[str, Any] = {
            "takes": {"idle": number}, "prices": {text: number},
            "purchases": {text: Purchase(supplier=text, number="7", pack=number)},
            "step": chance.choice(MAKING_STEPS), "pins": {"1": "2", "2": "1"},
            "lengths_m": (number, 2.0), "cores": (1, 99), "among": tuple(devices),
            "runs": tuple(run.id for run in machine.runs[:2]), "texts": (text, "b"),
            "finding": Acceptance(
                rule="supply.fuse", about=Subject(device=self.one_of(devices, "M1")), at=(
                    Subject(cable=text[:20]),
                ), detail=text, reason="r", day="2026-01-01",
            ),
            "option": None, "coils": (("1", "2"), (text, "4")), "rows": (conductor,),
            "conductors": (conductor,), "ports": (self.port(),), "additions": (),
            "meter": Meter(leads_ohm=number, motor_temperature_c=number),
            "reading": Reading(a="1", b=text, saw="ohms", resistance_ohm=number),
            "test": SeriesTest(first=("1", "2"), second=("3", text), saw="nothing"),
            "trial": Trial(order=("1", "2", text), saw="runs"),
            "templates": LabelTemplates(core=text),
            "chain": chance.choice((None, Chain(width_mm=number, height_mm=9, bend_radius_mm=5))),
            "mechanism": chance.choice((None, Screw(lead_mm=number), Belt(pitch_mm=2, teeth=20))),
            "role": chance.choice(("drive", "home", "brake", "also", "min_limit")),
            "spares": chance.choice(("", "insulated", "earthed")),
            "turned_deg": chance.choice((0, 90, 180, 270)),
            "value": number if "None" in kind else chance.choice((number, text, True)),
        }  # fmt: skip
        if name in exact:
            return exact[name]
        shelf = shipped_shelf()
        by_kind: tuple[tuple[str, Callable[[], Any]], ...] = (
            ("PortRef", self.port), ("PinRef", self.pin),
            ("CablePart", lambda: self.one_of(shelf.cable_parts.values())),
            ("Part", lambda: self.one_of(shelf.parts.values())),
            ("bool", lambda: chance.random() < 0.5), ("float", lambda: number),
            ("int", lambda: chance.choice((0, 1, 2, -1, 99, 10**9))),
        )  # fmt: skip
        return next((make() for key, make in by_kind if key in kind), text)

    def keywords(self, edit: str) -> dict[str, Any]:
        """One of the fields that an edit with open keywords takes."""
        chance, number = self.chance, self.chance.choice(NUMBERS)
        fields: dict[str, dict[str, Any]] = {
            "change_place": {"name": chance.choice(self.texts), "inside_m": number, "closed": True},
            "change_run": {"length_m": number, "moving": False, "entry": chance.choice(self.texts)},
            "set_allowances": {"loop_m": number, "step_m": number, "slack_ratio": number},
            "set_axis_choice": {"endless": True, "homing": "off", "motion": "rotary"},
        }
        field = chance.choice(tuple(fields[edit]))
        return {field: fields[edit][field]}


def random_step(machine: Machine, chance: random.Random, texts: tuple[str, ...]) -> Machine | None:
    """The machine after one random edit through the gate that every edit goes through; None where
    it was refused. Whatever else an edit raises is a fault.
    """
    function = chance.choice(all_edits())
    arguments = Arguments(machine, chance, texts)
    given: dict[str, Any] = {}
    for name, parameter in tuple(inspect.signature(function).parameters.items())[1:]:
        if parameter.kind is inspect.Parameter.VAR_KEYWORD:
            given |= arguments.keywords(function.__name__)
        elif parameter.default is inspect.Parameter.empty or chance.random() < 0.5:
            given[name] = arguments.value(name, str(parameter.annotation), function.__name__)
    try:
        result = function(machine, **given)
        return checked(machine, result[0] if isinstance(result, tuple) else result)
    except Problem:
        return None
