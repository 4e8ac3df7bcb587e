"""What of a device a stop must do, on the card."""

from typing import get_args

from vervain.desktop.session import Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits.device_edits import set_at_stop
from vervain.model.electrical import FeedIn
from vervain.model.machine import AtStop, Device
from vervain.stops.compiling import circuit_of
from vervain.stops.what_goes import goes_by_kind

WORDS = {"goes": "must be dead", "stays": "may stay on"}


def show_at_stop(card: FactRows, session: Session, device: Device) -> None:
    """Whether a device must be without power after a stop; only where the machine has stops."""
    queries, part = session.queries, session.queries.part_of(device.designator)
    feeds = any(
        isinstance(pin.electrical, FeedIn) for port in (part.ports if part else ())
        for pin in port.pins
    )  # fmt: skip
    if not feeds or not circuit_of(queries).stops:
        return
    usual = WORDS["goes" if goes_by_kind(queries, device.designator) else "stays"]
    choices: dict[str, AtStop] = {
        (WORDS[value] if value else f"{usual}, as usual"): value for value in get_args(AtStop)
    }

    def take(text: str) -> None:
        words = f"{device.designator} after a stop: {text}"
        session.apply(words, lambda m: set_at_stop(m, device.designator, choices[text]))

    shown = next(words for words, value in choices.items() if value == device.at_stop)
    card.row("After a stop", card.choice(tuple(choices), shown, take, "After a stop"))
