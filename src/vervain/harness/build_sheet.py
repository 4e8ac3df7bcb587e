"""The build sheet of a cable: everything that is done to it, from cutting to laying."""

import tomllib
from typing import Annotated

import msgspec
from msgspec import Meta

from vervain.data import data_text, table_reader
from vervain.harness.bundles import cable_diameter_mm
from vervain.harness.cable_routes import cable_route
from vervain.harness.conductors import natural_key, pin_words
from vervain.harness.fittings import gland_for, heat_shrink_for
from vervain.harness.labels import hookup_labels
from vervain.harness.lengths import cable_length_m
from vervain.harness.plugs import colour_at, plug_at
from vervain.harness.shopping import cutting_of, walls_passed
from vervain.harness.terminations import Termination, termination
from vervain.model.base import Positive, Record
from vervain.model.cable_part import CablePart
from vervain.model.machine import Cable, Hookup, PinRef, PortRef, ends_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_length


class Making(Record, frozen=True, kw_only=True):
    """The table tables/making.toml: lengths in mm by the form of an end, tools in words."""

    strip_mm: dict[str, Positive]
    sheath_off_mm: dict[str, Positive]
    tools: dict[str, Annotated[str, Meta(max_length=60)]]


@table_reader
def making() -> Making:
    """The table in force. Raises `ValueError` where it is none, `KeyError` where a form lacks."""
    try:
        table = msgspec.convert(tomllib.loads(data_text("tables/making.toml")), Making)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None
    for form in ("contact", "ferrule_over", "ring", "joined", "terminal"):
        table.strip_mm[form]
    for where in ("plug", "terminals", "leads"):
        table.sheath_off_mm[where]
    return table


class SheetEnd(Record, frozen=True, kw_only=True):
    """One end of a core: where it goes, its label, how far it is stripped, in what it ends, with
    which tool. `goes_on` is what lies behind a connector.
    """

    pin: PinRef
    place: str
    label: str
    strip_mm: float | None
    ends_in: str
    tool: str
    goes_on: str = ""


class SheetRow(Record, frozen=True, kw_only=True):
    """One core with both of its ends."""

    core: int | None
    colour: str | None
    a: SheetEnd
    b: SheetEnd


class SheetSide(Record, frozen=True, kw_only=True):
    """One side of a cable: the ports there, how the plugs look, how far the sheath comes off."""

    ports: tuple[PortRef, ...]
    title: str
    words: str
    sheath_off_mm: float


class BuildSheet(Record, frozen=True, kw_only=True):
    """A cable with everything that is done to it. `steps` are in the order of the work."""

    cable: str
    title: str
    length_m: float | None
    facts: tuple[tuple[str, str], ...]
    a: SheetSide
    b: SheetSide
    rows: tuple[SheetRow, ...]
    shield: str
    steps: tuple[str, ...]


@query
def build_sheet(queries: Queries, cable_id: str) -> BuildSheet | None:
    """The sheet of a cable; None for one that joins nothing, or comes ready-made."""
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    pairs = _pairs(queries, cable_id)
    if cable is None or part is None or part.ready_made or not pairs:
        return None
    rows = tuple(_row(queries, *pair) for pair in pairs)
    rows = tuple(sorted(rows, key=lambda row: (row.core or 0, row.a.label)))
    sides = [_side(queries, [getattr(row, side).pin for row in rows]) for side in ("a", "b")]
    return BuildSheet(
        cable=cable_id,
        title=part.title,
        length_m=cable_length_m(queries, cable_id),
        facts=tuple(_facts(queries, cable, part)),
        a=sides[0],
        b=sides[1],
        rows=rows,
        shield=_shield(cable, part),
        steps=tuple(_steps(queries, cable, part, rows)),
    )


def _pairs(queries: Queries, cable_id: str) -> list[tuple[Hookup, int, bool]]:
    """The conductors of a cable, each with whether its hookup's side a lies at the cable's side A:
    that of the first one, with whatever is at the same device or place.
    """
    hookups = [h for name in _hookup_ids(queries, cable_id) if (h := queries.hookup(name))]
    if not hookups:
        return []

    def spots(ref: PortRef) -> set[str]:
        device = queries.device(ref.device)
        return {ref.device, *((f"place {device.place}",) if device and device.place else ())}

    here, there = spots(hookups[0].a), spots(hookups[0].b)
    found = []
    for hookup in hookups:
        straight = len(spots(hookup.a) & here) + len(spots(hookup.b) & there)
        turned = len(spots(hookup.b) & here) + len(spots(hookup.a) & there)
        found += [(hookup, row, straight >= turned) for row in range(len(hookup.conductors))]
    return found


def _hookup_ids(queries: Queries, cable_id: str) -> list[str]:
    return [hookup.id for hookup in queries.hookups_in(cable_id)]


def _row(queries: Queries, hookup: Hookup, row: int, is_straight: bool) -> SheetRow:
    conductor = hookup.conductors[row]
    label = hookup_labels(queries, hookup.id)[row]
    first, second = ends_of(hookup, conductor)
    ends = [
        _end(queries, hookup.id, first, label.at_a),
        _end(queries, hookup.id, second, label.at_b),
    ]
    a, b = ends if is_straight else ends[::-1]
    colour = colour_at(queries, hookup.id, row)
    return SheetRow(core=conductor.core, colour=colour, a=a, b=b)


def _end(queries: Queries, hookup_id: str, pin: PinRef, label: str) -> SheetEnd:
    end = termination(queries, hookup_id, pin)
    return SheetEnd(
        pin=pin,
        place=f"{pin.device} {pin_words(queries, pin)}",
        label=label,
        strip_mm=_strip_mm(end),
        ends_in=_ends_in(end),
        tool=making().tools.get(end.form, ""),
        goes_on=_behind(queries, pin),
    )


