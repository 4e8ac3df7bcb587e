"""Parts whose terminals are listed as one: which of them are one connector, by the usual prints of
their kind, data/tables/one_list.toml.
"""

import re
import tomllib
from typing import NamedTuple

import msgspec
from msgspec.structs import replace

from vervain.catalogue.rows import LONGEST_TEXT
from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PartKind

# What is the way back of its neighbours.
GROUNDS = frozenset({"gnd", "0v", "com", "g"})
# What is beside the mains, and beside the phases of a motor.
EARTHS = frozenset({"pe", "e", "fg", "earth"})
Connectors = dict[str, list[str]]


class UsualConnector(Record, frozen=True, kw_only=True):
    """A connector that parts of a kind have: the prints at it, and whether it has a way back. Where
    `each` print is a plug by itself, these are its pins, and the print its name.
    """

    kind: PartKind
    words: frozenset[str]
    name: str = ""
    way_back: bool = False
    each: tuple[str, ...] = ()


class Placed(NamedTuple):
    """A print with the connector that it is of; none for a ground."""

    print: str
    connector: UsualConnector | None


@table_reader
def usual_connectors() -> tuple[UsualConnector, ...]:
    """The table in force. Raises `ValueError` where it is not one."""
    table = tomllib.loads(data_text("tables/one_list.toml"))
    try:
        return tuple(msgspec.convert(table["connector"], list[UsualConnector]))
    except (KeyError, msgspec.ValidationError) as error:
        raise ValueError(str(error)) from None


def as_usual_connectors(text: str, kind: str) -> str:
    """A table of ports and terminals, where a text lists the usual prints of a kind and nothing
    else; any other text as it is.
    """
    words = re.split(r"[\s,;]+", text[:LONGEST_TEXT].strip())
    placed = [_placed(word, kind) for word in words if word]
    if not all(placed):
        return text
    connectors = _connectors([at for at in placed if at is not None])
    if len(connectors) < (1 if kind == "battery" else 2):
        return text
    if kind == "signal converter" and set(connectors) == {"POWER", "SERIAL"}:
        # What only speaks has one plug, by which it is fed as well.
        connectors = {"SERIAL": [word for word in words if word]}
    if kind == "relay module":
        connectors = _of_transistors(connectors)
    rows = [f"{name}\t{word}" for name, own in connectors.items() for word in own]
    return "\n".join(("port\tsignal", *rows))


def _of_transistors(connectors: Connectors) -> Connectors:
    """The connectors of a module; beside several outputs and no contact COM is the plus of their
    loads, to which the diodes of the outputs lead, and the 0 V of all stands by itself.
    """
    outputs = [name for name in connectors if name.startswith("OUT")]
    common = connectors.get("RELAY", [])
    if not outputs or len(common) != 1 or common[0].casefold() in ("no", "nc", "n.o.", "n.c."):
        return connectors
    grounds = [
        (name, word) for name, own in connectors.items() if name.startswith("IN")
        for word in own if word.casefold() in GROUNDS
    ]  # fmt: skip
    found = {name: list(own) for name, own in connectors.items() if name != "RELAY"}
    for name, word in grounds if "POWER" not in found else ():
        found[name].remove(word)
        found.setdefault("POWER", []).append(word)
    return {**found, "FEED": common}


def _placed(word: str, kind: str) -> Placed | None:
    """Where a print is; None where the table does not know it."""
    plain = word.casefold().replace("−", "-").replace("–", "-")
    said = {plain, re.sub(r"\d+", "#", plain)}
    found = (row for row in usual_connectors() if row.kind == kind and said & row.words)
    connector = next(found, None)
    if connector is None and plain not in GROUNDS:
        return None
    number = re.search(r"\d+", plain)
    if connector is not None and "#" in connector.name and number is not None:
        connector = replace(connector, name=connector.name.replace("#", number[0]))
    return Placed(word, connector)


def _connectors(placed: list[Placed]) -> Connectors:
    """The prints of each connector, with the ground that is its own, or that of all; none where a
    ground would belong to nothing.
    """
    found: Connectors = {}
    wanting: dict[str, None] = {}
    last = ""
    for at in placed:
        own = found.get(at.connector.name, []) if at.connector is not None else []
        if at.print.casefold() in EARTHS and last in found and at.print in own:
            # A second earth is that of what it stands behind.
            found[last].append(at.print)
            continue
        last = at.connector.name if at.connector is not None else last
        if at.connector is not None and at.connector.each:
            found[at.connector.name or at.print] = list(at.connector.each)
        elif at.connector is not None:
            found.setdefault(at.connector.name, []).append(at.print)
            if at.connector.way_back:
                wanting[at.connector.name] = None
    wanting = {
        name: None for name in wanting if not any(p.endswith(("-", "−")) for p in found[name])
    }
    grounds = [at.print for at in placed if at.connector is None]
    if len(grounds) == 1 and wanting:
        for name in wanting:
            found[name].append(grounds[0])
        return found
    before = next((at for at in placed if at.connector is not None), None)
    for at in placed:
        if at.connector is not None:
            before = at
            continue
        own = found.get(before.connector.name, []) if before and before.connector else []
        if before is None or not own:
            return {}
        # Right behind what it stands behind: V+ GND before VCC GND.
        own.insert(own.index(before.print) + 1 if before.print in own else len(own), at.print)
    return found
