"""What is set for an axis: steps, speed, homing, ends, and motors that follow another."""

from collections.abc import Iterator

from msgspec.structs import replace

from vervain.leads.direction import step_ports_of
from vervain.model.axis import Axis
from vervain.motion.figures import step_figures
from vervain.motion.words import length_words, speed_words
from vervain.queries.connectivity import drivers_of
from vervain.queries.machine_queries import Queries
from vervain.stops.contacts import input_of
from vervain.tables.setting_row import SettingRow

# The options of a port that gives steps, each with how its value is said.
STEP_WORDS = {"direction": "", "enable": "enable at ", "step_idle": "STP rests "}


def axis_rows(queries: Queries, axis_id: str) -> Iterator[SettingRow]:
    """Steps per unit, speed, homing, ends, and motors that follow another."""
    axis = queries.axis(axis_id)
    figures = next(
        (
            f
            for motor in (axis.drives if axis else ())
            if (f := step_figures(queries, axis_id, motor))
        ),
        None,
    )
    if axis is None or figures is None or figures.controller is None:
        return

    def row(what: str, value: str, because: str) -> SettingRow:
        return SettingRow(
            group="Axes", where=axis_id, what=what, value=value, because=because,
            device=figures.controller or "",
        )  # fmt: skip

    if figures.steps_per_unit is not None and figures.turn is not None:
        unit = "degree" if axis.motion == "rotary" else "mm"
        turn = length_words(figures.turn, axis.unit)
        yield row(
            f"Steps a {unit}",
            f"{figures.steps_per_unit:.6g}",
            f"{figures.full_steps} steps × {figures.microsteps} a turn of {turn}",
        )
    if axis.speed_max is not None:
        rpm = f"motor at {figures.motor_rpm:.4g} rpm" if figures.motor_rpm is not None else ""
        yield row("Top speed", speed_words(axis), rpm)
    yield from (row(*cells) for cells in _homing(queries, axis))
    for what, value, because, device, port in _step_ports(queries, axis):
        yield replace(row(what, value, because), device=device, port=port)
    for follower in axis.drives[1:]:
        first = axis.drives[0]
        shared = set(drivers_of(queries, first)) & set(drivers_of(queries, follower))
        if shared:
            yield row(f"{follower} follows {first}", "nothing", f"both on {min(shared)}")
            continue
        jumper = _slaved_by(queries, follower)
        if jumper:
            yield row(f"{follower} follows {first}", "by jumper", jumper)
            continue
        faces = {"each other": "they look at each other", "same way": "they look the same way"}
        why = faces.get(axis.faces, "two motors pull one axis; try their ways")
        yield row(f"{follower} follows {first}", "same steps", why)


def _slaved_by(queries: Queries, motor: str) -> str:
    """The jumper that lets a motor's slot repeat another one, in words."""
    for device, port_id in step_ports_of(queries, motor):
        part = queries.part_of(device)
        port = part.port(port_id) if part else None
        for item in port.reserved if port else ():
            if item.twin_of and queries.setting(device, item.option) == item.value:
                return f"{item.option} of {device} at {item.value}"
    return ""


def _step_ports(queries: Queries, axis: Axis) -> list[tuple[str, str, str, str, str]]:
    """What each controller port that steps the axis is set to, and which port it is."""
    found: list[tuple[str, str, str, str, str]] = []
    stepped: dict[tuple[str, str], list[str]] = {}
    for motor in axis.drives:
        for ref in step_ports_of(queries, motor):
            stepped.setdefault(ref, []).append(motor)
    for (device, port), motors in stepped.items():
        part = queries.part_of(device)
        told = [
            f"{STEP_WORDS[option.id]}{queries.setting(device, option.id, port)}"
            for option in (part.options if part else ())
            if option.id in STEP_WORDS and port in option.ports
        ]
        if told:
            found.append((f"{port} gives", ", ".join(told), " and ".join(motors), device, port))
    return found


def _homing(queries: Queries, axis: Axis) -> list[tuple[str, str, str]]:
    """Whether and how an axis homes, and whether its ends are guarded."""
    found = []
    if axis.homing == "off":
        found.append(("Homing", "off", "set so by hand"))
    elif axis.home is None:
        index = f"index of {axis.feedback}" if axis.feedback else "no home switch"
        found.append(("Homing", "off" if axis.feedback is None else "to the index", index))
    else:
        at = length_words(axis.home_at or 0.0, axis.unit)
        target = input_of(queries, axis.home)
        port = f", {target.port}" if target else ""
        found.append(("Homing", f"on, home is at {at}", f"{axis.home}{port}"))
    ends = [
        f"{word} {name}"
        for word, name in (("min", axis.min_limit), ("max", axis.max_limit))
        if name is not None
    ]
    if not axis.endless:
        found.append(("Limits", ", ".join(ends) or "off", "" if ends else "no limit switch"))
    return found
