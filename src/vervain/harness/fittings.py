"""What goes onto and around cables: sleeves, glands, ferrules, rings; tables/harness.toml."""

import tomllib

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import NotNegative, Positive, Record
from vervain.model.part import PartKind
from vervain.model.place import Chain

Range = tuple[float | str, float, float]


class Fittings(Record, frozen=True, kw_only=True):
    """The table; sizes and diameters in mm, cross-sections in mm2."""

    insulated_mm: tuple[tuple[float, float], ...]
    sheath_mm: NotNegative
    bend_factor: Positive
    chain_fill: Positive
    chain_height: Positive
    sleeve: tuple[Range, ...]
    heat_shrink: tuple[Range, ...]
    gland: tuple[Range, ...]
    ferrule: tuple[tuple[float, float, str], ...]
    twin_ferrule: tuple[tuple[float, float, str], ...] = ()
    ferrule_standard_mm2: Positive
    ring: tuple[Range, ...]
    with_terminals: tuple[PartKind, ...] = ()
    chain: tuple[tuple[float, float, float], ...]


class Ferrule(Record, frozen=True, kw_only=True):
    """An insulated wire-end ferrule for so many wires of a cross-section; `standard` where DIN
    46228-4 gives its colour.
    """

    area_mm2: float
    wires: int
    barrel_mm: float
    colour: str
    standard: bool

    @property
    def _size(self) -> str:
        twin = f"twin ferrule {self.wires} ×" if self.wires > 1 else "ferrule"
        return f"{twin} {self.area_mm2:g} mm²"

    @property
    def words(self) -> str:
        """What it is in words: "ferrule 1 mm², RD"."""
        return f"{self._size}, {self.colour}"

    @property
    def item(self) -> str:
        """As it is bought: "ferrule 1 mm² × 8 mm, RD"."""
        by = "" if self.standard else ", colour by the trade"
        return f"{self._size} × {self.barrel_mm:g} mm, {self.colour}{by}"


@table_reader
def fittings() -> Fittings:
    """The table in force. Raises `ValueError` where it is not one."""
    try:
        return msgspec.convert(tomllib.loads(data_text("tables/harness.toml")), Fittings)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None


def _first_around(table: tuple[Range, ...], diameter_mm: float) -> str | None:
    """The smallest size of a table that closes around a diameter."""
    for size, least, most in table:
        if least <= diameter_mm <= most:
            return f"{size:g}" if isinstance(size, float | int) else size
    return None


def sleeve_for(diameter_mm: float) -> str | None:
    """The nominal size in mm of the smallest braided sleeve around a bundle."""
    return _first_around(fittings().sleeve, diameter_mm)


def chain_for(area_mm2: float, thickest_mm: float, bend_radius_mm: float) -> Chain | None:
    """The smallest chain of the table that takes cables of an area in all: filled and bent no
    further than allowed.
    """
    table = fittings()
    for width, height, radius in sorted(table.chain, key=lambda row: (row[0] * row[1], row[2])):
        fits = area_mm2 <= table.chain_fill * width * height
        if fits and thickest_mm <= table.chain_height * height and bend_radius_mm <= radius:
            return Chain(width_mm=width, height_mm=height, bend_radius_mm=radius)
    return None


def heat_shrink_for(diameter_mm: float) -> str | None:
    """The size in mm of the smallest heat-shrink that goes over and closes on a diameter."""
    return _first_around(fittings().heat_shrink, diameter_mm)


def gland_for(diameter_mm: float) -> str | None:
    """The smallest cable gland that clamps a cable."""
    return _first_around(fittings().gland, diameter_mm)


def ring_for(stud: str, area_mm2: float) -> str | None:
    """The ring terminal for a stud ("M6") and a wire; None where the table has none."""
    for size, least, most in fittings().ring:
        if size == stud and least <= area_mm2 <= most:
            return f"{stud}, {least:g} to {most:g} mm²"
    return None


def twin_ferrule_for(area_mm2: float) -> Ferrule | None:
    """The twin ferrule whose halves each take a wire; None where the table has none."""
    single = ferrule_for(area_mm2)
    for size, barrel, colour in fittings().twin_ferrule:
        if single is not None and size == single.area_mm2:
            return Ferrule(
                area_mm2=size, wires=2, barrel_mm=barrel, colour=colour, standard=True
            )  # fmt: skip
    return None


def ferrule_for(area_mm2: float) -> Ferrule | None:
    """The smallest ferrule that takes a wire; None above the largest, or far below the smallest."""
    table = fittings()
    for size, barrel, colour in table.ferrule:
        if area_mm2 <= size * 1.001 and area_mm2 >= table.ferrule[0][0] * 0.5:
            return Ferrule(
                area_mm2=size, wires=1, barrel_mm=barrel, colour=colour,
                standard=size >= table.ferrule_standard_mm2,
            )  # fmt: skip
    return None
