"""Rules about supplies, feeds, fuses and driver currents."""

import math
from collections.abc import Iterator

from vervain.checks.finding import Fix, about, about_cable
from vervain.checks.remedies import ExchangePins, SetSetting
from vervain.checks.rule import Said, rule
from vervain.leads.use import motor_use, uses_of
from vervain.machine.electrical import FeedIn, FeedOut
from vervain.machine.look import Look
from vervain.machine.machine import PinRef, PortRef
from vervain.machine.reach import drivers_of, motors_of, neighbours_at, steps_from, ways_from
from vervain.power.copper import ampacity_a
from vervain.power.feeds import (
    PLUS_FUNCTIONS,
    RETURN_FUNCTIONS,
    downstream_pins,
    sources_of,
)
from vervain.supply.choosing import FUSE_LOAD, FUSE_RATINGS_A


def _fed_pins(look: Look, device: str) -> Iterator[tuple[PinRef, FeedIn, PinRef | None]]:
    """Plus pins that take power, and the return pin of the same port."""
    part = look.part_of(device)
    for port in part.ports if part else ():
        back = next((pin for pin in port.pins if pin.function in RETURN_FUNCTIONS), None)
        for pin in port.pins:
            if isinstance(pin.electrical, FeedIn) and pin.function in PLUS_FUNCTIONS:
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                other = PinRef(device=device, port=port.id, pin=back.id) if back else None
                yield ref, pin.electrical, other


def _sources_at(look: Look, device: str) -> Iterator[tuple[PinRef, FeedOut]]:
    """Pins of a device that give power; of those joined by copper the first."""
    part = look.part_of(device)
    seen: set[PinRef] = set()
    for port in part.ports if part else ():
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            if isinstance(pin.electrical, FeedOut) and look.net(ref)[0] not in seen:
                seen.add(look.net(ref)[0])
                yield ref, pin.electrical


@rule(
    id="supply.voltage",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="The feed is outside the device's window",
    reason="Above its window a device is destroyed; below it, it does not start or drops out.",
    source="The part's own limits against the source's nominal voltage and tolerance.",
)
def voltage(look: Look, device: str) -> Iterator[Said]:
    for ref, feed, _ in _fed_pins(look, device):
        for source in sources_of(look, ref):
            high = source.feed.nominal_v * (1 + source.feed.tolerance)
            low = source.feed.nominal_v * (1 - source.feed.tolerance)
            name = source.pin.device
            if high > feed.v_max_v:
                yield Said(
                    f"{device} gets {source.feed.nominal_v:g} V from {name}; it takes at most "
                    f"{feed.v_max_v:g} V.",
                    (about(ref), about(name)),
                    detail=f"{ref.port}:{name}:over",
                    value=high,
                    limit=feed.v_max_v,
                    unit="V",
                )
            elif low < feed.v_min_v:
                yield Said(
                    f"{device} gets {source.feed.nominal_v:g} V from {name}; it needs at least "
                    f"{feed.v_min_v:g} V.",
                    (about(ref), about(name)),
                    detail=f"{ref.port}:{name}:under",
                    value=low,
                    limit=feed.v_min_v,
                    unit="V",
                    over=False,
                    consequence="Won't run",
                )


@rule(
    id="supply.unfed",
    stage="Supply",
    consequence="Won't run",
    scope="device",
    title="A device gets no power",
    reason="Nothing on its plus conductor leads to a supply, even with every fuse whole and "
    "every contact closed.",
    source="The machine's own conductors.",
)
def unfed(look: Look, device: str) -> Iterator[Said]:
    for ref, _, back in _fed_pins(look, device):
        port = look.port(ref.port_ref)
        joined = steps_from(look, ref) or (back is not None and steps_from(look, back))
        if port is None or (not joined and (port.optional or port.kind != "feed in")):
            continue
        lands = any(way.lands for way in ways_from(look, ref))
        others = (PinRef(device=device, port=port.id, pin=pin.id) for pin in port.pins)
        if any(sources_of(look, other) for other in others):
            continue
        if lands or port.kind == "feed in":
            yield Said(f"{device} {ref.port} gets no power.", (about(ref),), detail=ref.port)


@rule(
    id="supply.polarity",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="Plus and minus are exchanged",
    reason="Reversed, the input conducts through its protection or its capacitors, until the "
    "fuse blows or the device does.",
    source="Derivation: the return pin lies on the source's plus.",
)
def polarity(look: Look, device: str) -> Iterator[Said]:
    for ref, feed, back in _fed_pins(look, device):
        if back is None or feed.polarity_free:
            continue
        if sources_of(look, ref) or not sources_of(look, back):
            continue
        source = sources_of(look, back)[0]
        fix = _exchange(look, ref, back)
        yield Said(
            f"{device} is fed the wrong way round: plus of {source.pin.device} is on its minus.",
            (about(ref), about(back), about(source.pin)),
            detail=ref.port,
            fixes=(fix,) if fix else (),
        )


