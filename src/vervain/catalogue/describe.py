"""A part made from its pin table, its colour list and a few numbers."""

from collections.abc import Iterator
from typing import Literal

from msgspec.structs import replace

from vervain.catalogue.alternating import with_current_types
from vervain.catalogue.board_copper import board_inside, called_isolated
from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.board_settings import SetBoard, with_settings
from vervain.catalogue.boards import (
    asked_circuits,
    board_outline,
    board_ports,
)
from vervain.catalogue.circuits import gives_plus
from vervain.catalogue.colour_lists import with_doubles_marked
from vervain.catalogue.device_inside import device_inside
from vervain.catalogue.device_ports import (
    device_ports,
    function_of,
    joined_feeds,
    two_wire,
)
from vervain.catalogue.drafts import Draft, drive_of, with_usual
from vervain.catalogue.hand_worked_pins import is_matrix
from vervain.catalogue.joined import join, missing_numbers
from vervain.catalogue.left_over import at_no_port
from vervain.catalogue.mixed_ports import told_apart
from vervain.catalogue.neighbours import told_by_others
from vervain.catalogue.pin_rows import READ_IN_PART, JoinedRow
from vervain.catalogue.pin_words import read_function
from vervain.catalogue.plugs_apart import apart, button_of_knobs
from vervain.catalogue.port_groups import PortGroup, grouped
from vervain.catalogue.port_roles import AS_DEVICE, BUS_FUNCTIONS, THROUGH, PortPin
from vervain.catalogue.printed_volts import without_volts
from vervain.catalogue.terminal_numbers import NAMED, are_switched
from vervain.catalogue.terminals import TERMINAL_KINDS, opens_by_heat, terminal_part
from vervain.catalogue.told_by_name import (
    ORDER,
    of_a_potentiometer,
    of_a_thermocouple,
    of_two_outputs,
    turning_on,
    with_order,
)
from vervain.catalogue.told_circuits import with_told
from vervain.model.base import Record
from vervain.model.part import BOARD_KINDS, Part, PartKind, PinFunction, is_safety_relay
from vervain.model.ratings import Controller, Driver, EncoderRating, Stepper

LEADS_WITH_USES = (6, 8)
# Which functions a kind cannot do without.
NEEDED: dict[str, tuple[PinFunction, ...]] = {
    "sensor": ("plus", "zero", "signal"),
    "switch": ("com",),
    "servo": ("plus", "zero", "signal"),
    "encoder": ("plus", "zero", "encoder A", "encoder B"),
    "supply": ("plus", "zero"),
}
# What gives thousandths of a volt has no supply, or one with a name of its own.
WITHOUT_SUPPLY: frozenset[PinFunction] = frozenset({"measure+"})
# What terminals of a switch may be called beside their numbers: nothing, what their contact does, a
# solenoid's, the mains'.
TERMINAL_WORDS = (None, "no", "nc", "coil+", "coil-", "line", "neutral")
# What a stepper driver is worked by; some are worked over a bus.
STEPPED: frozenset[str] = frozenset({"step", "direction", "enable", *BUS_FUNCTIONS})
MOST_PINS = 64
# What turns a module on, and what is said where it was taken for a solid-state relay.
TURNS_ON: frozenset[PinFunction | None] = frozenset({"signal", "pulse width"})
FED_AND_TOLD = "What has a feed beside its signal is a module: describe it as a relay module."


class Described(Record, frozen=True, kw_only=True):
    """The joined rows, what is wrong with the whole, and the part; None where there are no pins.
    Of a board also its ports in groups, and of which of them the levels are not known.
    """

    rows: tuple[JoinedRow, ...]
    problems: tuple[str, ...]
    part: Part | None
    groups: tuple[PortGroup, ...] = ()
    unknown: tuple[str, ...] = ()


# Kinds of parts of which two terminals of one name are the ends of what is between them.
TWICE: tuple[PartKind, ...] = ("fuse", "solid-state relay")


