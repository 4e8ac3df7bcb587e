"""What was seen at a step of the bench list, kept in the machine file as evidence."""

import re
from typing import Annotated, Literal

from msgspec import Meta
from msgspec.structs import replace

from vervain.model.base import Name, Record
from vervain.model.subject import Subject

Outcome = Literal["passed", "failed"]
LONGEST_SEEN, LONGEST_NOTE, MOST_PHOTOS = 80, 400, 20

PLACE_HOLDER = re.compile(r"\{(\d+)\}")
Words = Annotated[str, Meta(max_length=2000)]


class BenchResult(Record, frozen=True, kw_only=True):
    """What came of a step: its name, what it asked and expected then, what was `seen`, when
    (ISO 8601, local time, to the minute), by whom, at which revision. In `step`, `do` and `see`
    {0}, {1} … stand for the devices and axes `at` which it was, so that these can get other names.
    Photos are files, named from the folder that the machine's file is in.
    """

    step: Words
    at: tuple[Subject, ...] = ()
    do: Words
    see: Words
    outcome: Outcome
    seen: Annotated[str, Meta(max_length=LONGEST_SEEN)] = ""
    note: Annotated[str, Meta(max_length=LONGEST_NOTE)] = ""
    time: Name
    by: Annotated[str, Meta(max_length=80)] = ""
    revision: Annotated[str, Meta(max_length=20)] = ""
    photos: Annotated[tuple[Name, ...], Meta(max_length=MOST_PHOTOS)] = ()

    @property
    def name(self) -> str:
        """The name of the step, with the names that its devices and axes have now."""
        return self.filled_in(self.step)

    def filled_in(self, words: str) -> str:
        """Words of it, with the names that its devices and axes have now."""

        def name(found: re.Match[str]) -> str:
            number = int(found[1])
            return self.at[number].name if number < len(self.at) else found[0]

        return PLACE_HOLDER.sub(name, words)


def without_subject(result: BenchResult, number: int) -> BenchResult | None:
    """A result after one of what it was `at` went: its name stays in the words as it was then; None
    where the step was about it.
    """
    holder, name = f"{{{number}}}", result.at[number].name
    if holder in result.step:
        return None
    at = (*result.at[:number], Subject(), *result.at[number + 1 :])
    do, see = (words.replace(holder, name) for words in (result.do, result.see))
    return replace(result, at=at, do=do, see=see)
