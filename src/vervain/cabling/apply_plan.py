"""Carrying a plan out: cables made, cores given to conductors, commons joined in a splice."""

from msgspec.structs import replace

from vervain.cabling.planned_cable import PlannedCable
from vervain.cabling.requirements import Conductor, Need
from vervain.cabling.selection import (
    COLOURS_OF,
    LOOPS_M,
    Options,
    bought_m,
    may_be_common,
    net_key,
    own_conductors,
    pairs_of,
    shared_commons,
)
from vervain.edits.cable_edits import (
    add_cable,
    find_cable,
    remove_cable,
    replace_rows,
    set_cable_part,
    set_spares,
)
from vervain.edits.common import free_name, swapped
from vervain.edits.hookup_edits import add_hookup, find_hookup, set_conductors
from vervain.model.cable_part import CablePart
from vervain.model.connectors import gender_of, is_plug
from vervain.model.machine import Conductor as Row
from vervain.model.machine import Machine, PortRef
from vervain.ports.adapters import placed, splice_part
from vervain.ports.extension import inline_part
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_way_out import TO_THE_FUSE_M


def accept_cables(machine: Machine, planned: tuple[PlannedCable, ...], options: Options) -> Machine:
    """The machine with these cables made and laid."""
    before = [cable.id for cable in machine.cables]
    for cable in planned:
        machine = _lay(machine, cable, options, before)
    return machine


def _lay(machine: Machine, cable: PlannedCable, options: Options, before: list[str]) -> Machine:
    """The machine with one cable more, of a name that none had before."""
    if cable.instead:
        return set_cable_part(machine, cable.instead, cable.part)
    for known in machine.cables:
        if known.id in cable.takes_off:
            machine = remove_cable(machine, known.id)
    name = free_name("W", (*before, *(known.id for known in machine.cables)))
    machine = add_cable(machine, cable.part, name)
    order = core_order(cable, options)
    own = {(need.hookup, item.row) for need, item in own_conductors(cable.needs, options)}
    for key in shared_commons(cable.needs, options):
        machine = _join_common(machine, cable, key, order, name)
    for need in cable.needs:
        machine = _with_mate(machine, need)
        rows = tuple(
            replace(
                find_hookup(machine, need.hookup).conductors[item.row],
                core=order[need.hookup, item.row],
            )
            for item in need.conductors
            if (need.hookup, item.row) in own
        )
        if rows:
            machine = replace_rows(machine, need.hookup, rows, name)
        else:
            machine = set_conductors(machine, need.hookup, ())
    if cable.used < len(cable.part.cores):
        machine = set_spares(machine, name, "insulated")
    made = find_cable(machine, name)
    changed = replace(
        made,
        shield_to=_shield_ends(cable) if cable.part.shield else (),
        length_m=_ready_length(cable),
    )
    return replace(machine, cables=swapped(machine.cables, made, changed))


def _with_mate(machine: Machine, need: Need) -> Machine:
    """A device's own plug gets the mating half of an in-line connector, on which the cable begins:
    an extension. Flying leads are spliced to the cores, and boards have sockets of their own.
    """
    queries = Queries(machine)
    part, port = queries.part_of(need.device_end.device), queries.port(need.device_end)
    if part is None or port is None or port.end != "device" or not is_plug(part, port):
        return machine
    hookup = find_hookup(machine, need.hookup)
    at_a = hookup.a == need.device_end
    joint = inline_part(len(port.pins), port.connector, gender_of(part, port))
    name = f"Extension of {need.device_end.device}"
    machine, designator = placed(machine, joint, name, need.device_end.device)
    ways = {pin.id: str(number) for number, pin in enumerate(port.pins, 1)}
    mate, onward = (PortRef(device=designator, port=side) for side in "AB")
    ends = [row.a if at_a else row.b for row in hookup.conductors]
    inner = tuple(Row(a=near, b=ways[near]) for near in ends)
    outer = tuple(
        replace(row, a=ways[row.a]) if at_a else replace(row, b=ways[row.b])
        for row in hookup.conductors
    )
    moved = replace(
        hookup,
        a=onward if at_a else hookup.a,
        b=hookup.b if at_a else onward,
        conductors=outer,
    )
    machine = replace(machine, hookups=swapped(machine.hookups, hookup, moved))
    return add_hookup(machine, need.device_end, mate, inner)


