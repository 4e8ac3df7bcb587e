"""The conductor table: one row a core, link or lead, from the control side to the device."""

from vervain.harness.labels import hookup_labels
from vervain.harness.lengths import cable_length_m
from vervain.model.base import Record
from vervain.model.machine import PinRef, ends_of
from vervain.queries.connectivity import is_joint, joined_inside, paths_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_name

# Which end of a conductor is written first: the control side before the strips, these before
# devices, and connectors last.
SIDE_ORDER = {"host": 0, "through": 1, "device": 2}


class LeadAtEnd(Record, frozen=True, kw_only=True):
    """A device's lead behind the far end of a core: its pin and its colour."""

    pin: PinRef
    colour: str | None


class ConductorRow(Record, frozen=True, kw_only=True):
    """One row of the harness table. Lengths in m, cross-section in mm2, None where not known."""

    hookup: str
    row: int
    label_from: str
    label_to: str
    start: PinRef
    end: PinRef
    cable: str = ""
    core: int | None = None
    colour: str | None = None
    area_mm2: float | None = None
    length_m: float | None = None
    leads: tuple[LeadAtEnd, ...] = ()
    devices: tuple[str, ...] = ()
    note: str = ""

    @property
    def key(self) -> tuple[str, int]:
        """The hookup and the place of the conductor in it."""
        return self.hookup, self.row


@query
def conductor_rows(queries: Queries) -> tuple[ConductorRow, ...]:
    """Every row, in the natural order of the labels."""
    made = [row for hookup in queries.hookups() for row in rows_of_hookup(queries, hookup)]
    return tuple(sorted(made, key=lambda row: (natural_key(row.label_from), row.hookup, row.row)))


def natural_key(text: str) -> tuple[tuple[int, int, str], ...]:
    """Sort key that puts W2 before W10."""
    pieces: list[tuple[int, int, str]] = []
    digits = ""
    for character in text:
        if character.isdecimal() and character.isascii():
            digits += character
            continue
        if digits:
            pieces.append((0, int(digits), ""))
            digits = ""
        pieces.append((1, 0, character))
    if digits:
        pieces.append((0, int(digits), ""))
    return tuple(pieces)


@query
def rows_of_hookup(queries: Queries, hookup_id: str) -> tuple[ConductorRow, ...]:
    """The rows of one hookup. The row of a core that ends in a connector also tells the device's
    lead behind that, which has a row of its own.
    """
    hookup = queries.hookup(hookup_id)
    if hookup is None:
        return ()
    named = hookup_labels(queries, hookup_id)
    cable = queries.cable(hookup.cable) if hookup.cable else None
    cable_part = queries.cable_part(cable.part) if cable else None
    found = []
    for row, conductor in enumerate(hookup.conductors):
        a, b = ends_of(hookup, conductor)
        label = named[row]
        a_first = _side(queries, a) <= _side(queries, b)
        start, end = (a, b) if a_first else (b, a)
        core = conductor.core
        known = cable_part is not None and core is not None and core <= len(cable_part.cores)
        leads = _leads_of(queries, start, end, is_lead=cable is None)
        own = queries.port(leads[0].pin.port_ref) if cable is None and leads else None
        length_m = own.lead_length_m if own else None
        if cable is not None:
            length_m = cable_length_m(queries, cable.id)
        found.append(
            ConductorRow(
                hookup=hookup_id,
                row=row,
                label_from=label.at_a if a_first else label.at_b,
                label_to=label.at_b if a_first else label.at_a,
                start=start,
                end=end,
                cable=hookup.cable or "",
                core=core,
                colour=cable_part.cores[core - 1] if known and cable_part and core else None,
                area_mm2=cable_part.core_mm2 if cable_part else own.lead_mm2 if own else None,
                length_m=length_m,
                leads=leads,
                devices=tuple(dict.fromkeys(lead.pin.device for lead in leads)),
                note=conductor.note or (cable.note if cable else ""),
            )
        )
    return tuple(found)


@query
def pin_words(queries: Queries, ref: PinRef) -> str:
    """Port and pin in the shortest words that tell them apart: "AXIS 1 STP", "X14.2", "A+"."""
    part = queries.part_of(ref.device)
    text = pin_name(queries, ref)
    if part is None:
        return f"{ref.port} {text}"
    if part.kind == "connector" or len(part.ports) == 1:
        return text
    named = [port.id for port in part.ports for pin in port.pins if pin.text == text]
    return text if len(named) == 1 and len(text) > 1 else f"{ref.port} {text}"


def _side(queries: Queries, ref: PinRef) -> int:
    if is_joint(queries, ref.device):
        return 3
    port = queries.port(ref.port_ref)
    return SIDE_ORDER[port.end] if port else 3


def _leads_of(queries: Queries, start: PinRef, end: PinRef, is_lead: bool) -> tuple[LeadAtEnd, ...]:
    """The leads that a row shows: the devices' own, or those behind the connector at its end."""
    if is_lead:
        return (*_own_lead(queries, start), *_own_lead(queries, end))
    return _leads_behind(queries, end) if is_joint(queries, end.device) else _own_lead(queries, end)


def _leads_behind(queries: Queries, joint: PinRef) -> tuple[LeadAtEnd, ...]:
    found: dict[PinRef, LeadAtEnd] = {}
    for member in joined_inside(queries, joint):
        for way in paths_from(queries, member):
            pin = queries.pin(way.end)
            if way.lands and len(way.steps) == 1 and pin is not None:
                found[way.end] = LeadAtEnd(pin=way.end, colour=pin.lead)
    return tuple(found.values())


def _own_lead(queries: Queries, end: PinRef) -> tuple[LeadAtEnd, ...]:
    pin, port = queries.pin(end), queries.port(end.port_ref)
    if pin is None or port is None or (port.end != "device" and port.lead_length_m <= 0):
        return ()
    return (LeadAtEnd(pin=end, colour=pin.lead),)
