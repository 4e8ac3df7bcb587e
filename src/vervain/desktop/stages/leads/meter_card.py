"""Facts of the meter that leads are read with, on a motor's card: set, or learnt from the meter."""

from functools import partial
from typing import NamedTuple

from msgspec.structs import replace

from vervain.desktop.session import Session
from vervain.desktop.shared.plain import plain
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits.measurement_edits import set_meter
from vervain.leads.resistance import learnt_error
from vervain.model.measurements import Meter
from vervain.text.quantities import NotAQuantity, read_quantity


class MeterRow(NamedTuple):
    """A fact of the meter: its title, its unit as shown, and between what it must lie, as shown."""

    field: str
    title: str
    unit: str
    lowest: float
    highest: float
    hint: str

    def shown(self, meter: Meter) -> str:
        """The value as it is shown."""
        value = getattr(meter, self.field)
        if self.unit == "%":
            return f"{value * 100:g} %"
        if self.unit == "Ω" and value >= 1e6:
            return f"{value / 1e6:g} MΩ"
        return f"{value:g} {self.unit}"

    def read(self, text: str) -> float:
        """The value from what was typed, in the unit of the model. Raises `NotAQuantity`."""
        cleaned = text.replace("°C", "").replace("°", "").strip()
        if self.unit == "%":
            return read_quantity(cleaned.removesuffix("%"), "") / 100
        return read_quantity(cleaned, "ohm" if self.unit == "Ω" else "")


ROWS = (
    MeterRow("leads_ohm", "Meter's own leads", "Ω", 0.0, 10.0, "What it shows, its tips together"),
    MeterRow("error_fraction", "Meter's error", "%", 0.0, 20.0, "Of a reading"),
    MeterRow("error_ohm", "and at least", "Ω", 0.0, 5.0, "Its last digit, and the contact"),
    MeterRow("beep_below_ohm", "Beeps below", "Ω", 1.0, 1000.0, "Of its manual"),
    MeterRow("open_above_ohm", "Open above", "Ω", 1000.0, 1e9, "Insulation has 1 MΩ or more"),
    MeterRow("motor_temperature_c", "Motor is at", "°C", -40.0, 150.0, "Copper is read at 20 °C"),
)
KNOWN_RESISTOR = "Known resistor"


def show_meter(card: FactRows, session: Session) -> None:
    """The meter, a row for each fact, and one to learn its error from a resistor."""
    for row in ROWS:
        take = partial(_take, session, row)
        field = card.field(row.shown(session.machine.meter), take, row.title)
        field.setToolTip(plain(row.hint))
        card.row(row.title, field)
    field = card.field("", partial(_learn, session), KNOWN_RESISTOR)
    field.setPlaceholderText("10 shows 10.3")
    field.setToolTip("Read a resistor that you know: its ohms, “shows”, and what the meter shows")
    card.row(KNOWN_RESISTOR, field)


def _take(session: Session, row: MeterRow, text: str) -> bool:
    try:
        value = row.read(text)
    except NotAQuantity as wrong:
        session.say(str(wrong))
        return False
    scale = 100 if row.unit == "%" else 1
    if not row.lowest <= value * scale <= row.highest:
        session.say(f"It must be between {row.lowest:g} and {row.highest:g}.")
        return False
    return _set(session, replace(session.machine.meter, **{row.field: value}), text)


def _learn(session: Session, text: str) -> bool:
    known, word, shown = text.partition("shows")
    if not text.strip():
        return False
    try:
        ohms, read = read_quantity(known, "ohm"), read_quantity(shown, "ohm")
    except NotAQuantity:
        ohms = read = 0.0
    if not word or ohms <= 0 or read <= 0:
        session.say("Type what the resistor has and what the meter shows: “10 shows 10.3”.")
        return False
    error = learnt_error(ohms, read, session.machine.meter)
    if error > ROWS[1].highest / 100:
        session.say(f"That is {error:.0%} off: another resistor, or a worn battery in the meter.")
        return False
    meter = replace(session.machine.meter, error_fraction=error)
    _set(session, meter, f"{ohms:g} Ω shows {read:g} Ω")
    # The field is for the next resistor.
    return False


def _set(session: Session, meter: Meter, words: str) -> bool:
    if not session.apply(f"Meter: {words}", lambda machine: set_meter(machine, meter)):
        return False
    session.meter_set.emit(meter)
    return True
