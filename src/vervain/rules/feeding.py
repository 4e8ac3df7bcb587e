"""A proposal that feeds everything unfed, checked: what the rules would still say of supplies that
share no common is put right as well.
"""

from collections.abc import Callable

from msgspec.structs import replace

from vervain.electrical.open_ends import strip_pins
from vervain.model.cable_part import CablePart
from vervain.model.machine import Conductor, Machine, PinRef
from vervain.model.part import Part
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.fixes import Join
from vervain.rules.registry import RULE_BY_ID
from vervain.supply.feed_plan import plan_feeds
from vervain.supply.feed_steps import FeedPlan, FeedStep, NewWire, carry_out

# More supplies than this share their commons step by step.
MOST_ROUNDS = 8


def propose_feeds(
    machine: Machine,
    shelf: tuple[Part, ...] = (),
    cables: tuple[CablePart, ...] = (),
    should_continue: Callable[[], bool] = lambda: True,
) -> FeedPlan:
    """A proposal for everything that has to be fed and is not; with the commons that signals
    between what it feeds need. What is not there is taken from a shelf. What the rules would say of
    it afterwards is among the decisions.
    """
    plan = plan_feeds(_with_rated_currents(machine), shelf, cables, should_continue)
    fed = machine
    for step in plan.steps:
        fed = carry_out(fed, step)
    steps = list(plan.steps)
    for _ in range(MOST_ROUNDS if steps else 0):
        common = _common(Queries(fed), steps)
        if common is None or not should_continue():
            break
        fed = carry_out(fed, common)
        steps.append(common)
    bond = _bond(Queries(fed), steps) if steps and should_continue() else None
    if bond is not None:
        fed = carry_out(fed, bond)
        steps.append(bond)
    told = _told_anew(machine, fed, should_continue) if steps else ()
    return FeedPlan(steps=tuple(steps), decisions=(*plan.decisions, *told))


def _with_rated_currents(machine: Machine) -> Machine:
    """The machine with each driver at what its motor is rated for, where it is set to less: fuses
    and cores are chosen for that, so that it can be set later.
    """
    check, queries = RULE_BY_ID["supply.driver-current"].check, Queries(machine)
    for device in queries.devices():
        for finding in queries.ask(check, device):
            for fix in finding.fixes[:1]:
                machine = fix.remedy.apply(machine)
    return machine


def _told_anew(
    machine: Machine, fed: Machine, should_continue: Callable[[], bool]
) -> tuple[str, ...]:
    """What the rules say of the machine once it is fed, and did not before."""
    before = check_look(Queries(machine), should_continue)
    after = check_look(Queries(fed), should_continue)
    if before is None or after is None:
        return ()
    known = {finding.key for finding in (*before.open, *before.accepted, *before.to_do)}
    return tuple(
        finding.sentence
        for finding in after.open
        if finding.key not in known and finding.consequence != "Workmanship"
    )


def _common(queries: Queries, steps: list[FeedStep]) -> FeedStep | None:
    """The step that joins two supplies' returns, where a signal has no way back without."""
    check = RULE_BY_ID["supply.no-common"].check
    for device in queries.devices():
        for finding in queries.ask(check, device):
            for fix in finding.fixes:
                if isinstance(fix.remedy, Join):
                    return _join(fix.remedy, finding.sentence, steps)
    return None


def _bond(queries: Queries, steps: list[FeedStep]) -> FeedStep | None:
    """The step that joins 0 V to protective earth, once, where that is nowhere."""
    for finding in queries.ask(RULE_BY_ID["supply.earth-joint"].check, ""):
        zero = finding.subjects[0]
        earth = next((ref for ref in strip_pins(queries) if _is_earth(queries, ref)), None)
        if (
            finding.detail != "none"
            or earth is None
            or not (zero.device and zero.port and zero.pin)
        ):
            continue
        pin = PinRef(device=zero.device, port=zero.port, pin=zero.pin)
        join = Join(
            a=pin.port_ref, b=earth.port_ref, conductors=(Conductor(a=pin.pin, b=earth.pin),)
        )
        step = _join(join, finding.sentence, steps)
        return replace(step, words=f"0 V of {zero.device} joined to protective earth, once")
    return None


def _is_earth(queries: Queries, ref: PinRef) -> bool:
    """Whether a pin is protective earth."""
    pin = queries.pin(ref)
    return pin is not None and pin.function == "pe"


def _join(join: Join, reason: str, steps: list[FeedStep]) -> FeedStep:
    ends = [
        (
            PinRef(device=join.a.device, port=join.a.port, pin=row.a),
            PinRef(device=join.b.device, port=join.b.port, pin=row.b),
        )
        for row in join.conductors
    ]
    names = {end.device for pair in ends for end in pair}
    return FeedStep(
        words=f"0 V of {join.a.device} joined to 0 V of {join.b.device}",
        reason=reason,
        wires=tuple(NewWire(a=a, b=b) for a, b in ends),
        needs=tuple(
            number
            for number, step in enumerate(steps)
            if names & {added.designator for added in step.adds}
        ),
    )
