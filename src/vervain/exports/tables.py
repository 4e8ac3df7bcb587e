"""The tables that leave the program: conductors, cables, devices, findings."""

from vervain.bench.checklist import bench_list
from vervain.bench.results import step_results
from vervain.harness.conductors import natural_key
from vervain.model.base import Record
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.finding import Result
from vervain.rules.registry import RULE_BY_ID
from vervain.supply.conductor_currents import all_flowing
from vervain.supply.results import delivered_power, source_name, supply_loads
from vervain.supply.states import STATE_WORDS, STATES, State
from vervain.tables.cable_face import cable_face
from vervain.tables.conductor_face import conductor_face
from vervain.tables.connector_face import connector_face
from vervain.tables.cut_face import cut_face
from vervain.tables.cutting_plan import cutting_rows
from vervain.tables.label_face import label_face
from vervain.tables.settings_sheet import settings_sheet
from vervain.tables.stop_rows import NOTICED_WORDS, press_rows, stop_rows, string_rows
from vervain.tables.table_view import Cell, Face, cell_in_units, title_in_units
from vervain.text.units import is_metric


class Table(Record, frozen=True, kw_only=True):
    """A titled table: column names with their widths in letters, and rows of cells; which columns
    hold letters of colours, and which are left out on paper.
    """

    title: str
    columns: tuple[tuple[str, int], ...]
    rows: tuple[tuple[Cell, ...], ...]
    colour_columns: frozenset[int] = frozenset()
    not_printed: frozenset[int] = frozenset()

    @property
    def in_units(self) -> "Table":
        """The table in the units that the builder chose, for paper; what is exported is metric."""
        if is_metric():
            return self
        return Table(
            title=self.title,
            columns=tuple((title_in_units(name), letters) for name, letters in self.columns),
            rows=tuple(
                tuple(cell_in_units(n, c) for n, c in zip(self.names, row, strict=True))
                for row in self.rows
            ),
            colour_columns=self.colour_columns,
            not_printed=self.not_printed,
        )

    @property
    def on_paper(self) -> "Table":
        """The table without what is left out on paper."""
        if not self.not_printed:
            return self
        kept = [at for at in range(len(self.columns)) if at not in self.not_printed]
        return Table(
            title=self.title,
            columns=tuple(self.columns[at] for at in kept),
            rows=tuple(tuple(row[at] for at in kept) for row in self.rows),
            colour_columns=frozenset(
                new for new, at in enumerate(kept) if at in self.colour_columns
            ),
        )

    @property
    def names(self) -> tuple[str, ...]:
        """The column names."""
        return tuple(name for name, _ in self.columns)


def face_table(face: Face) -> Table:
    """A face of the harness table as it is exported: without the columns that only join others."""
    kept = [(n, column) for n, column in enumerate(face.columns) if not column.is_joined]
    return Table(
        title=face.name,
        columns=tuple((column.export_title, column.letters + 2) for _, column in kept),
        rows=tuple(tuple(row.cells[n] for n, _ in kept) for row in face.rows),
        colour_columns=frozenset(at for at, (_, column) in enumerate(kept) if column.is_colours),
        not_printed=frozenset(at for at, (_, column) in enumerate(kept) if not column.is_printed),
    )


def harness_faces(machine: Machine, queries: Queries) -> tuple[Face, ...]:
    """The five faces of the harness table; conductors in the natural order of their labels."""
    conductors = conductor_face(queries, all_flowing(queries))
    ordered = sorted(
        conductors.rows, key=lambda row: natural_key(str(conductors.cell(row, "label")))
    )
    return (
        conductors._replace(rows=tuple(ordered)),
        cable_face(queries),
        connector_face(queries),
        cut_face(queries, machine),
        label_face(queries, machine.printed),
    )


def device_table(queries: Queries) -> Table:
    """Every device with its part and its place."""
    places = {place.id: place.name for place in queries.places()}
    rows: list[tuple[Cell, ...]] = []
    for designator in queries.devices():
        device, part = queries.device(designator), queries.part_of(designator)
        if device is None or part is None:
            continue
        axis = queries.axis_of(designator)
        rows.append(
            (
                designator,
                device.name,
                axis.id if axis else "",
                part.title,
                f"{part.maker} {part.model}".strip(),
                places.get(device.place or "", ""),
            )
        )
    columns = (
        ("Device", 8),
        ("Name", 30),
        ("Axis", 6),
        ("Part", 40),
        ("Maker and model", 22),
        ("Place", 22),
    )
    return Table(title="Devices", columns=columns, rows=tuple(rows))


def finding_table(result: Result) -> Table:
    """Every finding, the worst first; accepted ones last."""
    rows: list[tuple[Cell, ...]] = []
    for finding, accepted in (
        *((finding, "") for finding in result.open),
        *((finding, "accepted") for finding in result.accepted),
    ):
        rows.append(
            (
                finding.consequence,
                finding.stage,
                finding.sentence,
                ", ".join(subject.text for subject in finding.subjects),
                None if finding.value is None else round(finding.value, 3),
                None if finding.limit is None else round(finding.limit, 3),
                finding.unit,
                "; ".join(fix.words for fix in finding.fixes),
                RULE_BY_ID[finding.rule].reason,
                finding.rule,
                accepted,
            )
        )
    columns = (
        ("Consequence", 13),
        ("Stage", 9),
        ("Finding", 60),
        ("About", 24),
        ("Value", 8),
        ("Limit", 8),
        ("Unit", 7),
        ("Fix", 44),
        ("Why", 70),
        ("Rule", 22),
        ("State", 10),
    )
    return Table(title="Findings", columns=columns, rows=tuple(rows))


