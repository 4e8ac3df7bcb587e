"""The face Conductors: one row a core, link or lead."""

from collections.abc import Mapping

from vervain.harness.cable_routes import cable_route
from vervain.harness.conductors import ConductorRow, pin_words, rows_of_hookup
from vervain.harness.labels import core_name
from vervain.harness.terminations import is_seated, termination
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.conductor_currents import ConductorCurrent
from vervain.tables.table_view import Cell, Column, Face, TableRow

COLUMNS = (
    Column("label", "Label", 9, is_ours=True),
    Column("from", "From", 15, is_joined=True),
    Column("from_device", "From device", 8, is_shown=False, exported_as="From"),
    Column("from_pin", "From pin", 12, is_shown=False),
    Column("core_colour", "Core", 5, is_colours=True, is_ours=True, exported_as="Core colour"),
    Column("to", "To", 11, is_joined=True),
    Column("to_device", "To device", 8, is_shown=False, exported_as="To"),
    Column("to_pin", "To pin", 12, is_shown=False),
    Column("lead", "Lead", 12, is_colours=True),
    Column("device", "Device", 17),
    Column("area_mm2", "mm²", 5, is_right=True, is_ours=True),
    Column("length_m", "m", 5, is_right=True, is_ours=True),
    Column("current_a", "A", 5, is_right=True),
    Column("drop_v", "Drop V", 6, is_right=True),
    Column("ends", "Ends", 17),
    Column("cable", "Cable", 8, is_shown=False, is_ours=True),
    Column(
        "core_number", "Core number", 5, is_shown=False, is_right=True, is_ours=True,
        exported_as="Core",
    ),
    Column("cable_kind", "Cable kind", 18, is_shown=False, is_printed=False),
    Column("far_label", "Far label", 9, is_shown=False, exported_as="Label at To"),
    Column("runs", "Runs", 12, is_shown=False),
    Column("note", "Note", 16, is_shown=False, is_ours=True),
)  # fmt: skip
CURRENT_AT, DROP_AT = (
    next(n for n, column in enumerate(COLUMNS) if column.key == key)
    for key in ("current_a", "drop_v")
)
# Less than this is nothing to write down.
LEAST_A = 0.005


@query
def conductor_face_rows(queries: Queries, hookup_id: str) -> tuple[TableRow, ...]:
    """The rows of one hookup without what flows in them; kept until something in them changes."""
    return tuple(_face_row(queries, row) for row in rows_of_hookup(queries, hookup_id))


def _face_row(queries: Queries, row: ConductorRow) -> TableRow:
    named = []
    for designator in row.devices:
        device = queries.device(designator)
        named.append(f"{designator} {device.name}" if device else designator)
    ends = [termination(queries, row.hookup, pin).words for pin in (row.start, row.end)]
    ended = f"{ends[0]}, twice" if ends[0] == ends[1] else ", ".join(ends)
    cable = queries.cable(row.cable) if row.cable else None
    kind = queries.cable_part(cable.part) if cable else None
    from_pin, to_pin = pin_words(queries, row.start), pin_words(queries, row.end)
    cells: tuple[Cell, ...] = (
        row.label_from,
        f"{row.start.device} {from_pin}",
        row.start.device,
        _written(queries, row.start),
        row.colour or "",
        f"{row.end.device} {to_pin}",
        row.end.device,
        _written(queries, row.end),
        " ".join(lead.colour or "" for lead in row.leads).strip(),
        "; ".join(named),
        row.area_mm2,
        row.length_m,
        None,
        None,
        ended,
        row.cable,
        row.core,
        kind.title if kind is not None else "",
        row.label_to,
        " ".join(cable_route(queries, row.cable).runs) if row.cable else "",
        row.note,
    )
    places = []
    for designator in (row.start.device, row.end.device, *row.devices):
        device = queries.device(designator)
        place = queries.place(device.place) if device and device.place else None
        places.append(place.name if place else "")
    return TableRow(
        key=row.key,
        cells=cells,
        words=" ".join((*places, core_name(row.cable, row.core))).casefold(),
        conductor=row.key,
        cable=row.cable or None,
    )


def _written(queries: Queries, ref: PinRef) -> str:
    """A pin as a list that is taken back needs it: of an in-line connector with its half."""
    part = queries.part_of(ref.device)
    words = pin_words(queries, ref)
    return f"{ref.port} {words}" if part is not None and part.kind == "connector" else words


def conductor_face(queries: Queries, flowing: Mapping[tuple[str, int], ConductorCurrent]) -> Face:
    """The face, with the currents that are known; what is pushed in pin on pin is no conductor."""
    rows = []
    for hookup_id in queries.hookups():
        if is_seated(queries, hookup_id):
            continue
        for row in conductor_face_rows(queries, hookup_id):
            flow = flowing.get(row.conductor) if row.conductor else None
            if flow is not None and flow.current_a >= LEAST_A:
                cells = list(row.cells)
                cells[CURRENT_AT], cells[DROP_AT] = round(flow.current_a, 2), round(flow.drop_v, 2)
                row = row._replace(cells=tuple(cells))
            rows.append(row)
    return Face("Conductors", COLUMNS, tuple(rows), len(rows))
