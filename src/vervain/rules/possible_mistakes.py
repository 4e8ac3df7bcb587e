"""The single changes of plugs that may be behind a finding, one after the other."""

from collections import Counter
from collections.abc import Collection, Iterator
from itertools import combinations, islice

from msgspec.structs import replace

from vervain.edits import plug_edits
from vervain.electrical.levels import READ_BY_CONTACTS
from vervain.electrical.open_ends import (
    dead_pins,
    free_inputs,
    is_strip,
    may_be_joined,
    open_ends,
    rail_pins,
    strip_pins,
)
from vervain.electrical.unmet_needs import natures, open_end
from vervain.model.base import Record
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.subject import Subject
from vervain.queries.connectivity import across, is_contact, nets_reached, paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import Finding, Fix, about
from vervain.rules.fixes import (
    ExchangePlugs,
    ExchangeTwo,
    InTurn,
    PutConductor,
    ShiftPlug,
    TurnPlug,
)

# How many plugs, pins of a plug and related findings are looked at, and how many conductors are put
# back.
MOST_PLUGS, MOST_PINS, MOST_PUT_BACK, MOST_RELATED = 14, 12, 100, 8
# Rules that tell an end that nothing comes to.
OPEN_ENDS = frozenset({"ports.half-joined", "ports.need"})
# How many plugs a finding itself may be at, of which exchanged leads are tried early.
MOST_OWN = 2
# Of conductors put back those nearest to the finding come first, then its own plugs one pin off.
FIRST_PUT_BACK, FIRST_SHIFTED = 12, 3
# From how many leads on a plug serves several things, and how many of their exchanges are tried.
FROM_LEADS, MOST_TOUCHED = 5, 40
# What takes its current from a rail.
FED = frozenset({
    "plus", "zero", "line", "neutral", "pe", "load+", "load-", "coil+", "coil-", "motor+", "motor-",
})  # fmt: skip
# What power comes to a strip by.
FEEDING = ("supply", "battery", "fuse", "contactor", "solid-state relay", "switch")
# What lies behind contacts.
SWITCHED = (*READ_BY_CONTACTS, "coil")
# How many nets along contacts are looked at.
MOST_NETS = 5
# How many ends that nothing is joined to are tried with each other.
MOST_ENDS = 16


class PossibleMistake(Record, frozen=True):
    """What may be wrong, in words, and the change that would mend it."""

    sentence: str
    fix: Fix
    subjects: tuple[Subject, ...]


def _is_contact_pin(queries: Queries, pin: PinRef) -> bool:
    """Whether a contact of its part begins at a pin."""
    return bool(across(queries, pin, is_contact))


def _conductors_in(machine: Machine) -> int:
    """How many conductors a machine has."""
    return sum(len(hookup.conductors) for hookup in machine.hookups)


