"""The circuits of a board that the print at its pins tells already: nobody has to choose them."""

from collections.abc import Mapping

from vervain.catalogue.boards import asked_circuits
from vervain.catalogue.circuits import Circuit, circuit_named, circuits
from vervain.catalogue.port_groups import PortGroup
from vervain.catalogue.port_roles import AS_LINE
from vervain.catalogue.printed_volts import volts_printed, window_printed
from vervain.model.electrical import FeedOut
from vervain.model.part import PartKind, PortKind
from vervain.model.ways_back import is_return_of

# What is chosen for all inputs is kept under this key: those of contacts and sensors.
ALL_INPUTS = "/input"
OF_CONTACTS: tuple[PortKind, ...] = ("digital input", "stop input")


def inputs_of_contacts(kind: PartKind, groups: tuple[PortGroup, ...]) -> tuple[str, ...]:
    """The keys of the circuits that one choice may set for all: nothing is printed at them that
    tells.
    """
    return tuple(
        key
        for group in groups
        for key in asked_circuits(kind, group, groups)
        if group.role.kind in OF_CONTACTS and key == f"{group.key}{ALL_INPUTS}"
        if _told(group, "input") is None
    )


def with_told(
    kind: PartKind, groups: tuple[PortGroup, ...], chosen: Mapping[str, str]
) -> dict[str, str]:
    """The circuits of a board's groups by "key/input", "key/output" and "key/plus": those that were
    chosen ("" for none that is known), else those that the print tells, else what all inputs have,
    or what the lines of the same processor tell of its inputs for volts.
    """
    every = chosen.get(ALL_INPUTS, "")
    as_all = {key: every for key in inputs_of_contacts(kind, groups) if every}
    told = {
        key: circuit.title
        for group in groups
        for key in asked_circuits(kind, group, groups)
        if (circuit := _told(group, key.rsplit("/", 1)[1])) is not None
    }
    return {**_by_the_lines(groups, chosen), **as_all, **told, **chosen}


def _by_the_lines(groups: tuple[PortGroup, ...], chosen: Mapping[str, str]) -> dict[str, str]:
    """The circuits of inputs for volts, by that of the lines of their processor."""
    lines = (circuit_named(chosen.get(f"{g.key}/input", "")) for g in groups if g.role == AS_LINE)
    circuit = next((found for found in lines if found is not None and found.analogue), None)
    volts = (group.key for group in groups if group.role.kind == "analogue input")
    return {f"{key}/input": circuit.analogue for key in volts} if circuit is not None else {}


def _told(group: PortGroup, pins: str) -> Circuit | None:
    """The first circuit of the table that the print at a group tells of its pins of a kind."""
    return next(
        (
            circuit for circuit in circuits()
            if circuit.pins == pins and circuit.told is not None
            and (not circuit.told.at or group.role.kind in circuit.told.at)
            and _is_told(circuit, group)
        ),
        None,
    )  # fmt: skip


def _is_told(circuit: Circuit, group: PortGroup) -> bool:
    """Whether a circuit is told: by pins in pairs, PUL+ and PUL− or A and A−, by the name of a pin,
    or by the volts in the name of a plus.
    """
    assert circuit.told is not None
    names = [pin.name for pin in group.pins]
    if circuit.told.by == "pairs":
        functions = {group.function(number) for number in range(len(names))}
        are_pairs = "encoder A-" in functions or any(
            is_return_of(name, other) for name in names for other in names
        )
        return are_pairs and _take(names, circuit.told.volts)
    if circuit.told.by == "names":
        return any(name.casefold().replace(" ", "") in circuit.told.names for name in names)
    given = {volts_printed(pin.name) for pin in group.pins if pin.function == "plus"}
    gives = circuit.electrical
    return isinstance(gives, FeedOut) and given == {float(gives.nominal_v)}


def _take(names: list[str], volts: tuple[float, float] | None) -> bool:
    """Whether all volts that are printed at pins, “PUL+ (24V)”, lie between two."""
    printed = [window for name in names if (window := window_printed(name)) is not None]
    return volts is None or all(
        volts[0] <= low_v and high_v <= volts[1] for low_v, high_v in printed
    )
