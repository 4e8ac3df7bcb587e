"""The rows of pins along the edges of a small board: lines for anything, with what feeds the board
and what it gives somewhere among them.
"""

import re

from vervain.catalogue.pin_words import is_general
from vervain.catalogue.printed_volts import WINDOW, volts_printed
from vervain.catalogue.prints import Print
from vervain.model.part import PinFunction

# A plus that feeds the board itself, whatever else it has.
OWN_FEED = re.compile(r"^(?:V?IN|VIN\d?|RAW|VSYS|VM|VMOT|V?BATT?|DC ?IN|PWR)\+?$", re.I)
# So many lines for anything are rows of pins; of pluses and ways back there are fewer by so much.
LEAST_IN_A_ROW, FEWER = 6, 2
# What else stands in such a row, and is of no axis: a serial line, the enable of the board.
BESIDE_LINES: tuple[PinFunction | None, ...] = ("transmit", "receive", "enable")


def feeds_itself(name: str) -> bool:
    """Whether a plus is called as what feeds a board is, whatever volts stand in brackets, or by a
    window: that is taken, never given.
    """
    return (OWN_FEED.match(name.partition("(")[0]) or WINDOW.search(name)) is not None


def is_row_of_pins(prints: list[Print]) -> bool:
    """Whether prints are the rows of pins along a small board's edges: mostly lines for anything,
    and far fewer pluses, so that no line has the feed that it happens to stand beside.
    """
    general = sum(_is_a_line(at) for at in prints)
    pluses = sum(at.function == "plus" for at in prints)
    backs = sum(at.function == "zero" for at in prints)
    others = [
        at for at in prints
        if at.of and not is_anybodys(at) and at.function not in BESIDE_LINES
    ]  # fmt: skip
    is_of_lines = general >= LEAST_IN_A_ROW and FEWER * pluses <= general
    return is_of_lines and FEWER * backs <= general and bool(pluses and backs) and not others


def each_once(blocks: list[list[Print]]) -> list[list[Print]]:
    """The prints without the feeds; what is there twice and means nothing yet, RST, is one pin."""
    met: set[str] = set()
    found: list[list[Print]] = []
    for block in blocks:
        found.append([])
        for at in block:
            if at.sort != "feed" and (at.function is not None or at.name not in met):
                found[-1].append(at)
            met.add(at.name)
    return found


def feeds_of_rows(prints: list[Print]) -> dict[str, list[Print]]:
    """The feeds of a board with rows of pins: what is called so feeds it, else the plus of the most
    volts; the others are what it gives.
    """
    pluses = {at.name: [same for same in prints if same.name == at.name] for at in prints
              if at.function == "plus"}  # fmt: skip
    backs = [at for at in prints if at.function == "zero"]
    own = [name for name in pluses if feeds_itself(name)]
    if not own:
        own = [max(pluses, key=lambda name: volts_printed(name) or 0.0)]
    given = {f"{name} OUT": same for name, same in pluses.items() if name not in own}
    return {"POWER": [at for name in own for at in pluses[name]] + backs, **given}


def is_anybodys(pin: Print) -> bool:
    """Whether a pin is a line for whatever hangs there, or of a bus whose devices the board
    feeds.
    """
    of_a_bus = pin.function in ("data", "clock", "select") or pin.of == "SPI"
    return _is_a_line(pin) or of_a_bus


def _is_a_line(pin: Print) -> bool:
    """Whether a pin is one that is used as one likes: by its name, or by a number alone."""
    return is_general(pin.name) or (pin.name.isdecimal() and not pin.of)
