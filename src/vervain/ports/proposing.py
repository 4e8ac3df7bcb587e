"""Filling in the rest of a machine, round by round: each plug into the port that suits it best, and
what no port fits over the single lines that are left.
"""

from collections.abc import Callable, Iterable

from msgspec.structs import replace

from vervain.electrical.levels import READ_BY_CONTACTS
from vervain.model.machine import Machine, PortRef
from vervain.model.part import SEATED
from vervain.ports.auto_placement import kind_of, placement_of, plugs_to_place
from vervain.ports.compatibility import mates_of
from vervain.ports.fit import ranked_fits
from vervain.ports.motors_between_relays import turned_by_relays
from vervain.ports.port_wishes import tells_of_its_drive
from vervain.ports.proposal import Conflict, Placement, Proposal, accept
from vervain.ports.shared_commons import READ_APART, with_its_common
from vervain.ports.spreading import (
    Spread,
    goes_over_lines,
    held_high,
    put_spread,
    rest_of,
    spread_of,
    told_beside,
)
from vervain.ports.why_not_spread import why_not
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import taken_as
from vervain.text.words import in_a_row

# What is placed before all others, round by round.
ROUNDS = (SEATED, ("motor phases", "bridge motor"))
# What goes over outputs where no port fits it: before a lamp or a buzzer takes one of them.
OVER_OUTPUTS = ("step and direction", "bridge control", "servo")
# Contacts lie in somebody's line where no controller reads them.
CONTACTS = ("contact", "stop contacts")
NOTHING_READS = (
    "Nothing here reads contacts: Supply proposes where stops, guards and buttons lie in the feeds."
)


READS_NO_VOLTS = "No input here reads volts: say on Machine which lines of the board do."
NO_OUTPUT = "No output here is for loads: Supply feeds it all the time, or by a switch of its name."
NOTHING_FOR_IT = "No device of this machine has what it goes to: add one, or say it with the part."
# What an output works.
BY_AN_OUTPUT = ("load", "coil")


def propose(machine: Machine, should_continue: Callable[[], bool] = lambda: True) -> Proposal:
    """Where the loose plugs of a machine go: first drivers into their slots, for a motor's port is
    of use only when its slot holds one; then motors, for by them a driver is one of an axis; then
    what commands drives where no port fits it, over single lines; then all others. Plugs of
    different rounds compete for no port. Deterministic; raises `PlacementCancelled`.
    """
    made = _Making(machine, should_continue)
    plugs = plugs_to_place(made.queries)
    kinds = {plug: kind_of(made.queries, plug) for plug in plugs}
    made.turn(plug for plug in plugs if kinds[plug] == "bridge motor")
    for early in ROUNDS:
        made.place(p for p in plugs if kinds[p] in early and p not in made.spreads)
    # Of a bridge that has a motor by now the other channel works nothing.
    waiting = set(plugs_to_place(made.queries))
    plugs = tuple(plug for plug in plugs if plug in waiting)
    made.spread(p for p in plugs if kinds[p] in OVER_OUTPUTS and not made.has_port(p))
    made.spread(plug for plug in plugs if goes_over_lines(made.queries, plug))
    late = [p for p in plugs if not any(kinds[p] in early for early in ROUNDS)]
    late = [plug for plug in late if plug not in made.spreads]
    told = [plug for plug in late if tells_of_its_drive(made.queries, plug)]
    # What has a feed of its own takes a contact whose common nothing else has.
    starts = [plug for plug in late if kinds[plug] in READ_APART and made.shares_commons(plug)]
    made.place(starts)
    made.place(plug for plug in late if plug not in told and plug not in starts)
    # An axis can do without what its driver tells, not without its switches.
    made.tell_beside(told)
    made.place(plug for plug in told if plug not in made.spreads)
    # What works the relays that something was put to by then.
    made.place(plug for plug in plugs_to_place(made.queries) if plug not in plugs)
    made.spread(made.without_port())
    made.spread(made.crowded_out())
    made.spread_rest()
    # What drivers tell that are commanded by then.
    made.place(made.without_port())
    return made.proposal()


