"""The face Labels: what is printed for both ends of every core and cable."""

from vervain.harness.label_texts import LabelText, label_texts
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Column, Face, TableRow

COLUMNS = (
    Column("label", "Label", 10, is_ours=True),
    Column("subject", "Of a", 6),
    Column("at", "At", 20),
    Column("to", "To", 34),
    Column("cable", "Cable", 7),
    Column("printed", "Printed", 9),
)


def label_face(queries: Queries, printed: tuple[str, ...]) -> Face:
    """The face; a label is printed anew where its text is on none that was printed."""
    known = set(printed)
    rows = tuple(
        TableRow(
            key=(label.owner, label.text, label.at),
            cells=(
                label.text,
                label.owner,
                label.at,
                label.to,
                label.cable,
                "yes" if label.content in known else "not yet",
            ),
            conductor=label.key or _first_of(queries, label),
            cable=label.cable or None,
        )
        for label in label_texts(queries)
    )
    return Face("Labels", COLUMNS, rows, len(rows))


def _first_of(queries: Queries, label: LabelText) -> tuple[str, int] | None:
    hookups = queries.hookups_in(label.cable) if label.cable else ()
    return (hookups[0].id, 0) if hookups else None
