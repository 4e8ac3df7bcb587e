"""The table of what is generally known of failures: tables/troubleshooting.toml."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Name, Positive, Record
from vervain.model.part import PartKind
from vervain.rules.finding import Stage


class Weight(Record, frozen=True, kw_only=True):
    """How often something is the cause, against others, and how many minutes its test takes."""

    weight: Positive
    time_min: Positive


class Symptom(Record, frozen=True, kw_only=True):
    """What a builder sees without a step: in words, at which kinds of part, and which kind of step
    proves the same.
    """

    id: Name
    words: Name
    parts: tuple[PartKind, ...]
    like: Name


class KnownCause(Record, frozen=True, kw_only=True):
    """What may be wrong at steps or symptoms `of` some kinds, the test that tells, and the stage on
    which it is put right. {device}, {host}, {port} and {axis} are filled in.
    """

    of: tuple[Name, ...]
    what: str
    test: str
    weight: Positive
    time_min: Positive
    stage: Stage


class Weights(Record, frozen=True, kw_only=True):
    """The weights of what comes from the design itself."""

    finding: Weight
    earlier: Weight
    shared: Weight
    setting: Weight
    neighbour: Weight
    plug: Weight
    wire: Weight
    joint: Weight
    fuse: Weight
    feed: Weight
    device: Weight
    host: Weight


class TroubleTable(Record, frozen=True, kw_only=True):
    """The whole table."""

    weights: Weights
    symptom: tuple[Symptom, ...]
    cause: tuple[KnownCause, ...]


@table_reader
def trouble_table() -> TroubleTable:
    """The table in force. Raises `ValueError` where it is none."""
    text = data_text("tables/troubleshooting.toml")
    try:
        return msgspec.convert(tomllib.loads(text), TroubleTable)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
