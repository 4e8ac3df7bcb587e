"""The conductor table: one row a core, link or lead, from the control side to the device."""

from vervain.harness.labels import labels
from vervain.harness.lengths import cable_length_m
from vervain.model.base import Record
from vervain.model.machine import Hookup, PinRef
from vervain.queries.connectivity import is_joint, joined_inside, ways_from
from vervain.queries.engine import query
from vervain.queries.look import Look
from vervain.queries.step import ends_of

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
    mm2: float | None = None
    length_m: float | None = None
    leads: tuple[LeadAtEnd, ...] = ()
    devices: tuple[str, ...] = ()
    note: str = ""

    @property
    def key(self) -> tuple[str, int]:
        """The hookup and the place of the conductor in it."""
        return self.hookup, self.row


@query
def conductor_rows(look: Look) -> tuple[ConductorRow, ...]:
    """Every row, in the natural order of the labels."""
    made = [row for hookup in look.hookups() for row in rows_of_hookup(look, hookup)]
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
def rows_of_hookup(look: Look, hookup_id: str) -> tuple[ConductorRow, ...]:
    """The rows of one hookup. A device's lead into a connector is no row of its own: it stands
    with the core behind the connector, if there is one.
    """
    hookup = look.hookup(hookup_id)
    if hookup is None:
        return ()
    named = labels(look)
    cable = look.cable(hookup.cable) if hookup.cable else None
    cable_part = look.cable_part(cable.part) if cable else None
    found = []
    for row, conductor in enumerate(hookup.conductors):
        a, b = ends_of(hookup, conductor)
        if cable is None and _stands_elsewhere(look, hookup, a, b):
            continue
        label = named[hookup_id, row]
        a_first = _side(look, a) <= _side(look, b)
        start, end = (a, b) if a_first else (b, a)
        core = conductor.core
        known = cable_part is not None and core is not None and core <= len(cable_part.cores)
        leads = _leads_of(look, start, end, is_lead=cable is None)
        own = look.port(leads[0].pin.port_ref) if cable is None and leads else None
        length_m = own.lead_length_m if own else None
        if cable is not None:
            length_m = cable_length_m(look, cable.id)
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
                mm2=cable_part.core_mm2 if cable_part else own.lead_mm2 if own else None,
                length_m=length_m,
                leads=leads,
                devices=tuple(dict.fromkeys(lead.pin.device for lead in leads)),
                note=conductor.note or (cable.note if cable else ""),
            )
        )
    return tuple(found)


def pin_text(look: Look, ref: PinRef) -> str:
    """A pin as it is called on its board."""
    pin = look.pin(ref)
    return pin.text if pin else ref.pin


@query
def pin_words(look: Look, ref: PinRef) -> str:
    """Port and pin in the shortest words that tell them apart: "AXIS 1 STP", "X14.2", "A+"."""
    part = look.part_of(ref.device)
    text = pin_text(look, ref)
    if part is None:
        return f"{ref.port} {text}"
    if part.kind == "connector" or len(part.ports) == 1:
        return text
    named = [port.id for port in part.ports for pin in port.pins if pin.text == text]
    return text if len(named) == 1 and len(text) > 1 else f"{ref.port} {text}"


def _side(look: Look, ref: PinRef) -> int:
    if is_joint(look, ref.device):
        return 3
    port = look.port(ref.port_ref)
    return SIDE_ORDER[port.end] if port else 3


def _stands_elsewhere(look: Look, hookup: Hookup, a: PinRef, b: PinRef) -> bool:
    """Whether this lead ends in a connector behind which a cable's core goes on."""
    joint = b if is_joint(look, b.device) else a if is_joint(look, a.device) else None
    if joint is None:
        return False
    device = a if joint is b else b
    return any(
        len(way.steps) > 1 and _has_core(look, way.steps[1].hookup)
        for way in ways_from(look, device)
        if way.steps[0].end == joint
    )


def _has_core(look: Look, hookup_id: str) -> bool:
    hookup = look.hookup(hookup_id)
    return hookup is not None and hookup.cable is not None


def _leads_of(look: Look, start: PinRef, end: PinRef, is_lead: bool) -> tuple[LeadAtEnd, ...]:
    """The leads that a row shows: the devices' own, or those behind the connector at its end."""
    if is_lead:
        return (*_own_lead(look, start), *_own_lead(look, end))
    return _leads_behind(look, end) if is_joint(look, end.device) else _own_lead(look, end)


def _leads_behind(look: Look, joint: PinRef) -> tuple[LeadAtEnd, ...]:
    found: dict[PinRef, LeadAtEnd] = {}
    for member in joined_inside(look, joint):
        for way in ways_from(look, member):
            pin = look.pin(way.end)
            if way.lands and len(way.steps) == 1 and pin is not None:
                found[way.end] = LeadAtEnd(pin=way.end, colour=pin.lead)
    return tuple(found.values())


def _own_lead(look: Look, end: PinRef) -> tuple[LeadAtEnd, ...]:
    pin, port = look.pin(end), look.port(end.port_ref)
    if pin is None or port is None or port.end != "device":
        return ()
    return (LeadAtEnd(pin=end, colour=pin.lead),)
