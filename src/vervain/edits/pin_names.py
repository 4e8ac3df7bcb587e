"""Pins by the words that a builder writes: “K1 IN 7 S”, “K1 IN 7.3”, “T1 PUL”."""

from collections.abc import Iterator

from vervain.edits.device_edits import find_device, part_in
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part, Pin, Port
from vervain.model.problem import Problem


def folded(text: str) -> str:
    """Words as they are compared: without case, with single spaces, a minus written as a hyphen."""
    return " ".join(text.split()).casefold().replace("\N{MINUS SIGN}", "-")


def pin_of_device(machine: Machine, device: str, text: str) -> PinRef:
    """The pin of a device that a text means: “IN 7 0V”, “IN 7.3”, or a pin's own name where only
    one port has it. Raises `Problem` where there is none, or several.
    """
    found = pins_of_device(machine, device, text)
    if len(found) == 1:
        return found[0]
    ports = ", ".join(ref.port for ref in found[:4])
    raise Problem(
        f"“{text[:40]}” of {found[0].device} could be in {ports}.", remedy="Write port and pin."
    )


def pins_of_device(machine: Machine, device: str, text: str) -> tuple[PinRef, ...]:
    """The pins of a device that a text may mean: several where it is a name in more than one port,
    as that of both halves of an in-line connector is. Raises `Problem` where there is none.
    """
    wanted_device = folded(device)
    found = next((d for d in machine.devices if folded(d.designator) == wanted_device), None)
    if found is None:
        raise Problem(f"There is no device “{device[:40]}”.")
    part = part_in(machine, found)
    wanted = folded(text)
    matches: list[tuple[int, PinRef]] = []
    for port, pin in _pins(part):
        own = folded(port.name_of(pin))
        names = {own, *(folded(name) for name in (pin.id, pin.text, pin.lead or pin.id))}
        spelled = {f"{folded(port.id)}{mark}{name}": name for name in names for mark in (" ", ".")}
        if wanted in spelled or wanted in names:
            # As it is written here comes before a number or a colour: 2 at port 2, not its pin 2.
            rank = (1 + (spelled[wanted] == own)) if wanted in spelled else 0
            ref = PinRef(device=found.designator, port=port.id, pin=pin.id)
            matches.append((rank, ref))
    if not matches:
        raise Problem(f"{found.designator} has no pin “{text[:40]}”.")
    best = max(rank for rank, _ in matches)
    return tuple(ref for rank, ref in matches if rank == best)


def pin_written(machine: Machine, text: str) -> PinRef:
    """The pin that a text of device, port and pin means. Raises `Problem`."""
    if not text.strip():
        raise Problem("No pin is named.", remedy="Write device, port and pin: “K1 IN 7 S”.")
    device = text.split()[0].split(".")[0]
    rest = text.strip()[len(device) :].lstrip(" .")
    if not rest:
        find_device(machine, device.upper())
        raise Problem(f"Which pin of {device.upper()} is not said.", remedy="Write port and pin.")
    return pin_of_device(machine, device, rest)


def written(machine: Machine, ref: PinRef) -> str:
    """How a pin is written so that it is found again: by its name, with its number where several
    pins of its port have that name.
    """
    part = part_in(machine, find_device(machine, ref.device))
    port = part.port(ref.port) if part else None
    pin = port.pin(ref.pin) if port else None
    if port is None or pin is None:
        return f"{ref.device} {ref.port} {ref.pin}"
    return f"{ref.device} {ref.port} {port.name_of(pin)}"


def every_pin(machine: Machine) -> list[str]:
    """Every pin of a machine as it is written, device by device."""
    parts = {
        part.id: [f"{port.id} {port.name_of(pin)}" for port, pin in _pins(part)]
        for part in machine.parts
    }
    return [
        f"{device.designator} {name}"
        for device in machine.devices
        for name in parts.get(device.part, ())
    ]


def _pins(part: Part | None) -> Iterator[tuple[Port, Pin]]:
    for port in part.ports if part else ():
        for pin in port.pins:
            yield port, pin
