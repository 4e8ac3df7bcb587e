"""What each conductor end gets: a crimped contact, a ferrule, a ring, or what is there already.

Three kinds of ends: what is made here; what comes ready, a device's own plug or leads; and what is
only pushed in, a module in its slot or a shield on its headers. Where nobody said what plug a port
has, it is said that it is not said.
"""

import math
from collections.abc import Iterable
from typing import Literal

from vervain.harness.fittings import Ferrule, ferrule_for, fittings, ring_for, twin_ferrule_for
from vervain.model.base import Record
from vervain.model.connectors import Connector, connector_of, connector_words, is_plug
from vervain.model.machine import Hookup, PinRef, PortRef
from vervain.model.part import SEATED, WIRED_IN_PLACE, PartKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Form = Literal["contact", "ferrule", "ring", "joined", "as it comes", "not said"]
# What is joined by its own wires.
BY_WIRES: tuple[PartKind, ...] = (*WIRED_IN_PLACE, "connector")


class Termination(Record, frozen=True, kw_only=True):
    """What one end of a conductor gets. `item` names it in the cut list, "" where nothing is used;
    a twin `ferrule` is one for both of its wires. `fits` is whether the cross-section suits it,
    None where a table does not say.
    """

    form: Form
    words: str
    item: str = ""
    pitch: str = ""
    area_mm2: float | None = None
    ferrule: Ferrule | None = None
    least_mm2: float | None = None
    most_mm2: float | None = None

    @property
    def fits(self) -> bool | None:
        """Whether the cross-section is within what the contact or terminal takes."""
        if self.area_mm2 is None or self.least_mm2 is None or self.most_mm2 is None:
            return None
        return self.least_mm2 * 0.999 <= self.area_mm2 <= self.most_mm2 * 1.001


@query
def core_area_mm2(queries: Queries, hookup_id: str) -> float | None:
    """The cross-section of the conductors of a hookup: of its cable, or the device's own leads."""
    hookup = queries.hookup(hookup_id)
    if hookup is None:
        return None
    cable = queries.cable(hookup.cable) if hookup.cable else None
    if cable is not None:
        part = queries.cable_part(cable.part)
        return part.core_mm2 if part else None
    for end in (hookup.a, hookup.b):
        port = queries.port(end)
        if port is not None and port.end == "device":
            return port.lead_mm2
    ports = [queries.port(end) for end in (hookup.a, hookup.b)]
    return next((port.lead_mm2 for port in ports if port is not None and port.lead_mm2), None)


def contact_range_mm2(
    queries: Queries, ends: Iterable[PortRef], least_mm2: float = 0.0, most_mm2: float = math.inf
) -> tuple[float, float]:
    """The thinnest and the thickest core that the contacts at some ports, or at the mates of their
    plugs, take, both within some limits.
    """
    low, high = least_mm2, most_mm2
    for end in ends:
        port = queries.port(end)
        found = connector_of(port.connector) if port is not None else None
        if found is not None and found.takes_mm2 is not None:
            low, high = max(low, found.takes_mm2[0]), min(high, found.takes_mm2[1])
    return low, max(low, high)


@query
def is_seated(queries: Queries, hookup_id: str) -> bool:
    """Whether a module or a shield is pushed straight in here, pin on pin: nothing is made."""
    hookup = queries.hookup(hookup_id)
    ports = [queries.port(ref) for ref in (hookup.a, hookup.b)] if hookup is not None else []
    return bool(ports) and all(port is not None and port.kind in SEATED for port in ports)


def _brings_its_plug(queries: Queries, hookup: Hookup) -> bool:
    """Whether a device's own plug goes straight into its port: no cable, no contacts to crimp."""
    if hookup.cable is not None:
        return False
    for ref in (hookup.a, hookup.b):
        part, port = queries.part_of(ref.device), queries.port(ref)
        if part is not None and port is not None and port.end == "device" and is_plug(part, port):
            return True
    return False


