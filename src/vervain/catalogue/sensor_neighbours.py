"""What pins of sensors and of what reads them are by the names and functions of those beside them:
outputs, bridges of load cells, the lines of a bus.
"""

import re

from msgspec.structs import replace

from vervain.catalogue.pin_rows import JoinedRow, Rows, used_rows, with_functions
from vervain.model.part import PinFunction

CHANNEL_IN = re.compile(r"^(?:A|AI|AIN|CH)\d$", re.I)
OF_A_CELL: tuple[PinFunction, ...] = ("excitation+", "excitation-", "measure+", "measure-")
CLOCK = re.compile(r"^(?:CLK|CLOCK|SCK|SCLK|PD_SCK)$", re.I)
HEARD = frozenset({"din", "di", "data in"})
# The leads of proximity switches (IEC 60947-5-2, table of lead colours): white is the second output
# of those that have two.
LEADS_OF_SWITCHES: dict[str, PinFunction] = {
    "BN": "plus", "BU": "zero", "BK": "signal", "WH": "signal",
}  # fmt: skip
LINES_OF_A_BUS: dict[str, PinFunction] = {"a": "data+", "b": "data-"}
# By what a sensor gives volts, and a level besides.
GIVES_VOLTS = re.compile(r"^(?:A\d?|AO|PO|AOUT)$", re.I)
GIVES_A_LEVEL = re.compile(r"^(?:DO|DOUT)$", re.I)
LEADS_BY_USAGE = 3
BY_USAGE: dict[str, PinFunction] = {"RD": "plus", "BK": "zero"}
TAKEN_BY_USAGE = (
    "Taken by usage: red plus, black 0 V, the third its signal. Compare with its sheet."
)
TAKEN_AS_ITS_SIGNAL = "Taken as what it gives: the only word that is left."


def channels_of_a_bus(rows: Rows) -> Rows:
    """The inputs of a converter that is asked over a bus, A0 A1 or AIN0 AIN1, are a port each, with
    the plus and the 0 V of the converter.
    """
    used = used_rows(rows)
    if not {"data", "clock"} <= {row.function for row in used}:
        return rows
    feed = [row for row in used if row.function in ("plus", "zero")]
    found: list[JoinedRow] = []
    for row in rows:
        if not row.is_used or not CHANNEL_IN.match(row.name):
            found.append(row)
            continue
        found.append(replace(row, port=row.name, pin="1", function="signal", marks=()))
        found += [
            replace(own, port=row.name, pin=str(number), marks=())
            for number, own in enumerate(feed[:2], 2)
        ]
    return tuple(found)


def open_beside_a_bus(rows: Rows) -> Rows:
    """NC at a sensor that speaks over a bus is no contact: nothing is joined to it."""
    used = used_rows(rows)
    if not any(row.function == "data" for row in used):
        return rows
    return with_functions(
        rows, {id(row): "none" for row in used if row.name.casefold() in ("nc", "n/c", "n.c.")}
    )


def bridge_of_a_cell(rows: Rows) -> Rows:
    """Beside E+ and E-, which feed a measuring bridge, A+ and A- are what it gives; B+ and B- are
    for a second one.
    """
    found: dict[int, PinFunction | None] = {}
    for port in dict.fromkeys(row.port for row in used_rows(rows)):
        own = {
            row.name.casefold().replace("\u2212", "-"): row
            for row in used_rows(rows) if row.port == port
        }  # fmt: skip
        if {"e+", "e-", "a+", "a-"} <= set(own):
            told = dict(zip(("e+", "e-", "a+", "a-"), OF_A_CELL, strict=True))
            found |= {id(own[name]): function for name, function in told.items()}
            found |= {id(own[name]): "none" for name in ("b+", "b-") if name in own}
    return with_functions(rows, found)


def clock_of_a_bus(rows: Rows) -> Rows:
    """Beside what is sent and heard, or what selects a device, CLK is the clock of a bus, and no
    channel; DIN beside what selects it is what it hears.
    """
    functions = {row.function for row in rows}
    if not {"transmit", "receive", "select"} & functions:
        return rows
    told: dict[int, PinFunction | None] = {
        id(row): "clock" for row in rows if CLOCK.match(row.name)
    }
    if "select" in functions and "receive" not in functions:
        told |= {id(row): "receive" for row in rows if row.name.casefold() in HEARD}
    return with_functions(rows, told)


