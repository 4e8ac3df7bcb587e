"""Part files written: a new part in the short forms of docs/part-files.md, and a changed part put
into the text that is there, whose comments, order and short forms stay.
"""

from collections.abc import Iterator, Sequence
from contextlib import suppress
from itertools import groupby, pairwise
from typing import Any

import msgspec
import tomlkit
from tomlkit import TOMLDocument
from tomlkit.items import AoT, Array, InlineTable, Item, Table

from vervain.files.part_files import decode_parts
from vervain.files.problems import FileProblem
from vervain.model.cable_part import CablePart
from vervain.model.elements import Bridge, Element
from vervain.model.part import Part, Port

HEAD = "Made in Vervain; docs/part-files.md says what everything in it means. Edit it as you like."
Values = dict[str, Any]


def part_text(part: Part) -> str:
    """A part as the text of a part file of its own: alike ports once, pins one a line."""
    document = tomlkit.document()
    document.add(tomlkit.comment(HEAD))
    document.add(tomlkit.nl())
    for is_short in (True, False):
        parts = tomlkit.aot()
        parts.append(_part_table(part, is_short))
        document["part"] = parts
        text = tomlkit.dumps(document)
        if decode_parts(text, part.id).part == (part,):
            break
    return text


def cable_text(cable: CablePart) -> str:
    """A cable part as the text of a part file of its own."""
    document = tomlkit.document()
    document.add(tomlkit.comment(HEAD))
    cables = tomlkit.aot()
    cables.append(_table(msgspec.to_builtins(cable)))
    document["cable_part"] = cables
    return tomlkit.dumps(document)


def updated_text(text: str, part: Part) -> str:
    """The text of a part file with another version of one of its parts; what did not change stays
    as it is written. A part that it has not is added at its end. Raises `FileProblem` where the
    text is no part file.
    """
    old = next((p for p in decode_parts(text, part.id).part if p.id == part.id), None)
    if old is None:
        return f"{text.rstrip()}\n\n{part_text(part).partition(chr(10))[2].lstrip()}"
    if old == part:
        return text
    written = text
    for change in (_change, _rewrite_short, _rewrite):
        document = tomlkit.parse(text)
        parts = document["part"]
        assert isinstance(parts, AoT)
        at = next(n for n, table in enumerate(parts) if str(table.get("id")) == part.id)
        change(document, parts, at, old, part)
        written = tomlkit.dumps(document)
        with suppress(FileProblem):
            if part in decode_parts(written, part.id).part:
                break
    return written


# A new part.


def _part_table(part: Part, is_short: bool) -> Table:
    """A part as a table, its ports and what is inside as tables of their own."""
    values: Values = msgspec.to_builtins(part)
    ports, inside = values.pop("ports", ()), values.pop("inside", ())
    table = _table(values)
    joined = _joined_names(part) if is_short else ()
    if joined:
        table.add("joined", _array(list(joined)))
        inside = [
            value for value, element in zip(inside, part.inside, strict=True)
            if not (isinstance(element, Bridge) and _plain_bridge_name(part, element) in joined)
        ]  # fmt: skip
    if inside:
        table.add("inside", _array(list(inside), one_a_line=True))
    groups = list(_alike(part.ports)) if is_short else [(port,) for port in part.ports]
    by_id = {port["id"]: port for port in ports}
    written = tomlkit.aot()
    for group in groups:
        written.append(_port_table([by_id[port.id] for port in group]))
    if groups:
        table.add("ports", written)
    return table


def _port_table(ports: Sequence[Values]) -> Table:
    """Alike ports as one table with `ids`; a single one with `id`."""
    first = dict(ports[0])
    if len(ports) > 1:
        del first["id"]
        first = {"ids": [port["id"] for port in ports], **first}
        first["step_mm"] = round(ports[1].get("at_mm", 0) - ports[0].get("at_mm", 0), 6)
        if "belongs_to" in first:
            first["belongs_to"] = [port["belongs_to"] for port in ports]
    pins = [dict(pin) for pin in first.pop("pins")]
    for number, pin in enumerate(pins):
        if pin["id"] == str(number + 1):
            del pin["id"]
    table = _table(first)
    table.add("pins", _array(pins, one_a_line=True))
    return table


