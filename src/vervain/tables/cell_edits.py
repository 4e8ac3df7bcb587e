"""What a cell of the harness table changes: for one row, or for every row that is selected."""

import re
from collections.abc import Callable
from functools import partial

from msgspec.structs import replace

from vervain.edits import cable_edits, core_edits, feed_edits, hookup_edits, note_edits
from vervain.edits.common import Edit
from vervain.edits.pin_names import folded
from vervain.electrical.copper import read_area_mm2
from vervain.harness.cable_routes import cable_ports
from vervain.harness.shopping import CABLE_SECTION
from vervain.model.cable_part import CablePart
from vervain.model.machine import MAKING_STEPS, MOST_CURRENCY, Machine, PortRef, Purchase, Spares
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Face, TableRow
from vervain.text.quantities import NotAQuantity
from vervain.text.units import read_length_m

SPARES: tuple[Spares, ...] = ("", "insulated", "cut back", "earthed")
OPEN = "open"
MOST_LETTERS, MOST_IN_A_PACK, MOST_PRICE = 80, 1e6, 1e6
# A figure with a point or a comma, and a currency before or after it.
MONEY = rf"[^\d\s.,+-]{{0,{MOST_CURRENCY}}}"
PRICE = re.compile(rf"^(?P<before>{MONEY})\s*(?P<figure>\d+(?:[.,]\d*)?)\s*(?P<after>{MONEY})$")
Shelf = Callable[[], dict[str, CablePart]]


def edit_for(face: Face, column: str, rows: list[TableRow], text: str, shelf: Shelf) -> Edit:
    """The edit that gives a column, by its key, of some rows of a face the value in a text.

    Raises `Problem` or `NotAQuantity` where the text is none.
    """
    cleaned = " ".join(text.split())
    if column == "price":
        return _price([str(face.cell(row, "item")) for row in rows], cleaned)
    if column in ("supplier", "number", "makers_number", "pack"):
        return _purchase(column, [str(face.cell(row, "item")) for row in rows], cleaned)
    if column in ("on_hand_m", "sold_in_m"):
        titles = [
            str(face.cell(row, "item")) for row in rows if face.cell(row, "what") == CABLE_SECTION
        ]
        return _stock(column, titles, cleaned)
    if column == "label":
        return _label(rows, cleaned)
    if face.name == "Conductors" and column in ("cable", "core_colour", "core_number"):
        return _by_cable(rows, column, cleaned, shelf)
    cables = list(dict.fromkeys(row.cable for row in rows if row.cable))
    if not cables:
        raise Problem("A device's own lead is changed in its part, not here.")
    one = _of_cables(column, cleaned, shelf)
    if column == "cable" and len(cables) > 1:
        raise Problem("Two cables cannot have one name.", remedy="Select one row.")

    def edit(machine: Machine) -> Machine:
        for cable in cables:
            machine = one(machine, cable)
        return machine

    return edit


def tick(rows: list[TableRow], step: str) -> Edit:
    """The edit that ticks a step of the cables of some rows; where all of them have it, that takes
    the ticks away. Raises `Problem` where no cable has such a step.
    """
    number = [str(known) for known in MAKING_STEPS].index(step)
    marks = {str(row.cable): row.marks[number] for row in rows if row.marks and row.marks[number]}
    if not marks:
        raise Problem("A ready-made cable is neither cut nor made here.")

    def edit(machine: Machine) -> Machine:
        known = MAKING_STEPS[number]
        found = {cable: cable_edits.find_cable(machine, cable).done.get(known) for cable in marks}
        wants = any(found[cable] != mark for cable, mark in marks.items())
        for cable, mark in marks.items():
            machine = cable_edits.set_done(machine, cable, known, mark if wants else "")
        return machine

    return edit