@query
def termination(queries: Queries, hookup_id: str, pin: PinRef) -> Termination:
    """What the end of a conductor at a pin gets. A device's own plug and its leads come as they
    are; a lead that joins another one is spliced.
    """
    hookup = queries.hookup(hookup_id)
    port = queries.port(pin.port_ref)
    if hookup is None or port is None:
        return Termination(form="as it comes", words="")
    area = core_area_mm2(queries, hookup_id)
    found = connector_of(port.connector)
    if found is None:
        return _without_connector(queries, hookup, pin, area)
    part = queries.part_of(pin.device)
    if is_seated(queries, hookup_id):
        return Termination(form="as it comes", words="pushed in")
    own = port.end == "device" and part is not None and is_plug(part, port)
    straight = not found.family.takes_wires and _brings_its_plug(queries, hookup)
    if own or (straight and part is not None and part.kind != "connector"):
        return Termination(form="as it comes", words="its own plug")
    limits = found.takes_mm2 or (None, None)
    if found.family.takes_wires:
        return _in_terminal(found, area, limits, _are_twins(queries, pin, area, limits[1]))
    words = f"crimp {found.pitch}" if found.pitch else "crimp"
    side = contact_side(queries, pin)
    item = f"{side} for {connector_words(port.connector).rsplit(',', 1)[0]}"
    return Termination(
        form="contact", words=words, item=item, pitch=found.pitch, area_mm2=area,
        least_mm2=limits[0], most_mm2=limits[1],
    )  # fmt: skip


def contact_side(queries: Queries, pin: PinRef) -> str:
    """Whether the conductor's contact is a pin or a socket: the other one than the port's."""
    part, port = queries.part_of(pin.device), queries.port(pin.port_ref)
    found = connector_of(port.connector) if port else None
    if part is None or port is None or found is None:
        return "contact"
    if part.kind == "connector":
        # Both halves of an in-line connector are made by the builder: one gender each.
        gender = port.gender or (found.family.lead if port.id == "A" else found.family.board)
        return "pin contact" if gender == "pins" else "socket contact"
    gender = port.gender or found.family.board
    return "socket contact" if gender == "pins" else "pin contact"


def _are_twins(queries: Queries, pin: PinRef, area: float | None, most_mm2: float | None) -> bool:
    """Whether two wires in one terminal go into a twin ferrule: alike, made here, and thin enough
    together.
    """
    steps = queries.steps(pin)
    if area is None or len(steps) != 2 or (most_mm2 is not None and 2 * area > most_mm2 * 1.001):
        return False
    areas = {core_area_mm2(queries, step.hookup) for step in steps}
    return areas == {area} and not any(is_seated(queries, step.hookup) for step in steps)


def _in_terminal(
    found: Connector, area: float | None, limits: tuple[float | None, float | None], twins: bool
) -> Termination:
    stud = found.pitch if found.pitch.startswith("M") else ""
    if stud:
        ring = ring_for(stud, area) if area is not None else None
        return Termination(
            form="ring", words=f"ring {stud}", item=f"ring terminal {ring}" if ring else "",
            pitch=stud, area_mm2=area, least_mm2=limits[0], most_mm2=limits[1],
        )  # fmt: skip
    ferrule = ferrule_for(area) if area is not None else None
    if twins and area is not None:
        ferrule = twin_ferrule_for(area) or ferrule
    return Termination(
        form="ferrule", words="ferrule", item=ferrule.item if ferrule else "",
        pitch=found.pitch, area_mm2=area, ferrule=ferrule, least_mm2=limits[0], most_mm2=limits[1],
    )  # fmt: skip


def _without_connector(
    queries: Queries, hookup: Hookup, pin: PinRef, area: float | None
) -> Termination:
    """At flying leads a core is joined to the lead; a lead itself comes as it is. Elsewhere it goes
    into a terminal, or into what nobody said.
    """
    if hookup.cable is None:
        return Termination(form="as it comes", words="own lead")
    part, port, there = queries.part_of(pin.device), queries.port(pin.port_ref), queries.pin(pin)
    has_leads = there is not None and there.lead is not None
    has_leads = has_leads or (port is not None and port.lead_length_m > 0)
    if has_leads or part is None or part.kind in BY_WIRES:
        return Termination(form="joined", words="splice", item="splice, insulated", area_mm2=area)
    if part.kind in fittings().with_terminals:
        ferrule = ferrule_for(area) if area is not None else None
        return Termination(
            form="ferrule", words="ferrule", item=ferrule.item if ferrule else "", area_mm2=area,
            ferrule=ferrule,
        )  # fmt: skip
    return Termination(form="not said", words="plug not said", area_mm2=area)
