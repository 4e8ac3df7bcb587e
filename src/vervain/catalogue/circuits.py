"""Common circuits of inputs and outputs, by their physics: data/tables/circuits.toml."""

import tomllib
from typing import Literal

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.electrical import Electrical, LogicOutput
from vervain.model.part import PortKind

CircuitPins = Literal["input", "output", "plus"]


class Told(Record, frozen=True, kw_only=True):
    """What at a board tells that it has a circuit: pins in pairs, the name of a pin, or the volts
    in the name of a plus; `at` limits it to ports of these kinds, `volts` to pairs at which, if
    any, volts between these two are printed.
    """

    by: Literal["pairs", "names", "volts"]
    at: tuple[PortKind, ...] = ()
    names: tuple[str, ...] = ()
    volts: tuple[float, float] | None = None


class Circuit(Record, frozen=True, kw_only=True):
    """A circuit: its name, what pins it is for, its figures, what they come from, and what print
    tells of it. `gives` names the circuit of the same pin where a program makes it an output,
    `analogue` that of the inputs for volts of the same processor.
    """

    title: str
    pins: CircuitPins
    electrical: Electrical
    source: str = ""
    told: Told | None = None
    gives: str = ""
    analogue: str = ""


@table_reader
def circuits() -> tuple[Circuit, ...]:
    """Every circuit, in the order of the table. Raises `ValueError` where a name is there twice, or
    one that another names is not there.
    """
    read = tomllib.loads(data_text("tables/circuits.toml"))
    found = tuple(msgspec.convert(read["circuit"], list[Circuit]))
    titles = [circuit.title for circuit in found]
    if len(set(titles)) < len(titles):
        raise ValueError("two circuits have one title")
    pins_of = {circuit.title: circuit.pins for circuit in found}
    for circuit in found:
        for named, pins in ((circuit.gives, "output"), (circuit.analogue, "input")):
            if named and pins_of.get(named) != pins:
                raise ValueError(f"“{circuit.title}” names “{named}”, which is no {pins} here")
    return found


def circuits_for(pins: CircuitPins, gives_too: bool = False) -> tuple[Circuit, ...]:
    """The circuits for pins of a kind; where they may give as well, those that say what, first."""
    found = (circuit for circuit in circuits() if circuit.pins == pins)
    return tuple(sorted(found, key=lambda circuit: gives_too and not circuit.gives))


def circuit_named(title: str) -> Circuit | None:
    """The circuit of a name."""
    return next((circuit for circuit in circuits() if circuit.title == title), None)


def gives_plus(title: str) -> bool:
    """Whether the circuit of a name is an output that switches the plus."""
    circuit = circuit_named(title)
    electrical = circuit.electrical if circuit is not None else None
    return isinstance(electrical, LogicOutput) and electrical.drive == "PNP"
