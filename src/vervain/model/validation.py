"""Can a machine be written and read again? What the file checks, and every edit beforehand."""

import re
from collections.abc import Iterator, Mapping
from typing import Any

import msgspec

from vervain.model.base import number_is_in_bounds
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.model.references import Fault, faults_of
from vervain.model.wanted import in_words, remedy_for

TROUBLE = re.compile(r"^(?P<what>.*?)(?: - at `\$?\.?(?P<where>.*)`)?$", re.DOTALL)
HALF_CHARACTER = re.compile("[\ud800-\udfff]")
NOTHING_DONE = "Nothing was changed."


def type_fault(error: msgspec.ValidationError, body: object) -> Fault:
    """What does not have the type that a document wants, with its place and the item's name."""
    match = TROUBLE.match(str(error))
    what, where = (match["what"], match["where"] or "the top") if match else (str(error), "")
    return Fault(
        where + item_name(body, where), in_words(what), remedy_for(what, where, Machine, body)
    )


def item_name(body: object, where: str) -> str:
    """The identifier of the list item that a path leads into, for people: " (M3)"."""
    match = re.match(r"(\w+)\[(\d+)\]", where)
    if not match or not isinstance(body, Mapping):
        return ""
    try:
        item = body[match[1]][int(match[2])]
    except (KeyError, IndexError, TypeError):
        return ""
    name = item.get("designator", item.get("id")) if isinstance(item, Mapping) else None
    return f" ({name})" if isinstance(name, str) else ""


def faults_of_edit(before: Machine, after: Machine) -> tuple[Fault, ...]:
    """What an edit made that no machine file can hold: values of a wrong type or out of bounds in
    what it changed, names that are not there or there twice. What was wrong before is not told.
    """
    body = _changed_values(before, after)
    faults = [fault for name, value in body.items() for fault in _value_faults(value, name)]
    if not faults:
        # Half a character cannot even be measured.
        try:
            msgspec.convert(body, Machine)
        except msgspec.ValidationError as error:
            faults.append(type_fault(error, body))
    if faults:
        # What has a wrong type cannot be looked into.
        return tuple(faults)
    broken = tuple(faults_of(after, sound=before))
    if broken:
        known = {(fault.what, fault.remedy) for fault in faults_of(before)}
        return tuple(fault for fault in broken if (fault.what, fault.remedy) not in known)
    return ()


def checked(before: Machine, after: Machine) -> Machine:
    """The machine after an edit. Raises `Problem` where no machine file could hold it."""
    faults = faults_of_edit(before, after)
    if faults:
        first = faults[0]
        raise Problem(
            f"No machine file can hold that: {first.place} {first.what}.",
            place=first.place,
            remedy=NOTHING_DONE,
        )
    return after


def _changed_values(before: Machine, after: Machine) -> dict[str, Any]:
    """What differs between two machines as plain values: of a list only its changed items."""
    found: dict[str, Any] = {"name": after.name}
    for field in Machine.__struct_fields__:
        old, new = getattr(before, field), getattr(after, field)
        if old is new:
            continue
        if isinstance(new, tuple):
            known = set(map(id, old))
            new = [item for item in new if id(item) not in known]
        found[field] = msgspec.to_builtins(new)
    return found


def _value_faults(value: object, where: str) -> Iterator[Fault]:
    """Numbers out of bounds and halves of characters in plain values."""
    if isinstance(value, str):
        if HALF_CHARACTER.search(value):
            yield Fault(where, "holds half a character (a lone surrogate)", "")
    elif isinstance(value, float | int) and not isinstance(value, bool):
        if not number_is_in_bounds(value):
            yield Fault(where, f"{value:g} is no number of a machine (1e-12 to 1e9)", "")
    elif isinstance(value, Mapping):
        for key, item in value.items():
            yield from _value_faults(str(key), where)
            yield from _value_faults(item, f"{where}.{key}")
    elif isinstance(value, list | tuple):
        for item in value:
            yield from _value_faults(item, where)
