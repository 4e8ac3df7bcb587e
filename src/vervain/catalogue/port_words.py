"""What ports of boards are by what is printed there, from data/tables/port_words.toml."""

import re
import tomllib
from collections.abc import Iterable

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PinFunction, PortKind

# One letter alone may be a phase or a channel.
NAMES_A_LINE = re.compile(r"^(?:[A-Z]{2}|[IQT]\d)", re.I)
# What plus and minus are at a line: what is read against its own 0 V, or gives a level against it;
# the leads of a thermistor; what a load gets.
LEVEL: tuple[PinFunction, PinFunction] = ("signal", "zero")
ENDS: dict[PortKind, tuple[PinFunction, PinFunction]] = {
    "digital input": LEVEL, "analogue input": LEVEL, "analogue output": LEVEL,
    "pulse input": LEVEL, "thermistor input": ("signal", "signal"),
    "switched output": ("plus", "zero"),
}  # fmt: skip


class NamedPort(Record, frozen=True, kw_only=True):
    """A kind of port and the words for it: whole ones, and beginnings."""

    kind: PortKind
    whole: tuple[str, ...] = ()
    begins: tuple[str, ...] = ()


class LineWords(Record, frozen=True):
    """Beginnings of words of lines, of outputs that give `levels`, of what gives pulses that are
    `counted`, and words that are `never` a line.
    """

    begins: tuple[str, ...] = ()
    levels: tuple[str, ...] = ()
    counted: tuple[str, ...] = ()
    never: frozenset[str] = frozenset()


class PowerWords(Record, frozen=True):
    """Beginnings of words where power comes in; `always` also where a line is."""

    always: tuple[str, ...] = ()
    begins: tuple[str, ...] = ()


class PortWords(Record, frozen=True):
    """The table."""

    port: tuple[NamedPort, ...]
    lines: LineWords = LineWords()
    power: PowerWords = PowerWords()

    def kind_by_whole(self, words: Iterable[str]) -> PortKind | None:
        """What a port is by the first of its words that is one of the table."""
        for word in words:
            for row in self.port:
                if word in row.whole:
                    return row.kind
        return None

    def kinds_by_beginning(self, words: list[str]) -> list[PortKind]:
        """What a port may be by the beginnings of its words, in the order of the table."""
        return [row.kind for row in self.port if any(word.startswith(row.begins) for word in words)]

    def ends_of_line(self, name: str) -> tuple[PinFunction, PinFunction] | None:
        """What plus and minus are at a port of this name, where it is a line: IN1, AO0, PROBE, T0,
        OUT1; None of any other, and of IN or OUT alone, where power may come in or go out.
        """
        words = re.findall("[a-z]+", name.casefold())
        is_power = not re.search(r"\d", name) and any(map(self.is_of_power, words))
        if is_power or not NAMES_A_LINE.match(name):
            return None
        if self.gives_a_level(name):
            return LEVEL
        if words[:1] in (["motor"], ["mot"]):
            # The A of MOTOR A says which motor.
            words = words[:1]
        kind = self.kind_by_whole(words) or next(iter(self.kinds_by_beginning(words)), None)
        return ENDS.get(kind) if kind is not None else None

    def gives_a_level(self, name: str) -> bool:
        """Whether a port is called after what a level works: steps, pulses, a solid-state relay."""
        words = re.findall("[a-z]+", name.casefold())
        if words and words[0].startswith(self.lines.counted):
            words = [word for word in words[1:] if not word.startswith("pul")]
        return any(word.startswith(self.lines.levels) for word in words)

    def is_switched(self, name: str) -> bool:
        """Whether the name of a port is that of an output which switches loads."""
        words = re.findall("[a-z]+", name.casefold())
        return "switched output" in (self.kind_by_whole(words), *self.kinds_by_beginning(words))

    def tells(self, word: str) -> bool:
        """Whether the beginning of a word is one of the table."""
        return bool(self.kinds_by_beginning([word]))

    def is_of_power(self, word: str) -> bool:
        """Whether a word says that power comes in."""
        return word.startswith((*self.power.always, *self.power.begins))


@table_reader
def port_words() -> PortWords:
    """The table in force. Raises `ValueError` where it is not one."""
    try:
        return msgspec.convert(tomllib.loads(data_text("tables/port_words.toml")), PortWords)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
