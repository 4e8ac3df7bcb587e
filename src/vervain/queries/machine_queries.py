"""Look-ups over a machine, on the memory of answers in `engine`.

Rules are queries, so an edit re-runs only the rules that it touched. Queries and rules must only
use the look-ups of the `Queries` that they are given.
"""

from collections.abc import Callable, Mapping
from typing import Any

from vervain.data import tables_version
from vervain.model.axis import Axis
from vervain.model.cable_part import CablePart
from vervain.model.machine import (
    Alternate,
    Cable,
    Device,
    Hookup,
    LabelTemplates,
    Machine,
    PinRef,
    PortRef,
    Reel,
    SettingValue,
)
from vervain.model.measurements import Meter
from vervain.model.part import Part, Pin, Port
from vervain.model.place import Allowances, Place, Run
from vervain.queries.engine import Database, Input
from vervain.queries.index import Index, Net
from vervain.queries.pole_changers import ContactOf
from vervain.queries.step import Step


def _differs(name: str) -> Callable[[Index, Index], frozenset[Any]]:
    """What of a dictionary of the index differs between two of them."""
    return lambda before, after: after.differs(before, name)


DEVICE: Input[Index, str, Device | None] = Input(
    "device",
    lambda index, key: index.devices.get(key),
    _differs("devices"),
)
PART: Input[Index, str, Part | None] = Input(
    "part", lambda index, key: index.parts.get(key), _differs("parts")
)
CABLE_PART: Input[Index, str, CablePart | None] = Input(
    "cable part",
    lambda index, key: index.cable_parts.get(key),
    _differs("cable_parts"),
)
CABLE: Input[Index, str, Cable | None] = Input(
    "cable", lambda index, key: index.cables.get(key), _differs("cables")
)
HOOKUP: Input[Index, str, Hookup | None] = Input(
    "hookup",
    lambda index, key: index.hookups.get(key),
    _differs("hookups"),
)
AXIS: Input[Index, str, Axis | None] = Input(
    "axis", lambda index, key: index.axes.get(key), _differs("axes")
)
AXIS_OF: Input[Index, str, Axis | None] = Input(
    "axis of",
    lambda index, key: index.axis_of_device.get(key),
    _differs("axis_of_device"),
)
HOOKUPS_OF: Input[Index, str, tuple[Hookup, ...]] = Input(
    "hookups of",
    lambda index, key: index.hookups_of_device.get(key, ()),
    _differs("hookups_of_device"),
)
HOOKUPS_IN: Input[Index, str, tuple[Hookup, ...]] = Input(
    "hookups in",
    lambda index, key: index.hookups_of_cable.get(key, ()),
    _differs("hookups_of_cable"),
)
NET: Input[Index, PinRef, Net | None] = Input(
    "net",
    lambda index, key: index.net_of_pin.get(key),
    _differs("net_of_pin"),
)
STEPS: Input[Index, PinRef, tuple[Step, ...]] = Input(
    "steps",
    lambda index, key: index.steps_of_pin.get(key, ()),
    _differs("steps_of_pin"),
)
RAIL: Input[Index, PinRef, Net | None] = Input(
    "rail",
    lambda index, key: index.rail_of_pin.get(key),
    _differs("rail_of_pin"),
)
POLES: Input[Index, None, frozenset[ContactOf]] = Input(
    "contacts that change poles", lambda index, _: index.pole_changers
)
# Of a device alone, so that another name of it touches nobody who asks only for these.
PART_OF: Input[Index, str, Part | None] = Input(
    "part of", lambda index, key: index.part_of(key), lambda old, new: new.other_parts(old)
)
SETTINGS: Input[Index, str, Mapping[str, SettingValue] | None] = Input(
    "settings", lambda index, key: index.settings_of(key), _differs("devices")
)
DEVICES: Input[Index, None, tuple[str, ...]] = Input(
    "devices", lambda index, _: tuple(index.devices)
)
HOOKUPS: Input[Index, None, tuple[str, ...]] = Input(
    "hookups", lambda index, _: tuple(index.hookups)
)
CABLES: Input[Index, None, tuple[str, ...]] = Input("cables", lambda index, _: tuple(index.cables))
AXES: Input[Index, None, tuple[str, ...]] = Input("axes", lambda index, _: tuple(index.axes))
PLACES: Input[Index, None, tuple[Place, ...]] = Input(
    "places", lambda index, _: index.machine.places
)
RUNS: Input[Index, None, tuple[Run, ...]] = Input("runs", lambda index, _: index.machine.runs)
PLACE: Input[Index, str, Place | None] = Input(
    "place", lambda index, key: index.places.get(key), _differs("places")
)
RUN: Input[Index, str, Run | None] = Input(
    "run", lambda index, key: index.runs.get(key), _differs("runs")
)
ALLOWANCES: Input[Index, None, Allowances] = Input(
    "allowances", lambda index, _: index.machine.allowances
)
REELS: Input[Index, None, tuple[Reel, ...]] = Input("reels", lambda index, _: index.machine.reels)
ALTERNATES: Input[Index, None, tuple[Alternate, ...]] = Input(
    "alternates", lambda index, _: index.machine.alternates
)
CONVERTERS: Input[Index, None, tuple[Part, ...]] = Input(
    "converters",
    lambda index, _: tuple(part for part in index.machine.parts if part.kind == "signal converter"),
)
LABEL_TEMPLATES: Input[Index, None, LabelTemplates] = Input(
    "label templates", lambda index, _: index.machine.label_templates
)
METER: Input[Index, None, Meter] = Input("meter", lambda index, _: index.machine.meter)
AMBIENT: Input[Index, None, float] = Input("ambient", lambda index, _: index.machine.ambient_c)


