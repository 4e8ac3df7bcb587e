"""Does a device port go into a host port: yes, yes with something, or no, and exactly why."""

from collections import Counter
from collections.abc import Sequence
from typing import Literal

from msgspec.structs import replace

from vervain.electrical.levels import reading_of
from vervain.model.base import Record
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Pin, PinFunction, Port
from vervain.model.ways_back import forward_of
from vervain.ports.compatibility import Mate, hosts_of, mates_of
from vervain.ports.converters import converter_for
from vervain.ports.fit_issues import troubles_of
from vervain.ports.fit_rails import as_fed, by_a_rail, by_lower_plus, with_another_plus
from vervain.ports.insertions import Addition
from vervain.ports.rails import is_at_a_strip, rail_for
from vervain.ports.signal_issues import FitIssue
from vervain.queries.connectivity import host_ports, occupants, paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.text.words import within_a_sentence

# Of what several devices share on a bus, each has this of its own.
ONE_EACH: tuple[PinFunction, ...] = ("select",)
Verdict = Literal["fits", "fits with", "does not fit"]


class Fit(Record, frozen=True, kw_only=True):
    """The answer for one host port.

    `pairs` are (device pin, host pin); empty where nothing can be joined. `needs` is what is
    missing, in a word or two, `option` the jumper and `adds` the parts that it asks for;
    `taken_by` the devices that sit there already. `lacks_a_pin` is whether the port has no pin for
    one of the plug.
    """

    host: PortRef
    verdict: Verdict
    reason: str
    needs: str = ""
    option: tuple[str, str] | None = None
    adds: tuple[Addition, ...] = ()
    pairs: tuple[tuple[str, str], ...] = ()
    taken_by: tuple[str, ...] = ()
    distance: int = 0
    lacks_a_pin: bool = False

    @property
    def rank(self) -> tuple[int, bool, int, str]:
        """Sort key: the best first."""
        order = ("fits", "fits with", "does not fit")
        return order.index(self.verdict), bool(self.taken_by), self.distance, ""


@query
def fit(queries: Queries, device_port: PortRef, host_port: PortRef) -> Fit:
    """Whether a device port goes into a host port."""
    ours, theirs = queries.port(device_port), queries.port(host_port)
    if ours is None or theirs is None:
        return Fit(host=host_port, verdict="does not fit", reason="There is no such port.")
    has = {pin.function for pin in ours.pins if not pin.optional}
    rows = [row for row in mates_of(ours.kind, theirs.kind) if not row.without & has]
    if not rows:
        wanted = " or ".join(hosts_of(ours.kind)) or "nothing"
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"It is for {theirs.kind}; {device_port.device} goes to {wanted}.",
        )
    mate = _row_for(queries, ours, host_port, theirs, rows)
    taken_pins = _taken_pins(queries, device_port, host_port, theirs)
    pairs, missing, elsewhere = _pairs(ours, theirs, mate, taken_pins)
    rails = {
        pin: rail_for(
            queries, host_port.device,
            PinRef(device=device_port.device, port=device_port.port, pin=pin), function,
        )
        for pin, function in elsewhere
        if not is_at_a_strip(queries, PinRef(device=device_port.device, port=device_port.port,
                                             pin=pin))
    }  # fmt: skip
    pairs, others = with_another_plus(queries, device_port, host_port, pairs)
    rails |= others
    missing += [mine.text for pin in rails if rails[pin] is None and (mine := ours.pin(pin))]
    if not pairs and not missing:
        # A coil for mains at an output below it: nothing of the one goes to anything of the other.
        missing = [pin.text for pin in ours.pins]
    if missing:
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"It has no pin for {', '.join(missing)}.",
            pairs=pairs,
            lacks_a_pin=True,
        )
    taken = tuple(
        ref.device for ref in occupants(queries, host_port) if ref.device != device_port.device
    )
    issues = (
        *troubles_of(as_fed(queries, device_port, theirs, rails), device_port, host_port, pairs),
        *(by_a_rail(queries, ours, pin, at) for pin, at in rails.items() if at is not None),
    )
    pairs, issues = by_lower_plus(queries, device_port, host_port, pairs, issues)
    found = _answer(host_port, pairs, issues, _open_pins(ours, pairs))
    if found.verdict == "does not fit" and all(t.of_level or not t.refuses for t in issues):
        found = _with_converter(queries, device_port, found)
    if len(set(taken)) >= theirs.holds and taken and found.verdict != "does not fit":
        return Fit(
            host=host_port,
            verdict="does not fit",
            reason=f"{' and '.join(taken)} sits there.",
            pairs=pairs,
            taken_by=taken,
        )
    return found


