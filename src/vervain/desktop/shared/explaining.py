"""What is selected, in words: its name, what it is, and what can be done with it now."""

from vervain.desktop.keys_help import KeyEntry
from vervain.desktop.session import Session
from vervain.desktop.shared.context_menu import possible
from vervain.tables.explanations import part_words, port_words

MOST_KEYS = 14


def title_of(session: Session) -> str:
    """The name of what is selected; "" where nothing is."""
    chosen, queries = session.selection, session.queries
    if chosen.pin_ref is not None and (pin := queries.pin(chosen.pin_ref)) is not None:
        return f"{chosen.device} {chosen.port}, pin {pin.text}"
    if chosen.port_ref is not None:
        return f"{chosen.device} {chosen.port}"
    if chosen.device is not None:
        device = queries.device(chosen.device)
        return f"{chosen.device} {device.name if device is not None else ''}".strip()
    if chosen.axis is not None:
        axis = queries.axis(chosen.axis)
        return f"Axis {chosen.axis} {axis.name if axis is not None else ''}".strip()
    place = queries.place(chosen.place) if chosen.place is not None else None
    return place.name if place is not None else ""


def sentences_of(session: Session) -> list[str]:
    """What the selected port and device are."""
    chosen, queries = session.selection, session.queries
    found = []
    port = queries.port(chosen.port_ref) if chosen.port_ref is not None else None
    if port is not None:
        found.append(port_words(port.kind))
    part = queries.part_of(chosen.device) if chosen.device is not None else None
    if part is not None:
        found.append(part_words(part.kind))
    return [sentence for sentence in found if sentence]


def keys_now(session: Session, area: str) -> list[KeyEntry]:
    """The keys that do something with the selection now."""
    entries = [e for e in possible(session, area) if not e.words.startswith("In hand: ")]
    # What is about the selection comes first.
    return sorted(entries, key=lambda entry: not entry.needs)[:MOST_KEYS]
