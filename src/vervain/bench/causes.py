"""What to look at when a step fails: the causes that the design has for it, nearest first.

Each has a weight (how often it is that) and the minutes of its test, from a table; the order of
weight over minutes finds a single cause in the least time that one can expect (each test clears one
cause; exchanging two neighbours of another order never makes it shorter).
"""

from collections.abc import Iterable, Iterator
from math import log2
from typing import Literal

from msgspec.structs import replace

from vervain.bench.cause_table import Weight, trouble_table
from vervain.bench.judging import read_values
from vervain.bench.results import StepResult
from vervain.bench.step import BenchStep
from vervain.harness.labels import hookup_labels
from vervain.model.base import Record
from vervain.model.machine import Hookup, PinRef, PortRef
from vervain.model.subject import Subject
from vervain.motion.figures import step_figures
from vervain.ports.occupancy import who_sits_at
from vervain.queries.connectivity import (
    ConductorPath,
    driver_ports_of,
    host_ports,
    is_joint,
    paths_from,
)
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import Finding, Stage
from vervain.supply.feed_tree import Branch, feed_trees
from vervain.supply.results import delivered_power
from vervain.tables.settings_sheet import settings_sheet
from vervain.text.quantities import NotAQuantity
from vervain.text.units import volts_words

Side = Literal["", "device", "way", "host", "feed"]
MOST_LABELS, MOST_EARLIER = 4, 3
# Steps that are about power: what carries signals is not their cause.
POWER_KINDS = ("volts", "feed", "amps", "short", "earth", "dead", "resets", "hot")
POWER_PORTS = ("feed in", "feed out", "terminals")
# Steps at which nothing but what they look at is in question.
PLAIN_KINDS = ("set", "earth", "channel")


class Cause(Record, frozen=True, kw_only=True):
    """One thing that may be wrong: its name, what it is, the test that tells it from the others,
    how likely against them, in how many minutes; on which stage it is put right, and at what. It
    lies on a `side`: at the device, on the way, at the host, in the feed; or "" anywhere.
    """

    id: str
    what: str
    test: str
    weight: float
    time_min: float
    stage: Stage
    at: Subject
    side: Side = ""

    @property
    def rank(self) -> float:
        """Weight over minutes: the largest is looked at first."""
        return self.weight / self.time_min


def causes(
    queries: Queries,
    step: BenchStep,
    steps: Iterable[BenchStep] = (),
    results: dict[str, StepResult] | None = None,
    findings: Iterable[Finding] = (),
) -> tuple[Cause, ...]:
    """The causes of a failed step, the one to look at first at the head: open findings, earlier
    steps that did not pass, what is known of such steps, and what the design has on the way.
    """
    host = host_of(queries, step)
    found = [
        *_findings(step, host, findings),
        *_earlier(step, host, steps, results or {}),
        *_known(queries, step, host),
        *_steps_told(queries, step, results or {}),
    ]
    if step.kind not in PLAIN_KINDS:
        if step.kind not in POWER_KINDS and host is not None:
            found += _at_host(queries, step, host)
            found += _way(queries, step, host)
        for other in step.powers if step.kind == "output" else ():
            found += _behind(queries, replace(step, device=other, port=None, reads=None))
        found += _feed(queries, step.device)
        if host is not None and _drives(queries, host.device):
            found += _feed(queries, host.device)
        found += _lamps(queries, step, host)
    known = {cause.id: cause for cause in reversed(found)}
    return tuple(sorted(known.values(), key=lambda cause: (-cause.rank, cause.id)))


def host_of(queries: Queries, step: BenchStep) -> PortRef | None:
    """The port of another device that reads, drives or switches the device of a step."""
    for ref in (step.reads, step.port):
        if ref is not None and ref.device != step.device:
            return ref
    part = queries.part_of(step.device)
    served = (
        host
        for port in (part.ports if part else ())
        if port.end == "device" and port.kind not in POWER_PORTS
        for host in host_ports(queries, PortRef(device=step.device, port=port.id))
    )
    return next(iter((*driver_ports_of(queries, step.device), *served)), None)


