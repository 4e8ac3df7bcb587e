"""What pin tables call the functions of pins, from data/tables/pin_words.toml and
from own_words.toml."""

import re
import tomllib

import msgspec

from vervain.catalogue.printed_volts import volts_printed, without_volts
from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PinFunction


class Wording(Record, frozen=True, kw_only=True):
    """One function and the words for it; `kind` limits it to parts of these kinds, `port` to ports
    whose names have a word that begins so. A signal of a source may permit it to start.
    """

    function: PinFunction
    words: tuple[str, ...]
    kind: tuple[str, ...] = ()
    port: tuple[str, ...] = ()
    permits: bool = False


@table_reader
def wordings() -> tuple[Wording, ...]:
    """The table, in its order, after what the builder said of words."""
    rows = tomllib.loads(data_text("tables/pin_words.toml"))["function"]
    return (*own_wordings(), *msgspec.convert(rows, list[Wording]))


@table_reader
def _names_of_connectors() -> frozenset[str]:
    table = tomllib.loads(data_text("tables/pin_words.toml"))
    return frozenset(table.get("connectors", {}).get("words", ()))


def names_connectors(text: str) -> bool:
    """Whether a word is what connectors are called by what they are for, one or several of them,
    counted or not: INPUT, INPUTS, MOTOR 2.
    """
    word = re.sub(r"[\W\d_]", "", text.casefold())
    return bool({word, word.rstrip("s"), f"{word}s"} & _names_of_connectors())


@table_reader
def _sockets() -> frozenset[str]:
    table = tomllib.loads(data_text("tables/pin_words.toml"))
    return frozenset(table.get("sockets", {}).get("words", ()))


def has_no_wires(line: str) -> bool:
    """Whether a line names what takes a ready-made cable, a card or an antenna: USB."""
    return " ".join(line.casefold().split()) in _sockets()


@table_reader
def kinds_printed_by_standard() -> frozenset[str]:
    """Kinds of parts whose terminals bear what a standard prints there."""
    table = tomllib.loads(data_text("tables/pin_words.toml"))
    return frozenset(table.get("terminals", {}).get("kinds", ()))


@table_reader
def permit_words() -> frozenset[str]:
    """What is printed at inputs of a tool power source that must be closed before it starts."""
    return frozenset(word for row in wordings() if row.permits for word in row.words)


@table_reader
def own_wordings() -> tuple[Wording, ...]:
    """The builder's own words. Raises `ValueError` where the table holds anything else."""
    table = tomllib.loads(data_text("tables/own_words.toml"))
    if other := set(table) - {"function"}:
        raise ValueError(f"“{min(other)}” is not known here; words stand under [[function]]")
    return tuple(msgspec.convert(table.get("function", []), list[Wording]))


def _plain(text: str) -> str:
    """Text without what does not matter: case, kinds of minus, spaces, dots, underscores."""
    cleaned = text.casefold().replace("−", "-").replace("–", "-").replace("\u0305", "/")
    return re.sub(r"[\s._:]+", "", cleaned)


# What is printed of a signal by its range, "0-10V" or "4-20mA" (IEC 60381), and of a feed by its
# window, "10-30V".
SIGNAL_RANGE = re.compile(r"^(?:0(?:-|to)\d+v|[±+]/?-?\d+v/-\d+v|±\d+v|(?:0|4)(?:-|to)20ma)$")
FEED_RANGE = re.compile(r"^\+?[1-9]\d*(?:-|to|/)\d+v(?:dc|ac/dc)?$")
# Volts with the sign of the pole, or with the word for direct current: 24V-, DC 12-24V, 0VDC; no
# “2 0V”, which is a number and a terminal.
POLE = re.compile(
    r"^(?:dc\s?)?\+?(?P<volts>(?:\d+(?:-|to|/))?\d+\s?v)\s?(?:dc)?\s?(?P<sign>[+-]?)$"
)


REMARK = re.compile(r"^(\S.*?)\s*[(\[][^()\[\]]*[)\]]$")
# Ports that are called by the letter of an axis alone.
AXIS = re.compile(r"^[XYZABCUVWE]\d?$", re.I)
GENERAL = re.compile(r"^~?(?:gpio|gp|io|d|p[a-h]?|a|an|adc)\d{1,2}$")


# What the sign behind the name of a plug means besides a plus and a 0 V.
MEASURED: tuple[PinFunction, ...] = ("measure+", "measure-")
OF_A_MOTOR: tuple[PinFunction, ...] = ("motor+", "motor-")
# The plus of a controller that feeds its outputs apart from itself: 2L+, QL+.
OF_OUTPUTS = re.compile(r"^[\dq]l\+$")
# The plus of a driver's logic, 3.3 or 5 V.
OF_LOGIC = re.compile(r"^\+?(?:V[ _-]?IO|VL|V[ _-]?LOGIC|VDD|3V3|3\.3V)$", re.I)


# What turns a drive on by the plus of its battery, through a key switch.
OF_KEY = re.compile(r"^(?:key|ign|ignition|acc|e-?lock|doorlock|powerlock)$", re.I)


