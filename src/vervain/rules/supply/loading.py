"""Rules about what is carried: by supplies, cores, contacts, copper and fuses."""

from collections.abc import Iterator

from vervain.electrical.fuse_kinds import behaviour_of
from vervain.model.connectors import connector_of
from vervain.model.elements import Fuse
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.fixes import SetGauge, SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.supply.core_limits import core_currents, core_limit_a, loaded_circuits
from vervain.supply.mains_load import mains_through_a
from vervain.supply.results import currents_of, source_name, supply_loads
from vervain.supply.sizing import (
    RELIABLE,
    gauge_for_current,
    ratings_of,
    supply_size_a,
)
from vervain.supply.states import LASTING_STATES, STATE_WORDS, State, feed_table
from vervain.text.units import in_area


@rule(
    id="supply.budget",
    consequence="Won't run",
    scope="device",
    title="A supply is asked for more than it gives",
    reason="Over its rating a supply limits or switches off, and everything on it drops out "
    "together; above 80 % for long it runs hot and has nothing left for start-up.",
    source="The feed network's current in the worst state against the rating; 80 % by practice.",
)
def budget(queries: Queries, device: str) -> Iterator[RuleOutput]:
    worst: dict[PinRef, tuple[State, float, float]] = {}
    for state in LASTING_STATES:
        for load in supply_loads(queries, state):
            if (
                load.pin.device == device
                and load.current_a > worst.get(load.pin, (state, 0.0, 0.0))[1]
            ):
                worst[load.pin] = state, load.current_a, load.rated_a
    for pin, (state, current_a, rated) in worst.items():
        name, words = source_name(queries, pin), STATE_WORDS[state].lower()
        if current_a > rated:
            outcome = (
                "drops out" if current_a > feed_table().limit_factor * rated else "is overloaded"
            )
            yield RuleOutput(
                f"{name} {outcome}: {words}.",
                (about(pin),),
                detail=pin.port,
                value=round(current_a, 3),
                limit=rated,
                unit="A",
                why=f"A fifth in reserve wants one for {supply_size_a(current_a):.2g} A.",
            )
        elif current_a > RELIABLE * rated:
            yield RuleOutput(
                f"{name} is above 80 %: {words}.",
                (about(pin),),
                detail=pin.port,
                value=round(current_a, 3),
                limit=round(RELIABLE * rated, 3),
                unit="A",
                consequence="Unreliable",
            )


@rule(
    id="supply.start-up",
    consequence="Unreliable",
    scope="device",
    title="Start-up asks a supply for more than it gives",
    reason="For an instant motors stand, lamps are cold and coils pull in. A supply that limits "
    "then drops its voltage for everything on it.",
    source="The feed network with the parts' inrush and standing currents against the rating.",
)
def start_up(queries: Queries, device: str) -> Iterator[RuleOutput]:
    lasting = {load.pin: load.current_a for load in supply_loads(queries, "everything")}
    for load in supply_loads(queries, "start"):
        if load.pin.device != device or load.current_a <= load.rated_a:
            continue
        if lasting.get(load.pin, 0.0) <= load.rated_a:
            yield RuleOutput(
                f"{source_name(queries, load.pin)} cannot give what start-up asks for.",
                (about(load.pin),),
                detail=load.pin.port,
                value=round(load.current_a, 3),
                limit=load.rated_a,
                unit="A",
            )


@rule(
    id="supply.core-current",
    consequence="Damage",
    scope="cable",
    title="A core carries more than it may",
    reason="Its insulation softens, in a bundle first. Everything that hangs on a daisy chain runs "
    "through its first conductor.",
    source="Current a core may carry (PVC 70 °C at 40 °C, data/tables/copper.toml), with the "
    "loaded circuits of its cable and the temperature around it; motor leads count with the "
    "peak. The local code rules.",
)
def core_current(queries: Queries, cable_id: str) -> Iterator[RuleOutput]:
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None:
        return
    loaded = [(current_a, core) for core, current_a in core_currents(queries, cable_id)]
    limit = core_limit_a(queries, cable_id)
    if not loaded or limit is None:
        return
    current_a, core = max(loaded)
    if current_a > limit:
        circuits = loaded_circuits(queries, cable_id)
        wanted = gauge_for_current(current_a, queries.ambient_c(), circuits)
        fixes: tuple[Fix, ...] = ()
        if wanted is not None and wanted > part.core_mm2:
            remedy = SetGauge(cable=cable_id, core_mm2=wanted)
            fixes = (Fix(words=f"take {in_area(wanted)} for {cable_id}", remedy=remedy),)
        yield RuleOutput(
            f"Core {core} of {cable_id} carries more than {in_area(part.core_mm2)} may.",
            (about_cable(cable_id, core),),
            value=round(current_a, 3),
            limit=round(limit, 3),
            unit="A",
            fixes=fixes,
        )


