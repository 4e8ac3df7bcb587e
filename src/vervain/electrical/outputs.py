"""The outputs that work what is at a pin."""

from collections.abc import Iterable

from vervain.model.electrical import LogicOutput
from vervain.model.machine import PinRef
from vervain.model.part import Pin, Port
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin

# The absolute maximum of the usual processors for 5 V; those for 3.3 V give 4 to 40 mA.
MOST_OF_A_LINE_A = 0.04


def outputs_among(queries: Queries, refs: Iterable[PinRef]) -> tuple[LogicOutput, ...]:
    """The outputs of those of some pins that are one."""
    pins = (queries.pin(ref) for ref in refs)
    return tuple(
        p.electrical for p in pins if p is not None and isinstance(p.electrical, LogicOutput)
    )


def carries_a(queries: Queries, ref: PinRef) -> float | None:
    """What an output carries for long, in A: as the part gives it, and of a processor's line of
    which nothing is given, the most that any such line does; None where it is not known.
    """
    port, pin = queries.port(ref.port_ref), queries.pin(ref)
    if port is None or pin is None:
        return None
    if isinstance(pin.electrical, LogicOutput):
        return pin.electrical.current_a
    is_line = is_output_not_given(port, pin) and bool(ports_at_one_pin(queries, ref.port_ref))
    return MOST_OF_A_LINE_A if is_line else None


def is_output_not_given(port: Port, pin: Pin) -> bool:
    """Whether a pin is an output of which nobody gave what it gives or bears."""
    is_output = port.end == "host" and port.kind == "switched output" and pin.function == "signal"
    return is_output and pin.electrical is None