def _drives(queries: Queries, name: str) -> bool:
    """Whether a device drives motors: then its feed moves them."""
    part = queries.part_of(name)
    return part is not None and (part.driver is not None or part.kind == "motor bridge")


def axis_of(queries: Queries, device: str) -> str:
    """The axis that a device is in; "" where it is in none."""
    for name in queries.axes():
        axis = queries.axis(name)
        if axis is not None and device in axis.members:
            return name
    return ""


def _made(kind: str, what: str, test: str, stage: Stage, at: Subject, side: Side = "") -> Cause:
    weight: Weight = getattr(trouble_table().weights, kind)
    return Cause(
        id=f"{kind} {at.text} {what}", what=what, test=test, weight=weight.weight,
        time_min=weight.time_min, stage=stage, at=at, side=side,
    )  # fmt: skip


def _findings(
    step: BenchStep, host: PortRef | None, findings: Iterable[Finding]
) -> Iterator[Cause]:
    """Findings at the device, or at the port that serves it."""
    for finding in findings:
        near = [subject for subject in finding.subjects if _is_near(subject, step, host)]
        if step.kind in PLAIN_KINDS and step.kind not in finding.rule:
            continue
        if near and finding.consequence != "Workmanship":
            test = finding.fixes[0].words if finding.fixes else finding.why
            test = f"The check says so. {test[:1].upper()}{test[1:]}"
            yield _made("finding", finding.sentence, test, finding.stage, near[0])


def _is_near(subject: Subject, step: BenchStep, host: PortRef | None) -> bool:
    """Whether something is the device of a step at its port, or the port that serves it."""
    if host is not None and (subject.device, subject.port) == (host.device, host.port):
        return True
    at = step.port if step.port is not None and step.port.device == step.device else None
    return subject.device == step.device and (
        at is None or subject.port in (None, at.port) or subject.pin is None
    )


def _earlier(
    step: BenchStep,
    host: PortRef | None,
    steps: Iterable[BenchStep],
    results: dict[str, StepResult],
) -> Iterator[Cause]:
    """Steps before this one, at the same devices, that failed or wait to be seen again."""
    near, count = {step.device, host.device if host else step.device}, 0
    for number, before in enumerate(steps, 1):
        if before.id == step.id or count == MOST_EARLIER:
            return
        state = results.get(before.id, StepResult("")).state
        if before.device in near and state in ("failed", "again"):
            count += 1
            words = "failed" if state == "failed" else "is to be seen again"
            at = Subject(device=before.device)
            yield _made("earlier", f"Step {number} {words}: {before.do}", before.see, "Bench", at)


def _known(queries: Queries, step: BenchStep, host: PortRef | None) -> Iterator[Cause]:
    """What the table says of such steps, where everything that it names is there."""
    axis = step.subject if queries.axis(step.subject) else axis_of(queries, step.device)
    names = {
        "{device}": step.device, "{host}": host.device if host else "",
        "{port}": host.port if host else "", "{axis}": f"{axis} axis" if axis else "",
    }  # fmt: skip
    for number, known in enumerate(trouble_table().cause):
        what, test = known.what, known.test
        is_known = step.kind in known.of
        if not is_known or any(key in what + test for key, name in names.items() if not name):
            continue
        for key, name in names.items():
            what, test = what.replace(key, name), test.replace(key, name)
        yield Cause(
            id=f"known {number} {step.device}", what=what, test=test, weight=known.weight,
            time_min=known.time_min, stage=known.stage, at=Subject(device=step.device),
        )  # fmt: skip


