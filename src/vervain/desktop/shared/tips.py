"""What tips and assistive technology say of a port and of a pin."""

from vervain.harness.labels import conductor_labels
from vervain.model.colours import colour_words
from vervain.model.machine import PinRef, PortRef
from vervain.ports.fit import Fit
from vervain.ports.occupancy import seen_at, who_sits_at
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_text


def port_tip(queries: Queries, ref: PortRef, fit: Fit | None) -> str:
    """What a port is and who sits there; of one that something carried is tried at, whether it
    fits.
    """
    port = queries.port(ref)
    if fit is not None:
        return f"{ref.port}: {fit.verdict}. {fit.reason}".strip()
    names = ", ".join(who_sits_at(queries, ref)) or "free"
    return f"{ref.device} {ref.port}: {port.kind if port else ''}, {names}"


def pin_tip(queries: Queries, ref: PinRef) -> str:
    """What a pin is, and what is joined to it: colour in words, and label."""
    joined = []
    for seen in seen_at(queries, ref):
        entry = conductor_labels(queries, seen.hookup, seen.row)
        words = colour_words(seen.colour) if seen.colour else "no colour given"
        joined.append(f"{words}, {entry.at_a}" if entry else words)
    text = pin_text(queries, ref)
    return f"{ref.device} {ref.port}, {text}: {'; '.join(joined) or 'free'}"
