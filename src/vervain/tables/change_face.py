"""The face Changes: what differs from another version of the machine."""

from vervain.harness.compare import Difference
from vervain.tables.table_view import Column, Face, TableRow

COLUMNS = (
    Column("what", "What", 9),
    Column("label", "Label", 12),
    Column("before", "Before", 46),
    Column("now", "Now", 46),
)


def change_face(difference: Difference) -> Face:
    """The face: conductors first, then labels to print and to take off."""
    rows = [
        TableRow(
            key=(number, change.kind),
            cells=(change.kind, change.label, change.before, change.after),
            conductor=change.key,
        )
        for number, change in enumerate(difference.changes)
    ]
    for number, content in enumerate(difference.reprint):
        label, _, rest = content.partition(" | ")
        rows.append(TableRow(key=("print", number), cells=("print", label, "", rest)))
    for number, content in enumerate(difference.take_off):
        label, _, rest = content.partition(" | ")
        rows.append(TableRow(key=("take off", number), cells=("take off", label, rest, "")))
    return Face("Changes", COLUMNS, tuple(rows), len(rows))