class Queries(Database[Index]):
    """The look-ups of one machine value, and the memory that carries over to the next."""

    def __init__(self, machine: Machine) -> None:
        super().__init__(Index(machine))
        self._ports_of: dict[int, tuple[Part, dict[str, tuple[Port, dict[str, Pin]]]]] = {}
        self._tables = tables_version()

    @property
    def machine(self) -> Machine:
        """The whole value. Queries and rules must not use it: it is not tracked."""
        return self._source.machine

    def move_to(self, machine: Machine) -> None:
        """Goes on to another machine value, keeping every answer that still holds. Where a table
        was replaced meanwhile, none does.
        """
        if self._tables != tables_version():
            self._tables = tables_version()
            self.forget_all()
        if machine is self._source.machine:
            return
        index = Index(machine, before=self._source)
        if len(self._ports_of) > 2 * len(machine.parts) + 50:
            self._ports_of.clear()
        self._move(index)
        index.forget_before()

    # The look-ups themselves; each returns None, or nothing, where there is no such thing.

    def device(self, designator: str) -> Device | None:
        return self._read(DEVICE, designator)

    def part(self, part_id: str) -> Part | None:
        return self._read(PART, part_id)

    def cable_part(self, part_id: str) -> CablePart | None:
        return self._read(CABLE_PART, part_id)

    def cable(self, cable_id: str) -> Cable | None:
        return self._read(CABLE, cable_id)

    def hookup(self, hookup_id: str) -> Hookup | None:
        return self._read(HOOKUP, hookup_id)

    def axis(self, axis_id: str) -> Axis | None:
        return self._read(AXIS, axis_id)

    def axis_of(self, designator: str) -> Axis | None:
        return self._read(AXIS_OF, designator)

    def hookups_of(self, designator: str) -> tuple[Hookup, ...]:
        return self._read(HOOKUPS_OF, designator)

    def hookups_in(self, cable_id: str) -> tuple[Hookup, ...]:
        return self._read(HOOKUPS_IN, cable_id)

    def steps(self, pin: PinRef) -> tuple[Step, ...]:
        """Every conductor at a pin, seen from it."""
        return self._read(STEPS, pin)

    def net(self, pin: PinRef) -> Net:
        """Pins joined to this one by conductors, connectors and strips; itself at least."""
        return self._read(NET, pin) or (pin,)

    def rail(self, pin: PinRef) -> Net:
        """As `net`, with every fuse whole and every contact closed, but those that change poles."""
        return self._read(RAIL, pin) or (pin,)

    def pole_changers(self) -> frozenset[ContactOf]:
        """The contacts that change poles, by their device and their place inside that."""
        return self._read(POLES, None)

    def devices(self) -> tuple[str, ...]:
        return self._read(DEVICES, None)

    def hookups(self) -> tuple[str, ...]:
        return self._read(HOOKUPS, None)

    def cables(self) -> tuple[str, ...]:
        return self._read(CABLES, None)

    def axes(self) -> tuple[str, ...]:
        return self._read(AXES, None)

    def places(self) -> tuple[Place, ...]:
        return self._read(PLACES, None)

    def converters(self) -> tuple[Part, ...]:
        """The signal converters among the machine's parts."""
        return self._read(CONVERTERS, None)

    def runs(self) -> tuple[Run, ...]:
        return self._read(RUNS, None)

    def place(self, place_id: str) -> Place | None:
        return self._read(PLACE, place_id)

    def run(self, run_id: str) -> Run | None:
        return self._read(RUN, run_id)

    def allowances(self) -> Allowances:
        """What a cable gets beside its route."""
        return self._read(ALLOWANCES, None)

    def reels(self) -> tuple[Reel, ...]:
        """The reels and rests of cable that the builder has."""
        return self._read(REELS, None)

    def alternates(self) -> tuple[Alternate, ...]:
        return self._read(ALTERNATES, None)

    def meter(self) -> Meter:
        return self._read(METER, None)

    def ambient_c(self) -> float:
        """The temperature around the machine's cables."""
        return self._read(AMBIENT, None)

    def label_templates(self) -> LabelTemplates:
        return self._read(LABEL_TEMPLATES, None)

    # Combinations that nearly every query wants.

    def part_of(self, designator: str) -> Part | None:
        """The part of a device."""
        return self._read(PART_OF, designator)

    def port(self, ref: PortRef) -> Port | None:
        """The port that a reference names."""
        found = self._port_and_pins(ref.device, ref.port)
        return found[0] if found else None

    def pin(self, ref: PinRef) -> Pin | None:
        """The pin that a reference names."""
        found = self._port_and_pins(ref.device, ref.port)
        return found[1].get(ref.pin) if found else None

    def _port_and_pins(self, device: str, port: str) -> tuple[Port, dict[str, Pin]] | None:
        part = self.part_of(device)
        if part is None:
            return None
        known = self._ports_of.get(id(part))
        if known is None:
            ports = {p.id: (p, {pin.id: pin for pin in reversed(p.pins)}) for p in part.ports}
            # The part is kept beside its ports, so that its id stays its own.
            known = self._ports_of[id(part)] = part, ports
        return known[1].get(port)

    def settings(self, designator: str) -> Mapping[str, SettingValue]:
        """What is set at a device; nothing where there is no such device."""
        return self._read(SETTINGS, designator) or {}

    def setting(
        self, designator: str, option_id: str, port: str | None = None
    ) -> SettingValue | None:
        """The value of an option of a device (of one port of it), else the part's default."""
        settings = self._read(SETTINGS, designator)
        if settings is None:
            return None
        key = option_id if port is None else f"{option_id}/{port}"
        if key in settings:
            return settings[key]
        part = self.part_of(designator)
        option = part.option(option_id) if part else None
        return option.default if option else None