def _shield_ends(cable: PlannedCable) -> tuple[PortRef, ...]:
    """A chopped motor current's shield at both ends, any other at the controller's end only."""
    first = cable.needs[0]
    if any(need.service == "motor" for need in cable.needs):
        return first.far_end, first.device_end
    return (first.far_end,)


def _ready_length(cable: PlannedCable) -> float | None:
    """The length that a ready-made lead is bought in, or that a wire to its fuse may have; None for
    what is cut to its way.
    """
    if all(need.to_fuse for need in cable.needs):
        return TO_THE_FUSE_M
    if not cable.part.ready_made or not cable.part.stock_m:
        return None
    return bought_m(cable.part, max(need.length_m for need in cable.needs) + LOOPS_M)


def core_order(cable: PlannedCable, options: Options) -> dict[tuple[str, int], int]:
    """The core of each conductor by hookup and row; those of one shared common have one. Where a
    core has the colour that a conductor should have it gets that. In a cable of pairs what belongs
    together is a pair, and what stands alone begins a pair of its own.

    Raises:
        ValueError: The cable has too few cores for what was planned in it.
    """
    own = own_conductors(cable.needs, options)
    found = _by_colour(cable.part, own)
    used = list(found.values())

    def taken(beside: int | None = None) -> int:
        mate = cable.part.mate_of(beside) if beside is not None else None
        core = mate if mate not in {None, *used} else cable.part.free_core(used)
        if core is None:
            raise ValueError(f"{cable.part.id} has too few cores for what was planned in it.")
        used.append(core)
        return core

    together = pairs_of(cable.needs, options) if cable.part.pairs else [[one] for one in own]
    for pair in together:
        core = None
        for need, item in pair:
            if (need.hookup, item.row) not in found:
                core = found[need.hookup, item.row] = taken(core)
    for key in shared_commons(cable.needs, options):
        # A common alone in a pair leaves its partner free.
        core = taken()
        for need in cable.needs:
            for item in need.conductors:
                if may_be_common(item) and net_key(item.net) == key:
                    found[need.hookup, item.row] = core
    return found


def _by_colour(part: CablePart, own: list[tuple[Need, Conductor]]) -> dict[tuple[str, int], int]:
    """The cores that have the colour which a conductor should have, each for the first that wants
    it; none where the cores go in pairs, or pin on pin.
    """
    found: dict[tuple[str, int], int] = {}
    if part.pairs or part.form == "ribbon":
        return found
    for need, item in own:
        free = [
            part.cores.index(colour) + 1 for colour in COLOURS_OF.get(item.kind, ())
            if colour in part.cores and part.cores.index(colour) + 1 not in found.values()
        ]  # fmt: skip
        if free:
            found[need.hookup, item.row] = free[0]
    return found


def _join_common(
    machine: Machine,
    cable: PlannedCable,
    key: frozenset[str],
    order: dict[tuple[str, int], int],
    name: str,
) -> Machine:
    """A splice at the devices' end of a shared common: a lead from each of them, and one core on to
    the first of their pins at the control end.
    """
    members = [
        (need, item)
        for need in cable.needs
        for item in need.conductors
        if may_be_common(item) and net_key(item.net) == key
    ]
    first, head = members[0]
    names = ", ".join(dict.fromkeys(need.device_end.device for need, _ in members))
    part = splice_part(len(members) + 1)
    machine, designator = placed(machine, part, f"Common of {names}", first.device_end.device)
    joint = PortRef(device=designator, port="JOINT")
    for number, (need, item) in enumerate(members, 2):
        near, _ = _ends(machine, need, item)
        machine = add_hookup(machine, need.device_end, joint, (Row(a=near, b=str(number)),))
    _, far = _ends(machine, first, head)
    onward = (Row(a="1", b=far, core=order[first.hookup, head.row]),)
    return add_hookup(machine, joint, first.far_end, onward, name)


def _ends(machine: Machine, need: Need, item: Conductor) -> tuple[str, str]:
    """The pins of a conductor at the device's end and at the control end."""
    hookup = find_hookup(machine, need.hookup)
    row = hookup.conductors[item.row]
    return (row.a, row.b) if hookup.a == need.device_end else (row.b, row.a)
