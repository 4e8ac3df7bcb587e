"""Rules about what arrives: the feed network solved for the operating states."""

from collections.abc import Iterator

from vervain.checks.finding import Fix, about, about_cable
from vervain.checks.remedies import SetGauge, SetSetting
from vervain.checks.rule import Said, rule
from vervain.machine.connectors import connector_of
from vervain.machine.inside import Fuse
from vervain.machine.look import Look
from vervain.machine.machine import PinRef
from vervain.machine.step import ends_of
from vervain.power.copper import ampacity_a
from vervain.supply.account import Arrival, currents_of, drop_limit, source_name, supply_loads
from vervain.supply.choosing import FUSE_LOAD, FUSE_RATINGS_A, gauge_for, gauge_for_current
from vervain.supply.path import arrivals_of, costliest_cable, feed_path
from vervain.supply.states import STATE_WORDS, State, feed_table
from vervain.supply.takes import takes_in

# What a machine may do for long; starting lasts an instant.
LASTING: tuple[State, ...] = ("holding", "moving", "everything")
SUPPLY_UNRELIABLE = 0.8
# How far the voltage of the logic may move, and what moves it.
DROOP_MOST = 0.03
HEAVY = ("stepper driver", "motor bridge", "heater", "brushed motor", "servo", "brake", "valve")


def _worst(look: Look, device: str) -> Iterator[tuple[State, Arrival]]:
    """Each fed pin of a device in the state in which least arrives."""
    rows: dict[PinRef, tuple[State, Arrival]] = {}
    for state in LASTING:
        for row in arrivals_of(look, device, state):
            known = rows.get(row.pin)
            if known is None or (row.lost or 0.0) > (known[1].lost or 0.0):
                rows[row.pin] = state, row
    yield from rows.values()


@rule(
    id="supply.drop",
    stage="Supply",
    consequence="Unreliable",
    scope="machine",
    title="Too much of the voltage is lost on the way",
    reason="Cores, contacts and fuses there and back take their share of the voltage, the more the "
    "more they carry. What is left moves with the load: motors lose steps, logic restarts.",
    source="5 % of the supply's voltage, 3 % up to 12 V and for logic, servos and encoders; cores "
    "at 60 °C, plus and return together (IEC 60228, data/tables/copper.toml).",
)
def drop(look: Look, _: str) -> Iterator[Said]:
    groups: dict[str, list[tuple[State, Arrival]]] = {}
    for device in look.devices():
        for state, row in _worst(look, device):
            fares = row.status == "on" and row.volts is not None and row.volts >= row.least_v
            if fares and row.lost is not None and row.lost > drop_limit(row):
                path = feed_path(look, state, row.pin)
                costly = costliest_cable(look, path) if path is not None else None
                groups.setdefault(costly[0] if costly else device, []).append((state, row))
    for where, rows in groups.items():
        state, row = max(rows, key=lambda item: (item[1].lost or 0.0) / drop_limit(item[1]))
        first = row.pin.device
        others = list(dict.fromkeys(r.pin.device for _, r in rows if r.pin.device != first))
        listed = [", ".join(others[:-1]), others[-1]] if len(others) > 1 else others
        more = f"; {' and '.join(listed)} as well" if others else ""
        chosen = gauge_for(look, state, row)
        fixes: tuple[Fix, ...] = ()
        if chosen is not None:
            words = f"take {chosen[1]:g} mm² for {chosen[0]}"
            fixes = (Fix(words=words, remedy=SetGauge(cable=chosen[0], core_mm2=chosen[1])),)
        yield Said(
            f"{first} gets {row.volts or 0:.3g} of {row.source_v or 0:g} V{more}.",
            (about(row.pin), *(about(name) for name in others)),
            detail=where,
            why=f"{STATE_WORDS[state]}: {row.amps:.2f} A from {source_name(look, row.source)}.",
            value=round((row.lost or 0.0) * 100, 2),
            limit=drop_limit(row) * 100,
            unit="%",
            fixes=fixes,
        )