def tick_next(rows: list[TableRow]) -> Edit:
    """The edit that ticks the first step of each row that is not done, or is to be done again; it
    raises `Problem` where all are done. It looks at the machine, not at the rows, which come later
    than fast fingers. Raises `Problem` where no row has steps: bought ready, or no cable.
    """
    made = [row for row in rows if row.marks]
    if not made:
        raise Problem("A ready-made cable is neither cut nor made here.")

    def edit(machine: Machine) -> Machine:
        before = machine
        for row in made:
            done = cable_edits.find_cable(machine, str(row.cable)).done
            waiting = [
                (step, mark)
                for step, mark in zip(MAKING_STEPS, row.marks, strict=True)
                if mark and done.get(step) != mark
            ]
            if waiting:
                machine = cable_edits.set_done(machine, str(row.cable), *waiting[0])
        if machine is before:
            raise Problem("Everything of it is done.")
        return machine

    return edit


def _of_cables(column: str, text: str, shelf: Shelf) -> Callable[[Machine, str], Machine]:
    """The edit of one cable that a column stands for."""
    if column == "cable":
        return lambda machine, cable: cable_edits.rename_cable(machine, cable, text)
    if column == "kind":
        part = _part_named(text, shelf())
        return lambda machine, cable: cable_edits.set_cable_part(machine, cable, part)
    if column in ("length_m", "measured_m"):
        length_m = read_length_m(text) if text else None
        return lambda machine, cable: cable_edits.set_cable(
            machine, cable, length_m, cable_edits.find_cable(machine, cable).note
        )
    if column == "area_mm2":
        area = read_area_mm2(text)
        return lambda machine, cable: feed_edits.set_gauge(machine, cable, area)
    if column == "runs":
        runs = tuple(text.replace(",", " ").split())
        return lambda machine, cable: cable_edits.set_cable_runs(machine, cable, runs)
    if column == "shield_at":
        return lambda machine, cable: cable_edits.set_shield(
            machine, cable, _shield_ends(machine, cable, text)
        )
    if column == "spares":
        spares = _spares(text)
        return lambda machine, cable: cable_edits.set_spares(machine, cable, spares)
    if column == "own_sleeve":
        wants = _yes_or_no(text)
        return lambda machine, cable: cable_edits.set_own_sleeve(machine, cable, wants)
    return lambda machine, cable: cable_edits.set_cable(
        machine, cable, cable_edits.find_cable(machine, cable).length_m, text
    )


def _by_cable(rows: list[TableRow], column: str, text: str, shelf: Shelf) -> Edit:
    """The edit that lays conductors in a cable, in a new one of a kind, or in none; or that gives
    one of them another core.
    """
    keys = list(dict.fromkeys(row.conductor for row in rows if row.conductor))
    if column != "cable" and len(keys) > 1:
        raise Problem("Two conductors cannot have one core.", remedy="Select one row.")

    def give(machine: Machine) -> Machine:
        ((hookup_id, row),) = keys
        cable = hookup_edits.find_hookup(machine, hookup_id).cable
        if cable is None:
            raise Problem("This conductor goes by no cable.", remedy="Lay it in one: column Cable.")
        core = core_edits.core_written(machine, cable, text)
        return core_edits.give_core(machine, hookup_id, row, core)

    def lay(machine: Machine) -> Machine:
        wanted = next((c.id for c in machine.cables if folded(c.id) == folded(text)), None)
        if text and wanted is None:
            machine = cable_edits.add_cable(machine, _part_named(text, shelf()))
            wanted = machine.cables[-1].id
        # From the last row on: the numbers of those before stay.
        for hookup_id, row in sorted(keys, key=lambda key: (key[0], -key[1])):
            machine = core_edits.lay_in(machine, hookup_id, row, wanted)
        return machine

    return lay if column == "cable" else give


def _shield_ends(machine: Machine, cable_id: str, text: str) -> tuple[PortRef, ...]:
    """The ports at which a shield is to be joined: named by device, "both", or none."""
    ports = cable_ports(Queries(machine), cable_id)
    if folded(text) in ("", "nowhere", "none"):
        return ()
    if folded(text) == "both":
        return ports
    names = [folded(name) for name in text.split(",")]
    found = tuple(
        port
        for port in ports
        if folded(port.device) in names or folded(f"{port.device} {port.port}") in names
    )
    if not found:
        devices = ", ".join(dict.fromkeys(port.device for port in ports))
        raise Problem(
            f"{cable_id} does not come to “{text[:40]}”.",
            remedy=f"It comes to {devices}; or say both, or nowhere.",
        )
    return found


