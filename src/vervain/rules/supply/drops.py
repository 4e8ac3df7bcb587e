"""Rules about what arrives: the feed network solved for the operating states."""

from collections.abc import Iterator

from msgspec.structs import replace

from vervain.electrical.feeds import loop_end, main_feed_pin, zero_pin_of
from vervain.electrical.unmet_needs import natures, waits_for_a_feed
from vervain.model.electrical import FeedOut
from vervain.model.machine import Conductor, PinRef
from vervain.model.subject import Subject
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.fixes import InTurn, Join, SetGauge
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.loads import demands_in
from vervain.supply.results import DeliveredPower, drop_limit, source_name, supply_loads
from vervain.supply.sizing import gauges_for
from vervain.supply.states import LASTING_STATES, STATE_WORDS, State
from vervain.supply.voltage_profile import (
    arrivals_of,
    costliest,
    feed_path,
    lost_between,
    lost_in_cables,
)
from vervain.text.units import in_area
from vervain.text.words import in_a_row

# What a machine may do for long; starting lasts an instant.
# How far the voltage of the logic may move, and what moves it.
DROOP_MOST = 0.03
# Loads whose current moves the voltage that they share with the logic.
STRONG_LOADS = (
    "stepper driver",
    "motor bridge",
    "heater",
    "brushed motor",
    "servo",
    "brake",
    "valve",
)


def _worst(queries: Queries, device: str) -> Iterator[tuple[State, DeliveredPower]]:
    """Each fed pin of a device in the state in which least arrives."""
    rows: dict[PinRef, tuple[State, DeliveredPower]] = {}
    for state in LASTING_STATES:
        for row in arrivals_of(queries, device, state):
            known = rows.get(row.pin)
            if known is None or (row.lost or 0.0) > (known[1].lost or 0.0):
                rows[row.pin] = state, row
    yield from rows.values()


def _costliest_cable(queries: Queries, state: State, row: DeliveredPower) -> Subject | None:
    """The cable on the way in which most is lost."""
    path = feed_path(queries, state, row.pin)
    most = costliest(lost_in_cables(queries, path)) if path is not None else None
    return about_cable(most[0]) if most is not None else None


def _most_between(queries: Queries, state: State, row: DeliveredPower) -> tuple[str, float] | None:
    """The fuse, or the device with contacts, in which most is lost, and how many V; None where the
    cables cost more.
    """
    path = feed_path(queries, state, row.pin)
    if path is None:
        return None
    between = lost_between(path)
    costs_more = sum(between.values()) > sum(lost_in_cables(queries, path).values())
    return costliest(between) if costs_more else None


@rule(
    id="supply.drop",
    consequence="Unreliable",
    scope="machine",
    title="Too much of the voltage is lost on the way",
    reason="Cores, contacts and fuses there and back take their share of the voltage, more as they "
    "carry more. What is left moves with the load: motors lose steps, logic restarts.",
    source="5 % of the supply's voltage, 3 % for logic, servos and encoders, and up to 12 V for "
    "all but plain loads (motors without a drive, fans, heaters, lamps, valves, brakes) and what "
    "works from 80 % of it on; cores "
    "at 60 °C, plus and return together (IEC 60228, data/tables/copper.toml).",
)
def drop(queries: Queries, _: str) -> Iterator[RuleOutput]:
    groups: dict[Subject, list[tuple[State, DeliveredPower]]] = {}
    for device in queries.devices():
        for state, row in _worst(queries, device):
            fares = (
                row.status == "on" and row.voltage_v is not None and row.voltage_v >= row.least_v
            )
            # In a loop the input's resistor takes its share on purpose: signals.current-loop.
            if loop_end(queries, row.pin) is not None:
                continue
            if fares and row.lost is not None and row.lost > drop_limit(row):
                where = _costliest_cable(queries, state, row) or about(device)
                groups.setdefault(where, []).append((state, row))
    for where, rows in groups.items():
        state, row = max(rows, key=lambda item: (item[1].lost or 0.0) / drop_limit(item[1]))
        first = row.pin.device
        others = list(dict.fromkeys(r.pin.device for _, r in rows if r.pin.device != first))
        more = f"; {in_a_row(others)} as well" if others else ""
        chosen = gauges_for(queries, state, row)
        fixes: tuple[Fix, ...] = ()
        if chosen is not None:
            cables, area = chosen
            gauges = tuple(SetGauge(cable=name, core_mm2=area) for name in cables)
            remedy = gauges[0] if len(gauges) == 1 else InTurn(remedies=gauges)
            fixes = (Fix(words=f"take {in_area(area)} for {in_a_row(cables)}", remedy=remedy),)
        between = _most_between(queries, state, row)
        most = f", of which {between[0]} takes {between[1]:.2f} V" if between else ""
        yield RuleOutput(
            f"{first} gets {row.voltage_v or 0:.3g} of {row.source_v or 0:g} V{more}.",
            (
                about(row.pin),
                *(about(name) for name in others),
                *((about(between[0]),) if between else ()),
            ),
            at=(where,),
            why=f"{STATE_WORDS[state]}: {row.current_a:.2f} A from "
            f"{source_name(queries, row.source)}; "
            f"{(row.source_v or 0) - (row.voltage_v or 0):.2f} V are lost{most}.",
            value=round((row.lost or 0.0) * 100, 2),
            limit=drop_limit(row) * 100,
            unit="%",
            fixes=fixes,
        )


