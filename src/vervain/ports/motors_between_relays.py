"""A motor between two relays that each join one of its leads to plus or to 0 V: it turns either
way, and brakes while both rest.
"""

from collections.abc import Iterator

from vervain.model.machine import PinRef, PortRef
from vervain.model.part import PinFunction
from vervain.ports.called_alike import are_called_alike
from vervain.ports.spreading import Spread, Wire
from vervain.queries.connectivity import steps_from
from vervain.queries.machine_queries import Queries
from vervain.text.name_words import name_words, says

THROWS: tuple[PinFunction, ...] = ("no", "nc")


def turned_by_relays(queries: Queries, plug: PortRef) -> Spread | None:
    """A motor's two leads at the commons of the first two free relays of a module that is called as
    the motor is, with the throws of both relays joined side by side; None where there is none, or
    another motor is called so and would lack its own.
    """
    port = queries.port(plug)
    leads = [pin for pin in (port.pins if port is not None else ()) if pin.function != "pe"]
    if port is None or port.kind != "bridge motor" or len(leads) != 2:
        return None
    device, part = queries.device(plug.device), queries.part_of(plug.device)
    called = f"{device.name} / {part.title}" if device is not None and part is not None else ""
    if says(called, name_words().one_way):
        # What never turns back needs one relay, in its feed.
        return None
    for module in queries.devices():
        relays = _free_relays(queries, module)
        if len(relays) < 2 or not _are_alike(queries, plug.device, module):
            continue
        waiting = [name for name in _motors(queries) if _are_alike(queries, name, module)]
        if len(relays) < 2 * len(waiting):
            continue
        first, second = relays[:2]
        ours = [PinRef(device=plug.device, port=plug.port, pin=pin.id) for pin in leads]
        wires: list[Wire] = [(ours[0], first["com"]), (ours[1], second["com"])]
        wires += [(first[throw], second[throw]) for throw in THROWS]
        hosts = (first["com"].port_ref, second["com"].port_ref)
        return Spread(plug=plug, wires=tuple(wires), hosts=hosts)
    return None


def throws_of_motor(queries: Queries, lead: PinRef) -> tuple[PinRef, PinRef] | None:
    """The throws of the relay at a motor's lead that are joined to those of another one and fed by
    nothing yet: the one that closes and the one that opens. None where it hangs on no such relay.
    """
    for ref in queries.net(lead):
        relay = _relay_at(queries, ref.port_ref)
        if relay is None or relay["com"] != ref:
            continue
        ends = [relay[throw] for throw in THROWS]
        beside = [
            {step.end.port_ref for step in steps_from(queries, end)} for end in ends
        ]  # fmt: skip
        if len(beside[0]) == 1 and beside[0] == beside[1]:
            return ends[0], ends[1]
    return None


def _are_alike(queries: Queries, motor: str, module: str) -> bool:
    device = queries.device(module)
    return device is not None and are_called_alike(queries, motor, device.name)


def _motors(queries: Queries) -> Iterator[str]:
    """The brushed motors that nothing is joined to yet."""
    for name in queries.devices():
        part = queries.part_of(name)
        if part is not None and part.kind == "brushed motor" and not queries.hookups_of(name):
            yield name


def _free_relays(queries: Queries, module: str) -> list[dict[str, PinRef]]:
    """The changeover contacts of a relay module that nothing is joined to, by what its pins do."""
    part = queries.part_of(module)
    if part is None or part.kind != "relay module":
        return []
    ports = (PortRef(device=module, port=port.id) for port in part.ports)
    found = [relay for port in ports if (relay := _relay_at(queries, port)) is not None]
    return [r for r in found if not any(steps_from(queries, pin) for pin in r.values())]


def _relay_at(queries: Queries, ref: PortRef) -> dict[str, PinRef] | None:
    """The pins of a port that is a changeover contact, by what they do."""
    port = queries.port(ref)
    if port is None or port.kind != "relay contact":
        return None
    pins: dict[str, PinRef] = {
        pin.function: PinRef(device=ref.device, port=ref.port, pin=pin.id)
        for pin in port.pins
        if pin.function in ("com", *THROWS)
    }
    return pins if len(pins) == len(port.pins) == 3 else None
