"""Rules about the axes and what fills their roles."""

from collections.abc import Iterator

from vervain.checks.finding import Fix, about_axis
from vervain.checks.remedies import PutPart
from vervain.checks.rule import Said, rule
from vervain.machine.axis import Extruder, Role, Wheel
from vervain.machine.axis_edits import accepts
from vervain.machine.look import Look


@rule(
    id="machine.no-motor",
    stage="Machine",
    consequence="Won't run",
    scope="axis",
    title="An axis has no motor",
    reason="Nothing moves it.",
    source="The machine's own list of axes.",
)
def no_motor(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is not None and not axis.drives:
        yield Said(f"{axis_id} has no motor.", (about_axis(axis_id),))


@rule(
    id="machine.axis-limit",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="An axis has no limit at one end",
    reason="Before homing the controller does not know where the axis is; at an end without a "
    "limit it can be driven into the frame: the belt jumps or the clamp lets go.",
    source="IEC 60204-1 9.4.3: travel limits where overtravel can do harm.",
)
def axis_limit(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is None or axis.endless or not axis.drives:
        return
    roles: tuple[tuple[str, Role, str | None], ...] = (
        ("min", "min_limit", axis.min_limit),
        ("max", "max_limit", axis.max_limit),
    )
    for end, role, device in roles:
        if device is None:
            yield Said(
                f"{axis_id} has no limit at its {end} end.",
                (about_axis(axis_id),),
                detail=end,
                fixes=_another_limit(look, axis_id, role),
            )


def _another_limit(look: Look, axis_id: str, role: Role) -> tuple[Fix, ...]:
    """A limit like the one at the other end, or like one of another axis."""
    for name in (axis_id, *look.axes()):
        axis = look.axis(name)
        for other in (axis.max_limit, axis.min_limit) if axis else ():
            part = look.part_of(other) if other else None
            if part is not None and accepts(part, role):
                words = f"put a {part.title.lower()} there, like {other}"
                return (Fix(words=words, remedy=PutPart(axis=axis_id, role=role, part=part.id)),)
    return ()


@rule(
    id="machine.no-home",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="An axis has no home",
    reason="Without a home switch or an encoder index the axis starts from wherever it stands.",
    source="The machine's own list of axes.",
)
def no_home(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is None or (axis.endless and isinstance(axis.mechanism, Wheel | Extruder)):
        return
    if axis.drives and axis.home is None and axis.feedback is None:
        yield Said(f"{axis_id} has no home.", (about_axis(axis_id),))


RULES = (no_motor, axis_limit, no_home)
