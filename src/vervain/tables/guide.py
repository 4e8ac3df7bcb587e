"""The guide to each stage: what it is for, and where one begins: data/tables/guide.toml."""

import tomllib

import msgspec

from vervain.data import FOLDER, data_text, table_reader
from vervain.model.base import Record


class GuideStep(Record, frozen=True, kw_only=True):
    """A line of a guide: the part of the window that it is about, the keys, the words."""

    at: str
    keys: str = ""
    words: str


class Guide(Record, frozen=True, kw_only=True):
    """What a stage is for, and where one begins."""

    what: str
    step: tuple[GuideStep, ...]


@table_reader
def guides() -> dict[str, Guide]:
    """The guide to each stage. Raises `ValueError` where the table lacks a stage, or is no table of
    guides.
    """
    rows = tomllib.loads(data_text("tables/guide.toml"))
    try:
        found = msgspec.convert(rows, dict[str, Guide])
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
    stages = tomllib.loads((FOLDER / "tables/guide.toml").read_text("utf-8"))
    if set(found) != set(stages):
        raise ValueError(f"it needs a guide to each of {', '.join(stages)}")
    return found
