"""Which register shows which port of a controller: the map of its part, else the one that the
simulated controller has; and the few requests by which all of it is read.
"""

from typing import NamedTuple

from vervain.model.live_entry import LiveEntry, ModbusTable
from vervain.model.part import Part, Port
from vervain.queries.machine_queries import Queries

INPUT_KINDS = ("digital input", "stop input", "pulse input")
COUNTER_KINDS = ("encoder",)
OUTPUT_KINDS = ("switched output", "relay contact")
# What one request may ask for (Modbus application protocol V1.1b3, 6.1 and 6.3).
MOST_BITS, MOST_REGISTERS = 2000, 125
# So many that nobody asked for are read along, rather than asked for in another request.
GAP = 16


class Request(NamedTuple):
    """One request: a table, its first address, how many."""

    table: ModbusTable
    address: int
    size: int


def register_map(queries: Queries, device: str) -> tuple[LiveEntry, ...]:
    """The map of a controller."""
    part = queries.part_of(device)
    if part is None:
        return ()
    return part.live or usual_map(part)


def usual_map(part: Part) -> tuple[LiveEntry, ...]:
    """The map of a part that has none: inputs as discrete inputs in their order, counters as two
    input registers each, outputs as coils.
    """
    hosts = [port for port in part.ports if port.end == "host"]
    inputs = [port for port in hosts if port.kind in INPUT_KINDS]
    counters = [port for port in hosts if port.kind in COUNTER_KINDS]
    outputs = [port for port in hosts if port.kind in OUTPUT_KINDS]
    return (
        *_numbered(inputs, "discrete input", 1), *_numbered(counters, "input register", 2),
        *_numbered(outputs, "coil", 1),
    )  # fmt: skip


def _numbered(ports: list[Port], table: ModbusTable, words: int) -> list[LiveEntry]:
    return [
        LiveEntry(port=port.id, table=table, address=number * words, words=words)
        for number, port in enumerate(ports)
    ]


def requests_for(entries: tuple[LiveEntry, ...]) -> tuple[Request, ...]:
    """The fewest requests, about, that read every entry."""
    found: list[Request] = []
    for entry in sorted(entries, key=lambda entry: (entry.table, entry.address)):
        most = MOST_BITS if entry.is_bits else MOST_REGISTERS
        end = entry.address + (1 if entry.is_bits else entry.words)
        last = found[-1] if found else None
        if (
            last is not None
            and last.table == entry.table
            and entry.address <= last.address + last.size + GAP
            and end - last.address <= most
        ):
            size = max(last.size, end - last.address)
            found[-1] = last._replace(size=size)
        else:
            found.append(Request(entry.table, entry.address, end - entry.address))
    return tuple(found)


def value_in(entry: LiveEntry, request: Request, answer: list[int] | list[bool]) -> float | None:
    """What an entry shows in the answer to a request; None where it is not in it."""
    at = entry.address - request.address
    if request.table != entry.table or at < 0:
        return None
    if entry.is_bits:
        return float(bool(answer[at])) if at < min(request.size, len(answer)) else None
    words = [int(word) for word in answer[at : at + entry.words]]
    if len(words) < entry.words or at + entry.words > request.size:
        return None
    if entry.bit is not None:
        return float(words[0] >> entry.bit & 1)
    ordered = words[::-1] if entry.low_first else words
    number = 0
    for word in ordered:
        number = number << 16 | (word & 0xFFFF)
    # Signed: two's complement over all its words.
    size = 16 * entry.words
    return (number - (1 << size) if number >> (size - 1) else number) * entry.scale
