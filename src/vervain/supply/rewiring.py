"""Changes of the feeds: fed from elsewhere, a fuse put in, negatives joined, metal bonded."""

from msgspec.structs import replace

from vervain.edits.common import free_name
from vervain.edits.device_edits import add_device
from vervain.edits.hookup_edits import add_hookup, drop_conductors, find_hookup
from vervain.edits.wire_edits import put_into_wire
from vervain.electrical.copper import ampacity_a
from vervain.electrical.feeds import PLUS_FUNCTIONS, RETURN_FUNCTIONS, sources_of, zero_pin_of
from vervain.model.cable_part import CablePart
from vervain.model.elements import Fuse
from vervain.model.machine import Cable, Conductor, Machine, PinRef
from vervain.model.part import Option, Part, Pin, Port
from vervain.model.problem import Problem
from vervain.queries.connectivity import paths_from, steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.step import Step
from vervain.supply.core_limits import core_limit_a
from vervain.supply.earth import earth_pins
from vervain.supply.feed_steps import NewCable, cable_kind, lay_cable
from vervain.supply.loads import demands_in
from vervain.supply.network_model import copper_group
from vervain.supply.sizing import FUSE_LOAD, gauge_for_current, ratings_of
from vervain.text.units import in_area

# A feed is never wired thinner, for the hand's sake.
THINNEST_MM2 = 0.5


def outlet_of(queries: Queries, pin: PinRef) -> tuple[PinRef, PinRef] | None:
    """Where a feed can be taken from at a pin's device: plus and return of one port, a free one if
    there is one. None where the device lets no feed go on.
    """
    part = queries.part_of(pin.device)
    group = copper_group(queries, pin)
    found: list[tuple[bool, PinRef, PinRef]] = []
    for port in part.ports if part else ():
        back = next((p for p in port.pins if p.function in RETURN_FUNCTIONS), None)
        for candidate in port.pins:
            plus = PinRef(device=pin.device, port=port.id, pin=candidate.id)
            if plus not in group or back is None or port.end == "device":
                continue
            minus = PinRef(device=pin.device, port=port.id, pin=back.id)
            used = bool(steps_from(queries, plus) or steps_from(queries, minus))
            many = port.kind == "feed out" and port.connector is not None
            if not used or (many and part is not None and part.kind in ("supply", "battery")):
                found.append((used, plus, minus))
    if not found:
        return None
    _, plus, minus = min(found, key=lambda item: item[0])
    return plus, minus


def feed_from(machine: Machine, consumer: PinRef, outlet: PinRef) -> Machine:
    """Feeds a device from another place: its plus and return come off where they are, and go to the
    outlet's own plus and return by a new pair of cores of a gauge that carries what it takes.

    Raises `Problem` where the outlet's device lets no feed go on, or is the consumer itself.
    """
    queries = Queries(machine)
    if consumer.device == outlet.device:
        raise Problem(f"{consumer.device} cannot feed itself.")
    ends = outlet_of(queries, outlet)
    minus = zero_pin_of(queries, consumer, None)
    if ends is None or minus is None:
        raise Problem(
            f"No free terminal of {outlet.device} feeds on.",
            remedy="Choose a strip, a supply, or a device with a connector for the next one.",
        )
    machine = take_feed_off(machine, consumer)
    current_a = max(
        (t.current_a for t in demands_in(queries, consumer.device, "everything")), default=0.0
    )
    area = max(
        THINNEST_MM2, gauge_for_current(current_a * 1.25, queries.ambient_c()) or THINNEST_MM2
    )
    machine, cable = _with_pair(machine, ends[0].device, consumer.device, area)
    rows = {
        (ends[0].port_ref, consumer.port_ref): [(ends[0].pin, consumer.pin, 1)],
    }
    rows.setdefault((ends[1].port_ref, minus.port_ref), []).append((ends[1].pin, minus.pin, 2))
    for (a, b), pairs in rows.items():
        conductors = tuple(Conductor(a=one, b=other, core=core) for one, other, core in pairs)
        machine = add_hookup(machine, a, b, conductors, cable)
    return machine


def take_feed_off(machine: Machine, consumer: PinRef) -> Machine:
    """Takes the plus and the return of a consumer's port off; cables that are left empty go too."""
    queries = Queries(machine)
    minus = zero_pin_of(queries, consumer, None)
    for pin in (consumer, minus):
        for step in steps_from(queries, pin) if pin is not None else ():
            if pin is None:
                continue
            hookup = next((h for h in machine.hookups if h.id == step.hookup), None)
            if hookup is None:
                continue
            side = "a" if hookup.a == pin.port_ref else "b"
            if any(getattr(row, side) == pin.pin for row in hookup.conductors):
                machine = drop_conductors(machine, hookup.id, side, pin.pin)
    used = {hookup.cable for hookup in machine.hookups}
    before = {hookup.cable for hookup in queries.machine.hookups}
    kept = tuple(c for c in machine.cables if c.id in used or c.id not in before)
    return replace(machine, cables=kept)


def _with_pair(machine: Machine, start: str, end: str, core_mm2: float) -> tuple[Machine, str]:
    """The machine with a new pair of a red and a black core between two devices."""
    part = cable_kind(machine.cable_parts, ("RD", "BK"), core_mm2)
    name = free_name("W", [cable.id for cable in machine.cables])
    return lay_cable(machine, NewCable(id=name, part=part, start=start, end=end)), name


def fuse_for(load_a: float, core_limit_a: float) -> float | None:
    """The smallest usual fuse from 4/3 of the load up to what the core may carry; None where the
    wire is too thin for the load.
    """
    least = load_a / FUSE_LOAD
    fitting = (rating for rating in ratings_of(fuse_part()) if least <= rating <= core_limit_a)
    return next(fitting, None)


