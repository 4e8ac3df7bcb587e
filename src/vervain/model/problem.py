"""A known user error: where it is, what was expected and what to do about it."""


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
