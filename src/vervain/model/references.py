"""Does everything a machine names exist, once? Each fault comes with its place in the file."""

from collections.abc import Callable, Iterator
from typing import NamedTuple

from vervain.model.colours import is_colour
from vervain.model.elements import Bridge
from vervain.model.known_options import option_faults
from vervain.model.machine import Cable, Device, Hookup, Machine, PortRef
from vervain.model.measurements import ALL_LEADS, BODY
from vervain.model.part import Part
from vervain.model.problem import did_you_mean

# The lists whose items are looked at one by one.
LISTS = ("devices", "hookups", "cables", "parts")


class Fault(NamedTuple):
    """A broken reference or a doubled name: place (a path in the file), what, and the remedy."""

    place: str
    what: str
    remedy: str


class Names(NamedTuple):
    """Everything in a machine that can be named: the part of each device (None for one that is not
    there), the pins of each port of each part, and the ids of the rest.
    """

    devices: dict[str, str]
    pins: dict[str, dict[str, frozenset[str]]]
    cables: dict[str, str]
    cores: dict[str, int]
    places: frozenset[str]
    axes: frozenset[str]
    runs: frozenset[str]

    def ports_of(self, device: str) -> dict[str, frozenset[str]] | None:
        """The pins of each port of a device; None where its part is not there."""
        return self.pins.get(self.devices.get(device, ""))


def names_of(machine: Machine) -> Names:
    """The names in a machine."""
    return Names(
        devices={device.designator: device.part for device in machine.devices},
        pins={
            part.id: {port.id: frozenset(pin.id for pin in port.pins) for port in part.ports}
            for part in machine.parts
        },
        cables={cable.id: cable.part for cable in machine.cables},
        cores={part.id: len(part.cores) for part in machine.cable_parts},
        places=frozenset(place.id for place in machine.places),
        axes=frozenset(axis.id for axis in machine.axes),
        runs=frozenset(run.id for run in machine.runs),
    )


def faults_of(machine: Machine, sound: Machine | None = None) -> Iterator[Fault]:
    """Every fault of a machine, in the order of the file. What it has in common with a machine
    that is `sound` need not be looked at again where both have the same names.
    """
    names = names_of(machine)
    is_known: Callable[[object], bool] = lambda _: False  # noqa: E731 - one of two
    if sound is not None and names == names_of(sound) and machine.parts == sound.parts:
        same = {id(item) for field in LISTS for item in getattr(sound, field)}
        is_known = lambda item: id(item) in same  # noqa: E731
    yield from _doubled(machine)
    for number, device in enumerate(machine.devices):
        if not is_known(device):
            yield from _device_faults(f"devices[{number}] {device.designator}", device, names)
    for number, axis in enumerate(machine.axes):
        for member in axis.members:
            if member not in names.devices:
                yield Fault(
                    f"axes[{number}] {axis.id}",
                    f"names the device “{member}”",
                    did_you_mean(member, names.devices),
                )
    for number, hookup in enumerate(machine.hookups):
        if not is_known(hookup):
            yield from _hookup_faults(f"hookups[{number}] {hookup.id}", hookup, names)
    for number, cable in enumerate(machine.cables):
        if not is_known(cable):
            yield from _cable_faults(f"cables[{number}] {cable.id}", cable, names)
    yield from _run_and_alternate_faults(machine, names)
    for number, part in enumerate(machine.parts):
        if not is_known(part):
            for what, remedy in part_faults(part):
                yield Fault(f"parts[{number}] {part.id}", what, remedy)


def _device_faults(place: str, device: Device, names: Names) -> Iterator[Fault]:
    """A part or a place that is not there; readings and coils that name leads which it has not."""
    ports = names.pins.get(device.part)
    if ports is None:
        yield Fault(place, f"names the part “{device.part}”", did_you_mean(device.part, names.pins))
    if device.place and device.place not in names.places:
        yield Fault(place, f"is at “{device.place}”", did_you_mean(device.place, names.places))
    for name in device.kept_ports:
        if ports is not None and name not in ports:
            yield Fault(place, f"keeps the port “{name}” free", did_you_mean(name, ports))
    named = [name for reading in device.readings for name in (reading.a, reading.b)]
    named += [name for coil in device.coils for name in coil]
    named += [name for test in device.series_tests for name in (*test.first, *test.second)]
    leads = {pin for pins in (ports or {}).values() for pin in pins} if named else set()
    for name in dict.fromkeys(named):
        if ports is not None and name not in leads and name not in (BODY, ALL_LEADS):
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


