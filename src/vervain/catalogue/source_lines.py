"""The lines of a connector of a tool power source: what starts it, what permits it, what it tells,
and the command for its power, each a port of its own with the common that they share.
"""

import re

from vervain.catalogue.pin_words import permit_words
from vervain.catalogue.port_roles import PortPin
from vervain.text.name_words import name_words, says

Pins = tuple[PortPin, ...]


def source_lines(name: str, pins: Pins) -> dict[str, Pins]:
    """The ports of such a connector, by their names; one that has a line alone stays as it is."""
    if len(pins) == 2 and pins[0].name == pins[1].name:
        printed = pins[0].name
        return {name: _pair(f"{name} {printed}", f"{printed} 1", f"{printed} 2")}
    if [pin.name for pin in pins] == ["1", "2"]:
        return {name: _pair(name, "1", "2")}
    mains = tuple(pin for pin in pins if pin.function in ("line", "neutral"))
    if mains:
        mains += tuple(pin for pin in pins if pin.function == "pe")
        rest = tuple(pin for pin in pins if pin not in mains)
        left = source_lines("CONTROL" if name == "PORT" else name, rest) if rest else {}
        return {"MAINS" if rest else name: mains, **left}
    commons = tuple(PortPin(pin.name, "zero") for pin in pins if pin.function in ("zero", "com"))
    starts = tuple(pin for pin in pins if pin.function == "enable")
    permits = tuple(PortPin(pin.name, "signal") for pin in pins if _is_permit(pin))
    taken = {pin.name for pin in (*starts, *permits, *commons)}
    command = tuple(pin for pin in pins if pin.name not in taken)
    if not starts and not permits:
        return {name: pins}
    found: dict[str, Pins] = {}
    if command:
        found[name] = (*command, *commons[:1])
    number = re.search(r"\d+$", name)
    for called, lines in (("START", starts), ("PERMIT", permits)):
        for line in lines:
            mark = line.name if len(lines) > 1 else number[0] if number else ""
            found[f"{called} {mark}".strip()] = (line, *commons[:1])
    return found


def _is_permit(pin: PortPin) -> bool:
    return pin.function in ("none", "signal") and pin.name.casefold() in permit_words()


def _pair(words: str, first: str, second: str) -> Pins:
    """Two terminals under one name: a contact that tells something, an input that permits, or what
    starts the source when it is closed.
    """
    if says(words, name_words().tells):
        return PortPin(first, "com"), PortPin(second, "no")
    is_permit = not permit_words().isdisjoint(words.casefold().split())
    return PortPin(first, "signal" if is_permit else "enable"), PortPin(second, "zero")
