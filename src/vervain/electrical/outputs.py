"""The outputs that work what is at a pin."""

from collections.abc import Iterable

from vervain.model.electrical import LogicOutput
from vervain.model.machine import PinRef
from vervain.model.part import Pin, Port
from vervain.queries.machine_queries import Queries


def outputs_among(queries: Queries, refs: Iterable[PinRef]) -> tuple[LogicOutput, ...]:
    """The outputs of those of some pins that are one."""
    pins = (queries.pin(ref) for ref in refs)
    return tuple(
        p.electrical for p in pins if p is not None and isinstance(p.electrical, LogicOutput)
    )


def is_output_not_given(port: Port, pin: Pin) -> bool:
    """Whether a pin is an output of which nobody gave what it gives or bears."""
    is_output = port.end == "host" and port.kind == "switched output" and pin.function == "signal"
    return is_output and pin.electrical is None
