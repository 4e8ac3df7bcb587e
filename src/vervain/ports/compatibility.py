"""The table of which port kinds go together, data/tables/mates.toml."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.electrical import Reading


class Mate(Record, frozen=True, kw_only=True):
    """Device kind and host kind, their pin functions in pairs, and those that must be joined; with
    `by_pin` pins of the same id go together instead. `level` rows are for devices that read a level
    at hosts that give one; a row is none for devices that have a pin of those it is `without`.
    """

    device: str
    host: str
    pairs: tuple[tuple[str, str], ...]
    needed: tuple[str, ...]
    by_pin: bool = False
    reads: Reading | None = None
    level: bool = False
    without: frozenset[str] = frozenset()


@table_reader
def mates() -> tuple[Mate, ...]:
    """Every row of the table, in its order."""
    text = data_text("tables/mates.toml")
    return tuple(msgspec.convert(tomllib.loads(text)["mate"], list[Mate]))


def mates_of(device_kind: str, host_kind: str) -> tuple[Mate, ...]:
    """The rows for one pair of kinds; several where the input decides by what it reads."""
    return tuple(row for row in mates() if (row.device, row.host) == (device_kind, host_kind))


def hosts_of(device_kind: str) -> tuple[str, ...]:
    """The host kinds that a device kind can go to."""
    return tuple(dict.fromkeys(row.host for row in mates() if row.device == device_kind))
