"""Dictionaries over one machine value, and the nets: pins joined without any resistance between.

Made from the index before, only what an edit touched is worked out anew; that is found by comparing
identities, for an edit keeps every record that it leaves alone.
"""

from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from functools import cached_property
from itertools import pairwise
from typing import Any, TypeVar

from vervain.model.axis import Axis
from vervain.model.cable_part import CablePart
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import Cable, Device, Hookup, Machine, PinRef, SettingValue, ends_of
from vervain.model.part import Part, is_fitted
from vervain.model.place import Place, Run
from vervain.queries.pole_changers import Commons, ContactOf, commons_of, pole_changers
from vervain.queries.step import Step
from vervain.queries.walk import reached

Net = tuple[PinRef, ...]
Joined = dict[PinRef, list[PinRef]]
K = TypeVar("K")


def differing(old: Mapping[K, Any], new: Mapping[K, Any]) -> frozenset[K]:
    """The keys whose values are not the very same in both."""
    if old is new:
        return frozenset()
    found = {key for key, value in new.items() if old.get(key) is not value}
    found.update(key for key in old if key not in new)
    return frozenset(found)


class Index:
    """What the look-ups read: built once for a machine value, in time linear in its size; from the
    index before, in time linear in what differs, but for a look at each record.
    """

    def __init__(self, machine: Machine, before: "Index | None" = None) -> None:
        self.machine = machine
        self._before = before
        self.parts: dict[str, Part] = {part.id: part for part in machine.parts}
        self.cable_parts: dict[str, CablePart] = {part.id: part for part in machine.cable_parts}
        self.devices: dict[str, Device] = {device.designator: device for device in machine.devices}
        self.hookups: dict[str, Hookup] = {hookup.id: hookup for hookup in machine.hookups}
        self.cables: dict[str, Cable] = {cable.id: cable for cable in machine.cables}
        self.places: dict[str, Place] = {place.id: place for place in machine.places}
        self.runs: dict[str, Run] = {run.id: run for run in machine.runs}
        self.axes: dict[str, Axis] = {axis.id: axis for axis in machine.axes}
        self.axis_of_device = {name: axis for axis in machine.axes for name in axis.members}
        # Of what was worked out from the index before, the keys that differ.
        self._changed: dict[str, frozenset[Any]] = {}

    def differs(self, before: "Index", name: str) -> frozenset[Any]:
        """The keys of a dictionary, by its name, that differ from those of another index."""
        old, new = getattr(before, name), getattr(self, name)
        if old is new:
            return frozenset()
        return self._changed[name] if name in self._changed else differing(old, new)

    def part_of(self, designator: str) -> Part | None:
        """The part of a device."""
        device = self.devices.get(designator)
        return self.parts.get(device.part) if device is not None else None

    def settings_of(self, designator: str) -> Mapping[str, SettingValue] | None:
        """What is set at a device."""
        device = self.devices.get(designator)
        return device.settings if device is not None else None

    def other_parts(self, before: "Index") -> frozenset[str]:
        """The devices that may be of another part than in another index."""
        found = differing(before.devices, self.devices)
        parts = differing(before.parts, self.parts)
        if parts:
            found |= {name for name, device in self.devices.items() if device.part in parts}
        return found

    @cached_property
    def _touched_hookups(self) -> tuple[Hookup, ...]:
        """The hookups that differ from those before, as they were and as they are."""
        if self._before is None:
            return ()
        names = differing(self._before.hookups, self.hookups)
        both = (self._before.hookups, self.hookups)
        return tuple(hookups[name] for hookups in both for name in names if name in hookups)

    @cached_property
    def hookups_of_device(self) -> dict[str, tuple[Hookup, ...]]:
        """The hookups of each device, in document order."""
        return self._grouped("hookups_of_device", lambda h: (h.a.device, h.b.device))

    @cached_property
    def hookups_of_cable(self) -> dict[str, tuple[Hookup, ...]]:
        """The hookups in each cable, in document order."""
        return self._grouped("hookups_of_cable", lambda h: (h.cable,) if h.cable else ())

    def _grouped(
        self, name: str, keys: Callable[[Hookup], Iterable[str]]
    ) -> dict[str, tuple[Hookup, ...]]:
        known: dict[str, tuple[Hookup, ...]] | None = self._known(name)
        if known is None:
            return _by(self.machine.hookups, keys)
        touched = {key for hookup in self._touched_hookups for key in keys(hookup)}
        if not touched:
            return known
        anew = _by((h for h in self.machine.hookups if not touched.isdisjoint(keys(h))), keys)
        return self._with(name, known, touched, anew)

    def _known(self, name: str) -> Any:
        """What the index before had worked out of a name; None where nobody asked it."""
        return self._before.__dict__.get(name) if self._before is not None else None

    @cached_property
    def steps_of_pin(self) -> dict[PinRef, tuple[Step, ...]]:
        """Every conductor by each pin that it ends at, seen from that pin."""
        known: dict[PinRef, tuple[Step, ...]] | None = self._known("steps_of_pin")
        if known is None:
            return _steps(self.machine.hookups)
        touched = _pins_of(self._touched_hookups)
        if not touched:
            return known
        devices = {pin.device for pin in touched}
        near = [h for h in self.machine.hookups if {h.a.device, h.b.device} & devices]
        return self._with("steps_of_pin", known, touched, _steps(near))

    @cached_property
    def net_of_pin(self) -> dict[PinRef, Net]:
        """The net of every pin that anything is joined to: only copper between its members."""
        return self._groups("net_of_pin", through_switches=False)

    @cached_property
    def rail_of_pin(self) -> dict[PinRef, Net]:
        """As `net_of_pin`, with every fuse whole and every contact closed."""
        return self._groups("rail_of_pin", through_switches=True)

    @cached_property
    def _commons(self) -> dict[str, Commons]:
        """The commons of contacts with several throws, by the part that has any."""
        known: dict[str, Commons] = self._known("_commons") or {}
        same = self._before.parts if self._before is not None else {}
        found = {
            name: known.get(name, {}) if same.get(name) is part else commons_of(part)
            for name, part in self.parts.items()
        }
        return {name: commons for name, commons in found.items() if commons}

    @cached_property
    def pole_changers(self) -> frozenset[ContactOf]:
        """The contacts whose common is at the plus or at the 0 V of one source."""
        return pole_changers(
            self.machine.devices, self.parts, self._commons, self.steps_of_pin,
            lambda device, left_out: self.inside(device, True, left_out),
        )  # fmt: skip

    @cached_property
    def _poles_of_device(self) -> dict[str, frozenset[int]]:
        found: dict[str, set[int]] = {}
        for name, place in self.pole_changers:
            found.setdefault(name, set()).add(place)
        return {name: frozenset(places) for name, places in found.items()}

    def forget_before(self) -> None:
        """Lets go of the index before, once everything that is compared with it was compared."""
        # What nobody asked of it yet is worked out from the whole machine when somebody does.
        self._before = None

    def inside(
        self, device: Device, through_switches: bool, left_out: Collection[int] | None = None
    ) -> Joined:
        """What a device joins of its own pins; of its contacts not those that are left out, by
        their places, else not those that change poles.
        """
        found: Joined = {}
        part = self.parts.get(device.part)
        if through_switches and left_out is None:
            left_out = self._poles_of_device.get(device.designator)
        for place, element in enumerate(part.inside if part else ()):
            closes = through_switches and isinstance(element, Contact | Fuse)
            closes = closes and place not in (left_out or ())
            bridges = isinstance(element, Bridge) and is_fitted(element, part, device.settings)
            if bridges or closes:
                pins = [
                    PinRef(device=device.designator, port=port, pin=pin)
                    for port, pin in element.pins
                ]
                for a, b in pairwise(pins):
                    found.setdefault(a, []).append(b)
                    found.setdefault(b, []).append(a)
        return found

    def _groups(self, name: str, through_switches: bool) -> dict[PinRef, Net]:
        known: dict[PinRef, Net] | None = self._known(name)
        inside: dict[str, Joined] = {}

        def neighbours(pin: PinRef) -> list[PinRef]:
            if pin.device not in inside:
                device = self.devices.get(pin.device)
                inside[pin.device] = self.inside(device, through_switches) if device else {}
            ends = [step.end for step in self.steps_of_pin.get(pin, ())]
            return ends + inside[pin.device].get(pin, [])

        if known is None:
            starts = dict.fromkeys(self.steps_of_pin)
            for device in self.machine.devices:
                starts |= dict.fromkeys(self.inside(device, through_switches))
            return _connected(starts, neighbours, {})
        assert self._before is not None
        touched = _pins_of(self._touched_hookups)
        touched.update(self._before.rejoined(self, through_switches))
        if not touched:
            return known
        # What is joined now was in the group of a pin that is touched, or is one.
        starts = dict.fromkeys(touched)
        for pin in touched:
            starts |= dict.fromkeys(known.get(pin, ()))
        return self._with(name, known, starts, _connected(starts, neighbours, known))

    def _with(
        self, name: str, known: Mapping[K, Any], touched: Iterable[K], anew: Mapping[K, Any]
    ) -> dict[K, Any]:
        """What is known, with what is touched as it is anew; what is equal stays the very same."""
        found, changed = dict(known), set()
        for key in touched:
            value, old = anew.get(key), known.get(key)
            if value == old:
                continue
            changed.add(key)
            if value is None:
                del found[key]
            else:
                found[key] = value
        self._changed[name] = frozenset(changed)
        return found

    def rejoined(self, after: "Index", through_switches: bool) -> set[PinRef]:
        """The pins of devices that do not join their own pins as in the index after."""
        found: set[PinRef] = set()
        parts = differing(self.parts, after.parts)
        old_devices = self.devices
        # A wire elsewhere may make a contact one that changes poles.
        others = self.pole_changers ^ after.pole_changers if through_switches else frozenset()
        changing = {name for name, _ in others}
        names = (
            old_devices.keys() | after.devices.keys()
            if parts
            else differing(old_devices, after.devices)
        )
        for name in names | changing:
            old, new = old_devices.get(name), after.devices.get(name)
            is_settled = new is not None and new.part not in parts and name not in changing
            if old is not None and new is not None and is_settled:
                is_alike = (old.part, old.settings) == (new.part, new.settings)
                if is_alike:
                    continue
            before = self.inside(old, through_switches) if old else {}
            now = after.inside(new, through_switches) if new else {}
            if before != now:
                found.update(before, now)
        return found


