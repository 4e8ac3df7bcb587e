"""Rules about protective earth: shields that stand in for it, joints of 0 V with it."""

from collections.abc import Iterator

from vervain.electrical.feeds import gives_alternating
from vervain.electrical.mains import has_mains
from vervain.electrical.unmet_needs import is_started, is_to_be_fed, waits_for_a_feed
from vervain.model.machine import PinRef, PortRef
from vervain.model.subject import Subject
from vervain.queries.connectivity import (
    joined_inside,
    neighbours_at,
)
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.queries.walk import reached
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.fixes import PutConductor, SetGauge
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.compiling import stop_devices
from vervain.supply.earth import earth_pins, earth_root, is_bonded, works_on_mains
from vervain.text.units import in_area


def _zero_group(queries: Queries, zero: PinRef) -> tuple[list[PinRef], int]:
    """The pins of a 0 V up to where it meets protective earth, and how many conductors meet it."""

    def is_earth(pin: PinRef) -> bool:
        found = queries.pin(pin)
        return found is not None and found.function == "pe"

    def beyond(here: PinRef) -> Iterator[PinRef]:
        yield from (step.end for step in queries.steps(here) if not is_earth(step.end))
        yield from joined_inside(queries, here)

    group = list(reached([zero], beyond))
    joints = {
        frozenset({pin, step.end})
        for pin in group
        for step in queries.steps(pin)
        if is_earth(step.end)
    }
    return group, len(joints)


def _zero_of_mains_supply(queries: Queries, device: str) -> PinRef | None:
    """The negative of a supply that mains go into; None for anything else, transformers included,
    which give no plus and no minus.
    """
    part = queries.part_of(device)
    if part is None or part.kind != "supply":
        return None
    if not any(pin.function == "line" for port in part.ports for pin in port.pins):
        return None
    # It may be there at several terminals.
    zeros = (
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in part.ports
        for pin in port.pins
        if port.kind == "feed out" and pin.function == "zero" and not gives_alternating(port)
    )
    return next((ref for ref in zeros if queries.steps(ref)), None)


@rule(
    id="supply.earth-joint",
    consequence="Workmanship",
    scope="machine",
    title="0 V is joined to protective earth not once",
    reason="Joined once, an earth fault blows a fuse instead of bridging a switch. Joined twice, "
    "currents run through shields and frames; not at all, the whole circuit floats.",
    source="IEC 60204-1 9.4.3.1: one joint of the control circuit to protective earth.",
)
def earth_joint(queries: Queries, _: str) -> Iterator[RuleOutput]:
    zeros = [zero for name in queries.devices() if (zero := _zero_of_mains_supply(queries, name))]
    told: set[PinRef] = set()
    joined = False
    for zero in zeros:
        members, joints = _zero_group(queries, zero)
        joined = joined or joints > 0
        if joints > 1 and not told & set(members):
            yield RuleOutput(
                f"0 V of {zero.device} is joined to protective earth {joints} times.",
                (about(zero),),
                at=(about(zero.device),),
                consequence="Unreliable",
            )
        told |= set(members)
    if zeros and not joined:
        yield RuleOutput(
            f"0 V of {zeros[0].device} is joined to protective earth nowhere.",
            (about(zeros[0]),),
            detail="none",
            # With a stop, the earth fault that bridges its contact must blow a fuse.
            consequence="Unreliable" if stop_devices(queries) else "Workmanship",
            unfinished=all(is_to_be_fed(queries, zero.device) for zero in zeros),
        )


@rule(
    id="supply.earth",
    consequence="Damage",
    scope="device",
    title="Metal with mains inside is not earthed",
    reason="When a mains conductor comes loose inside and touches the metal, only protective earth "
    "makes the fuse blow. Without it the metal stays live until somebody touches it.",
    source="IEC 60204-1 8.2: every exposed conductive part joined to protective earth. The local "
    "code rules.",
)
def earth(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or not works_on_mains(queries, device):
        return
    # What has a terminal for it has metal to earth (IEC 61140, class I).
    behind = not has_mains(queries, device)
    if not earth_pins(queries, device) and (behind or not part.metal_case):
        return
    if is_bonded(queries, device) is False or earth_root(queries) is None:
        subjects: tuple[Subject, ...] = (about(device),)
        mains = [
            port for port in part.ports
            if (port.kind == "motor phases" if behind
                else any(pin.function == "line" for pin in port.pins))
        ]  # fmt: skip
        joined = any(is_started(queries, PortRef(device=device, port=p.id)) for p in mains)
        if behind and joined:
            # A drive that nobody has begun to feed brings none yet.
            pins = (PinRef(device=device, port=p.id, pin=pin.id) for p in mains for pin in p.pins)
            joined = not any(waits_for_a_feed(queries, pin) for pin in pins)
        yield RuleOutput(
            f"{device} has metal and mains, and no protective earth.",
            subjects,
            fixes=_bonds(queries, device),
            unfinished=not joined,
        )


def _bonds(queries: Queries, device: str) -> tuple[Fix, ...]:
    """Its terminal for earth joined to that beside which its mains come from, to a free one, or to
    where earth comes in.
    """
    root, own = earth_root(queries), earth_pins(queries, device)
    if root is None or not own or root.device == device:
        return ()
    bonded = [
        pin for name in queries.devices() if name != device
        for pin in earth_pins(queries, name) if pin in queries.net(root)
    ]  # fmt: skip
    part = queries.part_of(device)
    beside = {
        other
        for port in (part.ports if part is not None else ())
        for other in neighbours_at(queries, PortRef(device=device, port=port.id))
    }
    if not bonded:
        return ()
    goal = min(bonded, key=lambda pin: (pin.port_ref not in beside, bool(queries.steps(pin))))
    words = f"join {pin_in_words(queries, own[0])} to {pin_in_words(queries, goal)}"
    return (Fix(words=words, remedy=PutConductor(first=own[0], second=goal)),)


@rule(
    id="supply.earth-size",
    consequence="Damage",
    scope="device",
    title="A protective earth is thinner than its mains",
    reason="In a fault the protective conductor carries what the mains conductor gives until the "
    "fuse blows; a thinner one burns off first and leaves the metal live.",
    source="IEC 60204-1 table 1: up to 16 mm² the cross-section of the line conductor; 2.5 mm² for "
    "a single wire without protection. The local code rules.",
)
def earth_size(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    areas: dict[str, tuple[float, str]] = {}
    for port in part.ports if part else ():
        for pin in port.pins:
            if pin.function not in ("line", "pe") or port.end != "device":
                continue
            for step in queries.steps(PinRef(device=device, port=port.id, pin=pin.id)):
                hookup = queries.hookup(step.hookup)
                cable = queries.cable(hookup.cable) if hookup and hookup.cable else None
                made_of = queries.cable_part(cable.part) if cable else None
                if cable is not None and made_of is not None:
                    areas[pin.function] = made_of.core_mm2, cable.id
    if "line" in areas and "pe" in areas and areas["pe"][0] < areas["line"][0]:
        area, cable_id = areas["pe"]
        yield RuleOutput(
            f"The protective earth of {device} has {in_area(area)}, its mains "
            f"{in_area(areas['line'][0])}.",
            (about(device), about_cable(cable_id)),
            value=area,
            limit=areas["line"][0],
            unit="mm²",
            over=False,
            fixes=(
                Fix(
                    words=f"take {in_area(areas['line'][0])} for {cable_id}",
                    remedy=SetGauge(cable=cable_id, core_mm2=areas["line"][0]),
                ),
            ),
        )


RULES = (
    earth_size,
    earth_joint,
    earth,
)