def _answer(
    host: PortRef, pairs: tuple[tuple[str, str], ...], issues: tuple[FitIssue, ...], left: str
) -> Fit:
    """The verdict from everything that is against it."""
    refusal = next((issue for issue in issues if issue.refuses), None)
    if refusal is not None:
        return Fit(host=host, verdict="does not fit", reason=refusal.reason, pairs=pairs)
    if not issues:
        return Fit(host=host, verdict="fits", reason=left, pairs=pairs)
    counted = Counter(issue.needs for issue in issues)
    needs = [words if count == 1 else f"{count} × {words}" for words, count in counted.items()]
    return Fit(
        host=host,
        verdict="fits with",
        reason=issues[0].reason,
        needs=" and ".join(needs),
        option=next((issue.option for issue in issues if issue.option), None),
        adds=tuple(issue.adds for issue in issues if issue.adds is not None),
        pairs=pairs,
    )


def _with_converter(queries: Queries, device_port: PortRef, refused: Fit) -> Fit:
    """The answer with a signal converter that the machine knows, where one would do."""
    converter = converter_for(queries, device_port, refused.host)
    if converter is None:
        return refused
    words = f"a {within_a_sentence(converter.part.title)}".split(",")[0]
    return replace(refused, verdict="fits with", needs=words, adds=(converter,))


def _has_its_own_minus(port: Port) -> bool:
    """Whether an output for loads has a way back and no plus: SSR+ and SSR−, with what is switched
    between both.
    """
    functions = {pin.function for pin in port.pins}
    outputs = [pin for pin in port.pins if pin.function == "load-"]
    drives = {pin.electrical.drive for pin in outputs if isinstance(pin.electrical, LogicOutput)}
    pairs = (forward_of(port, pin) for pin in port.pins)
    is_signed = any(pin is not None and pin.function == "load-" for pin in pairs)
    return "plus" not in functions and "zero" in functions and (
        drives == {"push-pull"} or (not drives and is_signed)
    )  # fmt: skip


def _row_for(
    queries: Queries, ours: Port, host_port: PortRef, theirs: Port, rows: Sequence[Mate]
) -> Mate:
    reads: str | None = None
    for pin in theirs.pins:
        if isinstance(pin.electrical, LogicInput):
            ref = PinRef(device=host_port.device, port=host_port.port, pin=pin.id)
            reads = reading_of(queries, ref, pin.electrical)
        elif isinstance(pin.electrical, LogicOutput) and pin.electrical.drive in ("NPN", "PNP"):
            reads = pin.electrical.drive
    if reads is None and _has_its_own_minus(theirs):
        reads = "PNP"
    by_level = any(isinstance(pin.electrical, LogicInput) for pin in ours.pins) and any(
        pin.function == "signal" and isinstance(pin.electrical, LogicOutput) for pin in theirs.pins
    )
    suited = [row for row in rows if row.level == by_level] or rows
    suited = [row for row in suited if row.reads in (None, reads)] or suited[:1]
    has = {pin.function for pin in theirs.pins}
    if reads == "NPN" and theirs.kind == "switched output":
        # What switches to 0 V gives no plus: that may come from elsewhere.
        suited = [r for r in suited if r.reads == reads and _goals(r) <= has | {"plus"}] or suited
    return next((row for row in suited if _goals(row) <= has), suited[0])


def _goals(row: Mate) -> set[str]:
    """What a port must have for what a plug needs."""
    return {theirs for ours, theirs in row.pairs if ours in row.needed}


Pairs = tuple[tuple[str, str], ...]


def _taken_pins(
    queries: Queries, device_port: PortRef, host_port: PortRef, theirs: Port
) -> frozenset[str]:
    """The pins of a host that each serve one device alone, and have another."""
    return frozenset(
        pin.id
        for pin in theirs.pins
        if pin.function in ONE_EACH
        and any(
            way.lands and way.end.device != device_port.device
            for way in paths_from(
                queries, PinRef(device=host_port.device, port=host_port.port, pin=pin.id)
            )
        )
    )


def _pairs(
    ours: Port, theirs: Port, mate: Mate, taken: frozenset[str] = frozenset()
) -> tuple[Pairs, list[str], list[tuple[str, str]]]:
    """The pins that go together, what is missing, and which pins of the device need a plus or a 0 V
    that the port has not. `taken` are pins of the host that another device has for itself.
    """
    pairs: list[tuple[str, str]] = []
    missing: list[str] = []
    elsewhere: list[tuple[str, str]] = []
    joined: set[str] = set()
    lacking: list[tuple[str, Pin]] = []
    if mate.by_pin:
        found = tuple((pin.id, pin.id) for pin in ours.pins if theirs.pin(pin.id) is not None)
        return found, [pin.text for pin in ours.pins if theirs.pin(pin.id) is None], []
    for our_function, their_function in mate.pairs:
        mine = [p for p in ours.pins if p.function == our_function and p.id not in joined]
        if not mine and our_function == "nc":
            # A push button has a contact that closes, and no other.
            mine = [pin for pin in ours.pins if pin.function == "no"]
        hosts = [
            pin for pin in theirs.pins if pin.function == their_function and pin.id not in taken
        ]
        host = next(iter(hosts), None)
        if our_function == "signal" and len(hosts) == 1:
            mine = _one_output(mine)
        for pin in mine:
            host = _way_back(ours, pin, theirs, hosts, mate)
            if host is not None:
                pairs.append((pin.id, host.id))
                joined.add(pin.id)
            elif our_function in mate.needed and their_function in ("plus", "zero"):
                elsewhere.append((pin.id, their_function))
            elif our_function in mate.needed and not _has_another(mate, our_function, theirs):
                missing.append(pin.text)
        # What takes no plus at this plug is fed elsewhere, or switches to 0 V without any.
        takes_none = not mine and our_function == "plus"
        if not mine and not takes_none and host is not None and our_function in mate.needed:
            lacking.append((our_function, host))
    at = {their for _, their in pairs}
    missing += [
        host.text
        for function, host in lacking
        if host.id not in at
        and not (_has_phases(mate) or _is_loop(ours, function) or _goes_one_way(ours, function))
    ]
    joined |= {pin for pin, _ in elsewhere}
    elsewhere = [at for at in elsewhere if _is_used(ours, at[0], joined)]
    return tuple(pairs), list(dict.fromkeys(missing)), elsewhere


