"""The figures of a part: what a builder changes to make another one like it.

Which fields there are and their words is a table, data/tables/figures.toml. Alike ports are asked
once: a figure may stand at many pins.
"""

import tomllib
from collections.abc import Iterable, Iterator
from types import UnionType
from typing import Any, Literal, NamedTuple, Union, get_args, get_origin, get_type_hints

import msgspec
from msgspec.structs import replace

from vervain.data import data_text, table_reader
from vervain.model.base import Record, number_is_in_bounds
from vervain.model.colours import read_colour
from vervain.model.part import Option, Part, Pin, Port
from vervain.model.problem import Problem
from vervain.model.references import part_faults
from vervain.text.quantities import NotAQuantity, read_quantity

Path = tuple[str | int, ...]
Value = float | int | str | None
# What the last word of a field's name says about its unit.
UNITS = {
    "v": "V", "a": "A", "ohm": "ohm", "h": "H", "s": "s", "hz": "Hz", "w": "W", "m": "m",
    "f": "F", "ah": "Ah", "deg": "°",
}  # fmt: skip
RATINGS = ("stepper", "driver", "encoder", "battery", "controller")


class Figure(Record, frozen=True, kw_only=True):
    """A figure of a part: what it is of, in words, its unit, what it is now (None: not known), the
    words that it may be where it is a choice, and every place in the part where it stands.
    """

    where: str
    words: str
    unit: str
    value: Value
    choices: tuple[str, ...]
    paths: tuple[Path, ...]

    @property
    def key(self) -> str:
        """Its first place, as text: what tells it from the others of the part."""
        return ".".join(map(str, self.paths[0]))


class Holder(NamedTuple):
    """Something in a part that has figures: its name in the table, what it is in words, what makes
    it alike to another, where it is.
    """

    section: str
    words: str
    alike: object
    path: Path
    value: msgspec.Struct


@table_reader
def figure_words() -> dict[str, dict[str, str]]:
    """The fields of each thing in a part, in words."""
    return msgspec.convert(
        tomllib.loads(data_text("tables/figures.toml")), dict[str, dict[str, str]]
    )


def figures(part: Part) -> tuple[Figure, ...]:
    """Every figure of a part, in the order of the part: first of the whole, then of its ports."""
    alike: dict[object, list[Holder]] = {}
    for holder in _holders(part):
        given = tuple(getattr(holder.value, field, None) for field in _fields(holder.section))
        alike.setdefault((holder.section, holder.alike, given), []).append(holder)
    found = []
    for holders in alike.values():
        first = holders[0]
        types = get_type_hints(type(first.value))
        for field, words in _fields(first.section).items():
            # A builder's own table may name what there is not.
            if field not in types or not _is_asked(first, field):
                continue
            value = getattr(first.value, field)
            found.append(
                Figure(
                    where=_together([holder.words for holder in holders]),
                    words=words,
                    unit=_unit(first.value, field),
                    value=value,
                    choices=_choices(types[field]),
                    paths=tuple((*holder.path, field) for holder in holders),
                )
            )
    return tuple(found)


def _fields(section: str) -> dict[str, str]:
    return figure_words().get(section, {})


def read_figure(figure: Figure, typed: str) -> Value:
    """What was typed for a figure; "" is not known. Raises `Problem` with what is the matter."""
    text = typed.strip()
    if not text:
        return None
    if figure.choices:
        chosen = next((c for c in figure.choices if c.casefold() == text.casefold()), None)
        if chosen is None:
            raise Problem(f"“{text}” is none of {', '.join(figure.choices)}.")
        return int(chosen) if chosen.isdecimal() else chosen
    field = figure.paths[0][-1]
    if field == "lead":
        colour = read_colour(text)
        if colour is None:
            raise Problem(f"“{text}” is no colour.", remedy="Write it as BN or brown.")
        return colour
    if field == "connector":
        return text
    try:
        value = read_quantity(text, figure.unit)
    except NotAQuantity as problem:
        raise Problem(str(problem)) from None
    if not number_is_in_bounds(value):
        raise Problem(f"“{text}” is no figure of a part.")
    return int(value) if isinstance(figure.value, int) and value == int(value) else value


