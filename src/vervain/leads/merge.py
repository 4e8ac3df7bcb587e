"""The leads of a sensor, encoder, servo or load: function and colour side by side, and where each
lands; contradictions are said at the pin.
"""

from typing import Literal

from vervain.electrical.outputs import is_output_not_given
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef
from vervain.model.part import Part, Pin, Port
from vervain.queries.connectivity import paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words

# The kinds of port whose leads are merged here; motors are measured instead.
MERGED = (
    "sensor", "encoder", "servo", "contact", "thermistor", "analogue sensor", "transducer", "load",
    "bridge motor", "radio",
)  # fmt: skip
FUNCTION_WORDS = {
    "plus": "plus", "zero": "0 V", "signal": "signal", "com": "COM", "nc": "NC", "no": "NO",
    "encoder A": "channel A", "encoder A-": "channel A, complement", "encoder B": "channel B",
    "encoder B-": "channel B, complement", "encoder Z": "index Z", "encoder Z-": "index Z, "
    "complement", "load+": "plus", "load-": "minus", "motor+": "motor +", "motor-": "motor −",
    "sense 1": "sense", "sense 2": "sense", "shield": "shield", "none": "not used",
}  # fmt: skip
# Functions that do harm, or say nothing, on a pin of another one.
POWER = {"plus": "plus", "load+": "plus", "zero": "zero", "load-": "zero"}


class MergeRow(Record, frozen=True, kw_only=True):
    """One lead: its pin, what it is for, its colour, the pins it lands on, what is wrong there."""

    pin: str
    words: str
    colour: str | None
    lands: str = ""
    marks: tuple[str, ...] = ()


def merged_ports(part: Part) -> tuple[Port, ...]:
    """The ports of a part whose leads are merged; none for motors."""
    if part.stepper is not None:
        return ()
    return tuple(p for p in part.ports if p.end == "device" and p.kind in MERGED)


@query
def mergeable(queries: Queries) -> tuple[str, ...]:
    """The devices whose colours are merged, in the machine's order."""
    return tuple(
        name
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        and merged_ports(part)
        and part.kind not in ("relay module", "signal converter")
    )


def polarity_free(part: Part, port: Port) -> bool:
    """Whether the two leads of a port may change places: a bare contact, a resistance, or a part
    that says so.
    """
    if len(port.pins) != 2:
        return False
    if {pin.function for pin in port.pins} == {"sense 1", "sense 2"}:
        return True
    if any(isinstance(p.electrical, FeedIn) and p.electrical.polarity_free for p in port.pins):
        return True
    ends = {(port.id, pin.id) for pin in port.pins}
    return any(isinstance(e, Contact) and set(e.pins) == ends for e in part.inside)


@query
def merge_rows(queries: Queries, device: str) -> tuple[MergeRow, ...]:
    """The leads of a device in pin order."""
    part = queries.part_of(device)
    ports = merged_ports(part) if part else ()
    return tuple(
        row for port in ports for row in _rows_of(queries, device, port, several=len(ports) > 1)
    )


def _rows_of(queries: Queries, device: str, port: Port, several: bool) -> list[MergeRow]:
    part = queries.part_of(device)
    free = part is not None and polarity_free(part, port)
    found = [w for w in contradictions(queries, device) if w.lead.port == port.id]
    colours = [pin.lead for pin in port.pins if pin.lead]
    rows = []
    for pin in port.pins:
        ends = _ends(queries, PinRef(device=device, port=port.id, pin=pin.id))
        marks = [_sentence(wrong.words) for wrong in found if wrong.lead.pin == pin.id]
        if pin.lead and colours.count(pin.lead) > 1 and not free:
            marks.append(f"{pin.lead} is there twice: mark one of them.")
        rows.append(
            MergeRow(
                pin=f"{port.id} {pin.id}" if several else pin.id,
                words=FUNCTION_WORDS.get(pin.function, pin.function),
                colour=pin.lead,
                lands=", ".join(pin_in_words(queries, end) for end in ends),
                marks=tuple(dict.fromkeys(marks)),
            )
        )
    return rows


def _sentence(words: str) -> str:
    return words[:1].upper() + words[1:]


def _ends(queries: Queries, ref: PinRef) -> list[PinRef]:
    return list(dict.fromkeys(way.end for way in paths_from(queries, ref) if way.lands))


class Contradiction(Record, frozen=True, kw_only=True):
    """A lead on a pin of another function, and what that is in words. `meets` is what kind of
    mistake it is: power on power, power on a signal, a signal on power, or channels crossed.
    """

    lead: PinRef
    end: PinRef
    words: str
    meets: Literal["power", "power on signal", "signal on power", "channels"]


# Pins of loads, which an output may switch at either side.
SWITCHED = ("load+", "load-", "coil+", "coil-")


@query
def contradictions(queries: Queries, device: str) -> tuple[Contradiction, ...]:
    """Every lead of a device that lies on a pin of another function, in pin order."""
    part = queries.part_of(device)
    found = []
    for port in merged_ports(part) if part else ():
        if part is None or polarity_free(part, port):
            continue
        if part.kind == "relay module" and port.kind == "load":
            # What switches a channel is an input, and no minus of a load.
            continue
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            for end in _ends(queries, ref):
                there = queries.pin(end)
                at = queries.port(end.port_ref)
                works = at is not None and there is not None and _works_a_load(at, there, pin)
                if works and port.kind == "load":
                    continue
                if there is not None and there.function in SWITCHED:
                    # A sensor's output that switches a load.
                    continue
                meets = _meets(pin, there) if there is not None else None
                if there is not None and meets is not None:
                    words = f"{_words(pin)} lies on {_words(there)}."
                    found.append(Contradiction(lead=ref, end=end, words=words, meets=meets))
    return tuple(found)


# The side of a load that lies on an output, by what that switches to.
SIDE_OF_A_LOAD = {"NPN": "zero", "PNP": "plus"}


def _works_a_load(port: Port, pin: Pin, lead: Pin) -> bool:
    """Whether a pin is an output that works a load by this lead of it: either, where it drives both
    ways. How much it carries is another question. One of which that is not given is expected to
    give plus, beside its 0 V.
    """
    side = POWER.get(lead.function)
    if is_output_not_given(port, pin):
        return side == "plus"
    if not isinstance(pin.electrical, LogicOutput):
        return False
    drive = pin.electrical.drive
    return drive == "push-pull" or (side is not None and SIDE_OF_A_LOAD.get(drive) == side)


def _words(pin: Pin) -> str:
    words = FUNCTION_WORDS.get(pin.function, pin.function)
    return "the signal" if words == "signal" else words


def _meets(
    pin: Pin, there: Pin
) -> Literal["power", "power on signal", "signal on power", "channels"] | None:
    ours, theirs = POWER.get(pin.function), POWER.get(there.function)
    channel, their_channel = (p.function.startswith("encoder") for p in (pin, there))
    if ours and theirs:
        return "power" if ours != theirs else None
    if ours and (there.function == "signal" or their_channel):
        return "power on signal"
    if theirs and (pin.function == "signal" or channel):
        return "signal on power"
    return "channels" if channel and their_channel and pin.function != there.function else None
