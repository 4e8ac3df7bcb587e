"""What differs between two machines, in words: the preview of a fix, and what a version holds."""

from typing import Any

from msgspec.structs import fields

from vervain.model.cable_part import CablePart
from vervain.model.machine import Cable, Conductor, Device, Hookup, Machine, PortRef
from vervain.model.part import Part
from vervain.queries.index import Index
from vervain.text.units import in_length

# Lists and values that are told in one line.
WHOLE_WORDS = {
    "state": "The words behind its name",
    "page": "The address of the page",
    "label_templates": "Forms of labels",
    "meter": "What the meter is",
    "allowances": "Allowances of cables",
    "alternates": "Alternates",
    "accepted": "Findings accepted",
    "printed": "Labels printed",
    "papers": "Papers printed",
    "reels": "Reels",
    "prices": "Prices",
    "currency": "Currency",
    "purchases": "Suppliers and numbers",
}


def changes(before: Machine, after: Machine) -> tuple[str, ...]:
    """Every difference of two machines, none where they are equal: devices with their settings,
    hookups, routes, cables, axes, then the machine as a whole.
    """
    old, new = Index(before), Index(after)
    found = [f"{name} is taken out" for name in old.devices if name not in new.devices]
    found += [f"{name} is added" for name in new.devices if name not in old.devices]
    for name, device in new.devices.items():
        known = old.devices.get(name)
        if known is not None and known != device:
            told = _device_changes(known, device, new.parts.get(device.part))
            found += told or [f"{name} changes"]
    for key, hookup in old.hookups.items():
        later = new.hookups.get(key)
        if later is None and {hookup.a.device, hookup.b.device} <= new.devices.keys():
            found.append(f"{_port(hookup.a)} is taken off {_port(hookup.b)}")
        elif later is not None and later != hookup:
            told = _hookup_changes(hookup, later, old, new)
            ends = f"Between {_port(later.a)} and {_port(later.b)} something changes"
            found += told or [ends]
    for key, hookup in new.hookups.items():
        if key not in old.hookups:
            found.append(f"{_port(hookup.a)} is joined to {_port(hookup.b)}")
    found += _route_changes(old, new)
    for key, cable in new.cables.items():
        if key not in old.cables:
            found.append(f"{key} is added: {new.cable_parts[cable.part].title}")
        earlier = old.cables.get(key)
        if earlier is not None and earlier != cable:
            told = _cable_changes(earlier, cable, old.cable_parts | new.cable_parts)
            found += told or [f"{key} changes"]
    found += [f"{key} is taken away" for key in old.cables if key not in new.cables]
    found += _axis_changes(before, after)
    found += _whole_changes(before, after)
    if not found and before != after:
        found.append("The order of its lists, or a part that nothing uses, changes")
    return tuple(found)


def _axis_changes(before: Machine, after: Machine) -> list[str]:
    """Axes that are new, gone, or differ in some field."""
    old, new = ({axis.id: axis for axis in machine.axes} for machine in (before, after))
    found = [f"Axis {key} goes" for key in old if key not in new]
    for key, axis in new.items():
        earlier = old.get(key)
        if earlier is None:
            found.append(f"Axis {key} is added")
        elif earlier != axis:
            found.append(f"Axis {key}: {', '.join(_differing(earlier, axis))}")
    return found


def _differing(old: Any, new: Any) -> list[str]:
    """The fields in which two records differ, each with what it was and is where that is short."""
    told = []
    for field in fields(old):
        before, after = getattr(old, field.name), getattr(new, field.name)
        if before != after:
            words = field.name.replace("_", " ")
            is_short = all(isinstance(v, str | float | int | None) for v in (before, after))
            told.append(f"{words} {_value(before)} → {_value(after)}" if is_short else words)
    return told


def _whole_changes(before: Machine, after: Machine) -> list[str]:
    """What differs of the machine as a whole, and of its lists that have no words of their own."""
    found = []
    if before.name != after.name:
        found.append(f"The machine is called “{after.name}”")
    if before.ambient_c != after.ambient_c:
        found.append(f"Around the cables: {before.ambient_c:g} → {after.ambient_c:g} °C")
    for field in ("parts", "cable_parts"):
        known = {part.id: part for part in getattr(before, field)}
        found += [
            f"{part.title} is another version of the part"
            for part in getattr(after, field)
            if part.id in known and known[part.id] != part
        ]
    for field, words in WHOLE_WORDS.items():
        old, new = getattr(before, field), getattr(after, field)
        if old == new:
            continue
        is_list = isinstance(old, tuple) and len(old) != len(new)
        found.append(f"{words}: {len(old)} → {len(new)}" if is_list else f"{words} change")
    return found


def _route_changes(old: Index, new: Index) -> list[str]:
    """What differs of places, runs, and where devices sit."""
    found = []
    for name, place in new.places.items():
        earlier = old.places.get(name)
        if earlier is None:
            found.append(f"Place {place.name} is added")
        elif earlier != place:
            held = "" if earlier.strain_relief == place.strain_relief else ": cables held there"
            found.append(f"Place {place.name} changes{held}")
    gone = [place.name for key, place in old.places.items() if key not in new.places]
    found += [f"Place {name} goes" for name in gone]
    for name, run in new.runs.items():
        before = old.runs.get(name)
        if before is None:
            found.append(f"{name} is laid, {in_length(run.length_m)}")
        elif before.length_m != run.length_m:
            found.append(
                f"Length of {name}: {in_length(before.length_m)} → {in_length(run.length_m)}"
            )
        elif before.chain != run.chain:
            chain = run.chain
            size = f"{chain.width_mm:g} × {chain.height_mm:g} mm" if chain else "none"
            found.append(f"Chain of {name}: {size}")
        elif before != run:
            found.append(f"{name} changes")
    found += [f"{name} goes" for name in old.runs if name not in new.runs]
    return found


