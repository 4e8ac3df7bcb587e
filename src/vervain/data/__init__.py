"""Tables, parts and demonstrations that ship with Vervain, as files beside this one.

Tables can be replaced by the builder's own, before any is read.
"""

from collections.abc import Mapping
from pathlib import Path

FOLDER = Path(__file__).parent
_own_tables: dict[str, str] = {}


def replace_tables(texts: Mapping[str, str | None]) -> None:
    """Puts texts in place of shipped tables, by file name; None brings the shipped one back."""
    for name, text in texts.items():
        if text is None:
            _own_tables.pop(name, None)
        else:
            _own_tables[name] = text


def data_text(name: str) -> str:
    """The text of a shipped file, by its path in this folder, or of the table in its place."""
    folder, _, file = name.partition("/")
    if folder == "tables" and file in _own_tables:
        return _own_tables[file]
    return (FOLDER / name).read_text("utf-8")
