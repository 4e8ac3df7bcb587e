"""A known user error: where it is, what was expected and what to do about it."""

from collections.abc import Iterable


class Problem(Exception):  # noqa: N818 - it is shown to the builder as a problem, not a failure
    """What happened, the place, and the remedy; becomes a message, never a traceback."""

    def __init__(self, what: str, *, place: str = "", remedy: str = "") -> None:
        super().__init__(what)
        self.what = what
        self.place = place
        self.remedy = remedy

    def __str__(self) -> str:
        where = f" ({self.place})" if self.place else ""
        remedy = f" {self.remedy}" if self.remedy else ""
        return f"{self.what}{where}{remedy}"


def did_you_mean(name: str, known: Iterable[str]) -> str:
    """A remedy for an unknown name: the nearest known one, if there is one near."""

    from difflib import get_close_matches

    near = get_close_matches(name, sorted(known), n=1)
    return f"Did you mean “{near[0]}”?" if near else "Correct the name or remove the line."
