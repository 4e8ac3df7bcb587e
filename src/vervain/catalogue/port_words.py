"""What ports of boards are by what is printed there, from data/tables/port_words.toml."""

import tomllib
from collections.abc import Iterable

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PortKind


class NamedPort(Record, frozen=True, kw_only=True):
    """A kind of port and the words for it: whole ones, and beginnings."""

    kind: PortKind
    whole: tuple[str, ...] = ()
    begins: tuple[str, ...] = ()


class LineWords(Record, frozen=True):
    """Beginnings of words of lines, and words that are `never` one."""

    begins: tuple[str, ...] = ()
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
