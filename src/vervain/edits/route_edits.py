"""Edits of the route: places, runs between them, what sits where, and allowances."""

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped
from vervain.edits.device_edits import find_device
from vervain.model.machine import Machine
from vervain.model.place import Allowances, Chain, Place, Run
from vervain.model.problem import Problem
from vervain.text.units import in_length

LONGEST_M = 1000.0


def find_place(machine: Machine, place_id: str) -> Place:
    """The place with this id; raises `Problem` where there is none."""
    for place in machine.places:
        if place.id == place_id:
            return place
    raise Problem(f"There is no place {place_id}.", place=machine.name)


def find_run(machine: Machine, run_id: str) -> Run:
    """The run with this id; raises `Problem` where there is none."""
    for run in machine.runs:
        if run.id == run_id:
            return run
    raise Problem(f"There is no run {run_id}.", place=machine.name)


def _cleaned_name(machine: Machine, name: str, but: str | None = None) -> str:
    cleaned = " ".join(name.split())
    if not cleaned or len(cleaned) > 80:
        raise Problem("A place has a name of 1 to 80 characters.")
    if any(place.name == cleaned and place.id != but for place in machine.places):
        raise Problem(f"There is a place “{cleaned}” already.", remedy="Choose another name.")
    return cleaned


def _checked_length(length_m: float, place: str) -> float:
    if not 0 <= length_m <= LONGEST_M:
        raise Problem(
            f"{in_length(length_m)} is not a length that a run can have.",
            place=place,
            remedy="Enter 0 to 1000 m, for instance “1.8 m”.",
        )
    return length_m


def add_place(machine: Machine, name: str, place_id: str = "") -> Machine:
    """Adds a place that no run leads to yet."""
    chosen = place_id or free_name("P", (place.id for place in machine.places))
    place = Place(id=chosen, name=_cleaned_name(machine, name))
    return replace(machine, places=(*machine.places, place))


def add_place_beyond(machine: Machine, from_place: str, name: str, length_m: float) -> Machine:
    """Adds a place with a run to it from a place that is there."""
    find_place(machine, from_place)
    machine = add_place(machine, name)
    return add_run(machine, from_place, machine.places[-1].id, length_m)


def change_place(machine: Machine, place_id: str, **values: object) -> Machine:
    """Changes fields of a place; its id stays. Raises `Problem`."""
    place = find_place(machine, place_id)
    if "name" in values:
        values["name"] = _cleaned_name(machine, str(values["name"]), but=place_id)
    inside = values.get("inside_m")
    if isinstance(inside, float | int) and _checked_length(float(inside), place.name) == 0:
        raise Problem(
            "A wire inside a place has some length.",
            place=place.name,
            remedy="Enter more than 0, for instance “0.4 m”, or nothing.",
        )
    return replace(machine, places=swapped(machine.places, place, replace(place, **values)))


def remove_place(machine: Machine, place_id: str) -> Machine:
    """Takes a place away with its runs; its devices are nowhere then. Where just two runs met in
    it and nothing sat there, they become one.
    """
    find_place(machine, place_id)
    runs = [run for run in machine.runs if place_id in (run.a, run.b)]
    sits = any(device.place == place_id for device in machine.devices)
    if len(runs) == 2 and not sits:
        first, second = runs
        ends = [run.b if run.a == place_id else run.a for run in runs]
        if ends[0] != ends[1]:
            machine, runs = _merged(machine, first, second, (ends[0], ends[1])), []
    for run in runs:
        machine = remove_run(machine, run.id)
    return replace(
        machine,
        places=tuple(place for place in machine.places if place.id != place_id),
        devices=tuple(
            replace(device, place=None) if device.place == place_id else device
            for device in machine.devices
        ),
    )


def _merged(machine: Machine, first: Run, second: Run, ends: tuple[str, str]) -> Machine:
    """The machine with two runs that meet as one under the name of the first: it moves, is coiled,
    lies in a chain or has an entry where one of them did; what was laid through them by hand stays.
    """
    joined = replace(
        first,
        a=ends[0],
        b=ends[1],
        length_m=round(first.length_m + second.length_m, 3),
        moving=first.moving or second.moving,
        coiled=first.coiled or second.coiled,
        chain=first.chain or second.chain,
        axis=first.axis or second.axis,
        entry=first.entry or second.entry,
    )

    def through(runs: tuple[str, ...]) -> tuple[str, ...]:
        return tuple(dict.fromkeys(first.id if name == second.id else name for name in runs))

    return replace(
        machine,
        runs=tuple(run for run in swapped(machine.runs, first, joined) if run is not second),
        cables=tuple(
            replace(cable, runs=through(cable.runs)) if second.id in cable.runs else cable
            for cable in machine.cables
        ),
    )


