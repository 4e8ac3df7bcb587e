"""Tables, parts and demonstrations that ship with Vervain, as files beside this one.

Tables can be replaced by the builder's own, before any is read.
"""

from collections.abc import Callable, Mapping
from functools import cache
from pathlib import Path
from typing import ParamSpec, TypeVar, cast

FOLDER = Path(__file__).parent
_own_tables: dict[str, str] = {}
_version = 0
_readers: list[Callable[[], None]] = []
R = TypeVar("R")
P = ParamSpec("P")


def table_reader(function: Callable[P, R]) -> Callable[P, R]:
    """Keeps what a function makes of tables until one of them is replaced."""
    kept = cache(function)
    _readers.append(kept.cache_clear)
    return cast(Callable[P, R], kept)


def tables_version() -> int:
    """A number that is another one whenever a table was replaced."""
    return _version


def replace_tables(texts: Mapping[str, str | None]) -> None:
    """Puts texts in place of shipped tables, by file name; None brings the shipped one back."""
    global _version
    _version += 1
    for name, text in texts.items():
        if text is None:
            _own_tables.pop(name, None)
        else:
            _own_tables[name] = text
    for forget in _readers:
        forget()


def data_text(name: str) -> str:
    """The text of a shipped file, by its path in this folder, or of the table in its place."""
    folder, _, file = name.partition("/")
    if folder == "tables" and file in _own_tables:
        return _own_tables[file]
    return (FOLDER / name).read_text("utf-8")
