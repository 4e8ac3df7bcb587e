"""Look-ups over a machine that remember what they were read from.

A query is a pure function of look-ups. Its answer is kept with the list of what it read; when the
machine moves on, only answers whose reads changed are worked out again, and an answer that comes
out equal stops the change from spreading. Rules are queries, so an edit re-runs only the rules
that it touched.
"""

from collections.abc import Callable, Hashable
from typing import Any, Concatenate, ParamSpec, TypeVar

from vervain.model.axis import Axis
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
from vervain.model.part import CablePart, Part, Pin, Port
from vervain.model.place import Allowances, Place, Run
from vervain.queries.index import Index, Net
from vervain.queries.step import Step

P = ParamSpec("P")
R = TypeVar("R")
Key = tuple[Any, ...]


class Answer:
    """A kept answer: its value, what it read, and when it last changed and was last checked."""

    __slots__ = ("changed_at", "checked_at", "reads", "value")

    def __init__(self, value: Any, reads: tuple[Key, ...], at: int) -> None:
        self.value = value
        self.reads = reads
        self.changed_at = at
        self.checked_at = at


# Each base fact by its name: how it is read from the index.
FACTS: dict[str, Callable[[Index, Any], Any]] = {
    "device": lambda index, key: index.devices.get(key),
    "part": lambda index, key: index.parts.get(key),
    "cable part": lambda index, key: index.cable_parts.get(key),
    "cable": lambda index, key: index.cables.get(key),
    "hookup": lambda index, key: index.hookups.get(key),
    "axis": lambda index, key: index.axes.get(key),
    "axis of": lambda index, key: index.axis_of_device.get(key),
    "hookups of": lambda index, key: index.hookups_of_device.get(key, ()),
    "hookups in": lambda index, key: index.hookups_of_cable.get(key, ()),
    "net": lambda index, key: index.net_of_pin.get(key),
    "steps": lambda index, key: index.steps_of_pin.get(key, ()),
    "rail": lambda index, key: index.rail_of_pin.get(key),
    "devices": lambda index, key: tuple(index.devices),
    "hookups": lambda index, key: tuple(index.hookups),
    "cables": lambda index, key: tuple(index.cables),
    "axes": lambda index, key: tuple(index.axes),
    "places": lambda index, key: index.machine.places,
    "runs": lambda index, key: index.machine.runs,
    "place": lambda index, key: index.places.get(key),
    "run": lambda index, key: index.runs.get(key),
    "allowances": lambda index, key: index.machine.allowances,
    "reels": lambda index, key: index.machine.reels,
    "alternates": lambda index, key: index.machine.alternates,
    "converters": lambda index, key: tuple(
        part for part in index.machine.parts if part.kind == "signal converter"
    ),
    "label templates": lambda index, key: index.machine.label_templates,
    "meter": lambda index, key: index.machine.meter,
    "ambient": lambda index, key: index.machine.ambient_c,
}


