"""Whether what a pin needs is there, and where it could go."""

from vervain.electrical.feeds import rail_and_feeding
from vervain.electrical.mains import has_mains, mains_entries
from vervain.electrical.pin_needs import Nature, Need
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import BOARD_KINDS, Pin, Port
from vervain.model.ways_back import forward_of
from vervain.queries.connectivity import is_joint, joined_inside, paths_from
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Pins that mains or earth come from: terminals and inlets, not the next consumer.
MAINS = frozenset({"line", "neutral", "pe"})
LOAD_ENDS = frozenset({"load+", "load-"})
AT_MAINS = frozenset({"line", "neutral"})
POWER = frozenset({"plus", "zero", "pe", "shield", "none"})
# The two sides of a feed or a load, by what their pins are.
PLUSES = frozenset({"plus", "load+", "coil+"})
MINUSES = frozenset({"zero", "load-", "coil-"})


@query
def is_started(queries: Queries, ref: PortRef) -> bool:
    """Whether any pin of a port has a conductor."""
    port = queries.port(ref)
    return any(
        queries.steps(PinRef(device=ref.device, port=ref.port, pin=pin.id))
        for pin in (port.pins if port else ())
    )


@query
def works_contact(queries: Queries, ref: PortRef) -> bool:
    """Whether a port works a contact of its part that something is joined through, or an output at
    which something is.
    """
    part = queries.part_of(ref.device)
    output = part.output_worked_by(ref.port) if part is not None else None
    if output is not None and is_started(queries, PortRef(device=ref.device, port=output.id)):
        return True
    return any(
        isinstance(element, Contact)
        and element.worked_by == ref.port
        and element.worked_pin is None
        and all(
            has_own_way(queries, PinRef(device=ref.device, port=port, pin=pin))
            for port, pin in element.pins
        )
        for element in (part.inside if part else ())
    )


@query
def pins_it_meets(queries: Queries, at: PinRef) -> tuple[PinRef, ...]:
    """The pins of other devices on a pin's net, leaving out what is only passed through."""
    return tuple(p for p in queries.net(at) if p.device != at.device and not _passed(queries, p))


@query
def functions_on_net(queries: Queries, root: PinRef) -> frozenset[str]:
    """What the pins of a net, given by its first pin, are for."""
    found = map(queries.pin, queries.net(root))
    return frozenset(name for pin in found if pin for name in (pin.function, pin.on_a_net))


@query
def _mains_on_net(queries: Queries, root: PinRef) -> tuple[PinRef, ...]:
    """The pins of a net, given by its first one, that are for mains or earth."""
    net = queries.net(root)
    return tuple(ref for ref in net if (pin := queries.pin(ref)) and pin.function in MAINS)


def met_otherwise(queries: Queries, at: PinRef) -> tuple[PinRef, ...]:
    """The pins on a pin's net that it may be a stranger to: those of other devices, and where one
    of both is at mains those of its own device too. Else a part may tie its own pins, or a builder
    its returns.
    """
    here, net = queries.pin(at), queries.net(at)
    if here is None or here.function not in AT_MAINS:
        net = _mains_on_net(queries, net[0])
    own = [
        ref
        for ref in net
        if ref.device == at.device
        and (pin := queries.pin(ref)) is not None
        and here is not None
        and {pin.function, here.function} & AT_MAINS
    ]
    # Mains comes to whatever is joined to its terminals; earth is asked for by its own.
    terminals = [
        ref
        for ref in net
        if ref.device != at.device
        and here is not None
        and _passed(queries, ref)
        and (pin := queries.pin(ref)) is not None
        and (pin.function in AT_MAINS or {pin.function, here.function} <= MAINS)
    ]
    beside = (*own, *terminals)
    if here is None or here.function not in AT_MAINS:
        return (*pins_it_meets(queries, at), *beside)
    # What comes to mains through a fuse or a contact is at mains.
    behind = [ref for ref in queries.rail(at) if ref.device != at.device]
    met = [ref for ref in behind if not _passed(queries, ref)]
    return (*dict.fromkeys((*pins_it_meets(queries, at), *met)), *beside)


def _passed(queries: Queries, pin: PinRef) -> bool:
    part = queries.part_of(pin.device)
    return part is None or part.kind in ("connector", "terminal strip")


