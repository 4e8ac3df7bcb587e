"""A board as its describing page has it: its groups, and what was said of them."""

from collections.abc import Mapping

from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_places import PortPlace
from vervain.model.base import Record
from vervain.model.part import (
    PartKind,
)


class BoardDraft(Record, frozen=True, kw_only=True):
    """What a board is made from: its groups, which circuit each kind of pin of a group has (by
    "key/input", "key/output", "key/plus"), the connectors of the groups without their ways ("" for
    all that have none of their own), the numbers that were given, the names of pins that are not
    joined on the board although they are alike, where ports lie and how large the board is, as far
    as somebody said, the lines of its settings, and whether what it gives is isolated from what it
    takes.
    """

    kind: PartKind
    groups: tuple[PortGroup, ...]
    circuits: Mapping[str, str] = {}
    numbers: Mapping[str, float] = {}
    apart: frozenset[str] = frozenset()
    connectors: Mapping[str, str] = {}
    places: Mapping[str, PortPlace] = {}
    size_mm: tuple[float, float] | None = None
    settings_text: str = ""
    is_isolated: bool = False

    @property
    def bridge_max_a(self) -> float | None:
        """What each output of a motor bridge gives for long; what it takes is its motors'."""
        return self.numbers.get("current_a") or None if self.kind == "motor bridge" else None

    def connector(self, group: PortGroup) -> str | None:
        """The connector of a group's ports; None where nobody said."""
        kind = self.connectors.get(group.key) or self.connectors.get("")
        return f"{kind}-{len(group.pins)}" if kind else None
