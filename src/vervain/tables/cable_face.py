"""The face Cables: one row a cable, with its route, its length and what is left of its cores."""

from vervain.harness.bundles import cable_diameter_mm
from vervain.harness.cable_kinds import service_of_cable
from vervain.harness.cable_routes import cable_ports, cable_route
from vervain.harness.conductors import natural_key
from vervain.harness.lengths import cable_length
from vervain.model.machine import PortRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Column, Face, TableRow

COLUMNS = (
    Column("cable", "Cable", 7, is_ours=True),
    Column("kind", "Kind", 26, is_ours=True),
    Column("between", "Between", 12),
    Column("runs", "Runs", 9, is_ours=True),
    Column("length_m", "m", 5, is_right=True),
    Column("measured_m", "Measured", 7, is_right=True, is_ours=True),
    Column("cores", "Cores", 5, is_right=True),
    Column("used", "Used", 5, is_right=True),
    Column("spares", "Spare cores", 10, is_ours=True),
    Column("area_mm2", "mm²", 5, is_right=True, is_ours=True),
    Column("diameter_mm", "Ø mm", 5, is_right=True),
    Column("own_sleeve", "Own sleeve", 7, is_shown=False, is_ours=True),
    Column("carries", "Carries", 8, is_shown=False),
    Column("shield_at", "Shield at", 14, is_shown=False, is_ours=True),
    Column("not_known", "Not known", 20, is_shown=False),
    Column("note", "Note", 16, is_shown=False, is_ours=True),
)


def shield_words(ports: tuple[PortRef, ...]) -> str:
    """Ports at which a shield is joined, as they are written."""
    return ", ".join(f"{ref.device} {ref.port}" for ref in ports)


@query
def cable_face_row(queries: Queries, cable_id: str) -> TableRow | None:
    """The row of one cable."""
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if cable is None or part is None:
        return None
    hookups = queries.hookups_in(cable_id)
    used = {row.core for hookup in hookups for row in hookup.conductors if row.core}
    devices = dict.fromkeys(ref.device for ref in cable_ports(queries, cable_id))
    length = cable_length(queries, cable_id)
    route = cable_route(queries, cable_id)
    places = " ".join(
        place.name for name in route.places if (place := queries.place(name)) is not None
    )
    first = (hookups[0].id, 0) if hookups else None
    left = len(part.cores) - len(used)
    return TableRow(
        key=cable_id,
        cells=(
            cable_id,
            part.title,
            ", ".join(devices),
            " ".join(route.runs),
            length.used_m,
            length.measured_m,
            len(part.cores),
            len(used),
            (cable.spares or "open") if left else "",
            part.core_mm2,
            round(cable_diameter_mm(part)[0], 1),
            "yes" if cable.own_sleeve else "",
            service_of_cable(queries, cable_id) if hookups else "nothing",
            shield_words(cable.shield_to) if part.shield else "",
            length.missing,
            cable.note,
        ),
        words=places.casefold(),
        conductor=first,
        cable=cable_id,
    )


def cable_face(queries: Queries) -> Face:
    """The face, in natural order."""
    names = sorted(queries.cables(), key=natural_key)
    rows = tuple(row for name in names if (row := cable_face_row(queries, name)) is not None)
    return Face("Cables", COLUMNS, rows, len(rows))