def feeds_by_key(text: str) -> bool:
    """Whether a pin of a drive is turned on by the plus that feeds it, by its name."""
    return OF_KEY.match(_plain(text)) is not None


def feeds_outputs(text: str) -> bool:
    """Whether a pin is the plus from which a controller's outputs give, by its name."""
    return OF_OUTPUTS.match(_plain(text)) is not None


def feeds_logic(text: str) -> bool:
    """Whether a pin is the plus that feeds the logic of a driver apart from its motor."""
    return OF_LOGIC.match(text) is not None


@table_reader
def _functions(kind: str) -> dict[str, PinFunction]:
    found: dict[str, PinFunction] = {}
    for limited in (True, False):
        for row in wordings():
            if not row.port and bool(row.kind) == limited and (not row.kind or kind in row.kind):
                for word in row.words:
                    found.setdefault(_plain(word), row.function)
                found.setdefault(_plain(row.function), row.function)
    return found


def is_general(text: str) -> bool:
    """Whether a pin of a controller is one that is used as one likes, by what is printed at it."""
    return GENERAL.match(_plain(text)) is not None


def is_range(text: str) -> bool:
    """Whether a pin is called by the range of an analogue signal."""
    return SIGNAL_RANGE.match(_plain(text)) is not None


def read_function(text: str, kind: str) -> PinFunction | None:
    """The function that a word means on a part of a kind; None where it is not known."""
    known = _functions(kind)
    plain = _plain(text)
    if plain in known:
        return known[plain]
    if SIGNAL_RANGE.match(plain):
        return "signal"
    if FEED_RANGE.match(plain):
        return "plus"
    if (pole := POLE.match(text.strip().casefold())) is not None:
        return "zero" if pole["sign"] == "-" or pole["volts"][:-1].strip() == "0" else "plus"
    either = [known.get(part) for part in plain.split("/")] if "/" in plain else []
    if len(either) == 2 and all(either):
        # What may be used as one or the other: TRIG/PWM.
        return either[0]
    # A number that only counts, at the end or before a sign: GND2, V1+.
    counted = known.get(re.sub(r"(\(\d+\)|\d+)$", "", plain))
    counted = counted or known.get(re.sub(r"(?<=[a-z])\d+(?=[+-]$)", "", plain))
    if counted is None and (remark := REMARK.match(text)) is not None:
        # What is said of it in brackets: PUL+(5V).
        return read_function(remark[1], kind)
    return counted or ("plus" if is_plus_with_volts(text, kind) else None)


def is_plus_with_volts(text: str, kind: str) -> bool:
    """Whether a text is the name of a plus and the volts that it takes: “VIN 12-24V”."""
    name = without_volts(text)
    is_named = name != text and volts_printed(name) is None
    return is_named and _functions(kind).get(_plain(name)) == "plus"


# A connector that is called by its volts, and what may be printed at its two terminals.
VOLTS = re.compile(r"^\d{1,3}(?:[.,]\d)?\s?V\b", re.I)
ENDS_OF_FEED = frozenset(f"{word}{sign}" for word in ("in", "out", "dc") for sign in "+-")


def function_at(port: str, text: str, kind: str) -> PinFunction | None:
    """The function that a word means at a port of this name, on a part of a kind; None where the
    table says nothing of such ports: "A+" is a channel at ENC, a phase at MOTOR.
    """
    at_axis = AXIS.match(port) is not None
    # R1A of R1A, R1B and R1C is RA.
    lettered = re.sub(r"^([a-z])\d([a-z])$", r"\1\2", port.casefold())
    named = ["axis"] if at_axis else re.findall(r"[a-z]+", lettered)
    plain = _plain(text)
    found = _by_named(named, plain, kind)
    if (
        found is None
        and at_axis
        and re.search("[a-z]", short := plain.removeprefix(port[0].lower()))
    ):
        # The letter of an axis may stand before each of its pins: XP+ and XD+ at X.
        found = _by_named(named, short, kind)
        if found is None and short != plain:
            found = _functions(kind).get(short)
    if found is None and VOLTS.match(port) and plain in ENDS_OF_FEED:
        found = _functions(kind).get(plain[-1])
    if found is None and plain[-1:] in ("+", "-") and plain[:-1] == _plain(port):
        # The signs of a plug by its name: BED+ and BED- at BED; T+ of T is measured anywhere, M1+
        # of M1 a motor's, B+ of B a feed's.
        known = _functions(kind).get(plain)
        is_own = known in (*MEASURED, "alarm")
        is_own = is_own or (known in OF_A_MOTOR and plain not in ("b+", "b-"))
        found = known if is_own else _functions(kind).get(plain[-1])
    return found


def _by_named(named: list[str], plain: str, kind: str) -> PinFunction | None:
    """The function of a word at a port whose name has these words."""
    bare = re.sub(r"(\(\d+\)|\d+)$|(?<=^[a-z])\d(?=[a-z]$)", "", plain)
    for row in wordings():
        at_port = any(word.startswith(row.port) for word in named) if row.port else False
        if at_port and (not row.kind or kind in row.kind):
            known = {_plain(word) for word in row.words}
            if plain in known or bare in known:
                return row.function
    return None