@rule(
    id="supply.too-low",
    stage="Supply",
    consequence="Won't run",
    scope="device",
    title="What arrives is below what a device needs",
    reason="Below its least voltage it does not start, or drops out when the machine moves. A load "
    "that takes constant power takes more current the less voltage it gets, until both give way.",
    source="Supply voltage less its tolerance, less what is lost on the way, against the least "
    "voltage of the part.",
)
def too_low(look: Look, device: str) -> Iterator[Said]:
    for state, row in _worst(look, device):
        if row.volts is None or row.source_v is None or row.source is None or row.volts < 0:
            continue
        source = look.pin(row.source)
        tolerance = getattr(source.electrical, "tolerance", 0.0) if source else 0.0
        if row.source_v * (1 - tolerance) < row.least_v:
            continue
        left = row.volts - row.source_v * tolerance
        # No voltage at all is an open contact, which is for the rules of contacts to judge.
        if row.volts < 0.02 * row.source_v or (row.status == "on" and left >= row.least_v):
            continue
        name = source_name(look, row.source)
        sentence = f"{device} {row.pin.port} gets too little from {name} to run."
        if row.status == "collapses":
            sentence = f"The feed of {device} {row.pin.port} collapses under its load."
        yield Said(
            sentence,
            (about(row.pin), about(row.source)),
            detail=row.pin.port,
            why=f"{STATE_WORDS[state]}.",
            value=round(left, 2) if row.status == "on" else None,
            limit=row.least_v if row.status == "on" else None,
            unit="V",
            over=False,
        )


@rule(
    id="supply.no-return",
    stage="Supply",
    consequence="Won't run",
    scope="device",
    title="A feed has no way back",
    reason="Current flows in a circle. The plus conductor arrives, but nothing leads from the "
    "minus back to the supply that it comes from.",
    source="The machine's own conductors.",
)
def no_return(look: Look, device: str) -> Iterator[Said]:
    rows = [r for r in arrivals_of(look, device, "everything") if r.status == "no way back"]
    if rows:
        yield Said(
            f"{device} has no way back to {source_name(look, rows[0].source)}.",
            tuple(about(row.pin) for row in rows),
        )


@rule(
    id="supply.budget",
    stage="Supply",
    consequence="Won't run",
    scope="device",
    title="A supply is asked for more than it gives",
    reason="Over its rating a supply limits or switches off, and everything on it drops out "
    "together; above 80 % for long it runs hot and has nothing left for start-up.",
    source="The feed network's current in the worst state against the rating; 80 % by practice.",
)
def budget(look: Look, device: str) -> Iterator[Said]:
    worst: dict[PinRef, tuple[State, float, float]] = {}
    for state in LASTING:
        for load in supply_loads(look, state):
            if load.pin.device == device and load.amps > worst.get(load.pin, (state, 0.0, 0.0))[1]:
                worst[load.pin] = state, load.amps, load.rated_a
    for pin, (state, amps, rated) in worst.items():
        name, words = source_name(look, pin), STATE_WORDS[state].lower()
        if amps > rated:
            outcome = "drops out" if amps > feed_table().limit_factor * rated else "is overloaded"
            yield Said(
                f"{name} {outcome}: {words}.",
                (about(pin),),
                detail=pin.port,
                value=round(amps, 3),
                limit=rated,
                unit="A",
                why=f"A fifth in reserve wants one for {amps / SUPPLY_UNRELIABLE:.2g} A.",
            )
        elif amps > SUPPLY_UNRELIABLE * rated:
            yield Said(
                f"{name} is above 80 %: {words}.",
                (about(pin),),
                detail=pin.port,
                value=round(amps, 3),
                limit=round(SUPPLY_UNRELIABLE * rated, 3),
                unit="A",
                consequence="Unreliable",
            )


@rule(
    id="supply.start-up",
    stage="Supply",
    consequence="Unreliable",
    scope="device",
    title="Start-up asks a supply for more than it gives",
    reason="For an instant motors stand, lamps are cold and coils pull in. A supply that limits "
    "then drops its voltage for everything on it.",
    source="The feed network with the parts' inrush and standing currents against the rating.",
)
def start_up(look: Look, device: str) -> Iterator[Said]:
    lasting = {load.pin: load.amps for load in supply_loads(look, "everything")}
    for load in supply_loads(look, "start"):
        if load.pin.device != device or load.amps <= load.rated_a:
            continue
        if lasting.get(load.pin, 0.0) <= load.rated_a:
            yield Said(
                f"{source_name(look, load.pin)} cannot give what start-up asks for.",
                (about(load.pin),),
                detail=load.pin.port,
                value=round(load.amps, 3),
                limit=load.rated_a,
                unit="A",
            )


