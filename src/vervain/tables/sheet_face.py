"""The face Sheets: one row a cable, with what of its build sheet is done."""

from vervain.harness.cable_routes import cable_ports
from vervain.harness.conductors import natural_key
from vervain.harness.lengths import cable_length_m
from vervain.harness.making import step_mark, step_state
from vervain.model.machine import MAKING_STEPS, MakingStep
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Column, Face, TableRow

DONE, NO_STEP = "✓", "–"
STATE_WORDS = {"": "", "done": DONE, "again": "again", "none": NO_STEP}
TITLES: dict[MakingStep, str] = {
    "cut": "Cut", "made": "Made", "labelled": "Labelled", "laid": "Laid", "tested": "Tested",
}  # fmt: skip
COLUMNS = (
    Column("cable", "Cable", 7),
    Column("kind", "Kind", 20),
    Column("between", "Between", 12),
    Column("length_m", "m", 5, is_right=True),
    *(Column(step, TITLES[step], 6, is_tick=True) for step in MAKING_STEPS),
    Column("stands", "Stands", 18),
)


@query
def sheet_face_row(queries: Queries, cable_id: str) -> TableRow | None:
    """The row of one cable; None for one that joins nothing."""
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    hookups = queries.hookups_in(cable_id)
    if cable is None or part is None or not hookups:
        return None
    states = [step_state(queries, cable_id, step) for step in MAKING_STEPS]
    again = [TITLES[s].lower() for s, state in zip(MAKING_STEPS, states, strict=True)
             if state == "again"]  # fmt: skip
    if again:
        stands = f"{' and '.join(again)} before a change"
    elif "" not in states:
        stands = "finished"
    else:
        stands = "begun" if "done" in states else ""
    return TableRow(
        key=cable_id,
        cells=(
            cable_id,
            part.title,
            ", ".join(dict.fromkeys(ref.device for ref in cable_ports(queries, cable_id))),
            cable_length_m(queries, cable_id),
            *(STATE_WORDS[state] for state in states),
            stands,
        ),
        conductor=(hookups[0].id, 0),
        cable=cable_id,
        marks=tuple(step_mark(queries, cable_id, step) for step in MAKING_STEPS),
    )


def step_to_do(face: Face, row: TableRow) -> MakingStep | None:
    """The first step of a row that is not done, or is to be done again; None where all are."""
    return next((s for s in MAKING_STEPS if face.cell(row, s) not in (DONE, NO_STEP)), None)


def steps_done(face: Face) -> tuple[int, int]:
    """How many steps of all rows are done, of how many."""
    cells = [face.cell(row, step) for row in face.rows for step in MAKING_STEPS]
    return cells.count(DONE), len(cells) - cells.count(NO_STEP)


def sheet_face(queries: Queries) -> Face:
    """The face, in natural order."""
    names = sorted(queries.cables(), key=natural_key)
    rows = tuple(row for name in names if (row := sheet_face_row(queries, name)) is not None)
    return Face("Sheets", COLUMNS, rows, len(rows))
