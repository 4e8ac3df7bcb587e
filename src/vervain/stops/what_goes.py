"""What must be without power after a stop: as the builder says, else by kind and by name."""

import re
import tomllib
from typing import Any

from vervain.data import data_text, table_reader
from vervain.electrical.feeds import bridge_feed_pin
from vervain.electrical.turned_motors import is_turned_either_way
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@table_reader
def stop_table() -> dict[str, Any]:
    """What goes by kind and by name, and when a screw holds. Raises `KeyError` and `ValueError`
    where something is missing.
    """
    table = tomllib.loads(data_text("tables/stops.toml"))
    goes, holding, mains = table["goes"], table["holding"], table["mains"]
    lists = {key: tuple(map(str, goes[key])) for key in ("kinds", "named_kinds", "words")}
    numbers = {key: float(holding[key]) for key in ("friction", "diameter_mm")}
    numbers |= {key: float(mains[key]) for key in ("hold_up_s", "lasts_s")}
    if min(numbers.values()) <= 0:
        raise ValueError("holding and mains: every number is more than nothing")
    return {**lists, **numbers}


@table_reader
def stop_times() -> dict[str, tuple[float, float]]:
    """The usual operate and release times of contacts by kind of part, in s. Raises `KeyError`
    where "other" or one of the two is missing, `ValueError` where one is nothing.
    """
    rows = tomllib.loads(data_text("tables/stops.toml"))["times"]
    times = {kind: (float(r["operate_s"]), float(r["release_s"])) for kind, r in rows.items()}
    if min(min(pair) for pair in (times["other"], *times.values())) <= 0:
        raise ValueError("times: operate_s and release_s are more than nothing")
    return times


def check_stop_tables() -> None:
    """Reads the whole table. Raises `KeyError` and `ValueError` where something is missing."""
    stop_table()
    stop_times()


@query
def goes_at_stop(queries: Queries, device: str) -> bool:
    """Whether a device must be dead after a stop: as the builder says, else by its kind."""
    found = queries.device(device)
    if found is not None and found.at_stop:
        return found.at_stop == "goes"
    return goes_by_kind(queries, device)


def goes_by_kind(queries: Queries, device: str) -> bool:
    """Whether a device is of a kind, or has a name, of what must be dead after a stop."""
    part, found, table = queries.part_of(device), queries.device(device), stop_table()
    if part is None or found is None:
        return False
    # A brushed motor that moves an axis, or turns either way; a pump or a fan may run on.
    moves = part.kind == "brushed motor" and (
        queries.axis_of(device) is not None or is_turned_either_way(queries, device)
    )
    named = part.kind in table["named_kinds"] and _has_word(
        f"{part.title} {found.name}", table["words"]
    )
    by_kind = part.kind in table["kinds"] or part.has_drivers
    return by_kind or moves or named or bridge_feed_pin(queries, device) is not None


def _has_word(name: str, words: tuple[str, ...]) -> bool:
    """Whether a name has one of some words as a whole word, one or several of it."""
    pattern = "|".join(map(re.escape, words))
    return bool(words) and re.search(rf"\b(?:{pattern})s?\b", name, re.IGNORECASE) is not None