def _port_fault(place: str, ref: PortRef, names: Names) -> Fault | None:
    if ref.device not in names.devices:
        known = names.devices
        return Fault(place, f"names the device “{ref.device}”", did_you_mean(ref.device, known))
    ports = names.ports_of(ref.device)
    if ports is not None and ref.port not in ports:
        return Fault(
            place, f"names the port “{ref.port}” of {ref.device}", did_you_mean(ref.port, ports)
        )
    return None


def _hookup_faults(place: str, hookup: Hookup, names: Names) -> Iterator[Fault]:
    broken = [fault for ref in (hookup.a, hookup.b) if (fault := _port_fault(place, ref, names))]
    yield from broken
    if hookup.cable is not None and hookup.cable not in names.cables:
        known = names.cables
        yield Fault(place, f"uses the cable “{hookup.cable}”", did_you_mean(hookup.cable, known))
    if broken:
        return
    pins_a, pins_b = (
        (names.ports_of(ref.device) or {}).get(ref.port) for ref in (hookup.a, hookup.b)
    )
    cores = names.cores.get(names.cables.get(hookup.cable or "", ""))
    for row, conductor in enumerate(hookup.conductors):
        for ref, pin, pins in (
            (hookup.a, conductor.a, pins_a),
            (hookup.b, conductor.b, pins_b),
        ):
            if pins is not None and pin not in pins:
                yield Fault(
                    f"{place} conductors[{row}]",
                    f"names the pin “{pin}” of {ref.device} {ref.port}",
                    did_you_mean(pin, pins),
                )
        if conductor.core is not None and cores is not None and conductor.core > cores:
            yield Fault(
                place,
                f"uses core {conductor.core} of {hookup.cable}, which has {cores}",
                "Choose one of its cores.",
            )


def _cable_faults(place: str, cable: Cable, names: Names) -> Iterator[Fault]:
    cores = names.cores.get(cable.part)
    if cores is None:
        known = names.cores
        yield Fault(place, f"names the cable part “{cable.part}”", did_you_mean(cable.part, known))
    attached = (cable.attached_to,) if cable.attached_to else ()
    for ref in (*attached, *cable.shield_to):
        fault = _port_fault(place, ref, names)
        if fault:
            yield fault
    for mark in cable.marks:
        if cores is not None and mark.core > cores:
            yield Fault(place, f"marks core {mark.core}", "The cable has fewer cores.")
    for name in cable.runs:
        if name not in names.runs:
            yield Fault(place, f"lies in the run “{name}”", did_you_mean(name, names.runs))


def _run_and_alternate_faults(machine: Machine, names: Names) -> Iterator[Fault]:
    for number, run in enumerate(machine.runs):
        place = f"runs[{number}] {run.id}"
        for end in (run.a, run.b):
            if end not in names.places:
                yield Fault(place, f"ends at “{end}”", did_you_mean(end, names.places))
        if run.axis is not None and run.axis not in names.axes:
            what = f"moves with the axis “{run.axis}”"
            yield Fault(place, what, did_you_mean(run.axis, names.axes))
    for number, alternate in enumerate(machine.alternates):
        place = f"alternates[{number}]"
        named = ((place, alternate.device), *(
            (f"{place}.settings", setting.device) for setting in alternate.settings
        ))  # fmt: skip
        for where, device in named:
            if device not in names.devices:
                what = f"names the device “{device}”"
                yield Fault(where, what, did_you_mean(device, names.devices))
        fault = _port_fault(place, alternate.port, names)
        if fault:
            yield fault


def part_faults(part: Part) -> Iterator[tuple[str, str]]:
    """What is wrong inside one part: (what, remedy)."""
    pins = {(port.id, pin.id) for port in part.ports for pin in port.pins}
    if len({port.id for port in part.ports}) < len(part.ports):
        yield "has two ports of one name", "Rename one of them."
    for port in part.ports:
        if port.fed_by is not None and part.port(port.fed_by) is None:
            known = [other.id for other in part.ports]
            yield f"lets “{port.fed_by}” feed port {port.id}", did_you_mean(port.fed_by, known)
        if port.belongs_to is not None and part.port(port.belongs_to) is None:
            known = [other.id for other in part.ports]
            yield (
                f"lets port {port.id} belong to “{port.belongs_to}”",
                did_you_mean(port.belongs_to, known),
            )
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
    yield from option_faults(part)


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
