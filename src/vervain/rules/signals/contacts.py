"""Rules about contacts that do nothing: bridged, between two places alike, a selector's throws."""

from collections import defaultdict
from collections.abc import Iterator

from vervain.electrical.unmet_needs import pins_it_meets
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Bridge, Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Part, PartKind
from vervain.queries.connectivity import is_contact, nets_reached
from vervain.queries.index import Net
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule

# Parts whose contacts are worked from outside; those of relays and contactors switch loads.
WORKED = ("switch", "hand wheel", "sensor", "emergency stop")
# With so many throws on one common a part is a selector, of which one position is on at a time.
THROWS = 3
# What one output or another works, each its own load.
RELAYS: tuple[PartKind, ...] = ("relay module", "contactor", "solid-state relay")


def _contacts(queries: Queries, device: str) -> Iterator[tuple[PinRef, PinRef]]:
    """The contacts of a device, by their two pins."""
    part = queries.part_of(device)
    for element in part.inside if part is not None else ():
        if isinstance(element, Contact):
            (port_a, a), (port_b, b) = element.pins
            yield (
                PinRef(device=device, port=port_a, pin=a),
                PinRef(device=device, port=port_b, pin=b),
            )


def _rail(queries: Queries, net: Net) -> str:
    """The rail that a net is, in words; empty where nothing fixes it."""
    pins = [pin for ref in net if (pin := queries.pin(ref)) is not None]
    if any(isinstance(pin.electrical, FeedOut) for pin in pins):
        return "plus"
    return "0 V" if any(pin.function == "zero" for pin in pins) else ""


def _is_told_elsewhere(queries: Queries, device: str, net: Net) -> bool:
    """Whether a bridge over the contact of a relay lies over a button or a switch as well, of which
    it is told.
    """
    part = queries.part_of(device)
    if part is None or part.kind in WORKED:
        return False
    others = {ref.device for ref in net} - {device}
    return any(
        a in net and b in net
        for name in others
        if (other := queries.part_of(name)) is not None and other.kind in WORKED
        for a, b in _contacts(queries, name)
    )


# What turns a load on and off.
SWITCHING: tuple[PartKind, ...] = ("solid-state relay", "contactor", "relay module")


