"""In which order coils follow what their ends call for: together, one by one, each in its time."""

from collections.abc import Callable, Mapping
from typing import Literal

from vervain.stops.circuit import CoilTimes, Worker, worker_order

# The coils that hold, given those that held and those that their ends call for.
Follow = Callable[[frozenset[Worker], frozenset[Worker]], frozenset[Worker]]


def together(_coils: frozenset[Worker], wanted: frozenset[Worker]) -> frozenset[Worker]:
    """Every coil follows at once."""
    return wanted


def one_by_one(place: Literal[0, -1]) -> Follow:
    """One coil after the other, the first or the last of those that differ."""

    def follow(coils: frozenset[Worker], wanted: frozenset[Worker]) -> frozenset[Worker]:
        differ = sorted(coils ^ wanted, key=worker_order)
        return coils ^ {differ[place]} if differ else wanted

    return follow


class Clock:
    """Every coil follows in its own time; `passed_s` is when the last of them moved."""

    def __init__(self, times: Mapping[Worker, CoilTimes]) -> None:
        self.times = times
        self.passed_s = 0.0
        self._due: dict[Worker, float] = {}

    def __call__(self, coils: frozenset[Worker], wanted: frozenset[Worker]) -> frozenset[Worker]:
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

    def _takes_s(self, ref: Worker, is_on: bool) -> float:
        times = self.times.get(ref, CoilTimes(0.0, 0.0))
        return times.operate_s if is_on else times.release_s