def describe(draft: Draft, part_id: str) -> Described:
    """The part that a draft gives, with every row that was typed and what is wrong with it."""
    draft = with_usual(draft)
    told = told_by_others(join(draft.pins_text, draft.colours_text, draft.kind), draft.kind)
    rows = of_a_potentiometer(turning_on(two_wire(told, draft), draft), draft)
    rows = of_two_outputs(of_a_thermocouple(rows, draft), draft)
    rows = button_of_knobs(rows) if draft.kind in BOARD_KINDS else apart(rows, draft.kind)
    rows = with_doubles_marked(rows)
    rows, coils_known = with_order(rows, draft.kind)
    used = [row for row in rows if row.is_used]
    functions = {function_of(row, draft) for row in used}
    crowded = [p for p in {row.port for row in used} if _pins_at(used, p) > MOST_PINS]
    unclear = tuple(_unclear(draft, functions, len(used)))
    if crowded:
        unclear += (
            f"More than {MOST_PINS} pins at one port: say in a column “port” which is where.",
        )
    if used and _is_told_by_terminals(draft, used):
        return _by_terminals(draft, part_id, rows, unclear)
    problems = (*_not_there(draft, rows, functions, missing_numbers(told)), *unclear)
    if not used or crowded:
        return Described(rows=rows, problems=problems, part=None)
    groups = groups_of(draft, used)
    draft = replace(draft, circuits=with_told(draft.kind, groups, draft.circuits))
    groups = tuple(
        replace(group, gives_plus=gives_plus(draft.circuits.get(f"{group.key}/output", "")))
        for group in groups
    )
    unknown = tuple(
        group.words
        for group in groups
        if any(not draft.circuits.get(key) for key in asked_circuits(draft.kind, group, groups))
    )
    part, unset = _part(draft, part_id, rows, groups)
    if not coils_known and part is not None:
        part = replace(part, inside=())
    lost = at_no_port(rows, part)
    return Described(
        rows=rows, problems=(*problems, *lost, *unset), part=part, groups=groups, unknown=unknown
    )


def _unclear(draft: Draft, functions: set[PinFunction], pins: int) -> Iterator[str]:
    """What of the numbers and the name of a part is not said, or is at odds."""
    has_uses = asks_for_use(draft.kind, functions, pins)
    if has_uses and draft.numbers.get("current_a") and not draft.rated:
        yield "Say what its current is for: one half of each phase, or both halves."
    if draft.kind == "stepper motor" and pins == len(ORDER) + 1:
        yield "A stepper with five leads, one common for all coils, is not known to Vervain yet."
    if draft.kind == "stepper driver" and "signal" in functions and not functions & STEPPED:
        yield "A stepper driver wants step and direction; one worked coil by coil is not known yet."
    if not draft.title.strip():
        yield "It has no name yet."
    if draft.kind in ("supply", "battery") and not (
        draft.numbers.get("nominal_v") and draft.numbers.get("current_a")
    ):
        yield "Say how many volts it gives, and how many amperes: else nothing is fed by it."
    low, high = draft.numbers.get("v_min_v"), draft.numbers.get("v_max_v")
    if low is not None and high is not None and low > high:
        yield "It works from more volts than it works to."


def _not_there(
    draft: Draft,
    rows: tuple[JoinedRow, ...],
    functions: set[PinFunction],
    missing: tuple[str, ...],
) -> Iterator[str]:
    """The pins between others that have no row, and those that a part of its kind cannot do
    without.
    """
    # On the plug of a three-lead sensor pin 2 is free (IEC 60947-5-2); the numbers at a contact say
    # what it does.
    is_usual = draft.kind == "switch" or (draft.kind, missing) == ("sensor", ("2",))
    # The socket of a motor with two coils has six cavities, of which four are used.
    is_usual = is_usual or (draft.kind == "stepper motor" and functions >= set(ORDER))
    if missing and not is_usual:
        yield f"Pin {', '.join(missing)} is missing between the others."
    if not any(row.is_used for row in rows):
        return
    if functions & WITHOUT_SUPPLY:
        return
    if draft.kind == "switch" and {"plus", "signal"} <= functions:
        yield "What is fed and gives a signal is a sensor: describe it as one."
        return
    if draft.kind == "switch" and is_matrix(rows):
        return
    if draft.kind == "switch" and functions <= {"none"}:
        leads = "one of its two leads" if _leads(rows) == 2 else "a lead of each contact"
        yield f"Write NO or NC at {leads}: what its contact does at rest."
        return
    for function in NEEDED.get(draft.kind, ()):
        if functions & BUS_FUNCTIONS and function not in ("plus", "zero"):
            continue
        if function == "zero" and drive_of(draft) == "current" and "signal" in functions:
            continue
        if function == "plus" and drive_of(draft) == "volts" and functions == {"signal", "zero"}:
            # An electrode is its own source.
            continue
        if function not in functions:
            article = "An" if draft.kind[0] in "aeiou" else "A"
            hint = _two_wire_hint(draft, functions)
            yield f"{article} {draft.kind} needs a pin for {function}.{hint}"


