"""What lies between the pins of a part that is no board: windings, contacts, held outputs."""

from collections.abc import Iterator

from vervain.catalogue.device_ports import SAFETY_OUTPUT
from vervain.catalogue.drafts import Draft
from vervain.catalogue.terminals import worked_by
from vervain.model.elements import Contact, Element, Winding
from vervain.model.part import Port


def device_inside(draft: Draft, ports: tuple[Port, ...]) -> list[Element]:
    """Windings of a motor between the pins of its phases, contacts of a switch."""
    found: list[Element] = []
    for port in ports:
        by_function: dict[str, list[str]] = {}
        for pin in port.pins:
            by_function.setdefault(pin.function, []).append(pin.id)
        if draft.kind == "stepper motor":
            found += [
                Winding(
                    pins=((port.id, a), (port.id, b)),
                    resistance_ohm=draft.numbers.get("resistance_ohm") or None,
                    inductance_h=draft.numbers.get("inductance_h") or None,
                )
                for a, b in _winding_ends(by_function)
            ]
        if draft.kind == "sensor":
            found += _held_outputs(port)
        if draft.kind == "switch" or port.kind == "contact":
            carries_a = draft.numbers.get("contact_max_a") or None
            for rest in ("NC", "NO"):
                for com, end in zip(
                    by_function.get("com", ()), by_function.get(rest.casefold(), ()), strict=False
                ):
                    found.append(
                        Contact(
                            pins=((port.id, com), (port.id, end)),
                            rest="NC" if rest == "NC" else "NO",
                            worked_by=worked_by(draft.title) if draft.kind == "switch" else "hand",
                            current_max_a=carries_a,
                        )
                    )
    return found


def _held_outputs(port: Port) -> Iterator[Contact]:
    """The safety outputs of a light curtain (OSSD, IEC 61496-1): each gives its plus while nobody
    reaches into it.
    """
    plus = next((pin.id for pin in port.pins if pin.function == "plus"), None)
    for pin in port.pins:
        if plus is not None and pin.function == "signal" and SAFETY_OUTPUT.match(pin.name):
            ends = ((port.id, plus), (port.id, pin.id))
            yield Contact(pins=ends, rest="NO", worked_by="beam")


def _winding_ends(by_function: dict[str, list[str]]) -> list[tuple[str, str]]:
    """The ends of each winding by the functions of the pins: a tapped coil is two windings."""
    found = []
    for phase in "AB":
        plus, minus = by_function.get(f"phase {phase}+", []), by_function.get(f"phase {phase}-", [])
        tap = by_function.get(f"centre tap {phase}", []) or by_function.get("com", [])
        if tap and plus and minus:
            found += [(plus[0], tap[0]), (tap[0], minus[0])]
        else:
            found += list(zip(plus, minus, strict=False))
    ends = [
        by_function[name][0] for name in ("phase U", "phase V", "phase W") if name in by_function
    ]
    if len(ends) == 3:
        found += [(ends[0], ends[1]), (ends[1], ends[2]), (ends[2], ends[0])]
    return found
