"""Rules about protective earth: shields that stand in for it, joints of 0 V with it."""

from collections.abc import Iterator

from vervain.checks.finding import about, about_cable
from vervain.checks.rule import Said, rule
from vervain.machine.look import Look
from vervain.machine.machine import PinRef
from vervain.machine.reach import joined_inside


@rule(
    id="signals.shield-as-earth",
    stage="Harness",
    consequence="Damage",
    scope="device",
    title="A shield is the only protective earth",
    reason="A shield is no protective conductor: its cross-section is not rated, and it comes off "
    "with the plug.",
    source="IEC 60204-1 8.2: protective conductors are cores of their own.",
)
def shield_as_earth(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or not part.metal_case:
        return
    earth = [
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in part.ports
        for pin in port.pins
        if pin.function == "pe"
    ]
    if not earth or any(len(look.net(ref)) > 1 for ref in earth):
        return
    shields = [
        cable
        for name in look.cables()
        if (cable := look.cable(name)) and any(ref.device == device for ref in cable.shield_to)
    ]
    if shields:
        yield Said(
            f"{device} has metal outside, and only the shield of {shields[0].id} to earth.",
            (about(device), about_cable(shields[0].id)),
        )


def _zero_group(look: Look, zero: PinRef) -> tuple[list[PinRef], int]:
    """The pins of a 0 V up to where it meets protective earth, and how many conductors meet it."""
    seen = {zero: None}
    waiting = [zero]
    joints: set[frozenset[PinRef]] = set()
    while waiting:
        here = waiting.pop()
        for step in look.steps(here):
            there = look.pin(step.end)
            if there is not None and there.function == "pe":
                joints.add(frozenset({here, step.end}))
            elif step.end not in seen:
                seen[step.end] = None
                waiting.append(step.end)
        for other in joined_inside(look, here):
            if other not in seen:
                seen[other] = None
                waiting.append(other)
    return list(seen), len(joints)


def _zero_of_mains_supply(look: Look, device: str) -> PinRef | None:
    """The negative of a supply that mains go into; None for anything else."""
    part = look.part_of(device)
    if part is None or part.kind != "supply":
        return None
    if not any(pin.function == "line" for port in part.ports for pin in port.pins):
        return None
    for port in part.ports:
        for pin in port.pins:
            if port.kind == "feed out" and pin.function == "zero":
                ref = PinRef(device=device, port=port.id, pin=pin.id)
                return ref if look.steps(ref) else None
    return None


@rule(
    id="signals.earth-joint",
    stage="Supply",
    consequence="Workmanship",
    scope="machine",
    title="0 V is joined to protective earth not once",
    reason="Joined once, an earth fault blows a fuse instead of bridging a switch. Joined twice, "
    "currents run through shields and frames; not at all, the whole circuit floats.",
    source="IEC 60204-1 9.4.3.1: one joint of the control circuit to protective earth.",
)
def earth_joint(look: Look, _: str) -> Iterator[Said]:
    zeros = [zero for name in look.devices() if (zero := _zero_of_mains_supply(look, name))]
    told: set[PinRef] = set()
    joined = False
    for zero in zeros:
        members, joints = _zero_group(look, zero)
        joined = joined or joints > 0
        if joints > 1 and not told & set(members):
            yield Said(
                f"0 V of {zero.device} is joined to protective earth {joints} times.",
                (about(zero),),
                detail=zero.device,
                consequence="Unreliable",
            )
        told |= set(members)
    if zeros and not joined:
        yield Said(
            f"0 V of {zeros[0].device} is joined to protective earth nowhere.",
            (about(zeros[0]),),
            detail="none",
        )


RULES = (
    shield_as_earth,
    earth_joint,
)
