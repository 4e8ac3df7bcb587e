"""Bundles: what lies in each run, how thick it is, how full the chain, how tight the bend."""

import math

from vervain.harness.cable_routes import cables_of_runs, lead_side, leads_of_runs
from vervain.harness.fittings import fittings, sleeve_for
from vervain.model.base import Record
from vervain.model.cable_part import CablePart
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Diameter of a circle around n equal circles, in diameters of one, for the closest packings known.
AROUND = (0.0, 1.0, 2.0, 2.155, 2.414, 2.701, 3.0, 3.0, 3.304, 3.613, 3.813, 3.924, 4.030)


class Strand(Record, frozen=True, kw_only=True):
    """One cable in a bundle, or a device's own leads: diameter in mm, the colours of its cores, the
    radius that it wants when it moves. `estimated` where its part gives no diameter.
    """

    name: str
    diameter_mm: float
    estimated: bool
    cores: tuple[str, ...]
    shield: bool
    bend_radius_mm: float
    bend_known: bool
    flexing: bool
    is_lead: bool = False
    own_sleeve: bool = False


class Bundle(Record, frozen=True, kw_only=True):
    """The strands of a run; diameters in mm. `fill` is that of its chain, None without one;
    `sleeve` goes around those that have none of their own, `in_sleeve` so many.
    """

    run: str
    strands: tuple[Strand, ...]
    diameter_mm: float
    area_mm2: float
    sleeve: str | None
    in_sleeve: int
    fill: float | None
    bend_radius_mm: float


def insulated_mm(area_mm2: float) -> float:
    """Outer diameter of one insulated core; between the table's sizes the next larger one."""
    table = fittings().insulated_mm
    return next((outer for area, outer in table if area_mm2 <= area * 1.001), table[-1][1])


def around(count: int, diameter_mm: float) -> float:
    """Diameter of the circle around so many equal circles; above the table 1.13 sqrt(n) d, which
    is a packing of 78 % of the area.
    """
    if count < len(AROUND):
        return AROUND[count] * diameter_mm
    return 1.13 * math.sqrt(count) * diameter_mm


def cable_diameter_mm(part: CablePart) -> tuple[float, bool]:
    """The outer diameter of a cable, and whether it is estimated from its cores."""
    if part.outer_diameter_mm is not None:
        return part.outer_diameter_mm, False
    core = insulated_mm(part.core_mm2)
    if part.form == "ribbon":
        # As thick as one core, as wide as all: the circle of the same area.
        return math.sqrt(4 / math.pi * len(part.cores)) * core, True
    sheath_mm = 2 * fittings().sheath_mm if part.is_sheathed else 0
    return around(len(part.cores), core) + sheath_mm, True


def bundle_diameter_mm(diameters_mm: tuple[float, ...]) -> float:
    """The outer diameter of cables laid together: d of one; else the larger of
    1.2 sqrt(sum of d^2) and the sum of the two largest.
    """
    if len(diameters_mm) < 2:
        return sum(diameters_mm)
    largest = sorted(diameters_mm, reverse=True)
    return max(1.2 * math.sqrt(sum(d * d for d in diameters_mm)), largest[0] + largest[1])


def area_mm2(diameters_mm: tuple[float, ...]) -> float:
    """The area of so many circles."""
    return sum(math.pi / 4 * d * d for d in diameters_mm)


@query
def strand_of_cable(queries: Queries, cable_id: str) -> Strand | None:
    """A cable as it lies in a bundle."""
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None:
        return None
    diameter, estimated = cable_diameter_mm(part)
    known = part.bend_radius_mm is not None
    return Strand(
        name=cable_id,
        diameter_mm=round(diameter, 2),
        estimated=estimated,
        cores=part.cores,
        shield=part.shield,
        bend_radius_mm=part.bend_radius_mm or round(fittings().bend_factor * diameter, 1),
        bend_known=known,
        flexing=part.flexing,
        own_sleeve=cable is not None and cable.own_sleeve,
    )


@query
def strand_of_leads(queries: Queries, hookup_id: str) -> Strand | None:
    """A device's own leads as they lie in a bundle, taken as a round cable of all its leads."""
    hookup = queries.hookup(hookup_id)
    side = lead_side(queries, hookup) if hookup else None
    port = queries.port(side) if side else None
    if port is None or side is None:
        return None
    colours = tuple(pin.lead or "" for pin in port.pins)
    core = insulated_mm(port.lead_mm2 or 0.25)
    diameter = around(len(colours), core) + (2 * fittings().sheath_mm if len(colours) > 1 else 0)
    return Strand(
        name=side.device,
        diameter_mm=round(diameter, 2),
        estimated=True,
        cores=colours,
        shield=False,
        bend_radius_mm=round(fittings().bend_factor * diameter, 1),
        bend_known=False,
        flexing=True,
        is_lead=True,
    )


@query
def bundle_of(queries: Queries, run_id: str) -> Bundle:
    """What lies in a run. Leads of one device that go two ways are laid once."""
    strands: dict[str, Strand] = {}
    for cable_id in cables_of_runs(queries).get(run_id, ()):
        strand = strand_of_cable(queries, cable_id)
        if strand is not None:
            strands[strand.name] = strand
    for hookup_id in leads_of_runs(queries).get(run_id, ()):
        strand = strand_of_leads(queries, hookup_id)
        if strand is not None:
            strands.setdefault(strand.name, strand)
    found = tuple(strands.values())
    diameters = tuple(strand.diameter_mm for strand in found)
    outer, area = bundle_diameter_mm(diameters), area_mm2(diameters)
    shared = tuple(strand.diameter_mm for strand in found if not strand.own_sleeve)
    run = queries.run(run_id)
    chain = run.chain if run else None
    return Bundle(
        run=run_id,
        strands=found,
        diameter_mm=round(outer, 2),
        area_mm2=round(area, 2),
        sleeve=sleeve_for(bundle_diameter_mm(shared)) if shared else None,
        in_sleeve=len(shared),
        fill=area / (chain.width_mm * chain.height_mm) if chain is not None else None,
        bend_radius_mm=max((strand.bend_radius_mm for strand in found), default=0.0),
    )
