"""Lines of a processor, which a program makes inputs or outputs: each is two ports at one pin."""

from collections.abc import Iterator
from typing import Final

from msgspec.structs import replace

from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.circuits import circuit_named
from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_roles import AS_LINE, AS_LOGIC_OUT
from vervain.model.elements import Bridge
from vervain.model.part import Port

AS_OUTPUT: Final = " OUT"
# How much further inside the board the same pin is drawn as an output.
INSIDE_MM = 12.0


def as_outputs(draft: BoardDraft, group: PortGroup, port: Port) -> Iterator[Port]:
    """The port of a line once more, as an output: what it gives is told by the circuit that it has
    as an input. None of other ports, and of lines that are only read.
    """
    circuit = circuit_named(draft.circuits.get(f"{group.key}/input", ""))
    name = f"{port.id}{AS_OUTPUT}"
    if group.role != AS_LINE or any(name in other.ports for other in draft.groups):
        return
    if circuit is not None and not circuit.gives:
        return
    gives = circuit_named(circuit.gives) if circuit is not None else None
    place = draft.places.get(name)
    yield replace(
        port,
        id=name,
        kind=AS_LOGIC_OUT.kind,
        pins=tuple(
            replace(pin, electrical=gives.electrical if gives is not None else None)
            if pin.function == "signal" else pin
            for pin in port.pins
        ),
        edge=place.edge if place else port.edge,
        at_mm=place.at_mm if place else port.at_mm,
        inset_mm=place.inset_mm if place else port.inset_mm + INSIDE_MM,
    )  # fmt: skip


def pins_in_common(draft: BoardDraft, ports: tuple[Port, ...]) -> Iterator[Bridge]:
    """What ties each line to itself as an output: one of the two can be used."""
    by_id = {port.id: port for port in ports}
    own = {name for group in draft.groups for name in group.ports}
    lines = {name for group in draft.groups if group.role == AS_LINE for name in group.ports}
    for port in ports:
        name = f"{port.id}{AS_OUTPUT}"
        other = by_id.get(name) if name not in own else None
        if port.id in lines and other is not None:
            ours, theirs = (
                [(one.id, pin.id) for pin in one.pins if pin.function == "signal"]
                for one in (port, other)
            )
            yield Bridge(pins=(*ours, *theirs), name=f"pin {port.id} of the processor")
