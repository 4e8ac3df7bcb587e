"""Which parts of a shelf would go into a port of a part that is being described."""

from collections.abc import Iterable, Iterator

from vervain.edits.device_edits import add_device
from vervain.edits.hookup_edits import add_hookup
from vervain.model.base import Record
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.machine import Conductor, Machine, PortRef
from vervain.model.part import Part, Pin, Port
from vervain.ports.compatibility import mates_of
from vervain.ports.fit import Fit, fit
from vervain.queries.machine_queries import Queries

TRIED, SOURCE, OTHER = "K9", "G9", "B9"
# What boards are usually fed with, tried in this order within what the board takes.
USUAL_V = (24.0, 12.0, 5.0, 48.0, 36.0)
# A supply that gives enough for any board.
SOURCE_A = 100.0


class TriedPart(Record, frozen=True, kw_only=True):
    """A part of the shelf in the port: the verdict, and what it needs or why not."""

    title: str
    answer: Fit

    @property
    def words(self) -> str:
        """The verdict in words."""
        if self.answer.verdict == "fits with":
            return f"fits with {self.answer.needs}"
        if self.answer.verdict == "fits":
            return "fits"
        return f"does not fit: {self.answer.reason}"


def try_port(part: Part, port_id: str, shelf: Iterable[Part]) -> tuple[TriedPart, ...]:
    """Every part of a shelf whose plug is for a port of that kind, the best first, tried on a small
    machine on which the part is fed. Nothing where the port is not one to plug into.
    """
    port = part.port(port_id)
    if port is None or port.end != "host":
        return ()
    machine = _fed(add_device(Machine(name="Try"), part, "Tried", TRIED), part)
    found = []
    for other in shelf:
        plug = next((p for p in other.ports if p.end == "device" and _is_for(p, port)), None)
        if plug is None or other.id == part.id:
            continue
        queries = Queries(add_device(machine, other, "Other", OTHER))
        ours, theirs = (
            PortRef(device=OTHER, port=plug.id),
            PortRef(device=TRIED, port=port.id),
        )
        found.append(TriedPart(title=other.title, answer=fit(queries, ours, theirs)))
    return tuple(sorted(found, key=lambda item: (item.answer.rank[:2], item.title)))


def _is_for(plug: Port, host: Port) -> bool:
    return bool(mates_of(plug.kind, host.kind))


def _fed(machine: Machine, part: Part) -> Machine:
    """The machine with a supply at every feed of the part."""
    for number, (port, plus, zero) in enumerate(_feeds(part)):
        electrical = plus.electrical
        assert isinstance(electrical, FeedIn)
        least, most = electrical.v_min_v, electrical.most_v
        usual = (v for v in USUAL_V if least <= v <= most)
        volts = next(usual, electrical.middle_v or USUAL_V[0])
        pins = (
            Pin(
                id="1", name="+", function="plus",
                electrical=FeedOut(nominal_v=volts, current_a=SOURCE_A),
            ),
            Pin(id="2", name="−", function="zero"),
        )  # fmt: skip
        out = Port(id="OUT", kind="feed out", end="host", pins=pins)
        source = Part(id=f"source-{number}", kind="supply", title="Source", ports=(out,))
        name = f"{SOURCE}{number}"
        machine = add_device(machine, source, "Source", name)
        machine = add_hookup(
            machine,
            PortRef(device=name, port="OUT"),
            PortRef(device=TRIED, port=port.id),
            (Conductor(a="1", b=plus.id), Conductor(a="2", b=zero.id)),
        )
    return machine


def _feeds(part: Part) -> Iterator[tuple[Port, Pin, Pin]]:
    """The feeds of a part: the port, its plus and its 0 V."""
    for port in part.ports:
        plus = next((pin for pin in port.pins if isinstance(pin.electrical, FeedIn)), None)
        zero = next((pin for pin in port.pins if pin.function == "zero"), None)
        if port.kind == "feed in" and plus is not None and zero is not None:
            yield port, plus, zero