def _alike(ports: tuple[Port, ...]) -> Iterator[tuple[Port, ...]]:
    """The ports in runs that differ in their names and places only, at one distance."""
    run: list[Port] = []
    for port in ports:
        if run and not _goes_on(run, port):
            yield tuple(run)
            run = []
        run.append(port)
    if run:
        yield tuple(run)


def _goes_on(run: list[Port], port: Port) -> bool:
    if (run[0].belongs_to is None) != (port.belongs_to is None):
        return False
    own = {"id": port.id, "at_mm": port.at_mm, "belongs_to": port.belongs_to}
    if msgspec.structs.replace(run[0], **own) != port:
        return False
    step_mm = port.at_mm - run[-1].at_mm
    return all(abs(b.at_mm - a.at_mm - step_mm) < 1e-6 for a, b in pairwise(run))


def _joined_names(part: Part) -> tuple[str, ...]:
    """The names whose pins are all joined by a plain bridge."""
    names = (_plain_bridge_name(part, e) for e in part.inside if isinstance(e, Bridge))
    return tuple(dict.fromkeys(name for name in names if name))


def _plain_bridge_name(part: Part, bridge: Bridge) -> str:
    """The name that all pins of a bridge have and no other pin has; "" where there is none."""
    if bridge.name or bridge.when is not None:
        return ""
    named: dict[str, list[tuple[str, str]]] = {}
    for port in part.ports:
        for pin in port.pins:
            named.setdefault(pin.name, []).append((port.id, pin.id))
    return next((n for n, pins in named.items() if n and pins == list(map(tuple, bridge.pins))), "")


# A changed part.


def _rewrite(_document: TOMLDocument, parts: AoT, at: int, _old: Part, new: Part) -> None:
    """Writes a part anew in the place of the old one, without short forms."""
    parts[at] = _part_table(new, is_short=False)


def _rewrite_short(_document: TOMLDocument, parts: AoT, at: int, _old: Part, new: Part) -> None:
    """Writes a part anew in the place of the old one."""
    parts[at] = _part_table(new, is_short=True)


def _change(document: TOMLDocument, parts: AoT, at: int, old: Part, new: Part) -> None:
    """Changes in a written part what differs between two versions of it."""
    table, before, after = parts[at], msgspec.to_builtins(old), msgspec.to_builtins(new)
    if before.get("ports") != after.get("ports"):
        _change_ports(table, old, new)
    inside = after.get("inside", [])
    for values in (before, after):
        values.pop("ports", None), values.pop("inside", None)
    _change_values(table, before, after)
    _change_inside(document, table, new, list(inside))


def _change_inside(document: TOMLDocument, table: Table, new: Part, inside: list[Values]) -> None:
    """Changes what is written as inside a part beside its short forms; these go where they would
    make something that is not there any more.
    """

    def now() -> tuple[Element, ...]:
        found = decode_parts(tomlkit.dumps(document), new.id).part
        return next((part.inside for part in found if part.id == new.id), ())

    with suppress(FileProblem):
        if now() == new.inside:
            return
    if "inside" in table:
        table.remove("inside")
    short: tuple[Element, ...] | None = None
    with suppress(FileProblem):
        short = now()
    count = len(short) if short is not None else 0
    if count and new.inside[-count:] == short:
        inside = inside[:-count]
    else:
        for key in ("joined", "through_slots"):
            if key in table:
                table.remove(key)
    if inside:
        table["inside"] = _array(inside, one_a_line=True)