def _leads(rows: tuple[JoinedRow, ...]) -> int:
    return sum(row.is_used for row in rows)


def _two_wire_hint(draft: Draft, functions: set[PinFunction]) -> str:
    if draft.kind != "sensor" or functions != {"plus", "zero"}:
        return ""
    return (
        " A transmitter with two wires gives a current: choose 4 to 20 mA as its output."
        " The leads of a thermocouple are T+ and T−."
    )


def _by_terminals(
    draft: Draft, part_id: str, rows: tuple[JoinedRow, ...], problems: tuple[str, ...]
) -> Described:
    """A part that its terminals alone tell: what they are for stands in their numbers."""
    used = [row for row in rows if row.is_used]
    names = terminals_of(used, draft.kind)
    prints = {name: row.text for name, row in zip(names, used, strict=False)}
    made = terminal_part(draft.kind, prints, draft.numbers, draft.lead_length_m, draft.title)
    functions = {pin.id: pin.function for port in made.ports for pin in port.pins}
    taken = tuple(
        replace(row, pin=name, function=functions.get(name), marks=_lost(row))
        for row, name in zip(used, names, strict=False)
    )
    taken += tuple(row for row in rows if not row.is_used)
    part = None
    if made.ports:
        part = Part(
            id=part_id,
            kind=draft.kind,
            title=draft.title.strip() or f"My {draft.kind}",
            maker=draft.maker.strip(),
            model=draft.model.strip(),
            ports=made.ports,
            inside=made.inside,
            options=made.options,
        )
        part = with_current_types(part, draft)
    wrong = (FED_AND_TOLD,) if _is_fed_and_told(draft.kind, used) else made.problems
    return Described(rows=taken, problems=(*problems, *wrong), part=part)


def _is_fed_and_told(kind: PartKind, used: list[JoinedRow]) -> bool:
    """Whether what was said to be a solid-state relay has a feed besides what turns it on."""
    words = [word for row in used for word in row.text.split()]
    told = {read_function(word, "relay module") for word in words}
    return kind == "solid-state relay" and {"plus", "zero"} <= told and bool(told & TURNS_ON)


def _lost(row: JoinedRow) -> tuple[str, ...]:
    """What the marks of a row say of words that were not read."""
    return tuple(mark for mark in row.marks if mark.startswith(READ_IN_PART))


def _is_told_by_terminals(draft: Draft, used: list[JoinedRow]) -> bool:
    """Whether the numbers of its terminals tell what a part is, where no words do."""
    if draft.kind in TERMINAL_KINDS:
        return True
    has_words = any(row.function not in TERMINAL_WORDS for row in used)
    if draft.kind == "switch" and opens_by_heat(draft.title) and len(used) == 2:
        return True
    return draft.kind == "switch" and not has_words and are_switched(terminals_of(used, draft.kind))


def terminals_of(used: list[JoinedRow], kind: PartKind) -> tuple[str, ...]:
    """What is printed at the terminals of a part of a kind, in order."""
    names = [
        (without_volts(row.name) if row.port or _is_all(row) else row.pin) or str(number)
        for number, row in enumerate(used, 1)
    ]
    # Both ends of a contact may be called by what it does, those of a fuse by its number.
    both = {
        name for name in names
        if names.count(name) == 2 and (kind in TWICE or NAMED.match(f"{name}.1"))
    }  # fmt: skip
    ends = (
        f"{name}.{names[:at].count(name) + 1}" if name in both else name
        for at, name in enumerate(names)
    )
    return tuple(dict.fromkeys(ends))


def _is_all(row: JoinedRow) -> bool:
    """Whether the name of a row is all that is printed there, beside a colour."""
    return row.name == row.text.strip() or (bool(row.name) and row.pin not in row.text.split())


