"""What can be put into a wire: devices with two free ends, and parts that have a way through."""

from collections.abc import Iterable

from vervain.edits.plug_edits import take_conductor_off
from vervain.edits.wire_edits import ends_of_wire, put_into_wire
from vervain.model.base import Record
from vervain.model.electrical import FeedOut
from vervain.model.machine import Machine, PinRef
from vervain.model.part import Part, PartKind
from vervain.ports.adapters import placed
from vervain.ports.joins import WayThrough, ways_through
from vervain.queries.machine_queries import Queries

# Kinds that a wire is led through, in the order in which they are offered.
KINDS: tuple[PartKind, ...] = (
    "fuse", "terminal strip", "connector", "switch", "contactor", "solid-state relay",
    "relay module", "emergency stop", "resistor", "diode", "jumper",
)  # fmt: skip


class Insertion(Record, frozen=True, kw_only=True):
    """Something that a wire can be led through: a way of a device that is there, or a new part."""

    name: str
    words: str
    way: WayThrough | None = None
    part: Part | None = None


def insertions(
    queries: Queries, ends: tuple[PinRef, PinRef], shelf: Iterable[Part] = ()
) -> tuple[Insertion, ...]:
    """What a wire between two pins can be led through: the free ways of devices that are there,
    those of its own place first, then parts of a shelf.
    """
    places = {device.place for end in ends if (device := queries.device(end.device)) is not None}
    found: list[tuple[tuple[object, ...], Insertion]] = []
    for name in queries.devices():
        device, part = queries.device(name), queries.part_of(name)
        if device is None or part is None or name in {end.device for end in ends}:
            continue
        for way in ways_through(queries, name):
            if _is_board_copper(part, way):
                continue
            told = Insertion(
                name=f"{name} {_written(part, way.near)} to {_written(part, way.far)}",
                words=f"{device.name}: {way.words}",
                way=way,
            )
            order = KINDS.index(part.kind) if part.kind in KINDS else len(KINDS)
            found.append(((device.place not in places, order), told))
    found.sort(key=lambda item: item[0])
    there = [told for _, told in found]
    new = [
        Insertion(name=f"New: {part.title}", words=_kind_words(part), part=part)
        for part in sorted(shelf, key=lambda p: KINDS.index(p.kind) if p.kind in KINDS else 99)
        if part.kind in KINDS and _way_of(part) is not None
    ]
    return (*there, *new)


def _is_board_copper(part: Part, way: WayThrough) -> bool:
    """Whether a way is only copper of a board, which is not made to lead wires on."""
    return way.words in ("bar", "way") and part.kind not in KINDS


def _written(part: Part, ref: PinRef) -> str:
    """A pin of a part by its name, with its port's where there are several."""
    port = part.port(ref.port)
    pin = port.pin(ref.pin) if port is not None else None
    text = pin.text if pin is not None else ref.pin
    return text if len(part.ports) == 1 else f"{ref.port} {text}"


def _kind_words(part: Part) -> str:
    return f"A new {part.kind}."


def _way_of(part: Part) -> tuple[tuple[str, str], tuple[str, str]] | None:
    """The ends of the first way through a part, each port and pin."""
    for element in part.inside:
        if getattr(element, "when", None) is None and len(element.pins) >= 2:
            return element.pins[0], element.pins[1]
    return None


def feed_side(machine: Machine, hookup_id: str, row: int) -> PinRef | None:
    """The end of a wire that a source is behind, and not the other; None where it is neither, or
    both. Raises `Problem` where there is no such wire.
    """
    ends = ends_of_wire(machine, hookup_id, row)
    queries = Queries(take_conductor_off(machine, hookup_id, row))
    fed = [
        end
        for end in ends
        if any(
            isinstance(pin.electrical, FeedOut)
            for ref in queries.rail(end)
            if (pin := queries.pin(ref)) is not None
        )
    ]
    return fed[0] if len(fed) == 1 else None


def insert(machine: Machine, hookup_id: str, row: int, wanted: Insertion) -> Machine:
    """Leads a wire through something: a fuse and what is new at the end that feeds it, else at the
    end whose place it is in. The rest of the wire keeps its cable and core. Raises `Problem`.
    """
    ends = ends_of_wire(machine, hookup_id, row)
    source = feed_side(machine, hookup_id, row)
    if wanted.part is not None:
        near_end = source or ends[0]
        name = f"{wanted.part.kind.capitalize()} at {near_end.device} {near_end.port}"
        machine, designator = placed(machine, wanted.part, name, near_end.device)
        pins = _way_of(wanted.part)
        assert pins is not None
        near, far = (PinRef(device=designator, port=port, pin=pin) for port, pin in pins)
        return put_into_wire(machine, hookup_id, row, near_end, near, far)
    assert wanted.way is not None
    queries = Queries(machine)
    device, part = queries.device(wanted.way.near.device), queries.part_of(wanted.way.near.device)
    at = [end for end in ends if (other := queries.device(end.device)) and device
          and other.place == device.place]  # fmt: skip
    near_end = at[0] if len(at) == 1 else source or ends[0]
    if part is not None and part.kind == "fuse" and source is not None:
        near_end = source
    return put_into_wire(machine, hookup_id, row, near_end, wanted.way.near, wanted.way.far)