@rule(
    id="supply.core-current",
    stage="Supply",
    consequence="Damage",
    scope="cable",
    title="A core carries more than it may",
    reason="Its insulation softens, in a bundle first. Everything that hangs on a daisy chain runs "
    "through its first conductor.",
    source="Current a core may carry (PVC 70 °C at 40 °C, data/tables/copper.toml), with the "
    "loaded circuits of its cable; motor leads count with the peak. The local code rules.",
)
def core_current(look: Look, cable_id: str) -> Iterator[Said]:
    cable = look.cable(cable_id)
    part = look.cable_part(cable.part) if cable else None
    if part is None:
        return
    loaded = [(abs(amps), core) for amps, core in _cores(look, cable_id) if abs(amps) > 0.01]
    limit = ampacity_a(part.core_mm2, circuits=max(1, (len(loaded) + 1) // 2))
    if not loaded or limit is None:
        return
    amps, core = max(loaded)
    if amps > limit:
        wanted = gauge_for_current(amps * (ampacity_a(part.core_mm2) or limit) / limit)
        fixes: tuple[Fix, ...] = ()
        if wanted is not None and wanted > part.core_mm2:
            remedy = SetGauge(cable=cable_id, core_mm2=wanted)
            fixes = (Fix(words=f"take {wanted:g} mm² for {cable_id}", remedy=remedy),)
        yield Said(
            f"Core {core} of {cable_id} carries more than {part.core_mm2:g} mm² may.",
            (about_cable(cable_id, core),),
            value=round(amps, 3),
            limit=round(limit, 3),
            unit="A",
            fixes=fixes,
        )


def _cores(look: Look, cable_id: str) -> Iterator[tuple[float, int]]:
    """The largest lasting current of each core of a cable."""
    amps: dict[int, float] = {}
    hookups = {hookup.id: hookup for hookup in look.hookups_in(cable_id)}
    for state in LASTING:
        for hookup in hookups.values():
            for current in currents_of(look, hookup.id, state):
                core = hookup.conductors[current.number].core
                if core is not None:
                    amps[core] = max(amps.get(core, 0.0), current.amps)
    for hookup in hookups.values():
        for conductor in hookup.conductors:
            peak = max((_peak(look, ref) for ref in ends_of(hookup, conductor)), default=0.0)
            if conductor.core is not None and peak:
                amps[conductor.core] = max(amps.get(conductor.core, 0.0), peak)
    yield from ((value, core) for core, value in amps.items())


def _peak(look: Look, ref: PinRef) -> float:
    """The peak current of a driver's motor terminal; 0 elsewhere."""
    pin, port = look.pin(ref), look.port(ref.port_ref)
    if pin is None or port is None or port.end != "host" or not pin.function.startswith("phase"):
        return 0.0
    peak = look.setting(ref.device, "current_peak_a")
    return float(peak) if isinstance(peak, int | float) else 0.0


@rule(
    id="supply.contact-current",
    stage="Supply",
    consequence="Damage",
    scope="device",
    title="A contact carries more than it may",
    reason="A contact that is too small grows hot, which loosens it, which makes it hotter.",
    source="What one contact of the family carries, data/tables/connectors.toml.",
)
def contact_current(look: Look, device: str) -> Iterator[Said]:
    worst: dict[PinRef, float] = {}
    for state in LASTING:
        for hookup in look.hookups_of(device):
            for current in currents_of(look, hookup.id, state):
                for ref in (current.a, current.b):
                    if ref.device == device:
                        worst[ref] = max(worst.get(ref, 0.0), current.amps)
    for ref, amps in worst.items():
        port = look.port(ref.port_ref)
        family = connector_of(port.connector) if port else None
        most = family.contact_max_a if family else None
        if most is not None and amps > most:
            yield Said(
                f"A contact of {device} {ref.port} carries more than it may.",
                (about(ref),),
                detail=f"{ref.port} {ref.pin}",
                value=round(amps, 3),
                limit=most,
                unit="A",
            )


@rule(
    id="supply.fuse-load",
    stage="Supply",
    consequence="Unreliable",
    scope="device",
    title="A fuse is too small for its load",
    reason="A blade fuse that carries more than three quarters of its rating for long grows hot "
    "and blows some day without a fault; above its rating it blows soon.",
    source="Load <= 0.75 I_n (UL 248-14).",
)
def fuse_load(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    rating = look.setting(device, "rating_a")
    fuses = [element for element in (part.inside if part else ()) if isinstance(element, Fuse)]
    if not fuses or not isinstance(rating, int | float):
        return
    amps = max(
        (
            current.amps
            for state in LASTING
            for current in currents_of(look, device, state)
            if current.kind == "fuse"
        ),
        default=0.0,
    )
    if amps <= FUSE_LOAD * rating:
        return
    suited = next((r for r in FUSE_RATINGS_A if amps <= FUSE_LOAD * r), None)
    fixes: tuple[Fix, ...] = ()
    if suited is not None:
        remedy = SetSetting(device=device, key="rating_a", value=float(suited))
        fixes = (Fix(words=f"fit a {suited:g} A fuse", remedy=remedy),)
    yield Said(
        f"{device} carries {amps:.3g} A of its {rating:g} A.",
        (about(device),),
        value=round(amps, 3),
        limit=round(FUSE_LOAD * rating, 3),
        unit="A",
        consequence="Won't run" if amps > rating else "Unreliable",
        fixes=fixes,
    )


@rule(
    id="supply.servo-on-logic",
    stage="Supply",
    consequence="Unreliable",
    scope="device",
    title="A servo hangs on a logic regulator",
    reason="A servo takes its current in gulps. On the regulator that feeds the processor each "
    "gulp is a dip of the processor's own voltage.",
    source="Derivation: one regulator, two loads; the servo's current against the outlet's rating.",
)
def servo_on_logic(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or part.kind != "servo":
        return
    for row in arrivals_of(look, device, "everything"):
        source = look.part_of(row.source.device) if row.source else None
        if row.source is not None and source is not None and source.kind == "controller":
            yield Said(
                f"{device} is fed from the logic of {row.source.device}.",
                (about(row.pin), about(row.source)),
                detail=row.source.device,
            )


@rule(
    id="supply.shared-rail",
    stage="Supply",
    consequence="Unreliable",
    scope="device",
    title="Logic hangs on a rail that the motors pull down",
    reason="A board with an input of its own for the logic can keep it on a feed of its own. On "
    "the motors' feed the logic sees every start, and restarts when one is too long.",
    source="The voltage at the logic input with the machine at work against that at rest: 3 %.",
)
def shared_rail(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    feeds = [port.id for port in (part.ports if part else ()) if port.kind == "feed in"]
    if part is None or part.kind != "controller" or len(feeds) < 2:
        return
    at_rest = {row.pin: row for row in arrivals_of(look, device, "idle")}
    for state, row in _worst(look, device):
        quiet = at_rest.get(row.pin)
        if quiet is None or quiet.volts is None or row.volts is None or not row.source_v:
            continue
        droop = (quiet.volts - row.volts) / row.source_v
        if droop > DROOP_MOST and _feeds_motors(look, row.source):
            yield Said(
                f"The logic of {device} droops with what else hangs on "
                f"{source_name(look, row.source)}.",
                (about(row.pin),),
                detail=row.pin.port,
                why=f"{STATE_WORDS[state]} against idle.",
                value=round(droop * 100, 2),
                limit=DROOP_MOST * 100,
                unit="%",
            )


def _feeds_motors(look: Look, source: PinRef | None) -> bool:
    """Whether drivers, motors or heaters hang on a source."""
    for load in supply_loads(look, "everything"):
        for name, _ in load.shares if load.pin == source else ():
            part = look.part_of(name)
            if part is not None and part.kind in HEAVY:
                return True
    return False


@rule(
    id="supply.headroom",
    stage="Supply",
    consequence="Unreliable",
    scope="device",
    title="A driver has no headroom above its supply",
    reason="A motor that brakes feeds its energy back and raises the supply's voltage. Without a "
    "tenth of headroom the driver trips, or breaks.",
    source="V_supply,max x 1.10 <= the driver's maximum.",
)
def headroom(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or part.driver is None:
        return
    for take in takes_in(look, device, "everything"):
        row = next((r for r in arrivals_of(look, device, "everything") if r.pin == take.plus), None)
        if row is None or row.source is None or row.source_v is None:
            continue
        source = look.pin(row.source)
        tolerance = getattr(source.electrical, "tolerance", 0.0) if source else 0.0
        top = row.source_v * (1 + tolerance)
        if top <= take.most_v < top * 1.10:
            yield Said(
                f"{device} takes {take.most_v:g} V at most; braking may raise its feed to "
                f"{top * 1.10:.3g} V.",
                (about(row.pin), about(row.source)),
                detail=row.pin.port,
                value=round(top * 1.10, 2),
                limit=take.most_v,
                unit="V",
            )


RULES = (
    drop,
    too_low,
    no_return,
    budget,
    start_up,
    core_current,
    contact_current,
    fuse_load,
    servo_on_logic,
    shared_rail,
    headroom,
)
