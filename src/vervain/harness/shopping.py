"""The shopping list: everything that the harness takes, counted, with a spare, and as cut."""

import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from typing import Literal

from vervain.harness.bundles import bundle_of, cable_diameter_mm, strand_of_cable
from vervain.harness.cable_routes import cable_route, wants_cable
from vervain.harness.cutting import Cutting, Piece, Stock, cutting_plan
from vervain.harness.fittings import gland_for, heat_shrink_for, sleeve_for
from vervain.harness.label_texts import label_texts
from vervain.harness.lengths import cable_length, cable_length_m
from vervain.harness.plugs import all_plugs
from vervain.harness.terminations import Termination, termination
from vervain.model.base import Record
from vervain.model.connectors import is_plug
from vervain.model.elements import Fuse
from vervain.model.machine import PinRef, ends_of
from vervain.model.part import Part
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_length
from vervain.text.words import count_of

Section = Literal[
    "Cable", "Contacts", "Housings", "Ferrules", "Terminals", "Connectors", "Sleeves",
    "Heat-shrink", "Glands", "Strips", "Fuses", "Labels", "Not counted",
]  # fmt: skip
SECTIONS: tuple[Section, ...] = (
    "Cable", "Contacts", "Housings", "Ferrules", "Terminals", "Connectors", "Sleeves",
    "Heat-shrink", "Glands", "Strips", "Fuses", "Labels", "Not counted",
)  # fmt: skip
CABLE_SECTION: Literal["Cable"] = "Cable"
# What is bought over the pieces of a cable, in its cutting plan.
SPARE, LONGEST_SPARE_DM = "spare", 20
# What sits beside its terminal.
# Heat-shrink over each end of a sheathed cable, in m.
SHRINK_M = 0.04


class Item(Record, frozen=True, kw_only=True):
    """One line: how much is needed, how much to get with the spare, in pieces or m ("").

    `detail` says where it goes or how it is cut.
    """

    section: Section
    name: str
    needed: float
    to_get: float
    unit: str
    detail: str = ""


def packs_of(item: Item, pack: float | None) -> int:
    """How many packs of an item are bought, or pieces, or whole metres, where it comes in none."""
    return math.ceil(round(item.to_get / (pack or 1), 6))


@query
def pieces_by_part(queries: Queries) -> dict[str, tuple[Piece, ...]]:
    """The pieces of every cable part, of the cables whose length is known."""
    found: dict[str, list[Piece]] = defaultdict(list)
    for cable_id in queries.cables():
        cable, length_m = queries.cable(cable_id), cable_length_m(queries, cable_id)
        if cable is not None and length_m is not None:
            found[cable.part].append(Piece(cable_id, length_m))
    return {part: tuple(pieces) for part, pieces in found.items()}


@query
def cutting_of(queries: Queries, part_id: str) -> Cutting:
    """How the pieces of a cable part are cut, and what is bought over; ready-made leads are not
    cut at all.
    """
    part = queries.cable_part(part_id)
    pieces = pieces_by_part(queries).get(part_id, ())
    if part is None or part.ready_made:
        return cutting_plan((), ())
    stock = [Stock(length_m) for length_m in part.stock_m]
    stock += [Stock(reel.length_m, reel.id) for reel in queries.reels() if reel.part == part_id]
    return cutting_plan((*pieces, *_spares(pieces, queries.allowances().spare_ratio)), stock)


def _spares(pieces: tuple[Piece, ...], spare: float) -> list[Piece]:
    """What is bought over the pieces, in whole decimetres, none longer than what is sold."""
    total_m = sum(piece.length_m for piece in pieces)
    left_dm = math.ceil(round(total_m * spare * 10, 6))
    found = []
    while left_dm > 0:
        taken_dm = min(left_dm, LONGEST_SPARE_DM)
        found.append(Piece(SPARE, taken_dm / 10))
        left_dm -= taken_dm
    return found


def _with_spare(count: float, spare: float) -> int:
    return math.ceil(round(count * (1 + spare), 6))


@query
def shopping_list(queries: Queries) -> tuple[Item, ...]:
    """Everything to get, section by section; devices that one has are not in it."""
    spare = queries.allowances().spare_ratio
    items = [*_cables(queries, spare), *_small_things(queries, spare), *_housings(queries)]
    items += [*_around_cables(queries, spare), *_devices(queries), *_labels(queries)]
    items += [*_caps(queries, spare), *_shield_ends(queries, spare), *_fuse_links(queries)]
    items += _not_counted(queries)
    order = {section: number for number, section in enumerate(SECTIONS)}
    return tuple(sorted(items, key=lambda item: order[item.section]))


