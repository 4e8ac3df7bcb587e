"""Protective earth in a proposal: metal that mains could touch bonded, 0 V joined to earth once."""

from vervain.electrical.feeds import gives_alternating
from vervain.model.machine import PinRef
from vervain.queries.connectivity import drivers_of, steps_from
from vervain.queries.machine_queries import Queries
from vervain.supply.earth import earth_pins, earth_root
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep, NewWire
from vervain.supply.mains_ways import Poles

EARTH_MM2 = 2.5


def earthed_only(queries: Queries, wanted: list[Poles]) -> int:
    """How many devices have an earth terminal and get no mains: motors, metal, and the 0 V."""
    fed = {poles["line"].device for poles in wanted}
    earthed = (
        name for name in queries.devices()
        if earth_pins(queries, name) and name not in fed and not _has_line(queries, name)
    )  # fmt: skip
    return 1 + sum(1 for _ in earthed)


def bond_what_is_left(planner: PlanBuilder) -> None:
    """Bonds what has an earth terminal that nothing is joined to."""
    root = earth_root(planner.queries)
    if root is None or not any(
        _has_line(planner.queries, ref.device) for ref in planner.queries.net(root)
    ):
        return
    for device in planner.queries.devices():
        pins, queries = earth_pins(planner.queries, device), planner.queries
        part = queries.part_of(device)
        if not pins or part is None or part.kind == "terminal strip":
            continue
        net = set(queries.net(root))
        goal = _earth_of_its_drive(queries, device, net) or free_earth(planner)
        if any(pin in net for pin in pins) or goal is None:
            continue
        _join(
            planner, goal, pins[0], f"{device} bonded at {goal.device}",
            "Metal that mains could touch is earthed.",
        )  # fmt: skip


def join_zero_once(planner: PlanBuilder) -> None:
    """Joins 0 V of the first supply on mains to protective earth, unless it is already."""
    queries = planner.queries
    goal, root = free_earth(planner) or _earth_where_mains_goes_on(queries), earth_root(queries)
    for device in queries.devices():
        part = queries.part_of(device)
        if part is None or part.kind != "supply" or not _has_line(queries, device):
            continue
        zero = next(
            (
                PinRef(device=device, port=port.id, pin=pin.id)
                for port in part.ports
                if port.kind == "feed out" and not gives_alternating(port)
                for pin in port.pins
                if pin.function == "zero"
            ),
            None,
        )
        if zero is None or goal is None or root is None:
            continue
        if root not in queries.net(zero) and steps_from(queries, zero):
            _join(
                planner, goal, zero, f"0 V of {device} joined to earth at {goal.device}",
                "Joined once, an earth fault blows a fuse instead of bridging a switch.",
            )  # fmt: skip
        return


def free_earth(planner: PlanBuilder) -> PinRef | None:
    """A free terminal of protective earth, at a bar or where it comes in."""
    queries, root = planner.queries, earth_root(planner.queries)
    if root is None:
        return None
    net = set(queries.net(root))
    for device in queries.devices():
        part = queries.part_of(device)
        if part is not None and part.kind == "terminal strip":
            for pin in earth_pins(queries, device):
                if pin in net and not steps_from(queries, pin):
                    return pin
    return None


def _earth_where_mains_goes_on(queries: Queries) -> PinRef | None:
    """The protective earth of what mains comes in by, beside the wire that goes on from there."""
    root = earth_root(queries)
    for pin in queries.net(root) if root is not None else ():
        part, port = queries.part_of(pin.device), queries.port(pin.port_ref)
        goes_on = part is not None and part.kind == "connector" and bool(steps_from(queries, pin))
        if goes_on and port is not None and port.end != "device":
            return pin
    return None


def _earth_of_its_drive(queries: Queries, motor: str, net: set[PinRef]) -> PinRef | None:
    """A free earth terminal of the drive that a motor is on, where the drive is earthed: the wire
    goes with those of the motor.
    """
    return next(
        (
            pin
            for drive in drivers_of(queries, motor)
            for pin in earth_pins(queries, drive)
            if pin in net and not steps_from(queries, pin)
        ),
        None,
    )


def _join(planner: PlanBuilder, start: PinRef, end: PinRef, words: str, reason: str) -> None:
    """A green-yellow wire."""
    part = planner.cable_of(("GNYE",), EARTH_MM2)
    cable = planner.new_cable(part, start.device, end.device)
    needs = tuple(
        number
        for number, step in enumerate(planner.steps)
        if {start.device, end.device} & {added.designator for added in step.adds}
    )
    planner.add(
        FeedStep(
            words=words, reason=reason, cables=(cable,), needs=needs,
            wires=(NewWire(a=start, b=end, cable=cable.id, core=1),),
        )
    )  # fmt: skip


def _has_line(queries: Queries, device: str) -> bool:
    part = queries.part_of(device)
    return any(pin.function == "line" for port in (part.ports if part else ()) for pin in port.pins)
