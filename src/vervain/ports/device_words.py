"""What devices are called at the ports that are for them: data/tables/device_words.toml."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PartKind


class Called(Record, frozen=True):
    """What devices of a kind are called besides."""

    kind: PartKind
    words: tuple[str, ...]


@table_reader
def device_words() -> dict[str, tuple[str, ...]]:
    """The words of each kind. Raises `ValueError` where the table is not one."""
    table = tomllib.loads(data_text("tables/device_words.toml"))
    try:
        rows = msgspec.convert(table["device"], list[Called])
    except (KeyError, msgspec.ValidationError) as error:
        raise ValueError(str(error)) from None
    return {row.kind: row.words for row in rows}


@table_reader
def short_prints() -> dict[str, tuple[str, ...]]:
    """The words that each short print stands for. Raises `ValueError` where it is no table."""
    table = tomllib.loads(data_text("tables/device_words.toml"))
    try:
        return msgspec.convert(table.get("short", {}), dict[str, tuple[str, ...]])
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