def _cables(queries: Queries, spare: float) -> list[Item]:
    found = []
    for part_id, pieces in pieces_by_part(queries).items():
        part = queries.cable_part(part_id)
        if part is None:
            continue
        total = round(sum(piece.length_m for piece in pieces), 3)
        if part.ready_made:
            for length_m, count in sorted(Counter(p.length_m for p in pieces).items()):
                name = f"{part.title}, {length_m:g} m"
                found.append(
                    Item(section=CABLE_SECTION, name=name, needed=count, to_get=count, unit="",
                         detail="ready-made")
                )  # fmt: skip
            continue
        cutting = cutting_of(queries, part_id)
        detail = count_of(len(pieces), "piece")
        if part.stock_m or any(reel.part == part_id for reel in queries.reels()):
            detail = cutting_words(cutting)
        # What is on hand is not bought again; what is sold in lengths is bought in lengths.
        found.append(
            Item(
                section=CABLE_SECTION, name=part.title, needed=total,
                to_get=math.ceil(round(cutting.bought_m * 10, 6)) / 10, unit="m", detail=detail,
            )
        )  # fmt: skip
    return found


def cutting_words(cutting: Cutting) -> str:
    """A cutting plan in one line: what is cut from, what is bought, how good it is."""
    bought = Counter(cut.length_m for cut in cutting.cuts if not cut.reel)
    reels = [cut.reel for cut in cutting.cuts if cut.reel]
    words = [f"from {', '.join(reels)}"] if reels else []
    if bought:
        lengths = " + ".join(
            f"{count} × {in_length(length)}" for length, count in sorted(bought.items())
        )
        words.append(f"buy {lengths}, {in_length(cutting.left_m, '.3g')} left")
    if cutting.too_long:
        words.append(f"{', '.join(cutting.too_long)} too long for any of them")
    if not cutting.exact:
        words.append(f"at least {in_length(cutting.bound_m)} must be bought")
    return "; ".join(words)


def _small_things(queries: Queries, spare: float) -> list[Item]:
    """Ferrules, rings and splices, one an end, by cross-section; contacts one a cavity, for all the
    wires in it; twin ferrules one for two ends.
    """
    counted: Counter[tuple[Section, str]] = Counter()
    cavities: dict[PinRef, list[Termination]] = defaultdict(list)
    twins: dict[PinRef, str] = {}
    sections: dict[str, Section] = {
        "contact": "Contacts", "ferrule": "Ferrules", "ring": "Terminals", "joined": "Terminals",
    }  # fmt: skip
    for hookup_id in queries.hookups():
        hookup = queries.hookup(hookup_id)
        for conductor in hookup.conductors if hookup else ():
            for pin in ends_of(hookup, conductor) if hookup else ():
                end = termination(queries, hookup_id, pin)
                if end.item and end.form == "contact":
                    cavities[pin].append(end)
                elif end.ferrule is not None and end.ferrule.wires > 1:
                    twins[pin] = end.item
                elif end.item:
                    name = f"{end.item}{_for_area(end)}" if end.form == "joined" else end.item
                    counted[sections[end.form], name] += 1
    for name in twins.values():
        counted["Ferrules", name] += 1
    for ends in cavities.values():
        areas = Counter(_area_words(end) for end in ends if end.area_mm2)
        words = " + ".join(f"{n} × {area}" if n > 1 else area for area, n in sorted(areas.items()))
        counted["Contacts", ends[0].item + (f", for {words}" if words else "")] += 1
    return [
        Item(section=section, name=name, needed=count, to_get=_with_spare(count, spare), unit="")
        for (section, name), count in sorted(counted.items())
    ]


def _area_words(end: Termination) -> str:
    return f"{end.area_mm2:g} mm²" if end.area_mm2 else ""


def _for_area(end: Termination) -> str:
    return f", for {_area_words(end)}" if end.area_mm2 else ""


