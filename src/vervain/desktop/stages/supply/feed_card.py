"""Facts of a device's feed, and of a cable's gauge, on the card."""

from vervain.desktop.session import Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits.feed_edits import set_ambient, set_gauge, set_measured_currents, set_shedding
from vervain.electrical.copper import read_area_mm2
from vervain.electrical.feeds import feed_pins
from vervain.model.cable_part import CablePart
from vervain.model.machine import Cable, Device
from vervain.model.problem import Problem
from vervain.supply.measured import measured_text, read_measured
from vervain.text.quantities import NotAQuantity, read_quantity
from vervain.text.units import in_area


def show_measured(card: FactRows, session: Session, device: Device) -> None:
    """The currents that were measured in a device's feed, by operating state."""
    name = device.designator
    if not feed_pins(session.queries, name):
        return

    def take(text: str) -> bool:
        try:
            found = read_measured(text)
        except Problem as problem:
            session.say(str(problem))
            return False
        words = f"Measured at {name}: {text.strip() or 'nothing'}"
        return session.apply(words, lambda m: set_measured_currents(m, name, found))

    field = card.field(measured_text(device.measured_a), take, "Measured current")
    field.setPlaceholderText("moving 1.8 A")
    card.row("Measured", field)


def show_gauge(card: FactRows, session: Session, cable: Cable, part: CablePart) -> None:
    """A cable's cross-section, in mm2 or AWG."""

    def take(text: str) -> bool:
        try:
            area = read_area_mm2(text)
        except NotAQuantity as wrong:
            session.say(f"{wrong} Try “1.5 mm2” or “AWG 16”.")
            return False
        words = f"{in_area(area, '.3g')} for {cable.id}"
        return session.apply(words, lambda m: set_gauge(m, cable.id, area))

    card.row("Cross-section", card.field(in_area(part.core_mm2), take, "Cross-section"))


def show_ambient(card: FactRows, session: Session) -> None:
    """The temperature around the machine's cables: what their cores may carry goes by it."""

    def take(text: str) -> bool:
        cleaned = text.replace("°C", "").replace("°", "").replace("C", "").strip()
        try:
            celsius = read_quantity(cleaned, "")
        except NotAQuantity as wrong:
            session.say(f"{wrong} Try “40 °C”.")
            return False
        words = f"Around the cables: {celsius:g} °C"
        return session.apply(words, lambda m: set_ambient(m, celsius))

    shown = f"{session.machine.ambient_c:g} °C"
    card.row("Around cables", card.field(shown, take, "Temperature around the cables"))


def show_shedding(card: FactRows, session: Session, device: Device) -> None:
    """How much heat the box of a supply gives off."""
    place = next((p for p in session.queries.places() if p.id == device.place), None)
    if place is None:
        return

    def take(text: str) -> bool:
        try:
            watts = read_quantity(text, "W") if text.strip() else None
        except NotAQuantity as wrong:
            session.say(f"{wrong} Try “60 W”.")
            return False
        words = f"{place.name} sheds {text.strip() or 'what is not known'}"
        return session.apply(words, lambda m: set_shedding(m, place.id, watts))

    shown = f"{place.sheds_w:g} W" if place.sheds_w is not None else ""
    field = card.field(shown, take, "Heat that its box sheds")
    field.setPlaceholderText("not known")
    card.row("Its box sheds", field)
