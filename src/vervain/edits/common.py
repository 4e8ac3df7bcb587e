"""What all edits share: the type of an edit, exchanging one item, free names."""

from collections.abc import Callable, Iterable
from typing import TypeVar

from vervain.model.machine import (
    Machine,
)

Edit = Callable[[Machine], Machine]
T = TypeVar("T")


def swapped(items: tuple[T, ...], old: T, new: T) -> tuple[T, ...]:
    """The tuple with one item exchanged, in its place."""
    return tuple(new if item is old else item for item in items)


def free_name(prefix: str, taken: Iterable[str]) -> str:
    """The first of prefix1, prefix2 … that is not taken."""
    known = set(taken)
    number = 1
    while f"{prefix}{number}" in known:
        number += 1
    return f"{prefix}{number}"
