"""What pins need, and with whom they may share a net: data/tables/needs.toml and partners.toml."""

import tomllib
from collections.abc import Collection
from typing import Literal, get_args

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import Part, PartKind, PinFunction, Port, PortKind

Via = Literal["wire", "copper", "rail"]
Nature = Literal["logic output", "logic input", "source", "return", "bridge", "bus head"]


class Need(Record, frozen=True, kw_only=True):
    """A row of the table: which pins need what, and what happens else."""

    port: tuple[PortKind, ...] = ()
    end: Literal["host", "device", "through"]
    kinds: tuple[PartKind, ...] = ()
    functions: tuple[PinFunction, ...]
    to: tuple[PinFunction, ...] = ()
    via: Via
    of: tuple[Nature, ...] = ()
    of_outputs: bool = False
    when: Literal["always", "offered", "mains", "on an axis", "isolated"] = "always"
    goal: str
    effect: str
    consequence: Literal["Damage", "Won't run", "Unreliable"]


class Partners(Record, frozen=True):
    """The group of each function, and the pairs of groups that may be joined."""

    groups: dict[str, str]
    together: frozenset[frozenset[str]]

    def strangers(self, first: str, second: str) -> bool:
        """Whether two functions have nothing to do on one net."""
        one, two = self.groups.get(first), self.groups.get(second)
        if one is None or two is None or one == two:
            return False
        return frozenset((one, two)) not in self.together

    def strangers_on(self, one: str, other: str, net: Collection[str]) -> bool:
        """As `strangers`, on a net where other functions are as well: earth that 0 V is bonded to
        may be with whatever 0 V may be with, but for a plus.
        """
        if "zero" in net and "pe" in (one, other) and "plus" not in (one, other):
            beside = other if one == "pe" else one
            return self.strangers("zero", beside)
        return self.strangers(one, other)


@table_reader
def needs() -> tuple[Need, ...]:
    """Every row of the table of needs, in its order."""
    text = data_text("tables/needs.toml")
    return tuple(msgspec.convert(tomllib.loads(text)["need"], list[Need]))


def needs_of_port(part: Part, port: Port) -> list[Need]:
    """The rows of the table that hold for the pins of a port."""
    return [
        row for row in needs()
        if row.end == port.end and (not row.port or port.kind in row.port)
        and (not row.kinds or part.kind in row.kinds)
    ]  # fmt: skip


@table_reader
def partners() -> Partners:
    """The table of partners. Raises `ValueError` where it names what there is not."""
    table = msgspec.convert(tomllib.loads(data_text("tables/partners.toml")), _PartnerTable)
    groups: dict[str, str] = {}
    for group, functions in table.groups.items():
        for function in functions:
            if function not in get_args(PinFunction) or function in groups:
                raise ValueError(f"“{function}” in “{group}” is no function, or is in two groups")
            groups[function] = group
    together = set()
    for pair in table.together:
        names = pair.split(" + ")
        if len(names) != 2 or not set(names) <= set(table.groups):
            raise ValueError(f"“{pair}” does not name two groups")
        together.add(frozenset(names))
    return Partners(groups, frozenset(together))


class _PartnerTable(Record, frozen=True):
    groups: dict[str, list[str]]
    together: dict[str, str]