@rule(
    id="supply.too-low",
    consequence="Won't run",
    scope="device",
    title="What arrives is below what a device needs",
    reason="Below its least voltage it does not start, or drops out when the machine moves. A load "
    "that takes constant power takes more current the less voltage it gets, until both give way.",
    source="Supply voltage less its tolerance, less what is lost on the way, against the least "
    "voltage of the part.",
)
def too_low(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for state, row in _worst(queries, device):
        if row.voltage_v is None or row.source_v is None or row.source is None or row.voltage_v < 0:
            continue
        if row.wanted_a == 0.0:
            # A converter that nothing hangs on yet asks for nothing, and gets all there is.
            continue
        source = queries.pin(row.source)
        tolerance = getattr(source.electrical, "tolerance", 0.0) if source else 0.0
        if row.source_v * (1 - tolerance) < row.least_v:
            continue
        left = row.voltage_v - row.source_v * tolerance
        # No voltage at all is an open contact, which is for the rules of contacts to judge.
        if row.voltage_v < 0.02 * row.source_v or (row.status == "on" and left >= row.least_v):
            continue
        name = source_name(queries, row.source)
        sentence = f"{device} {row.pin.port} gets too little from {name} to run."
        if row.status == "collapses":
            sentence = f"The feed of {device} {row.pin.port} collapses under its load."
        yield RuleOutput(
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
    consequence="Won't run",
    scope="device",
    title="A feed has no way back",
    reason="Current flows in a circle. The plus conductor arrives, but nothing leads from the "
    "minus back to the supply that it comes from.",
    source="The machine's own conductors.",
)
def no_return(queries: Queries, device: str) -> Iterator[RuleOutput]:
    rows = [
        row
        for row in arrivals_of(queries, device, "everything")
        if row.status == "no way back"
        and row.source is not None
        and not _is_switched_off(queries, row)
        and not _is_one_of_several(queries, row)
    ]
    if not rows:
        return
    ends = _way_back(queries, rows[0])
    fixes: tuple[Fix, ...] = ()
    if ends is not None:
        ours, theirs = ends
        conductor = Conductor(a=theirs.pin, b=ours.pin)
        remedy = Join(a=theirs.port_ref, b=ours.port_ref, conductors=(conductor,))
        words = f"join {pin_in_words(queries, ours)} to {pin_in_words(queries, theirs)}"
        fixes = (Fix(words=words, remedy=remedy),)
    yield RuleOutput(
        f"{device} has no way back to {source_name(queries, rows[0].source)}.",
        tuple(about(pin) for pin in (*(row.pin for row in rows), *(ends or ()))),
        fixes=fixes,
        unfinished=all(_may_come_yet(queries, row) for row in rows),
    )


def _is_one_of_several(queries: Queries, row: DeliveredPower) -> bool:
    """Whether a load has its plus only by the common of others, and is joined to nothing itself:
    one lamp of a tower.
    """
    port = queries.port(row.pin.port_ref)
    pins = (replace(row.pin, pin=pin.id) for pin in (port.pins if port is not None else ()))
    return port is not None and port.kind == "load" and not any(map(queries.steps, pins))


def _may_come_yet(queries: Queries, row: DeliveredPower) -> bool:
    """Whether the way back is that of a board which is not fed yet."""
    ours = zero_pin_of(queries, row.pin, None)
    return ours is not None and waits_for_a_feed(queries, ours)


def _is_switched_off(queries: Queries, row: DeliveredPower) -> bool:
    """Whether the way back is there and only open: behind a contact, or an output."""
    ours = zero_pin_of(queries, row.pin, None)
    theirs = zero_pin_of(queries, row.source, None) if row.source is not None else None
    if ours is None:
        return False
    met = queries.rail(ours)
    return theirs in met or any(
        "logic output" in natures(queries, pin) or _is_an_unknown_output(queries, pin)
        for pin in met
    )


def _is_an_unknown_output(queries: Queries, at: PinRef) -> bool:
    """Whether a pin is an output's that nobody gave the limits of."""
    pin, port = queries.pin(at), queries.port(at.port_ref)
    is_output = pin is not None and pin.function == "load-" and pin.electrical is None
    return is_output and port is not None and port.end == "host"


def _way_back(queries: Queries, row: DeliveredPower) -> tuple[PinRef, PinRef] | None:
    """The minus of a consumer, or of a strip that it is at, and that of its source."""
    ours = zero_pin_of(queries, row.pin, None)
    theirs = zero_pin_of(queries, row.source, None) if row.source is not None else None
    if ours is None or theirs is None or theirs in queries.net(ours):
        return None
    strips = (
        pin for pin in queries.net(ours)
        if (part := queries.part_of(pin.device)) is not None and part.kind == "terminal strip"
    )  # fmt: skip
    return next(strips, ours), theirs


@rule(
    id="supply.servo-on-logic",
    consequence="Unreliable",
    scope="device",
    title="A servo hangs on a logic regulator",
    reason="A servo takes its current in gulps. On the regulator that feeds the processor each "
    "gulp is a dip of the processor's own voltage.",
    source="Derivation: one regulator, two loads; the servo's current against the outlet's rating.",
)
def servo_on_logic(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "servo":
        return
    for row in arrivals_of(queries, device, "everything"):
        source = queries.part_of(row.source.device) if row.source else None
        outlet = queries.pin(row.source) if row.source else None
        feed = outlet.electrical if outlet else None
        # A regulator that is made for servos has current to spare.
        if isinstance(feed, FeedOut) and feed.current_a >= 2 * row.wanted_a:
            continue
        if row.source is not None and source is not None and source.kind == "controller":
            yield RuleOutput(
                f"{device} is fed from the logic of {row.source.device}.",
                (about(row.pin), about(row.source)),
                at=(about(row.source.device),),
            )


@rule(
    id="supply.shared-rail",
    consequence="Unreliable",
    scope="device",
    title="Logic hangs on a rail that the motors pull down",
    reason="A board with an input of its own for the logic can keep it on a feed of its own. On "
    "the motors' feed the logic sees every start, and restarts when one is too long.",
    source="The voltage at the logic input with the machine at work against that at rest: 3 %.",
)
def shared_rail(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    feeds = [port.id for port in (part.ports if part else ()) if port.kind == "feed in"]
    if part is None or part.kind != "controller" or len(feeds) < 2:
        return
    at_rest = {row.pin: row for row in arrivals_of(queries, device, "idle")}
    for state, row in _worst(queries, device):
        quiet = at_rest.get(row.pin)
        if quiet is None or quiet.voltage_v is None or row.voltage_v is None or not row.source_v:
            continue
        droop = (quiet.voltage_v - row.voltage_v) / row.source_v
        if droop > DROOP_MOST and _feeds_motors(queries, row.source):
            yield RuleOutput(
                f"The logic of {device} droops with what else hangs on "
                f"{source_name(queries, row.source)}.",
                (about(row.pin),),
                detail=row.pin.port,
                why=f"{STATE_WORDS[state]} against idle.",
                value=round(droop * 100, 2),
                limit=DROOP_MOST * 100,
                unit="%",
            )


def _feeds_motors(queries: Queries, source: PinRef | None) -> bool:
    """Whether drivers, motors or heaters hang on a source."""
    for load in supply_loads(queries, "everything"):
        for name, _ in load.shares if load.pin == source else ():
            part = queries.part_of(name)
            if part is not None and part.kind in STRONG_LOADS:
                return True
    return False


@rule(
    id="supply.headroom",
    consequence="Unreliable",
    scope="device",
    title="A driver has no headroom above its supply",
    reason="A motor that brakes feeds its energy back and raises the supply's voltage. Without a "
    "tenth of headroom the driver trips, or breaks.",
    source="V_supply,max x 1.10 <= the driver's maximum.",
)
def headroom(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.driver is None:
        return
    for demand in demands_in(queries, device, "everything"):
        if demand.plus != main_feed_pin(queries, device):
            # What feeds the logic apart: no motor brakes into it.
            continue
        row = next(
            (r for r in arrivals_of(queries, device, "everything") if r.pin == demand.plus), None
        )
        if row is None or row.source is None or row.source_v is None:
            continue
        source = queries.pin(row.source)
        tolerance = getattr(source.electrical, "tolerance", 0.0) if source else 0.0
        top = row.source_v * (1 + tolerance)
        if top <= demand.most_v < top * 1.10:
            yield RuleOutput(
                f"{device} takes {demand.most_v:g} V at most; braking may raise its feed to "
                f"{top * 1.10:.3g} V.",
                (about(row.pin), about(row.source)),
                detail=row.pin.port,
                value=round(top * 1.10, 2),
                limit=demand.most_v,
                unit="V",
            )


RULES = (
    drop,
    too_low,
    no_return,
    servo_on_logic,
    shared_rail,
    headroom,
)