def _exchange(look: Look, plus: PinRef, back: PinRef) -> Fix | None:
    for step in steps_from(look, plus):
        hookup = look.hookup(step.hookup)
        if hookup is None or step.hookup not in {s.hookup for s in steps_from(look, back)}:
            continue
        side = "a" if hookup.a == plus.port_ref else "b"
        remedy = ExchangePins(hookup=step.hookup, side=side, first=plus.pin, second=back.pin)
        return Fix(words=f"exchange the two conductors at {plus.device} {plus.port}", remedy=remedy)
    return None


@rule(
    id="supply.two-sources",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="Two supplies are joined plus to plus",
    reason="The higher one feeds back into the lower, whose regulation was not made for it.",
    source="Derivation: one rail, two regulated sources without decoupling.",
)
def two_sources(look: Look, device: str) -> Iterator[Said]:
    for ref, _ in _sources_at(look, device):
        own = (device, look.net(ref)[0])
        others = [s for s in sources_of(look, ref) if (s.pin.device, look.net(s.pin)[0]) != own]
        if others and ref == min([ref, *(s.pin for s in others)], key=_name):
            names = " and ".join([device, *(source.pin.device for source in others)])
            yield Said(
                f"{names} are joined plus to plus.",
                (about(ref), *(about(source.pin) for source in others)),
                detail=ref.port,
            )


def _name(ref: PinRef) -> tuple[str, str, str]:
    return ref.device, ref.port, ref.pin


@rule(
    id="supply.no-rating",
    stage="Supply",
    consequence="Workmanship",
    scope="device",
    title="A rating is not given",
    reason="Without the current that a device takes, its supply cannot be added up.",
    source="The part's own data.",
)
def no_rating(look: Look, device: str) -> Iterator[Said]:
    for ref, feed, _ in _fed_pins(look, device):
        if feed.current_a is None:
            yield Said(
                f"How much current {device} takes is not given.", (about(ref),), detail=ref.port
            )