class Look:
    """The look-ups of one machine value, and the memory that carries over to the next."""

    def __init__(self, machine: Machine) -> None:
        self._index = Index(machine)
        self._at = 0
        self._ports_of: dict[int, tuple[Part, dict[str, Port]]] = {}
        self._facts: dict[Key, Any] = {}
        self._fact_changed_at: dict[Key, int] = {}
        self._answers: dict[Key, Answer] = {}
        self._readers: dict[Key, set[Key]] = {}
        self._doubtful: set[Key] = set()
        self._frames: list[dict[Key, None]] = []
        self.computed: list[Key] = []

    @property
    def machine(self) -> Machine:
        """The whole value. Queries and rules must not use it: it is not tracked."""
        return self._index.machine

    def move_to(self, machine: Machine) -> None:
        """Goes on to another machine value, keeping every answer that still holds."""
        if machine is self._index.machine:
            return
        self._index = Index(machine, before=self._index)
        self._at += 1
        waiting: list[Key] = []
        for key, old in self._facts.items():
            new = FACTS[key[0]](self._index, key[1])
            if new is not old and new != old:
                self._facts[key] = new
                self._fact_changed_at[key] = self._at
                waiting.append(key)
        self._index.forget_before()
        while waiting:
            for reader in self._readers.get(waiting.pop(), ()):
                if reader not in self._doubtful:
                    self._doubtful.add(reader)
                    waiting.append(reader)

    def _fact(self, name: str, key: Hashable = None) -> Any:
        full = (name, key)
        if self._frames:
            self._frames[-1][full] = None
        if full not in self._facts:
            self._facts[full] = FACTS[name](self._index, key)
            self._fact_changed_at[full] = self._at
        return self._facts[full]

    def ask(self, function: Callable[..., R], *arguments: Hashable) -> R:
        """The answer of a query, worked out only if something it read has changed."""
        key = (function, *arguments)
        if self._frames:
            self._frames[-1][key] = None
        answer = self._answers.get(key)
        if answer is None:
            return self._compute(key).value  # type: ignore[no-any-return]
        if key in self._doubtful:
            self._settle(key, answer)
            return self._answers[key].value  # type: ignore[no-any-return]
        return answer.value  # type: ignore[no-any-return]

    def _settle(self, key: Key, answer: Answer) -> None:
        for read in answer.reads:
            if read in self._fact_changed_at:
                changed = self._fact_changed_at[read] > answer.checked_at
            else:
                below = self._answers[read]
                if read in self._doubtful:
                    self._settle(read, below)
                    below = self._answers[read]
                changed = below.changed_at > answer.checked_at
            if changed:
                self._compute(key)
                return
        answer.checked_at = self._at
        self._doubtful.discard(key)

    def _compute(self, key: Key) -> Answer:
        frame: dict[Key, None] = {}
        self._frames.append(frame)
        try:
            value = key[0](self, *key[1:])
        finally:
            self._frames.pop()
        self.computed.append(key)
        old = self._answers.get(key)
        if old is not None:
            for read in old.reads:
                if read not in frame:
                    self._readers[read].discard(key)
        for read in frame:
            self._readers.setdefault(read, set()).add(key)
        answer = Answer(value, tuple(frame), self._at)
        if old is not None and old.value == value:
            answer.value = old.value
            answer.changed_at = old.changed_at
        self._answers[key] = answer
        self._doubtful.discard(key)
        return answer

    # The look-ups themselves; each returns None, or nothing, where there is no such thing.

    def device(self, designator: str) -> Device | None:
        return self._fact("device", designator)  # type: ignore[no-any-return]

    def part(self, part_id: str) -> Part | None:
        return self._fact("part", part_id)  # type: ignore[no-any-return]

    def cable_part(self, part_id: str) -> CablePart | None:
        return self._fact("cable part", part_id)  # type: ignore[no-any-return]

    def cable(self, cable_id: str) -> Cable | None:
        return self._fact("cable", cable_id)  # type: ignore[no-any-return]

    def hookup(self, hookup_id: str) -> Hookup | None:
        return self._fact("hookup", hookup_id)  # type: ignore[no-any-return]

    def axis(self, axis_id: str) -> Axis | None:
        return self._fact("axis", axis_id)  # type: ignore[no-any-return]

    def axis_of(self, designator: str) -> Axis | None:
        return self._fact("axis of", designator)  # type: ignore[no-any-return]

    def hookups_of(self, designator: str) -> tuple[Hookup, ...]:
        return self._fact("hookups of", designator)  # type: ignore[no-any-return]

    def hookups_in(self, cable_id: str) -> tuple[Hookup, ...]:
        return self._fact("hookups in", cable_id)  # type: ignore[no-any-return]

    def steps(self, pin: PinRef) -> tuple[Step, ...]:
        """Every conductor at a pin, seen from it."""
        return self._fact("steps", pin)  # type: ignore[no-any-return]

    def net(self, pin: PinRef) -> Net:
        """Pins joined to this one by conductors, connectors and strips; itself at least."""
        return self._fact("net", pin) or (pin,)

    def rail(self, pin: PinRef) -> Net:
        """As `net`, with every fuse whole and every contact closed."""
        return self._fact("rail", pin) or (pin,)

    def devices(self) -> tuple[str, ...]:
        return self._fact("devices")  # type: ignore[no-any-return]

    def hookups(self) -> tuple[str, ...]:
        return self._fact("hookups")  # type: ignore[no-any-return]

    def cables(self) -> tuple[str, ...]:
        return self._fact("cables")  # type: ignore[no-any-return]

    def axes(self) -> tuple[str, ...]:
        return self._fact("axes")  # type: ignore[no-any-return]

    def places(self) -> tuple[Place, ...]:
        return self._fact("places")  # type: ignore[no-any-return]

    def converters(self) -> tuple[Part, ...]:
        """The signal converters among the machine's parts."""
        return self._fact("converters")  # type: ignore[no-any-return]

    def runs(self) -> tuple[Run, ...]:
        return self._fact("runs")  # type: ignore[no-any-return]

    def place(self, place_id: str) -> Place | None:
        return self._fact("place", place_id)  # type: ignore[no-any-return]

    def run(self, run_id: str) -> Run | None:
        return self._fact("run", run_id)  # type: ignore[no-any-return]

    def allowances(self) -> Allowances:
        """What a cable gets beside its route."""
        return self._fact("allowances")  # type: ignore[no-any-return]

    def reels(self) -> tuple[Reel, ...]:
        """The reels and rests of cable that the builder has."""
        return self._fact("reels")  # type: ignore[no-any-return]

    def alternates(self) -> tuple[Alternate, ...]:
        return self._fact("alternates")  # type: ignore[no-any-return]

    def meter(self) -> Meter:
        return self._fact("meter")  # type: ignore[no-any-return]

    def ambient_c(self) -> float:
        """The temperature around the machine's cables."""
        return self._fact("ambient")  # type: ignore[no-any-return]

    def label_templates(self) -> LabelTemplates:
        return self._fact("label templates")  # type: ignore[no-any-return]

    # Combinations that nearly every query wants.

    def part_of(self, designator: str) -> Part | None:
        """The part of a device."""
        device = self.device(designator)
        return self.part(device.part) if device else None

    def port(self, ref: PortRef) -> Port | None:
        """The port that a reference names."""
        part = self.part_of(ref.device)
        if part is None:
            return None
        known = self._ports_of.get(id(part))
        if known is None:
            # The part is kept beside its ports, so that its id stays its own.
            known = self._ports_of[id(part)] = part, {port.id: port for port in part.ports}
        return known[1].get(ref.port)

    def pin(self, ref: PinRef) -> Pin | None:
        """The pin that a reference names."""
        port = self.port(ref.port_ref)
        return port.pin(ref.pin) if port else None

    def setting(
        self, designator: str, option_id: str, port: str | None = None
    ) -> SettingValue | None:
        """The value of an option of a device (of one port of it), else the part's default."""
        device = self.device(designator)
        if device is None:
            return None
        key = option_id if port is None else f"{option_id}/{port}"
        if key in device.settings:
            return device.settings[key]
        part = self.part(device.part)
        option = part.option(option_id) if part else None
        return option.default if option else None


def query(
    function: Callable[Concatenate[Look, P], R],
) -> Callable[Concatenate[Look, P], R]:
    """Makes a function of look-ups a kept query; its arguments must be hashable."""

    def asked(look: Look, /, *arguments: P.args, **keywords: P.kwargs) -> R:
        return look.ask(function, *arguments)

    asked.__name__ = function.__name__
    asked.__qualname__ = function.__qualname__
    asked.__doc__ = function.__doc__
    asked.__module__ = function.__module__
    return asked