@rule(
    id="signals.contact-idle",
    consequence="Won't run",
    scope="device",
    title="A contact changes nothing",
    reason="A contact says something only where it joins what is otherwise apart. Bridged, or "
    "between two places of one rail, what reads it looks the same whether it is worked or not.",
    source="The machine's own conductors; Kirchhoff's current law.",
)
def contact_idle(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for a, b in _contacts(queries, device):
        nets = queries.net(a), queries.net(b)
        if any(all(ref.device == device for ref in net) for net in nets):
            continue
        names = f"{device} {a.port} {pin_text(queries, a)} and {pin_text(queries, b)}"
        if nets[0] == nets[1]:
            # A bridged stop is told as such.
            if part is not None and part.kind == "emergency stop":
                continue
            if _is_told_elsewhere(queries, device, nets[0]):
                continue
            said = f"{names} are joined outside as well: its contact changes nothing."
        elif part is not None and part.kind in SWITCHING and (way := _way_round(queries, a, b)):
            said = f"{names} are joined by another way: what hangs behind is always on."
            yield RuleOutput(
                said, (about(a), about(b), *map(about, way)),
                detail=f"{a.port} {b.pin}", consequence="Damage",
            )  # fmt: skip
            continue
        elif part is None or part.kind not in WORKED:
            # What switches a load may lie between two supplies of one voltage.
            continue
        elif (rail := _rail(queries, nets[0])) and rail == _rail(queries, nets[1]):
            said = f"{names} both lie at {rail}: its contact changes nothing."
        else:
            continue
        yield RuleOutput(said, (about(a), about(b)), detail=f"{a.port} {b.pin}")


def _way_round(queries: Queries, a: PinRef, b: PinRef) -> list[PinRef]:
    """The pins by which power comes from one side of a contact to the other without it: through
    fuses, and what opens by heat or by a fault only. None where it does not.
    """

    def is_closed(device: str, element: Element) -> bool:
        if device == a.device:
            return False
        opens_late = isinstance(element, Contact) and element.worked_by in ("heat", "trip")
        return isinstance(element, Fuse) or opens_late

    reached = list(nets_reached(queries, [a], is_closed))
    if not any(b in net for net in reached):
        return []
    return [ref for net in reached for ref in net if ref.device != a.device and queries.steps(ref)]


@rule(
    id="signals.contact-in-the-way",
    consequence="Won't run",
    scope="device",
    title="A switch lies in the way of others and is read by none",
    reason="Where the common lead of several switches goes through one of them, each of the others "
    "is read only while that one is closed; and it has no input of its own.",
    source="The machine's own conductors.",
)
def contact_in_the_way(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "switch" or len(list(_contacts(queries, device))) >= THROWS:
        return
    for a, b in _contacts(queries, device):
        ends = [end for end in (a, b) if not _rail(queries, queries.net(end))]
        if len(ends) != 1 or not (queries.steps(a) and queries.steps(b)):
            continue
        if _inputs_in(queries, queries.net(ends[0])):
            continue
        reached = nets_reached(queries, ends, is_contact, lambda net: bool(_rail(queries, net)))
        inputs = [ref for net in reached if not _rail(queries, net)
                  for ref in _inputs_in(queries, net)]  # fmt: skip
        if len(inputs) > 1:
            named = ", ".join(f"{ref.device} {ref.port}" for ref in inputs[:3])
            yield RuleOutput(
                f"{device} is read by no input; it lies in the way of what {named} read.",
                (about(device), *map(about, inputs[:3])),
                detail=a.port,
            )


def _inputs_in(queries: Queries, net: Net) -> list[PinRef]:
    return [
        ref for ref in net
        if (pin := queries.pin(ref)) is not None and isinstance(pin.electrical, LogicInput)
    ]  # fmt: skip


def _bars(part: Part | None, device: str) -> dict[PinRef, PinRef]:
    """The pins of a part that are one copper inside, each with the first of them: the common of a
    selector that has a port for each throw.
    """
    found: dict[PinRef, PinRef] = {}
    for element in part.inside if part is not None else ():
        if isinstance(element, Bridge) and element.when is None:
            pins = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
            found |= dict.fromkeys(pins, pins[0])
    return found


@rule(
    id="signals.selector",
    consequence="Won't run",
    scope="device",
    title="A selector is joined the wrong way, or in part",
    reason="The common of a selector brings one rail to the input of the position that is chosen. "
    "On a throw instead, the positions read each other; a throw that nothing is joined to is a "
    "position that nobody notices.",
    source="The part's own contacts.",
)
def selector(queries: Queries, device: str) -> Iterator[RuleOutput]:
    throws: dict[PinRef, list[PinRef]] = defaultdict(list)
    part = queries.part_of(device)
    bars = _bars(part, device)
    for a, b in _contacts(queries, device) if part and part.kind in WORKED else ():
        throws[bars.get(a, a)].append(b)
        throws[bars.get(b, b)].append(a)
    for common, ends in throws.items():
        joined = [end for end in ends if queries.steps(end)]
        is_joined = any(
            queries.steps(at) for at in (common, *(a for a in bars if bars[a] == common))
        )
        least = 2 if common in bars.values() else THROWS
        if len(ends) < least or not joined or not is_joined:
            continue
        on_rail = [end for end in joined if _rail(queries, queries.net(end))]
        if on_rail and _inputs_in(queries, queries.net(common)):
            yield RuleOutput(
                f"{pin_text(queries, common)} of {device} is its common and goes to an input, "
                f"while {pin_text(queries, on_rail[0])} lies at "
                f"{_rail(queries, queries.net(on_rail[0]))}.",
                (about(common), about(on_rail[0])),
                detail="common",
            )
            continue
        for end in ends:
            pin = queries.pin(end)
            if not queries.steps(end) and pin is not None and not pin.optional:
                yield RuleOutput(
                    f"Position {pin.text} of {device} is read by nothing.",
                    (about(end),),
                    detail=f"{end.port} {end.pin}",
                    consequence="Unreliable",
                )


@rule(
    id="signals.outputs-meet",
    consequence="Won't run",
    scope="device",
    title="Two outputs work the same",
    reason="Where two contacts of a controller lie side by side, from one common to one place, "
    "either of them switches what hangs on both: lamps with one lead together light up together. "
    "Of two outputs of a sensor one gives while the other does not: on one input they say nothing.",
    source="The machine's own conductors.",
)
def outputs_meet(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    yield from _outputs_of_a_sensor(queries, device)
    worked = {
        element.pins for element in (part.inside if part is not None else ())
        if isinstance(element, Contact) and element.worked_by == "program"
    }  # fmt: skip
    side_by_side: dict[frozenset[Net], list[PinRef]] = defaultdict(list)
    for a, b in _contacts(queries, device):
        nets = frozenset((queries.net(a), queries.net(b)))
        if ((a.port, a.pin), (b.port, b.pin)) in worked and queries.steps(b):
            side_by_side[nets].append(b)
    for meeting in (*side_by_side.values(), *_relays_side_by_side(queries, device)):
        if len(meeting) < 2:
            continue
        end = meeting[0]
        names = " and ".join(
            f"{'' if ref.device == device else f'{ref.device} '}{ref.port} {pin_text(queries, ref)}"
            for ref in meeting
        )
        others = [ref for ref in pins_it_meets(queries, end) if ref.device != device]
        yield RuleOutput(
            f"{device} {names} meet: each works what hangs on the others.",
            (*map(about, meeting), *map(about, others[:2])),
            at=(about(end), *map(about, others[:1])),
        )


def _relays_side_by_side(queries: Queries, device: str) -> Iterator[list[PinRef]]:
    """The contacts of relays that are worked apart and lie between the same two places, where
    several loads hang on one of these: told by the first of their devices.
    """
    part, order = queries.part_of(device), queries.devices()
    if part is None or part.kind not in RELAYS:
        return
    told: set[frozenset[Net]] = set()
    for a, b in _contacts(queries, device):
        nets = frozenset((queries.net(a), queries.net(b)))
        if nets in told or len(nets) < 2 or not (queries.steps(a) and queries.steps(b)):
            continue
        told.add(nets)
        there = {ref.device for ref in queries.net(b)}
        found: dict[tuple[str, str], PinRef] = {}
        for name in sorted(there, key=order.index):
            other = queries.part_of(name)
            for element in other.inside if other is not None and other.kind in RELAYS else ():
                if isinstance(element, Contact):
                    one, two = (PinRef(device=name, port=p, pin=n) for p, n in element.pins)
                    if frozenset((queries.net(one), queries.net(two))) == nets:
                        found.setdefault((name, element.worked_by), two)
        switched = [net for net in nets if not _rail(queries, net)]
        loads = max((len(_loads_on(queries, net)) for net in switched), default=0)
        if next(iter(found), ("",))[0] == device and loads > 1:
            yield list(found.values())


def _loads_on(queries: Queries, net: Net) -> set[str]:
    """The devices that take power on a net."""
    return {
        ref.device for ref in net
        if (pin := queries.pin(ref)) is not None and isinstance(pin.electrical, FeedIn)
        and (port := queries.port(ref.port_ref)) is not None and port.end == "device"
    }  # fmt: skip


def _outputs_of_a_sensor(queries: Queries, device: str) -> Iterator[RuleOutput]:
    """Two outputs of a sensor that lie on one net."""
    part = queries.part_of(device)
    for port in part.ports if part is not None and part.kind == "sensor" else ():
        outputs = [
            PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins
            if pin.function == "signal" and isinstance(pin.electrical, LogicOutput)
        ]  # fmt: skip
        meeting = [end for end in outputs[1:] if queries.net(end) == queries.net(outputs[0])]
        if meeting and queries.steps(outputs[0]):
            first, second = outputs[0], meeting[0]
            yield RuleOutput(
                f"{pin_text(queries, first)} and {pin_text(queries, second)} of {device} meet: "
                "what reads them cannot tell one from the other.",
                (about(first), about(second)),
                detail=f"{first.port} {first.pin}",
            )


RULES = (contact_idle, contact_in_the_way, selector, outputs_meet)
