"""What a newer version of a part changes, in words."""

from typing import Any

import msgspec

from vervain.model.part import Part, Pin, Port

FIELDS: tuple[tuple[str, str], ...] = (
    ("title", "Name"),
    ("maker", "Maker"),
    ("model", "Model"),
    ("kind", "Kind"),
    ("note", "Note"),
    ("stepper", "Motor"),
    ("driver", "Driver"),
    ("encoder", "Encoder"),
    ("controller", "Controller"),
)


def differences(old: Part, new: Part) -> tuple[str, ...]:
    """Every difference between two versions of a part: ratings, ports, pins, what is inside."""
    found = []
    for field, words in FIELDS:
        before, after = getattr(old, field), getattr(new, field)
        if before != after:
            found.append(f"{words}: {_value(before)} → {_value(after)}")
    old_ports = {port.id: port for port in old.ports}
    new_ports = {port.id: port for port in new.ports}
    found += [f"Port {name} is gone" for name in old_ports if name not in new_ports]
    for name, port in new_ports.items():
        if name not in old_ports:
            found.append(f"Port {name} is new")
        else:
            found += _port_differences(old_ports[name], port)
    if old.inside != new.inside:
        found.append("What is joined inside it changes")
    if old.indicators != new.indicators:
        found.append("What its lamps mean changes")
    if old.options != new.options:
        found.append("What can be set on it changes")
    return tuple(found)


def _port_differences(old: Port, new: Port) -> list[str]:
    before = {pin.id: pin for pin in old.pins}
    after = {pin.id: pin for pin in new.pins}
    found = [f"{new.id} pin {name} is gone" for name in before if name not in after]
    for name, pin in after.items():
        if name not in before:
            found.append(f"{new.id} pin {name} is new")
        else:
            found += [
                f"{new.id} pin {name}: {words}" for words in _pin_differences(before[name], pin)
            ]
    if (old.connector, old.kind) != (new.connector, new.kind):
        found.append(f"{new.id}: {old.connector or old.kind} → {new.connector or new.kind}")
    return found


def _pin_differences(old: Pin, new: Pin) -> list[str]:
    found = []
    if old.function != new.function:
        found.append(f"{old.function} → {new.function}")
    if old.lead != new.lead:
        found.append(f"colour {old.lead or 'none'} → {new.lead or 'none'}")
    if old.electrical != new.electrical:
        found.append(f"{_value(old.electrical)} → {_value(new.electrical)}")
    return found


def _value(value: Any) -> str:
    """A value in words: "none", or the fields that are given."""
    if value is None or value == "":
        return "none"
    if isinstance(value, msgspec.Struct):
        given = msgspec.to_builtins(value)
        return ", ".join(f"{key} {item}" for key, item in given.items() if key != "type")
    return str(value)