def _yes_or_no(text: str) -> bool:
    """What was typed for yes or no; nothing is no. Raises `Problem`."""
    word = text.casefold()
    if word not in ("", "no", "yes"):
        raise Problem(f"“{text}” is neither yes nor no.", remedy="Write yes, or nothing.")
    return word == "yes"


def _spares(text: str) -> Spares:
    wanted = "" if text.casefold() in ("", OPEN) else text.casefold()
    found = next((word for word in SPARES if word.startswith(wanted) and wanted), None)
    if wanted and found is None:
        choices = ", ".join(word or OPEN for word in SPARES)
        raise Problem(f"“{text}” is nothing that is done with spare cores.", remedy=f"{choices}.")
    return found or ""


def _part_named(text: str, known: dict[str, CablePart]) -> CablePart:
    """The cable part with a title or an id, or the only one that holds every word."""
    for part in known.values():
        if text.casefold() in (part.id.casefold(), part.title.casefold()):
            return part
    words = set(text.casefold().replace(",", " ").split())
    found = [
        part
        for part in known.values()
        if words and words <= set(f"{part.id} {part.title}".casefold().replace(",", " ").split())
    ]
    if len(found) != 1:
        count = f"{len(found)} cables hold these words" if found else "No cable holds these words"
        raise Problem(f"{count}: “{text}”.", remedy="Choose one from the list.")
    return found[0]


def _label(rows: list[TableRow], text: str) -> Edit:
    """A label of the builder's own on a core; one row at a time, as labels are unique."""
    keys = list(dict.fromkeys(row.conductor for row in rows if row.conductor))
    if len(keys) > 1 and text:
        raise Problem("One label for several conductors tells nobody which is which.")

    def edit(machine: Machine) -> Machine:
        for hookup_id, row in keys:
            hookup = hookup_edits.find_hookup(machine, hookup_id)
            core = hookup.conductors[row].core
            if hookup.cable is None or core is None:
                raise Problem(
                    "A lead's label comes from the form.", remedy="Change the form of leads."
                )
            machine = cable_edits.set_core_label(machine, hookup.cable, core, text)
        return machine

    return edit


def _stock(column: str, titles: list[str], text: str) -> Edit:
    """What is there of a cable part, or the lengths that it is sold in: "10, 25"."""
    if not titles:
        raise Problem("Only cable is cut from reels and lengths.")
    pieces = [piece for piece in text.replace(";", ",").split(",") if piece.strip()]
    lengths = tuple(read_length_m(piece) for piece in pieces)
    change = cable_edits.set_reels if column == "on_hand_m" else cable_edits.set_stock

    def edit(machine: Machine) -> Machine:
        for part in machine.cable_parts:
            if part.title in titles:
                machine = change(machine, part.id, lengths)
        return machine

    return edit


def _purchase(column: str, items: list[str], text: str) -> Edit:
    """How items are bought: a word, or how many are in a pack; nothing takes it away."""
    if column != "pack":
        values: dict[str, str | float | None] = {column: text[:MOST_LETTERS]}
    else:
        try:
            values = {"pack": float(text.replace(",", ".")) if text else None}
        except ValueError:
            raise NotAQuantity(f"“{text}” is no number.") from None
        if (pack := values["pack"]) is not None and not 0 < float(pack) < MOST_IN_A_PACK:
            raise Problem(f"There is no pack of {pack:g}.")

    def edit(machine: Machine) -> Machine:
        known = machine.purchases
        changed = {item: replace(known.get(item, Purchase()), **values) for item in items}
        return note_edits.set_purchases(machine, changed)

    return edit


def _price(items: list[str], text: str) -> Edit:
    """The price of items, for a metre or a piece, with its currency, which all prices then have;
    none takes it away.
    """
    if not text:
        return partial(note_edits.set_prices, prices=dict.fromkeys(items, None))
    match = PRICE.match(text)
    if match is None:
        raise NotAQuantity(f"“{text}” is no price.")
    price = float(match["figure"].replace(",", "."))
    if price >= MOST_PRICE:
        raise Problem(f"{price:g} is no price.")
    currency = match["before"] or match["after"]
    return partial(
        note_edits.set_prices, prices=dict.fromkeys(items, price), currency=currency or None
    )
