"""Rules about what is switched: contacts, coils, bare pins, inrush, and start-up."""

from collections.abc import Iterator

from vervain.electrical.coils import ends_of_coil
from vervain.electrical.feeds import RETURN_FUNCTIONS, sources_of
from vervain.electrical.levels import driving_outputs, inputs_driven_by
from vervain.electrical.mains import mains_entries
from vervain.electrical.pull_up import pull_up_at
from vervain.electrical.unmet_needs import natures, pins_it_meets
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Contact, Diode, Element, Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Port
from vervain.queries.connectivity import nets_reached
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, Fix, about, about_port
from vervain.rules.fixes import PutAcross, SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.results import currents_of
from vervain.supply.states import LASTING_STATES

# A contact breaks the direct current of a coil (utilization category DC-13, IEC 60947-5-1) without
# harm where it carries ten times as much; makers of relays give a third of that and less.
BEARS_COILS = 10.0
# What must not start by itself with the controller.
STARTS_BADLY = ("heater", "brushed motor", "valve", "load", "brake", "servo")


@rule(
    id="signals.contact-rating",
    consequence="Damage",
    scope="device",
    title="A contact switches more, or less, than it is made for",
    reason="Above its rating a contact welds shut, with coils at a third of it; below its least "
    "load its film is not broken through. A welded contact is one that no longer stops anything.",
    source="The contact's own ratings, resistive and inductive; sum of the loads' currents.",
)
def contact_rating(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Contact):
            continue
        loads = _behind(queries, element, device)
        nameplates_a = sum(feed.current_a or 0.0 for _, feed in loads)
        current_a = max(nameplates_a, _flows_through(queries, element, device))
        if not current_a:
            continue
        coils = sum((feed.current_a or 0.0) for _, feed in loads if feed.inductive)
        port = element.pins[0][0]
        names = " and ".join(dict.fromkeys(ref.device for ref, _ in loads))
        for kind, value, limit in (
            ("", current_a, element.current_max_a),
            ("coils of ", coils, element.inductive_max_a),
        ):
            if limit is not None and value > limit:
                yield RuleOutput(
                    f"{port} of {device} switches {kind}{value:.3g} A"
                    f"{f' ({names})' if names else ''}; it carries {limit:g} A.",
                    (about(device), *(about(ref) for ref, _ in loads)),
                    detail=f"{element.pins}{kind}",
                    value=round(value, 3),
                    limit=limit,
                    unit="A",
                )
        if element.current_min_a is not None and loads and current_a < element.current_min_a:
            yield RuleOutput(
                f"{port} of {device} switches only {current_a * 1000:.3g} mA ({names}); it needs "
                f"{element.current_min_a * 1000:g} mA.",
                (about(device), *(about(ref) for ref, _ in loads)),
                detail=f"{element.pins}least",
                value=round(current_a * 1000, 2),
                limit=element.current_min_a * 1000,
                unit="mA",
                over=False,
                consequence="Unreliable",
            )
        voltage_v = max((_volts(queries, ref) for ref, _ in loads), default=0.0)
        if element.v_max_v is not None and voltage_v > element.v_max_v:
            yield RuleOutput(
                f"{port} of {device} switches {voltage_v:.3g} V; it is made for "
                f"{element.v_max_v:g} V.",
                (about(device), *(about(ref) for ref, _ in loads)),
                detail=f"{element.pins}volts",
                value=round(voltage_v, 2),
                limit=element.v_max_v,
                unit="V",
            )


def _flows_through(queries: Queries, element: Contact, device: str) -> float:
    """The most that runs through a contact in any state, in A, whatever lies behind it: further
    contacts, fuses and strips too.
    """
    pins = {PinRef(device=device, port=port, pin=pin) for port, pin in element.pins}
    return max(
        (
            current.current_a
            for state in LASTING_STATES
            for current in currents_of(queries, device, state)
            if current.kind == "contact" and {current.a, current.b} == pins
        ),
        default=0.0,
    )


