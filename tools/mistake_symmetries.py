"""What of a device may change places without anything being different: no mistake of the table."""

from collections.abc import Iterator
from itertools import combinations, permutations

from vervain.model.elements import Contact, Fuse, Resistor, Winding
from vervain.model.machine import PinRef
from vervain.model.part import Part


def symmetries(part: Part, device: str) -> Iterator[dict[PinRef, PinRef]]:
    """The ways in which pins of a device can change places without anything being different."""

    def ref(at: tuple[str, str]) -> PinRef:
        return PinRef(device=device, port=at[0], pin=at[1])

    flips = []
    for element in part.inside:
        if isinstance(element, Contact | Fuse | Resistor) or (
            isinstance(element, Winding) and part.kind != "brushed motor"
        ):
            a, b = map(ref, element.pins)
            flips.append({a: b, b: a})
    for port in part.ports:
        free = any(
            getattr(pin.electrical, "polarity_free", False) or pin.function.startswith("sense")
            for pin in port.pins
        )
        if free and len(port.pins) == 2:
            a, b = (ref((port.id, pin.id)) for pin in port.pins)
            flips.append({a: b, b: a})
    yield from flips
    for first, second in combinations(flips, 2):
        if not set(first) & set(second):
            yield first | second
    contacts = [element for element in part.inside if isinstance(element, Contact)]
    for one, two in combinations(contacts, 2):
        if (one.rest, one.worked_by) == (two.rest, two.worked_by) and not (
            set(one.pins) & set(two.pins)
        ):
            for ends in (two.pins, two.pins[::-1]):
                there = dict(zip(map(ref, one.pins), map(ref, ends), strict=True))
                yield there | {b: a for a, b in there.items()}
    yield from _port_symmetries(part, device)
    yield from _line_symmetries(part, device)
    for pins in _motor_pins(part, device):
        yield from _phase_symmetries(pins)


def _motor_pins(part: Part, device: str) -> Iterator[dict[str, PinRef]]:
    """The phases of each motor plug; of all together where every phase is a terminal of its own."""
    ports = [port for port in part.ports if port.kind == "motor phases"]
    groups = [ports] if all(len(port.pins) == 1 for port in ports) else [[port] for port in ports]
    for group in groups:
        yield {
            pin.function: PinRef(device=device, port=port.id, pin=pin.id)
            for port in group
            for pin in port.pins
        }


def _port_symmetries(part: Part, device: str) -> Iterator[dict[PinRef, PinRef]]:
    """Ports of one host that are alike: which is which, the settings sheet says."""
    for one, two in combinations(part.ports, 2):
        alike = [(p.function, p.electrical, p.abilities) for p in one.pins] == [
            (p.function, p.electrical, p.abilities) for p in two.pins
        ]
        if one.kind == two.kind and one.end == two.end != "through" and alike:
            there = {
                PinRef(device=device, port=one.id, pin=a.id): PinRef(
                    device=device, port=two.id, pin=b.id
                )
                for a, b in zip(one.pins, two.pins, strict=True)
            }
            yield there | {b: a for a, b in there.items()}


def _line_symmetries(part: Part, device: str) -> Iterator[dict[PinRef, PinRef]]:
    """The lines of the mains at a heater: no field turns in it."""
    for port in part.ports if part.kind == "heater" else ():
        lines = [
            PinRef(device=device, port=port.id, pin=pin.id)
            for pin in port.pins if pin.function == "line"
        ]  # fmt: skip
        for order in permutations(lines):
            yield dict(zip(lines, order, strict=True))


def _phase_symmetries(by_function: dict[str, PinRef]) -> Iterator[dict[PinRef, PinRef]]:
    ref = by_function.__getitem__
    ends = ("phase U", "phase V", "phase W")
    if set(ends) <= set(by_function):
        for order in permutations(ends):
            yield {ref(a): ref(b) for a, b in zip(ends, order, strict=True)}
        return
    a, b = ("phase A+", "phase A-"), ("phase B+", "phase B-")
    if not {*a, *b} <= set(by_function):
        return
    for first, second in ((a, b), (b, a)):
        for one in (first, first[::-1]):
            for two in (second, second[::-1]):
                yield {ref(x): ref(y) for x, y in zip((*a, *b), (*one, *two), strict=True)}
