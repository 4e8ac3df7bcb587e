"""Faults and what becomes of them, in words."""

from collections.abc import Callable

from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.stops.circuit import Circuit, Wire, Worker
from vervain.stops.compiling import circuit_of
from vervain.stops.faults import Fault
from vervain.stops.outcomes import InputSeen, Verdict

MOST_NAMES = 4
SHORT_S = 0.3
GOES = "goes"
Label = Callable[[Wire], str]


def fault_words(queries: Queries, fault: Fault, label: Label) -> str:
    """A fault in a few words: "W41.1 touches W41.2, in W41"."""
    names = [label(wire) for wire in fault.wires]
    first = names[0] if names else ""
    match fault.kind:
        case "cut":
            return f"{first} cut"
        case "short":
            where = f", in {fault.together}" if fault.together else ""
            return f"{first} touches {names[1]}{where}"
        case "to plus":
            return f"{first} touches plus"
        case "to minus":
            return f"{first} touches 0 V"
        case "to earth":
            return f"{first} touches earth"
        case "unplugged":
            plug = fault.plug
            return f"plug {plug.device} {plug.port} pulled" if plug else "a plug pulled"
        case "welded":
            # Until its figures are there a machine may have fewer contacts than the fault knew.
            contacts = circuit_of(queries).contacts
            is_there = fault.contact < len(contacts)
            port = contacts[fault.contact].pins[0].port if is_there else ""
            return f"{fault.device} {port} stays closed".replace("  ", " ")
        case "jumper missing":
            return f"jumper {fault.device} out"
        case "source lost":
            return f"{fault.device} lost"
        case "controller off":
            return f"{fault.device} off"
        case "link lost":
            return f"radio link of {fault.device} lost"


# How each kind of stop is at work, and what is done to it.
AT_WORK = {"button": "at rest", "door": "shut", "curtain": "clear"}
DONE = {"button": "pressed", "door": "opened", "curtain": "interrupted"}


def kind_of_stop(circuit: Circuit, device: str) -> str:
    """What asks the machine to stop: a button, a door, a light curtain."""
    if any(c.device == device and c.worked_by == "beam" for c in circuit.contacts):
        return "curtain"
    return "door" if device in circuit.guards else "button"


def demand_words(circuit: Circuit, device: str) -> str:
    """What is done to ask the machine to stop: "S1 pressed", "S3 opened", "B1 interrupted"."""
    return f"{device} {DONE[kind_of_stop(circuit, device)]}"


def duration_words(duration_s: float) -> str:
    """A duration as one says it: "35 ms", "0.5 s"."""
    short = duration_s < SHORT_S
    return f"{duration_s * 1000:.0f} ms" if short else f"{duration_s:.2g} s"


def seen_words(queries: Queries, inputs: tuple[InputSeen, ...]) -> str:
    """What inputs read, in words: "K1 STOP A+ open"."""
    if not inputs:
        return "nothing"
    told = [input_words(queries, entry) for entry in inputs[:2]]
    more = f" and {len(inputs) - 2} more" if len(inputs) > 2 else ""
    return ", ".join(told) + more


def input_words(queries: Queries, entry: InputSeen) -> str:
    """What one input reads: a stop input open or closed, another high or low."""
    level = "high" if entry.level == "high" else "low"
    if _is_stop(queries, entry):
        level = "closed" if entry.level == "high" else "open"
    return f"{pin_in_words(queries, entry.pin)} {level}"


def _is_stop(queries: Queries, entry: InputSeen) -> bool:
    port = queries.port(entry.pin.port_ref)
    return port is not None and port.kind == "stop input"


def power_words(verdict: Verdict) -> str:
    """What becomes of the power that must go: stays, is gone already, goes."""
    if verdict.stays:
        stops = ", ".join(name for name, _ in verdict.stays)
        verb = "does" if len(verdict.stays) == 1 else "do"
        return f"stays: {stops} {verb} not stop {names_in_words(verdict.stays[0][1])}"
    if verdict.restarting:
        return f"goes, but comes back when {names_in_words(verdict.restarting)} is released"
    if verdict.fuses:
        return f"gone: {names_in_words(verdict.fuses)} blows"
    if verdict.dead:
        return f"gone at {names_in_words(verdict.dead)}"
    return GOES


def worker_in_words(queries: Queries, worker: Worker) -> str:
    """What works contacts: "K1 IN 1", or a pin, "A2 FOOT D D4"."""
    if isinstance(worker, PinRef):
        return pin_in_words(queries, worker)
    return f"{worker.device} {worker.port}"


def names_in_words(names: tuple[str, ...]) -> str:
    """Some names, the first few of them."""
    shown = ", ".join(names[:MOST_NAMES])
    return shown + (f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else "")
