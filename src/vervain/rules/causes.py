"""Cause first: which single change of a plug clears most of what is wrong, tried on a copy.

Several findings often come from one mistake: a plug turned round or one pin off, two leads
exchanged, a conductor left off. Each such change at the plugs that the findings name is tried; the
one that clears most, and brings nothing new, is told as the cause, with the change that mends it,
and the findings are folded under it.
"""

from collections import Counter
from collections.abc import Callable
from itertools import islice
from time import monotonic

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.finding import CONSEQUENCES, Consequence, Finding, Fix, Result
from vervain.rules.fixes import ExchangePlugs, ExchangeTwo, TurnPlug
from vervain.rules.possible_mistakes import OPEN_ENDS, PossibleMistake, PossibleMistakes
from vervain.rules.registry import RULE_BY_ID
from vervain.stops.verdicts import moves_at_work

# How long one search may take.
BUDGET_S = 1.5
# How many changes are tried for one finding.
MOST_TRIALS = 240
# How many of the most promising changes get a full check.
FULL_CHECKS = 30
# How many other ends that nothing comes to may belong to one.
MOST_ENDS = 4
# How many others that are fed wrongly may be so by the same mistake.
MOST_ALIKE = 8
# Rules that tell what a feed that does not come leaves dead.
DEAD = frozenset({"supply.unfed", "stops.never-closes", "ports.loose"})
# What a machine lacks of its stops shows only once they do something, and of what they leave on
# only once that has power, as do the volts that are lost on the way: such findings may come with a
# cure. By the rule that hides them.
HIDDEN_BY: dict[str, frozenset[str]] = {
    "stops.does-nothing": frozenset({"stops.restarts", "stops.unnoticed", "stops.weld-unread"}),
    **dict.fromkeys(
        (
            *DEAD,
            "ports.need",
            "ports.half-joined",
            "supply.no-return",
            "supply.polarity",
            "supply.same-rail",
        ),
        frozenset({"stops.restarts", "stops.unnoticed", "stops.weld-unread", "supply.drop"}),
    ),
}
# What may show besides where conductors only change places: that bypasses no contact of a stop.
HIDDEN_BY_PLACE = frozenset({"stops.power-stays", "stops.restarts", "stops.unnoticed"})
SHORTS = frozenset({"supply.short", "supply.contact-shorts"})
REVERSED = "supply.polarity"
# Where these have no fix, the part itself is what they tell of.
OF_THE_PART = frozenset({"stops.limit-no"})
# Rules of the Supply stage that read the copper only.
SEEN = frozenset({
    "supply.short", "supply.contact-shorts", "supply.unfed", "supply.polarity", "supply.same-rail",
    "supply.in-series",
})  # fmt: skip


class Cause(Record, frozen=True, kw_only=True):
    """One mistake that explains some findings, given by their keys, and what mends it."""

    sentence: str
    consequence: Consequence
    subjects: tuple[Subject, ...]
    fix: Fix
    keys: tuple[str, ...]
    lead: str


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


class Explanation(Record, frozen=True, kw_only=True):
    """The causes that were found, and of the other findings the fixes that hold."""

    causes: tuple[Cause, ...]
    fixes: dict[str, tuple[Fix, ...]]


def explained(result: Result, explanation: Explanation) -> Result:
    """A result with each cause in the place of what it explains, and only fixes that were tried."""
    by_key = {finding.key: finding for finding in result.open}
    told: dict[str, Finding] = {}
    folded: set[str] = set()
    for cause in explanation.causes:
        findings = [by_key[key] for key in cause.keys if key in by_key]
        if not findings:
            continue
        lead = next((f for f in findings if f.key == cause.lead), findings[0])
        others = tuple(f.sentence for f in findings if f is not lead)
        subjects = tuple(dict.fromkeys((*cause.subjects, *lead.subjects)))
        told[lead.key] = replace(
            lead,
            sentence=cause.sentence,
            consequence=min((f.consequence for f in findings), key=CONSEQUENCES.index),
            subjects=subjects,
            why=lead.why if cause.sentence == lead.sentence else f"{lead.sentence} {lead.why}",
            fixes=(cause.fix,),
            explains=others,
        )
        folded.update(cause.keys)
    for key, fixes in explanation.fixes.items():
        if key in by_key and key not in folded:
            told[key] = replace(by_key[key], fixes=fixes)
    kept = [told.get(f.key, f) for f in result.open if f.key in told or f.key not in folded]
    return result._replace(open=tuple(sorted(kept, key=lambda finding: finding.rank)))