def fuse_part() -> Part:
    """A holder for one blade fuse."""
    pins = (Pin(id="1", name="IN", function="through"), Pin(id="2", name="OUT", function="through"))
    return Part(
        id="fuse-holder",
        kind="fuse",
        title="Blade fuse holder, 80 V",
        options=(
            Option(
                id="rating_a", title="Fuse, rated", unit="A", minimum=0.5, maximum=30, default=5.0
            ),
        ),
        ports=(
            Port(
                id="FUSE", kind="terminals", end="through", pins=pins, connector="screw-7.62-2"
            ),
        ),
        inside=(Fuse(pins=(("FUSE", "1"), ("FUSE", "2")), v_max_v=80.0),),
    )  # fmt: skip


def put_fuse(machine: Machine, pin: PinRef, load_a: float) -> Machine:
    """Puts a fuse into the plus conductor at a pin, at the end that it is fed from: what a fuse
    protects is behind it. The conductor keeps its cable and core from the fuse on. Raises `Problem`
    where nothing comes there, or no fuse would do.
    """
    queries = Queries(machine)
    found = queries.pin(pin)
    if found is None or found.function not in (*PLUS_FUNCTIONS, "through"):
        raise Problem(f"{pin.device} {pin.port} has no plus there.", remedy="Choose a consumer.")
    steps = steps_from(queries, pin)
    if not steps:
        raise Problem(f"Nothing comes to {pin.device} {pin.port}.", remedy="Feed it first.")
    step = _from_the_source(queries, pin) or steps[0]
    hookup = find_hookup(machine, step.hookup)
    cable = queries.cable(hookup.cable) if hookup.cable else None
    part = queries.cable_part(cable.part) if cable else None
    area = part.core_mm2 if part else THINNEST_MM2
    limit_a = core_limit_a(queries, cable.id) if cable else ampacity_a(area, queries.ambient_c())
    rating = fuse_for(load_a, limit_a or 0.0)
    if rating is None:
        raise Problem(
            f"No fuse suits: the load wants {load_a / FUSE_LOAD:.3g} A at least, {in_area(area)} "
            f"{limit_a or 0.0:.3g} A at most.",
            place=pin.device,
            remedy="Take a larger gauge first.",
        )
    holder = next((p for p in machine.parts if p.kind == "fuse"), None) or fuse_part()
    machine = add_device(machine, holder, f"Fuse, {pin.device}")
    made = machine.devices[-1]
    place = next((d.place for d in machine.devices if d.designator == step.end.device), None)
    fitted = replace(made, place=place, settings={**made.settings, "rating_a": float(rating)})
    machine = replace(machine, devices=(*machine.devices[:-1], fitted))
    ends = holder.ports[0].pins
    into, out = (
        PinRef(device=made.designator, port=holder.ports[0].id, pin=end.id)
        for end in (ends[0], ends[-1])
    )
    row = hookup.conductors.index(step.conductor)
    return put_into_wire(machine, hookup.id, row, step.end, into, out)


def _from_the_source(queries: Queries, pin: PinRef) -> Step | None:
    """The conductor by which a feed leaves where it comes from on its way to a pin: the last one
    before a strip, a supply, a fuse or another device.
    """
    for path in paths_from(queries, pin):
        if path.lands and sources_of(queries, path.end):
            return path.steps[-1]
    return None


def join_negatives(machine: Machine, first: PinRef, second: PinRef) -> Machine:
    """Joins the returns of two sources, named by their plus pins. Raises `Problem` where they are
    joined already.
    """
    queries = Queries(machine)
    a, b = (zero_pin_of(queries, pin, None) for pin in (first, second))
    if a is None or b is None or first.device == second.device:
        raise Problem("Choose two sources that have a return each.")
    if b in queries.net(a):
        raise Problem(f"The negatives of {first.device} and {second.device} are joined already.")
    return add_hookup(machine, a.port_ref, b.port_ref, (Conductor(a=a.pin, b=b.pin),))


def bond(machine: Machine, earth: PinRef, goal: PinRef) -> Machine:
    """Joins a device's protective earth to where another one is: a free earth terminal there, else
    the same one, by a green-yellow wire of 2.5 mm2 (IEC 60204-1 table 1 has the cross-section of
    the mains conductor, 2.5 mm2 where it is laid without protection). Raises `Problem`.
    """
    queries = Queries(machine)
    if earth.device == goal.device:
        raise Problem(f"{earth.device} cannot be bonded to itself.")
    if goal in queries.net(earth):
        raise Problem(f"{earth.device} is bonded to {goal.device} already.")
    free = [pin for pin in earth_pins(queries, goal.device) if not steps_from(queries, pin)]
    end = next((pin for pin in free if pin in copper_group(queries, goal)), goal)
    kinds = [p for p in machine.cable_parts if p.cores == ("GNYE",) and p.core_mm2 >= 2.5]
    part = next(iter(kinds), None)
    if part is None:
        part = CablePart(
            id=free_name("wire-gnye-", [p.id for p in machine.cable_parts]),
            title="Green-yellow wire, 2.5 mm2",
            cores=("GNYE",),
            core_mm2=2.5,
        )
        machine = replace(machine, cable_parts=(*machine.cable_parts, part))
    name = free_name("W", [cable.id for cable in machine.cables])
    machine = replace(machine, cables=(*machine.cables, Cable(id=name, part=part.id)))
    row = Conductor(a=end.pin, b=earth.pin, core=1)
    return add_hookup(machine, end.port_ref, earth.port_ref, (row,), name)
