"""What names say of devices, parts and ports: data/tables/name_words.toml."""

import re
import tomllib
from functools import lru_cache

import msgspec

from vervain.data import data_text, table_reader


class NameWords(msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True):
    """The phrases of each meaning."""

    by_hand: tuple[str, ...]
    turns_on: tuple[str, ...]
    thermocouple: tuple[str, ...]
    to_stop: tuple[str, ...]
    opens: tuple[str, ...]
    cut_out: tuple[str, ...]
    at_a_door: tuple[str, ...]
    main_switch: tuple[str, ...]
    mains_fuse: tuple[str, ...]
    breaker: tuple[str, ...]
    potentiometer: tuple[str, ...]
    tells: tuple[str, ...]
    alarm: tuple[str, ...]
    battery_switch: tuple[str, ...] = ()
    at_an_end: tuple[str, ...] = ()
    one_contact: tuple[str, ...] = ()
    contact_of_drive: tuple[str, ...] = ()
    free_in_air: tuple[str, ...] = ()
    let_go: tuple[str, ...] = ()
    pedal: tuple[str, ...] = ()
    limiter: tuple[str, ...] = ()
    analogue: tuple[str, ...] = ()
    transformer: tuple[str, ...] = ()
    starts: tuple[str, ...] = ()
    lights: tuple[str, ...] = ()
    commands: tuple[str, ...] = ()
    one_way: tuple[str, ...] = ()


@table_reader
def name_words() -> NameWords:
    """The table. Raises `ValueError` where it is not one."""
    table = tomllib.loads(data_text("tables/name_words.toml"))
    try:
        return msgspec.convert(table["words"], NameWords)
    except (KeyError, msgspec.ValidationError) as error:
        raise ValueError(str(error)) from None


def says(name: str, phrases: tuple[str, ...]) -> bool:
    """Whether a name has one of some phrases of the table in it."""
    return _pattern(phrases).search(name) is not None


@lru_cache(maxsize=64)
def _pattern(phrases: tuple[str, ...]) -> re.Pattern[str]:
    """What finds any of the phrases as whole words."""
    found = (
        re.escape(phrase).replace(r"\*", r"\w*").replace(r"\#", r"\d*").replace(r"\ ", r"\s+")
        for phrase in phrases
    )
    return re.compile(rf"(?<!\w)(?:{'|'.join(found)})(?!\w)", re.IGNORECASE)
