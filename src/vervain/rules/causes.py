"""Cause first: which single change of a plug clears most of what is wrong, tried on a copy.

Several findings often come from one mistake: a plug turned round or one pin off, two leads
exchanged, a conductor left off. Each such change at the plugs that the findings name is tried; the
one that clears most, and brings nothing new, is told as the cause, with the change that mends it,
and the findings are folded under it.
"""

from collections.abc import Callable, Iterator
from itertools import combinations, islice
from time import monotonic

from msgspec.structs import replace

from vervain.edits import plug_edits
from vervain.electrical.open_ends import (
    free_inputs,
    is_strip,
    may_be_joined,
    open_ends,
    rail_pins,
    strip_pins,
)
from vervain.model.base import Record
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.model.subject import Subject
from vervain.queries.connectivity import paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.finding import CONSEQUENCES, Consequence, Finding, Fix, Result, about
from vervain.rules.fixes import (
    ExchangePlugs,
    ExchangeTwo,
    InTurn,
    PutConductor,
    ShiftPlug,
    TurnPlug,
)
from vervain.rules.registry import RULE_BY_ID

# How long one search may take, and how many plugs and pairs of pins it looks at.
BUDGET_S = 1.5
MOST_PLUGS, MOST_PINS = 14, 12
# How many changes are tried for one finding.
MOST_TRIALS, MOST_PUT_BACK = 240, 100
# How many of the most promising changes get a full check.
FULL_CHECKS = 10
# How many ends that nothing is joined to are tried with each other.
MOST_ENDS = 16
# Rules of the Supply stage that read the copper only.
SEEN = frozenset({"supply.short", "supply.contact-shorts", "supply.unfed", "supply.polarity"})


class Cause(Record, frozen=True, kw_only=True):
    """One mistake that explains some findings, given by their keys, and what mends it."""

    sentence: str
    consequence: Consequence
    subjects: tuple[Subject, ...]
    fix: Fix
    keys: tuple[str, ...]
    lead: str


class _Trial(Record, frozen=True):
    """A change to try: what would be wrong then, in words, and the change."""

    sentence: str
    fix: Fix
    subjects: tuple[Subject, ...]