def _change_ports(table: Table, old: Part, new: Part) -> None:
    """Changes written ports: each stays in the table in which it was, unless it has become another
    than its fellows there.
    """
    written = table["ports"]
    assert isinstance(written, AoT)
    known = {port.id: port for port in old.ports}
    place_of = {str(name): place for place in written for name in _written_ids(place)}
    made, used = tomlkit.aot(), set[int]()
    for run in _runs_by_place(new.ports, place_of):
        place = place_of.get(run[0].id)
        if place is None or id(place) in used:
            made.append(_port_table([msgspec.to_builtins(port) for port in run]))
            continue
        used.add(id(place))
        _change_port(place, known[_first_id(place)], run)
        made.append(place)
    table["ports"] = made


def _written_ids(place: Table) -> list[str]:
    return [str(name) for name in place.get("ids", [place.get("id")])]


def _first_id(place: Table) -> str:
    return _written_ids(place)[0]


def _runs_by_place(
    ports: tuple[Port, ...], place_of: dict[str, Table]
) -> Iterator[tuple[Port, ...]]:
    """The ports in runs of alike ones that were written in one table."""
    for _, chunk in groupby(ports, key=lambda port: id(place_of.get(port.id))):
        yield from _alike(tuple(chunk))


def _change_port(place: Table, old: Port, run: tuple[Port, ...]) -> None:
    """Changes a table of alike ports to what they are now."""
    before, after = msgspec.to_builtins(old), msgspec.to_builtins(run[0])
    pins = before.pop("pins"), after.pop("pins")
    names = [port.id for port in run]
    if names != _written_ids(place):
        for key in ("id", "ids"):
            if key in place:
                place.remove(key)
        place.add(*(("ids", _array(list(names))) if len(names) > 1 else ("id", names[0])))
    for values in (before, after):
        values.pop("id"), values.pop("belongs_to", None)
    partners = [port.belongs_to for port in run if port.belongs_to is not None]
    if len(set(partners)) == 1 and not isinstance(place.get("belongs_to"), list):
        partners = partners[:1]
    if partners != place.get("belongs_to") and partners[:1] != [place.get("belongs_to")]:
        if "belongs_to" in place:
            place.remove("belongs_to")
        if partners:
            place["belongs_to"] = _array(list(partners)) if len(run) > 1 else partners[0]
    step_mm = round(run[1].at_mm - run[0].at_mm, 6) if len(run) > 1 else 0.0
    if step_mm != place.get("step_mm", 0):
        place["step_mm"] = step_mm
    _change_values(place, before, after)
    for number, (old_pin, new_pin) in enumerate(zip(*pins, strict=False)):
        _change_values(place["pins"][number], old_pin, new_pin)
    del place["pins"][len(pins[1]) :]
    for pin in pins[1][len(pins[0]) :]:
        place["pins"].append(_inline(pin))


def _change_values(table: Table | InlineTable, before: Values, after: Values) -> None:
    """Changes the fields of a table that differ, and of tables in it theirs."""
    for key in before.keys() - after.keys():
        if key in table:
            table.remove(key)
    for key, value in after.items():
        old = before.get(key)
        if old == value:
            continue
        there = table.get(key)
        if isinstance(value, dict) and isinstance(old, dict) and isinstance(there, dict):
            _change_values(there, old, value)  # type: ignore[arg-type]
        else:
            table[key] = _item(value)


# Values.


def _table(values: Values) -> Table:
    table = tomlkit.table()
    for key, value in values.items():
        table.add(key, _item(value))
    return table


def _item(value: Any) -> Item:
    """A value as it is written: tables in one line, tables in lists one a line."""
    if isinstance(value, dict):
        return _inline(value)
    if isinstance(value, list | tuple):
        return _array(list(value), one_a_line=any(isinstance(item, dict) for item in value))
    made: Item = tomlkit.item(value)
    return made


def _inline(values: Values) -> InlineTable:
    table = tomlkit.inline_table()
    for key, value in values.items():
        table.add(key, _array(list(value)) if isinstance(value, list | tuple) else _item(value))
    return table


def _array(values: list[Any], one_a_line: bool = False) -> Array:
    array = tomlkit.array()
    for value in values:
        array.append(_inline(value) if isinstance(value, dict) else _item(value))
    return array.multiline(one_a_line)
