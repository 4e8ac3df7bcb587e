"""What a sound part still leaves open or says twice in different ways: told, never refused."""

from collections.abc import Iterator
from typing import NamedTuple

from vervain.model.connectors import connector_of, families
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.elements import Bridge, Contact
from vervain.model.known_options import BY_ID
from vervain.model.part import BOARD_KINDS, SEATED, Part, Pin, Port, PortKind
from vervain.model.problem import did_you_mean

# What works a contact where nothing of the part does.
WORKED = ("hand", "heat", "plunger", "key", "radio", "fault", "program", "arc")
# Ports whose signal pins the level rules ask for limits.
ASKED_LEVELS: frozenset[PortKind] = frozenset({
    "digital input", "step and direction", "encoder", "sensor", "servo", "analogue input",
    "switched output", "stop input", "pulse input", "bridge control", "drive control", "radio",
    "analogue output", "analogue command",
})  # fmt: skip
WITHOUT_LEVELS = ("plus", "zero", "pe", "load+", "load-", "none", "stop A-", "stop B-")


class Doubt(NamedTuple):
    """One doubt about a part: where in it, what, and what to do."""

    where: str
    what: str
    remedy: str


def doubts(part: Part) -> Iterator[Doubt]:
    """What the checks cannot work with although the part can be read: connectors that no table
    knows, contacts that nothing works, options that nothing reads, limits that contradict each
    other, pins whose limits are not known.
    """
    for port in part.ports:
        yield from _connector_doubts(port)
        # Of a port that measures a voltage, the levels are the ends of its range.
        for pin in port.pins if "analogue" not in port.kind else ():
            for what, remedy in _contradictions(pin):
                yield Doubt(f"{port.id}, {pin.text}", what, remedy)
    yield from _unknown_limits(part)
    yield from _contact_doubts(part)
    yield from _option_doubts(part)


def _connector_doubts(port: Port) -> Iterator[Doubt]:
    name = port.connector
    if name is None:
        return
    found = connector_of(name)
    if found is None:
        family = name.partition("-")[0]
        known = did_you_mean(family, families()) if family not in families() else ""
        yield Doubt(
            port.id, f"has the connector “{name}”, which the table of connectors does not know",
            known or "Write it as family-pitch-ways, such as crimp-2.5-4.",
        )  # fmt: skip
        return
    if found.pitch and found.contact_max_a is None:
        pitches = ", ".join(found.family.current_a)
        yield Doubt(
            port.id, f"has a pitch of {found.pitch} mm, which {found.family.name} does not come in",
            f"It comes in {pitches}." if pitches else "",
        )  # fmt: skip
    ways = _ways(found.ways)
    if ways is not None and ways < len(port.pins):
        yield Doubt(port.id, f"has {len(port.pins)} pins in {ways} ways", "Correct one of them.")


def _ways(text: str) -> int | None:
    """How many contacts a count of ways means: "2x5" are ten."""
    found = 1
    for factor in text.split("x"):
        if not factor.isdecimal():
            return None
        found *= int(factor)
    return found


def _contradictions(pin: Pin) -> Iterator[tuple[str, str]]:
    """Limits of one pin that cannot both be."""
    match pin.electrical:
        case FeedIn(v_min_v=low, v_max_v=float(high), nominal_v=nominal):
            if low > high:
                yield f"works from {low:g} V, but bears only {high:g} V", "Exchange them."
            elif nominal is not None and not low <= nominal <= high:
                yield f"is rated at {nominal:g} V, outside of {low:g} to {high:g} V", ""
        case LogicInput(high_min_v=high, low_max_v=low, max_v=most, opto=None):
            if low >= high:
                yield f"is low up to {low:g} V and high from {high:g} V", "Between is neither."
            elif high > most:
                yield f"is high from {high:g} V, but bears only {most:g} V", ""
        case LogicOutput(high_min_v=least, high_max_v=most, low_max_v=low):
            if least is not None and most is not None and least > most:
                yield f"gives at least {least:g} V and at most {most:g} V", "Exchange them."
            elif least is not None and low > least:
                yield f"gives up to {low:g} V when low, {least:g} V when high", ""
        case _:
            pass


def _unknown_limits(part: Part) -> Iterator[Doubt]:
    """Pins that rules would ask for limits which nobody gave, alike ones together."""
    unknown: dict[str, list[str]] = {}
    limits = {(port.id, pin.id): pin.electrical for port in part.ports for pin in port.pins}
    # What is joined on the board to a pin whose limits are known is that pin.
    known = {
        at
        for element in part.inside
        if isinstance(element, Bridge) and any(limits.get(at) for at in element.pins)
        for at in element.pins
    }
    for port in part.ports:
        for pin in port.pins:
            if pin.electrical is not None or pin.optional or (port.id, pin.id) in known:
                continue
            if port.kind in ("feed in", "feed out") and pin.function == "plus":
                needs = "volts and amperes"
            elif port.kind in ASKED_LEVELS and pin.function not in WITHOUT_LEVELS:
                needs = "levels"
            elif port.kind == "load" and pin.function == "load+":
                needs = "volts and amperes"
            else:
                continue
            unknown.setdefault(needs, []).append(f"{port.id} {pin.text}")
    for needs, pins in unknown.items():
        shown = ", ".join(pins[:6]) + (f" and {len(pins) - 6} more" if len(pins) > 6 else "")
        yield Doubt(shown, f"has no {needs}: the rules that need them say nothing", "")


def _contact_doubts(part: Part) -> Iterator[Doubt]:
    works = {*WORKED, *(port.id for port in part.ports)}
    if part.kind not in (*BOARD_KINDS, "contactor"):
        return
    for element in part.inside:
        if isinstance(element, Contact) and element.worked_by not in works:
            yield Doubt(
                " to ".join(" ".join(at) for at in element.pins),
                f"is worked by “{element.worked_by}”, which is no port of the part",
                did_you_mean(element.worked_by, [port.id for port in part.ports]),
            )
    yield from _unknown_workers(part)


def _unknown_workers(part: Part) -> Iterator[Doubt]:
    """Contacts that the foot of a shield works, without the pin that does it."""
    unknown = {
        element.pins[0][0]: port.id
        for element in part.inside
        if isinstance(element, Contact) and element.worked_pin is None
        and (port := part.port(element.worked_by)) is not None and port.kind in SEATED
    }  # fmt: skip
    for contact, foot in unknown.items():
        yield Doubt(
            contact, "is worked by a pin of the foot that nobody named",
            f"Write among the settings: “{contact}: worked by {foot}.…”",
        )  # fmt: skip


def _option_doubts(part: Part) -> Iterator[Doubt]:
    """Options that nothing reads: only the settings sheet prints them."""
    bridges = [element for element in part.inside if isinstance(element, Bridge)]
    read = {bridge.when[0] for bridge in bridges if bridge.when}
    read |= {item.option for port in part.ports for item in port.reserved}
    read |= {
        pin.electrical.reads_option
        for port in part.ports
        for pin in port.pins
        if isinstance(pin.electrical, LogicInput) and pin.electrical.reads_option
    }
    for option in part.options:
        near = did_you_mean(option.id, BY_ID)
        if option.id not in read and option.id not in BY_ID and near.startswith("Did"):
            yield Doubt(f"the option {option.id}", "is read by no rule", near)