def _is_used(ours: Port, pin_id: str, joined: set[str]) -> bool:
    """Whether a pin of a plug is joined for something: no minus of a signal that stays open."""
    pin = ours.pin(pin_id)
    forward = forward_of(ours, pin) if pin is not None else None
    return forward is None or forward.function == "plus" or forward.id in joined


def _goes_one_way(ours: Port, function: str) -> bool:
    """Whether what has a clock is read alone, or told alone, and does without the other line."""
    functions = {pin.function for pin in ours.pins}
    both = {"transmit", "receive"}
    return "clock" in functions and function in both and bool(functions & (both - {function}))


def _one_output(pins: list[Pin]) -> list[Pin]:
    """Pins of a plug that would go to one input; of outputs, which would drive each other there,
    one that the part cannot do without, else the first.
    """
    if len(pins) < 2 or not all(isinstance(pin.electrical, LogicOutput) for pin in pins):
        return pins
    return [min(pins, key=lambda pin: pin.optional)]


def _way_back(ours: Port, pin: Pin, theirs: Port, hosts: list[Pin], mate: Mate) -> Pin | None:
    """Of the pins of a host that would do, the way back of what our pin is the way back of, else
    one that serves all; None where each is the way back of something else.
    """
    mine = forward_of(ours, pin)
    if pin.function == "load-":
        mine = next((other for other in ours.pins if other.function == "load+"), None)
    forwards = [(forward_of(theirs, host), host) for host in hosts]
    for there, host in forwards:
        if there is None or mine is None:
            continue
        if there.function == mine.function or (mine.function, there.function) in mate.pairs:
            return host
    return next((host for there, host in forwards if there is None), None)


def _has_another(mate: Mate, function: str, theirs: Port) -> bool:
    """Whether a pin may go to another function that the port has."""
    others = {host for ours, host in mate.pairs if ours == function}
    return any(pin.function in others for pin in theirs.pins)


def _is_loop(ours: Port, function: str) -> bool:
    """Whether a plug has no 0 V because its current goes back through the input, or by another plug
    of its device: it is one lead alone.
    """
    if function == "zero" and len(ours.pins) == 1:
        return True
    drives = [getattr(pin.electrical, "drive", None) for pin in ours.pins]
    return function == "zero" and "current" in drives


def _has_phases(mate: Mate) -> bool:
    """Two-phase and three-phase ports share a row: what our port has not, it does not need."""
    return mate.device == "motor phases"


def _open_pins(ours: Port, pairs: tuple[tuple[str, str], ...]) -> str:
    used = {pair[0] for pair in pairs}
    left = [pin.text for pin in ours.pins if pin.id not in used and pin.function != "shield"]
    return f"{', '.join(left)} stays open." if left else ""


@query
def ranked_fits(queries: Queries, device_port: PortRef) -> tuple[Fit, ...]:
    """The fit of a device port with every host port of the machine, the best first.

    Among equals, the port nearest to one that the same axis already uses comes first.
    """
    hosts: list[PortRef] = []
    for designator in queries.devices():
        part = queries.part_of(designator)
        for port in part.ports if part else ():
            if port.takes_plugs and designator != device_port.device:
                hosts.append(PortRef(device=designator, port=port.id))
    near = _ports_of_same_axis(queries, device_port.device)
    places = {ref: number for number, ref in enumerate(hosts)}
    found = []
    for ref in hosts:
        answer = fit(queries, device_port, ref)
        gaps = [abs(places[ref] - places[other]) for other in near if other in places]
        found.append(replace(answer, distance=min(gaps, default=len(hosts))))
    return tuple(sorted(found, key=lambda answer: answer.rank))


def _ports_of_same_axis(queries: Queries, designator: str) -> tuple[PortRef, ...]:
    axis = queries.axis_of(designator)
    found: dict[PortRef, None] = {}
    for member in axis.members if axis else ():
        part = queries.part_of(member)
        for port in part.ports if part else ():
            for host in host_ports(queries, PortRef(device=member, port=port.id)):
                found[host] = None
    return tuple(found)