def _steps_told(
    queries: Queries, step: BenchStep, results: dict[str, StepResult]
) -> Iterator[Cause]:
    """Steps a unit from what was commanded and what was measured: new = old x sent / measured."""
    kept, window = results.get(step.id, StepResult("")).result, step.window
    figures = step_figures(queries, step.subject, step.device) if step.kind == "distance" else None
    if kept is None or window is None or figures is None or not figures.steps_per_unit:
        return
    try:
        measured = abs(read_values(window.unit, kept.seen)[0])
    except NotAQuantity:
        return
    sent = ((window.least or 0.0) + (window.most or 0.0)) / 2
    if not measured or not sent:
        return
    ratio = sent / measured
    steps = figures.steps_per_unit * ratio
    power = log2(ratio)
    # Within one per cent of a power of two it is the switch of the microsteps.
    is_microsteps = abs(power - round(power)) < 0.015 and figures.microsteps is not None
    what = f"{steps:.6g} steps a {window.unit} instead of {figures.steps_per_unit:.6g}"
    test = "Set it where the machine is told its steps, and measure again over the longest way."
    if is_microsteps and figures.microsteps is not None:
        real = round(figures.microsteps * ratio)
        what = f"{figures.driver or 'The driver'} makes {real} microsteps, not {figures.microsteps}"
        test = "Its switches against the settings sheet; power off and on after setting them."
    yield _made("finding", what, test, "Machine", Subject(axis=step.subject))


def _at_host(queries: Queries, step: BenchStep, host: PortRef) -> Iterator[Cause]:
    """What lies at the port that serves the device: who shares it, how it is set, its plug."""
    at = Subject(device=host.device, port=host.port)
    between = _between(queries, step.device, host)
    for other in who_sits_at(queries, host):
        if other != step.device and other not in between and not is_joint(queries, other):
            yield _made(
                "shared", f"{other} is at {host.device} {host.port} as well",
                f"Take {other} off there, and try again.", "Ports", at, "host",
            )  # fmt: skip
    for row in settings_sheet(queries):
        if row.device == host.device and row.port == host.port and row.value:
            yield _made(
                "setting", f"{row.where}: {row.what} is set otherwise",
                f"It is to be {row.value}{f' ({row.because})' if row.because else ''}.", "Ports",
                at, "host",
            )  # fmt: skip
    port = queries.port(host)
    pins = [PinRef(device=host.device, port=host.port, pin=p.id) for p in port.pins] if port else []
    taken = [pin_in_words(queries, pin) for pin in pins if queries.steps(pin)]
    if taken:
        yield _made(
            "plug", f"The plug at {host.device} {host.port} is loose, turned, or one pin over",
            f"Look and pull: {', '.join(taken[:MOST_LABELS])}.", "Ports", at, "host",
        )  # fmt: skip
    beside = _beside(queries, host)
    if beside:
        yield _made(
            "neighbour", f"It sits in {' or '.join(beside)} instead of {host.port}",
            f"Watch {' and '.join(beside)} while you work {step.device}.", "Ports", at, "host",
        )  # fmt: skip
    yield _made(
        "host", f"{host.device} {host.port} itself is dead",
        f"Put {step.device} into another port of the kind, and try that.", "Ports", at, "host",
    )  # fmt: skip


def _beside(queries: Queries, host: PortRef) -> list[str]:
    """The ports of the same kind and plug at both sides of a port."""
    part, port = queries.part_of(host.device), queries.port(host)
    if part is None or port is None:
        return []
    row = sorted(
        (p for p in part.ports if (p.edge, p.inset_mm) == (port.edge, port.inset_mm)),
        key=lambda p: p.at_mm,
    )
    at = row.index(port)
    near = [*row[max(0, at - 1) : at], *row[at + 1 : at + 2]]
    fits = (port.kind, port.connector, len(port.pins))
    return [p.id for p in near if (p.kind, p.connector, len(p.pins)) == fits]


def _behind(queries: Queries, step: BenchStep) -> Iterator[Cause]:
    """The way to something that an output switches through a relay."""
    host = host_of(queries, step)
    if host is not None:
        yield from _at_host(queries, step, host)
        yield from _way(queries, step, host)


def _between(queries: Queries, device: str, host: PortRef) -> tuple[str, ...]:
    """The devices that a device's signals go through before its host: converters, receivers."""
    near = {path.end.device for path in _paths_of(queries, device)} - {device, host.device}
    seated = who_sits_at(queries, host)
    return tuple(
        name for name in seated
        if name in near and (part := queries.part_of(name)) is not None
        and any(port.end == "host" for port in part.ports)
    )  # fmt: skip