def has_own_way(queries: Queries, at: PinRef) -> bool:
    """Whether another device is joined to a pin, or to what is bridged with it, or by a wire
    another port of its own: a contact that holds its coil.
    """
    others = (
        p.device for p in queries.net(at)
        if p.device != at.device or (p.port != at.port and queries.steps(p))
    )  # fmt: skip
    return any(
        (part := queries.part_of(name)) is not None
        and not (part.kind == "connector" and is_joint(queries, name))
        for name in others
    )


def changes_poles(queries: Queries, at: PinRef) -> bool:
    """Whether a pin is the common of contacts that join it to a plus or to the 0 V of that source,
    as an output of a bridge does.
    """
    part = queries.part_of(at.device)
    if part is None or len(part.inside) < 2:
        return False
    throws = [place for name, place in queries.pole_changers() if name == at.device]
    return sum((at.port, at.pin) in part.inside[place].pins for place in throws) > 1


@query
def natures(queries: Queries, at: PinRef) -> frozenset[Nature]:
    """What a pin is, electrically."""
    pin, port = queries.pin(at), queries.port(at.port_ref)
    if pin is None or port is None:
        return frozenset()
    found: set[Nature] = set()
    if isinstance(pin.electrical, LogicOutput):
        found.add("logic output")
    if isinstance(pin.electrical, LogicInput):
        found.add("logic input")
    if pin.electrical is None and port.end == "host" and pin.function == "alarm":
        # What a driver tells is read there, by whatever levels.
        found.add("logic input")
    if isinstance(pin.electrical, FeedOut):
        found.add("source")
    gives = any(isinstance(p.electrical, FeedOut) for p in port.pins)
    if pin.function == "zero" and (gives or gives_from_mains(queries, at.port_ref)):
        found.add("return")
    if port.end == "host" and pin.function in ("motor+", "motor-"):
        found.add("bridge")
    if changes_poles(queries, at):
        found.add("bridge")
    if port.kind == "bus" and port.end == "host" and not _passes_a_bus(queries, at.device, port):
        found.add("bus head")
    return frozenset(found)


def gives_from_mains(queries: Queries, ref: PortRef) -> bool:
    """Whether a port is an output of a device that mains feed: what it gives has no other source,
    and goes back there.
    """
    port = queries.port(ref)
    outputs = [pin.electrical for pin in (port.pins if port is not None else ())]
    is_output = any(isinstance(e, LogicOutput) and e.drive == "push-pull" for e in outputs)
    return is_output and has_mains(queries, ref.device)


def _passes_a_bus(queries: Queries, device: str, port: Port) -> bool:
    """Whether a part comes to a bus itself, and only hands it on at a port; what comes to one of
    other lines is the head of that which it makes of them.
    """
    part = queries.part_of(device)
    lines = {pin.function for pin in port.pins} - POWER
    return any(
        other.kind == "bus" and other.end == "device"
        and lines & {pin.function for pin in other.pins}
        for other in (part.ports if part else ())
    )  # fmt: skip


def is_met(queries: Queries, need: Need, at: PinRef) -> bool:
    """Whether a pin reaches what a row of the table says that it needs."""
    pin, port = queries.pin(at), queries.port(at.port_ref)
    if pin is None or port is None or pin.optional:
        return True
    forward = forward_of(port, pin)
    if forward is not None and not queries.steps(
        PinRef(device=at.device, port=at.port, pin=forward.id)
    ):
        # The minus of a signal that nothing is joined to.
        return True
    if need.when == "mains" and not earth_pins_of_mains(queries):
        return True
    if need.when == "offered" and not _offered(queries, at, need):
        return True
    if need.when == "isolated" and (joined_inside(queries, at) or _feeds_its_inputs(port)):
        return True
    if need.when == "on an axis" and axis_with_driver(queries, at.device) is None:
        return True
    wanted = need.to or (pin.function,)
    if need.via == "wire":
        return any(
            path.lands and _suits(queries, need, wanted, at, path.end)
            for ref in (at, *_twins(queries, at))
            for path in paths_from(queries, ref)
        )
    reached = queries.net(at) if need.via == "copper" else rail_and_feeding(queries, at)
    return any(_suits(queries, need, wanted, at, other) for other in reached)