def _port(ref: PortRef) -> str:
    return f"{ref.device} {ref.port}"


def _device_changes(old: Device, new: Device, part: Part | None) -> list[str]:
    found = []
    if old.name != new.name:
        found.append(f"{new.designator} is called “{new.name}”")
    if old.readings != new.readings:
        found.append(f"Readings at {new.designator}: {len(old.readings)} → {len(new.readings)}")
    if (old.turned_deg, old.turned_over) != (new.turned_deg, new.turned_over):
        over = ", turned over" if new.turned_over else ""
        found.append(f"{new.designator} lies turned by {new.turned_deg}°{over}")
    if old.place != new.place:
        found.append(f"{new.designator} moves to {new.place or 'no place'}")
    if old.measured_a != new.measured_a:
        told = (
            ", ".join(f"{state} {current_a:g} A" for state, current_a in new.measured_a.items())
            or "nothing"
        )
        found.append(f"Measured at {new.designator}: {told}")
    if old.series_tests != new.series_tests:
        count = f"{len(old.series_tests)} → {len(new.series_tests)}"
        found.append(f"Windings in series at {new.designator}: {count} tests")
    if old.trials != new.trials:
        found.append(f"Trials of {new.designator}: {len(old.trials)} → {len(new.trials)}")
    if old.coils != new.coils:
        coils = ", ".join("–".join(coil) for coil in new.coils) or "as the part says"
        found.append(f"Coils of {new.designator}: {coils}")
    for key in sorted({*old.settings, *new.settings}):
        before, after = old.settings.get(key), new.settings.get(key)
        if before == after:
            continue
        name, _, port = key.partition("/")
        option = part.option(name) if part else None
        if before is None and option is not None:
            before = option.default
        title = f"{option.title if option else name}{' at ' + port if port else ''}"
        unit = f" {option.unit}" if option and option.unit else ""
        found.append(f"{new.designator}: {title} {_value(before)} → {_value(after)}{unit}")
    return found


def _value(value: object) -> str:
    if value is None or value == "":
        return "none"
    return f"{value:g}" if isinstance(value, float) else str(value)


def _hookup_changes(old: Hookup, new: Hookup, before: Index, after: Index) -> list[str]:
    if (old.a, old.b) != (new.a, new.b):
        moved_from, moved_to = (old.a, new.a) if old.a != new.a else (old.b, new.b)
        return [f"{_port(moved_from)} → {_port(moved_to)}"]
    found = []
    for earlier, later in zip(old.conductors, new.conductors, strict=False):
        for side, ref in (("a", old.a), ("b", old.b)):
            pins = _pin_of(earlier, side), _pin_of(later, side)
            if pins[0] == pins[1]:
                continue
            texts = [
                _text(index, ref, pin) for index, pin in zip((before, after), pins, strict=True)
            ]
            what = f"core {later.core} of {new.cable}" if later.core else _far(old, side)
            found.append(f"{what} at {_port(ref)}: {texts[0]} → {texts[1]}")
    extra = len(new.conductors) - len(old.conductors)
    if extra:
        words = "added" if extra > 0 else "taken off"
        found.append(f"{abs(extra)} conductors {words} between {_port(old.a)} and {_port(old.b)}")
    return found


def _pin_of(conductor: Conductor, side: str) -> str:
    return conductor.a if side == "a" else conductor.b


def _far(hookup: Hookup, side: str) -> str:
    return hookup.b.device if side == "a" else hookup.a.device


def _text(index: Index, ref: PortRef, pin_id: str) -> str:
    device = index.devices.get(ref.device)
    part = index.parts.get(device.part) if device else None
    port = part.port(ref.port) if part else None
    pin = port.pin(pin_id) if port else None
    if pin is None:
        return pin_id
    return pin.lead or pin.text


def _cable_changes(old: Cable, new: Cable, cables: dict[str, CablePart]) -> list[str]:
    found = []
    if old.part != new.part:
        found.append(f"{new.id}: {cables[old.part].title} → {cables[new.part].title}")
    if old.length_m != new.length_m:
        before = "not given" if old.length_m is None else in_length(old.length_m)
        after = "not given" if new.length_m is None else in_length(new.length_m)
        found.append(f"Length of {new.id}: {before} → {after}")
    if old.shield_to != new.shield_to:
        ends = " and ".join(ref.device for ref in new.shield_to) or "nowhere"
        found.append(f"Shield of {new.id} joined at {ends}")
    if old.runs != new.runs:
        found.append(f"{new.id} is laid through {', '.join(new.runs) or 'the shortest way'}")
    if old.spares != new.spares:
        found.append(f"Spare cores of {new.id}: {new.spares or 'left open'}")
    if old.marks != new.marks:
        found.append(f"Labels written on cores of {new.id} change")
    return found
