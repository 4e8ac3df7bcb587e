"""The single changes of plugs that may be behind a finding, one after the other."""

from collections import Counter
from collections.abc import Collection, Iterable, Iterator
from itertools import combinations, islice, starmap

from vervain.edits import plug_edits
from vervain.electrical.levels import READ_BY_CONTACTS
from vervain.electrical.open_ends import is_strip
from vervain.model.base import Record
from vervain.model.machine import PinRef, PortRef
from vervain.model.subject import Subject
from vervain.queries.connectivity import across, is_contact, nets_reached, paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Finding, Fix, about
from vervain.rules.fixes import (
    ExchangePlugs,
    ExchangeTwo,
    TurnPlug,
)
from vervain.rules.missing_conductors import MOST_NETS, MOST_PINS, MissingConductors
from vervain.rules.rails_met import alone_at_the_wrong_rail, rails_that_met
from vervain.rules.shifted_plugs import ShiftedPlugs
from vervain.rules.wires_too_many import wires_too_many

BY_ONE_RAIL = "supply.same-rail"
# What tells that the plus of something lies on the 0 V of something else, and how many plugs may
# have both exchanged.
RAILS_MET = frozenset({
    "supply.in-series", "supply.short", "supply.same-rail", "supply.contact-shorts",
    "supply.shorted-at-work",
})  # fmt: skip
MOST_RAILS = 6
# How many plugs and related findings are looked at, and how many conductors are put back.
MOST_PLUGS, MOST_PUT_BACK, MOST_RELATED = 14, 100, 8
# What no missing conductor makes: a way past a contact only hides that it switches too much, or is
# read by nothing.
WELDED = "stops.weld-unread"
OVER = frozenset({"signals.contact-rating", WELDED})
HALF_JOINED = "ports.half-joined"
UNFED = "supply.unfed"
# Rules that tell an end that nothing comes to.
OPEN_ENDS = frozenset({HALF_JOINED, "ports.need"})
# How many plugs a finding itself may be at, of which exchanged leads are tried early.
MOST_OWN = 2
# Of so many pins of one plug that a finding tells of, two may have changed places.
MOST_WRONG = 3
# Of conductors put back those nearest to the finding come first, then its own plugs one pin off.
FIRST_PUT_BACK, FIRST_SHIFTED = 12, 3
# From how many leads on a plug serves several things, and how many of their exchanges are tried.
FROM_LEADS, MOST_TOUCHED = 5, 40
# What power comes to a strip by.
FEEDING = ("supply", "battery", "fuse", "contactor", "solid-state relay", "switch")
# What lies behind contacts.
SWITCHED = (*READ_BY_CONTACTS, "coil")


class PossibleMistake(Record, frozen=True):
    """What may be wrong, in words, and the change that would mend it."""

    sentence: str
    fix: Fix
    subjects: tuple[Subject, ...]


def _pins_told_of(findings: Iterable[Finding]) -> list[PinRef]:
    """The pins that findings tell of, each once."""
    return list(dict.fromkeys(
        PinRef(device=subject.device, port=subject.port, pin=subject.pin)
        for finding in findings
        for subject in (*finding.at, *finding.subjects)
        if subject.device and subject.port and subject.pin
    ))  # fmt: skip


