"""The builder's own words for the functions of pins: said once, remembered for the next manual."""

from pathlib import Path

import tomlkit

from vervain.data import data_text, replace_tables
from vervain.files.reading import read_bytes
from vervain.files.writing import write_whole
from vervain.model.part import PartKind, PinFunction

OWN_WORDS = "own_words.toml"
LONGEST_WORD = 80


def remember_word(folder: Path, word: str, function: PinFunction, kind: PartKind) -> None:
    """Keeps that a word is a function on parts of a kind, in the folder of own tables, and takes it
    into use; what was kept of the word before is forgotten. Raises `FileProblem`.
    """
    path = folder / OWN_WORDS
    there = path.is_file()
    text = read_bytes(path).decode("utf-8") if there else data_text(f"tables/{OWN_WORDS}")
    document = tomlkit.parse(text)
    rows = [row for row in document.get("function", ()) if not _is_of(row, word, kind)]
    table = tomlkit.table()
    table.add("function", function)
    table.add("kind", [kind])
    table.add("words", [word[:LONGEST_WORD]])
    made = tomlkit.aot()
    for row in (*rows, table):
        made.append(row)
    document["function"] = made
    folder.mkdir(parents=True, exist_ok=True)
    written = tomlkit.dumps(document)
    write_whole(path, written.encode("utf-8"))
    replace_tables({OWN_WORDS: written})


def _is_of(row: tomlkit.items.Table, word: str, kind: str) -> bool:
    """Whether a row says something of one word on parts of one kind."""
    words = [str(text).casefold() for text in row.get("words", ())]
    return words == [word.casefold()] and kind in row.get("kind", ())
