"""What was seen at each step, and whether it still holds: results follow new names, and a step of
which an edit changed what it asks or expects is asked again, with the reason.
"""

import re
from collections.abc import Iterable, Mapping
from datetime import datetime
from functools import lru_cache
from typing import Literal, NamedTuple

from vervain.bench.step import BenchStep
from vervain.model.bench_result import BenchResult, Outcome
from vervain.model.subject import Subject
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

StepState = Literal["", "passed", "failed", "again"]


class StepResult(NamedTuple):
    """How a step stands, what was seen at it last, and why it is asked again."""

    state: StepState
    result: BenchResult | None = None
    reason: str = ""

    @property
    def words(self) -> str:
        """What came of it, in a cell: "passed, 23.9 V"; nothing where it is to be seen again."""
        if self.result is None or self.state == "again":
            return ""
        return ", ".join(filter(None, (self.state, self.result.seen)))


def make_result(
    queries: Queries,
    step: BenchStep,
    outcome: Outcome,
    seen: str = "",
    note: str = "",
    photos: tuple[str, ...] = (),
    now: datetime | None = None,
) -> BenchResult:
    """What was seen at a step, now, by the author of the machine, at its revision."""
    words, at = _without_names(queries, step)
    machine = queries.machine
    return BenchResult(
        step=words[0], at=at, do=words[1], see=words[2], outcome=outcome, seen=seen, note=note,
        photos=photos, time=(now or datetime.now()).isoformat(timespec="minutes"),
        by=machine.author, revision=machine.revision,
    )  # fmt: skip


def step_results(
    queries: Queries, steps: Iterable[BenchStep], before: Mapping[str, StepResult] | None = None
) -> dict[str, StepResult]:
    """How each step stands, by its id. What stood of the same steps `before` is taken over where
    its result is the same.
    """
    known = {result.name: result for result in queries.machine.bench_results}
    found: dict[str, StepResult] = {}
    for step in steps:
        result = known.get(step.id)
        if result is None:
            found[step.id] = StepResult("")
            continue
        earlier = before.get(step.id) if before is not None else None
        if earlier is not None and earlier.result is result:
            found[step.id] = earlier
            continue
        words, at = _without_names(queries, step)
        if (result.do, result.see, result.at) == (words[1], words[2], at):
            found[step.id] = StepResult(result.outcome, result)
        else:
            found[step.id] = StepResult("again", result, _reason(step, result))
    return found


def _reason(step: BenchStep, result: BenchResult) -> str:
    do, see = result.filled_in(result.do), result.filled_in(result.see)
    if see != step.see:
        return f"Then it was to see: {see}"
    return f"Then it was: {do}"


def _without_names(
    queries: Queries, step: BenchStep
) -> tuple[tuple[str, str, str], tuple[Subject, ...]]:
    """The name of a step, what to do and what to see, with {0}, {1} … for devices and axes, and
    those in this order. The plain name behind a designator is left out: it proves nothing.
    """
    names, axes = _names(queries)
    pattern, at = _pattern(axes), list[Subject]()

    def without(words: str) -> str:
        made, end = "", 0
        for found in pattern.finditer(words):
            name = found[0]
            if found.start() < end or (name not in names and name not in axes):
                continue
            subject = Subject(device=name) if name in names else Subject(axis=name)
            if subject not in at:
                at.append(subject)
            made += f"{words[end : found.start()]}{{{at.index(subject)}}}"
            plain = f" {names[name]}" if name in names else ""
            end = found.end() + (len(plain) if words.startswith(plain, found.end()) else 0)
        return made + words[end:]

    return (without(step.id), without(step.do), without(step.see)), tuple(at)


@query
def _names(queries: Queries) -> tuple[dict[str, str], tuple[str, ...]]:
    """Every device with its plain name, and every axis."""
    devices = (queries.device(name) for name in queries.devices())
    return {d.designator: d.name for d in devices if d is not None}, queries.axes()


@lru_cache(maxsize=4)
def _pattern(axes: tuple[str, ...]) -> re.Pattern[str]:
    """Finds single words, and axes whose names are more than one."""
    long = sorted((name for name in axes if not name.isalnum()), key=len, reverse=True)
    any_of = "|".join([*map(re.escape, long), r"\w+"])
    return re.compile(rf"(?<!\w)(?:{any_of})(?!\w)")
