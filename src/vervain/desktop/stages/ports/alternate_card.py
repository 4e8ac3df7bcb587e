"""Facts of a motor's direction and of devices that can take over a port, on the card."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QPushButton

from vervain.desktop.session import Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits.device_edits import keep_port
from vervain.leads.direction import direction_of, possible_directions, set_direction
from vervain.model.machine import Alternate, Device
from vervain.ports.alternates import displaced_by, drop_alternate, is_in, swap_in

# The name of the fact that says what a port is kept free for.
KEPT_FOR = "Kept free for"


def show_direction(card: FactRows, session: Session, motor: str) -> None:
    """Which way a motor turns, and how it is turned round."""
    now, choices = direction_of(session.queries, motor), possible_directions(session.queries, motor)
    if now is None:
        return

    def take(text: str) -> None:
        chosen = choices[choices.index(text)]
        session.apply(f"{motor} turns {text}", lambda m: set_direction(m, motor, chosen))

    card.row("Turns", card.choice(choices, now, take, "Turns"))


def show_swaps(card: FactRows, session: Session, device: str, port: str | None) -> None:
    """What can take over a port of the device, or which port it can take over, with the act."""
    for item in session.queries.alternates():
        if item.device != device and (item.port.device, item.port.port) != (device, port):
            continue
        where = f"{item.port.device} {item.port.port}"
        if is_in(session.queries, item):
            card.row("Taken over", f"{item.device} is in {where}")
            continue
        others = " and ".join(displaced_by(session.queries, item)) or "nothing"
        card.row("Can take over", f"{item.device} in {where}, from {others}")
        _button(card, f"Swap {item.device} in  W", partial(_swap, session, item))
        _button(card, "No alternate any more", partial(_drop, session, item))


def show_kept(card: FactRows, session: Session, device: Device) -> None:
    """What the selected port is kept free for, to be changed in place."""
    chosen, port = session.selection.port_ref, session.selection.port
    found = session.queries.port(chosen) if chosen is not None else None
    if chosen is None or port is None or found is None or found.end != "host":
        return

    def take(text: str) -> bool:
        words = f"{device.designator} {port}"
        said = f"{words} is kept free for {text.strip()}" if text.strip() else f"{words} is free"
        return session.apply(said, lambda machine: keep_port(machine, chosen, text))

    field = card.field(device.kept_ports.get(port, ""), take, KEPT_FOR)
    field.setPlaceholderText("nothing")
    card.row(KEPT_FOR, field)


def _button(card: FactRows, words: str, act: Callable[[], object]) -> None:
    button = QPushButton(words)
    button.clicked.connect(lambda _: act())
    card.wide_row(button)


def _swap(session: Session, item: Alternate) -> None:
    words = f"{item.device} takes over {item.port.device} {item.port.port}"
    session.apply(words, lambda m: swap_in(m, item))


def _drop(session: Session, item: Alternate) -> None:
    session.apply(f"{item.device} is no alternate", lambda m: drop_alternate(m, item))