def explain(
    trying: Queries,
    result: Result,
    should_continue: Callable[[], bool] = lambda: True,
    budget_s: float | None = None,
    tried: Tried | None = None,
) -> Explanation:
    """The causes of what is wrong, and the fixes of the rest that hold what they say: after them
    the finding is gone, and nothing as bad has come. Stops after `budget_s` seconds (`BUDGET_S`)
    with what it found; a fix that was not tried stays. `trying` stands on the machine,
    remembers what was worked out for it, and is moved from trial to trial and back; `tried`
    remembers from one machine to the next.
    """
    machine = trying.machine
    budget_s = BUDGET_S if budget_s is None else budget_s
    try:
        search = _Search(trying, result, should_continue, budget_s, tried or Tried())
        return Explanation(causes=search.run(), fixes=search.fixes_that_hold())
    finally:
        trying.move_to(machine)


def _devices(finding: Finding) -> set[str]:
    """The devices that a finding names."""
    return {subject.device for subject in finding.subjects if subject.device is not None}


def _is_of_plugs(finding: Finding) -> bool:
    """Whether a plug that is put in otherwise could be behind a finding."""
    return finding.rule.partition(".")[0] not in ("machine", "harness")


def _is_of_design(finding: Finding) -> bool:
    """Whether a finding tells of how the stops are laid out, more often than of a misplaced wire:
    it is asked last, and takes no time from the others.
    """
    return finding.rule.startswith("stops.") and finding.consequence == "Unreliable"


def _is_of_the_part(finding: Finding) -> bool:
    """Whether a finding tells of what a part is, so that no wire mends it: a switch without a
    contact that opens. It shows once the switch is joined.
    """
    return finding.rule in OF_THE_PART and not finding.fixes


def _is_seen(finding: Finding) -> bool:
    """Whether a finding is read from the copper, without solving what flows in it."""
    return not finding.rule.startswith("supply.") or finding.rule in SEEN


