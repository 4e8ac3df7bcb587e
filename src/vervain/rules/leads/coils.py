"""Rules about leads and windings."""

from collections.abc import Iterator

from vervain.leads.motors import printed_coils
from vervain.leads.winding_connection import left_open
from vervain.leads.windings import advised_exchange, tried_coils, windings_of
from vervain.model.electrical import LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PortKind
from vervain.queries.connectivity import drivers_of, paths_from, steps_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import ExchangePins
from vervain.rules.rule import RuleOutput, rule
from vervain.text.words import in_a_row

# What a sensor says; complements, index and alarm may stay open.
SIGNALS = ("signal", "encoder A", "encoder B")
OPEN_BY_DESIGN = ("centre tap A", "centre tap B", "shield", "none")


@rule(
    id="leads.split-coil",
    consequence="Won't run",
    scope="device",
    title="A coil pair is split over two phases",
    reason="Each bridge of the driver would push its current into the other phase through the "
    "windings. The motor buzzes and holds nothing; the driver trips or overheats.",
    source="Derivation: two-phase chopper bridges; the windings as the part gives them.",
)
def split_coil(queries: Queries, device: str) -> Iterator[RuleOutput]:
    windings = windings_of(queries, device)
    split = [winding for winding in windings if winding.is_split]
    part = queries.part_of(device)
    if not split or part is None or part.stepper is None or part.stepper.phases != 2:
        return
    mend = advised_exchange(queries, device)
    fixes: tuple[Fix, ...] = ()
    leads = " and ".join(ref.pin for ref in split[0].leads)
    if mend is not None:
        words = f"{mend[0].pin} and {mend[1].pin} change places"
        remedy = exchange(queries, *mend)
        leads = f"{mend[0].pin} and {mend[1].pin}"
        if remedy is not None:
            fixes = (Fix(words=words, remedy=remedy),)
    sentence = (
        f"The coils of {device} are split: {leads} have changed places."
        if mend
        else f"The coils of {device} are split: {leads} are on different phases."
    )
    yield RuleOutput(
        sentence,
        (about(device), *(about(ref) for winding in split for ref in winding.leads)),
        why=_by_what(queries, device),
        fixes=fixes,
    )


def _by_what(queries: Queries, device: str) -> str:
    found = queries.device(device)
    if found is not None and found.coils_printed:
        return "By the colours printed on the motor; not measured."
    if found is None or not found.coils:
        if found is not None and tried_coils(found.trials, printed_coils(queries, device)):
            return "By what the motor did in other orders of its leads; not measured."
        return "By the part's datasheet; not measured."
    days = sorted(reading.day for reading in found.readings if reading.day)
    return f"By {len(found.readings)} readings{' of ' + days[-1] if days else ''}."


def exchange(queries: Queries, first: PinRef, second: PinRef) -> ExchangePins | None:
    """The exchange of two leads in the hookup that both go into; None where they share none."""
    hookups = {step.hookup for step in steps_from(queries, first)}
    for step in steps_from(queries, second):
        hookup = queries.hookup(step.hookup)
        if step.hookup in hookups and hookup is not None:
            side = "a" if hookup.a == first.port_ref else "b"
            return ExchangePins(hookup=step.hookup, side=side, first=first.pin, second=second.pin)
    return None


@rule(
    id="leads.left-off",
    consequence="Won't run",
    scope="device",
    title="A motor lead is left off",
    reason="With one end of a winding open no current can flow in it; a stepper then has one "
    "phase only, and jerks back and forth or stands still.",
    source="Kirchhoff's current law.",
)
def left_off(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "stepper motor":
        return
    for port in part.ports:
        pins = [
            PinRef(device=device, port=port.id, pin=pin.id)
            for pin in port.pins
            if pin.function not in OPEN_BY_DESIGN
        ]
        meant = left_open(queries, device)
        loose = [pin for pin in pins if not steps_from(queries, pin) and pin.pin not in meant]
        if loose and len(loose) < len(pins):
            verb = "is" if len(loose) == 1 else "are"
            yield RuleOutput(
                f"{in_a_row([pin.pin for pin in loose])} of {device} {verb} joined to nothing.",
                (about(device), *map(about, loose)),
                detail=port.id,
            )


@rule(
    id="leads.two-drivers",
    consequence="Damage",
    scope="device",
    title="The leads of one motor go to two drivers",
    reason="A winding between the outputs of two drivers gets the difference of what both do, "
    "which neither measures, and a current that neither limits.",
    source="Derivation: each driver closes the loop of its current over its own outputs.",
)
def two_drivers(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    leads = [
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in (part.ports if part is not None else ())
        if port.kind == "motor phases" and port.end == "device"
        for pin in port.pins if pin.function.startswith("phase")
    ]  # fmt: skip
    # Two sockets of one driver are joined on its board.
    reached = [found for lead in leads if (found := _driving_ports(queries, lead))]
    if reached and not frozenset.intersection(*reached):
        ports = sorted(
            {ref for found in reached for ref in found}, key=lambda r: (r.device, r.port)
        )
        yield RuleOutput(
            f"The leads of {device} go to "
            f"{' and '.join(f'{ref.device} {ref.port}' for ref in ports)}.",
            (about(device), *map(about, ports)),
            at=tuple(map(about, ports)),
        )


def _driving_ports(queries: Queries, lead: PinRef) -> frozenset[PortRef]:
    """The ports of drivers whose outputs a motor's lead reaches."""
    return frozenset(
        ref.port_ref for ref in queries.net(lead)
        if (port := queries.port(ref.port_ref)) is not None
        and port.kind == "motor phases" and port.end == "host"
        and (pin := queries.pin(ref)) is not None and pin.function.startswith("phase")
    )  # fmt: skip


@rule(
    id="leads.phases",
    consequence="Won't run",
    scope="device",
    title="The motor's phases differ from the driver's",
    reason="A three-phase stepper needs three half-bridges 120° apart, a two-phase one two full "
    "bridges 90° apart; neither turns on the other's driver.",
    source="Derivation: phase shift of the winding currents.",
)
def phases(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.stepper is None:
        return
    for name in drivers_of(queries, device):
        driver = queries.part_of(name)
        if driver is not None and driver.driver and driver.driver.phases != part.stepper.phases:
            yield RuleOutput(
                f"{device} has {part.stepper.phases} phases; {name} drives {driver.driver.phases}.",
                (about(device), about(name)),
                at=(about(name),),
            )


@rule(
    id="leads.signal-open",
    consequence="Won't run",
    scope="device",
    title="A sensor's signal goes nowhere",
    reason="Fed but not heard: its lamp may well light while the controller never sees it change.",
    source="The functions of the pins; the conductors of the machine.",
)
def signal_open(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    at_work: set[PortKind] = set()
    for port in part.ports if part else ():
        leads = [PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins]
        landed = [any(way.lands for way in paths_from(queries, lead)) for lead in leads]
        # What a sensor gives at a plug of its own is fed by the first.
        is_fed = any(landed) or (
            part is not None and part.kind == "sensor" and port.kind in at_work
        )
        if port.end != "device" or not is_fed:
            continue
        at_work.add(port.kind)
        for pin, lead, lands in zip(port.pins, leads, landed, strict=True):
            says = pin.function in SIGNALS and isinstance(pin.electrical, LogicOutput)
            if says and not lands and not pin.optional:
                yield RuleOutput(
                    f"{pin.text} of {device} goes nowhere.", (about(lead),), detail=pin.id
                )


RULES = (split_coil, left_off, two_drivers, signal_open, phases)
