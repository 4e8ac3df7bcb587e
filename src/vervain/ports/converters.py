"""Signal converters that bring a plug and a port together whose levels do not suit each other."""

from vervain.electrical.levels import levels_of, mismatches
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import PortRef
from vervain.model.part import Pin, Port
from vervain.ports.compatibility import mates_of
from vervain.ports.insertions import ConverterAt
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


@query
def converter_for(queries: Queries, plug: PortRef, host: PortRef) -> ConverterAt | None:
    """A signal converter among the machine's parts that takes a plug and goes into a port."""
    ours, theirs = queries.port(plug), queries.port(host)
    if ours is None or theirs is None:
        return None
    for part in queries.converters():
        for into in part.ports:
            for out in part.ports:
                if into.end != "host" or out.end != "device":
                    continue
                if _goes(ours, into) and _goes(out, theirs):
                    return ConverterAt(part=part, into=into.id, out=out.id)
    return None


def _goes(plug: Port, host: Port) -> bool:
    """Whether a plug's needed pins are all there, and its signals are within the port's levels."""
    for row in mates_of(plug.kind, host.kind):
        pins = [(_pin(plug, ours), _pin(host, theirs)) for ours, theirs in row.pairs]
        there = {ours for (ours, theirs), (_, pin) in zip(row.pairs, pins, strict=True) if pin}
        needed = {function for function in row.needed if _pin(plug, function) is not None}
        if needed <= there and all(_suits(ours, theirs) for ours, theirs in pins):
            return True
    return False


def _pin(port: Port, function: str) -> Pin | None:
    return next((pin for pin in port.pins if pin.function == function), None)


def _suits(ours: Pin | None, theirs: Pin | None) -> bool:
    output = ours.electrical if ours else None
    entry = theirs.electrical if theirs else None
    if not isinstance(output, LogicOutput) or not isinstance(entry, LogicInput):
        return True
    return not mismatches(output, levels_of(output, None), entry, entry.reads)
