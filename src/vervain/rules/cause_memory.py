"""What is remembered from one search for causes to the next."""

from vervain.rules.finding import Finding, Fix


class Tried:
    """What earlier searches came to: findings without a cause, and of each finding the fixes that
    held. A finding that is still the same word for word is not searched again. Besides by key, of
    the findings that there are since which search they are there, and of those that there were
    with which they went.
    """

    def __init__(self) -> None:
        self.searches = 0
        self.since: dict[str, int] = {}
        self.gone: dict[str, int] = {}
        self.without_cause: dict[str, Finding] = {}
        self.fixes: dict[str, tuple[Finding, tuple[Fix, ...]]] = {}

    @classmethod
    def after_clean(cls) -> "Tried":
        """What is remembered of a machine with nothing to search for: all that comes is new."""
        made = cls()
        made.begin(set())
        return made

    def copy(self) -> "Tried":
        """As much again, to go on from."""
        made = Tried()
        made.searches, made.since, made.gone = self.searches, dict(self.since), dict(self.gone)
        made.without_cause, made.fixes = dict(self.without_cause), dict(self.fixes)
        return made

    def begin(self, keys: set[str]) -> None:
        """Begins another search, on a machine with these findings."""
        self.searches += 1
        self.gone |= dict.fromkeys(self.since.keys() - keys, self.searches)
        self.since = {key: self.since.get(key, self.searches) for key in keys}

    def went_with(self, key: str, first: str) -> bool:
        """Whether a finding was there until another one came, which may only have hidden it."""
        return self.gone.get(key, 0) >= self.since.get(first, self.searches)
