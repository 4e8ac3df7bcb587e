"""The leads of a sensor, encoder, servo or load: function and colour side by side, and where each
lands; contradictions are said at the pin.
"""

from vervain.machine.look import Look, query
from vervain.machine.machine import PinRef
from vervain.machine.part import Contact, FeedIn, Part, Pin, Port, Record
from vervain.machine.reach import ways_from

# The kinds of port whose leads are merged here; motors are measured instead.
MERGED = (
    "sensor", "encoder", "servo", "contact", "thermistor", "analogue sensor", "load",
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


def merged_port(part: Part) -> Port | None:
    """The port of a part whose leads are merged; None for motors and boards."""
    found = [p for p in part.ports if p.end == "device" and p.kind in MERGED]
    return found[0] if found and part.stepper is None else None


@query
def mergeable(look: Look) -> tuple[str, ...]:
    """The devices whose colours are merged, in the machine's order."""
    return tuple(
        name
        for name in look.devices()
        if (part := look.part_of(name)) is not None
        and merged_port(part) is not None
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
def merge_rows(look: Look, device: str) -> tuple[MergeRow, ...]:
    """The leads of a device in pin order."""
    part = look.part_of(device)
    port = merged_port(part) if part else None
    if part is None or port is None:
        return ()
    free = polarity_free(part, port)
    colours = [pin.lead for pin in port.pins if pin.lead]
    rows = []
    for pin in port.pins:
        ends = _ends(look, PinRef(device=device, port=port.id, pin=pin.id))
        marks = [mark for end in ends for mark in _contradiction(look, pin, end, free)]
        if pin.lead and colours.count(pin.lead) > 1 and not free:
            marks.append(f"{pin.lead} is there twice: mark one of them.")
        rows.append(
            MergeRow(
                pin=pin.id,
                words=FUNCTION_WORDS.get(pin.function, pin.function),
                colour=pin.lead,
                lands=", ".join(_named(look, end) for end in ends),
                marks=tuple(dict.fromkeys(marks)),
            )
        )
    return tuple(rows)


def _ends(look: Look, ref: PinRef) -> list[PinRef]:
    return list(dict.fromkeys(way.end for way in ways_from(look, ref) if way.lands))


def _named(look: Look, ref: PinRef) -> str:
    pin = look.pin(ref)
    return f"{ref.device} {ref.port} {pin.text if pin else ref.pin}"


def _contradiction(look: Look, pin: Pin, end: PinRef, free: bool) -> list[str]:
    """What is wrong with a lead on a pin: plus on minus, or a feed on a signal."""
    there = look.pin(end)
    if there is None or free:
        return []
    ours, theirs = POWER.get(pin.function), POWER.get(there.function)
    if ours and theirs and ours != theirs:
        return [f"{FUNCTION_WORDS[pin.function]} lies on {FUNCTION_WORDS[there.function]}."]
    signal = pin.function == "signal" or pin.function.startswith("encoder")
    if signal and theirs == "plus":
        return ["The signal lies on plus."]
    if ours and there.function == "signal":
        return [f"{FUNCTION_WORDS[pin.function]} lies on a signal pin."]
    channels = pin.function.startswith("encoder") and there.function.startswith("encoder")
    if channels and pin.function != there.function:
        return [f"It lies on {FUNCTION_WORDS[there.function]}."]
    return []