def _paths_of(queries: Queries, device: str) -> Iterator[ConductorPath]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            yield from paths_from(queries, PinRef(device=device, port=port.id, pin=pin.id))


def _way(queries: Queries, step: BenchStep, host: PortRef) -> Iterator[Cause]:
    """The hookups and in-line plugs between the device and its host, what the signals go through,
    and the device itself.
    """
    between = _between(queries, step.device, host)
    yield from _wires(queries, step.device, {host.device, *between})
    for name in between:
        yield from _wires(queries, name, {host.device})
    for name in (*between, step.device):
        device, part = queries.device(name), queries.part_of(name)
        if device is not None and part is not None:
            yield _made(
                "device", f"{name} {device.name} itself",
                f"Another {part.title} in its place, or its own test at the loose plug.", "Machine",
                Subject(device=name), "device" if name == step.device else "way",
            )  # fmt: skip


def _wires(queries: Queries, device: str, ends: set[str]) -> Iterator[Cause]:
    """The hookups and in-line plugs between a device and others."""
    yielded: set[str] = set()
    for path in _paths_of(queries, device):
        if path.end.device not in ends:
            continue
        for taken in path.steps:
            hookup = queries.hookup(taken.hookup)
            if hookup is not None and hookup.id not in yielded:
                yielded.add(hookup.id)
                yield _wire(queries, hookup)
            joint = taken.end.device
            if is_joint(queries, joint) and joint not in yielded:
                yielded.add(joint)
                yield _made(
                    "joint", f"{joint} is not together, or a contact in it is pushed back",
                    f"Pull {joint} apart, look into both faces, push it home.", "Harness",
                    Subject(device=joint), "way",
                )  # fmt: skip


def _wire(queries: Queries, hookup: Hookup) -> Cause:
    names = [entry.at_a for entry in hookup_labels(queries, hookup.id)]
    told = ", ".join(names[:MOST_LABELS]) + (" …" if len(names) > MOST_LABELS else "")
    return _made(
        "wire", f"{told}: broken or changed, {hookup.a.device} to {hookup.b.device}",
        "Power off: beeper from end to end of each, and against the next.", "Harness",
        Subject(hookup=hookup.id, cable=hookup.cable), "way",
    )  # fmt: skip


def _feed(queries: Queries, device: str) -> Iterator[Cause]:
    """Fuses and outlets before a device, and the volts at its plug."""
    for branch in _before(queries, device):
        at = Subject(device=branch.device)
        if branch.kind == "fuse":
            yield _made(
                "fuse", f"Fuse {branch.device} before {device} has blown",
                "Power off: beeper across it.", "Supply", at, "feed",
            )  # fmt: skip
    for row in delivered_power(queries, "idle"):
        if row.pin.device == device and row.source is not None:
            volts = volts_words(row.least_v, row.most_v)
            yield _made(
                "feed", f"{device} is not fed at {pin_in_words(queries, row.pin)}",
                f"Volts there: {volts}; if not, go back towards {row.source.device}.", "Supply",
                Subject(device=device, port=row.pin.port), "feed",
            )  # fmt: skip


def _before(queries: Queries, device: str) -> Iterator[Branch]:
    """The places of the feeds before a device, from the source on."""
    for tree in feed_trees(queries, "idle"):
        above = tree.hanging_on()
        for number, branch in enumerate(tree.branches):
            if branch.device != device or branch.arrival is None:
                continue
            chain = []
            here = above[number]
            while here is not None:
                chain.append(tree.branches[here])
                here = above[here]
            yield from reversed(chain)


def _lamps(queries: Queries, step: BenchStep, host: PortRef | None) -> Iterator[Cause]:
    """What the lamps of the device and its host tell."""
    for name in dict.fromkeys((step.device, host.device if host else step.device)):
        part = queries.part_of(name)
        for lamp in part.indicators if part else ():
            at = Subject(device=name)
            what = f"Look at lamp {lamp.id} of {name}, {lamp.colour}"
            yield _made("setting", what, f"It means: {lamp.means}", "Bench", at)
