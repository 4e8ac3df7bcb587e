"""Rules about what sits in which port."""

from collections.abc import Iterator

from vervain.electrical.mains import mains_entries
from vervain.electrical.unmet_needs import natures
from vervain.model.electrical import FeedIn, LogicInput, LogicOutput
from vervain.model.elements import Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Port
from vervain.ports.compatibility import hosts_of, mates_of
from vervain.ports.fit import Fit, ranked_fits
from vervain.ports.occupancy import SHARED_KINDS
from vervain.queries.connectivity import (
    host_ports,
    is_shared_pin,
    neighbours_at,
    occupants,
    paths_from,
    steps_from,
)
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_port
from vervain.rules.fixes import MovePins, MovePlug
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.contacts import used_contacts

# Device kinds that a host port takes; other device ports hang on strips and are the supply's.
PLUGGED = (
    "motor phases",
    "step and direction",
    "sensor",
    "contact",
    "encoder",
    "servo",
    "driver slot",
    "thermistor",
    "analogue sensor",
    "radio",
    "bridge motor",
    "bridge control",
    "analogue command",
    "transducer",
    "bus",
)


# Pins by which a device takes its power, and no more.
FED_FUNCTIONS = {
    "plus", "zero", "pe", "shield", "load+", "load-", "motor+", "motor-", "coil+", "coil-",
}  # fmt: skip


def free_fit(queries: Queries, ref: PortRef) -> Fit | None:
    """The best free port for a plug, if any takes it."""
    best = next(iter(ranked_fits(queries, ref)), None)
    return best if best is not None and best.verdict != "does not fit" else None


def move_to(fit: Fit, ref: PortRef) -> Fix:
    """The fix that moves a plug to the port of a fit."""
    words = f"move {ref.device} to {fit.host.device} {fit.host.port}, which is free"
    return Fix(words=words, remedy=MovePlug(device_port=ref, host_port=fit.host))


# Ports that move what hangs on them alike: right for what moves one axis, and for nothing else.
OF_ONE_AXIS = ("step and direction", "motor phases", "bridge control")