@rule(
    id="supply.contact-current",
    consequence="Damage",
    scope="device",
    title="A contact carries more than it may",
    reason="A contact that is too small grows hot, which loosens it, which makes it hotter.",
    source="What one contact of the family carries, data/tables/connectors.toml.",
)
def contact_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    worst: dict[PinRef, float] = {}
    for state in LASTING_STATES:
        for hookup in queries.hookups_of(device):
            for current in currents_of(queries, hookup.id, state):
                for ref in (current.a, current.b):
                    if ref.device == device:
                        worst[ref] = max(worst.get(ref, 0.0), current.current_a)
    for ref, current_a in worst.items():
        port = queries.port(ref.port_ref)
        family = connector_of(port.connector) if port else None
        most = family.contact_max_a if family else None
        if most is not None and current_a > most:
            yield RuleOutput(
                f"A contact of {device} {ref.port} carries more than it may.",
                (about(ref),),
                detail=f"{ref.port} {ref.pin}",
                value=round(current_a, 3),
                limit=most,
                unit="A",
            )


@rule(
    id="supply.bar-current",
    consequence="Damage",
    scope="device",
    title="The copper of a strip or a pass-through carries more than it may",
    reason="All that is chained on runs through the bars and tracks of what it is chained to.",
    source="The part's own figure.",
)
def bar_current(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.bar_max_a is None:
        return
    bars = [
        current.current_a
        for state in LASTING_STATES
        for current in currents_of(queries, device, state)
        if current.kind == "copper"
    ]
    current_a = max(bars, default=0.0)
    if current_a > part.bar_max_a:
        yield RuleOutput(
            f"The copper inside {device} carries more than it may.",
            (about(device),),
            value=round(current_a, 3),
            limit=part.bar_max_a,
            unit="A",
        )


@rule(
    id="supply.fuse-load",
    consequence="Unreliable",
    scope="device",
    title="A fuse is too small for its load",
    reason="A blade fuse that carries more than three quarters of its rating for long grows hot "
    "and blows some day without a fault; above its rating it blows soon.",
    source="Load <= 0.75 I_n for blade fuses (UL 248-14), <= I_n for IEC 60127, gG and breakers.",
)
def fuse_load(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    rating = queries.setting(device, "rating_a")
    fuses = [element for element in (part.inside if part else ()) if isinstance(element, Fuse)]
    if not fuses or not isinstance(rating, int | float):
        return
    current_a = max(
        (
            current.current_a
            for state in LASTING_STATES
            for current in currents_of(queries, device, state)
            if current.kind == "fuse"
        ),
        default=0.0,
    )
    current_a = max(current_a, *(mains_through_a(queries, device, fuse) for fuse in fuses))
    behaviour = behaviour_of(queries, device)
    if current_a <= behaviour.load_ratio * rating:
        return
    suited = next(
        (r for r in ratings_of(queries.part_of(device)) if current_a <= behaviour.load_ratio * r),
        None,
    )
    fixes: tuple[Fix, ...] = ()
    if suited is not None:
        remedy = SetSetting(device=device, key="rating_a", value=float(suited))
        fixes = (Fix(words=f"fit a {suited:g} A fuse", remedy=remedy),)
    yield RuleOutput(
        f"{device} carries {current_a:.3g} A of its {rating:g} A.",
        (about(device),),
        value=round(current_a, 3),
        limit=round(behaviour.load_ratio * rating, 3),
        unit="A",
        consequence="Won't run" if current_a > rating else "Unreliable",
        fixes=fixes,
    )


RULES = (budget, start_up, core_current, contact_current, bar_current, fuse_load)