class _Making:
    """A proposal as it is made, on a machine that has what is proposed already."""

    def __init__(self, machine: Machine, should_continue: Callable[[], bool]) -> None:
        self.queries = Queries(machine)
        self.should_continue = should_continue
        self.placements: list[Placement] = []
        self.conflicts: list[Conflict] = []
        self.spreads: set[PortRef] = set()
        self.cost = 0

    def place(self, plugs: Iterable[PortRef]) -> None:
        """Puts plugs into ports, as well as they all go."""
        listed = tuple(plugs)
        self.conflicts = [c for c in self.conflicts if not set(c.plugs) & set(listed)]
        part = placement_of(self.queries, listed, self.should_continue)
        if part.placements:
            self.queries = Queries(accept(self.queries.machine, part.placements))
        self.placements += part.placements
        self.conflicts += part.conflicts
        self.cost += part.cost

    def has_port(self, plug: PortRef) -> bool:
        """Whether any port fits a plug."""
        return any(answer.verdict != "does not fit" for answer in ranked_fits(self.queries, plug))

    def shares_commons(self, plug: PortRef) -> bool:
        """Whether a plug goes to contacts of which several have one common."""
        fits = [a for a in ranked_fits(self.queries, plug) if a.verdict != "does not fit"]
        return any(with_its_common(self.queries, answer.host) for answer in fits)

    def without_port(self) -> list[PortRef]:
        """The plugs that no port fits, in the order of the machine."""
        left = {plug for c in self.conflicts if not c.hosts for plug in c.plugs}
        return [plug for plug in plugs_to_place(self.queries) if plug in left]

    def crowded_out(self) -> list[PortRef]:
        """The plugs for which single lines do, and whose own ports others have taken."""
        return [
            plug for conflict in self.conflicts if conflict.hosts for plug in conflict.plugs
            if kind_of(self.queries, plug) in OVER_OUTPUTS
            and plug not in {placed.plug for placed in self.placements}
        ]  # fmt: skip

    def spread(self, plugs: Iterable[PortRef]) -> None:
        """Puts plugs over single lines, where that goes."""
        for plug in list(plugs):
            over = spread_of(self.queries, plug)
            if over is not None:
                self.conflicts = [c for c in self.conflicts if plug not in c.plugs]
                self._put(over, "no port of its own fits it")

    def tell_beside(self, plugs: Iterable[PortRef]) -> None:
        """Leads what drivers tell to the ports by which they are commanded, where these read it."""
        for plug in list(plugs):
            over = told_beside(self.queries, plug)
            if over is not None:
                self._put(over, "the port of its driver reads it")

    def turn(self, plugs: Iterable[PortRef]) -> None:
        """Puts motors between two relays that are called as they are."""
        for plug in list(plugs):
            over = turned_by_relays(self.queries, plug)
            if over is not None:
                self._put(over, "the two relays turn it either way")

    def spread_rest(self) -> None:
        """Puts what plugs need besides the line that they are in over others."""
        for placement in list(self.placements):
            held = held_high(self.queries, placement.plug, placement.host)
            if held is not None:
                self._put(held, "it works while it is held high")
            rest = rest_of(self.queries, placement.plug, placement.host.device)
            if rest is not None:
                self._put(rest, "it needs more than one line")

    def _put(self, over: Spread, reason: str) -> None:
        ports = in_a_row([host.port for host in over.hosts])
        words = f"{over.plug.device} over {over.hosts[0].device} {ports}: {reason}."
        self.placements.append(
            Placement(plug=over.plug, host=over.hosts[0], reason=words, over=over)
        )
        self.spreads.add(over.plug)
        self.queries = Queries(put_spread(self.queries.machine, over))

    def _left(self) -> tuple[Conflict, ...]:
        """The conflicts without those of plugs that others have gone to meanwhile."""
        waiting = set(plugs_to_place(self.queries))
        return tuple(c for c in self.conflicts if c.hosts or set(c.plugs) & waiting)

    def proposal(self) -> Proposal:
        """What was made."""
        return Proposal(
            placements=tuple(self.placements),
            conflicts=_with_reasons(self.queries, self._left()),
            cost=self.cost,
        )


def _with_reasons(queries: Queries, found: tuple[Conflict, ...]) -> tuple[Conflict, ...]:
    """Conflicts, with why the ports of its kind, or single lines, do not do for a plug; those for
    which it is one reason are told as one.
    """
    told: dict[str, Conflict] = {}
    others: list[Conflict] = []
    for conflict in found:
        reason = "" if conflict.hosts else _refusal(queries, conflict.plugs[0])
        if not reason:
            others.append(conflict)
            continue
        plugs = told[reason].plugs if reason in told else ()
        told[reason] = replace(conflict, plugs=(*plugs, *conflict.plugs), reason=reason)
    return (*others, *told.values())


def _refusal(queries: Queries, plug: PortRef) -> str:
    """Why a plug goes into no port: what the first free one of its kind says, else a line."""
    ours = queries.port(plug)
    if ours is not None and ours.kind == "bus" and (reason := why_not(queries, plug)):
        # Another bus says little of why a line does not do.
        return reason
    free = []
    for answer in ranked_fits(queries, plug):
        port = queries.port(answer.host)
        is_of_kind = ours and port and mates_of(ours.kind, port.kind)
        is_taken = occupants(queries, answer.host) or taken_as(queries, answer.host)
        if is_of_kind and not is_taken and answer.reason:
            free.append(answer)
    if ours is not None and ours.kind in CONTACTS and not _is_any_read(queries):
        return NOTHING_READS
    # That a pin is missing says less than what a port with all of them says, or a line.
    whole = next((answer for answer in free if not answer.lacks_a_pin), None)
    told = why_not(queries, plug) if whole is None else ""
    nearest = whole or (free[0] if free else None)
    if told:
        return told
    if nearest is None and ours is not None and ours.kind == "analogue sensor":
        return READS_NO_VOLTS
    if nearest is None:
        return NO_OUTPUT if ours is not None and ours.kind in BY_AN_OUTPUT else NOTHING_FOR_IT
    return f"{nearest.host.device} {nearest.host.port}: {nearest.reason}"


def _is_any_read(queries: Queries) -> bool:
    """Whether any device of a machine reads contacts."""
    return any(
        port.end == "host" and port.kind in READ_BY_CONTACTS
        for name in queries.devices()
        if (part := queries.part_of(name)) is not None
        for port in part.ports
    )
