"""What is set on a board, one line each: jumpers, switches, numbers, and pins shared inside.

JP1 on IN 1-4: NPN 1-2, PNP 2-3 = NPN
JP3 servo power: 5V 1-2 joins 5V VS, 6V 2-3 joins 6V VS = 5V
SW1 microsteps: 1 000, 2 100, 4 010, 8 110 = 8
current: 0.3 to 4.2 A = 2
JA on SLOT A: on its own, as X 1-2 follows SLOT X
JS: fitted 1-2 bridges STOP, removed = fitted
shared pin 14: LIMIT Z.IN, SPINDLE.PWM
fuse F1: POWER.V to OUT.V
RELAY 1: worked by FOOT D.D4
lamp PWR green at 12, 30 mm: 24 V is there
"""

import re
from collections.abc import Iterator, Sequence
from typing import get_args

import msgspec
from msgspec.structs import replace

from vervain.catalogue.port_names import port_names
from vervain.model.base import Record
from vervain.model.elements import Bridge, Element, Fuse, PinAt
from vervain.model.known_options import BY_ID
from vervain.model.part import Drawn, Indicator, IndicatorColour, Option, Port, Reserved
from vervain.model.problem import Problem, did_you_mean
from vervain.text.quantities import NotAQuantity, read_quantity

# The trade's words for what rules read, by the option's id.
KNOWN_WORDS = {
    "microsteps": "microsteps", "microstepping": "microsteps", "current": "current_peak_a",
    "invert": "invert", "inverted": "invert", "filter": "filter", "direction": "direction",
    "enable": "enable", "duty": "duty_max", "heat sink": "heat_sink",
}  # fmt: skip
MOST_LINES, MOST_CHOICES, MOST_WORDS = 40, 64, 60
NUMBERS = re.compile(
    r"^(?P<low>[-+.\d]+)\s*(?:to|…|-)\s*(?P<high>[-+.\d]+)\s*(?P<unit>[A-Za-z%Ω]*)$"
)
POSTS = re.compile(r"^(?:\d+-\d+|off|open|[01]{2,12})$")
LAMP = re.compile(
    r"^lamp (?P<name>.+?) (?P<colour>[A-Za-z]+)"
    r"(?: at (?P<x>\d{1,4}(?:\.\d+)?),? (?P<y>\d{1,4}(?:\.\d+)?)(?: ?mm)?)?$",
    re.IGNORECASE,
)
MOST_MEANING = 200
WORKED_BY = ["worked", "by"]
DOES = re.compile(r"\s+(joins|follows|bridges)\s+")
FUSE_A, LARGEST_A = re.compile(r"(\d+(?:[.,]\d+)?)\s*A\b"), 30.0
# Where jumpers are drawn that nobody has placed: one below the other in the middle of the board.
FIRST_MM, APART_MM = 20.0, 11.0


class SettingLines(Record, frozen=True, kw_only=True):
    """What the lines say: options, what inputs read by an option, what is joined inside, which
    ports an option takes, which pin works the contacts of a port, lamps; and what was not
    understood, each with its line's number.
    """

    options: tuple[Option, ...] = ()
    reads: dict[str, str] = msgspec.field(default_factory=dict)
    inside: tuple[Element, ...] = ()
    reserved: dict[str, tuple[Reserved, ...]] = msgspec.field(default_factory=dict)
    workers: dict[str, PinAt] = msgspec.field(default_factory=dict)
    indicators: tuple[Indicator, ...] = ()
    problems: tuple[str, ...] = ()


class Choice(Record, frozen=True, kw_only=True):
    """One choice of a line: its word, how it stands, and what it does to which pins or port."""

    word: str
    posts: str = ""
    does: str = ""
    to: str = ""


def read_setting_lines(text: str, ports: Sequence[Port]) -> SettingLines:
    """The settings of a board with these ports. What is not understood is told, the rest stays."""
    whole = SettingLines()
    problems: list[str] = []
    lines = [(n, line.strip()) for n, line in enumerate(text.splitlines(), 1) if line.strip()]
    for number, line in lines[:MOST_LINES]:
        try:
            whole = _with(whole, _read_line(line, ports, len(whole.options)))
        except Problem as problem:
            problems.append(f"Setting {number}: {problem}")
    return replace(whole, problems=tuple(problems))


def _with(whole: SettingLines, found: SettingLines) -> SettingLines:
    """Two readings in one. Raises `Problem` where they have an option of one name."""
    for before, after in ((whole.options, found.options), (whole.indicators, found.indicators)):
        twice = {item.id for item in before} & {item.id for item in after}
        if twice:
            raise Problem(f"There are two of the name {min(twice)}.")
    reserved = dict(whole.reserved)
    for port, items in found.reserved.items():
        reserved[port] = (*reserved.get(port, ()), *items)
    return SettingLines(
        options=(*whole.options, *found.options),
        reads={**whole.reads, **found.reads},
        inside=(*whole.inside, *found.inside),
        reserved=reserved,
        workers={**whole.workers, **found.workers},
        indicators=(*whole.indicators, *found.indicators),
    )


