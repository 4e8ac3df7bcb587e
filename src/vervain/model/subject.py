"""What a finding, or an acceptance of one, is about; and what becomes of it when names change."""

from collections.abc import Iterable
from typing import Literal

from msgspec.structs import replace

from vervain.model.base import Record

NameKind = Literal["device", "cable", "axis", "run", "hookup"]


class Subject(Record, frozen=True, kw_only=True):
    """A device, a port or pin of it, a cable or core, an axis, a run, or a hookup."""

    device: str | None = None
    port: str | None = None
    pin: str | None = None
    cable: str | None = None
    core: int | None = None
    axis: str | None = None
    run: str | None = None
    hookup: str | None = None

    @property
    def text(self) -> str:
        """As it is written on screen: "K1 IN 4", "W16.2", "X axis"."""
        if self.device is not None:
            return " ".join(part for part in (self.device, self.port) if part)
        if self.cable is not None:
            return self.cable if self.core is None else f"{self.cable}.{self.core}"
        if self.axis is not None:
            return f"{self.axis} axis"
        return self.run or self.hookup or ""

    @property
    def name(self) -> str:
        """As it stands in the key of a finding: only names."""
        return self.axis if self.axis is not None else self.text


def subject_of(kind: NameKind, name: str) -> Subject:
    """The subject that a name of a kind stands for."""
    return replace(Subject(), **{kind: name})


def finding_key(rule: str, about: Subject, at: Iterable[Subject], detail: str) -> str:
    """What stays the same while the same thing is wrong at the same place, whatever is renamed: the
    order of what it is `at` does not count.
    """
    parts = (rule, about.name, *sorted(subject.name for subject in at), detail)
    return ":".join(part for part in parts if part)


def renamed(subject: Subject, kind: NameKind, old: str, new: str) -> Subject:
    """The subject after something got another name."""
    if getattr(subject, kind) != old:
        return subject
    return replace(subject, **{kind: new})