def _caps(queries: Queries, spare: float) -> list[Item]:
    """A cap over each end of the cores that are not used, where that is what is done with them."""
    ends: Counter[str] = Counter()
    for cable_id in queries.cables():
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if cable is None or part is None or cable.spares != "insulated":
            continue
        used = {row.core for hookup in queries.hookups_in(cable_id) for row in hookup.conductors}
        ends[f"{part.core_mm2:g} mm²"] += 2 * (len(part.cores) - len(used - {None}))
    return [
        Item(
            section="Terminals", name=f"end cap for a core of {area}", needed=count,
            to_get=_with_spare(count, spare), unit="", detail="both ends of spare cores",
        )
        for area, count in sorted(ends.items())
        if count
    ]  # fmt: skip


def _shield_ends(queries: Queries, spare: float) -> list[Item]:
    """What joins the shield of a cable, at each end where that is joined, by the cable's size."""
    where: dict[str, list[str]] = defaultdict(list)
    for cable_id in queries.cables():
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if cable is None or part is None or not part.shield or part.ready_made:
            continue
        name = f"shield clamp or drain, for a cable of {cable_diameter_mm(part)[0]:.2g} mm"
        where[name] += [cable_id] * len(cable.shield_to)
    return [
        Item(
            section="Terminals", name=name, needed=len(cables),
            to_get=_with_spare(len(cables), spare), unit="",
            detail=", ".join(dict.fromkeys(cables)),
        )
        for name, cables in sorted(where.items())
        if cables
    ]  # fmt: skip


def _fuse_links(queries: Queries) -> list[Item]:
    """The links that go into fuse holders, each with one over for the day that it blows."""
    where: dict[str, list[str]] = defaultdict(list)
    for designator in queries.devices():
        part, rating = queries.part_of(designator), queries.setting(designator, "rating_a")
        for element in part.inside if part is not None else ():
            if isinstance(element, Fuse) and isinstance(rating, int | float):
                where[f"fuse link, {element.kind}, {rating:g} A"].append(designator)
    return [
        Item(
            section="Fuses", name=name, needed=len(at), to_get=len(at) + 1, unit="",
            detail=", ".join(at),
        )
        for name, at in sorted(where.items())
    ]  # fmt: skip


def _not_counted(queries: Queries) -> list[Item]:
    """What is in no other line because something is not known, with the way to put it right."""
    found = []
    for cable_id in queries.cables():
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if part is not None and cable_length_m(queries, cable_id) is None:
            found.append((f"{cable_id}, {part.title}", "no length: give it, or lay it on its way"))
    for hookup_id in queries.hookups():
        hookup = queries.hookup(hookup_id)
        if hookup is not None and wants_cable(queries, hookup_id):
            ends = " to ".join(f"{ref.device} {ref.port}" for ref in (hookup.a, hookup.b))
            found.append((ends, "no cable, or leads that are too short: P on Harness plans one"))
    for device, ports in _plugs_not_said(queries).items():
        found.append((f"{device} {', '.join(ports)}", "its part does not say what plugs it has"))
    return [
        Item(section="Not counted", name=name, needed=0, to_get=0, unit="", detail=detail)
        for name, detail in found
    ]


def _plugs_not_said(queries: Queries) -> dict[str, list[str]]:
    """The ports whose plug is not known, of which conductors would be made, by device."""
    found: dict[str, list[str]] = {}
    for hookup_id in queries.hookups():
        hookup = queries.hookup(hookup_id)
        for conductor in hookup.conductors if hookup else ():
            for pin in ends_of(hookup, conductor) if hookup else ():
                ports = found.setdefault(pin.device, [])
                is_new = pin.port not in ports
                if is_new and termination(queries, hookup_id, pin).form == "not said":
                    ports.append(pin.port)
    return {device: ports for device, ports in found.items() if ports}


def _housings(queries: Queries) -> list[Item]:
    where: dict[str, list[str]] = defaultdict(list)
    for plug in all_plugs(queries):
        part, port = queries.part_of(plug.port.device), queries.port(plug.port)
        own = port is not None and part is not None and port.end == "device" and is_plug(part, port)
        inline = part is not None and part.kind == "connector"
        if not plug.is_terminal and not own and not inline and not plug.comes_ready:
            kind = plug.words.replace("connector", "housing")
            where[f"{kind}, for {plug.contacts}"].append(f"{plug.port.device} {plug.port.port}")
    return [
        Item(
            section="Housings", name=name, needed=len(ports), to_get=len(ports), unit="",
            detail=", ".join(ports),
        )
        for name, ports in sorted(where.items())
    ]  # fmt: skip


