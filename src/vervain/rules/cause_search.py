"""The search for causes: changes of plugs and wires that may be behind findings, each tried on a
copy.
"""

from collections import Counter
from collections.abc import Callable
from itertools import islice
from time import monotonic

from msgspec.structs import replace

from vervain.model.base import Record
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.rules.cause_memory import Tried
from vervain.rules.engine import check_look, first_finding, is_unfinished
from vervain.rules.finding import CONSEQUENCES, Consequence, Finding, Fix, Result
from vervain.rules.finding_natures import (
    DEAD,
    HIDDEN_BY,
    HIDDEN_BY_PLACE,
    LAID,
    REVERSED,
    SEEN,
    SHORTS,
    SOLVED,
    devices_of,
    is_of_design,
    is_of_plugs,
    is_of_the_part,
    is_seen,
)
from vervain.rules.fixes import ExchangePlugs, ExchangeTwo, ShiftPlug, TurnPlug
from vervain.rules.possible_mistakes import (
    HALF_JOINED,
    OPEN_ENDS,
    UNFED,
    PossibleMistake,
    PossibleMistakes,
)
from vervain.rules.registry import RULE_BY_ID, RULES
from vervain.rules.rule import Rule
from vervain.stops.verdicts import moves_at_work

# How many changes are tried for one finding.
MOST_TRIALS = 240
# How many of them before those of other findings.
FIRST_TRIALS = 40
# How many of the most promising changes get a full check.
FULL_CHECKS = 120
# How many findings a change clears at the least that is taken before all have been tried.
LEAST_CLEARED = 2
# How many other ends that nothing comes to may belong to one.
MOST_ENDS = 4
# How many others that are fed wrongly may be so by the same mistake.
MOST_ALIKE = 8
# What is dead, with more than so many plugs at it that tell something, leaves these dead.
FEW = 2
# The rules in the order in which they are asked whether a change brings something new: what is read
# from the copper first, what must be solved for each state last.
FAMILIES = ("leads", "ports", "machine", "harness", "signals", "supply", "stops")


def _turn(rule: Rule) -> int:
    family = "stops" if rule.id in SOLVED else rule.id.partition(".")[0]
    return FAMILIES.index("ports" if rule.id in SEEN else family)


QUICK_FIRST = sorted(RULES, key=_turn)


class Cause(Record, frozen=True, kw_only=True):
    """One mistake that explains some findings, given by their keys, and what mends it; `shows` says
    how many others come with that, which the mistake had only hidden. `clears` are the keys of all
    that is gone then, of what other causes explain as well.
    """

    sentence: str
    consequence: Consequence
    subjects: tuple[Subject, ...]
    fix: Fix
    keys: tuple[str, ...]
    lead: str
    shows: int = 0
    clears: frozenset[str] = frozenset()


class _Hunt:
    """The changes that may be behind one finding, tried one after the other."""

    def __init__(self, search: "Search", first: Finding) -> None:
        self.search, self.first = search, first
        related = _related(search, first)
        self.seen = [finding for finding in related if is_seen(finding)]
        self.wanted = {f.key for f in related} | search.came_along(first)
        self.trials = enumerate(search.possible.of(first, related, search.left))
        # What clears the finding and not all that is seen beside it, by how much it clears.
        self.promising: list[tuple[int, int, PossibleMistake, Machine]] = []
        self.found: list[Cause] = []
        self.checks = FULL_CHECKS

    def go_on(self, trials: int) -> Cause | None:
        """Tries so many changes more; gives one that clears all that belongs together."""
        search = self.search
        for order, trial in islice(self.trials, trials):
            if not search.may_go_on():
                break
            changed = search.changed_by(trial)
            if changed is None or not search.cleared(self.first):
                continue
            cleared = sum(search.cleared(other) for other in self.seen)
            if cleared < len(self.seen) or not self.checks:
                self.promising.append((-cleared, order, trial, changed))
                continue
            self.checks -= 1
            cause = search.of_the_other_end(search.cause(self.first, trial))
            if cause is not None and self.wanted <= set(cause.keys) and not cause.shows:
                return cause
            if cause is not None:
                self.found.append(cause)
        return None

    def clears_most(self) -> Cause | None:
        """The change tried so far that clears more than half of what is seen, several findings at
        once, and brings nothing new; None where there is none.
        """
        search = self.search
        best = min(self.promising, key=lambda item: item[:2], default=None)
        if best is None or -best[0] < LEAST_CLEARED or -2 * best[0] <= len(self.seen):
            return None
        if not self.checks or not search.may_go_on():
            return None
        self.checks -= 1
        search.trying.move_to(best[3])
        cause = search.cause(self.first, best[2])
        return cause if cause is not None and not cause.shows else None

    def found_so_far(self) -> list[Cause]:
        """The changes that clear the finding, if not all; where none was found that clears all that
        is seen, the most promising one that brings nothing new.
        """
        search = self.search
        for _, _, trial, changed in sorted(self.promising, key=lambda item: item[:2]):
            if self.found or not self.checks or not search.may_go_on():
                break
            self.checks -= 1
            search.trying.move_to(changed)
            cause = search.cause(self.first, trial)
            self.found += [cause] if cause is not None else []
        return self.found


