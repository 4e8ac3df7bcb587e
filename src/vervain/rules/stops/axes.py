"""Rules about what an axis does when a stop takes its power."""

from collections.abc import Iterator

from vervain.model.axis import Axis, BallScrew, Screw
from vervain.motion.mechanisms import holding_lead_mm
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about_axis
from vervain.rules.rule import RuleOutput, rule
from vervain.stops.what_goes import stop_table


@rule(
    id="stops.no-brake",
    consequence="Unreliable",
    scope="axis",
    title="An axis falls when its power goes",
    reason="A motor without power holds almost nothing. Belts, racks, joints, ball screws and "
    "steep screws turn back: what hangs on them comes down at every stop, on a hand or into the "
    "work.",
    source="ISO 13850: an emergency stop must make no new hazard. A trapezoidal screw holds while "
    "its lead is below pi x mean diameter x friction / cos 15°, with a mean diameter of the "
    "diameter less half the lead; friction 0.1 and, where no diameter is given, 8 mm (table "
    "stops.toml).",
)
def no_brake(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or not axis.vertical or axis.brake or not axis.drives or _holds(axis):
        return
    # How a motor is geared down within itself is not known: what only stands on a table of servos
    # or closed actuators holds or does not, and their makers say so.
    if all(
        (part := queries.part_of(name)) is not None and part.kind == "stepper motor"
        for name in axis.drives
    ):
        screw = axis.mechanism
        unknown = (
            isinstance(screw, Screw)
            and not isinstance(screw, BallScrew)
            and screw.diameter_mm is None
        )
        why = " Or give the diameter of its screw: a thick one holds." if unknown else ""
        yield RuleOutput(
            f"{axis_id} has no brake: it comes down when the power goes.{why}",
            (about_axis(axis_id),),
        )


def _holds(axis: Axis) -> bool:
    """Whether the mechanism holds without power, or is not known."""
    table, screw = stop_table(), axis.mechanism
    if screw is None:
        return True
    if not isinstance(screw, Screw) or isinstance(screw, BallScrew):
        return False
    diameter_mm = screw.diameter_mm or table["diameter_mm"]
    return screw.lead_mm < holding_lead_mm(screw.lead_mm, diameter_mm, table["friction"])


RULES = (no_brake,)