def _own_sleeves(queries: Queries) -> Iterator[tuple[str, str, float]]:
    """The cables with a sleeve of their own: its size, and how long it is."""
    for cable_id in queries.cables():
        strand, length_m = (
            strand_of_cable(queries, cable_id),
            cable_length(queries, cable_id).used_m,
        )
        size = sleeve_for(strand.diameter_mm) if strand is not None and strand.own_sleeve else None
        if size is not None and length_m:
            yield cable_id, size, length_m


def _around_cables(queries: Queries, spare: float) -> list[Item]:
    """Sleeve for the runs without a chain, heat-shrink over cable ends, glands in boxes' walls."""
    sleeves: dict[str, dict[str, float]] = defaultdict(dict)
    for run in queries.runs():
        bundle = bundle_of(queries, run.id)
        if run.chain is None and not run.coiled and bundle.in_sleeve > 1 and bundle.sleeve:
            sleeves[bundle.sleeve][run.id] = run.length_m
    for cable_id, size, length_m in _own_sleeves(queries):
        sleeves[size][cable_id] = length_m
    items = []
    for size, runs in sorted(sleeves.items(), key=lambda entry: float(entry[0])):
        total = round(sum(runs.values()), 3)
        items.append(
            Item(
                section="Sleeves", name=f"braided sleeve {size} mm", needed=total,
                to_get=math.ceil(round(total * (1 + spare) * 10, 6)) / 10, unit="m",
                detail=", ".join(runs),
            )
        )  # fmt: skip
    shrinks: Counter[str] = Counter()
    glands: dict[str, list[str]] = defaultdict(list)
    for cable_id in queries.cables():
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if part is None or part.form == "loose wires" or len(part.cores) < 2 or part.ready_made:
            continue
        diameter = cable_diameter_mm(part)[0]
        closes = heat_shrink_for(diameter)
        if closes is not None and queries.hookups_in(cable_id):
            shrinks[closes] += 2
        for _ in walls_passed(queries, cable_id):
            glands[gland_for(diameter) or "larger than M50"].append(cable_id)
    for shrink, count in sorted(shrinks.items(), key=lambda entry: float(entry[0])):
        items.append(
            Item(
                section="Heat-shrink", name=f"heat-shrink {shrink} mm, 3:1",
                needed=round(count * SHRINK_M, 3),
                to_get=math.ceil(round(count * SHRINK_M * (1 + spare) * 10, 6)) / 10, unit="m",
                detail=f"{count} cable ends of {SHRINK_M * 1000:g} mm",
            )
        )  # fmt: skip
    for gland, cables in sorted(glands.items()):
        items.append(
            Item(
                section="Glands", name=f"cable gland {gland}", needed=len(cables),
                to_get=len(cables), unit="", detail=", ".join(cables),
            )
        )  # fmt: skip
    return items


@query
def walls_passed(queries: Queries, cable_id: str) -> tuple[str, ...]:
    """The closed boxes whose wall a cable passes, once for each run that enters one."""
    found = []
    for name in cable_route(queries, cable_id).runs:
        run = queries.run(name)
        for end in (run.a, run.b) if run else ():
            place = queries.place(end)
            if place is not None and place.closed:
                found.append(place.id)
    return tuple(found)


def _labels(queries: Queries) -> list[Item]:
    """One label an end."""
    count = Counter(label.owner for label in label_texts(queries))
    return [
        Item(section="Labels", name=f"labels of {owner}s", needed=number, to_get=number, unit="")
        for owner, number in sorted(count.items())
    ]


def _devices(queries: Queries) -> list[Item]:
    """In-line connectors, strips and fuses: what is bought with the harness."""
    kinds: dict[str, Section] = {
        "connector": "Connectors", "terminal strip": "Strips", "fuse": "Fuses",
    }  # fmt: skip
    where: dict[tuple[Section, str], list[str]] = defaultdict(list)
    for designator in queries.devices():
        part = queries.part_of(designator)
        if part is not None and part.kind in kinds:
            where[kinds[part.kind], _bought_as(queries, designator, part)].append(designator)
    return [
        Item(
            section=section, name=name, needed=len(names), to_get=len(names), unit="",
            detail=", ".join(names),
        )
        for (section, name), names in sorted(where.items())
    ]  # fmt: skip


def _bought_as(queries: Queries, designator: str, part: Part) -> str:
    rating = queries.setting(designator, "rating_a")
    if part.kind == "fuse" and isinstance(rating, int | float):
        return f"{part.title}, {rating:g} A"
    return part.title
