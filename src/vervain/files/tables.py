"""The tables that leave the program: conductors, cables, devices, findings."""

from vervain.checks.engine import check_machine
from vervain.checks.finding import Result
from vervain.checks.registry import RULE_BY_ID
from vervain.harness.conductors import ConductorRow, conductor_rows, pin_words
from vervain.harness.lengths import cable_length_m
from vervain.machine.look import Look
from vervain.machine.machine import Machine
from vervain.machine.record import Record
from vervain.sheets.settings import settings_sheet
from vervain.supply.account import arrivals, source_name, supply_loads
from vervain.supply.states import STATE_WORDS, STATES, State

Cell = str | float | int | None


class Table(Record, frozen=True, kw_only=True):
    """A titled table: column names with their widths in letters, and rows of cells."""

    title: str
    columns: tuple[tuple[str, int], ...]
    rows: tuple[tuple[Cell, ...], ...]

    @property
    def names(self) -> tuple[str, ...]:
        """The column names."""
        return tuple(name for name, _ in self.columns)


CONDUCTOR_COLUMNS = (
    ("Label", 12),
    ("From", 8),
    ("From pin", 14),
    ("Cable", 8),
    ("Core", 6),
    ("Core colour", 11),
    ("To", 8),
    ("To pin", 14),
    ("Label at To", 12),
    ("Lead", 14),
    ("Device", 30),
    ("mm2", 7),
    ("m", 7),
    ("Note", 30),
)


def conductor_cells(look: Look, row: ConductorRow) -> tuple[Cell, ...]:
    """One conductor as the cells of `CONDUCTOR_COLUMNS`."""
    named = []
    for designator in row.devices:
        device = look.device(designator)
        named.append(f"{designator} {device.name}" if device else designator)
    return (
        row.label_from,
        row.start.device,
        pin_words(look, row.start),
        row.cable,
        row.core,
        row.colour or "",
        row.end.device,
        pin_words(look, row.end),
        row.label_to,
        " ".join(lead.colour for lead in row.leads if lead.colour),
        ", ".join(named),
        row.mm2,
        row.length_m,
        row.note,
    )


def conductor_table(look: Look) -> Table:
    """Every conductor, in the order of the labels."""
    rows = tuple(conductor_cells(look, row) for row in conductor_rows(look))
    return Table(title="Conductors", columns=CONDUCTOR_COLUMNS, rows=rows)


def cable_table(look: Look) -> Table:
    """Every cable with what it is and how many of its cores are used."""
    rows: list[tuple[Cell, ...]] = []
    for cable_id in look.cables():
        cable = look.cable(cable_id)
        part = look.cable_part(cable.part) if cable else None
        if cable is None or part is None:
            continue
        hookups = look.hookups_in(cable_id)
        ends = dict.fromkeys(end.device for h in hookups for end in (h.b, h.a))
        used = {c.core for h in hookups for c in h.conductors}
        rows.append(
            (
                cable_id,
                part.title,
                len(part.cores),
                len(used),
                part.core_mm2,
                cable_length_m(look, cable_id),
                ", ".join(ends),
                cable.note,
            )
        )
    columns = (
        ("Cable", 8),
        ("Kind", 46),
        ("Cores", 7),
        ("Used", 7),
        ("mm2", 7),
        ("m", 7),
        ("Between", 24),
        ("Note", 30),
    )
    return Table(title="Cables", columns=columns, rows=tuple(rows))


def device_table(look: Look) -> Table:
    """Every device with its part and its place."""
    places = {place.id: place.name for place in look.places()}
    rows: list[tuple[Cell, ...]] = []
    for designator in look.devices():
        device, part = look.device(designator), look.part_of(designator)
        if device is None or part is None:
            continue
        axis = look.axis_of(designator)
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


def settings_table(look: Look) -> Table:
    """Everything to set outside the wiring."""
    columns = (
        ("Group", 10),
        ("Where", 14),
        ("What", 24),
        ("Set to", 26),
        ("Because of", 44),
    )
    rows = tuple(
        (row.group, row.where, row.what, row.value, row.because) for row in settings_sheet(look)
    )
    return Table(title="Settings", columns=columns, rows=rows)


SUPPLY_COLUMNS = (
    ("State", 13), ("Supply", 12), ("Consumer", 10), ("Port", 12), ("Takes A", 8), ("Of A", 8),
    ("Gets V", 8), ("Of V", 8), ("Lost %", 8), ("How it fares", 13), ("Known by", 40),
)  # fmt: skip


def supply_table(look: Look, states: tuple[State, ...] = STATES) -> Table:
    """State by state: what each supply gives of its rating, and what each consumer gets."""
    rows: list[tuple[Cell, ...]] = []
    for state in states:
        words = STATE_WORDS[state]
        for load in supply_loads(look, state):
            rows.append(
                (
                    words, source_name(look, load.pin), "", "", round(load.amps, 3), load.rated_a,
                    round(load.volts, 2), load.nominal_v, None, f"{load.fraction:.0%}", "",
                )
            )  # fmt: skip
        for row in arrivals(look, state):
            rows.append(
                (
                    words, source_name(look, row.source), row.pin.device, row.pin.port,
                    round(row.amps, 3), round(row.wanted_a, 3),
                    None if row.volts is None else round(row.volts, 2), row.source_v,
                    None if row.lost is None else round(row.lost * 100, 2), row.status, row.by,
                )
            )  # fmt: skip
    return Table(title="Supply", columns=SUPPLY_COLUMNS, rows=tuple(rows))


def all_tables(machine: Machine) -> tuple[Table, ...]:
    """The tables of a machine, in the order of the workbook's sheets."""
    look = Look(machine)
    return (
        conductor_table(look),
        cable_table(look),
        device_table(look),
        settings_table(look),
        supply_table(look),
        finding_table(check_machine(machine)),
    )
