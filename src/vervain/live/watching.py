"""Whether the lamps of a controller do what a step of the bench expects, and nothing else."""

from collections import deque
from typing import Literal, NamedTuple

from vervain.bench.step import BenchStep
from vervain.live.controller_link import Sample

# So long an expected change has to stand alone before it counts; so many changes of one lamp in
# this time are a contact that bounces, or a lead that is loose.
ALONE_S, BOUNCE_S, BOUNCES = 0.3, 0.4, 4
# What was wrong is forgotten once nothing has changed for so long: the next try counts.
FORGET_S = 2.0
# What is drawn of the past of a lamp.
KEPT_S = 10.0
# Over which time the rate of a number is taken.
RATE_S = 1.0

WatchState = Literal["waiting", "passed", "wrong"]


class Watched(NamedTuple):
    """What was seen so far, in words."""

    state: WatchState
    words: str = ""


class Change(NamedTuple):
    """A lamp that changed: when, which, to what."""

    time_s: float
    port: str
    is_lit: bool


class LampHistory:
    """The lamps of one controller over the last seconds."""

    def __init__(self) -> None:
        self.lamps: dict[str, bool] = {}
        self.numbers: dict[str, float] = {}
        self.now_s = 0.0
        self.changes: deque[Change] = deque()
        self._past: deque[tuple[float, dict[str, float]]] = deque()

    def take(self, sample: Sample) -> None:
        """Takes the next sample."""
        for port, is_lit in sample.lamps.items():
            if port in self.lamps and self.lamps[port] != is_lit:
                self.changes.append(Change(sample.time_s, port, is_lit))
        self.lamps, self.numbers, self.now_s = dict(sample.lamps), sample.numbers, sample.time_s
        self._past.append((sample.time_s, sample.numbers))
        while self._past[0][0] < self.now_s - RATE_S:
            self._past.popleft()
        while self.changes and self.changes[0].time_s < self.now_s - KEPT_S:
            self.changes.popleft()

    def rate(self, port: str) -> float:
        """How fast a number changes now, in its unit a second."""
        first_s, numbers = self._past[0] if self._past else (self.now_s, {})
        passed_s = self.now_s - first_s
        if passed_s <= 0 or port not in numbers or port not in self.numbers:
            return 0.0
        return (self.numbers[port] - numbers[port]) / passed_s

    def trace(self, port: str) -> list[tuple[float, bool]]:
        """How a lamp was in the last seconds: how long ago it became so, the oldest first."""
        mine = [change for change in self.changes if change.port == port]
        first = not mine[0].is_lit if mine else self.lamps.get(port, False)
        return [(KEPT_S, first), *((self.now_s - c.time_s, c.is_lit) for c in mine)]


class LampWatch:
    """Watches one step at one controller, from when it was chosen. Only lamps of ports that
    something is joined to count; outputs do not.
    """

    def __init__(self, step: BenchStep, device: str, counting: frozenset[str]) -> None:
        self.expected = {
            change.port.port: change.does for change in step.lamps if change.port.device == device
        }
        self.counting = counting | self.expected.keys()
        self.since_s: float | None = None
        self.seen: list[Change] = []
        self._told = ""

    def look(self, history: LampHistory) -> Watched:
        """What was seen by now."""
        if self.since_s is None:
            self.since_s = history.now_s
        after = self.seen[-1].time_s if self.seen else self.since_s
        self.seen += [c for c in history.changes if c.time_s > after and c.port in self.counting]
        judged = self._judged(history.now_s)
        if judged.state == "wrong":
            self._told = judged.words
            if history.now_s - self.seen[-1].time_s >= FORGET_S:
                self.seen, self.since_s = [], history.now_s
        elif judged.state == "waiting" and not judged.words:
            # What was wrong stays to be read.
            return judged._replace(words=self._told)
        return judged

    def _judged(self, now_s: float) -> Watched:
        if not self.seen:
            return Watched("waiting")
        bouncing = self._bouncing()
        if bouncing:
            return Watched("wrong", f"{bouncing} bounces: a loose lead, or a worn contact")
        # What is worked and let go goes to and fro: the first change of each lamp counts.
        first: dict[str, Change] = {}
        for change in self.seen:
            first.setdefault(change.port, change)
        others = [port for port in first if port not in self.expected]
        mine = {port: change for port, change in first.items() if port in self.expected}
        if others and mine:
            return Watched("wrong", f"{', '.join(others)} changed as well")
        if others:
            return Watched("wrong", f"{', '.join(others)} changed instead")
        ways = {port: "comes on" if c.is_lit else "goes out" for port, c in mine.items()}
        wrong = [p for p, way in ways.items() if self.expected[p] not in ("changes", way)]
        if wrong:
            return Watched("wrong", f"{wrong[0]} {ways[wrong[0]]}")
        alone_s = now_s - max(change.time_s for change in mine.values())
        if mine.keys() == self.expected.keys() and alone_s >= ALONE_S:
            return Watched("passed", ", ".join(f"{port} {way}" for port, way in ways.items()))
        return Watched("waiting", ", ".join(f"{port} {way}" for port, way in ways.items()))

    def _bouncing(self) -> str:
        """A lamp that changed too often in too short a time."""
        for port in dict.fromkeys(change.port for change in self.seen):
            times = [change.time_s for change in self.seen if change.port == port]
            for first, last in zip(times, times[BOUNCES - 1 :], strict=False):
                if last - first <= BOUNCE_S:
                    return port
        return ""
