"""The mistake table: every single wiring mistake in machines that are right, one at a time, and
what the check makes of it.

    python tools/mistakes.py [--machines rover arm …] [--kinds off …] [--sample 0.1] [--seed 1]
        [--silent FILE]

A mistake that changes nothing electrically is left out: the ends of one winding, contact, fuse,
resistor or load that minds no polarity, and of contacts in a row; two phases of a three-phase
motor, two lines of a heater; a motor plug whose windings stay pairs; a conductor that is doubled by
another. What makes no finding and needs none is listed with its reason in mistakes_harmless.toml,
counted apart, and not among those tried.
"""

import argparse
import random
import re
import tomllib
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cache, cached_property
from itertools import combinations
from pathlib import Path
from statistics import median

from mistake_machines import MACHINES
from mistake_symmetries import symmetries
from vervain.edits import plug_edits
from vervain.edits.device_edits import set_setting
from vervain.model.connectors import connector_of
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.queries.connectivity import across, nets_reached
from vervain.queries.machine_queries import Queries
from vervain.rules.cause_memory import Tried
from vervain.rules.causes import explain, explained
from vervain.rules.engine import Engine
from vervain.rules.finding import Finding, Fix

KINDS = ("off", "exchanged", "turned", "shifted", "one more", "plugs exchanged", "setting")
# Which may be joined once more without a difference: 0 V is one everywhere, and bonded to earth.
EVERYWHERE = frozenset({"zero", "pe"})
# How long the cause of one mistake may be looked for, in s.
BUDGET_S = 4.0
PASSED = ("connector", "terminal strip")
Copper = frozenset[frozenset[PinRef]]


@dataclass(frozen=True)
class Mistake:
    """One mistake: what was done where, and the machine with it."""

    kind: str
    words: str
    machine: Machine
    devices: frozenset[str]
    ends: tuple[PinRef, PinRef] | None = None


@dataclass
class Outcome:
    """What the check says of one mistake."""

    mistake: Mistake
    findings: list[Finding]
    told: int
    fixes: list[Fix]
    is_right: bool
    offers_fix: bool
    heals: bool

    @property
    def is_noticed(self) -> bool:
        return bool(self.findings)


@cache
def harmless_table() -> list[dict[str, str]]:
    """The rows of mistakes_harmless.toml."""
    text = Path(__file__).with_name("mistakes_harmless.toml").read_text("utf-8")
    return tomllib.loads(text)["harmless"]


def why_harmless(machine: str, mistake: Mistake) -> str | None:
    """Why a mistake that makes no finding needs none; None where no reason is known."""
    for row in harmless_table():
        if re.fullmatch(row["machine"], machine) and re.search(row["words"], mistake.words):
            return row["reason"]
    return None


def takes_wires(connector: str) -> bool:
    """Whether bare wires go in one by one, so that there is no plug to put in wrongly."""
    found = connector_of(connector)
    return found is not None and found.family.takes_wires


