"""The operating states, and who takes what in each: data/tables/feeds.toml."""

import tomllib
from typing import Any, Literal, get_args

import msgspec

from vervain.data import data_text, table_reader
from vervain.electrical.network import Law
from vervain.model.base import NotNegative, Positive, Record
from vervain.model.machine import OperatingState

State = OperatingState
# The states that last: start-up is over in an instant, and idle asks for less than holding.
LASTING_STATES: tuple[State, ...] = ("holding", "moving", "everything")
STATES: tuple[State, ...] = get_args(State)
STATE_WORDS: dict[State, str] = {
    "idle": "Idle",
    "holding": "Holding",
    "moving": "Moving",
    "everything": "Everything on",
    "start": "Start-up",
}


class Takes(Record, frozen=True, kw_only=True):
    """The fractions of its rated current that a kind of device takes in each state."""

    kinds: tuple[str, ...]
    law: Law
    idle: NotNegative
    holding: NotNegative
    moving: NotNegative
    everything: NotNegative
    start: NotNegative | Literal["inrush"]


class FeedTable(Record, frozen=True, kw_only=True):
    """Resistances and fractions that stand in where a part does not say."""

    contact_ohm: Positive
    bar_ohm: Positive
    closed_ohm: Positive
    closed_drop_v: Positive
    output_ohm: Positive
    fuse_drop_v: Positive
    diode_drop_v: Positive
    source_drop: Positive
    limit_factor: Positive
    efficiency: Positive
    driver_efficiency: Positive
    assumed_length_m: Positive
    hot_winding_c: float
    mains_v: Positive
    mains_power_factor: Positive
    takes: tuple[Takes, ...]


@table_reader
def feed_table() -> FeedTable:
    """The table."""
    rows: dict[str, Any] = tomllib.loads(data_text("tables/feeds.toml"))
    return msgspec.convert(rows, FeedTable)


@table_reader
def takes_of(kind: str) -> Takes:
    """What a kind of device takes; the last row is for all others."""
    rows = feed_table().takes
    return next((row for row in rows if kind in row.kinds), rows[-1])
