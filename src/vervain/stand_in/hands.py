"""Hands and eyes at a simulated machine: a step of the bench list is done, and judged by what comes
of it, as a builder would.
"""

from collections.abc import Callable
from typing import NamedTuple

from vervain.bench.judging import judge
from vervain.bench.step import BenchStep
from vervain.electrical.levels import inputs_driven_by
from vervain.electrical.mains import lines_of_taker
from vervain.electrical.unmet_needs import gives_from_mains
from vervain.model.bench_result import Outcome
from vervain.model.electrical import LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.stand_in.simulated_machine import SimulatedMachine, probe
from vervain.stops.contacts import used_contacts
from vervain.tables.settings_sheet import settings_sheet
from vervain.tables.stop_rows import press_rows

# A beeper sounds below this.
BEEP_OHM = 50.0


class Seen(NamedTuple):
    """What came of a step, and in words what was seen."""

    outcome: Outcome
    words: str = ""


def do_step(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """Does a step at a machine that behaves as it is wired, from rest, and leaves it at rest."""
    act = ACTS.get(step.kind)
    if act is None:
        return Seen("passed", "by eye")
    worked, on = machine.worked, machine.on
    machine.rest()
    seen = act(machine, step)
    machine.rest(worked, on)
    return seen


def _measure(machine: SimulatedMachine, step: BenchStep) -> Seen:
    values = probe(machine, step)
    if not values or step.window is None:
        return Seen("failed", "nothing there to measure")
    typed = "; ".join("open" if value == float("inf") else f"{value:.6g}" for value in values)
    if step.window.unit != "Ω" and "open" in typed:
        return Seen("failed", "nothing")
    found = judge(step.window, typed)
    return Seen(found.outcome, found.seen)


def _coils(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """Each pair as at the plug: an open one, or one with another resistance, fails."""
    values = probe(machine, step)
    if not values or any(value == float("inf") for value in values):
        return Seen("failed", "open")
    return _measure(machine, step)


def _setting(machine: SimulatedMachine, step: BenchStep) -> Seen:
    for row in settings_sheet(machine.queries):
        if f"set {row.where} {row.what}" == step.id:
            return Seen("passed" if row.value == step.see else "failed", row.value[:80])
    return Seen("failed", "it is not there")


def _contact(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """The beeper across the contact itself, with the plug off: at rest, and worked."""
    used = used_contacts(machine.queries, step.device)
    pins = {pin for contact in used for pin in contact.pins}
    if not step.probes or not set(step.probes[0]) <= pins:
        return Seen("failed", "it is not there")
    a, b = step.probes[0]
    rest = _conducts(machine, a, b)
    machine.work(step.device, True)
    worked = _conducts(machine, a, b)
    wanted = (True, False) if step.see.startswith("beeps") else (False, True)
    words = f"{'beeps' if rest else 'silent'}, worked {'beeps' if worked else 'silent'}"
    return Seen("passed" if (rest, worked) == wanted else "failed", words)


def _conducts(machine: SimulatedMachine, a: PinRef, b: PinRef) -> bool:
    return machine.ohms(a, b) < BEEP_OHM


def _input(machine: SimulatedMachine, step: BenchStep) -> Seen:
    for stop in step.pressed:
        machine.work(stop, True)
    before = machine.lit()
    machine.work(step.device, True, step.contact)
    return lamps_seen(step, before, machine.lit())


def lamps_seen(step: BenchStep, before: dict[PortRef, bool], after: dict[PortRef, bool]) -> Seen:
    """What the lamps did while the device of a step was worked, against what it expects."""
    hosts = {change.port.device for change in step.lamps}
    did = {
        port: "comes on" if after[port] else "goes out"
        for port in before
        if port.device in hosts and port in after and before[port] != after[port]
    }
    told = ", ".join(f"{port.port} {does}" for port, does in did.items()) or "no lamp changes"
    wanted = {change.port: change.does for change in step.lamps}
    is_right = did.keys() == wanted.keys() and all(
        wanted[port] in ("changes", does) for port, does in did.items()
    )
    return Seen("passed" if is_right else "failed", told[:80])


def _counts(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """The encoder turned once, to the positive end of its axis."""
    axis = step.subject
    before = _count(machine, step)
    found = _counts_a_turn(machine.queries, axis)
    if before is None or found is None or step.window is None:
        return Seen("failed", "nothing counts")
    per_turn, per_unit = found
    machine.positions[axis] += per_turn / per_unit
    after = _count(machine, step)
    judged = judge(step.window, f"{(after or 0) - before}")
    return Seen(judged.outcome, judged.seen)


def _wheel(machine: SimulatedMachine, step: BenchStep) -> Seen:
    before = _count(machine, step)
    machine.turn_wheel(step.device, 1.0)
    after = _count(machine, step)
    if before is None or after is None or step.window is None:
        return Seen("failed", "nothing counts")
    judged = judge(step.window, f"{after - before}")
    return Seen(judged.outcome, judged.seen)


def _count(machine: SimulatedMachine, step: BenchStep) -> int | None:
    return machine.counts().get(step.reads) if step.reads is not None else None


def _counts_a_turn(queries: Queries, axis: str) -> tuple[int, float] | None:
    from vervain.motion.figures import count_figures

    figures = count_figures(queries, axis)
    if figures is None or not figures.counts_per_unit:
        return None
    return figures.lines_per_turn * figures.decoding, figures.counts_per_unit


def _output(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """What gets power as the output or relay is switched: all that the step names, nothing else."""
    if step.port is None:
        return Seen("failed", "nothing there to switch")
    before = machine.settled.on
    machine.switch_on(step.port)
    after = machine.devices_of(machine.settled.on - before)
    # What takes no power of its own, as a relay that a level works, is not seen by it; nor what an
    # output works with power that it makes itself of the mains.
    takes = {load.ref.device for load in machine.circuit.loads}
    if gives_from_mains(machine.queries, step.port):
        takes = set()
    wanted = {name for name in step.powers if name != step.port.device and name in takes}
    # What has power already is worked by the level that comes to it.
    after |= wanted & _told_by_level(machine, step.port) & machine.devices_of(before)
    told = ", ".join(sorted(after)) or "nothing"
    return Seen("passed" if after == wanted else "failed", f"{told} gets power")


def _told_by_level(machine: SimulatedMachine, ref: PortRef) -> set[str]:
    """The devices with an input that an output of a port drives."""
    port = machine.queries.port(ref)
    pins = (PinRef(device=ref.device, port=ref.port, pin=p.id) for p in (port.pins if port else ()))
    return {
        at.device
        for pin in pins
        if (found := machine.queries.pin(pin)) and isinstance(found.electrical, LogicOutput)
        for at in inputs_driven_by(machine.queries, pin)
    }


def _lock(machine: SimulatedMachine, step: BenchStep) -> Seen:
    return Seen("passed", "it holds") if machine.holds(step.device) else Seen("failed", "it turns")


def _direction(machine: SimulatedMachine, step: BenchStep) -> Seen:
    way = machine.way_of(step.subject)
    words = {1: "to its positive end", -1: "to its negative end", 0: "it does not move"}[way]
    return Seen("passed" if way == 1 else "failed", words)


def _distance(machine: SimulatedMachine, step: BenchStep) -> Seen:
    window = step.window
    if window is None or window.least is None or window.most is None:
        return Seen("failed", "nothing there to measure")
    sent = (window.least + window.most) / 2
    judged = judge(window, f"{abs(machine.send(step.subject, sent)):.6g}")
    return Seen(judged.outcome, judged.seen)


def _agree(machine: SimulatedMachine, step: BenchStep) -> Seen:
    window, before = step.window, _count(machine, step)
    found = _counts_a_turn(machine.queries, step.subject)
    if window is None or window.least is None or window.most is None or found is None:
        return Seen("failed", "nothing counts")
    machine.send(step.subject, (window.least + window.most) / 2 / found[1])
    judged = judge(window, f"{(_count(machine, step) or 0) - (before or 0)}")
    return Seen(judged.outcome, judged.seen)


def _limit(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """A limit or home switch that is worked: whether the controller sees it at its port."""
    before = machine.lit()
    machine.work(step.device, True)
    after = machine.lit()
    sees = step.port is not None and before.get(step.port) != after.get(step.port)
    return Seen("passed", "it stops") if sees else Seen("failed", "it goes on")


def _stop(machine: SimulatedMachine, step: BenchStep) -> Seen:
    for row in press_rows(machine.queries):
        if row.stop == step.device:
            return Seen("passed" if row.words == step.see else "failed", row.words[:80])
    return Seen("failed", "it does nothing")


def _turn(machine: SimulatedMachine, step: BenchStep) -> Seen:
    """A motor straight on the mains: with a line at each of its phases it turns."""
    lines = list(lines_of_taker(machine.queries, step.device).values())
    if all(lines) and len(frozenset[str]().union(*lines)) == len(lines):
        return Seen("passed", "it turns")
    return Seen("failed", "it hums")


ACTS: dict[str, Callable[[SimulatedMachine, BenchStep], Seen]] = {
    "set": _setting, "earth": _measure, "short": _measure, "coils": _coils, "contact": _contact,
    "volts": _measure, "feed": _measure, "amps": _measure, "input": _input, "counts": _counts,
    "output": _output, "lock": _lock, "direction": _direction, "distance": _distance,
    "agree": _agree, "stop": _stop, "limit": _limit, "home": _limit,
    "wheel": _wheel, "turn": _turn,
}  # fmt: skip