class Sound:
    """A machine that is right, and what its copper is like."""

    def __init__(self, machine: Machine) -> None:
        self.machine = machine
        self.queries = Queries(machine)

    @cached_property
    def copper(self) -> Copper:
        return copper_of(self.queries)

    def plugs(self) -> list[PortRef]:
        """Every port that at least one conductor comes to."""
        found: dict[PortRef, None] = {}
        for hookup in self.machine.hookups:
            found[hookup.a] = found[hookup.b] = None
        return list(found)

    def mistakes(self) -> Iterator[Mistake]:
        """Every single mistake, the harmless ones too."""
        yield from self._off()
        for plug in self.plugs():
            port = self.queries.port(plug)
            if port is None:
                continue
            where, used = f"{plug.device} {plug.port}", plug_edits.used_pins(self.machine, plug)
            near = self._near(plug)
            for first, second in combinations(used, 2):
                made = plug_edits.exchange_two(self.machine, plug, first, second)
                words = f"{where}: {first} and {second} exchanged"
                ends = tuple(
                    PinRef(device=plug.device, port=plug.port, pin=pin) for pin in (first, second)
                )
                yield Mistake("exchanged", words, made, near, ends)
            if port.connector is None or len(port.pins) < 2:
                continue
            made = plug_edits.turn_plug(self.machine, plug)
            yield Mistake("turned", f"{where} turned round", made, near)
            for by in (-1, 1) if not takes_wires(port.connector) else ():
                made = plug_edits.shift_plug(self.machine, plug, by)
                if made != self.machine:
                    yield Mistake("shifted", f"{where} shifted by {by}", made, near)
        yield from self._one_more()
        yield from self._plugs_exchanged()
        yield from self._settings()

    def _off(self) -> Iterator[Mistake]:
        for hookup in self.machine.hookups:
            near = self._near(hookup.a) | self._near(hookup.b)
            for row, conductor in enumerate(hookup.conductors):
                made = plug_edits.take_conductor_off(self.machine, hookup.id, row)
                words = (
                    f"{hookup.a.device} {hookup.a.port}.{conductor.a} to "
                    f"{hookup.b.device} {hookup.b.port}.{conductor.b} off"
                )
                yield Mistake("off", words, made, near)

    def _one_more(self) -> Iterator[Mistake]:
        """A wire too many from each pin that has one to another one, the same in every run."""
        used = [
            PinRef(device=plug.device, port=plug.port, pin=pin)
            for plug in self.plugs() for pin in plug_edits.used_pins(self.machine, plug)
        ]  # fmt: skip
        chance = random.Random(len(used))
        for first in used:
            second = chance.choice(used)
            functions = {
                pin.function for ref in (first, second)
                if (pin := self.queries.pin(ref)) is not None
            }  # fmt: skip
            if second in self.queries.net(first) or functions <= EVERYWHERE:
                continue
            made = plug_edits.put_conductor(self.machine, first, second)
            words = (
                f"{first.device} {first.port}.{first.pin} joined to "
                f"{second.device} {second.port}.{second.pin} as well"
            )
            near = self._near(first.port_ref) | self._near(second.port_ref)
            yield Mistake("one more", words, made, near)

    def _plugs_exchanged(self) -> Iterator[Mistake]:
        """Two plugs of one kind in two ports of one device, exchanged."""
        alike: dict[tuple[str, str, str | None, int], list[PortRef]] = defaultdict(list)
        for plug in self.plugs():
            port = self.queries.port(plug)
            if port is not None and port.end == "host" and port.connector is not None:
                alike[plug.device, port.kind, port.connector, len(port.pins)].append(plug)
        for plugs in alike.values():
            for first, second in combinations(plugs, 2):
                made = plug_edits.exchange_plugs(self.machine, first, second)
                words = f"the plugs in {first.device} {first.port} and {second.port} exchanged"
                near = self._near(first) | self._near(second)
                yield Mistake("plugs exchanged", words, made, near)

    def _settings(self) -> Iterator[Mistake]:
        for name in self.queries.devices():
            part = self.queries.part_of(name)
            for option in part.options if part else ():
                for port in option.ports or ("",):
                    key = f"{option.id}/{port}" if port else option.id
                    if port and port not in {p.port for p in self.plugs() if p.device == name}:
                        continue
                    now = self.queries.setting(name, option.id, port or None)
                    others: list[str | float] = [c for c in option.choices if c != now]
                    if not option.choices and isinstance(now, int | float):
                        most = option.maximum or now * 2
                        others = [v for v in (now * 2,) if v <= most] or [
                            max(now / 3, option.minimum or 0)
                        ]
                    for value in others[:1]:
                        try:
                            made = set_setting(self.machine, name, key, value)
                        except Problem:
                            continue
                        words = f"{name} {key} is {value} instead of {now}"
                        yield Mistake("setting", words, made, self._near_device(name))

    def _near(self, plug: PortRef) -> frozenset[str]:
        """The devices at either end of a plug's conductors, through joints too."""
        found = {plug.device}
        for pin in plug_edits.pins_of(self.machine, plug):
            ref = PinRef(device=plug.device, port=plug.port, pin=pin)
            found |= {step.end.device for step in self.queries.steps(ref)}
            net = self.queries.net(ref)
            if len({p.device for p in net}) <= 8:
                found |= {p.device for p in net}
        axes = {axis.id for name in found if (axis := self.queries.axis_of(name)) is not None}
        return frozenset(found) | axes

    def _near_device(self, device: str) -> frozenset[str]:
        found = {device}
        for plug in self.plugs():
            if plug.device == device:
                found |= self._near(plug)
        return frozenset(found)

    def is_harmless(self, mistake: Mistake) -> bool:
        """Whether the copper is as it was, but for ends that may be exchanged."""
        if mistake.kind == "setting":
            return False
        after = copper_of(Queries(mistake.machine))
        if after == self.copper or (mistake.ends and self._are_ends_of_contacts(*mistake.ends)):
            return True
        changed = {p.device for net in after ^ self.copper for p in net}
        for device in changed:
            part = self.queries.part_of(device)
            for renamed in symmetries(part, device) if part else ():
                moved = frozenset(
                    frozenset(renamed.get(pin, pin) for pin in net) for net in self.copper
                )
                if moved == after:
                    return True
        return False

    def _are_ends_of_contacts(self, first: PinRef, second: PinRef) -> bool:
        """Whether what hangs at two pins are contacts and fuses in a row, and nothing else: which
        end of the row lies where makes no difference.
        """
        steps = [*self.queries.steps(first), *self.queries.steps(second)]
        if len(steps) != 2:
            return False
        bare = self.machine
        for step in steps:
            bare = plug_edits.take_wire_off(bare, step.start, step.end)
        queries, ends = Queries(bare), [step.end for step in steps]
        nets = nets_reached(queries, ends[:1], is_way_through)
        members = [ref for net in nets for ref in net]
        return ends[1] in members and not any(
            (part := queries.part_of(ref.device)) is not None
            and part.kind not in PASSED
            and not across(queries, ref, is_way_through)
            for ref in members
        )