@rule(
    id="supply.driver-current",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="The driver's current does not suit the motor",
    reason="More than the rated current overheats the windings and weakens the magnets; less "
    "than half of it wastes the motor and loses steps.",
    source="A chopper's RMS is its peak / sqrt(2); a peak up to sqrt(2) times the rated RMS "
    "current is inside the rating.",
)
def driver_current(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or part.stepper is None:
        return
    use = motor_use(look, device)
    rated_a = use.current_a if use is not None else part.stepper.current_a
    used = f", {use.kind}" if use is not None and uses_of(look, device) else ""
    for name in drivers_of(look, device):
        driver = look.part_of(name)
        peak = look.setting(name, "current_peak_a")
        if driver is None or driver.driver is None or not isinstance(peak, int | float):
            continue
        # Motors in parallel on one driver share its current.
        sharing = max(1, len(motors_of(look, name)))
        limit = math.sqrt(2) * rated_a
        most = min(limit * sharing, driver.driver.current_max_peak_a)
        suited = math.floor(most * 10) / 10
        fix = Fix(
            words=f"set {name} to {suited:g} A peak",
            remedy=SetSetting(device=name, key="current_peak_a", value=suited),
        )
        share = peak / sharing
        given = f"{name} is set to {peak:g} A peak"
        if sharing > 1:
            given += f", {share:.3g} A for each of {sharing} motors"
        if share > limit * 1.0001:
            yield Said(
                f"{given}; {device} takes {limit:.3g} A peak ({rated_a:.3g} A RMS{used}).",
                (about(name), about(device)),
                detail=f"{name}:over",
                value=float(share),
                limit=limit,
                unit="A",
                fixes=(fix,),
            )
        elif share < limit / 2:
            yield Said(
                f"{given}, below half of what {device} is rated for.",
                (about(name), about(device)),
                detail=f"{name}:under",
                value=float(share),
                limit=limit / 2,
                unit="A",
                over=False,
                consequence="Unreliable",
                fixes=(fix,) if suited > peak else (),
            )


@rule(
    id="supply.bridge-duty",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="A bridge gives a motor more than its voltage",
    reason="A brushed motor takes the battery's voltage times the duty on the average. Above its "
    "rating it overheats; its commutator and its gears wear out.",
    source="Mean voltage = supply voltage x duty; the motor's own limit.",
)
def bridge_duty(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    duty = look.setting(device, "duty_max")
    if part is None or part.kind != "motor bridge" or not isinstance(duty, int | float):
        return
    feeds = [s.feed for ref, _, _ in _fed_pins(look, device) for s in sources_of(look, ref)]
    if not feeds:
        return
    top = max(feed.nominal_v * (1 + feed.tolerance) for feed in feeds)
    for ref, motor in _bridge_motors(look, device):
        mean_v = top * duty / 100
        if mean_v <= motor.v_max_v:
            continue
        suited = math.floor(motor.v_max_v / top * 100)
        fix = Fix(
            words=f"limit the duty of {device} to {suited} %",
            remedy=SetSetting(device=device, key="duty_max", value=float(suited)),
        )
        yield Said(
            f"{device} gives {ref.device} up to {mean_v:.3g} V; it takes {motor.v_max_v:g} V.",
            (about(device), about(ref)),
            detail=ref.device,
            value=round(mean_v, 3),
            limit=motor.v_max_v,
            unit="V",
            fixes=(fix,),
        )


def _bridge_motors(look: Look, bridge: str) -> Iterator[tuple[PinRef, FeedIn]]:
    """The motors on the outputs of a bridge, with the window of their voltage."""
    part = look.part_of(bridge)
    for port in part.ports if part else ():
        if port.kind != "bridge output":
            continue
        for ref in neighbours_at(look, PortRef(device=bridge, port=port.id)):
            motor_port = look.port(ref)
            for pin in motor_port.pins if motor_port else ():
                if isinstance(pin.electrical, FeedIn):
                    yield PinRef(device=ref.device, port=ref.port, pin=pin.id), pin.electrical


@rule(
    id="supply.fuse",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="A fuse is larger than its wire",
    reason="In a short the wire must outlast the fuse. A wire that may carry less than the fuse's "
    "rating burns first.",
    source="I_n <= I_z (IEC 60364-4-43); I_z of PVC cores at 40 °C, data/tables/copper.toml; the "
    "local code rules.",
)
def fuse(look: Look, device: str) -> Iterator[Said]:
    rating = look.setting(device, "rating_a")
    behind = set(downstream_pins(look, device))
    if not behind or not isinstance(rating, int | float):
        return
    thinnest: tuple[float, str, float] | None = None
    for ref in sorted(behind, key=_name):
        for step in steps_from(look, ref):
            hookup = look.hookup(step.hookup)
            cable = look.cable(hookup.cable) if hookup and hookup.cable else None
            part = look.cable_part(cable.part) if cable else None
            if cable is None or part is None or step.end not in behind:
                continue
            carries = ampacity_a(part.core_mm2, look.ambient_c())
            if carries is not None and (thinnest is None or carries < thinnest[0]):
                thinnest = (carries, cable.id, part.core_mm2)
    if thinnest is None or rating <= thinnest[0]:
        return
    load = sum(
        pin.electrical.current_a or 0.0
        for ref in behind
        if (pin := look.pin(ref)) is not None
        and isinstance(pin.electrical, FeedIn)
        and pin.function in PLUS_FUNCTIONS
    )
    suited = [r for r in FUSE_RATINGS_A if load <= FUSE_LOAD * r and r <= thinnest[0]]
    fixes: tuple[Fix, ...] = ()
    if suited:
        words = f"fit a {suited[0]:g} A fuse: {load:.3g} A is {load / suited[0]:.0%} of it"
        remedy = SetSetting(device=device, key="rating_a", value=float(suited[0]))
        fixes = (Fix(words=words, remedy=remedy),)
    yield Said(
        f"{device} is larger than {thinnest[1]} can carry.",
        (about(device), about_cable(thinnest[1])),
        value=float(rating),
        limit=thinnest[0],
        unit="A",
        why=f"{thinnest[1]} has {thinnest[2]:g} mm².",
        fixes=fixes,
    )


@rule(
    id="supply.twins",
    stage="Supply",
    consequence="Unreliable",
    scope="axis",
    title="Two drivers of one axis are set differently",
    reason="Motors that pull one axis share its load. With unequal current or microsteps they "
    "pull unequally, and the axis goes askew.",
    source="Derivation: equal torque and equal steps of mechanically joined motors.",
)
def twins(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    drivers: dict[str, None] = {}
    for motor in axis.drives if axis else ():
        drivers.update(dict.fromkeys(drivers_of(look, motor)))
    names = list(drivers)
    for key in ("current_peak_a", "microsteps"):
        values = {name: look.setting(name, key) for name in names}
        if len(set(values.values())) > 1:
            said = ", ".join(f"{name} {value}" for name, value in values.items())
            first, second = names[0], names[1]
            lower = min(values.values(), key=lambda value: float(value or 0))
            if lower is None:
                continue
            target = first if values[first] != lower else second
            fix = Fix(
                words=f"set {target} to {lower} as well",
                remedy=SetSetting(device=target, key=key, value=lower),
            )
            words = "current" if key == "current_peak_a" else "microsteps"
            yield Said(
                f"The drivers of {axis_id} differ in {words}: {said}.",
                (*map(about, names),),
                detail=key,
                fixes=(fix,),
            )


RULES = (
    voltage,
    unfed,
    polarity,
    two_sources,
    no_rating,
    driver_current,
    bridge_duty,
    fuse,
    twins,
)