def _behind(queries: Queries, element: Contact, device: str) -> list[tuple[PinRef, FeedIn]]:
    """The consumers that a contact switches: those on its side that no source is on."""
    sides = []
    ends = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
    for end in ends:
        net = queries.net(end)
        pins = [(ref, found) for ref in net if (found := queries.pin(ref)) is not None]
        fed = any(_gives(queries, ref, device) for ref in net)
        turned = {ref: taker for ref in net if (taker := _either_way(queries, ref)) is not None}
        # A consumer whose plus is on a return is turned round, and nothing flows this way.
        back = any(p.function in RETURN_FUNCTIONS and ref not in turned for ref, p in pins)
        takers = [(ref, p.electrical) for ref, p in pins if isinstance(p.electrical, FeedIn)]
        takers = [] if back else [*takers, *turned.values()]
        sides.append((fed, [(ref, feed) for ref, feed in takers if ref.device != device]))
    (first_fed, at_first), (second_fed, at_second) = sides
    if first_fed and second_fed:
        return []
    if not first_fed and not second_fed and (at_first or at_second):
        # The source is behind another contact, or a fuse; what hangs on its side is not switched.
        first_fed, second_fed = (_is_fed_beyond(queries, end, element) for end in ends)
    if first_fed == second_fed:
        # A button beside the contact that holds is fed from both sides.
        return at_first or at_second
    return at_second if first_fed else at_first


def _either_way(queries: Queries, back: PinRef) -> tuple[PinRef, FeedIn] | None:
    """The other end of a consumer, such as a bare coil, that takes its current either way round,
    where a pin is what is printed as its minus.
    """
    port, pin = queries.port(back.port_ref), queries.pin(back)
    if port is None or pin is None or port.end != "device" or pin.function not in RETURN_FUNCTIONS:
        return None
    for other in port.pins:
        if isinstance(other.electrical, FeedIn) and other.electrical.polarity_free:
            return PinRef(device=back.device, port=back.port, pin=other.id), other.electrical
    return None


def _gives(queries: Queries, ref: PinRef, besides: str) -> bool:
    """Whether a pin is that of a source, or of what brings mains in, but of one device."""
    pin = queries.pin(ref)
    is_source = pin is not None and isinstance(pin.electrical, FeedOut)
    return is_source or (ref.device != besides and ref in mains_entries(queries))


def _is_fed_beyond(queries: Queries, end: PinRef, contact: Contact) -> bool:
    """Whether a source, or mains, is reached from one end of a contact through any other."""

    def passes(device: str, element: Element) -> bool:
        is_it = device == end.device and element == contact
        return isinstance(element, Contact | Fuse) and not is_it

    nets = nets_reached(queries, [end], passes)
    return any(_gives(queries, ref, end.device) for net in nets for ref in net)


def _volts(queries: Queries, pin: PinRef) -> float:
    feeds = [source.feed for source in sources_of(queries, pin)]
    return max((feed.nominal_v for feed in feeds), default=0.0)