def settings_table(queries: Queries) -> Table:
    """Everything to set outside the wiring."""
    columns = (
        ("Group", 10),
        ("Where", 14),
        ("What", 24),
        ("Set to", 26),
        ("Because of", 44),
    )
    rows = tuple(
        (row.group, row.where, row.what, row.value, row.because) for row in settings_sheet(queries)
    )
    return Table(title="Settings", columns=columns, rows=rows)


SUPPLY_COLUMNS = (
    ("State", 13), ("Supply", 12), ("Consumer", 10), ("Port", 12), ("Takes A", 8), ("Of A", 8),
    ("Gets V", 8), ("Of V", 8), ("Lost %", 8), ("How it fares", 13), ("Known by", 40),
)  # fmt: skip


def supply_table(queries: Queries, states: tuple[State, ...] = STATES) -> Table:
    """State by state: what each supply gives of its rating, and what each consumer gets."""
    rows: list[tuple[Cell, ...]] = []
    for state in states:
        words = STATE_WORDS[state]
        for load in supply_loads(queries, state):
            rows.append(
                (
                    words, source_name(queries, load.pin), "", "", round(load.current_a, 3),
                    load.rated_a, round(load.voltage_v, 2), load.nominal_v, None,
                    f"{load.fraction:.0%}", "",
                )
            )  # fmt: skip
        for row in delivered_power(queries, state):
            rows.append(
                (
                    words, source_name(queries, row.source), row.pin.device, row.pin.port,
                    round(row.current_a, 3), round(row.wanted_a, 3),
                    None if row.voltage_v is None else round(row.voltage_v, 2), row.source_v,
                    None if row.lost is None else round(row.lost * 100, 2), row.status, row.by,
                )
            )  # fmt: skip
    return Table(title="Supply", columns=SUPPLY_COLUMNS, rows=tuple(rows))


STOP_COLUMNS = (
    ("Fault", 44), ("Controller sees", 30), ("Motion power", 44), ("Noticed", 16),
    ("Defeats a stop", 14),
)  # fmt: skip


def stop_table(queries: Queries) -> Table:
    """What each stop does when it is pressed, then every single fault, the gravest first."""
    pressed = ((row.done, row.sees, row.power, row.releasing, "") for row in press_rows(queries))
    faults = (
        (row.fault, row.sees, row.power, NOTICED_WORDS[row.noticed],
         "yes" if row.is_dangerous else "")
        for row in stop_rows(queries)
    )  # fmt: skip
    strings = (
        (f"String {row.source} to {row.ends}", row.read_by or "nothing", row.through, "", "")
        for row in string_rows(queries)
    )
    return Table(title="Stops", columns=STOP_COLUMNS, rows=(*pressed, *strings, *faults))


BENCH_COLUMNS = (
    ("No", 4), ("Section", 12), ("Place", 14), ("Do", 56), ("See", 44), ("Why", 40), ("Seen", 14),
)  # fmt: skip


def bench_steps_table(queries: Queries, result: Result) -> Table:
    """What is proven at the bench, in the order of the work, with what was seen or room for it;
    what an open finding of Damage makes harmful says so in place of what it is for.
    """
    steps = bench_list(queries, result.open)
    results = step_results(queries, steps)
    rows = (
        (number, step.section, step.place, step.do, step.see,
         f"Held back: {step.held}" if step.held else step.why, results[step.id].words)
        for number, step in enumerate(steps, 1)
    )  # fmt: skip
    return Table(title="Bench", columns=BENCH_COLUMNS, rows=tuple(rows))


CUTTING_COLUMNS = (
    ("Cable", 44), ("From", 20), ("Length m", 9), ("Pieces in order, m", 70), ("Left m", 8),
)  # fmt: skip


def cutting_table(queries: Queries) -> Table:
    """Which piece is cut from which reel or length, in order."""
    rows = (
        (row.cable, row.source, row.length_m, row.words, row.left_m)
        for row in cutting_rows(queries)
    )
    return Table(title="Cutting", columns=CUTTING_COLUMNS, rows=tuple(rows))


def all_tables(machine: Machine, known: Queries | None = None) -> tuple[Table, ...]:
    """The tables of a machine, in the order of the workbook's sheets; from look-ups that are known,
    where there are some.
    """
    queries = Queries(machine) if known is None else known
    result = check_look(queries)
    assert result is not None
    return (
        *(face_table(face) for face in harness_faces(machine, queries)),
        cutting_table(queries),
        device_table(queries),
        settings_table(queries),
        supply_table(queries),
        stop_table(queries),
        bench_steps_table(queries, result),
        finding_table(result),
    )