def groups_of(draft: Draft, used: list[JoinedRow]) -> tuple[PortGroup, ...]:
    """The ports of a board in groups; none for parts that have one plug, or leads."""
    if draft.kind not in BOARD_KINDS:
        return ()
    ports: dict[str, tuple[PortPin, ...]] = {}
    for row in used:
        pin = PortPin(row.name or row.pin, function_of(row, draft))
        name = row.port or "PORT"
        ports[name] = (*ports.get(name, ()), pin)
    # A module may be said to be wired pin by pin, and not to sit in a slot.
    has_wires = draft.kind == "stepper driver" and draft.roles.get("PORT") == AS_DEVICE.words
    told = told_apart(draft.kind, ports, has_wires)
    groups = grouped(draft.kind, told, draft.roles, draft.begins)
    if not is_safety_relay(draft.kind, (group.role.kind for group in groups)):
        return groups
    # Its contacts lie in the lines of contactors; they are no outputs that a load is plugged into.
    return tuple(
        replace(group, role=THROUGH) if group.role.kind == "relay contact" else group
        for group in groups
    )


def asks_for_use(kind: str, functions: set[PinFunction], pins: int) -> bool:
    """Whether a motor has two phases and so many leads that its windings can be used in more than
    one way.
    """
    return kind == "stepper motor" and pins in LEADS_WITH_USES and "phase A+" in functions


def _pins_at(rows: list[JoinedRow], port: str) -> int:
    return sum(row.port == port for row in rows)


def _part(
    draft: Draft, part_id: str, rows: tuple[JoinedRow, ...], groups: tuple[PortGroup, ...]
) -> tuple[Part, tuple[str, ...]]:
    """The part, and what of its settings was not understood."""
    used = [row for row in rows if row.is_used]
    board = BoardDraft(
        kind=draft.kind, groups=groups, circuits=draft.circuits, numbers=draft.numbers,
        apart=draft.apart, connectors=draft.connectors, places=draft.places,
        size_mm=draft.size_mm, settings_text=draft.settings_text,
        is_isolated=called_isolated(draft.title),
    )  # fmt: skip
    ports = device_ports(draft, used)
    made = SetBoard(ports=ports, inside=(*device_inside(draft, ports), *joined_feeds(ports)))
    if groups:
        made = with_settings(board, board_ports(board))
        made = replace(made, inside=(*board_inside(board, made.ports, made.workers), *made.inside))
    ports = made.ports
    left_out = [row.text for row in rows if not row.is_used and row.text]
    note = f"Rows not used: {'; '.join(left_out)}" if left_out else ""
    part = Part(
        id=part_id,
        kind=draft.kind,
        title=draft.title.strip() or f"My {draft.kind}",
        maker=draft.maker.strip(),
        model=draft.model.strip(),
        note=note,
        ports=ports,
        inside=made.inside,
        board=board_outline(ports, draft.size_mm) if groups else None,
        bar_max_a=draft.numbers.get("bar_max_a") or None,
        options=made.options,
        indicators=made.indicators,
    )
    return _with_ratings(with_current_types(part, draft), draft), made.problems


def _with_ratings(part: Part, draft: Draft) -> Part:
    """The part with the ratings that the checks and the axis arithmetic read."""
    numbers = draft.numbers
    functions = {pin.function for port in part.ports for pin in port.pins}
    phases: Literal[2, 3] = 3 if "phase U" in functions else 2
    has_phases = bool(functions & {"phase A+", "phase U"})
    if draft.kind == "stepper motor":
        pins = sum(len(port.pins) for port in part.ports)
        stepper = Stepper(
            phases=phases,
            current_a=numbers.get("current_a") or None,
            steps_per_turn=max(4, int(numbers.get("steps_per_turn") or 200)),
            rated=(asks_for_use(draft.kind, functions, pins) and draft.rated) or "as wired",
        )
        return replace(part, stepper=stepper)
    if draft.kind in ("encoder", "hand wheel") and numbers.get("lines_per_turn"):
        lines = max(1, int(numbers["lines_per_turn"]))
        return replace(part, encoder=EncoderRating(lines_per_turn=lines))
    if draft.kind == "stepper driver" and has_phases:
        driver = Driver(phases=phases, current_max_peak_a=numbers.get("current_max_peak_a") or None)
        return replace(part, driver=driver)
    if draft.kind == "controller" and numbers.get("step_rate_max_hz"):
        return replace(part, controller=Controller(step_rate_max_hz=numbers["step_rate_max_hz"]))
    return part
