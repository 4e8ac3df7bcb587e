"""Rules about plugs and sockets: what mates, which way round, and what can be mixed up."""

from collections.abc import Iterator
from itertools import combinations

from vervain.electrical.feeds import sources_of
from vervain.model.connectors import connector_of, connector_words, is_plug, missing_to_mate
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.machine import Hookup, PinRef, PortRef
from vervain.model.part import SEATED, Pin, Port
from vervain.ports.occupancy import joins_turned
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_port
from vervain.rules.fixes import MovePins, PutAdapter, PutSplice
from vervain.rules.rule import RuleOutput, rule
from vervain.text.words import in_a_row

# What may lie on any pin without harm.
HARMLESS = ("none", "shield", "through")


def _straight_plugs(
    queries: Queries, device: str
) -> Iterator[tuple[Hookup, str, PortRef, PortRef]]:
    """The hookups without a cable of a device's own plugs: hookup, the far side, plug, port."""
    part = queries.part_of(device)
    for hookup in queries.hookups_of(device):
        for side, plug, host in (("b", hookup.a, hookup.b), ("a", hookup.b, hookup.a)):
            port = queries.port(plug)
            if hookup.cable is not None or plug.device != device or part is None or port is None:
                continue
            if is_plug(part, port):
                yield hookup, side, plug, host


