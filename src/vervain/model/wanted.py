"""What a document wants at a place: the words and fields that are allowed there, as a remedy."""

import re
from collections.abc import Mapping
from difflib import get_close_matches
from types import UnionType
from typing import Annotated, Any, Literal, Union, get_args, get_origin, get_type_hints

import msgspec

STEP = re.compile(r"\[(\d+|\.\.\.)\]|([^.\[\]]+)")
NAMED = re.compile(r"[`'](?P<name>[^`']*)[`']")
MOST_WORDS = 40
# What msgspec says, in a builder's words; `{}` is what it names.
SAID: tuple[tuple[str, str], ...] = (
    (r"Invalid enum value '(.*)'", "cannot be “{}”"),
    (r"Invalid value '(.*)'", "cannot be “{}”"),
    (r"Object contains unknown field `(.*)`", "has no field “{}”"),
    (r"Object missing required field `(.*)`", "lacks the field “{}”"),
    (r"Expected `(?:float|int)(?: \| null)?`, got `(?:str|bool)`", "wants a number, not a word"),
    (r"Expected `str(?: \| null)?`, got `.*`", "wants a word in quotes"),
    (r"Expected `bool`, got `.*`", "wants true or false"),
    (r"Expected `(?:float|int)` (>=|>|<=|<) (.*)", "must be {} {}"),
    (r"Expected `(?:array|tuple|list)`, got `.*`", "wants a list: [ … ]"),
    (r"Expected `object`, got `.*`", "wants fields: { … }"),
)


def remedy_for(what: str, where: str, root: type, body: object) -> str:
    """The remedy for a refusal of msgspec: the nearest allowed word, or all of them; "" where none
    is known. `where` is the path that it tells, `root` the type of the document `body`.
    """
    wanted, at = _at(where, root, body)
    named = NAMED.search(what)
    name = named["name"] if named else ""
    if what.startswith("Invalid enum value"):
        return _nearest(name, [str(word) for kind in wanted for word in _words(kind)])
    if what.startswith("Invalid value") and where.endswith(".type"):
        holders, _ = _at(where.removesuffix(".type"), root, body)
        return _nearest(name, [tag for kind in holders if (tag := _tag(kind))])
    structs = [kind for kind in wanted if _is_struct(kind) and _has_tag(kind, at)]
    fields = {field for kind in structs for field in kind.__struct_encode_fields__}
    if "unknown field" in what:
        return _nearest(name, sorted(fields))
    if "missing required field" in what and name in fields:
        inner = [word for kind in structs for word in _words_of_field(kind, name)]
        return f"It may be {_listed(inner)}." if inner else ""
    return ""


def _nearest(name: str, words: list[str]) -> str:
    words = list(dict.fromkeys(words))
    near = get_close_matches(name, words, n=1)
    if near:
        return f"Did you mean “{near[0]}”?"
    return f"It may be {_listed(words)}." if words else ""


def _listed(words: list[str]) -> str:
    more = f" and {len(words) - MOST_WORDS} more" if len(words) > MOST_WORDS else ""
    return ", ".join(words[:MOST_WORDS]) + more


def _at(where: str, root: type, body: object) -> tuple[list[Any], object]:
    """The types that may stand at a path, and what stands there."""
    wanted, at = _plain(root), body
    for index, field in STEP.findall(where):
        found: list[Any] = []
        for kind in wanted:
            if index:
                found += [inner for arg in get_args(kind)[-2:] for inner in _plain(arg)]
            elif _is_struct(kind) and _has_tag(kind, at):
                found += _field_types(kind, field)
        wanted, at = found, _inside(at, index, field)
    return wanted, at


def _inside(body: object, index: str, field: str) -> object:
    """What stands one step further into a document; None where nothing does."""
    if isinstance(body, Mapping):
        return body.get(field)
    if isinstance(body, list | tuple) and index.isdecimal() and int(index) < len(body):
        return body[int(index)]
    return None


def _plain(kind: Any) -> list[Any]:
    """A type without what is written around it; of a union each."""
    if get_origin(kind) is Annotated:
        return _plain(get_args(kind)[0])
    if get_origin(kind) in (Union, UnionType):
        return [inner for arg in get_args(kind) for inner in _plain(arg)]
    return [kind]


def _is_struct(kind: Any) -> bool:
    return isinstance(kind, type) and issubclass(kind, msgspec.Struct)


def _field_types(kind: Any, field: str) -> list[Any]:
    names = dict(zip(kind.__struct_encode_fields__, kind.__struct_fields__, strict=True))
    if field not in names:
        return []
    return _plain(get_type_hints(kind, include_extras=True)[names[field]])


def _words_of_field(kind: Any, field: str) -> list[str]:
    return [str(word) for inner in _field_types(kind, field) for word in _words(inner)]


def _words(kind: Any) -> tuple[Any, ...]:
    return get_args(kind) if get_origin(kind) is Literal else ()


def _tag(kind: Any) -> str:
    tag = kind.__struct_config__.tag if _is_struct(kind) else None
    return str(tag) if tag is not None else ""


def _has_tag(kind: Any, body: object) -> bool:
    """Whether a body, by its "type", is of this kind of structure."""
    tag = _tag(kind)
    given = body.get("type") if isinstance(body, Mapping) else None
    return not tag or given is None or given == tag


def in_words(what: str) -> str:
    """A refusal of msgspec in a builder's words; as it is where none are known."""
    for pattern, words in SAID:
        match = re.fullmatch(pattern, what)
        if match:
            for name in match.groups():
                words = words.replace("{}", name, 1)
            return words
    return what