class PossibleMistakes:
    """The mistakes that one machine may have. `trying` is moved by who tries them."""

    def __init__(self, queries: Queries, trying: Queries) -> None:
        self.queries = queries
        self.machine = queries.machine
        self.trying = trying
        self.missing = MissingConductors(queries)
        self.shifted = ShiftedPlugs(queries, trying, self.missing)

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
        met = rails_that_met(self.queries) if finding.rule in RAILS_MET else ()
        yield from starmap(self._exchanged, islice(met, MOST_RAILS))
        if finding.rule in RAILS_MET:
            for plug in islice(alone_at_the_wrong_rail(self.queries), MOST_RAILS):
                yield from self._of_plug(plug)
        yield from self._pins_that_are_wrong(finding)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._of_plug(plug)
        for plug in list(named)[:MOST_PLUGS]:
            yield from starmap(PossibleMistake, self.shifted.one_pin_off(plug))
        # What is fed by one rail at both pins may itself be what joins the two rails.
        fed = [p for f in related if f.rule == BY_ONE_RAIL for p in self._own_plugs(f)]
        for plug in dict.fromkeys(fed):
            if plug not in list(named)[:MOST_PLUGS]:
                yield from self._of_plug(plug)
        # The plug with most leads is the one that has most to hang over.
        by_size = sorted(
            list(named)[:MOST_PLUGS],
            key=lambda plug: -len(plug_edits.used_pins(self.machine, plug)),
        )
        own = [plug for plug in self._own_plugs(finding) if plug in named]
        for plug in own:
            yield from self._changed_places(plug, only_joined=True)
        at = (PinRef(device=ref.device, port=ref.port, pin=pin) for ref, pin in self._pins(finding))
        for sentence, fix, subjects in wires_too_many(self.queries, finding, at):
            yield PossibleMistake(sentence, fix, subjects)
        known = {f.key for f in (finding, *others)}
        further = [f for f in others_left if f.key not in known][:MOST_RELATED]
        puts_back = () if finding.rule in OVER else self.missing.put_back(finding, named)
        back = (PossibleMistake(finding.sentence, fix, subjects) for fix, subjects in puts_back)
        told = _pins_told_of((finding, *others))
        # A plug off its place tells of itself, or of where its wires come from.
        told_ports = self._told_ports((finding, *others))
        near = [plug for plug in list(named)[:MOST_PLUGS] if plug in told_ports]
        by_size = [plug for plug in by_size if plug in told_ports]
        hung_over = (row for plug in near for row in self.shifted.hung_over(plug, told))
        # What nothing comes to has more likely lost its wire than hung over.
        is_open = finding.rule in OPEN_ENDS or finding.rule == UNFED
        if is_open:
            for fix in self.missing.between(told):
                yield PossibleMistake(finding.sentence, fix, finding.subjects)
            yield from islice(back, FIRST_PUT_BACK)
        yield from starmap(PossibleMistake, hung_over)
        yield from self._touched_together([finding, *others, *further])
        yield from islice(back, 0 if is_open else FIRST_PUT_BACK)
        for plug in by_size[:FIRST_SHIFTED]:
            yield from starmap(PossibleMistake, self.shifted.hung_over(plug))
        yield from islice(back, MOST_PUT_BACK - FIRST_PUT_BACK)
        for plug in by_size[FIRST_SHIFTED:]:
            yield from starmap(PossibleMistake, self.shifted.hung_over(plug))
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._changed_places(plug, known=plug in own)
        for plug in list(named)[:MOST_PLUGS]:
            yield from self._exchanges(plug)

    def _pins_that_are_wrong(self, finding: Finding) -> Iterator[PossibleMistake]:
        """What is at two pins of one plug that a finding tells both of, exchanged."""
        wrong: dict[PortRef, dict[str, None]] = {}
        if finding.rule == HALF_JOINED:
            return
        for subject in (*finding.at, *finding.subjects):
            if subject.device and subject.port and subject.pin:
                plug = PortRef(device=subject.device, port=subject.port)
                wrong.setdefault(plug, {})[subject.pin] = None
        for plug, pins in wrong.items():
            if 2 <= len(pins) <= MOST_WRONG:
                for first, second in combinations(pins, 2):
                    yield self._exchanged(plug, first, second)

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
            for ref, pin in near if places is near else ():
                yield from self._along_contacts(ref, pin, finding.rule == WELDED)

    def at_the_other_ends(self, plug: PortRef) -> list[PortRef]:
        """The plugs to which the wires of a plug lead."""
        return list(dict.fromkeys(ref for ref, _ in self._far_ends(plug, None) if ref != plug))

    def _told_ports(self, findings: Iterable[Finding]) -> set[PortRef]:
        """The plugs that findings tell of, and those at their other ends."""
        told = {
            (PortRef(device=subject.device, port=subject.port), subject.pin)
            for finding in findings
            for subject in (*finding.subjects, finding.about, *finding.at)
            if subject.device and subject.port
        }
        far = (ref for at, pin in told for ref, _ in self._far_ends(at, pin))
        return {*(ref for ref, _ in told), *far}

    def _pins(self, finding: Finding) -> Iterator[tuple[PortRef, str]]:
        """The pins at the places of a finding, each once; of a plug without one all of its."""
        seen: set[tuple[PortRef, str]] = set()
        for ref, pin in self._places(finding):
            used = [pin] if pin is not None else plug_edits.used_pins(self.machine, ref)
            for at in used:
                if (ref, at) not in seen:
                    seen.add((ref, at))
                    yield ref, at

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
        self, ref: PortRef, pin: str | None, is_read: bool = False
    ) -> Iterator[tuple[PortRef, str | None]]:
        """The plugs on the way from an input through the contacts that it reads, or from one of
        these, which `is_read`; or from a coil through those that switch it.
        """
        port = self.queries.port(ref)
        if port is None or not (is_read or port.kind in SWITCHED) or pin is None:
            return

        start = PinRef(device=ref.device, port=ref.port, pin=pin)
        nets = nets_reached(self.queries, [start], is_contact)
        entered: set[PinRef] = set()
        for net in nets[:MOST_NETS]:
            # On a rail with many pins, those by which the contact hangs on it.
            entries = [member for member in net if member in entered]
            first = [*entries, *(s.end for pin in entries for s in self.queries.steps(pin))]
            others = net if len(net) <= MOST_PINS or not entries else ()
            for member in list(dict.fromkeys((*first, *others)))[:MOST_PINS]:
                yield member.port_ref, member.pin
            entered |= {far for pin in net for far in across(self.queries, pin, is_contact)}

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
                    # One strip feeds another.
                    is_link = terminal.device != step.end.device and is_strip(
                        self.queries, step.end
                    )
                    if is_link or (part is not None and part.kind in FEEDING):
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
