"""Rows typed or pasted: from a spreadsheet (tabs), from CSV, with bars or wide spaces between."""

import csv
import re

from vervain.model.base import Record

SEPARATORS = ("\t", "|", ";", ",")
LONGEST_TEXT, MOST_ROWS = 200_000, 512


class TypedRow(Record, frozen=True, kw_only=True):
    """One row as it was typed: its number from 1, its text, its cells."""

    number: int
    text: str
    cells: tuple[str, ...]


def separator_of(lines: list[str]) -> str:
    """The separator that most lines have, tabs before bars before semicolons before commas; empty
    where there is none.
    """
    for separator in SEPARATORS:
        if sum(separator in line for line in lines) * 2 >= len(lines):
            return separator
    return ""


def read_rows(
    text: str, longest: int = LONGEST_TEXT, most: int = MOST_ROWS
) -> tuple[TypedRow, ...]:
    """Every row that is not empty, in order, up to so many letters and rows. Without a separator,
    the first word is a cell of its own and so is the rest.
    """
    lines = text[:longest].replace("\r\n", "\n").replace("\r", "\n").lstrip("\ufeff").split("\n")
    filled = [(n, line) for n, line in enumerate(lines, 1) if line.strip()][:most]
    separator = separator_of([line for _, line in filled])
    return tuple(
        TypedRow(number=n, text=line.strip(), cells=_cells(line, separator)) for n, line in filled
    )


def _cells(line: str, separator: str) -> tuple[str, ...]:
    if separator in (",", ";"):
        parsed = next(csv.reader([line], delimiter=separator, skipinitialspace=True), [])
        return tuple(cell.strip() for cell in parsed)
    if separator:
        return tuple(cell.strip() for cell in line.split(separator))
    wide = re.split(r"\s{2,}", line.strip())
    if len(wide) > 1:
        return tuple(wide)
    return tuple(line.strip().split(maxsplit=1))
