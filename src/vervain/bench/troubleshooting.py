"""From a symptom to its cause: which measurement parts the causes that are left best.

A measurement at one point of the way tells on which side of it the fault is. Of those that were not
made yet the one is asked for whose answer tells most for its time: the entropy of the weights on
both sides, H = -p log2 p - (1 - p) log2 (1 - p), over the minutes that it takes.
"""

from collections.abc import Iterable, Iterator
from math import log2
from typing import Literal

from vervain.bench.cause_table import Symptom, trouble_table
from vervain.bench.causes import Cause, Side, host_of
from vervain.bench.step import BenchStep
from vervain.model.base import Record
from vervain.queries.machine_queries import Queries
from vervain.supply.results import delivered_power
from vervain.text.units import volts_words

Answer = Literal["good", "bad"]
READING = (
    "input", "contact", "input-still", "input-flickers", "counts", "counts-wrong", "agree", "wheel",
)  # fmt: skip
CONTACTS = ("switch", "emergency stop")
MOVING = ("lock", "still", "direction", "buzzes", "wrong-way", "distance", "loses-steps")
SWITCHING = ("output", "output-still")
PLUG_TIME_MIN, METER_TIME_MIN = 1.0, 2.0


class Split(Record, frozen=True, kw_only=True):
    """A measurement: what to do, what is as it should be, and on which sides the fault can still be
    when it is so (`good`) and when it is not (`bad`).
    """

    id: str
    do: str
    see: str
    good: tuple[Side, ...]
    bad: tuple[Side, ...]
    time_min: float = PLUG_TIME_MIN

    def leaves(self, answer: Answer) -> tuple[Side, ...]:
        """The sides on which the fault can be after an answer."""
        return self.good if answer == "good" else self.bad


def symptoms_of(queries: Queries, device: str) -> tuple[Symptom, ...]:
    """What can be seen of a device that does not work."""
    part = queries.part_of(device)
    kind = part.kind if part is not None else ""
    found = (item for item in trouble_table().symptom if kind in item.parts)
    return tuple(
        item for item in found
        if item.like != "input" or host_of(queries, symptom_step(queries, item, device)) is not None
    )  # fmt: skip


def symptom_step(
    queries: Queries, symptom: Symptom, device: str, steps: Iterable[BenchStep] = ()
) -> BenchStep:
    """A symptom as a step of the bench that failed: it looks where the step looks that proves the
    same of the device.
    """
    like = next((s for s in steps if s.kind == symptom.like and s.device == device), None)
    named = queries.device(device)
    return BenchStep(
        id=f"{symptom.id} {device}", device=device, do=f"{device} {named.name if named else ''}",
        see=symptom.words, why="", port=like.port if like else None,
        reads=like.reads if like else None, place=like.place if like else "",
    )  # fmt: skip


def splits(queries: Queries, step: BenchStep) -> tuple[Split, ...]:
    """The measurements that part the causes of a step."""
    return tuple(_splits(queries, step))


def _splits(queries: Queries, step: BenchStep) -> Iterator[Split]:
    host, device = host_of(queries, step), step.device
    at = f"{host.device} {host.port}" if host is not None else ""
    fed = next((r for r in delivered_power(queries, "idle") if r.pin.device == device), None)
    if fed is not None:
        yield Split(
            id="fed", do=f"Volts at the plug of {device}, plugged",
            see=volts_words(fed.least_v, fed.most_v), good=("", "device", "way", "host"),
            bad=("", "feed"), time_min=METER_TIME_MIN,
        )  # fmt: skip
    if host is None:
        return
    if step.kind in READING:
        part = queries.part_of(device)
        if part is not None and part.kind in CONTACTS:
            yield Split(
                id="host", do=f"Plug out at {at}: join what the contact of {device} joins there",
                see="the lamp changes", good=("", "device", "way", "feed"), bad=("", "host"),
            )  # fmt: skip
        yield Split(
            id="device", do=f"At the loose plug of {device}: work it, beeper or volts across",
            see="it changes", good=("", "way", "host"), bad=("", "device", "feed"),
        )  # fmt: skip
    elif step.kind in MOVING:
        yield Split(
            id="coils", do=f"Power off, plug out at {at}: ohms of each coil, through the cable",
            see="alike, as at the motor", good=("", "host", "feed"), bad=("", "device", "way"),
        )  # fmt: skip
        yield Split(
            id="exchange", do=f"Power off: another motor that runs, at {at}", see="it runs well",
            good=("", "device", "way"), bad=("", "host", "feed"), time_min=METER_TIME_MIN,
        )  # fmt: skip
    elif step.kind in SWITCHING:
        yield Split(
            id="output", do=f"Volts across {at}, on and off, with {device} plugged",
            see="they change", good=("", "device", "way"), bad=("", "host", "feed"),
        )  # fmt: skip


def left_over(
    causes: Iterable[Cause], asked: Iterable[Split], answers: dict[str, Answer], ruled_out: set[str]
) -> tuple[Cause, ...]:
    """The causes that measurements and looking have not ruled out, in their order."""
    sides = [split.leaves(answers[split.id]) for split in asked if split.id in answers]
    return tuple(
        cause
        for cause in causes
        if cause.id not in ruled_out and all(cause.side in leaves for leaves in sides)
    )


def next_split(
    causes: Iterable[Cause], asked: Iterable[Split], answers: dict[str, Answer]
) -> Split | None:
    """The measurement that tells most for its time about the causes that are left; None where none
    would tell anything.
    """
    left = tuple(causes)
    best, most = None, 0.0
    for split in asked:
        if split.id in answers:
            continue
        tells = _entropy(left, split) / split.time_min
        if tells > most + 1e-9:
            best, most = split, tells
    return best


def _entropy(causes: tuple[Cause, ...], split: Split) -> float:
    """In bits; what lies on both sides, or on none, says nothing about the answer."""
    only_good = sum(c.weight for c in causes if c.side in split.good and c.side not in split.bad)
    only_bad = sum(c.weight for c in causes if c.side in split.bad and c.side not in split.good)
    if not only_good or not only_bad:
        return 0.0
    p = only_bad / (only_good + only_bad)
    return -p * log2(p) - (1 - p) * log2(1 - p)
