"""Every table and field of a part file with its type and default, made from the types, as a page
of the documentation.
"""

import inspect
from collections.abc import Iterator

from msgspec import NODEFAULT
from msgspec import inspect as types

from vervain.model.cable_part import CablePart
from vervain.model.part import Part

# The tables that stand by themselves in a part file, and how they are written there.
ROOTS: dict[type, str] = {Part: "[[part]]", CablePart: "[[cable_part]]"}
TOP = """# Fields of part files

Made by `tools/make_docs.py` from the types; do not edit. What they are for, and the short forms, is
in [part-files.md](part-files.md). Units are the end of a name: `_mm`, `_m`, `_v`, `_a`, `_ohm`,
`_s`, `_hz`, `_w`.
"""
# Bounds beyond any part say nothing to whoever writes one.
MOST_SAID = 1e5


def part_fields_page() -> str:
    """Every table of a part file with its fields, as Markdown."""
    lines = [TOP]
    for kind in _tables():
        lines += [f"## {_heading(kind)}", "", _purpose(kind), ""]
        rows = list(_rows(kind))
        if rows:
            lines += ["| field | is | if left out |", "|---|---|---|", *rows, ""]
    return "\n".join(lines)


def _tables() -> list[type]:
    """The tables in the order in which they are met, each once."""
    found: list[type] = list(ROOTS)
    for kind in found:
        for field in _struct(kind).fields:
            found += [inner for inner in _inner(field.type) if inner not in found]
    return found


def _struct(kind: type) -> types.StructType:
    found = types.type_info(kind)
    assert isinstance(found, types.StructType)
    return found


def _inner(kind: types.Type) -> Iterator[type]:
    """The tables that a type holds."""
    match kind:
        case types.StructType():
            yield kind.cls
        case types.UnionType():
            for one in kind.types:
                yield from _inner(one)
        case types.VarTupleType() | types.ListType():
            yield from _inner(kind.item_type)
        case types.DictType():
            yield from _inner(kind.value_type)
        case _:
            return


def _heading(kind: type) -> str:
    tag = _struct(kind).tag
    return ROOTS.get(kind) or (f'{kind.__name__}, `type = "{tag}"`' if tag else kind.__name__)


def _purpose(kind: type) -> str:
    """What a table is, in the words of its type."""
    return inspect.cleandoc(kind.__doc__ or "").replace("\n", " ").replace("  ", "\n\n")


def _rows(kind: type) -> Iterator[str]:
    for field in _struct(kind).fields:
        if field.default is not NODEFAULT:
            default = _value(field.default)
        elif field.default_factory is not NODEFAULT:
            default = _value(field.default_factory())
        else:
            default = "needed"
        yield f"| `{field.encode_name}` | {_words(field.type)} | {default} |"


def _value(value: object) -> str:
    """A default in words."""
    if value in (None, "", (), {}):
        return "–"
    if isinstance(value, bool):
        return str(value).lower()
    return f"{value:g}" if isinstance(value, float) else str(value)


def _words(kind: types.Type) -> str:
    """A type in words."""
    match kind:
        case types.LiteralType():
            return "one of " + ", ".join(f"“{value}”" for value in kind.values)
        case types.UnionType():
            rest = [one for one in kind.types if not isinstance(one, types.NoneType)]
            return " or ".join(_words(one) for one in rest)
        case types.StructType():
            return f"a table: {_heading(kind.cls)}"
        case types.TupleType():
            return "[" + ", ".join(_words(one) for one in kind.item_types) + "]"
        case types.VarTupleType() | types.ListType():
            return f"a list, each {_words(kind.item_type)}"
        case types.DictType():
            return f"a table, each {_words(kind.value_type)}"
        case types.BoolType():
            return "true or false"
        case types.StrType():
            return "a text"
        case types.IntType() | types.FloatType():
            return _number(kind)
        case _:
            return type(kind).__name__


def _number(kind: types.IntType | types.FloatType) -> str:
    what = "a whole number" if isinstance(kind, types.IntType) else "a number"
    least, most = kind.ge, kind.le
    if least is not None:
        what += " above 0" if 0 < least < 1 else f" from {least:g}"
    if most is not None and most < MOST_SAID:
        what += f" to {most:g}"
    if kind.lt is not None:
        what += f" below {kind.lt:g}"
    return what