def _by(
    hookups: Iterable[Hookup], keys: Callable[[Hookup], Iterable[str]]
) -> dict[str, tuple[Hookup, ...]]:
    found: dict[str, dict[str, Hookup]] = {}
    for hookup in hookups:
        for key in keys(hookup):
            found.setdefault(key, {})[hookup.id] = hookup
    return {key: tuple(by_id.values()) for key, by_id in found.items()}


def _steps(hookups: Sequence[Hookup]) -> dict[PinRef, tuple[Step, ...]]:
    found: dict[PinRef, list[Step]] = {}
    for hookup in hookups:
        for conductor in hookup.conductors:
            a, b = ends_of(hookup, conductor)
            for start, end in ((a, b), (b, a)):
                step = Step(start=start, end=end, hookup=hookup.id, conductor=conductor)
                found.setdefault(start, []).append(step)
    return {pin: tuple(steps) for pin, steps in found.items()}


def _pins_of(hookups: Iterable[Hookup]) -> set[PinRef]:
    """Every pin that a conductor of some hookups ends at."""
    return {
        pin for hookup in hookups for conductor in hookup.conductors
        for pin in ends_of(hookup, conductor)
    }  # fmt: skip


def _connected(
    starts: Iterable[PinRef],
    neighbours: Callable[[PinRef], Iterable[PinRef]],
    known: Mapping[PinRef, Net],
) -> dict[PinRef, Net]:
    """Connected groups of the pins that are joined to anything. A group that did not change keeps
    the tuple it had before, so that comparing groups is comparing identities.
    """
    groups: dict[PinRef, Net] = {}
    for start in starts:
        if start in groups or not neighbours(start):
            continue
        seen = reached([start], neighbours)
        members = tuple(sorted(seen, key=lambda pin: (pin.device, pin.port, pin.pin)))
        old = known.get(members[0])
        group = old if old == members else members
        for pin in group:
            groups[pin] = group
    return groups
