"""What a check says: a finding, its subjects and its fixes, all plain values."""

from typing import Literal, NamedTuple, get_args

from vervain.model.base import Record
from vervain.model.machine import Acceptance, PinRef, PortRef
from vervain.model.subject import Subject, finding_key
from vervain.rules.fixes import Remedy

Consequence = Literal["Damage", "Won't run", "Unreliable", "Workmanship"]
Stage = Literal["Machine", "Leads", "Ports", "Supply", "Stops", "Harness", "Bench"]
CONSEQUENCES: tuple[Consequence, ...] = ("Damage", "Won't run", "Unreliable", "Workmanship")
STAGES: tuple[Stage, ...] = get_args(Stage)


def about(thing: str | PortRef | PinRef) -> Subject:
    """A subject from a designator, a port or a pin."""
    if isinstance(thing, str):
        return Subject(device=thing)
    if isinstance(thing, PinRef):
        return Subject(device=thing.device, port=thing.port, pin=thing.pin)
    return Subject(device=thing.device, port=thing.port)


def about_port(ref: PortRef | PinRef) -> Subject:
    """A subject from a port, or from the port that a pin belongs to."""
    return Subject(device=ref.device, port=ref.port)


def about_cable(cable: str, core: int | None = None) -> Subject:
    """A subject from a cable and perhaps one of its cores."""
    return Subject(cable=cable, core=core)


def about_run(run: str) -> Subject:
    """A subject from a run."""
    return Subject(run=run)


def about_axis(axis: str) -> Subject:
    """A subject from an axis."""
    return Subject(axis=axis)


class Fix(Record, frozen=True, kw_only=True):
    """A way to put a finding right: one sentence, and the edit that does it."""

    words: str
    remedy: Remedy


class Finding(Record, frozen=True, kw_only=True):
    """One finding. `about` is what its rule was asked about, `at` what else tells it from others
    of the rule, `detail` the rest in words; together they are its `key`, which stays the same while
    the same thing is wrong at the same place.

    `value` and `limit` are in `unit`; `over` tells whether more than the limit is what is wrong.
    `unfinished` says that nothing is wrong, only not done yet; `explains` are the sentences of
    the findings that come from the same mistake.
    """

    rule: str
    about: Subject = Subject()
    at: tuple[Subject, ...] = ()
    detail: str = ""
    stage: Stage
    consequence: Consequence
    sentence: str
    subjects: tuple[Subject, ...]
    why: str = ""
    value: float | None = None
    limit: float | None = None
    unit: str = ""
    over: bool = True
    fixes: tuple[Fix, ...] = ()
    unfinished: bool = False
    explains: tuple[str, ...] = ()

    @property
    def key(self) -> str:
        """Its identity as text."""
        return finding_key(self.rule, self.about, self.at, self.detail)

    @property
    def rank(self) -> tuple[int, int, str]:
        """Sort key: the worst first, then in the order of the stages."""
        return CONSEQUENCES.index(self.consequence), STAGES.index(self.stage), self.key


def acceptance_of(accepted: tuple[Acceptance, ...], finding: Finding) -> Acceptance | None:
    """The acceptance that covers a finding: of the same thing at the same devices and places, or at
    these and more. None where there is none.
    """
    for item in accepted:
        if (item.rule, item.about, item.detail) != (finding.rule, finding.about, finding.detail):
            continue
        if item.key == finding.key or (finding.at and set(finding.at) <= set(item.at)):
            return item
    return None


class Result(NamedTuple):
    """Open findings, worst first; those the builder accepted; how many rule runs it took; and what
    is not finished: devices and plugs that nothing is joined to yet.
    """

    open: tuple[Finding, ...]
    accepted: tuple[Finding, ...]
    runs: int
    to_do: tuple[Finding, ...] = ()