def is_way_through(device: str, element: Element) -> bool:
    """Whether current comes through an element either way alike."""
    return isinstance(element, Contact | Fuse)


def copper_of(queries: Queries) -> Copper:
    """Which pins of devices are joined, leaving out what is only passed through."""
    found = set()
    for device in queries.devices():
        part = queries.part_of(device)
        for port in part.ports if part else ():
            for pin in port.pins:
                net = queries.net(PinRef(device=device, port=port.id, pin=pin.id))
                kept = frozenset(
                    p for p in net if (there := queries.part_of(p.device)) is not None
                    and there.kind not in PASSED
                    and (named := queries.pin(p)) is not None
                    and named.function != "none"
                )  # fmt: skip
                if len(kept) > 1:
                    found.add(kept)
    return frozenset(found)


class Judge:
    """Asks the check about one mistake after another."""

    def __init__(self, sound: Sound) -> None:
        self.sound = sound
        self.engine = Engine()
        self.before = self._grave(sound.machine)
        self.known = {finding.key for finding in self.before}
        # What was searched before the mistake is not searched again, as in the window.
        self.tried = Tried() if self.before else Tried.after_clean()
        result = self.engine.check(sound.machine)
        if self.before and result is not None:
            explain(self.engine.queries, result, budget_s=BUDGET_S, tried=self.tried)

    def _grave(self, machine: Machine) -> list[Finding]:
        result = self.engine.check(machine)
        assert result is not None
        return [f for f in result.open if f.consequence != "Workmanship"]

    def outcome(self, mistake: Mistake) -> Outcome:
        result = self.engine.check(mistake.machine)
        assert result is not None
        found = [
            f for f in result.open if f.consequence != "Workmanship" and f.key not in self.known
        ]
        told = found
        if found:
            tried = self.tried.copy()
            told_result = explained(
                result, explain(self.engine.queries, result, budget_s=BUDGET_S, tried=tried)
            )
            told = [
                f
                for f in told_result.open
                if f.consequence != "Workmanship" and f.key not in self.known
            ]
        # A cause names where the mistake is, the finding what comes of it.
        subjects = (s for f in (*found, *told) for s in f.subjects)
        named = {name for s in subjects for name in (s.device, s.axis) if name}
        fixes = [fix for finding in told for fix in finding.fixes]
        heals = False
        if fixes:
            try:
                healed = fixes[0].remedy.apply(mistake.machine)
                heals = not [f for f in self._grave(healed) if f.key not in self.known]
            except Problem:
                heals = False
        return Outcome(
            mistake, found, len(told), fixes, bool(named & mistake.devices), bool(fixes), heals
        )


