"""What is said in the message line: a text and perhaps buttons."""

from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Message:
    """A text, whether it is bad news, and buttons as (words, what they do)."""

    text: str
    is_bad: bool = False
    actions: tuple[tuple[str, Callable[[], object]], ...] = ()
    stays: bool = False
