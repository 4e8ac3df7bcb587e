"""Rules from the tables of needs and partners: what a pin lacks, and whom it should not meet."""

from collections import Counter
from collections.abc import Iterator

from msgspec.structs import replace

from vervain.electrical.feeds import consumers_of, is_supply_return, zero_pin_of
from vervain.electrical.mains import is_not_for_mains, poles_on_rail
from vervain.electrical.pin_needs import Need, needs_of_port, partners
from vervain.electrical.unmet_needs import (
    AT_MAINS,
    functions_on_net,
    has_own_way,
    is_met,
    is_started,
    is_to_be_fed,
    met_otherwise,
    open_end,
    pins_it_meets,
    waits_for_a_feed,
    where_it_could_go,
    works_contact,
)
from vervain.model.electrical import LogicInput
from vervain.model.elements import Bridge, Contact, Diode, Fuse, PinAt, Resistor
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import DRIVE_KINDS, SEATED, WIRED_IN_PLACE, Port
from vervain.ports.compatibility import hosts_of, mates_of
from vervain.queries.connectivity import drivers_of
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.rules.finding import CONSEQUENCES, Fix, about
from vervain.rules.fixes import PutConductor, SeatModule
from vervain.rules.rule import RuleOutput, rule
from vervain.text.words import in_a_row

# From how many devices on one rail on those that do not belong there tell of it.
MANY = 4
# Parts whose elements lie between what is joined from outside.
IN_LINE = (
    "switch", "emergency stop", "hand wheel", "contactor", "relay module", "radio receiver",
    "solid-state relay", "fuse", *WIRED_IN_PLACE,
)  # fmt: skip
# Boards whose contacts lie in somebody's line; what they have inside besides is their own.
WITH_CONTACTS = ("controller", "stepper driver", "signal converter", *DRIVE_KINDS)