@rule(
    id="ports.mating",
    consequence="Won't run",
    scope="device",
    title="A plug does not go into its port",
    reason="Two halves mate only where system, pitch and number of contacts are one, and one has "
    "pins where the other has sockets. Anything else needs an adapter lead.",
    source="The parts' own connectors; data/tables/connectors.toml.",
)
def mating(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for hookup, side, plug, host in _straight_plugs(queries, device):
        part, port = queries.part_of(plug.device), queries.port(plug)
        there, other = queries.part_of(host.device), queries.port(host)
        if part is None or port is None or there is None or other is None:
            continue
        needs = missing_to_mate(part, port, there, other)
        if not needs:
            continue
        fix = Fix(
            words=f"put {needs} between" if needs != "bare ends with ferrules" else f"fit {needs}",
            remedy=PutAdapter(hookup=hookup.id, side=side),
        )
        yield RuleOutput(
            f"{device} needs {needs} for {host.device} {host.port}.",
            (about(plug), about(host)),
            at=(about_port(host),),
            why=f"{connector_words(port.connector)} against {connector_words(other.connector)}.",
            fixes=(fix,),
        )


@rule(
    id="ports.module-reversed",
    consequence="Damage",
    scope="device",
    title="A module or a shield sits the wrong way round",
    reason="Turned round, the module gets the motor supply on its signal pins and 0 V on its "
    "supply pins. It burns as soon as power is on, often together with the board.",
    source="The pins of slot and module.",
)
def module_reversed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for hookup in queries.hookups_of(device):
        port = queries.port(hookup.a)
        if hookup.a.device != device or port is None or port.kind not in SEATED:
            continue
        if joins_turned(queries, hookup):
            straight = {row.b: row.a for row in hookup.conductors}
            yield RuleOutput(
                f"{device} sits the wrong way round in {hookup.b.port}.",
                (about(hookup.a), about(hookup.b)),
                detail=hookup.b.port,
                fixes=(
                    Fix(
                        words=f"turn {device} round",
                        remedy=MovePins(hookup=hookup.id, side="b", pins=straight),
                    ),
                ),
            )


def _harm(queries: Queries, host: PinRef, meets: Pin) -> str:
    """What a live host pin does to a pin that it was not made for; "" where nothing happens."""
    pin = queries.pin(host)
    if pin is None or pin.function != "plus" or meets.function in (*HARMLESS, "plus"):
        return ""
    voltage_v = max((s.feed.highest_v for s in sources_of(queries, host)), default=0.0)
    if not voltage_v:
        return ""
    entry = meets.electrical
    if isinstance(entry, LogicInput) and voltage_v <= entry.max_v:
        return ""
    if meets.function == "zero" or isinstance(entry, LogicInput | LogicOutput | FeedIn):
        return f"{voltage_v:.3g} V on {meets.text}"
    return ""


@rule(
    id="ports.reversible",
    consequence="Workmanship",
    scope="device",
    title="A plug can be put in the wrong way round",
    reason="Nothing on a plain header keeps the plug from being turned, and turned it brings the "
    "supply where it does harm. Mark pin 1 on both halves, or fit a keyed housing.",
    source="The families' keys, data/tables/connectors.toml; the functions of the pins.",
)
def reversible(queries: Queries, device: str) -> Iterator[RuleOutput]:
    found: dict[str, tuple[str, list[PortRef]]] = {}
    for other in dict.fromkeys(
        ref.device for h in queries.hookups_of(device) for ref in (h.a, h.b)
    ):
        for hookup, side, plug, host in _straight_plugs(queries, other):
            harm = _harm_turned(queries, hookup, side) if host.device == device else ""
            # Grouped by where the supply gets to: what is accepted outlives another voltage.
            where = harm.rpartition(" on ")[2]
            if harm:
                found.setdefault(where, (harm, []))[1].append(plug)
    for where, (harm, plugs) in found.items():
        named = sorted({plug.device for plug in plugs}, key=lambda name: (len(name), name))
        whose = in_a_row(named)
        yield RuleOutput(
            f"The plug{'s' if len(named) > 1 else ''} of {whose} can be turned round in {device}: "
            f"{harm}.",
            (about(device), *map(about, plugs)),
            detail=where,
        )


def _harm_turned(queries: Queries, hookup: Hookup, side: str) -> str:
    """What a plug that nothing keys gets when it is put in turned round."""
    plug, host = (hookup.a, hookup.b) if side == "b" else (hookup.b, hookup.a)
    ours, theirs = queries.port(plug), queries.port(host)
    family = connector_of(ours.connector) if ours else None
    if ours is None or theirs is None or family is None or family.family.keyed:
        return ""
    order = [pin.id for pin in theirs.pins]
    turned = dict(zip(order, reversed(order), strict=True))
    for row in hookup.conductors:
        mine, there = (row.a, row.b) if side == "b" else (row.b, row.a)
        pin = ours.pin(mine)
        meets = PinRef(device=host.device, port=host.port, pin=turned[there])
        harm = _harm(queries, meets, pin) if pin is not None else ""
        if harm:
            return harm
    return ""


def _exchange_harm(queries: Queries, plug: PortRef, own: PortRef, other: PortRef) -> str:
    """What happens to a plug in another port of the same shape, pin for pin."""
    ours, here, there = queries.port(plug), queries.port(own), queries.port(other)
    if ours is None or here is None or there is None:
        return ""
    places = {pin.id: number for number, pin in enumerate(here.pins)}
    for hookup in queries.hookups_of(own.device):
        for ref, near, far in ((hookup.a, "a", "b"), (hookup.b, "b", "a")):
            if ref != own or {hookup.a, hookup.b} != {own, plug}:
                continue
            for row in hookup.conductors:
                pin = ours.pin(getattr(row, far))
                meets = there.pins[places[getattr(row, near)]].id
                found = PinRef(device=other.device, port=other.port, pin=meets)
                harm = _harm(queries, found, pin) if pin is not None else ""
                if harm:
                    return harm
    return ""


@rule(
    id="ports.exchangeable",
    consequence="Workmanship",
    scope="device",
    title="Two plugs of one shape do harm in each other's port",
    reason="Plugs that look alike get exchanged at the first repair. Where one then gets a voltage "
    "that it was not made for, label both, or give them housings that differ.",
    source="The functions of the pins of both ports, in their order.",
)
def exchangeable(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    seats: list[tuple[Port, PortRef]] = []
    for port in part.ports if part else ():
        if port.end == "host" and port.connector is not None:
            ref = PortRef(device=device, port=port.id)
            seated = occupants(queries, ref)
            if len(seated) == 1:
                seats.append((port, seated[0]))
    said: set[tuple[str, str]] = set()
    for (first, one), (second, two) in combinations(seats, 2):
        if first.connector != second.connector or first.kind == second.kind:
            continue
        if first.edge != second.edge or (first.kind, second.kind) in said:
            continue
        a, b = (PortRef(device=device, port=port.id) for port in (first, second))
        harm, who = _exchange_harm(queries, one, a, b), one
        if not harm:
            harm, who = _exchange_harm(queries, two, b, a), two
        if harm:
            said.add((first.kind, second.kind))
            other = second.id if who == one else first.id
            yield RuleOutput(
                f"The plug of {who.device} goes into {other} of {device} as well: {harm}.",
                (about(who), about(a), about(b)),
                detail=f"{first.kind}-{second.kind}",
            )


@rule(
    id="ports.mirrored-twin",
    consequence="Unreliable",
    scope="device",
    title="Twin connectors have their pins in opposite orders",
    reason="A lead made for one of them and plugged into the other brings plus where 0 V should "
    "be. Count from pin 1 at each, and mark both.",
    source="The order of the pins of both connectors.",
)
def mirrored_twin(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    used = [
        port
        for port in (part.ports if part else ())
        if port.connector and len(port.pins) > 1 and _is_used(queries, device, port)
    ]
    for first, second in combinations(used, 2):
        orders = [[pin.function for pin in port.pins] for port in (first, second)]
        turned = orders[1][::-1]
        powered = {"plus", "zero"} <= set(orders[0])
        alike = first.connector == second.connector
        if alike and powered and orders[0] == turned and orders[0] != orders[1]:
            yield RuleOutput(
                f"{first.id} and {second.id} of {device} look alike; their pins are mirrored.",
                tuple(about(PortRef(device=device, port=port.id)) for port in (first, second)),
                detail=f"{first.id}-{second.id}",
            )


def _is_used(queries: Queries, device: str, port: Port) -> bool:
    ref = PortRef(device=device, port=port.id)
    return any(ref in (hookup.a, hookup.b) for hookup in queries.hookups_of(device))


def _numbered(port: Port) -> tuple[str, int] | None:
    name, _, number = port.id.rpartition(" ")
    return (name, int(number)) if name and number.isdecimal() else None


@rule(
    id="ports.opposite-numbering",
    consequence="Workmanship",
    scope="device",
    title="Ports of one name are numbered in opposite directions on two edges",
    reason="Who counts along the second edge as along the first ends up in the wrong port. Go by "
    "the print, and label the plugs.",
    source="The places of the ports on the board.",
)
def opposite_numbering(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    rows: dict[tuple[str, str], list[tuple[float, int]]] = {}
    used: set[tuple[str, str]] = set()
    for port in part.ports if part else ():
        named = _numbered(port)
        if named is None or port.end != "host" or port.inset_mm:
            continue
        key = named[0], port.edge
        rows.setdefault(key, []).append((port.at_mm, named[1]))
        if occupants(queries, PortRef(device=device, port=port.id)):
            used.add(key)
    ways = {key: _way(row) for key, row in rows.items() if key in used}
    for (name, edge), way in ways.items():
        opposite = {"top": "bottom", "left": "right"}.get(edge, "")
        if way and ways.get((name, opposite)) == -way:
            yield RuleOutput(
                f"{name} is numbered in opposite directions on the {edge} and {opposite} of "
                f"{device}.",
                (about(device),),
                detail=name,
            )


def _way(row: list[tuple[float, int]]) -> int:
    """1 where numbers rise along the edge, -1 where they fall, 0 where neither."""
    numbers = [number for _, number in sorted(row)]
    if len(numbers) < 2:
        return 0
    return 1 if numbers == sorted(numbers) else -1 if numbers == sorted(numbers)[::-1] else 0


@rule(
    id="ports.crowded-contact",
    consequence="Unreliable",
    scope="device",
    title="A contact holds more conductors than it is made for",
    reason="A crimp holds one conductor for its size; a second one is not gripped and works loose. "
    "Join them before it, and bring one conductor into the contact.",
    source="Conductors a contact by family, data/tables/connectors.toml; IEC 60352-2 for crimps.",
)
def crowded_contact(queries: Queries, device: str) -> Iterator[RuleOutput]:
    held: dict[PinRef, list[str]] = {}
    for hookup in queries.hookups_of(device):
        for near, far, side in ((hookup.a, hookup.b, "a"), (hookup.b, hookup.a, "b")):
            other = queries.part_of(far.device)
            # The wires of a resistor or diode are soldered to a conductor, not crimped with it.
            if near.device != device or (other and other.kind in ("resistor", "diode")):
                continue
            for row in hookup.conductors:
                pin = PinRef(device=device, port=near.port, pin=getattr(row, side))
                held.setdefault(pin, []).append(far.device)
    waiting = {item.device for item in queries.alternates()}
    for pin, others in held.items():
        port = queries.port(pin.port_ref)
        family = connector_of(port.connector) if port else None
        count = len([other for other in others if other not in waiting])
        if family is None or count <= family.conductors_max:
            continue
        if port is not None and port.end == "host" and len(occupants(queries, pin.port_ref)) > 1:
            continue
        yield RuleOutput(
            f"{count} conductors in one contact of {device} {pin.port}, pin {pin.pin}.",
            (about(pin),),
            detail=f"{pin.port} {pin.pin}",
            value=float(count),
            limit=float(family.conductors_max),
            fixes=(Fix(words="join them in a splice before it", remedy=PutSplice(pin=pin)),),
        )


RULES = (
    crowded_contact,
    mating,
    module_reversed,
    reversible,
    exchangeable,
    mirrored_twin,
    opposite_numbering,
)
