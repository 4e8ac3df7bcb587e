"""Rules about the axes and what fills their roles."""

from collections.abc import Iterator

from vervain.edits.axis_edits import accepts
from vervain.leads.direction import rotates_positive, step_ports_of
from vervain.model.axis import ROLE_WORDS, Axis, Extruder, Role, Wheel
from vervain.ports.belonging import names_in
from vervain.queries.machine_queries import Queries
from vervain.rules.axis_fixes import PutInRole, PutPart, SetHoming
from vervain.rules.finding import Fix, about, about_axis
from vervain.rules.fixes import SetSetting
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.contacts import input_of
from vervain.text.words import within_a_sentence

MOST_OFFERED = 3


def is_begun(queries: Queries, axis: Axis) -> bool:
    """Whether anything of an axis is joined; until then what it lacks is only not done yet."""
    return any(queries.hookups_of(name) for name in axis.members)


@rule(
    id="machine.no-motor",
    consequence="Won't run",
    scope="axis",
    title="An axis has no motor",
    reason="Nothing moves it.",
    source="The machine's own list of axes.",
)
def no_motor(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is not None and not axis.drives:
        yield RuleOutput(
            f"{axis_id} has no motor.",
            (about_axis(axis_id),),
            unfinished=not is_begun(queries, axis),
        )


@rule(
    id="machine.axis-limit",
    consequence="Unreliable",
    scope="axis",
    title="An axis has no limit at one end",
    reason="Before homing the controller does not know where the axis is; at an end without a "
    "limit it can be driven into the frame: the belt jumps or the clamp lets go.",
    source="IEC 60204-1 9.4.3: travel limits where overtravel can do harm.",
)
def axis_limit(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or axis.endless or not axis.drives:
        return
    roles: tuple[tuple[str, Role, str | None], ...] = (
        ("min", "min_limit", axis.min_limit),
        ("max", "max_limit", axis.max_limit),
    )
    for end, role, device in roles:
        if device is None:
            yield RuleOutput(
                f"{axis_id} has no limit at its {end} end.",
                (about_axis(axis_id),),
                detail=end,
                fixes=(
                    *_without_a_role(queries, axis_id, role),
                    *_another_limit(queries, axis_id, role),
                ),
                unfinished=not is_begun(queries, axis),
            )


def _without_a_role(queries: Queries, axis_id: str, role: Role) -> tuple[Fix, ...]:
    """What is there and in no role takes it: first what is called after the axis, or sits at a
    port that is; else what is called after nothing, but as it came from the shelf.
    """
    found: list[tuple[bool, str]] = []
    for name in queries.devices():
        device, part = queries.device(name), queries.part_of(name)
        if device is None or part is None or not accepts(part, role):
            continue
        if queries.axis_of(name) is None:
            pin = input_of(queries, name)
            words = names_in(f"{device.name} {pin.port if pin is not None else ''}")
            if axis_id in words or device.name == part.title:
                found.append((axis_id not in words, name))
    return tuple(
        Fix(
            words=f"let {name} be the {ROLE_WORDS[role]} of {axis_id}",
            remedy=PutInRole(axis=axis_id, role=role, device=name),
        )
        for _, name in sorted(found)[:MOST_OFFERED]
    )


def _another_limit(queries: Queries, axis_id: str, role: Role) -> tuple[Fix, ...]:
    """A limit like the one at the other end, or like one of another axis."""
    for name in (axis_id, *queries.axes()):
        axis = queries.axis(name)
        for other in (axis.max_limit, axis.min_limit) if axis else ():
            part = queries.part_of(other) if other else None
            if part is not None and accepts(part, role):
                words = f"put a {within_a_sentence(part.title)} there, like {other}"
                return (Fix(words=words, remedy=PutPart(axis=axis_id, role=role, part=part.id)),)
    return ()


@rule(
    id="machine.no-home",
    consequence="Unreliable",
    scope="axis",
    title="An axis has no home",
    reason="Without a home switch or an encoder index the axis starts from wherever it stands.",
    source="The machine's own list of axes.",
)
def no_home(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or (axis.endless and isinstance(axis.mechanism, Wheel | Extruder)):
        return
    if axis.endless and axis.homing == "off":
        # A spool or a table that turns from wherever it stands.
        return
    parts = [queries.part_of(name) for name in axis.drives]
    if axis.endless and all(part is not None and part.kind == "brushed motor" for part in parts):
        # What only runs or stands has no place to find.
        return
    if axis.drives and axis.home is None and axis.feedback is None:
        yield RuleOutput(
            f"{axis_id} has no home.",
            (about_axis(axis_id),),
            fixes=(
                *_without_a_role(queries, axis_id, "home"),
                *_home_at_limit(axis),
                *_never_homed(axis),
            ),
            unfinished=not is_begun(queries, axis),
        )


def _home_at_limit(axis: Axis) -> tuple[Fix, ...]:
    """A limit switch may be the home as well."""
    ends: tuple[tuple[str, str | None], ...] = (("min", axis.min_limit), ("max", axis.max_limit))
    return tuple(
        Fix(
            words=f"home at its {end} limit, {device}",
            remedy=PutInRole(axis=axis.id, role="home", device=device),
        )
        for end, device in ends
        if device is not None
    )


def _never_homed(axis: Axis) -> tuple[Fix, ...]:
    """An axis without an end may do without a home, where its builder says so."""
    if not axis.endless:
        return ()
    remedy = SetHoming(axis=axis.id, homing="off")
    return (Fix(words="say that it is never homed", remedy=remedy),)


@rule(
    id="machine.homing-on",
    consequence="Unreliable",
    scope="axis",
    title="An axis is set to home, and has nothing to home to",
    reason="The controller drives the axis towards a switch that never comes, into its end.",
    source="The axis's own setting against its home switch and encoder.",
)
def homing_on(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or axis.homing != "on" or axis.feedback is not None:
        return
    if axis.home is not None and input_of(queries, axis.home) is not None:
        return
    why = f"{axis.home} is in no input" if axis.home else "it has no home switch"
    yield RuleOutput(
        f"Homing of {axis_id} is on, but {why}.",
        (about_axis(axis_id), *((about(axis.home),) if axis.home else ())),
        fixes=(Fix(words="switch homing off", remedy=SetHoming(axis=axis_id, homing="off")),),
    )


@rule(
    id="machine.twins-direction",
    consequence="Damage",
    scope="axis",
    title="Two motors of one axis pull against each other",
    reason="Motors that look at each other must turn opposite ways to move one axis; motors that "
    "look the same way must turn alike. Otherwise they rack the axis until something gives.",
    source="Derivation: signs of the winding currents, and how the motors stand.",
)
def twins_direction(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or not axis.faces or len(axis.drives) != 2:
        return
    ways = [rotates_positive(queries, motor) for motor in axis.drives]
    if None in ways or (ways[0] == ways[1]) == (axis.faces == "same way"):
        return
    first, second = axis.drives
    fixes: tuple[Fix, ...] = ()
    ports = step_ports_of(queries, second)
    if len(ports) == 1 and set(ports) != set(step_ports_of(queries, first)):
        device, port = ports[0]
        part = queries.part_of(device)
        option = part.option("direction") if part else None
        if option is not None and port in option.ports:
            now = queries.setting(device, "direction", port)
            other = "forward" if now == "reversed" else "reversed"
            remedy = SetSetting(device=device, key=f"direction/{port}", value=other)
            fixes = (Fix(words=f"set {port} to {other}", remedy=remedy),)
    looks = "look at each other" if axis.faces == "each other" else "look the same way"
    turn = "the same way" if ways[0] == ways[1] else "opposite ways"
    yield RuleOutput(
        f"{first} and {second} {looks} and turn {turn}.",
        (about_axis(axis_id), about(first), about(second)),
        fixes=fixes,
    )


RULES = (
    no_motor,
    axis_limit,
    no_home,
    homing_on,
    twins_direction,
)