@rule(
    id="ports.need",
    consequence="Won't run",
    scope="device",
    title="A device lacks what it needs",
    reason="A device does its work only when each of its pins reaches what that pin is for: a step "
    "input a step output, a load its way in and its way back, a channel its input.",
    source="The table of needs, data/tables/needs.toml.",
)
def need(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        ref = PortRef(device=device, port=port.id)
        rows = needs_of_port(part, port) if part is not None else []
        if not rows or not (is_started(queries, ref) or works_contact(queries, ref)):
            continue
        lacking: list[tuple[PinRef, Need]] = []
        for row in rows:
            for pin in port.pins:
                at = PinRef(device=device, port=port.id, pin=pin.id)
                if pin.function in row.functions and not is_met(queries, row, at):
                    lacking.append((at, row))
        if lacking:
            yield _told(queries, device, lacking)


@rule(
    id="ports.foot",
    consequence="Damage",
    scope="device",
    title="A foot of a module is not in its own hole",
    reason="A module or a shield goes in straight: each of its pins in the hole of the same "
    "number. One pin off, motor voltage comes to a logic pin.",
    source="The module's own pins; the rows of data/tables/mates.toml that go by pin.",
)
def foot(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        by_pin = any(
            row.by_pin for host in hosts_of(port.kind) for row in mates_of(port.kind, host)
        )
        if port.end != "device" or not by_pin:
            continue
        ref = PortRef(device=device, port=port.id)
        if not is_started(queries, ref):
            continue
        hosts: Counter[PortRef] = Counter()
        ends: dict[str, set[PinRef]] = {}
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            ends[pin.id] = {step.end for step in queries.steps(at)}
            hosts.update(end.port_ref for end in ends[pin.id])
        host = hosts.most_common(1)[0][0]
        off = [
            pin.id for pin in port.pins
            if pin.function != "none"
            and ends[pin.id] != {PinRef(device=host.device, port=host.port, pin=pin.id)}
        ]  # fmt: skip
        if off:
            yield RuleOutput(
                f"{device} does not sit straight in {host.device} {host.port}: pin "
                f"{', '.join(off[:4])}{' …' if len(off) > 4 else ''} is not in its own hole.",
                (about(ref), about(host)),
                at=(about(ref),),
                fixes=(
                    Fix(
                        words=f"put {device} straight into {host.device} {host.port}",
                        remedy=SeatModule(foot=ref, slot=host),
                    ),
                ),
            )


def _told(queries: Queries, device: str, lacking: list[tuple[PinRef, Need]]) -> RuleOutput:
    """One finding for what the pins of one port lack, the worst first."""
    lacking = sorted(lacking, key=lambda item: CONSEQUENCES.index(item[1].consequence))
    first = lacking[0][1]
    told = []
    for at, row in dict(lacking).items():
        meets = next(iter(pins_it_meets(queries, at)), None)
        there = f", but {meets.device} {meets.port} {pin_text(queries, meets)}" if meets else ""
        told.append(f"{at.port} {pin_text(queries, at)} does not reach {row.goal}{there}")
    fixes = []
    for at, row in dict(lacking).items():
        goal = where_it_could_go(queries, row, at)
        if goal is not None:
            end = open_end(queries, at)
            words = f"join {end.device} {end.port} {pin_text(queries, end)} to {goal.device} {goal.port} {pin_text(queries, goal)}"  # noqa: E501
            fixes.append(Fix(words=words, remedy=PutConductor(first=end, second=goal)))
    return RuleOutput(
        f"{device} {first.effect}: {'; '.join(told)}.",
        (about(device), *(about(at) for at, _ in lacking)),
        at=(about(PortRef(device=device, port=lacking[0][0].port)),),
        consequence=first.consequence,
        fixes=tuple(fixes),
        unfinished=all(
            (row.via == "rail" and waits_for_a_feed(queries, at))
            or _goes_back_by_boards(queries, at)
            for at, row in lacking
        ),
    )


def _goes_back_by_boards(queries: Queries, minus: PinRef) -> bool:
    """Whether what a supply feeds goes back by boards whose own feed nobody has begun with: its
    minus is reached when they are fed.
    """
    port = queries.port(minus.port_ref)
    if port is None or port.kind != "feed out":
        return False
    pluses = (replace(minus, pin=pin.id) for pin in port.pins if pin.function == "plus")
    takers = [taker.pin for plus in pluses for taker in consumers_of(queries, plus)]
    backs = [zero_pin_of(queries, taker, None) for taker in takers]
    return bool(backs) and all(b is not None and waits_for_a_feed(queries, b) for b in backs)


@rule(
    id="ports.partner",
    consequence="Won't run",
    scope="device",
    title="Pins are joined that have nothing to do with each other",
    reason="An output that meets another kind of pin does not do what either is for, and two "
    "outputs drive against each other.",
    source="The table of partners, data/tables/partners.toml.",
)
def partner(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part, table = queries.part_of(device), partners()
    for port in part.ports if part else ():
        met: list[tuple[PinRef, PinRef]] = []
        if port.end == "through" or not is_started(queries, PortRef(device=device, port=port.id)):
            continue
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            on_net = functions_on_net(queries, queries.net(at)[0])
            is_mains = bool((on_net | {pin.function}) & AT_MAINS)
            if not is_mains and not any(table.strangers(pin.on_a_net, name) for name in on_net):
                continue
            for other in met_otherwise(queries, at):
                there, its_port = queries.pin(other), queries.port(other.port_ref)
                if there is None or its_port is None:
                    continue
                # Told once, by the device, not by its host.
                if there.function in AT_MAINS and is_not_for_mains(queries, at):
                    met.append((at, other))
                    break
                told_there = port.end == "host" and its_port.end == "device"
                if pin.function in AT_MAINS and is_not_for_mains(queries, other):
                    told_there = True
                if told_there or not table.strangers(pin.on_a_net, there.on_a_net):
                    continue
                net = {p.on_a_net for r in queries.net(at) if (p := queries.pin(r)) is not None}
                if table.strangers_on(pin.on_a_net, there.on_a_net, net):
                    met.append((at, other))
                    break
        met = met or list(_mains_behind_contacts(queries, device, port))
        met = [pair for pair in met if not _is_told_by_others(queries, *pair)]
        if not met:
            continue
        functions = {p.function for pair in met for r in pair if (p := queries.pin(r)) is not None}
        told = " and ".join(
            f"{pin_text(queries, at)} meets {pin_text(queries, other)} of {other.device} "
            f"{other.port}"
            for at, other in met
        )
        yield RuleOutput(
            f"{device} {port.id}: {told}.",
            (*(about(at) for at, _ in met), *(about(other) for _, other in met)),
            at=(about(PortRef(device=device, port=port.id)),),
            consequence="Damage" if functions & {"line", "neutral"} else "Won't run",
        )


def _is_told_by_others(queries: Queries, at: PinRef, other: PinRef) -> bool:
    """Whether what a pin meets is told elsewhere: of a rail with many devices by the few that do
    not belong there, and of mains on such a rail by what gives it power.
    """
    here, there, table = queries.pin(at), queries.pin(other), partners()
    if here is None or there is None:
        return False
    strange: dict[str, PinRef] = {}
    alike: set[str] = set()
    for ref in queries.net(at):
        pin = queries.pin(ref)
        if pin is not None and table.strangers(here.on_a_net, pin.on_a_net):
            strange[ref.device] = ref
        else:
            alike.add(ref.device)
    if len(alike) < MANY:
        return False
    if there.function in AT_MAINS:
        gives = {ref.device for ref in queries.net(at) if is_supply_return(queries, ref)}
        return bool(gives) and at.device not in gives
    tells = any(
        (port := queries.port(ref.port_ref)) is not None and port.end == "device"
        for ref in strange.values()
    )
    return tells and len(alike) > 2 * len(strange)


def _mains_behind_contacts(
    queries: Queries, device: str, port: Port
) -> Iterator[tuple[PinRef, PinRef]]:
    """The pins of a port that are not made for mains and to which a fuse or a contact brings it,
    each with the pole that it comes from.
    """
    for pin in port.pins:
        at = PinRef(device=device, port=port.id, pin=pin.id)
        if not queries.steps(at):
            continue
        poles = [ref for ref in poles_on_rail(queries, queries.rail(at)[0]) if ref.device != device]
        if poles and is_not_for_mains(queries, at):
            yield at, poles[0]


@rule(
    id="ports.half-joined",
    consequence="Won't run",
    scope="device",
    title="A contact or fuse is joined at one end only",
    reason="Current goes in at one end and out at the other; with one end open nothing does.",
    source="The machine's own conductors.",
)
def half_joined(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None:
        return
    told = Contact | Fuse | Diode | Resistor if part.kind in IN_LINE else Contact
    is_in_lines = part.kind in IN_LINE or part.kind in WITH_CONTACTS
    elements = [e for e in part.inside if is_in_lines and isinstance(e, told)]
    joined = {
        at: has_own_way(queries, PinRef(device=device, port=at[0], pin=at[1]))
        for element in elements
        for at in element.pins
    }
    # A changeover contact shares its common: one of its two throws is enough.
    worked = {at for e in elements if all(joined[at] for at in e.pins) for at in e.pins}
    # So do the relays of a board that have one terminal for all of them.
    bridged = [e.pins for e in part.inside if isinstance(e, Bridge)]
    worked |= {at for pins in bridged if worked & set(pins) for at in pins}
    open_at: dict[PinAt, list[PinAt]] = {}
    for element in elements:
        for at, other in (element.pins, element.pins[::-1]):
            if joined[at] and at not in worked and not joined[other]:
                # A contact that rests closed tells when its wire comes off: it is named first.
                others = open_at.setdefault(at, [])
                rests_closed = isinstance(element, Contact) and element.rest == "NC"
                others.insert(0 if rests_closed else len(others), other)
    # The throws of a contact whose common is open are one thing to mend.
    missing: dict[tuple[PinAt, ...], list[PinAt]] = {}
    for at, others in open_at.items():
        missing.setdefault(tuple(others), []).append(at)
    ports = Counter(joined_at[0][0] for joined_at in missing.values())
    for ends, joined_at in missing.items():
        here, *more = (PinRef(device=device, port=port, pin=pin) for port, pin in joined_at)
        there = [PinRef(device=device, port=port, pin=pin) for port, pin in ends]
        yield RuleOutput(
            f"{device} {here.port} is joined at "
            f"{in_a_row([pin_text(queries, ref) for ref in (here, *more)])} only; nothing comes to "
            f"{' or '.join(pin_text(queries, ref) for ref in there)}.",
            tuple(map(about, (here, *more, *there))),
            at=(about(here),),
            detail=here.pin if ports[here.port] > 1 else "",
            fixes=_to_the_input_beside(queries, here, there[0]),
            unfinished=is_to_be_fed(queries, device),
        )


def _to_the_input_beside(queries: Queries, here: PinRef, there: PinRef) -> tuple[Fix, ...]:
    """The open end of a contact joined to the input of the port at which its other end lies, where
    nothing comes to that.
    """
    for step in queries.steps(here):
        port = queries.port(step.end.port_ref)
        for pin in port.pins if port is not None and port.end == "host" else ():
            goal = PinRef(device=step.end.device, port=step.end.port, pin=pin.id)
            if isinstance(pin.electrical, LogicInput) and not queries.steps(goal):
                words = f"join {pin_in_words(queries, there)} to {pin_in_words(queries, goal)}"
                return (Fix(words=words, remedy=PutConductor(first=there, second=goal)),)
    return ()


# Functions of pins whose levels or currents the rules compare.
WITH_LIMITS = (
    "signal", "step", "direction", "enable", "pulse width", "encoder A", "encoder B", "hall U",
)  # fmt: skip


@rule(
    id="ports.not-given",
    consequence="Workmanship",
    scope="device",
    title="What a device's pins give or bear is not given",
    reason="Levels, currents and voltages are compared only where the part says them. What is not "
    "given passes in silence; its manual has it.",
    source="The part's own pins.",
)
def not_given(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    missing: dict[str, None] = {}
    for port in part.ports if part else ():
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            bare = pin.electrical is None and pin.function in WITH_LIMITS
            bare = bare and port.kind not in SEATED
            if bare and port.end != "through" and pins_it_meets(queries, at):
                missing[port.id] = None
    if missing:
        names = list(missing)
        more = f" and {len(names) - 3} more" if len(names) > 3 else ""
        yield RuleOutput(
            f"What {', '.join(names[:3])}{more} of {device} give or bear is not given: it is not "
            "checked.",
            (about(device),),
        )
    is_unrated = part is not None and part.stepper is not None and part.stepper.current_a is None
    if is_unrated and (drivers := drivers_of(queries, device)):
        yield RuleOutput(
            f"The rated current of {device} is not given: what {drivers[0]} is set to is not "
            "compared with it.",
            (about(device), about(drivers[0])),
            detail="current",
        )


RULES = (need, not_given, foot, partner, half_joined)