def with_figures(part: Part, changes: Iterable[tuple[Figure, Value]]) -> Part:
    """The part with other figures. Raises `Problem`, its place the figure that cannot be."""
    changed = part
    for figure, value in changes:
        for path in figure.paths:
            try:
                changed = _put(changed, path, value)
                msgspec.convert(msgspec.to_builtins(changed), Part)
            except msgspec.ValidationError:
                said = "left open" if value is None else f"“{value}”"
                raise Problem(f"{figure.words} cannot be {said}.", place=figure.where) from None
    fault = next(part_faults(changed), None)
    if fault is not None:
        raise Problem(f"It {fault[0]}.", remedy=fault[1])
    return changed


def figure_text(value: Value) -> str:
    """A figure as one types it; "" where it is not known."""
    if value is None:
        return ""
    return f"{value:.9g}" if isinstance(value, float) else str(value)


def _put(holder: Any, path: Path, value: Value) -> Any:
    """A structure with another value at a path."""
    head, rest = path[0], path[1:]
    if isinstance(head, int):
        return (*holder[:head], _put(holder[head], rest, value), *holder[head + 1 :])
    inner = _put(getattr(holder, head), rest, value) if rest else value
    return replace(holder, **{head: inner})


def _holders(part: Part) -> Iterator[Holder]:
    """Everything in a part that the table has figures of."""
    yield Holder("part", "the whole", "", (), part)
    for name in RATINGS:
        rating = getattr(part, name)
        if rating is not None:
            yield Holder(name, name, "", (name,), rating)
    for number, option in enumerate(part.options):
        yield Holder("option", option.title, option.id, ("options", number), option)
    for number, element in enumerate(part.inside):
        section = str(element.__struct_config__.tag)
        ends = " to ".join(_pin_words(part, at) for at in element.pins[:2])
        yield Holder(section, f"{section} {ends}", "", ("inside", number), element)
    for number, bank in enumerate(part.banks):
        yield Holder("bank", f"bank {bank.name}", bank.name, ("banks", number), bank)
    for number, port in enumerate(part.ports):
        yield from _port_holders(port, ("ports", number))


def _port_holders(port: Port, path: Path) -> Iterator[Holder]:
    """A port, its counter, and its pins with what is electrical in them."""
    yield Holder("port", port.id, port.kind, path, port)
    if port.counter is not None:
        yield Holder("counter", port.id, port.kind, (*path, "counter"), port.counter)
    for number, pin in enumerate(port.pins):
        at = (*path, "pins", number)
        words, alike = f"{port.id}, {pin.text}", (port.kind, pin.function)
        if pin.lead is not None:
            yield Holder("pin", words, (alike, port.id, pin.id), at, pin)
        limits = pin.electrical
        if limits is None:
            continue
        yield Holder(str(limits.__struct_config__.tag), words, alike, (*at, "electrical"), limits)
        opto = getattr(limits, "opto", None)
        if opto is not None:
            yield Holder("opto", words, alike, (*at, "electrical", "opto"), opto)


def _is_asked(holder: Holder, field: str) -> bool:
    """Whether a figure means anything here: leads only where there are any, and so on."""
    value = holder.value
    if isinstance(value, Option):
        return bool(value.unit)
    if isinstance(value, Port):
        leads = any(pin.lead for pin in value.pins)
        return field == "connector" or (
            leads if field == "lead_length_m" else _is_given(value, field)
        )
    if isinstance(value, Part):
        return _is_given(value, field)
    return True


def _is_given(value: msgspec.Struct, field: str) -> bool:
    return getattr(value, field) is not None


def _pin_words(part: Part, at: tuple[str, str]) -> str:
    port = part.port(at[0])
    pin: Pin | None = port.pin(at[1]) if port is not None else None
    name = pin.text if pin is not None else at[1]
    return name if len(part.ports) == 1 else f"{at[0]} {name}"


def _together(words: list[str]) -> str:
    """Where a figure stands, in short: "IN 1, OUT to IN 8, OUT (8)"."""
    if len(words) < 3:
        return " and ".join(words)
    return f"{words[0]} to {words[-1]} ({len(words)})"


def _unit(holder: msgspec.Struct, field: str) -> str:
    """The unit of a field, by its name; of an option the one that it gives."""
    if isinstance(holder, Option):
        return holder.unit
    if field == "trip_v_per_a":
        return "V/A"
    return UNITS.get(field.rpartition("_")[2], "") if "_" in field else ""


def _choices(wanted: Any) -> tuple[str, ...]:
    """The words that a field may be; none where it is a number or any text."""
    if get_origin(wanted) is Literal:
        return tuple(map(str, get_args(wanted)))
    if get_origin(wanted) in (Union, UnionType):
        return next((found for kind in get_args(wanted) if (found := _choices(kind))), ())
    return ()
