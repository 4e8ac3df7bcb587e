"""Does everything a machine names exist, once? Each fault comes with its place in the file."""

from collections.abc import Iterable, Iterator
from typing import NamedTuple

from vervain.machine.colours import is_colour
from vervain.machine.evidence import BODY
from vervain.machine.inside import Bridge
from vervain.machine.machine import Device, Hookup, Machine, PortRef
from vervain.machine.part import Part


class Fault(NamedTuple):
    """A broken reference or a doubled name: place (a path in the file), what, and the remedy."""

    place: str
    what: str
    remedy: str


def did_you_mean(name: str, known: Iterable[str]) -> str:
    """A remedy for an unknown name: the nearest known one, if there is one near."""

    from difflib import get_close_matches

    near = get_close_matches(name, list(known), n=1)
    return f"Did you mean “{near[0]}”?" if near else "Correct the name or remove the line."


def faults_of(machine: Machine) -> Iterator[Fault]:
    """Every fault of a machine, in the order of the file."""
    yield from _doubled(machine)
    parts = {part.id: part for part in machine.parts}
    devices = {device.designator: parts.get(device.part) for device in machine.devices}
    for number, device in enumerate(machine.devices):
        place = f"devices[{number}] {device.designator}"
        if device.part not in parts:
            yield Fault(place, f"names the part “{device.part}”", did_you_mean(device.part, parts))
        if device.place and device.place not in {spot.id for spot in machine.places}:
            known = [spot.id for spot in machine.places]
            yield Fault(place, f"is at “{device.place}”", did_you_mean(device.place, known))
        yield from _lead_faults(place, device, parts.get(device.part))
    for number, axis in enumerate(machine.axes):
        for member in axis.members:
            if member not in devices:
                yield Fault(
                    f"axes[{number}] {axis.id}",
                    f"names the device “{member}”",
                    did_you_mean(member, devices),
                )
    yield from _hookup_faults(machine, devices)
    yield from _cable_faults(machine, devices)
    yield from _run_and_alternate_faults(machine, devices)
    yield from _part_faults(machine.parts)


def _lead_faults(place: str, device: Device, part: Part | None) -> Iterator[Fault]:
    """Readings and coils that name leads which the device has not."""
    leads = {pin.id for port in (part.ports if part else ()) for pin in port.pins}
    named = [name for reading in device.readings for name in (reading.a, reading.b)]
    named += [name for coil in device.coils for name in coil]
    named += [name for test in device.series_tests for name in (*test.first, *test.second)]
    for name in dict.fromkeys(named):
        if part is not None and name not in leads and name != BODY:
            yield Fault(place, f"has no lead “{name}”", did_you_mean(name, leads))


def _doubled(machine: Machine) -> Iterator[Fault]:
    groups: dict[str, list[str]] = {
        "places": [item.id for item in machine.places],
        "runs": [item.id for item in machine.runs],
        "axes": [item.id for item in machine.axes],
        "devices": [item.designator for item in machine.devices],
        "hookups": [item.id for item in machine.hookups],
        "cables": [item.id for item in machine.cables],
        "parts": [item.id for item in machine.parts],
        "cable_parts": [item.id for item in machine.cable_parts],
        "reels": [item.id for item in machine.reels],
    }
    for group, names in groups.items():
        seen: set[str] = set()
        for number, name in enumerate(names):
            if name in seen:
                yield Fault(f"{group}[{number}]", f"“{name}” is there twice", "Rename one of them.")
            seen.add(name)


def _port_fault(place: str, ref: PortRef, devices: dict[str, Part | None]) -> Fault | None:
    if ref.device not in devices:
        return Fault(place, f"names the device “{ref.device}”", did_you_mean(ref.device, devices))
    part = devices[ref.device]
    if part is not None and part.port(ref.port) is None:
        known = [port.id for port in part.ports]
        return Fault(
            place, f"names the port “{ref.port}” of {ref.device}", did_you_mean(ref.port, known)
        )
    return None


def _hookup_faults(machine: Machine, devices: dict[str, Part | None]) -> Iterator[Fault]:
    cables = {cable.id for cable in machine.cables}
    for number, hookup in enumerate(machine.hookups):
        place = f"hookups[{number}] {hookup.id}"
        broken = [
            fault for ref in (hookup.a, hookup.b) if (fault := _port_fault(place, ref, devices))
        ]
        yield from broken
        if hookup.cable is not None and hookup.cable not in cables:
            yield Fault(
                place, f"uses the cable “{hookup.cable}”", did_you_mean(hookup.cable, cables)
            )
        if not broken:
            yield from _pin_faults(place, hookup, devices)


def _pin_faults(place: str, hookup: Hookup, devices: dict[str, Part | None]) -> Iterator[Fault]:
    for row, conductor in enumerate(hookup.conductors):
        for ref, pin in ((hookup.a, conductor.a), (hookup.b, conductor.b)):
            part = devices[ref.device]
            port = part.port(ref.port) if part else None
            if port is not None and port.pin(pin) is None:
                yield Fault(
                    f"{place} conductors[{row}]",
                    f"names the pin “{pin}” of {ref.device} {ref.port}",
                    did_you_mean(pin, [known.id for known in port.pins]),
                )