def select_of_a_bus(rows: Rows) -> Rows:
    """Beside what is sent, what is heard and their clock at one plug SDA is what selects a device:
    the print of what it is on a bus of two lines, where SCL is the clock.
    """
    used = used_rows(rows)
    told: dict[int, PinFunction | None] = {}
    for port in dict.fromkeys(row.port for row in used):
        own = [row for row in used if row.port == port]
        names = {row.name.casefold(): row for row in own}
        functions = {row.function for row in own}
        if {"transmit", "receive", "clock"} <= functions and not {"scl", "cs", "ss"} & set(names):
            told |= {id(row): "select" for name, row in names.items() if name == "sda"}
    return with_functions(rows, told)


def clock_beside_data(rows: Rows) -> Rows:
    """Beside the data of a display CLK is their clock, and gives no steps."""
    if not any(row.function == "data" for row in rows):
        return rows
    return with_functions(rows, {id(row): "clock" for row in rows if CLOCK.match(row.name)})


def lines_of_a_serial_bus(rows: Rows) -> Rows:
    """A and B of a sensor that has a plus, a 0 V and nothing else are the two lines of a serial bus
    (TIA/EIA-485 names them so).
    """
    used = used_rows(rows)
    others = {row.function for row in used if row.name.casefold() not in LINES_OF_A_BUS}
    lines = {row.name.casefold(): row for row in used if row.name.casefold() in LINES_OF_A_BUS}
    if len(lines) != 2 or not {"plus", "zero"} <= others <= {"plus", "zero", "pe", "shield"}:
        return rows
    return with_functions(rows, {id(row): LINES_OF_A_BUS[name] for name, row in lines.items()})


def by_colours(rows: Rows) -> Rows:
    """Of a proximity switch of which only the colours are told, what the standard has them for; of
    three leads with red and black, what the trade has them for, which is marked.
    """
    used = used_rows(rows)
    colours = [row.colour for row in used]
    if any(row.function for row in used) or len(set(colours)) < len(colours):
        return rows
    if {"RD", "BK"} < set(colours) and len(colours) == LEADS_BY_USAGE:
        return tuple(
            replace(
                row, function=BY_USAGE.get(row.colour or "", "signal"),
                marks=(*row.marks, TAKEN_BY_USAGE),
            )
            if row in used else row
            for row in rows
        )  # fmt: skip
    if not {"BN", "BU", "BK"} <= set(colours) <= set(LEADS_OF_SWITCHES):
        return rows
    return with_functions(
        rows, {id(row): LEADS_OF_SWITCHES[row.colour] for row in used if row.colour}
    )


def clocked(rows: Rows) -> Rows:
    """Of an amplifier that gives its figure bit by bit, beside DOUT, its clock is what works it."""
    used = used_rows(rows)
    gives = any(row.function == "signal" for row in used)
    if not gives or any(row.function in ("data", "clock", "select") for row in used):
        return rows
    return with_functions(rows, {id(row): "enable" for row in used if CLOCK.match(row.name)})


def what_is_left(rows: Rows) -> Rows:
    """Of a sensor that has a plus and a 0 V and nothing else that is known, the one word that is
    left is what it gives.
    """
    used = used_rows(rows)
    unknown = [row for row in used if row.function is None and row.name and not row.colour]
    others = [row.function for row in used if row not in unknown]
    if len(unknown) != 1 or not {"plus", "zero"} <= {*others} <= {"plus", "zero", "enable", "pe"}:
        return rows
    return tuple(
        replace(row, function="signal", marks=(*row.marks, TAKEN_AS_ITS_SIGNAL))
        if row in unknown
        else row
        for row in rows
    )


def two_outputs(rows: Rows) -> Rows:
    """What a sensor gives twice, as volts and by a level, AO DO, at the plug of a controller that
    feeds it: the volts are read; and so is A alone.
    """
    told: dict[int, PinFunction | None] = {}
    for port in dict.fromkeys(row.port for row in used_rows(rows)):
        own = [row for row in used_rows(rows) if row.port == port]
        volts = [row for row in own if GIVES_VOLTS.match(row.name)]
        levels = [row for row in own if GIVES_A_LEVEL.match(row.name)]
        is_fed = {"plus", "zero"} <= {row.function for row in own}
        if is_fed and len(volts) == 1 and len(own) == 3 + len(levels) and len(levels) < 2:
            told |= {id(volts[0]): "signal", **{id(row): "none" for row in levels}}
    return with_functions(rows, told)