def _twins(queries: Queries, at: PinRef) -> list[PinRef]:
    """The other terminals of a plug that bear the same print and are one with a pin: a second GND,
    or the same one at another port of that plug, ALARM CN1 beside CN1.
    """
    pin = queries.pin(at)
    return [
        ref for ref in joined_inside(queries, at)
        if pin is not None and pin.name and (other := queries.pin(ref)) is not None
        and other.name == pin.name and _are_one_plug(at.port, ref.port)
    ]  # fmt: skip


def _are_one_plug(first: str, second: str) -> bool:
    """Whether two ports are one, or of one connector by their names."""
    ends = first.split()[-1], second.split()[-1]
    return first == second or (ends[0] == ends[1] and any(map(str.isdigit, ends[0])))


def _feeds_its_inputs(port: Port) -> bool:
    """Whether a contact alone closes the inputs of a port: their current comes from inside."""
    return any(isinstance(p.electrical, LogicInput) and p.electrical.pull_up_ohm for p in port.pins)


def meets(queries: Queries, need: Need, at: PinRef, other: PinRef) -> bool:
    """Whether what is joined to a pin, and it itself, would be what another pin needs there."""
    pin = queries.pin(at)
    wanted = need.to or ((pin.function,) if pin else ())
    by_rail = need.via == "rail"
    reached = rail_and_feeding(queries, other) if by_rail else queries.net(other)
    return any(_suits(queries, need, wanted, at, ref) for ref in reached)


def _suits(
    queries: Queries, need: Need, wanted: tuple[str, ...], at: PinRef, other: PinRef
) -> bool:
    pin, port = queries.pin(other), queries.port(other.port_ref)
    if pin is None or port is None:
        return False
    if other.device == at.device:
        return _is_series_joint(queries, at, other)
    if pin.function in MAINS and pin.function in wanted:
        if pin.function == "pe" and not earth_pins_of_mains(queries):
            return port.end != "device"
        return other in mains_entries(queries)
    if need.via == "wire" and _passed(queries, other):
        return any(
            _suits(queries, need, wanted, at, p)
            for p in queries.net(other)
            if not _passed(queries, p)
        )
    is_wanted = pin.function in wanted or pin.on_a_net in wanted
    if "bridge" in need.of and changes_poles(queries, other):
        return True
    if not is_wanted or _passed(queries, other) or _gives_nothing(need, pin, port):
        return False
    if not need.of or natures(queries, other) & set(need.of):
        return True
    # Of a port that nobody gave the limits of only what its pins are for is known.
    is_bare = pin.electrical is None and port.end not in (need.end, "through")
    if set(need.of) & {"logic input", "logic output"}:
        return is_bare and pin.function not in POWER
    return is_bare and set(need.of) == {"source"} and port.kind == "encoder"


def _gives_nothing(need: Need, pin: Pin, port: Port) -> bool:
    """Whether what asks for an output would get none: “load-” is that of an output, and the end of
    a lamp; a signal goes out, or comes in.
    """
    if not need.of_outputs:
        return False
    is_load = port.end == "device" and pin.function in LOAD_ENDS
    return is_load or isinstance(pin.electrical, LogicInput)


def _is_series_joint(queries: Queries, at: PinRef, other: PinRef) -> bool:
    """Whether two leads of one motor are the joint of two windings in series: unlike ends of one
    phase. Like ends are windings in parallel, which still need their terminal.
    """
    one, two = queries.pin(at), queries.pin(other)
    if one is None or two is None or other.port != at.port or one.function == two.function:
        return False
    return one.function.startswith("phase") and one.function[:-1] == two.function[:-1]


@query
def earth_pins_of_mains(queries: Queries) -> frozenset[PinRef]:
    """The earth pins of what brings mains in."""
    return frozenset(
        ref for ref in mains_entries(queries)
        if (pin := queries.pin(ref)) is not None and pin.function == "pe"
    )  # fmt: skip


def _offered(queries: Queries, at: PinRef, need: Need) -> bool:
    """Whether a device that comes to a pin's port has a pin of the kind that is needed."""
    pin, port = queries.pin(at), queries.port(at.port_ref)
    if pin is None or port is None:
        return False
    wanted = set(need.to) or {pin.function}
    for other in port.pins:
        for met in pins_it_meets(queries, PinRef(device=at.device, port=at.port, pin=other.id)):
            there = queries.port(met.port_ref)
            if there is None or (there.kind != (port.kind if port else "") and need.end != "host"):
                continue
            same = any(p.function in wanted and p.function == pin.function for p in there.pins)
            if there.end != need.end and same:
                return True
    return need.end == "host" and not need.of


