"""The face Connectors: every plug, cavity by cavity."""

from vervain.harness.plugs import Cavity, Plug, Wire, label_of_wire, plugs_of_device
from vervain.harness.terminations import Termination
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Cell, Column, Face, TableRow

COLUMNS = (
    Column("plug", "Plug", 11),
    Column("cavity", "Cavity", 6, is_right=True),
    Column("name", "Name", 6),
    Column("label", "Label", 8),
    Column("core_colour", "Core", 5, is_colours=True),
    Column("area_mm2", "mm²", 5, is_right=True),
    Column("contact", "Contact", 24),
    Column("takes_mm2", "Takes mm²", 10),
    Column("suits", "Suits", 5),
    Column("made_as", "Made as", 32),
    Column("goes_into", "Goes into", 10),
    Column("keyed", "Keyed", 6, is_shown=False),
)


@query
def connector_face_rows(queries: Queries, designator: str) -> tuple[TableRow, ...]:
    """The rows of the plugs at one device: a cavity may hold several wires, or none."""
    found = []
    for plug in plugs_of_device(queries, designator):
        for cavity in plug.cavities:
            if not cavity.wires:
                found.append(_row(queries, plug, cavity, None, 0))
            for number, wire in enumerate(cavity.wires):
                found.append(_row(queries, plug, cavity, wire, number))
    return tuple(found)


def _row(queries: Queries, plug: Plug, cavity: Cavity, wire: Wire | None, number: int) -> TableRow:
    name = f"{plug.port.device} {plug.port.port}"
    suits: dict[bool | None, str] = {True: "yes", False: "no", None: ""}
    end = wire.end if wire is not None else None
    takes = ""
    if end is not None and end.least_mm2 is not None and end.most_mm2 is not None:
        takes = f"{end.least_mm2:g} to {end.most_mm2:g}"
    cells: tuple[Cell, ...] = (
        name,
        cavity.number,
        cavity.text,
        label_of_wire(queries, wire) if wire else "empty",
        wire.colour or "" if wire else "",
        wire.area_mm2 if wire else None,
        _contact(end) if end else "",
        takes,
        suits[end.fits] if end else "",
        plug.words + (f", {plug.contacts}" if plug.contacts else ""),
        plug.mate,
        "yes" if plug.keyed else "no",
    )
    return TableRow(
        key=(plug.port.device, plug.port.port, cavity.pin.pin, number),
        cells=cells,
        conductor=wire.key if wire else None,
        pin=cavity.pin,
    )


def _contact(end: Termination) -> str:
    """What a wire ends in; the family of a crimped contact stands with its plug."""
    if end.form == "contact":
        return end.item.partition(" for ")[0]
    return end.item or end.words


def connector_face(queries: Queries) -> Face:
    """The face; its tab counts plugs."""
    rows = tuple(row for name in queries.devices() for row in connector_face_rows(queries, name))
    plugs = sum(len(plugs_of_device(queries, name)) for name in queries.devices())
    return Face("Connectors", COLUMNS, rows, plugs)
