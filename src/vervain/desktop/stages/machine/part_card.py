"""The card of a part on the shelf: how it looks, what it is rated for, and where it fits here."""

from __future__ import annotations

from typing import TYPE_CHECKING

from vervain.catalogue.ratings import facts_in_words
from vervain.desktop.session import Session
from vervain.desktop.shared.plug_painting import PartPicture
from vervain.edits.axis_edits import accepts
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import Winding
from vervain.model.part import Part, Pin
from vervain.queries.axis_places import LANE_TITLES, Place, places_of_axis
from vervain.queries.device_groups import group_of
from vervain.text.units import in_area, in_length

if TYPE_CHECKING:
    from vervain.desktop.shared.property_rows import FactRows

MOST_PLACES = 6


def pin_facts(pin: Pin) -> str:
    """The electrical limits of a pin in a few words."""
    from vervain.text.quantities import figure

    match pin.electrical:
        case FeedIn(v_min_v=low, v_max_v=high, current_a=current):
            takes = f", {figure(current, 'A')}" if current else ""
            volts = f"{low:g} to {high:g} V" if high is not None else "volts not given"
            return f"{volts}{takes}"
        case FeedOut(nominal_v=voltage_v, current_a=current):
            return f"{voltage_v:g} V, up to {figure(current, 'A')}"
        case LogicOutput(drive=drive, high_max_v=high):
            level = f", {high:g} V" if high is not None else ""
            return f"{drive} output{level}"
        case LogicInput(high_min_v=high, max_v=most):
            return f"on from {high:g} V, takes {most:g} V"
        case _:
            return pin.function


def places_for(session: Session, part: Part) -> list[str]:
    """The empty places of the machine that a part can fill, in words."""
    found: list[Place] = []
    for axis_id in session.queries.axes():
        axis = session.queries.axis(axis_id)
        found += [
            place
            for place in (places_of_axis(axis) if axis else ())
            if place.device is None and place.role is not None and accepts(part, place.role)
        ]
    return [place.words for place in found]


def show_part(card: FactRows, session: Session, part: Part) -> None:
    """Fills a card with a part."""
    made = " ".join(text for text in (part.maker, part.model) if text)
    card.title.setText(part.title)
    if any(pin.lead for port in part.ports for pin in port.pins) or len(part.ports) == 1:
        card.wide_row(PartPicture(part))
    if made:
        card.row("Made by", made)
    facts = facts_in_words(part)
    if facts:
        card.row("Rated", ", ".join(facts))
    windings = [element for element in part.inside if isinstance(element, Winding)]
    if windings:
        ohm, henry = windings[0].resistance_ohm, windings[0].inductance_h
        known = [f"{ohm:g} Ω"] if ohm is not None else []
        known += [f"{henry * 1000:g} mH"] if henry is not None else []
        card.row("Winding", ", ".join(known) or "not given")
    leads = [port for port in part.ports if port.lead_length_m]
    if leads:
        area = f", {in_area(leads[0].lead_mm2)}" if leads[0].lead_mm2 else ""
        card.row("Leads", f"{in_length(leads[0].lead_length_m)}{area}")
    elif len(part.ports) > 1:
        card.row("Ports", str(len(part.ports)))
    for option in part.options[:4]:
        choices = ", ".join(option.choices)
        bounds = (
            f"{option.minimum:g} to {option.maximum:g} {option.unit}"
            if not choices and option.minimum is not None and option.maximum is not None
            else ""
        )
        card.row(option.title, choices or bounds)
    if part.note:
        card.row("Note", part.note)
    places = places_for(session, part)
    lane = group_of(part)
    shown = ", ".join(places[:MOST_PLACES]) + (" …" if len(places) > MOST_PLACES else "")
    card.row("Fits here", shown or LANE_TITLES.get(lane, lane))
