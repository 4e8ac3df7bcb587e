"""Reading JSON strictly: what no document may hold is refused with its line and its place inside.

Refused are numbers that are not finite or out of bounds, keys that stand twice in one object,
halves of characters (lone surrogates, which no file can hold as UTF-8), and nests too deep.
"""

import json
import re
from collections.abc import Iterator
from typing import Any, NamedTuple

from vervain.files.problems import FileProblem, Place
from vervain.model.base import MOST, number_is_in_bounds

DEEPEST = 64
MOST_DIGITS = 40
TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+', re.DOTALL)
NUMBER = re.compile(r"-?\d")
HALF_ESCAPE = re.compile(r"\\u[dD][89a-fA-F]")
HALF_CHARACTER = re.compile("[\ud800-\udfff]")
CONSTANTS = ("NaN", "Infinity", "-Infinity")


class _Refused(ValueError):  # noqa: N818 - what is refused is the file, this is no bug
    """Something that a document may not hold; its place is found by reading the tokens again."""


class _Level(NamedTuple):
    """An object or a list that is open: the keys it had, or the number of its item."""

    is_object: bool
    keys: set[str]


def read_json(text: str, path: str, kept: str) -> Any:
    """The value in a JSON text. Raises `FileProblem` with the place of the first fault; `kept` is
    what it says became of the file.
    """
    try:
        value = json.loads(
            text,
            parse_constant=_refuse,
            parse_float=number_of,
            parse_int=_whole_number,
            object_pairs_hook=_without_doubles,
        )
        if HALF_ESCAPE.search(text):
            _refuse_halves(text)
    except json.JSONDecodeError as error:
        cut = error.pos >= len(text.rstrip())
        raise FileProblem(
            path,
            "It ends too early." if cut else "It is not whole JSON.",
            faults=(Place(f"line {error.lineno}, column {error.colno}", error.msg + ".", ""),),
            remedy=f"Take the last saved version or the autosave beside it. {kept}",
        ) from None
    except (ValueError, RecursionError):
        fault = next(_faults(text), Place("the top", "cannot be read.", ""))
        raise FileProblem(
            path, "It holds what no machine file may hold.", faults=(fault,), remedy=kept
        ) from None
    return value


def number_of(text: str) -> float:
    """A decimal number of a file; raises `ValueError` where it is out of bounds."""
    value = float(text)
    if not number_is_in_bounds(value):
        raise _Refused(text)
    return value


def _whole_number(text: str) -> int:
    if len(text) > MOST_DIGITS or abs(int(text)) > MOST:
        raise _Refused(text)
    return int(text)


def _refuse(name: str) -> float:
    raise _Refused(name)


def _without_doubles(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    found = dict(pairs)
    if len(found) < len(pairs):
        raise _Refused("a key stands twice")
    return found


def _refuse_halves(text: str) -> None:
    if next(_faults(text), None) is not None:
        raise _Refused("half a character")


def _faults(text: str) -> Iterator[Place]:
    """Each thing in a JSON text that a document may not hold, with line, column and path."""
    open_levels: list[_Level] = []
    path: list[str | int] = []
    key: str | None = None
    for match in TOKEN.finditer(text):
        token = match.group()
        what = ""
        if token in "{[":
            open_levels.append(_Level(token == "{", set()))
            path.append("" if token == "{" else 0)
            if len(open_levels) > DEEPEST:
                what = f"is nested more than {DEEPEST} deep."
        elif token in "}]":
            if open_levels:
                open_levels.pop()
                path.pop()
        elif token == ",":
            if open_levels and not open_levels[-1].is_object:
                path[-1] = int(path[-1]) + 1
        elif token == ":":
            if open_levels and open_levels[-1].is_object and key is not None:
                if key in open_levels[-1].keys:
                    what = f"The key “{key[:60]}” stands twice."
                open_levels[-1].keys.add(key)
                path[-1] = key
        elif token.startswith('"'):
            key = _string(token)
            if HALF_CHARACTER.search(key):
                what = "holds half a character (a lone surrogate)."
        else:
            what = _number_fault(token)
        if what:
            yield Place(_where(text, match.start(), path), what, "")
            return


def _string(token: str) -> str:
    try:
        return str(json.loads(token, strict=False))
    except ValueError:
        return token


def _number_fault(token: str) -> str:
    if token in CONSTANTS:
        return f"{token} is not a number that a file may hold."
    if not NUMBER.match(token):
        return ""
    try:
        value = float(token)
    except (ValueError, OverflowError):
        return ""
    if number_is_in_bounds(value):
        return ""
    return f"{token[:MOST_DIGITS]} is no number of a machine (1e-12 to 1e9)."


def _where(text: str, at: int, path: list[str | int]) -> str:
    line = text.count("\n", 0, at) + 1
    column = at - (text.rfind("\n", 0, at) + 1) + 1
    steps = [f"[{step}]" if isinstance(step, int) else f".{step}" for step in path if step != ""]
    inside = "".join(steps[:8]).lstrip(".")
    return f"line {line}, column {column}" + (f" ({inside})" if inside else "")
