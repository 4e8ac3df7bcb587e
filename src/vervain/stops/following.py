"""In which order coils follow what their ends call for: together, one by one, each in its time."""

from collections.abc import Callable, Mapping
from typing import Literal

from vervain.model.machine import PortRef
from vervain.stops.circuit import CoilTimes

# The coils that hold, given those that held and those that their ends call for.
Follow = Callable[[frozenset[PortRef], frozenset[PortRef]], frozenset[PortRef]]


def together(_coils: frozenset[PortRef], wanted: frozenset[PortRef]) -> frozenset[PortRef]:
    """Every coil follows at once."""
    return wanted


def one_by_one(place: Literal[0, -1]) -> Follow:
    """One coil after the other, the first or the last of those that differ."""

    def follow(coils: frozenset[PortRef], wanted: frozenset[PortRef]) -> frozenset[PortRef]:
        differ = sorted(coils ^ wanted, key=lambda ref: (ref.device, ref.port))
        return coils ^ {differ[place]} if differ else wanted

    return follow


class Clock:
    """Every coil follows in its own time; `passed_s` is when the last of them moved."""

    def __init__(self, times: Mapping[PortRef, CoilTimes]) -> None:
        self.times = times
        self.passed_s = 0.0
        self._due: dict[PortRef, float] = {}

    def __call__(self, coils: frozenset[PortRef], wanted: frozenset[PortRef]) -> frozenset[PortRef]:
        """The coils after the next of those that differ has moved."""
        differ = coils ^ wanted
        self._due = {
            ref: self._due.get(ref, self.passed_s + self._takes_s(ref, ref in wanted))
            for ref in differ
        }
        if not differ:
            return wanted
        self.passed_s = min(self._due.values())
        return coils ^ {ref for ref in differ if self._due[ref] == self.passed_s}

    def _takes_s(self, ref: PortRef, is_on: bool) -> float:
        times = self.times.get(ref, CoilTimes(0.0, 0.0))
        return times.operate_s if is_on else times.release_s