class PossibleMistakes:
    """The mistakes that one machine may have. `trying` is moved by who tries them."""

    def __init__(self, queries: Queries, trying: Queries) -> None:
        self.queries = queries
        self.machine = queries.machine
        self.trying = trying

    def of(
        self,
        finding: Finding,
        related: Collection[Finding] = (),
        others_left: Collection[Finding] = (),
    ) -> Iterator[PossibleMistake]:
        """The single changes that may be behind a finding: those that it offers, and those of the
        plugs that it names, first of those that most of the `related` findings name as well; where
        a plug serves several things, `others_left` may be of it too.
        """
        for fix in finding.fixes:
            yield PossibleMistake(finding.sentence, fix, finding.subjects)
        named: dict[PortRef, set[str]] = {}
        for ref, pin in self._places(finding):
            named.setdefault(ref, set()).update((pin,) if pin else ())
        others = list(islice((f for f in related if f is not finding), MOST_RELATED))
        told_by = Counter(ref for f in others for ref in {ref for ref, _ in self._places(f)})
        named = dict(sorted(named.items(), key=lambda item: -told_by[item[0]]))
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._of_plug(plug)
        own = [plug for plug in self._own_plugs(finding) if plug in named]
        for plug in own:
            yield from self._changed_places(plug, only_joined=True)
        known = {f.key for f in (finding, *others)}
        further = [f for f in others_left if f.key not in known][:MOST_RELATED]
        yield from self._touched_together([finding, *others, *further])
        back = self._put_back(finding, named)
        yield from islice(back, FIRST_PUT_BACK)
        for plug in list(named)[:FIRST_SHIFTED]:
            yield from self._shifts(plug)
        yield from islice(back, MOST_PUT_BACK - FIRST_PUT_BACK)
        for plug in list(named)[FIRST_SHIFTED:MOST_PLUGS]:
            yield from self._shifts(plug)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._changed_places(plug, known=plug in own)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._exchanges(plug)

    def devices_joined_at(self, finding: Finding) -> set[str]:
        """The devices that are joined to the plugs that a finding names."""
        return {
            far.device
            for subject in (*finding.subjects, finding.about, *finding.at)
            if subject.device is not None and subject.port is not None
            for far, _ in self._far_ends(
                PortRef(device=subject.device, port=subject.port), subject.pin
            )
        }

    def devices_behind(self, finding: Finding) -> set[str]:
        """The devices on the rails of the pins that a finding names."""
        pins = [
            PinRef(device=s.device, port=s.port, pin=s.pin)
            for s in finding.subjects
            if s.device is not None and s.port is not None and s.pin is not None
        ]
        return {member.device for pin in pins for member in self.queries.rail(pin)}

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
            # One mistake where a strip is fed is told at everything that hangs on it.
            for ref, pin in near if places is near else ():
                yield from self._where_its_strip_is_fed(ref, pin)
        for ref, pin in near:
            yield from self._along_contacts(ref, pin)

    def _far_ends(self, ref: PortRef, pin: str | None) -> Iterator[tuple[PortRef, str | None]]:
        port = self.queries.port(ref)
        for at in port.pins if port else ():
            if pin is None or at.id == pin:
                here = PinRef(device=ref.device, port=ref.port, pin=at.id)
                for path in paths_from(self.queries, here):
                    for step in path.steps:
                        yield step.start.port_ref, step.start.pin
                        yield step.end.port_ref, step.end.pin

    def _along_contacts(
        self, ref: PortRef, pin: str | None
    ) -> Iterator[tuple[PortRef, str | None]]:
        """The plugs on the way from an input through the contacts that it reads, or from a coil
        through those that switch it.
        """
        port = self.queries.port(ref)
        if port is None or port.kind not in SWITCHED or pin is None:
            return

        start = PinRef(device=ref.device, port=ref.port, pin=pin)
        nets = nets_reached(self.queries, [start], is_contact)
        for net in nets[:MOST_NETS]:
            for member in net[:MOST_PINS]:
                yield member.port_ref, member.pin

    def _where_its_strip_is_fed(
        self, ref: PortRef, pin: str | None
    ) -> Iterator[tuple[PortRef, str | None]]:
        """The terminals by which power comes to a strip that a plug hangs on."""
        port, seen = self.queries.port(ref), set[PortRef]()
        for at in port.pins if port else ():
            here = PinRef(device=ref.device, port=ref.port, pin=at.id)
            if pin not in (None, at.id):
                continue
            for terminal in self.queries.net(here):
                if not is_strip(self.queries, terminal) or terminal.port_ref in seen:
                    continue
                for step in self.queries.steps(terminal):
                    part = self.queries.part_of(step.end.device)
                    if part is not None and part.kind in FEEDING:
                        seen.add(terminal.port_ref)
                        yield terminal.port_ref, terminal.pin

    def _of_plug(self, plug: PortRef) -> Iterator[PossibleMistake]:
        port = self.queries.port(plug)
        used = plug_edits.used_pins(self.machine, plug)
        if port is None or not used:
            return
        where, subjects = f"{plug.device} {plug.port}", (about(plug),)
        if len(port.pins) > 1:
            yield PossibleMistake(
                f"The plug in {where} is turned round.",
                Fix(words=f"turn the plug in {where} round", remedy=TurnPlug(plug=plug)),
                subjects,
            )

    def _touched_together(self, findings: list[Finding]) -> Iterator[PossibleMistake]:
        """Two leads exchanged at a plug that serves several things, of those pins by which the ways
        of the findings go: first those that together lie on most of them, then one of them with
        another that is joined.
        """
        touched: dict[PortRef, dict[str, set[int]]] = {}
        for number, finding in enumerate(findings):
            for ref, pin in self._ways_of(finding):
                touched.setdefault(ref, {}).setdefault(pin, set()).add(number)
        pairs: list[tuple[int, int, PortRef, str, str]] = []
        for plug, by_pin in touched.items():
            used = plug_edits.used_pins(self.machine, plug)
            if len(used) < FROM_LEADS:
                continue
            for first, second in combinations(used, 2):
                one, two = by_pin.get(first, set()), by_pin.get(second, set())
                if one or two:
                    pairs.append((-len(one | two), len(one & two), plug, first, second))
        pairs.sort(key=lambda pair: pair[:2])
        for _, _, plug, first, second in pairs[:MOST_TOUCHED]:
            yield self._exchanged(plug, first, second)

    def _ways_of(self, finding: Finding) -> Iterator[tuple[PortRef, str]]:
        """The pins that a finding names, and those along their ways and contacts."""
        for subject in (*finding.at, *finding.subjects):
            if subject.device is None or subject.port is None or subject.pin is None:
                continue
            ref = PortRef(device=subject.device, port=subject.port)
            yield ref, subject.pin
            for places in (
                self._far_ends(ref, subject.pin),
                self._along_contacts(ref, subject.pin),
            ):
                yield from ((at, pin) for at, pin in places if pin is not None)

    def _own_plugs(self, finding: Finding) -> list[PortRef]:
        """The plugs where a finding is, unless it is of an end that nothing comes to: what lies
        wrong at such a plug has more likely changed places than gone.
        """
        if finding.rule in OPEN_ENDS:
            return []
        at = [s for s in (*finding.at, *finding.subjects) if s.device and s.port]
        plugs = dict.fromkeys(PortRef(device=s.device or "", port=s.port or "") for s in at)
        return list(plugs)[:MOST_OWN]

    def _changed_places(
        self, plug: PortRef, only_joined: bool = False, known: bool = False
    ) -> Iterator[PossibleMistake]:
        """What is at two pins of a plug, exchanged: those that both are joined, unless they are
        known, then one with a pin beside that is free.
        """
        port, used = self.queries.port(plug), plug_edits.used_pins(self.machine, plug)
        if port is None or not used:
            return
        names = [pin.id for pin in port.pins]
        pairs = [] if known else list(combinations(used[:MOST_PINS], 2))
        # A lead may have come to the pin beside the one that is left.
        pairs += [
            (pin, other)
            for pin in used
            for other in names
            if other not in used and len(names) <= MOST_PINS and not only_joined
        ]
        for first, second in pairs:
            yield self._exchanged(plug, first, second)

    def _exchanged(self, plug: PortRef, first: str, second: str) -> PossibleMistake:
        """What is at two pins of a plug, exchanged."""
        port = self.queries.port(plug)
        names = {pin.id: pin.text for pin in port.pins} if port is not None else {}
        where = f"{plug.device} {plug.port}"
        return PossibleMistake(
            f"{names.get(first, first)} and {names.get(second, second)} have changed places at "
            f"{where}.",
            Fix(
                words=f"exchange {names.get(first, first)} and {names.get(second, second)} at "
                f"{where}",
                remedy=ExchangeTwo(plug=plug, first=first, second=second),
            ),
            (about(plug),),
        )

    def _shifts(self, plug: PortRef) -> Iterator[PossibleMistake]:
        """The plug moved by one pin. What hung over the end then needs its place again."""
        where = f"{plug.device} {plug.port}"
        for by in (-1, 1):
            moved = plug_edits.shift_plug(self.machine, plug, by)
            if _conductors_in(moved) != _conductors_in(self.machine):
                continue
            sentence, shift = f"The plug in {where} sits one pin off.", ShiftPlug(plug=plug, by=by)
            words = f"move the plug in {where} by one pin"
            yield PossibleMistake(sentence, Fix(words=words, remedy=shift), (about(plug),))
            self.trying.move_to(moved)
            for fix in self._needed_at(plug):
                both = InTurn(remedies=(shift, fix.remedy))
                fix = Fix(words=f"{words} and {fix.words}", remedy=both)
                yield PossibleMistake(sentence, fix, (about(plug),))

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
        for pin_ref in free:
            # What lay beside the others at their far end comes before what is open elsewhere.
            own = self.trying.pin(pin_ref)
            for end in self._beside(pin_ref, self.trying):
                there = self.trying.pin(end)
                same = own is not None and there is not None and own.function == there.function
                if same and may_be_joined(self.trying, end, pin_ref):
                    found.append(self._join(end, pin_ref))
        for device in sorted(devices):
            for end in open_ends(self.trying, device):
                for pin_ref in free:
                    if end.port_ref != plug and may_be_joined(self.trying, end, pin_ref):
                        found.append(self._join(end, pin_ref))
        return list(dict.fromkeys(found))[:MOST_ENDS]

    def _join(self, first: PinRef, second: PinRef) -> Fix:
        names = [pin_in_words(self.queries, ref) for ref in (first, second)]
        words = f"join {names[0]} to {names[1]}"
        return Fix(words=words, remedy=PutConductor(first=first, second=second))

    def _put_back(
        self, finding: Finding, named: dict[PortRef, set[str]]
    ) -> Iterator[PossibleMistake]:
        """A conductor between two ends that nothing is joined to, or from one to a rail."""
        queries = self.queries
        # What the finding itself is about comes before what only lies on its rail.
        own = [
            PinRef(device=s.device, port=s.port, pin=s.pin)
            for s in (*finding.at, *finding.subjects)
            if s.device is not None and s.port is not None and s.pin is not None
        ]
        near_own = [end for at in own for end in (at, open_end(queries, at))]
        near = dict.fromkeys(near_own)
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
        strips, sources = strip_pins(queries), rail_pins(queries)
        ends += [pin for pin in dead_pins(queries) if pin not in ends]
        inputs = free_inputs(queries)
        # What the finding is about comes first, and of it what nothing is joined to.
        named_ends = set(near_own)
        open_first = sorted(near, key=lambda e: (e not in named_ends, bool(queries.steps(e))))
        for end in open_first[:MOST_ENDS]:
            part = queries.part_of(end.device)
            is_fuse = part is not None and part.kind == "fuse"
            # A fuse is joined to what it protects from, a load to the strip beside it.
            rails = (*sources, *strips) if is_fuse else (*strips, *sources)
            # What lies behind an in-line connector is what is fed through it.
            behind = [queries.pin(ref) for ref in queries.net(end)[:MOST_PINS]]
            is_fed = is_fuse or any(pin is not None and pin.function in FED for pin in behind)
            common = (*rails, *ends, *inputs) if is_fed else (*ends, *rails, *inputs)
            near_by = (
                *(
                    self._own_source(end, queries)
                    if is_fed or _is_contact_pin(queries, end)
                    else ()
                ),
                *self._over(end, queries),
                *self._beside(end, queries),
            )
            for goal in dict.fromkeys((*near_by, *common)):
                if may_be_joined(queries, end, goal):
                    subjects = (*finding.subjects, about(end))
                    yield PossibleMistake(finding.sentence, self._join(end, goal), subjects)

    def _own_source(self, end: PinRef, queries: Queries) -> tuple[PinRef, ...]:
        """The pins of the source that the rest of an end's circuit lies on: by the other leads of
        its port, what is across its contacts, and the loads there.
        """
        here = list(dict.fromkeys((end, *queries.net(end)[:MOST_PINS])))
        seen = set(here)
        for _ in range(MOST_NETS):
            beyond: list[PinRef] = []
            for pin in here:
                port = queries.port(pin.port_ref)
                mates = port.pins if port is not None and port.kind not in READ_BY_CONTACTS else ()
                pairs = [replace(pin, pin=p.id) for p in mates if p.function in FED]
                beyond += (*pairs, *across(queries, pin, is_contact))
            here = []
            for pin in beyond:
                if pin in seen:
                    continue
                for member in queries.rail(pin):
                    if natures(queries, member) & {"source", "return"}:
                        source = queries.port(member.port_ref)
                        return tuple(
                            replace(member, pin=p.id) for p in (source.pins if source else ())
                        )
                    if member not in seen:
                        seen.add(member)
                        here.append(member)
        return ()

    def _over(self, end: PinRef, queries: Queries) -> Iterator[PinRef]:
        """The far pins of contacts that end where the far pin of an end's own contact does: what
        would lie over them, as the contact that holds a coil lies over its start button.
        """

        for far in across(queries, end, is_contact):
            for member in queries.net(far):
                if member != far:
                    yield from across(queries, member, is_contact)

    def _beside(self, end: PinRef, queries: Queries) -> Iterator[PinRef]:
        """The pins of the ports that the other conductors of an end's plug go to."""
        port = queries.port(end.port_ref)
        for pin in port.pins if port else ():
            here = PinRef(device=end.device, port=end.port, pin=pin.id)
            for step in queries.steps(here):
                there = queries.port(step.end.port_ref)
                for other in there.pins if there else ():
                    yield replace(step.end, pin=other.id)

    def _exchanges(self, plug: PortRef) -> Iterator[PossibleMistake]:
        """The plug changed with those in the ports of the same kind beside it."""
        port, part = self.queries.port(plug), self.queries.part_of(plug.device)
        if port is None or part is None or port.end != "host":
            return
        for other in part.ports:
            there = PortRef(device=plug.device, port=other.id)
            if other.id == port.id or (other.kind, len(other.pins)) != (port.kind, len(port.pins)):
                continue
            words = f"the plugs in {plug.device} {plug.port} and {other.id}"
            yield PossibleMistake(
                f"T{words[1:]} have changed places.",
                Fix(words=f"exchange {words}", remedy=ExchangePlugs(first=plug, second=there)),
                (about(plug), about(there)),
            )