@rule(
    id="ports.two-devices",
    consequence="Won't run",
    scope="device",
    title="Two devices in one port",
    reason="Either device alone can hold the shared pin, so the controller cannot tell which one "
    "it sees, and two outputs can drive against each other.",
    source="Derivation: one net, two drivers.",
)
def two_devices(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.end != "host" or port.kind in SHARED_KINDS:
            continue
        ref = PortRef(device=device, port=port.id)
        found = occupants(queries, ref)
        devices = list(dict.fromkeys(item.device for item in found))
        if len(devices) <= port.holds:
            continue
        if port.kind in OF_ONE_AXIS and len({axis_with_driver(queries, d) for d in devices}) == 1:
            continue
        fix = None
        for item in reversed(found):
            answer = free_fit(queries, item)
            if answer is not None:
                fix = move_to(answer, item)
                break
        yield RuleOutput(
            f"{' and '.join(devices)} both sit in {port.id}.",
            (about(ref), *map(about, devices)),
            detail=port.id,
            fixes=(fix,) if fix else (),
        )


@rule(
    id="ports.wrong-kind",
    consequence="Won't run",
    scope="device",
    title="A port of the wrong kind",
    reason="The pins of the port do not do what the device needs, whatever the plug looks like.",
    source="The parts' own port kinds; data/tables/mates.toml.",
)
def wrong_kind(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.end != "device" or port.kind not in PLUGGED:
            continue
        ref = PortRef(device=device, port=port.id)
        for host in neighbours_at(queries, ref):
            theirs = queries.port(host)
            if theirs is None or theirs.end != "host" or host not in host_ports(queries, ref):
                continue
            if mates_of(port.kind, theirs.kind) or _only_fed(queries, ref, host):
                continue
            if port.kind == "contact" and switches_a_load(queries, device):
                continue
            if _only_lines(queries, ref, host):
                continue
            wanted = " or ".join(hosts_of(port.kind))
            answer = free_fit(queries, ref)
            yield RuleOutput(
                f"{device} sits in {host.device} {host.port}, which is for {theirs.kind}.",
                (about(device), about(host)),
                at=(about_port(host),),
                why=f"{device} needs a port for {wanted}.",
                fixes=(move_to(answer, ref),) if answer else (),
            )


def switches_a_load(queries: Queries, device: str) -> bool:
    """Whether a contact of a device lies between a source, or its return, and something that it
    feeds: a start button before a coil, a float switch before a pump.
    """
    entries = mains_entries(queries)
    for contact in used_contacts(queries, device):
        rail = queries.rail(contact.pins[0])
        is_a = frozenset[str]().union(*(natures(queries, ref) for ref in rail))
        if any(_takes_power(queries, ref) for ref in rail) and (
            is_a & {"source", "return"} or any(ref in entries for ref in rail)
        ):
            return True
    return False


def _takes_power(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is an end of a load."""
    pin = queries.pin(ref)
    is_end = pin is not None and pin.function in {"load-", "coil-"}
    return is_end or (pin is not None and isinstance(pin.electrical, FeedIn))


def _only_fed(queries: Queries, ref: PortRef, host: PortRef) -> bool:
    """Whether a device takes nothing but its power from a port, or a contact the rail that it lays
    on an input elsewhere: feeds lie where they give.
    """
    port = queries.port(ref)
    lying = [
        (pin.function, end.function)
        for pin in (port.pins if port else ())
        for path in paths_from(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id))
        if path.lands and path.end.port_ref == host and (end := queries.pin(path.end)) is not None
    ]
    is_contact = port is not None and port.kind == "contact"
    is_on_rail = is_contact and {there for _, there in lying} <= {"plus", "zero"}
    return bool(lying) and (is_on_rail or {own for own, _ in lying} <= FED_FUNCTIONS)


def _only_lines(queries: Queries, ref: PortRef, host: PortRef) -> bool:
    """Whether nothing of a plug lies at a port but, besides its feed, outputs at plain lines that
    read and inputs at plain lines that give: what belongs there the partners tell.
    """
    port = queries.port(ref)
    for pin in port.pins if port else ():
        for path in paths_from(queries, PinRef(device=ref.device, port=ref.port, pin=pin.id)):
            if not path.lands or path.end.port_ref != host or pin.function in FED_FUNCTIONS:
                continue
            there = queries.pin(path.end)
            if there is not None and pin.function == "enable" and there.function == "plus":
                # What is held high as long as there is power.
                continue
            if there is not None and there.function == "alarm" and pin.function == "signal":
                # What a driver tells by a plug of its own, at the port that commands it.
                continue
            if there is None or there.on_a_net != "signal":
                return False
            ours, theirs = pin.electrical, there.electrical
            reads = isinstance(theirs, LogicInput) and not isinstance(ours, LogicInput)
            gives = isinstance(theirs, LogicOutput) and not isinstance(ours, LogicOutput)
            if not reads and not gives:
                return False
    return True


@rule(
    id="ports.empty-slot",
    consequence="Won't run",
    scope="device",
    title="A driver slot is empty",
    reason="The port is only the way out of a plug-in driver; with no module in the slot nothing "
    "drives the motor.",
    source="The part's own list of slots.",
)
def empty_slot(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.needs is None:
            continue
        ref = PortRef(device=device, port=port.id)
        seated = occupants(queries, ref)
        slot = PortRef(device=device, port=port.needs)
        if seated and not neighbours_at(queries, slot):
            names = " and ".join(item.device for item in seated)
            yield RuleOutput(
                f"{names} sits in {port.id}, but {port.needs} of {device} holds no driver.",
                (about(ref), about(slot), *(about(item.device) for item in seated)),
                detail=port.id,
            )


@rule(
    id="ports.shorts-supply",
    consequence="Damage",
    scope="device",
    title="A contact closes the port's supply onto its return",
    reason="A two-lead switch on the outer pins of a three-pin port joins plus to 0 V whenever it "
    "is closed: the board's regulator burns, or every input goes dead with it.",
    source="Derivation: Ohm's law with only copper between plus and return.",
)
def shorts_supply(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Contact):
            continue
        ends = [
            [way.end for way in paths_from(queries, PinRef(device=device, port=port, pin=pin))]
            for port, pin in element.pins
        ]
        for plus, zero in ((ends[0], ends[1]), (ends[1], ends[0])):
            for high in plus:
                low = next((z for z in zero if z.port_ref == high.port_ref), None)
                if low is None or (_function(queries, high), _function(queries, low)) != (
                    "plus",
                    "zero",
                ):
                    continue
                fix = _to_signal(queries, device, high)
                yield RuleOutput(
                    f"{device} joins plus and 0 V of {high.device} {high.port} when it closes.",
                    (about(device), about(high), about(low)),
                    at=(about_port(high),),
                    fixes=(fix,) if fix else (),
                )


def _function(queries: Queries, ref: PinRef) -> str:
    pin = queries.pin(ref)
    return pin.function if pin else ""


def _to_signal(queries: Queries, device: str, high: PinRef) -> Fix | None:
    """The conductor at the plus pin goes to the signal pin of the same port instead."""
    port = queries.port(high.port_ref)
    signal = next((p for p in (port.pins if port else ()) if p.function == "signal"), None)
    if signal is None:
        return None
    for step in steps_from(queries, high):
        hookup = queries.hookup(step.hookup)
        if hookup is not None and device in {w.end.device for w in paths_from(queries, high)}:
            side = "a" if hookup.a == high.port_ref else "b"
            remedy = MovePins(hookup=hookup.id, side=side, pins={high.pin: signal.id})
            return Fix(words=f"move it from plus to {signal.text}", remedy=remedy)
    return None


@rule(
    id="ports.two-ports",
    consequence="Unreliable",
    scope="device",
    title="One plug in two ports",
    reason="A device that reaches two ports joins their pins: each port sees what is done at the "
    "other, and two outputs can drive against each other.",
    source="Derivation: one net, two host pins.",
)
def two_ports(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        if port.end != "device" or port.kind not in PLUGGED or port.kind == "motor phases":
            continue
        ref = PortRef(device=device, port=port.id)
        hosts = _joined_together(queries, ref, port)
        if len(hosts) > 1:
            named = " and ".join(f"{host.device} {host.port}" for host in hosts)
            yield RuleOutput(
                f"{device} is in {named} at once.",
                (about(device), *map(about, hosts)),
                detail=port.id,
            )


def _joined_together(queries: Queries, ref: PortRef, port: Port) -> list[PortRef]:
    """The host ports that one and the same pin of a device's port comes to. A selector or a hand
    wheel goes to several ports with a contact for each, which joins nothing.
    """
    for pin in port.pins:
        here = PinRef(device=ref.device, port=ref.port, pin=pin.id)
        found = dict.fromkeys(
            path.end.port_ref
            for path in paths_from(queries, here)
            if path.lands
            and not is_shared_pin(queries, path.end)
            and _is_of_kind(queries, path.end.port_ref, port.kind)
        )
        if len(found) > 1:
            return list(found)
    return []


def _is_of_kind(queries: Queries, host: PortRef, kind: str) -> bool:
    port = queries.port(host)
    return port is not None and bool(mates_of(kind, port.kind))


RULES = (
    two_devices,
    two_ports,
    wrong_kind,
    empty_slot,
    shorts_supply,
)