def _ends_in(end: Termination) -> str:
    """What an end gets, as short as a column asks: the strip length tells a ferrule's barrel."""
    if end.ferrule is not None:
        return end.ferrule.words
    return end.item.partition(" for ")[0] or end.words


def _behind(queries: Queries, pin: PinRef) -> str:
    """What lies behind the other half of an in-line connector: "M4 RD"; "" at anything else."""
    part = queries.part_of(pin.device)
    if part is None or part.kind != "connector":
        return ""
    found = []
    for port in part.ports:
        if port.id != pin.port and port.pin(pin.pin) is not None:
            for step in queries.steps(PinRef(device=pin.device, port=port.id, pin=pin.pin)):
                lead = queries.pin(step.end)
                colour = lead.lead if lead is not None and lead.lead else ""
                found.append(f"{step.end.device} {colour}".strip())
    return ", ".join(dict.fromkeys(found))


def _strip_mm(end: Termination) -> float | None:
    """How far an end is stripped; None where it comes as it is."""
    strip = making().strip_mm
    if end.form in ("as it comes", "not said"):
        return None
    if end.form == "ferrule":
        ferrule = end.ferrule
        return ferrule.barrel_mm + strip["ferrule_over"] if ferrule else strip["terminal"]
    return strip[end.form]


def _side(queries: Queries, pins: list[PinRef]) -> SheetSide:
    ports = tuple(dict.fromkeys(pin.port_ref for pin in pins))
    plugs = [plug for ref in ports if (plug := plug_at(queries, ref)) is not None]
    told = [
        f"{plug.words}{f', {plug.contacts}' if plug.contacts else ''}, seen from the wires"
        for plug in plugs
    ]
    where = "leads"
    if plugs:
        where = "terminals" if any(plug.is_terminal for plug in plugs) else "plug"
    return SheetSide(
        ports=ports,
        title=", ".join(f"{ref.device} {ref.port}" for ref in ports),
        words="; ".join(dict.fromkeys(told)) or "flying leads",
        sheath_off_mm=making().sheath_off_mm[where],
    )


def _facts(queries: Queries, cable: Cable, part: CablePart) -> list[tuple[str, str]]:
    length_m = cable_length_m(queries, cable.id)
    cut = in_length(length_m) if length_m is not None else "length not given"
    for number, one in enumerate(cutting_of(queries, cable.part).cuts):
        names = [name for name, _ in one.pieces]
        if cable.id in names and (part.stock_m or one.reel):
            source = one.reel or f"length {number + 1} of {in_length(one.length_m)}"
            cut += f" from {source}, piece {names.index(cable.id) + 1} of {len(names)}"
    runs = cable_route(queries, cable.id).runs
    diameter = cable_diameter_mm(part)[0]
    sleeve = "a sleeve of its own" if cable.own_sleeve else "that of its runs"
    return [
        ("Cable", f"{part.title}, {diameter:.2g} mm"),
        ("Cut", cut),
        ("Runs", " ".join(runs) or "within its place"),
        ("Sleeve", sleeve if runs else "none"),
    ]


def _shield(cable: Cable, part: CablePart) -> str:
    """Where the shield is joined, in words; "" for a cable without one."""
    if not part.shield:
        return ""
    if not cable.shield_to:
        return "shield: not said where it is joined"
    return "shield to " + " and ".join(f"{ref.device} {ref.port}" for ref in cable.shield_to)


def _steps(
    queries: Queries, cable: Cable, part: CablePart, rows: tuple[SheetRow, ...]
) -> list[str]:
    """What is done, in order."""
    found = []
    is_sheathed = part.form != "loose wires" and len(part.cores) > 1
    diameter = cable_diameter_mm(part)[0]
    walls = walls_passed(queries, cable.id)
    if is_sheathed:
        shrink = heat_shrink_for(diameter)
        over = f" and heat-shrink {shrink} mm" if shrink else ""
        found.append(f"Slide a label {cable.id}{over} onto both ends before anything else.")
    for box in walls if is_sheathed else ():
        place = queries.place(box)
        gland = gland_for(diameter) or "larger than M50"
        found.append(f"Gland {gland} of {place.name if place else box}: on before the plug.")
    if part.shield:
        words = _shield(cable, part)
        found.append(f"{words[:1].upper()}{words[1:]}.")
    used = {row.core for row in rows}
    spare = [number for number in range(1, len(part.cores) + 1) if number not in used]
    if spare and is_sheathed:
        numbers = ", ".join(map(str, spare))
        told = cable.spares or "say what is done with them"
        found.append(f"Core{'s' if len(spare) > 1 else ''} {numbers} stay unused: {told}.")
    pairs = ", ".join(f"{row.a.place} to {row.b.place}" for row in rows)
    nothing = "; none to its neighbour" if len(rows) > 1 else ""
    nothing += " or to the shield" if part.shield else ""
    found.append(f"Continuity before it is joined: {pairs}{nothing}.")
    route = cable_route(queries, cable.id)
    if route.runs:
        found.append(f"Lay it through {', '.join(route.runs)}; tie it at both ends.")
    return found


@query
def build_sheets(queries: Queries) -> tuple[BuildSheet, ...]:
    """The sheets of every cable that is made, in natural order."""
    made = (build_sheet(queries, name) for name in sorted(queries.cables(), key=natural_key))
    return tuple(sheet for sheet in made if sheet is not None)