class _Search:
    def __init__(
        self,
        trying: Queries,
        result: Result,
        should_continue: Callable[[], bool],
        budget_s: float,
        memory: Tried,
    ) -> None:
        self.memory = memory
        self.machine = trying.machine
        self.queries = Queries(trying.machine)
        self.trying = trying
        self.possible = PossibleMistakes(self.queries, trying)
        self.should_continue = should_continue
        self.ends = monotonic() + budget_s
        grave = [f for f in result.open if f.consequence != "Workmanship" and _is_of_plugs(f)]
        # What is seen in the copper is nearer to the mistake, and asked sooner, than what the feeds
        # come to with it.
        # An end that nothing is joined to lies at the mistake itself. Of what is told at a board
        # and at all that hangs on it, the board comes first.
        # Several devices that are fed the wrong way round hang on one plug that is turned.
        reversed_at = sum(f.rule == REVERSED for f in grave)
        behind = self._behind(grave)
        self.left = sorted(
            grave,
            key=lambda f: (
                _is_of_design(f),
                not _is_seen(f),
                f.rule not in SHORTS,
                not (reversed_at > 1 and f.rule == REVERSED),
                f.rule not in OPEN_ENDS,
                -behind[f.about.device],
            ),
        )
        self.known = {f.key for f in (*result.open, *result.accepted, *result.to_do)}
        memory.begin(self.known)
        # What is new since the last search is asked first: it has one mistake, the last one.
        self.left.sort(key=lambda f: -memory.since[f.key])
        # A machine that does not run says nothing of its stops until it does.
        self.runs = moves_at_work(self.queries)

    def _behind(self, grave: list[Finding]) -> Counter[str | None]:
        """At how many plugs at which something is seen each device is joined, its own left out."""
        return Counter(
            device
            for finding in grave
            if finding.rule in SEEN
            for device in self.possible.devices_joined_at(finding) - {finding.about.device}
        )

    def run(self) -> tuple[Cause, ...]:
        found: list[Cause] = []
        tried: set[str] = set()
        while self.left and self._may_go_on():
            first = next((f for f in self.left if f.key not in tried and self._is_new(f)), None)
            if first is None or (found and _is_of_design(first)):
                # Beside a mistake, what the stops lack is more likely how they are meant.
                break
            tried.add(first.key)
            cause = self._cause_of(first)
            if cause is not None:
                found.append(cause)
                self.left = [f for f in self.left if f.key not in cause.keys]
            elif self._may_go_on():
                self.memory.without_cause[first.key] = first
        return tuple(sorted(found, key=lambda cause: CONSEQUENCES.index(cause.consequence)))

    def fixes_that_hold(self) -> dict[str, tuple[Fix, ...]]:
        """The fixes of what no cause explains, without those that do harm or nothing."""
        found: dict[str, tuple[Fix, ...]] = {}
        for finding in self.left:
            known = self.memory.fixes.get(finding.key)
            if known is not None and known[0] == finding:
                found[finding.key] = known[1]
            elif finding.fixes and self._may_go_on():
                holding = tuple(f for f in finding.fixes if self._holds(finding, f))
                found[finding.key] = holding
                self.memory.fixes[finding.key] = finding, holding
        return found

    def _is_new(self, finding: Finding) -> bool:
        return self.memory.without_cause.get(finding.key) != finding

    def _holds(self, finding: Finding, fix: Fix) -> bool:
        trial = PossibleMistake(finding.sentence, fix, finding.subjects)
        if self._changed_by(trial) is None or not self._cleared(finding):
            return False
        after = check_look(self.trying)
        assert after is not None
        bad = CONSEQUENCES.index(finding.consequence)
        hidden = HIDDEN_BY.get(finding.rule, frozenset())
        return not any(
            f.key not in self.known
            and not self.memory.went_with(f.key, finding.key)
            and f.rule not in hidden
            and not _is_of_the_part(f)
            and CONSEQUENCES.index(f.consequence) <= bad
            for f in after.open
        )

    def _may_go_on(self) -> bool:
        return monotonic() < self.ends and self.should_continue()

    def _cause_of(self, first: Finding) -> Cause | None:
        """The change that clears a finding and most others along with it."""
        # What is at no device that it names, nor at one that is joined there, is another mistake
        # until it turns out otherwise.
        names = _devices(first) | self.possible.devices_joined_at(first)
        related = [
            f for f in self.left
            if f is first or (_devices(f) & names and not _is_of_design(f))
        ]  # fmt: skip
        if first.rule in OPEN_ENDS:
            # The other end of what is missing may be at a device that knows nothing of this one.
            ends = [f for f in self.left if f.rule in OPEN_ENDS | DEAD and f not in related]
            # What is dead behind the open end is dead because of it.
            behind = self.possible.devices_behind(first)
            ends.sort(key=lambda f: not (f.rule in DEAD and _devices(f) & behind))
            related += ends[:MOST_ENDS]
        if first.rule in SEEN:
            # A strip that is fed the wrong way round is told at everything that hangs on it.
            alike = [f for f in self.left if f.rule in SEEN and f not in related]
            related += alike[:MOST_ALIKE]
        seen = [finding for finding in related if _is_seen(finding)]
        promising: list[tuple[int, int, PossibleMistake, Machine]] = []
        found: list[tuple[int, Cause]] = []
        checks = FULL_CHECKS
        for order, trial in enumerate(
            islice(self.possible.of(first, related, self.left), MOST_TRIALS)
        ):
            if not self._may_go_on():
                break
            changed = self._changed_by(trial)
            if changed is None or not self._cleared(first):
                continue
            cleared = sum(self._cleared(other) for other in seen)
            if cleared < len(seen) or not checks:
                promising.append((-cleared, order, trial, changed))
                continue
            checks -= 1
            cause = self._cause(first, trial)
            if cause is not None and {f.key for f in related} <= set(cause.keys):
                return cause
            if cause is not None:
                found.append((-len(cause.keys), cause))
        if found:
            return min(found, key=lambda item: item[0])[1]
        for _, _, trial, changed in sorted(promising, key=lambda item: item[:2])[:checks]:
            self.trying.move_to(changed)
            cause = self._cause(first, trial)
            if cause is not None:
                return cause
        return None

    def _changed_by(self, trial: PossibleMistake) -> Machine | None:
        """The machine with a change, which is tried from now on; None where it changes nothing."""
        try:
            changed = trial.fix.remedy.apply(self.machine)
        except Problem:
            return None
        if changed == self.machine:
            return None
        self.trying.move_to(changed)
        return changed

    def _cause(self, first: Finding, trial: PossibleMistake) -> Cause | None:
        """The cause that the change that is tried would mend; None where it brings something new,
        or leaves the finding that it was tried for.
        """
        after = check_look(self.trying)
        assert after is not None
        new = [
            f for f in (*after.open, *after.to_do)
            if f.key not in self.known and not self.memory.went_with(f.key, first.key)
        ]  # fmt: skip
        still = {f.key for f in (*after.open, *after.accepted)}
        cleared = [f for f in self.left if f.key not in still]
        keys = tuple(f.key for f in cleared)
        if first.key not in keys:
            return None
        hidden = {rule for f in cleared for rule in HIDDEN_BY.get(f.rule, ())}
        if hidden and isinstance(trial.fix.remedy, ExchangeTwo | ExchangePlugs | TurnPlug):
            hidden |= HIDDEN_BY_PLACE
        runs_now = not self.runs and any(f.rule.startswith("stops.") for f in new)
        if runs_now and moves_at_work(self.trying):
            new = [f for f in new if not f.rule.startswith("stops.")]
        if any(
            f.consequence != "Workmanship" and f.rule not in hidden and not _is_of_the_part(f)
            for f in new
        ):
            return None
        return Cause(
            sentence=trial.sentence,
            consequence=first.consequence,
            subjects=trial.subjects,
            fix=trial.fix,
            keys=keys,
            lead=first.key,
        )

    def _cleared(self, finding: Finding) -> bool:
        """Whether a finding is gone from the machine that is tried."""
        rule = RULE_BY_ID.get(finding.rule)
        if rule is None:
            return False
        try:
            still = self.trying.ask(rule.check, finding.about.name)
        except Exception:
            return False
        return finding.key not in {other.key for other in still}
