"""What the numbers at terminals say, on any part (EN 50005, IEC 60947-1).

A1 and A2 are a coil. The first of two figures counts the contacts, the last tells what one does: 1
and 2 open, 3 and 4 close, 1, 2 and 4 change over; 5, 6, 7 and 8 are the same of contacts that are
late, early, or those of an overload relay (95 to 98). 1 to 6, or L and T, are main poles.
"""

import re
from collections.abc import Iterable

from vervain.model.part import DRIVE_KINDS, PartKind, PinFunction

# With what the contact does beside the figures: 13NO, 21 NC.
TWO_FIGURES = re.compile(r"^(?P<contact>\d)(?P<figure>[1-8])(?:[\s/-]?N[OC])?$", re.I)
POLE = re.compile(r"^(?:(?P<number>[1-6])(?:/?[LT]\d)?|(?P<side>[LT])(?P<pole>[1-3]))$", re.I)
# A contact that is called by what it does, at both of its ends; a pole by its two sides.
NAMED = re.compile(r"^(?P<stem>N[CO]\d*)(?:[ ._/-]?[12AB]|[+-])$", re.I)
POLE_BY_WORD = re.compile(r"^(?P<stem>.*?)(?:IN|OUT)$", re.I)
# An end of a pole in the mains: L, N', L1.
OF_MAINS = re.compile(r"^(?P<of>[LN])(?:[12]?'?|IN|OUT)$", re.I)
# The figures of a contact that opens, or changes over with the third; and of one that closes.
OPENING, CLOSING = (("1", "2", "4"), ("5", "6", "8")), (("3", "4"), ("7", "8"))
# Parts whose terminals of two figures are contacts; a controller's may count its inputs.
WITH_CONTACTS: tuple[PartKind, ...] = (
    "relay module", "supply", "signal converter", "radio receiver", *DRIVE_KINDS,
)  # fmt: skip
# One contact: the function and the name of each of its terminals, the common one first.
Found = list[tuple[PinFunction, str]]


def take_poles(left: dict[str, str]) -> list[Found]:
    """The main poles among terminals, which are taken out of them; each closes when worked."""
    ends: dict[int, dict[int, str]] = {}
    for name in list(left):
        match = POLE.match(name)
        if match is None:
            continue
        if match["number"]:
            at = int(match["number"])
            pole, side = (at + 1) // 2, (at + 1) % 2
        else:
            pole, side = int(match["pole"]), int(match["side"].upper() == "T")
        ends.setdefault(pole, {})[side] = name
    found: list[Found] = []
    for _, sides in sorted(ends.items()):
        if len(sides) == 2:
            found.append([("com", left.pop(sides[0])), ("no", left.pop(sides[1]))])
    return found


def take_for_cars(left: dict[str, str]) -> list[Found]:
    """The contact and the coil of a relay for cars (DIN 72552-2), taken out of its terminals: 30 is
    led to 87 while the coil between 86 and 85 works, and to 87a while it does not.
    """
    if not {"30", "85", "86"} <= set(left) or not {"87", "87A"} & set(left):
        return []
    contact: Found = [("com", left.pop("30"))]
    throws: tuple[tuple[str, PinFunction], ...] = (("87A", "nc"), ("87", "no"))
    contact += [(function, left.pop(name)) for name, function in throws if name in left]
    return [contact, [("coil+", left.pop("86")), ("coil-", left.pop("85"))]]


def take_mains_poles(left: dict[str, str]) -> list[Found]:
    """The two poles of a switch in the mains among terminals, which are taken out of them: L N
    before L1 N1, or L1 N1 before L2 N2, each L to the other L.
    """
    ends: dict[str, list[str]] = {"L": [], "N": []}
    for name in left:
        if match := OF_MAINS.match(name):
            ends[match["of"]].append(name)
    if any(len(names) != 2 for names in ends.values()) or len(left) != 4:
        return []
    return [[("com", left.pop(a)), ("no", left.pop(b))] for a, b in ends.values()]


def take_contacts(left: dict[str, str]) -> list[Found]:
    """The contacts among terminals by their last figures, which are taken out of them."""
    contacts: dict[str, dict[str, str]] = {}
    for name in list(left):
        match = TWO_FIGURES.match(name)
        if match is not None:
            contacts.setdefault(match["contact"], {})[match["figure"]] = name
    found: list[Found] = []
    for _, at in sorted(contacts.items()):
        for first, opens, over in OPENING:
            if {first, opens} <= set(at):
                rows: Found = [("com", at[first]), ("nc", at[opens])]
                if over in at and str(int(over) - 1) not in at:
                    rows.append(("no", at[over]))
                found.append([(function, left.pop(name)) for function, name in rows])
        for first, closes in CLOSING:
            if {first, closes} <= set(at):
                found.append([("com", left.pop(at[first])), ("no", left.pop(at[closes]))])
    return found


def take_single(left: dict[str, str]) -> list[Found]:
    """The contact of a button that has one alone, and so no figure to count it: 3 and 4, which
    close (IEC 60947-1 annex L), taken out of the terminals.
    """
    if not {"3", "4"} <= set(left) or {"1", "2", "5", "6"} & set(left):
        return []
    return [[("com", left.pop("3")), ("no", left.pop("4"))]]


def take_named(left: dict[str, str]) -> list[Found]:
    """The contacts among terminals by words, which are taken out of them: the two ends of NC 1, and
    IN and OUT of a pole.
    """
    ends: dict[str, list[str]] = {}
    for name in left:
        match = NAMED.match(name) or POLE_BY_WORD.match(name)
        if match is not None:
            ends.setdefault(match["stem"].strip(" -_/."), []).append(name)
    found: list[Found] = []
    for stem, names in ends.items():
        if len(names) == 2:
            works: PinFunction = "nc" if stem.startswith("NC") else "no"
            found.append([("com", left.pop(names[0])), (works, left.pop(names[1]))])
    return found


def contacts_among(names: Iterable[str]) -> list[Found]:
    """The contacts that some names of terminals are, by their two figures; of a relay for cars its
    coil as well.
    """
    left = {name.upper(): name for name in names}
    return [*take_for_cars(left), *take_contacts(left)]


def take_solenoid(left: dict[str, str]) -> Found:
    """The two ends of a solenoid among the terminals of a switch, which are taken out of them."""
    for a, b in (("A1", "A2"), ("E1", "E2")):
        if {a, b} <= set(left):
            return [("load+", left.pop(a)), ("load-", left.pop(b))]
    return []


def take_lamp(left: dict[str, str]) -> Found:
    """The two ends of the lamp in a button (X1 and X2, IEC 60947-1 annex L), which are taken out of
    its terminals.
    """
    for a, b in (("X1", "X2"), ("X1+", "X2-")):
        if {a, b} <= set(left):
            return [("load+", left.pop(a)), ("load-", left.pop(b))]
    return []


def are_switched(names: Iterable[str]) -> bool:
    """Whether names are those of a switch: contacts, or several poles, a solenoid or a lamp, and
    nothing else. A pair 1 and 2 alone says nothing.
    """
    left = {name.upper(): name for name in names}
    take_solenoid(left)
    take_lamp(left)
    if take_mains_poles(left):
        return not left
    contacts = [*take_single(left), *take_contacts(left), *take_named(left)]
    poles = take_poles(left)
    return not left and bool(contacts or len(poles) > 1)


def port_of(contact: Found) -> str:
    """What the port of a contact is called: its first and its last terminal."""
    return f"{contact[0][1]}-{contact[-1][1]}"