def _read_line(line: str, ports: Sequence[Port], number: int) -> SettingLines:
    """What one line says; `number` options are above it. Raises `Problem`."""
    head, _, rest = line.partition(":")
    if not rest.strip():
        raise Problem("Write a name, a colon, then what it can be.")
    words = head.split(None, 1)
    first = words[0].casefold() if words else ""
    if first == "shared":
        pins = tuple(pin for name in rest.split(",") for pin in pins_named(name, ports))
        if len(pins) < 2:
            raise Problem("Two pins share something: “LIMIT Z.IN, SPINDLE.PWM”.")
        shared = words[1] if len(words) > 1 else "pin"
        return SettingLines(inside=(Bridge(pins=pins, name=shared[:MOST_WORDS]),))
    if first == "fuse":
        ends = re.split(r"\s+to\s+", rest.strip())
        if len(ends) != 2:
            raise Problem("A fuse is between two pins: “POWER.V to OUT.V”.")
        a, b = (pins_named(end, ports)[0] for end in ends)
        return SettingLines(inside=(Fuse(pins=(a, b)),), options=_fuse_ratings(head))
    if rest.split()[:2] == WORKED_BY:
        return SettingLines(workers=_workers(head, rest.split(None, 2)[2:], ports))
    if first == "lamp":
        return SettingLines(indicators=(_indicator(head, rest),))
    option, found = _option(head, rest, ports, number)
    return replace(found, options=(option,))


def _workers(head: str, named: list[str], ports: Sequence[Port]) -> dict[str, PinAt]:
    """Which pin works the contacts of some ports; the first of that name. Raises `Problem`."""
    if not named:
        raise Problem("Say which pin works it: “RELAY 1: worked by FOOT D.D4”.")
    pin = pins_named(named[0], ports)[0]
    return dict.fromkeys(_ports_named(head, ports), pin)


def _indicator(head: str, rest: str) -> Indicator:
    """A lamp: its print, its colour, where it lies, and what it means. Raises `Problem`."""
    found = LAMP.match(" ".join(head.split()))
    colours = get_args(IndicatorColour)
    colour = next((c for c in colours if found and c == found["colour"].casefold()), None)
    if found is None or colour is None:
        raise Problem(
            f"A lamp has a name and one of the colours {', '.join(colours)}.",
            remedy="Write it as “lamp PWR green at 12, 30 mm: 24 V is there”.",
        )
    return Indicator(
        id=found["name"][:MOST_WORDS], colour=colour, means=rest.strip()[:MOST_MEANING],
        x_mm=float(found["x"] or 0), y_mm=float(found["y"] or 0),
    )  # fmt: skip


def _fuse_ratings(head: str) -> tuple[Option, ...]:
    """The option of a fuse on the board: its rating, of which the head says what is fitted."""
    found = FUSE_A.search(head)
    fitted_a = float(found[1].replace(",", ".")) if found else None
    most_a = max(LARGEST_A, fitted_a or 0.0)
    return (
        Option(id="rating_a", title=head.split(None, 1)[-1].strip()[:MOST_WORDS], unit="A",
               minimum=0.1, maximum=most_a, default=fitted_a),
    )  # fmt: skip


def _option(
    head: str, rest: str, ports: Sequence[Port], number: int
) -> tuple[Option, SettingLines]:
    """One option, and what goes with its choices. Raises `Problem`."""
    names, _, on = head.partition(" on ")
    option_id, title = _names(names)
    at = _ports_named(on, ports) if on.strip() else ()
    values, _, default = rest.rpartition("=") if "=" in rest else (rest, "", "")
    values, default = values.strip(), default.strip()
    numeric = NUMBERS.match(values)
    if numeric:
        return _number(option_id, title, numeric, default, at), SettingLines()
    choices = [_choice(text) for text in values.split(",") if text.strip()]
    words = tuple(choice.word for choice in choices)
    if len(words) < 2 or len(words) > MOST_CHOICES or len(set(words)) < len(words):
        raise Problem("Write at least two different choices with commas between.")
    if default and default not in words:
        raise Problem(f"“{default}” is none of its choices.", remedy=did_you_mean(default, words))
    reads = dict.fromkeys(at, option_id) if set(words) == {"NPN", "PNP"} else {}
    option = Option(
        id=option_id, title=title, choices=words, default=default or words[0],
        ports=() if reads or any(c.does in ("follows", "bridges") for c in choices) else at,
        drawn=_drawn(choices, number),
    )  # fmt: skip
    return option, SettingLines(
        reads=reads,
        inside=tuple(_bridges(option_id, choices, ports)),
        reserved=dict(_reserved(option_id, choices, at, ports)),
    )


