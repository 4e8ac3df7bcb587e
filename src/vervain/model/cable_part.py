"""Cables by the metre: their cores, and which of these are twisted together."""

from collections.abc import Collection, Iterator
from itertools import chain
from typing import Annotated, Literal

from msgspec import Meta

from vervain.model.base import Name, Positive, PositiveMetres, PositiveMillimetres, Record

CableForm = Literal["round", "ribbon", "coiled", "loose wires"]


class CablePart(Record, frozen=True, kw_only=True):
    """A cable by the metre: its cores in order, their cross-section and its construction.

    `ready_made` leads come in their own lengths, with their plugs on, of the families `plugs` where
    these are known. `stock_m` are the lengths or reels that it is sold in.
    """

    id: Name
    title: Name
    cores: Annotated[tuple[str, ...], Meta(min_length=1)]
    core_mm2: Positive
    shield: bool = False
    pairs: bool = False
    flexing: bool = False
    outer_diameter_mm: PositiveMillimetres | None = None
    bend_radius_mm: PositiveMillimetres | None = None
    form: CableForm = "round"
    ready_made: bool = False
    plugs: tuple[str, ...] = ()
    stock_m: tuple[PositiveMetres, ...] = ()

    @property
    def is_sheathed(self) -> bool:
        """Whether its cores are in a sheath of their own."""
        return len(self.cores) > 1 and self.form != "loose wires"

    @property
    def core_pairs(self) -> Iterator[tuple[int, int]]:
        """The cores that are twisted together, numbered from 1; none in a cable without pairs."""
        if self.pairs:
            yield from ((first, first + 1) for first in range(1, len(self.cores), 2))

    def mate_of(self, core: int) -> int | None:
        """The core that another one is twisted with; None where it is alone."""
        return next((b if core == a else a for a, b in self.core_pairs if core in (a, b)), None)

    def free_core(self, used: Collection[int]) -> int | None:
        """The first core of a pair that is wholly free, else the first free one; None where every
        core is used.
        """
        pairs = (first for first, mate in self.core_pairs if not {first, mate} & set(used))
        single = (core for core in range(1, len(self.cores) + 1) if core not in used)
        return next(chain(pairs, single), None)
