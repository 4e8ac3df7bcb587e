"""Why no plug of single signals goes over the lines of a controller: what the builder is asked."""

from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.ports.spreading import LINES, free_lines, issues_at, signals_of
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin


def why_not(queries: Queries, plug: PortRef) -> str:
    """Why the first signal of a plug does not go over the lines of a controller: what is against
    it, or that nobody has said what they read or give; "" where none of them is of its kind.
    """
    for board in queries.devices():
        for pin in signals_of(queries, plug):
            ours = PinRef(device=plug.device, port=plug.port, pin=pin.id)
            for line in free_lines(queries, board, LINES, plug):
                for issue in issues_at(queries, ours, line) or ():
                    if issue.refuses:
                        return f"{pin.text} at {board} {line.port}: {issue.reason}"
    port = queries.port(plug)
    pins = port.pins if port is not None else ()
    signals = signals_of(queries, plug)
    is_told = any(isinstance(pin.electrical, LogicInput | LogicOutput) for pin in pins)
    # Its own lines, or the input of a module.
    of_own = signals or (pins if port is not None and port.kind == "load" else ())
    if of_own and not is_told and not any(pin.electrical for pin in of_own):
        return _say_what(_not_told_of_own(queries, plug), plug.device)
    for board in queries.devices() if is_told else ():
        if lines := _lines_not_told(queries, board):
            return _say_what(lines, board)
    if port is not None and port.kind == "analogue command":
        return "Nothing here gives it a level: set its speed at the drive, or by a potentiometer."
    for board in queries.devices() if port is not None and port.kind == "bus" else ():
        if _has_lines(queries, board):
            return f"Say on Machine which lines of {board} are a bus."
    for board in queries.devices() if signals else ():
        if _has_lines(queries, board) and not any(free_lines(queries, board, LINES, plug)):
            return f"Every line of {board} is in use."
    return ""


def _has_lines(queries: Queries, board: str) -> bool:
    """Whether a device is a controller with lines of its processor."""
    part = queries.part_of(board)
    ports = part.ports if part is not None and part.kind == "controller" else ()
    return any(
        port.kind in LINES and ports_at_one_pin(queries, PortRef(device=board, port=port.id))
        for port in ports
    )


def _say_what(ports: list[str], device: str) -> str:
    """What is asked of the builder about some ports."""
    more = f" and {len(ports) - 3} more" if len(ports) > 3 else ""
    return f"Say on Machine what {', '.join(ports[:3])}{more} of {device} read or give."


def _not_told_of_own(queries: Queries, plug: PortRef) -> list[str]:
    """The plugs of a device that are of a plug's kind, and of which nobody has said what they read
    or give.
    """
    part, own = queries.part_of(plug.device), queries.port(plug)
    return [
        port.id for port in (part.ports if part is not None else ())
        if own is not None and (port.kind, port.end) == (own.kind, own.end)
        and not any(isinstance(pin.electrical, LogicInput | LogicOutput) for pin in port.pins)
    ]  # fmt: skip


def _lines_not_told(queries: Queries, board: str) -> list[str]:
    """The free single lines of a controller of which nobody has said what they read or give."""
    part = queries.part_of(board)
    if part is None or part.kind != "controller":
        return []
    return [
        port.id for port in part.ports
        if port.end == "host" and port.kind in LINES
        and [p.electrical for p in port.pins if p.function == "signal"] == [None]
        and not occupants(queries, PortRef(device=board, port=port.id))
    ]  # fmt: skip