@dataclass
class Tally:
    """The figures of one row of the table."""

    harmless: int = 0
    tried: int = 0
    noticed: int = 0
    right: int = 0
    fixable: int = 0
    healed: int = 0
    counts: list[int] = field(default_factory=list)

    def add(self, outcome: Outcome) -> None:
        self.tried += 1
        self.noticed += outcome.is_noticed
        self.right += outcome.is_right
        self.fixable += outcome.offers_fix
        self.healed += outcome.heals
        if outcome.findings:
            self.counts.append(outcome.told)

    def row(self, name: str) -> str:
        def share(part: int, whole: int) -> str:
            return f"{part / whole:4.0%}" if whole else "   –"

        middle = f"{median(self.counts):.0f}" if self.counts else "–"
        most = max(self.counts, default=0)
        return (
            f"{name:28} {self.harmless:8} {self.tried:6}"
            f" {share(self.noticed, self.tried):>8}"
            f" {share(self.right, self.tried):>6} {share(self.fixable, self.noticed):>8}"
            f" {share(self.healed, self.noticed):>7} {middle:>7} {most:>5}"
        )


HEAD = (
    f"{'':28} {'harmless':>8} {'tried':>6}"
    f" {'noticed':>8} {'right':>6} {'with fix':>8} {'heals':>7} {'median':>7}"
    f" {'most':>5}"
)


def judged(
    machine: Machine,
    sample: float = 1.0,
    choice: random.Random | None = None,
    kinds: Sequence[str] = KINDS,
) -> Iterator[Outcome]:
    """The outcomes of the mistakes in one machine that matter, or of a sample of them."""
    sound = Sound(machine)
    judge = Judge(sound)
    for mistake in sound.mistakes():
        if mistake.kind not in kinds or (choice is not None and choice.random() > sample):
            continue
        if not sound.is_harmless(mistake):
            yield judge.outcome(mistake)


def main() -> None:
    """Prints the table."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--machines", nargs="*", default=list(MACHINES))
    parser.add_argument("--sample", type=float, default=1.0)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--kinds", nargs="*", default=KINDS, choices=KINDS)
    parser.add_argument("--silent", type=Path, help="file for those that nobody notices")
    options = parser.parse_args()
    by_kind: dict[str, Tally] = defaultdict(Tally)
    whole = Tally()
    silent: list[str] = []
    print(HEAD)
    for name in options.machines:
        machine, tally = MACHINES[name](), Tally()
        before = Judge(Sound(machine)).before
        rules: Counter[str] = Counter()
        chance = random.Random(options.seed)
        for outcome in judged(machine, options.sample, chance, options.kinds):
            reason = None if outcome.is_noticed else why_harmless(name, outcome.mistake)
            for figures in (tally, whole, by_kind[outcome.mistake.kind]):
                if reason is None:
                    figures.add(outcome)
                else:
                    figures.harmless += 1
            if reason is not None:
                continue
            rules.update(f.rule for f in outcome.findings)
            if not outcome.is_noticed:
                silent.append(f"{name}: {outcome.mistake.words}")
            elif not outcome.is_right:
                silent.append(f"{name}: {outcome.mistake.words}: WRONG DEVICE")
            elif not outcome.heals:
                first = outcome.findings[0]
                fix = outcome.fixes[0].words if outcome.fixes else "none"
                silent.append(
                    f"{name}: {outcome.mistake.words}: NOT HEALED by “{fix}” ({first.rule}, "
                    f"{len(outcome.findings)} findings)"
                )
        print(tally.row(f"{name} ({len(before)} before)"), flush=True)
    for kind in KINDS:
        print(by_kind[kind].row(f"  {kind}"))
    print(whole.row("all"))
    if options.silent:
        options.silent.write_text("\n".join(silent) + "\n", "utf-8")


if __name__ == "__main__":
    main()