def put_device(machine: Machine, designator: str, place_id: str | None) -> Machine:
    """Says where a device sits."""
    device = find_device(machine, designator)
    if place_id is not None:
        find_place(machine, place_id)
    changed = replace(device, place=place_id)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def add_run(
    machine: Machine, a: str, b: str, length_m: float, moving: bool = False, axis: str | None = None
) -> Machine:
    """Lays a run between two places. Raises `Problem`."""
    first, second = find_place(machine, a), find_place(machine, b)
    if a == b:
        raise Problem("A run needs two different places.", place=first.name)
    if any({run.a, run.b} == {a, b} for run in machine.runs):
        raise Problem(f"A run joins {first.name} and {second.name} already.")
    name = free_name("R", (run.id for run in machine.runs))
    length_m = _checked_length(length_m, name)
    run = Run(id=name, a=a, b=b, length_m=length_m, moving=moving, axis=axis)
    return replace(machine, runs=(*machine.runs, run))


def change_run(machine: Machine, run_id: str, **values: object) -> Machine:
    """Changes fields of a run; its id and its ends stay. A fixed run has no chain, coil or axis."""
    run = find_run(machine, run_id)
    length_m = values.get("length_m")
    if isinstance(length_m, float | int):
        _checked_length(float(length_m), run_id)
    if values.get("moving") is False:
        values |= {"chain": None, "coiled": False, "axis": None}
    elif values.get("chain") is not None or values.get("coiled") or values.get("axis"):
        values["moving"] = True
    return replace(machine, runs=swapped(machine.runs, run, replace(run, **values)))


def set_chain(machine: Machine, run_id: str, chain: Chain | None) -> Machine:
    """Lays a run in a drag chain, or takes it out of it. Raises `Problem`."""
    if chain is None:
        return change_run(machine, run_id, chain=None)
    sizes = (chain.width_mm, chain.height_mm, chain.bend_radius_mm)
    if not all(1 <= size <= 2000 for size in sizes):
        raise Problem(
            "A chain's sizes are between 1 and 2000 mm.",
            place=run_id,
            remedy="Enter width × height, radius: “30 × 17, 75”.",
        )
    return change_run(machine, run_id, chain=chain, coiled=False)


def remove_run(machine: Machine, run_id: str) -> Machine:
    """Takes a run away; cables that were laid through it by hand take the shortest way again."""
    run = find_run(machine, run_id)
    return replace(
        machine,
        runs=tuple(other for other in machine.runs if other is not run),
        cables=tuple(
            replace(cable, runs=()) if run_id in cable.runs else cable for cable in machine.cables
        ),
    )


def split_run(machine: Machine, run_id: str, at_m: float, name: str) -> Machine:
    """Puts a new place into a run, so far from its first end; both parts stay as the run was.
    Raises `Problem`.
    """
    run = find_run(machine, run_id)
    if not 0 < at_m < run.length_m:
        raise Problem(
            f"{run_id} is {in_length(run.length_m)} long; {in_length(at_m)} is not within it.",
            place=run_id,
        )
    machine = add_place(machine, name)
    middle = machine.places[-1].id
    second = free_name("R", (other.id for other in machine.runs))
    halves = (
        replace(run, b=middle, length_m=round(at_m, 3)),
        replace(run, id=second, a=middle, length_m=round(run.length_m - at_m, 3), entry=""),
    )
    at = machine.runs.index(run)
    cables = tuple(
        replace(
            cable,
            runs=tuple(
                part
                for old in cable.runs
                for part in ((run_id, second) if old == run_id else (old,))
            ),
        )
        for cable in machine.cables
    )
    runs = (*machine.runs[:at], *halves, *machine.runs[at + 1 :])
    return replace(machine, runs=runs, cables=cables)


def set_allowances(machine: Machine, **values: float) -> Machine:
    """Sets what cables get beside their routes. Raises `Problem`."""
    allowances: Allowances = replace(machine.allowances, **values)
    for name in ("box_loop_m", "loop_m", "end_m"):
        if not 0 <= getattr(allowances, name) <= 20:
            raise Problem("An allowance is 0 to 20 m.", place="Allowances")
    if not 0 <= allowances.slack_ratio <= 1 or not 0 <= allowances.spare_ratio <= 1:
        raise Problem("Slack and spare are 0 to 100 %.", place="Allowances")
    if not 0.001 <= allowances.step_m <= 10:
        raise Problem("Lengths are rounded up to 1 mm at least, 10 m at most.", place="Allowances")
    return replace(machine, allowances=allowances)