def waits_for_a_feed(queries: Queries, at: PinRef) -> bool:
    """Whether what a pin is joined to is a board whose own feed nobody has begun with: what it
    would get from there is still to come.
    """
    return any(
        is_to_be_fed(queries, device)
        for device in {ref.device for ref in queries.rail(at)} - {at.device}
        # Where mains come to a supply may be outside of what is drawn.
        if (part := queries.part_of(device)) is not None and part.kind not in ("supply", "battery")
    )


@query
def is_to_be_fed(queries: Queries, device: str) -> bool:
    """Whether a board has a feed that it cannot do without, and nobody has begun with."""
    part = queries.part_of(device)
    return any(
        port.kind == "feed in" and port.end == "device" and not port.optional
        and not is_started(queries, PortRef(device=device, port=port.id))
        and not _is_fed_beside(queries, device, port)
        for port in (part.ports if part is not None and part.kind in BOARD_KINDS else ())
    )  # fmt: skip


def _is_fed_beside(queries: Queries, device: str, port: Port) -> bool:
    """Whether a feed is joined inside the board to one that somebody has begun with."""
    pluses = [pin.id for pin in port.pins if pin.function == "plus"]
    nets = (queries.net(PinRef(device=device, port=port.id, pin=pin)) for pin in pluses)
    return bool(pluses) and all(
        any(
            ref.device == device and queries.steps(ref)
            and (other := queries.port(ref.port_ref)) is not None and other.kind == "feed in"
            for ref in net
        )
        for net in nets
    )  # fmt: skip


def open_end(queries: Queries, at: PinRef) -> PinRef:
    """Where a pin's own conductors end in the air: at an in-line connector, else at the pin."""
    paths = paths_from(queries, at)
    return next((path.end for path in paths if not path.lands), at)


def is_other_side(queries: Queries, at: PinRef, there: PinRef) -> bool:
    """Whether a plus would come to a 0 V or to earth, a minus to a plus, or either to mains. What
    minds no polarity may lie either way round; a 0 V may be joined to earth.
    """
    pin = queries.pin(at)
    if pin is None or (isinstance(pin.electrical, FeedIn) and pin.electrical.polarity_free):
        return False
    sides: dict[str, frozenset[str]] = {"+": MINUSES | MAINS, "-": PLUSES | AT_MAINS}
    side = "+" if pin.function in PLUSES else "-" if pin.function in MINUSES else ""
    met = {other.function for ref in queries.net(there) if (other := queries.pin(ref)) is not None}
    return bool(met & sides.get(side, frozenset()))


def where_it_could_go(queries: Queries, need: Need, at: PinRef) -> PinRef | None:
    """A pin that would meet a need: one that nothing is joined to yet, at a port where the other
    conductors of this plug go.
    """
    port, pin = queries.port(at.port_ref), queries.pin(at)
    wanted = need.to or ((pin.function,) if pin else ())
    ports: dict[PortRef, None] = {}
    for other in port.pins if port else ():
        ref = PinRef(device=at.device, port=at.port, pin=other.id)
        for path in paths_from(queries, ref):
            if not is_joint(queries, path.end.device):
                ports[path.end.port_ref] = None
    found: list[tuple[bool, PinRef]] = []
    for ref_port in ports:
        there = queries.port(ref_port)
        for other in there.pins if there else ():
            ref = PinRef(device=ref_port.device, port=ref_port.port, pin=other.id)
            if ref in queries.net(at) or (there is not None and _gives_nothing(need, other, there)):
                continue
            is_wanted = other.function in wanted or other.on_a_net in wanted
            if is_wanted or (_passed(queries, ref) and other.function == "through"):
                same = pin is not None and other.function == pin.function
                taken = bool(queries.steps(ref)) and other.function not in ("plus", "zero", "pe")
                if not taken and not is_other_side(queries, at, ref):
                    found.append((not same, ref))
    return min(found, key=lambda item: item[0])[1] if found else None
