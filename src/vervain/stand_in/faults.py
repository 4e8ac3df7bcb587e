"""Faults that are put into a simulated machine, each written as a line: what a builder does wrong,
and what breaks later.

    cut W18.3                     the wire with this label is broken
    short W18.3 W18.4             two wires touch
    exchange K1 IN 4 / K1 IN 5    two plugs have changed places
    swap T2 MOTOR 1 2             two wires of one plug have changed places
    turn K1 SERVO                 a plug is the wrong way round
    shift K1 IN 4                 a plug is one pin over
    unplug X18 A                  a plug hangs loose
    set T1 microsteps 8           a switch, jumper or parameter stands otherwise
"""

import re
from collections.abc import Callable
from typing import NamedTuple

from vervain.edits.device_edits import find_device, part_in, set_setting
from vervain.edits.plug_edits import (
    exchange_plugs,
    exchange_two,
    pins_of,
    shift_plug,
    take_conductor_off,
    turn_plug,
)
from vervain.harness.labels import core_name, labels
from vervain.model.machine import Machine, PinRef, PortRef, SettingValue, ends_of
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries

Touching = tuple[tuple[PinRef, PinRef], ...]
KINDS = "cut, short, exchange, swap, turn, shift, unplug, set"


class Faulty(NamedTuple):
    """A machine with its faults, and the pins that touch in it."""

    machine: Machine
    touching: Touching = ()


def with_faults(machine: Machine, lines: list[str]) -> Faulty:
    """A machine with the faults of some lines. Raises `Problem` for what is not understood, with
    the line.
    """
    faulty = Faulty(machine)
    # Wires are named as in the machine without faults: cutting one renames no other.
    names = _wire_names(Queries(machine))
    for line in lines:
        kind, _, rest = line.strip().partition(" ")
        act = _ACTS.get(kind)
        if act is None:
            raise Problem(f"“{line}” is no fault.", remedy=f"There are: {KINDS}.")
        faulty = act(faulty, rest.strip(), names)
    return faulty


def _wire_names(queries: Queries) -> dict[str, tuple[PinRef, PinRef]]:
    """The ends of every wire by its labels at both ends, and by the name of its core."""
    found: dict[str, tuple[PinRef, PinRef]] = {}
    for (hookup_id, row), entry in labels(queries).items():
        hookup = queries.hookup(hookup_id)
        if hookup is None:
            continue
        conductor = hookup.conductors[row]
        ends = ends_of(hookup, conductor)
        names = [entry.at_a, entry.at_b]
        if hookup.cable is not None:
            names.append(core_name(hookup.cable, conductor.core))
        for name in names:
            found.setdefault(name.casefold(), ends)
    return found


Names = dict[str, tuple[PinRef, PinRef]]


def _wire(names: Names, label: str) -> tuple[PinRef, PinRef]:
    ends = names.get(label.casefold())
    if ends is None:
        raise Problem(f"No wire has the label “{label}”.")
    return ends


def _port(machine: Machine, words: str) -> PortRef:
    """A port written as device and port: "K1 IN 4"."""
    name, _, port_id = words.strip().partition(" ")
    part = part_in(machine, find_device(machine, name))
    if part is None or part.port(port_id) is None:
        known = ", ".join(port.id for port in part.ports[:12]) if part else ""
        raise Problem(f"{name} has no port “{port_id}”.", remedy=f"It has {known}.")
    return PortRef(device=name, port=port_id)


def _cut(faulty: Faulty, rest: str, names: Names) -> Faulty:
    wanted = set(_wire(names, rest))
    for hookup in faulty.machine.hookups:
        for row, conductor in enumerate(hookup.conductors):
            if set(ends_of(hookup, conductor)) == wanted:
                cut = take_conductor_off(faulty.machine, hookup.id, row)
                return faulty._replace(machine=cut)
    raise Problem(f"“{rest}” is off already.")


def _short(faulty: Faulty, rest: str, names: Names) -> Faulty:
    labels_ = rest.split()
    if len(labels_) != 2:
        raise Problem("A short is between two wires.", remedy="As in: short W18.3 W18.4")
    first, second = (_wire(names, label)[0] for label in labels_)
    return faulty._replace(touching=(*faulty.touching, (first, second)))


def _exchange(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    first, mark, second = rest.partition("/")
    if not mark:
        raise Problem("Two plugs are exchanged.", remedy="As in: exchange K1 IN 4 / K1 IN 5")
    ports = _port(faulty.machine, first), _port(faulty.machine, second)
    return faulty._replace(machine=exchange_plugs(faulty.machine, *ports))


def _swap(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    found = re.fullmatch(r"(.+) (\S+) (\S+)", rest)
    if found is None:
        raise Problem("Two pins of a plug are swapped.", remedy="As in: swap T2 MOTOR 1 2")
    port = _port(faulty.machine, found[1])
    known = pins_of(faulty.machine, port)
    for pin in found.group(2, 3):
        if pin not in known:
            raise Problem(f"{port.device} {port.port} has no pin “{pin}”.",
                          remedy=f"It has {', '.join(known)}.")  # fmt: skip
    return faulty._replace(machine=exchange_two(faulty.machine, port, found[2], found[3]))


def _turn(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    return faulty._replace(machine=turn_plug(faulty.machine, _port(faulty.machine, rest)))


def _shift(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    return faulty._replace(machine=shift_plug(faulty.machine, _port(faulty.machine, rest), 1))


def _unplug(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    machine, port = faulty.machine, _port(faulty.machine, rest)
    for hookup in machine.hookups:
        if port in (hookup.a, hookup.b):
            for row in reversed(range(len(hookup.conductors))):
                machine = take_conductor_off(machine, hookup.id, row)
    return faulty._replace(machine=machine)


def _set(faulty: Faulty, rest: str, _names: Names) -> Faulty:
    """A device, the id of an option (and perhaps /port), and the value."""
    found = re.fullmatch(r"(\S+) (\S+) (.+)", rest)
    if found is None:
        raise Problem("A setting is set to a value.", remedy="As in: set T1 microsteps 8")
    device, key, text = found.groups()
    value: SettingValue = text
    part = part_in(faulty.machine, find_device(faulty.machine, device))
    option = part.option(key.partition("/")[0]) if part else None
    if option is not None and not option.choices:
        try:
            value = float(text)
        except ValueError:
            raise Problem(f"“{text}” is no number.") from None
    return faulty._replace(machine=set_setting(faulty.machine, device, key, value))


_ACTS: dict[str, Callable[[Faulty, str, Names], Faulty]] = {
    "cut": _cut, "short": _short, "exchange": _exchange, "swap": _swap, "turn": _turn,
    "shift": _shift, "unplug": _unplug, "set": _set,
}  # fmt: skip
