"""What is set on a described board, and what goes through its slots: as its lines say, and the
usual settings of a controller's program.
"""

from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.boards import driver_options
from vervain.catalogue.setting_lines import SettingLines, read_setting_lines
from vervain.model.base import Record
from vervain.model.electrical import LogicInput
from vervain.model.elements import Bridge, Element, PinAt
from vervain.model.part import SEATED, Indicator, Option, Pin, Port, PortKind

# What the program of a controller can usually be told, by what the port is for.
USUAL: tuple[tuple[str, str, tuple[str, ...], tuple[PortKind, ...]], ...] = (
    ("invert", "Input is taken", ("as it is", "inverted"), ("digital input", "stop input")),
    ("direction", "Direction", ("forward", "reversed"), ("step and direction", "driver slot")),
    ("enable", "Enable is on at", ("low", "high"), ("step and direction",)),
)


class SetBoard(Record, frozen=True, kw_only=True):
    """The ports, options, joints and lamps of a board with its settings, which pin works the
    contacts of a port, and what was not understood.
    """

    ports: tuple[Port, ...]
    options: tuple[Option, ...] = ()
    inside: tuple[Element, ...] = ()
    workers: Mapping[str, PinAt] = {}
    indicators: tuple[Indicator, ...] = ()
    problems: tuple[str, ...] = ()


def with_settings(draft: BoardDraft, ports: tuple[Port, ...]) -> SetBoard:
    """The board with what its lines say, its slots joined to the motors behind them, and the usual
    settings of a controller that no line names.
    """
    lines = read_setting_lines(draft.settings_text, ports)
    slotted = _through_slots(ports)
    named = {option.id for option in lines.options}
    usual: tuple[Option, ...] = ()
    if draft.kind == "controller":
        usual = tuple(_usual_options(ports, named))
    elif draft.kind == "stepper driver":
        usual = tuple(o for o in driver_options(draft.numbers) if o.id not in named)
    return SetBoard(
        ports=tuple(_port_with(port, lines) for port in slotted),
        options=(*lines.options, *usual),
        inside=(*lines.inside, *_slot_bridges(slotted)),
        workers=lines.workers,
        indicators=lines.indicators,
        problems=(*lines.problems, *_beside(slotted, draft.size_mm)),
    )


def _beside(ports: tuple[Port, ...], size_mm: tuple[float, float] | None) -> Iterator[str]:
    """The ports that lie beside a board of the size that was given."""
    if size_mm is None:
        return
    out = [p.id for p in ports if p.at_mm > size_mm[0 if p.edge in ("top", "bottom") else 1]]
    if out:
        shown = ", ".join(out[:4]) + (" …" if len(out) > 4 else "")
        yield f"Beside a board of {size_mm[0]:g} × {size_mm[1]:g} mm: {shown}."


def _usual_options(ports: tuple[Port, ...], named: set[str]) -> Iterator[Option]:
    for option_id, title, choices, kinds in USUAL:
        at = tuple(port.id for port in ports if port.kind in kinds and port.end == "host")
        has_pin = option_id != "enable" or any(
            pin.function == "enable" for port in ports if port.id in at for pin in port.pins
        )
        if at and has_pin and option_id not in named:
            yield Option(id=option_id, title=title, choices=choices, default=choices[0], ports=at)


def _port_with(port: Port, lines: SettingLines) -> Port:
    """A port with what an option decides of it: how its inputs read, when it is taken."""
    option = lines.reads.get(port.id)
    pins = tuple(_reading_pin(pin, option) for pin in port.pins) if option else port.pins
    working = set(lines.workers.values())
    if working and port.kind in SEATED and port.end == "device":
        # What works no contact only goes on to the next board of the stack.
        pins = tuple(
            replace(pin, electrical=None, optional=True)
            if pin.function == "signal" and (port.id, pin.id) not in working else pin
            for pin in pins
        )  # fmt: skip
    return replace(port, pins=pins, reserved=(*port.reserved, *lines.reserved.get(port.id, ())))


def _reading_pin(pin: Pin, option: str) -> Pin:
    if not isinstance(pin.electrical, LogicInput):
        return pin
    electrical = replace(pin.electrical, reads="either", reads_option=option)
    return replace(pin, electrical=electrical)


def _through_slots(ports: tuple[Port, ...]) -> tuple[Port, ...]:
    """Motor ports, told the slot of the same last word: MOTOR X is behind SLOT X."""
    slots = {_last(port): port.id for port in ports if _is_slot(port)}
    return tuple(
        replace(port, needs=slots[_last(port)])
        if port.kind == "motor phases" and port.needs is None and _last(port) in slots
        else port
        for port in ports
    )


def _slot_bridges(ports: tuple[Port, ...]) -> Iterator[Bridge]:
    """A motor port's phases are those of its slot."""
    known = {port.id: port for port in ports}
    for port in ports:
        slot = known.get(port.needs or "")
        if slot is None or port.kind != "motor phases":
            continue
        phases = {pin.function: pin.id for pin in slot.pins if pin.function.startswith("phase")}
        for pin in port.pins:
            if pin.function in phases:
                yield Bridge(pins=((port.id, pin.id), (slot.id, phases[pin.function])))


def _is_slot(port: Port) -> bool:
    return port.kind == "driver slot" and port.end == "host"


def _last(port: Port) -> str:
    words = port.id.casefold().split()
    return words[-1] if words else ""