def _related(search: "Search", first: Finding) -> list[Finding]:
    """The findings that may come from the same mistake as one, itself among them."""
    # What is at no device that it names, nor at one that is joined there, is another mistake until
    # it turns out otherwise.
    names = devices_of(first) | search.possible.devices_joined_at(first)
    related = [
        f for f in search.left
        if f is first or (devices_of(f) & names and not is_of_design(f))
    ]  # fmt: skip
    if first.rule in OPEN_ENDS:
        # The other end of what is missing may be at a device that knows nothing of this one.
        ends = [f for f in search.left if f.rule in OPEN_ENDS | DEAD and f not in related]
        # What is dead behind the open end is dead because of it.
        behind = search.possible.devices_behind(first)
        ends.sort(key=lambda f: not (f.rule in DEAD and devices_of(f) & behind))
        related += ends[:MOST_ENDS]
    if first.rule in SEEN:
        # A strip that is fed the wrong way round is told at everything that hangs on it.
        alike = [f for f in search.left if f.rule in SEEN and f not in related]
        related += alike[:MOST_ALIKE]
    return related


class Search:
    """The search for the causes of what is wrong with one machine."""

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
        grave = [f for f in result.open if f.consequence != "Workmanship" and is_of_plugs(f)]
        # What is seen in the copper is nearer to the mistake, and asked sooner, than what the feeds
        # come to with it.
        # An end that nothing is joined to lies at the mistake itself. Of what is told at a board
        # and at all that hangs on it, the board comes first.
        # Several devices that are fed the wrong way round hang on one plug that is turned.
        reversed_at = sum(f.rule == REVERSED for f in grave)
        behind = self._behind(grave)
        # What is too short or too full since the last search is so by the same mistake.
        self.laid = [f for f in result.open if f.rule in LAID and f.consequence != "Workmanship"]
        self.left = sorted(
            grave,
            key=lambda f: (
                is_of_design(f),
                not is_seen(f),
                f.rule not in SHORTS,
                not (reversed_at > 1 and f.rule == REVERSED),
                not self._is_open_fuse(f),
                not (f.rule in OPEN_ENDS or (f.rule in DEAD and behind[f.about.device] > FEW)),
                -behind[f.about.device],
            ),
        )
        self.known = {f.key for f in (*result.open, *result.accepted, *result.to_do)}
        memory.begin(self.known)
        # What is new since the last search is asked first: it has one mistake, the last one.
        self.left.sort(key=lambda f: -memory.since[f.key])
        # What each change, by its words, brought that is as bad.
        self.brought: dict[str, Finding] = {}
        # A machine that does not run says nothing of its stops until it does.
        self.runs = moves_at_work(self.queries)

    def _is_open_fuse(self, finding: Finding) -> bool:
        """Whether a finding tells of a fuse with an open end: all behind it is dead by that."""
        part = self.queries.part_of(finding.about.device or "")
        return finding.rule == HALF_JOINED and part is not None and part.kind == "fuse"

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
        while self.left and self.may_go_on():
            cause = self._next_cause(bool(found))
            if cause is None:
                break
            cause = self.of_the_other_end(cause) or cause
            # What mends this alone may mend what was found before: then it is one mistake.
            same = [earlier for earlier in found if set(earlier.keys) <= cause.clears]
            found = [earlier for earlier in found if earlier not in same]
            keys = tuple(key for earlier in same for key in earlier.keys)
            found.append(replace(cause, keys=(*cause.keys, *keys)))
            self.left = [f for f in self.left if f.key not in cause.keys]
        return tuple(sorted(found, key=lambda cause: CONSEQUENCES.index(cause.consequence)))

    def of_the_other_end(self, cause: Cause | None) -> Cause | None:
        """A cause; of a plug one pin off that leaves something, the one of the plug at the other
        end, of which a wire hung over besides, where that explains more.
        """
        remedy = cause.fix.remedy if cause is not None else None
        if cause is None or not isinstance(remedy, ShiftPlug):
            return cause
        if all(f.key in cause.keys for f in self.left):
            return cause
        first = next(finding for finding in self.left if finding.key == cause.lead)
        for plug in self.possible.at_the_other_ends(remedy.plug):
            for told in self.possible.shifted.hung_over(plug):
                trial = PossibleMistake(*told)
                if not self.may_go_on() or self.changed_by(trial) is None:
                    continue
                wider = self.cause(first, trial) if self.cleared(first) else None
                if wider is not None and set(wider.keys) > set(cause.keys):
                    return wider
        return cause

    def _next_cause(self, is_another: bool) -> Cause | None:
        """The cause of what is left: a change that clears all that belongs together, else the one
        that clears most. The likeliest changes for each finding are tried before the others for
        any. Beside a mistake, what the stops lack is more likely how they are meant.
        """
        asked = [
            _Hunt(self, finding) for finding in self.left
            if self._is_new(finding) and not (is_another and is_of_design(finding))
        ]  # fmt: skip
        # What the stops make of a mistake takes longest to ask.
        stops = [hunt for hunt in asked if hunt.first.rule.startswith("stops.")]
        hiding: list[Cause] = []
        for hunts in ([hunt for hunt in asked if hunt not in stops], stops):
            cause = self._cause_among(hunts)
            if cause is not None and not cause.shows:
                return cause
            hiding += [cause] if cause is not None else []
        if hiding:
            # What brings out something else is taken where nothing else explains it.
            return hiding[0]
        if self.may_go_on():
            self.memory.without_cause |= {hunt.first.key: hunt.first for hunt in asked}
        return None

    def _cause_among(self, hunts: list[_Hunt]) -> Cause | None:
        """The cause that some hunts find: a change that clears all that belongs together, else the
        one that clears most.
        """
        for trials in (FIRST_TRIALS, MOST_TRIALS - FIRST_TRIALS):
            for hunt in hunts:
                cause = hunt.go_on(trials)
                if cause is not None:
                    return cause
            # What clears most of what is seen is likelier than all that has not been tried.
            likely = [cause for hunt in hunts if (cause := hunt.clears_most()) is not None]
            if likely:
                return max(likely, key=lambda cause: len(cause.keys))
        partly = [cause for hunt in hunts for cause in hunt.found_so_far()]
        return min(partly, key=lambda cause: (-len(cause.keys), cause.shows), default=None)

    def fixes_that_hold(self) -> dict[str, tuple[Fix, ...]]:
        """The fixes of what no cause explains, without those that do harm or nothing."""
        found: dict[str, tuple[Fix, ...]] = {}
        for finding in self.left:
            known = self.memory.fixes.get(finding.key)
            if known is not None and known[0] == finding:
                found[finding.key] = known[1]
            elif finding.fixes and self.may_go_on():
                holding = tuple(f for f in finding.fixes if self._holds(finding, f))
                found[finding.key] = holding
                self.memory.fixes[finding.key] = finding, holding
        return found

    def _is_new(self, finding: Finding) -> bool:
        return self.memory.without_cause.get(finding.key) != finding

    def _holds(self, finding: Finding, fix: Fix) -> bool:
        trial = PossibleMistake(finding.sentence, fix, finding.subjects)
        if self.changed_by(trial) is None or not self.cleared(finding):
            return False
        bad = CONSEQUENCES.index(finding.consequence)
        hidden = HIDDEN_BY.get(finding.rule, frozenset())
        return not self._brings(
            lambda f: (
                self._is_new_since(f, finding)
                and f.rule not in hidden
                and CONSEQUENCES.index(f.consequence) <= bad
                and not is_unfinished(self.trying, f)
            )
        )

    def _brings(self, is_sought: Callable[[Finding], bool]) -> bool:
        """Whether the machine that is tried has a finding that is sought."""
        return first_finding(self.trying, is_sought, QUICK_FIRST) is not None

    def _is_new_since(self, finding: Finding, first: Finding) -> bool:
        """Whether a finding came with the change that is tried for the first one; what tells of the
        part itself does not count.
        """
        is_known = finding.key in self.known or self.memory.went_with(finding.key, first.key)
        return not is_known and not is_of_the_part(finding)

    def may_go_on(self) -> bool:
        return monotonic() < self.ends and self.should_continue()

    def came_along(self, first: Finding) -> set[str]:
        """The findings that came with another: what one mistake brought, its cure takes away."""
        since = self.memory.since
        every = (*self.laid, *self.left)
        return {f.key for f in every if since[f.key] == since[first.key] > 1}

    def changed_by(self, trial: PossibleMistake) -> Machine | None:
        """The machine with a change, which is tried from now on; None where it changes nothing."""
        try:
            changed = trial.fix.remedy.apply(self.machine)
        except Problem:
            return None
        if changed == self.machine:
            return None
        self.trying.move_to(changed)
        return changed

    def cause(self, first: Finding, trial: PossibleMistake) -> Cause | None:
        """The cause that the change that is tried would mend; None where it brings something new,
        or leaves the finding that it was tried for.
        """
        may_hide = {rule for f in self.left for rule in HIDDEN_BY.get(f.rule, ())}

        def is_sought(f: Finding) -> bool:
            return (
                f.rule not in may_hide | HIDDEN_BY_PLACE
                and f.rule.partition(".")[0] != "stops"
                and f.consequence != "Workmanship"
                and self._is_new_since(f, first)
            )

        if self._only_puts_off(first, trial):
            return None
        # What a change brought when it was tried for another finding it brings for this one.
        known = self.brought.get(trial.fix.words)
        if known is not None and is_sought(known):
            return None
        brought = first_finding(self.trying, is_sought, QUICK_FIRST)
        if brought is not None:
            self.brought[trial.fix.words] = brought
            return None
        after = check_look(self.trying)
        assert after is not None
        new = [f for f in (*after.open, *after.to_do) if self._is_new_since(f, first)]
        still = {f.key for f in (*after.open, *after.accepted)}
        cleared = [f for f in (*self.left, *self.laid) if f.key not in still]
        keys = tuple(f.key for f in cleared)
        if first.key not in keys:
            return None
        hidden = {rule for f in cleared for rule in HIDDEN_BY.get(f.rule, ())}
        if hidden and isinstance(trial.fix.remedy, ExchangeTwo | ExchangePlugs | TurnPlug):
            hidden |= HIDDEN_BY_PLACE
        runs_now = not self.runs and any(f.rule.startswith("stops.") for f in new)
        grave = [f for f in new if f.consequence != "Workmanship"]
        if runs_now and moves_at_work(self.trying):
            new = [f for f in new if not f.rule.startswith("stops.")]
        if any(f.consequence != "Workmanship" and f.rule not in hidden for f in new):
            return None
        return Cause(
            sentence=trial.sentence,
            consequence=first.consequence,
            subjects=trial.subjects,
            fix=trial.fix,
            keys=keys,
            lead=first.key,
            shows=len(grave),
            clears=frozenset(self.known - still),
        )

    def _only_puts_off(self, first: Finding, trial: PossibleMistake) -> bool:
        """Whether a change clears a finding by what it leaves without power: a load that is off
        loses nothing, and what nothing comes to any more is fed no more than before.
        """
        remedy, about = trial.fix.remedy, first.subjects[0]
        if first.rule == "supply.drop" and isinstance(remedy, ExchangeTwo):
            # A contact's throws exchanged: joined while it is worked, or at rest.
            port = self.queries.port(remedy.plug)
            pins = (port.pin(pin) for pin in (remedy.first, remedy.second)) if port else ()
            return {pin.function for pin in pins if pin is not None} == {"no", "nc"}
        moves = isinstance(remedy, TurnPlug | ExchangeTwo)
        if first.rule != UNFED or not moves or not (about.device and about.port and about.pin):
            return False
        fed = PinRef(device=about.device, port=about.port, pin=about.pin)
        return bool(self.queries.steps(fed)) and not self.trying.steps(fed)

    def cleared(self, finding: Finding) -> bool:
        """Whether a finding is gone from the machine that is tried."""
        rule = RULE_BY_ID.get(finding.rule)
        if rule is None:
            return False
        try:
            still = self.trying.ask(rule.check, finding.about.name)
        except Exception:
            return False
        return finding.key not in {other.key for other in still}
