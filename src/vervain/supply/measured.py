"""Measured currents as the builder writes them: "holding 0.6 A, moving 1.8 A"."""

import re

from vervain.model.problem import Problem
from vervain.supply.states import STATE_WORDS, STATES, State
from vervain.text.quantities import NotAQuantity, read_quantity

PIECE = re.compile(r"\s*([A-Za-z -]+?)\s*[:=]?\s*([\d.].*)$")
MOST_A = 1000.0


def measured_text(takes: dict[State, float]) -> str:
    """The text of measured currents, in the order of the states."""
    return ", ".join(f"{STATE_WORDS[s].lower()} {takes[s]:g} A" for s in STATES if s in takes)


def read_measured(text: str) -> dict[State, float]:
    """Measured currents by state. Raises `Problem` with the piece that is not understood."""
    found: dict[State, float] = {}
    for piece in re.split(r"[,;]", text):
        if not piece.strip():
            continue
        match = PIECE.match(piece)
        state = _state(match.group(1)) if match else None
        if match is None or state is None:
            raise Problem(
                f"“{piece.strip()}” is no state with a current.",
                remedy="Write “holding 0.6 A, moving 1.8 A”.",
            )
        try:
            current_a = read_quantity(match.group(2), "A")
        except NotAQuantity as wrong:
            raise Problem(str(wrong), place=STATE_WORDS[state]) from None
        if not 0 <= current_a <= MOST_A:
            raise Problem(f"{current_a:g} A is no current of a machine.", place=STATE_WORDS[state])
        found[state] = current_a
    return found


def _state(words: str) -> State | None:
    wanted = words.strip().casefold()
    for state, title in STATE_WORDS.items():
        if wanted and title.casefold().startswith(wanted):
            return state
    return None
