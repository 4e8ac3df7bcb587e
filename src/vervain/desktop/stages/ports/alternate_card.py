"""Facts of a motor's direction and of devices that can take over a port, on the card."""

from collections.abc import Callable
from functools import partial

from msgspec.structs import replace
from PyQt6.QtWidgets import QPushButton

from vervain.desktop.session import Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.edits.device_edits import keep_port
from vervain.leads.direction import direction_of, possible_directions, set_direction
from vervain.model.machine import Alternate, Device, SettingValue
from vervain.model.part import Option
from vervain.ports.alternates import (
    displaced_by,
    drop_alternate,
    is_in,
    replace_alternate,
    settable_for,
    swap_in,
    with_setting,
    without_setting,
)
from vervain.tables.settings_sheet import setting_words

Said = Callable[[str], str]
UNCHANGED, ADD = "unchanged", "add a setting …"

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
            _show_settings(card, session, item)
            continue
        others = " and ".join(displaced_by(session.queries, item)) or "nothing"
        card.row("Can take over", f"{item.device} in {where}, from {others}")
        _show_settings(card, session, item)
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


def _show_settings(card: FactRows, session: Session, item: Alternate) -> None:
    """What is set while an alternate is in: each setting to be changed or left out, and more."""
    queries = session.queries
    titles = {key: setting_words(queries, *key) for key in settable_for(queries, item)}
    kept = {(setting.device, setting.key): setting.value for setting in item.settings}

    def take(words: str, change: Callable[[], Alternate]) -> bool:
        return session.apply(words, lambda m: replace_alternate(m, item, change()))

    for (device, key), value in kept.items():
        title = f"With {item.device} in: {titles.get((device, key), key)}"
        option = _option(session, device, key)
        words = partial("{}: {}".format, title)

        def give(text: str, device: str = device, key: str = key, words: Said = words) -> bool:
            if text in ("", UNCHANGED):
                return take(words(UNCHANGED), lambda: without_setting(item, device, key))
            found = read_setting(session, _option(session, device, key), text)
            if found is None:
                return False
            return take(words(text), lambda: with_setting(queries, item, device, key, found))

        if option is not None and option.choices:
            card.row(title, card.choice((*option.choices, UNCHANGED), str(value), give, title))
        else:
            shown = f"{value:g}" if isinstance(value, float) else str(value)
            unit = f" {option.unit}" if option is not None and option.unit else ""
            card.row(title, card.field(f"{shown}{unit}", give, title))
    axis = queries.axis_of(item.device)
    if axis is not None:
        title = f"With {item.device} in: homing of {axis.id}"

        def home(text: str) -> bool:
            return take(f"{title}: {text}", lambda: replace(item, homing_off=text == "off"))

        homing = "off" if item.homing_off else "as it is"
        card.row(title, card.choice(("as it is", "off"), homing, home, title))
    more = {words: key for key, words in titles.items() if key not in kept}
    if more:

        def add(text: str) -> object:
            if text not in more:
                return False
            words = f"With {item.device} in: {text}"
            return take(words, lambda: with_setting(queries, item, *more[text]))

        card.row("Also set", card.choice((ADD, *more), ADD, add, f"Also set for {item.device}"))


def _option(session: Session, device: str, key: str) -> Option | None:
    part = session.queries.part_of(device)
    return part.option(key.partition("/")[0]) if part is not None else None


def read_setting(session: Session, option: Option | None, text: str) -> SettingValue | None:
    """What was typed or chosen for an option; None, and told, where it is no number of its."""
    from vervain.text.quantities import NotAQuantity, read_quantity

    if option is None or option.choices:
        return text
    try:
        return read_quantity(text, option.unit)
    except NotAQuantity as wrong:
        session.say(str(wrong))
        return None


def _swap(session: Session, item: Alternate) -> None:
    words = f"{item.device} takes over {item.port.device} {item.port.port}"
    session.apply(words, lambda m: swap_in(m, item))


def _drop(session: Session, item: Alternate) -> None:
    session.apply(f"{item.device} is no alternate", lambda m: drop_alternate(m, item))