class Tried:
    """What earlier searches came to: findings without a cause, and of each finding the fixes that
    held. A finding that is still the same word for word is not searched again.
    """

    def __init__(self) -> None:
        self.without_cause: dict[str, Finding] = {}
        self.fixes: dict[str, tuple[Finding, tuple[Fix, ...]]] = {}


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
    with what it found; a fix that was not tried stays. `trying` is as for `find_causes`; `tried`
    remembers from one machine to the next.
    """
    machine = trying.machine
    budget_s = BUDGET_S if budget_s is None else budget_s
    try:
        search = _Search(trying, result, should_continue, budget_s, tried or Tried())
        return Explanation(causes=search.run(), fixes=search.fixes_that_hold())
    finally:
        trying.move_to(machine)


def find_causes(
    trying: Queries,
    result: Result,
    should_continue: Callable[[], bool] = lambda: True,
    budget_s: float = BUDGET_S,
) -> tuple[Cause, ...]:
    """The causes of what is wrong, the worst first; findings that no single change clears are left
    out. `trying` stands on the machine, remembers what was worked out for it, and is moved from
    trial to trial and back. Stops after `budget_s` seconds with what it found.
    """
    machine = trying.machine
    try:
        return _Search(trying, result, should_continue, budget_s, Tried()).run()
    finally:
        trying.move_to(machine)


def _devices(finding: Finding) -> set[str]:
    """The devices that a finding names."""
    return {subject.device for subject in finding.subjects if subject.device is not None}


def _is_of_plugs(finding: Finding) -> bool:
    """Whether a plug that is put in otherwise could be behind a finding."""
    return finding.rule.partition(".")[0] not in ("machine", "harness")


def _is_seen(finding: Finding) -> bool:
    """Whether a finding is read from the copper, without solving what flows in it."""
    return not finding.rule.startswith("supply.") or finding.rule in SEEN


def conductors_in(machine: Machine) -> int:
    """How many conductors a machine has."""
    return sum(len(hookup.conductors) for hookup in machine.hookups)


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
        self.should_continue = should_continue
        self.ends = monotonic() + budget_s
        grave = [f for f in result.open if f.consequence != "Workmanship" and _is_of_plugs(f)]
        # What is seen in the copper is nearer to the mistake, and asked sooner, than what the feeds
        # come to with it.
        self.left = sorted(grave, key=lambda finding: not _is_seen(finding))
        self.known = {f.key for f in (*result.open, *result.accepted, *result.to_do)}

    def run(self) -> tuple[Cause, ...]:
        found: list[Cause] = []
        tried: set[str] = set()
        while self.left and self._may_go_on():
            first = next((f for f in self.left if f.key not in tried and self._is_new(f)), None)
            if first is None:
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
        trial = _Trial(finding.sentence, fix, finding.subjects)
        if self._changed_by(trial) is None or not self._cleared(finding):
            return False
        after = check_look(self.trying)
        assert after is not None
        bad = CONSEQUENCES.index(finding.consequence)
        return not any(
            f.key not in self.known and CONSEQUENCES.index(f.consequence) <= bad for f in after.open
        )

    def _may_go_on(self) -> bool:
        return monotonic() < self.ends and self.should_continue()

    def _cause_of(self, first: Finding) -> Cause | None:
        """The change that clears a finding and most others along with it."""
        # What has no device in common with it is another mistake until it turns out otherwise.
        names = _devices(first)
        related = [f for f in self.left if f is first or _devices(f) & names]
        seen = [finding for finding in related if _is_seen(finding)]
        promising: list[tuple[int, int, _Trial, Machine]] = []
        found: list[tuple[int, Cause]] = []
        checks = FULL_CHECKS
        for order, trial in enumerate(islice(self._trials(first), MOST_TRIALS)):
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

    def _changed_by(self, trial: _Trial) -> Machine | None:
        """The machine with a change, which is tried from now on; None where it changes nothing."""
        try:
            changed = trial.fix.remedy.apply(self.machine)
        except Problem:
            return None
        if changed == self.machine:
            return None
        self.trying.move_to(changed)
        return changed

    def _cause(self, first: Finding, trial: _Trial) -> Cause | None:
        """The cause that the change that is tried would mend; None where it brings something new,
        or leaves the finding that it was tried for.
        """
        after = check_look(self.trying)
        assert after is not None
        new = [f for f in (*after.open, *after.to_do) if f.key not in self.known]
        if any(finding.consequence != "Workmanship" for finding in new):
            return None
        still = {f.key for f in (*after.open, *after.accepted)}
        keys = tuple(f.key for f in self.left if f.key not in still)
        if first.key not in keys:
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

    def _trials(self, finding: Finding) -> Iterator[_Trial]:
        """The single changes that may be behind a finding: those that it offers, and those of the
        plugs that it names.
        """
        for fix in finding.fixes:
            yield _Trial(finding.sentence, fix, finding.subjects)
        named: dict[PortRef, set[str]] = {}
        for ref, pin in self._places(finding):
            named.setdefault(ref, set()).update((pin,) if pin else ())
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._of_plug(plug)
        yield from islice(self._put_back(finding, named), MOST_PUT_BACK)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._shifts(plug)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._changed_places(plug)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._exchanges(plug)

    def _places(self, finding: Finding) -> Iterator[tuple[PortRef, str | None]]:
        """The plugs that a finding names, with the pins, and those at their other ends; then all
        plugs of the devices that it names without a port.
        """
        subjects = [s for s in (*finding.subjects, finding.about, *finding.at) if s.device]
        near: list[tuple[PortRef, str | None]] = [
            (PortRef(device=subject.device or "", port=subject.port), subject.pin)
            for subject in subjects
            if subject.port is not None
        ]
        wide: list[tuple[PortRef, str | None]] = [
            (PortRef(device=subject.device or "", port=port.id), None)
            for subject in subjects
            if subject.port is None and (part := self.queries.part_of(subject.device or ""))
            for port in part.ports
        ]
        for places in (near, wide):
            yield from places
            for ref, pin in places:
                yield from self._far_ends(ref, pin)

    def _far_ends(self, ref: PortRef, pin: str | None) -> Iterator[tuple[PortRef, str | None]]:
        port = self.queries.port(ref)
        for at in port.pins if port else ():
            if pin is None or at.id == pin:
                here = PinRef(device=ref.device, port=ref.port, pin=at.id)
                for path in paths_from(self.queries, here):
                    for step in path.steps:
                        yield step.start.port_ref, step.start.pin
                        yield step.end.port_ref, step.end.pin

    def _of_plug(self, plug: PortRef) -> Iterator[_Trial]:
        port = self.queries.port(plug)
        used = plug_edits.used_pins(self.machine, plug)
        if port is None or not used:
            return
        where, subjects = f"{plug.device} {plug.port}", (about(plug),)
        if len(port.pins) > 1:
            yield _Trial(
                f"The plug in {where} is turned round.",
                Fix(words=f"turn the plug in {where} round", remedy=TurnPlug(plug=plug)),
                subjects,
            )

    def _changed_places(self, plug: PortRef) -> Iterator[_Trial]:
        """What is at two pins of a plug, exchanged; first those that both are joined."""
        port, used = self.queries.port(plug), plug_edits.used_pins(self.machine, plug)
        if port is None or not used:
            return
        where, subjects = f"{plug.device} {plug.port}", (about(plug),)
        names = {pin.id: pin.text for pin in port.pins}
        pairs = list(combinations(used[:MOST_PINS], 2))
        # A lead may have come to the pin beside the one that is left.
        pairs += [
            (pin, other)
            for pin in used
            for other in names
            if other not in used and len(names) <= MOST_PINS
        ]
        for first, second in pairs:
            yield _Trial(
                f"{names[first]} and {names[second]} have changed places at {where}.",
                Fix(
                    words=f"exchange {names[first]} and {names[second]} at {where}",
                    remedy=ExchangeTwo(plug=plug, first=first, second=second),
                ),
                subjects,
            )

    def _shifts(self, plug: PortRef) -> Iterator[_Trial]:
        """The plug moved by one pin. What hung over the end then needs its place again."""
        where = f"{plug.device} {plug.port}"
        for by in (-1, 1):
            moved = plug_edits.shift_plug(self.machine, plug, by)
            if conductors_in(moved) != conductors_in(self.machine):
                continue
            sentence, shift = f"The plug in {where} sits one pin off.", ShiftPlug(plug=plug, by=by)
            words = f"move the plug in {where} by one pin"
            yield _Trial(sentence, Fix(words=words, remedy=shift), (about(plug),))
            self.trying.move_to(moved)
            for fix in self._needed_at(plug):
                both = InTurn(remedies=(shift, fix.remedy))
                fix = Fix(words=f"{words} and {fix.words}", remedy=both)
                yield _Trial(sentence, fix, (about(plug),))

    def _needed_at(self, plug: PortRef) -> list[Fix]:
        """What the devices at a plug lack in the machine that is tried: the conductors for it."""
        port = self.trying.port(plug)
        devices = {plug.device}
        for pin in port.pins if port else ():
            here = PinRef(device=plug.device, port=plug.port, pin=pin.id)
            devices |= {p.device for p in self.trying.net(here)}
        found: list[Fix] = []
        free = [
            PinRef(device=plug.device, port=plug.port, pin=pin.id)
            for pin in (port.pins if port else ())
            if not self.trying.steps(PinRef(device=plug.device, port=plug.port, pin=pin.id))
        ]
        for device in sorted(devices):
            for end in open_ends(self.trying, device):
                for pin_ref in free:
                    if end.port_ref != plug and may_be_joined(self.trying, end, pin_ref):
                        found.append(self._join(end, pin_ref))
        return found[:MOST_ENDS]

    def _join(self, first: PinRef, second: PinRef) -> Fix:
        names = []
        for ref in (first, second):
            pin = self.queries.pin(ref)
            names.append(f"{ref.device} {ref.port} {pin.text if pin else ref.pin}")
        words = f"join {names[0]} to {names[1]}"
        return Fix(words=words, remedy=PutConductor(first=first, second=second))

    def _put_back(self, finding: Finding, named: dict[PortRef, set[str]]) -> Iterator[_Trial]:
        """A conductor between two ends that nothing is joined to, or from one to a rail."""
        queries = self.queries
        near: dict[PinRef, None] = {}
        for ref, pins in named.items():
            port = queries.port(ref)
            for pin in port.pins if port else ():
                here = PinRef(device=ref.device, port=ref.port, pin=pin.id)
                if pins and pin.id not in pins:
                    continue
                for member in queries.rail(here):
                    near |= dict.fromkeys(
                        end for end in open_ends(queries, member.device)
                        if end in queries.rail(here)
                    )  # fmt: skip
                near |= dict.fromkeys(ref for ref in queries.net(here) if is_strip(queries, ref))
        ends = [end for device in queries.devices() for end in open_ends(queries, device)]
        common = [*ends, *rail_pins(queries), *strip_pins(queries), *free_inputs(queries)]
        for end in list(near)[:MOST_ENDS]:
            for goal in dict.fromkeys((*self._beside(end), *common)):
                if may_be_joined(queries, end, goal):
                    subjects = (*finding.subjects, about(end))
                    yield _Trial(finding.sentence, self._join(end, goal), subjects)

    def _beside(self, end: PinRef) -> Iterator[PinRef]:
        """The pins of the ports that the other conductors of an end's plug go to."""
        port = self.queries.port(end.port_ref)
        for pin in port.pins if port else ():
            here = PinRef(device=end.device, port=end.port, pin=pin.id)
            for step in self.queries.steps(here):
                there = self.queries.port(step.end.port_ref)
                for other in there.pins if there else ():
                    yield replace(step.end, pin=other.id)

    def _exchanges(self, plug: PortRef) -> Iterator[_Trial]:
        """The plug changed with those in the ports of the same kind beside it."""
        port, part = self.queries.port(plug), self.queries.part_of(plug.device)
        if port is None or part is None or port.end != "host":
            return
        for other in part.ports:
            there = PortRef(device=plug.device, port=other.id)
            if other.id == port.id or (other.kind, len(other.pins)) != (port.kind, len(port.pins)):
                continue
            words = f"the plugs in {plug.device} {plug.port} and {other.id}"
            yield _Trial(
                f"T{words[1:]} have changed places.",
                Fix(words=f"exchange {words}", remedy=ExchangePlugs(first=plug, second=there)),
                (about(plug), about(there)),
            )