@rule(
    id="signals.flyback",
    consequence="Damage",
    scope="device",
    title="A coil is switched off without a way for its current",
    reason="The current of a coil goes on when it is switched off and drives the voltage up until "
    "something lets it through: the transistor, or the air of a contact.",
    source="Derivation: u = L di/dt; a diode across the coil, cathode to plus.",
)
def flyback(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    kind = part.kind if part else ""
    for port in part.ports if part else ():
        ends = ends_of_coil(part, port) if part is not None else None
        if ends is None:
            continue
        plus, minus = (PinRef(device=device, port=port.id, pin=end.id) for end in ends)
        feed = ends[0].electrical
        current_a = feed.current_a if isinstance(feed, FeedIn) else None
        switch = _switched_by(queries, plus, minus, current_a)
        if switch is None or _has_diode(queries, minus, plus):
            continue
        if _has_diode(queries, plus, minus):
            # The wrong way round; signals.diode-reversed says so.
            continue
        name, electronic = switch
        if not electronic and kind == "brushed motor":
            # Its brushes spark whenever it turns; a relay's contact bears that.
            continue
        yield RuleOutput(
            f"{device} is a coil on {name}, with no way for its current when it is switched off.",
            (about(device), about(name.split(" ")[0])),
            detail=port.id,
            consequence="Damage" if electronic else "Unreliable",
            fixes=(Fix(words="put a diode across it", remedy=PutAcross(first=minus, second=plus)),),
        )


def _switched_by(
    queries: Queries, plus: PinRef, minus: PinRef, current_a: float | None
) -> tuple[str, bool] | None:
    """What switches a coil with no care for it: its name, and whether it is a transistor. A contact
    that carries many times its current bears it.
    """
    for ref in (minus, plus):
        if any(natures(queries, other) & {"source", "return"} for other in queries.net(ref)):
            continue
        for end in pins_it_meets(queries, ref):
            pin, port = queries.pin(end), queries.port(end.port_ref)
            output = pin.electrical if pin else None
            if isinstance(output, LogicOutput) and not output.flyback:
                return f"{end.device} {end.port}", True
            if port is not None and _is_of_relay(queries, end, port):
                carries_a = _contact_carries_a(queries, end)
                if current_a and carries_a and carries_a >= BEARS_COILS * current_a:
                    continue
                return f"{end.device} {end.port}", False
    return None


def _is_of_relay(queries: Queries, pin: PinRef, port: Port) -> bool:
    """Whether a port is the contact of a relay, not of a switch or a contactor."""
    part = queries.part_of(pin.device)
    is_relay = part is not None and part.kind == "relay module"
    return port.kind == "relay contact" or (is_relay and port.kind == "contact")


def _contact_carries_a(queries: Queries, pin: PinRef) -> float | None:
    """What the contact at a pin carries, as far as its part says."""
    part = queries.part_of(pin.device)
    return next(
        (
            element.current_max_a
            for element in (part.inside if part else ())
            if isinstance(element, Contact) and (pin.port, pin.pin) in element.pins
        ),
        None,
    )


def _has_diode(queries: Queries, anode: PinRef, cathode: PinRef) -> bool:
    low, high = queries.net(anode), set(queries.net(cathode))
    for member in low:
        part = queries.part_of(member.device)
        for element in part.inside if part else ():
            if not isinstance(element, Diode) or element.pins[0] != (member.port, member.pin):
                continue
            far = element.pins[1]
            if PinRef(device=member.device, port=far[0], pin=far[1]) in high:
                return True
    return False


@rule(
    id="signals.bare-pin",
    consequence="Damage",
    scope="device",
    title="A load hangs on a signal pin",
    reason="A pin of a processor gives a few milliamperes. A lamp, a coil or a laser takes more, "
    "and takes the pin with it; between them belongs a switched output or a relay.",
    source="The parts' own pins.",
)
def bare_pin(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.end != "device" or port.kind not in ("load", "coil"):
            continue
        for pin in port.pins:
            for end in pins_it_meets(queries, PinRef(device=device, port=port.id, pin=pin.id)):
                there, host = queries.pin(end), queries.port(end.port_ref)
                if there is None or host is None:
                    continue
                is_bare = isinstance(there.electrical, LogicOutput) and host.end == "host"
                if is_bare and host.kind != "switched output":
                    yield RuleOutput(
                        f"{device} hangs on {end.device} {end.port}, a signal pin.",
                        (about(device), about(end)),
                        at=(about_port(end),),
                    )


@rule(
    id="signals.inrush",
    consequence="Unreliable",
    scope="device",
    title="A load takes more at switch-on than its output gives",
    reason="Cold lamps, motors and capacitors take many times their current for an instant: the "
    "output limits and tries again, or its transistor ages with every start.",
    source="The load's own inrush against the output's rating for an instant.",
)
def inrush(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            output = pin.electrical
            if port.kind != "switched output" or not isinstance(output, LogicOutput):
                continue
            for ref, feed in _loads_on(queries, PinRef(device=device, port=port.id, pin=pin.id)):
                peak, limit = feed.inrush_a, output.inrush_a or output.current_a
                if peak is not None and limit is not None and peak > limit:
                    yield RuleOutput(
                        f"{ref.device} takes {peak:g} A at switch-on; {device} {port.id} gives "
                        f"{limit:g} A.",
                        (about(ref.device), about(PinRef(device=device, port=port.id, pin=pin.id))),
                        detail=port.id,
                        value=peak,
                        limit=limit,
                        unit="A",
                    )


def _loads_on(queries: Queries, output: PinRef) -> list[tuple[PinRef, FeedIn]]:
    """The consumers whose return an output switches."""
    found: dict[PinRef, FeedIn] = {}
    for end in pins_it_meets(queries, output):
        port, met = queries.port(end.port_ref), queries.pin(end)
        if port is None or met is None or port.kind not in ("load", "coil", "bridge motor"):
            continue
        for pin in port.pins:
            if isinstance(pin.electrical, FeedIn):
                found[PinRef(device=end.device, port=end.port, pin=pin.id)] = pin.electrical
    return list(found.items())


@rule(
    id="signals.at-start",
    consequence="Damage",
    scope="device",
    title="An output acts before the program runs",
    reason="From switching on until its program runs a controller does not hold its outputs. What "
    "heats, spins, opens or enables then does so unasked.",
    source="The output's own state at start.",
)
def at_start(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output in driving_outputs(queries, device):
        if output.at_start is None:
            continue
        for load, _ in _loads_on(queries, ref):
            part = queries.part_of(load.device)
            if part is None or part.kind not in STARTS_BADLY or output.at_start == "off":
                continue
            worst: Consequence = "Damage" if output.at_start == "on" else "Unreliable"
            does = "is on" if output.at_start == "on" else "floats"
            yield RuleOutput(
                f"{device} {ref.port} {does} until the program runs; {load.device} hangs on it.",
                (about(ref), about(load.device)),
                at=(about(load.device),),
                detail=ref.port,
                consequence=worst,
            )
        for target in inputs_driven_by(queries, ref):
            pin = queries.pin(target)
            entry = pin.electrical if pin else None
            if not isinstance(entry, LogicInput) or entry.active is None:
                continue
            level = {"off": "low", "on": "high"}.get(output.at_start, entry.active)
            if level == entry.active and pull_up_at(queries, target) is None:
                yield RuleOutput(
                    f"{device} {ref.port} enables {target.device} until the program runs.",
                    (about(ref), about(target)),
                    at=(about(target.device),),
                    detail=ref.port,
                    consequence="Unreliable",
                )


@rule(
    id="signals.enable-polarity",
    consequence="Won't run",
    scope="device",
    title="Enable has the wrong polarity",
    reason="The driver is off while the controller takes it for enabled, and holds its motor while "
    "the controller has let it go.",
    source="The driver's own input against the controller's setting.",
)
def enable_polarity(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, _ in driving_outputs(queries, device):
        pin = queries.pin(ref)
        setting = queries.setting(device, "enable", ref.port)
        if pin is None or pin.function != "enable" or setting is None:
            continue
        for target in inputs_driven_by(queries, ref):
            there = queries.pin(target)
            entry = there.electrical if there else None
            if not isinstance(entry, LogicInput) or entry.active in (None, setting):
                continue
            remedy = SetSetting(device=device, key=f"enable/{ref.port}", value=entry.active or "")
            yield RuleOutput(
                f"{target.device} is enabled by a {entry.active} level; {device} {ref.port} gives "
                f"a {setting} one.",
                (about(ref), about(target)),
                detail=ref.port,
                fixes=(Fix(words=f"set enable of {ref.port} to {entry.active}", remedy=remedy),),
            )


RULES = (
    contact_rating,
    flyback,
    bare_pin,
    inrush,
    at_start,
    enable_polarity,
)