def _names(text: str) -> tuple[str, str]:
    """The id and the title: "JP3 servo power" is JP3; a word of the trade is what rules read."""
    cleaned = " ".join(text.split())[:MOST_WORDS]
    known = KNOWN_WORDS.get(cleaned.casefold())
    if known is not None:
        return known, cleaned[:1].upper() + cleaned[1:]
    first, _, more = cleaned.partition(" ")
    by_more = KNOWN_WORDS.get(more.casefold())
    title = f"{first}: {more}" if more else first
    return by_more or first, title


def _number(
    option_id: str, title: str, found: re.Match[str], default: str, at: tuple[str, ...]
) -> Option:
    unit = BY_ID[option_id].unit if option_id in BY_ID else found["unit"]
    try:
        low, high = (read_quantity(found[key] + found["unit"], unit) for key in ("low", "high"))
        value = read_quantity(default, unit) if default else None
    except NotAQuantity as wrong:
        raise Problem(str(wrong)) from None
    if low > high or (value is not None and not low <= value <= high):
        raise Problem(f"From {low:g} to {high:g} {unit} there is no such value.")
    return Option(
        id=option_id, title=title, unit=unit, minimum=low, maximum=high, default=value, ports=at
    )


def _choice(text: str) -> Choice:
    word, *more = DOES.split(text.strip(), maxsplit=1)
    does, to = (more[0], more[1].strip()) if more else ("", "")
    parts = word.split()
    posts = ""
    if len(parts) > 1 and POSTS.match(parts[-1]):
        posts = parts.pop()
    word = " ".join(parts)
    if not word or len(word) > MOST_WORDS:
        raise Problem("A choice has no word.")
    return Choice(word=word, posts="off" if posts == "open" else posts, does=does, to=to)


def _drawn(choices: Sequence[Choice], number: int) -> Drawn | None:
    """How an option is seen on the board, where its choices say how they stand."""
    given = [choice.posts for choice in choices if choice.posts]
    if not given:
        return None
    switches = all(set(posts) <= {"0", "1"} for posts in given)
    positions = {choice.word: choice.posts or "off" for choice in choices}
    if switches and ("off" in positions.values() or len({len(posts) for posts in given}) > 1):
        raise Problem("Say how the switches stand for every choice, one 0 or 1 a switch.")
    return Drawn(
        form="switches" if switches else "jumper", x_mm=FIRST_MM,
        y_mm=FIRST_MM + number * APART_MM, positions=positions,
    )  # fmt: skip


def _bridges(option_id: str, choices: Sequence[Choice], ports: Sequence[Port]) -> Iterator[Bridge]:
    """What choices join: "joins 5V VS" all pins of both names."""
    for choice in choices:
        if choice.does == "joins":
            names = choice.to.replace(" and ", " ").split()
            pins = tuple(pin for name in names for pin in pins_named(name, ports))
            if len(names) < 2:
                raise Problem(f"“{choice.to}” are not two pins to join.")
            yield Bridge(pins=pins, when=(option_id, choice.word))


def _reserved(
    option_id: str, choices: Sequence[Choice], at: tuple[str, ...], ports: Sequence[Port]
) -> Iterator[tuple[str, tuple[Reserved, ...]]]:
    """The ports that a choice takes: what follows another port, what a jumper bridges."""
    for choice in choices:
        if choice.does == "follows":
            twin = _ports_named(choice.to, ports)[0]
            if not at:
                raise Problem("Say which port follows: “JA on SLOT A: …”.")
            for port in at:
                yield port, (Reserved(option=option_id, value=choice.word, twin_of=twin),)
        elif choice.does == "bridges":
            for port in _ports_named(choice.to, ports):
                yield port, (Reserved(option=option_id, value=choice.word, bridged=True),)


def _ports_named(text: str, ports: Sequence[Port]) -> tuple[str, ...]:
    """Ports by their names, ranges written out. Raises `Problem`."""
    known = {port.id.casefold(): port.id for port in ports}
    found = []
    for name in port_names(text.strip()):
        if name.casefold() not in known:
            remedy = did_you_mean(name, known.values())
            raise Problem(f"The board has no port “{name}”.", remedy=remedy)
        found.append(known[name.casefold()])
    return tuple(found)


def pins_named(text: str, ports: Sequence[Port]) -> tuple[PinAt, ...]:
    """The pins of a name, "5V"; or one pin of a port, "SPINDLE.PWM". Raises `Problem`."""
    wanted = text.strip()
    port_name, dot, pin_name = wanted.rpartition(".")
    found = [
        (port.id, pin.id)
        for port in ports
        if not dot or port.id.casefold() == port_name.strip().casefold()
        for pin in port.pins
        if (pin_name if dot else wanted).strip().casefold() in (pin.name.casefold(), pin.id)
    ]
    if not found:
        names = [pin.name for port in ports for pin in port.pins if pin.name]
        remedy = did_you_mean(pin_name if dot else wanted, dict.fromkeys(names))
        raise Problem(f"The board has no pin “{wanted}”.", remedy=remedy)
    return tuple(found)