def _cable_faults(machine: Machine, devices: dict[str, Part | None]) -> Iterator[Fault]:
    kinds = {part.id: part for part in machine.cable_parts}
    cores = {
        cable.id: len(kinds[cable.part].cores) for cable in machine.cables if cable.part in kinds
    }
    for number, cable in enumerate(machine.cables):
        place = f"cables[{number}] {cable.id}"
        if cable.part not in kinds:
            yield Fault(
                place, f"names the cable part “{cable.part}”", did_you_mean(cable.part, kinds)
            )
        attached = (cable.attached_to,) if cable.attached_to else ()
        for ref in (*attached, *cable.shield_to):
            fault = _port_fault(place, ref, devices)
            if fault:
                yield fault
        for mark in cable.marks:
            if mark.core > cores.get(cable.id, mark.core):
                yield Fault(place, f"marks core {mark.core}", "The cable has fewer cores.")
    for number, hookup in enumerate(machine.hookups):
        for conductor in hookup.conductors:
            count = cores.get(hookup.cable or "")
            if conductor.core is not None and count is not None and conductor.core > count:
                yield Fault(
                    f"hookups[{number}] {hookup.id}",
                    f"uses core {conductor.core} of {hookup.cable}, which has {count}",
                    "Choose one of its cores.",
                )


def _run_and_alternate_faults(machine: Machine, devices: dict[str, Part | None]) -> Iterator[Fault]:
    places = {spot.id for spot in machine.places}
    for number, run in enumerate(machine.runs):
        for end in (run.a, run.b):
            if end not in places:
                yield Fault(
                    f"runs[{number}] {run.id}", f"ends at “{end}”", did_you_mean(end, places)
                )
        axes = [axis.id for axis in machine.axes]
        if run.axis is not None and run.axis not in axes:
            what = f"moves with the axis “{run.axis}”"
            yield Fault(f"runs[{number}] {run.id}", what, did_you_mean(run.axis, axes))
    runs = {run.id for run in machine.runs}
    for number, cable in enumerate(machine.cables):
        for name in cable.runs:
            if name not in runs:
                place = f"cables[{number}] {cable.id}"
                yield Fault(place, f"lies in the run “{name}”", did_you_mean(name, runs))
    for number, alternate in enumerate(machine.alternates):
        place = f"alternates[{number}]"
        if alternate.device not in devices:
            yield Fault(
                place,
                f"names the device “{alternate.device}”",
                did_you_mean(alternate.device, devices),
            )
        for setting in alternate.settings:
            if setting.device not in devices:
                yield Fault(
                    f"{place}.settings",
                    f"names the device “{setting.device}”",
                    did_you_mean(setting.device, devices),
                )
        fault = _port_fault(place, alternate.port, devices)
        if fault:
            yield fault


def _part_faults(parts: tuple[Part, ...]) -> Iterator[Fault]:
    for number, part in enumerate(parts):
        for what, remedy in part_faults(part):
            yield Fault(f"parts[{number}] {part.id}", what, remedy)


def part_faults(part: Part) -> Iterator[tuple[str, str]]:
    """What is wrong inside one part: (what, remedy)."""
    pins = {(port.id, pin.id) for port in part.ports for pin in port.pins}
    if len({port.id for port in part.ports}) < len(part.ports):
        yield "has two ports of one name", "Rename one of them."
    for port in part.ports:
        if len({pin.id for pin in port.pins}) < len(port.pins):
            yield f"has two pins of one name in port {port.id}", "Number the pins."
        for pin in port.pins:
            if pin.lead is not None and not is_colour(pin.lead):
                yield (
                    f"gives pin {pin.id} of {port.id} the colour “{pin.lead}”",
                    "Use the letters of IEC 60757, such as BN or WHBN.",
                )
    for element in part.inside:
        for at in element.pins:
            if tuple(at) not in pins:
                yield f"joins the pin {at[1]} of port {at[0]} inside, which it has not", ""
    yield from _option_faults(part)


def _option_faults(part: Part) -> Iterator[tuple[str, str]]:
    """Options and ports that are named but not there."""
    options = {option.id: option for option in part.options}
    named = [(e.when[0], e.when[1]) for e in part.inside if isinstance(e, Bridge) and e.when]
    named += [(item.option, item.value) for port in part.ports for item in port.reserved]
    for option_id, value in dict.fromkeys(named):
        option = options.get(option_id)
        if option is None:
            yield f"names the option “{option_id}”", did_you_mean(option_id, options)
        elif value not in option.choices:
            remedy = did_you_mean(value, option.choices)
            yield f"names the choice “{value}” of {option_id}", remedy
    for option in part.options:
        drawn = option.drawn
        for choice in drawn.positions if drawn else ():
            if choice not in option.choices:
                remedy = did_you_mean(choice, option.choices)
                yield f"draws {option.id} at “{choice}”, which is no choice of it", remedy
        for port_id in option.ports:
            if part.port(port_id) is None:
                known = [port.id for port in part.ports]
                yield f"sets {option.id} for the port “{port_id}”", did_you_mean(port_id, known)
