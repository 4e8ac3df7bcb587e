"""Protective earth as a tree of its own: what is bonded to where mains comes in, what is not."""

from collections import defaultdict

from vervain.electrical.mains import has_mains, lines_of_taker, mains_entries
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import host_ports, steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import reached
from vervain.supply.feed_tree import Branch, FeedTree, in_order


def earth_pins(queries: Queries, device: str) -> tuple[PinRef, ...]:
    """The protective earth pins of a device."""
    part = queries.part_of(device)
    return tuple(
        PinRef(device=device, port=port.id, pin=pin.id)
        for port in (part.ports if part else ())
        for pin in port.pins
        if pin.function == "pe"
    )


@query
def works_on_mains(queries: Queries, device: str) -> bool:
    """Whether mains comes into a device, or to the phases of this motor, or a drive that it comes
    into turns it: its phases have the voltage of the mains against earth.
    """
    if has_mains(queries, device) or any(lines_of_taker(queries, device).values()):
        return True
    part = queries.part_of(device)
    phases = (port for port in (part.ports if part else ()) if port.kind == "motor phases")
    return any(
        has_mains(queries, host.device)
        for port in phases
        if port.end == "device"
        for host in host_ports(queries, PortRef(device=device, port=port.id))
    )


@query
def earth_root(queries: Queries) -> PinRef | None:
    """Where protective earth comes in: the mains terminals, of several those that no others feed;
    else where most hangs on it.
    """
    found: list[tuple[bool, bool, int, PinRef]] = []
    for device in queries.devices():
        part = queries.part_of(device)
        strip = part is not None and part.kind == "terminal strip" and has_mains(queries, device)
        for pin in earth_pins(queries, device):
            comes_in = pin in mains_entries(queries)
            found.append((strip, comes_in, len(queries.net(pin)), pin))
    if not found:
        return None
    return max(found, key=lambda item: item[:3])[3]


@query
def is_bonded(queries: Queries, device: str) -> bool | None:
    """Whether a device's protective earth reaches where it comes in; None where it has none."""
    pins, root = earth_pins(queries, device), earth_root(queries)
    if not pins or root is None:
        return None
    net = set(queries.net(root))
    return any(pin in net for pin in pins)


@query
def earth_tree(queries: Queries) -> FeedTree | None:
    """The bonded devices from where earth comes in, each behind the one that it is joined to, and
    after them those that are not bonded. None in a machine without protective earth.
    """
    root = earth_root(queries)
    if root is None:
        return None

    def bonds(device: str) -> dict[str, PinRef]:
        """The devices that hang on one by a bond, each with the pin that it comes to."""
        found: dict[str, PinRef] = {}
        for pin in earth_pins(queries, device):
            for step in steps_from(queries, pin):
                there = queries.pin(step.end)
                if there is not None and there.function == "pe":
                    found.setdefault(step.end.device, step.end)
        return found

    came_from = reached([root.device], bonds)
    behind: dict[str, list[tuple[str, PinRef]]] = defaultdict(list)
    for device, before in came_from.items():
        if before is not None:
            behind[before].append((device, bonds(before)[device]))

    found = [Branch(kind="earth", device=root.device, pin=root, label="PE", note=root.device)]
    for (device, pin), depth in in_order((root.device, root), lambda item: behind[item[0]]):
        if depth:
            found.append(_bonded(device, pin, depth, "bonded"))
    loose = (d for d in queries.devices() if earth_pins(queries, d) and d not in came_from)
    found.extend(
        _bonded(device, earth_pins(queries, device)[0], 1, "not bonded") for device in loose
    )
    return FeedTree(tuple(found))


def _bonded(device: str, pin: PinRef, depth: int, note: str) -> Branch:
    return Branch(kind="device", device=device, pin=pin, label=device, depth=depth, note=note)
