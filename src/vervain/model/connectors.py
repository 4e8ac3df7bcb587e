"""Connectors: what a name such as "crimp-2.5-4" says, and whether two halves go together.

The families are data, tables/connectors.toml.
"""

import tomllib
from typing import Annotated

import msgspec
from msgspec import Meta

from vervain.data import data_text, table_reader
from vervain.model.base import NotNegative, Positive, Record
from vervain.model.part import Gender, Part, Port


class Family(Record, frozen=True, kw_only=True):
    """One family of the table; by pitch `current_a` of a contact, how many `conductors` may be in
    it, and `takes_mm2`, the thinnest and the thickest core.
    """

    name: str
    words: str
    system: str
    board: Gender
    lead: Gender
    keyed: bool
    takes_wires: bool = False
    current_a: dict[str, Positive]
    conductors: dict[str, Annotated[int, Meta(ge=1)]] = msgspec.field(default_factory=dict)
    takes_mm2: dict[str, tuple[Positive, Positive]] = msgspec.field(default_factory=dict)


class Connector(Record, frozen=True, kw_only=True):
    """A connector's name taken apart: its family, pitch in mm as written, and ways."""

    family: Family
    pitch: str
    ways: str

    @property
    def contact_max_a(self) -> NotNegative | None:
        """What one contact carries for long; None where the table has no such pitch."""
        return self.family.current_a.get(self.pitch)

    @property
    def takes_mm2(self) -> tuple[float, float] | None:
        """The thinnest and the thickest core of a contact; None where the table does not say."""
        return self.family.takes_mm2.get(self.pitch)

    @property
    def conductors_max(self) -> int:
        """How many conductors may share one contact."""
        table = self.family.conductors
        return table.get(self.pitch, table.get("", 1))


@table_reader
def families() -> dict[str, Family]:
    """The table, by name."""
    rows = tomllib.loads(data_text("tables/connectors.toml"))["family"]
    return {row.name: row for row in msgspec.convert(rows, list[Family])}


def connector_of(name: str | None) -> Connector | None:
    """A connector by its name; None for flying leads and for names that the table has not."""
    kind, _, rest = (name or "").partition("-")
    family = families().get(kind)
    if family is None or not rest:
        return None
    if kind == "round":
        return Connector(family=family, pitch="", ways=rest)
    pitch, _, ways = rest.partition("-")
    return Connector(family=family, pitch=pitch, ways=ways) if ways else None


@table_reader
def connector_kinds() -> dict[str, str]:
    """Every family in every pitch, as "crimp-2.5", in words; without the number of ways."""
    return {
        "-".join(filter(None, (family.name, pitch))): _sized(family, pitch)
        for family in families().values()
        for pitch in family.current_a
    }


def _sized(family: Family, pitch: str) -> str:
    if not pitch:
        return family.words
    return f"{family.words} {pitch}" + ("" if pitch.startswith("M") else " mm")


def connector_words(name: str | None) -> str:
    """A connector in words; flying leads where there is none, its name where unknown."""
    if name is None:
        return "flying leads"
    found = connector_of(name)
    if found is None:
        return name
    return f"{_sized(found.family, found.pitch)}, {found.ways.replace('x', ' × ')}-way"


def is_plug(part: Part, port: Port) -> bool:
    """Whether a port is a plug on the part's own lead or foot, ready to be put in as it is.

    Boards have sockets, to which a cable is made; flying leads get whatever contact is needed, and
    so do both sides of an in-line connector, unless the part gives their gender.
    """
    found = connector_of(port.connector)
    if part.kind == "connector" and port.gender is None:
        return False
    return part.board is None and found is not None and not found.family.takes_wires


def gender_of(part: Part, port: Port) -> Gender | None:
    """Whether a port's own contacts are pins or sockets."""
    found = connector_of(port.connector)
    if port.gender is not None or found is None:
        return port.gender
    return found.family.lead if is_plug(part, port) else found.family.board


def missing_to_mate(part: Part, port: Port, other_part: Part, other: Port) -> str:
    """What is missing between a plug and the port that it goes into, in words; "" where they mate.

    They mate where system, pitch and ways are one and the genders differ. A plug with fewer ways
    goes on an unkeyed header too.
    """
    ours, theirs = connector_of(port.connector), connector_of(other.connector)
    if ours is None or theirs is None or not is_plug(part, port):
        return ""
    if theirs.family.takes_wires:
        return "bare ends with ferrules"
    if (ours.family.system, ours.pitch) != (theirs.family.system, theirs.pitch):
        return "an adapter lead"
    fewer = ours.ways.isdecimal() and theirs.ways.isdecimal() and int(ours.ways) < int(theirs.ways)
    if ours.ways != theirs.ways and not (fewer and not ours.family.keyed):
        return "an adapter lead"
    if gender_of(part, port) == gender_of(other_part, other):
        return "a lead of the other gender"
    return ""
