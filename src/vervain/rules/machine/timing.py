"""Rules about when signals come: direction and enable before a step, edges of both."""

from collections.abc import Iterator

from vervain.leads.direction import step_ports_of
from vervain.model.axis import Axis
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part
from vervain.motion.figures import count_figures, counting_port
from vervain.queries.connectivity import drivers_of, paths_from
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_axis
from vervain.rules.fixes import SetSetting
from vervain.rules.rule import RuleOutput, rule

MICRO = 1e6
# What must stand how long: the field of controller and driver, and its words.
LEADS = (
    ("direction_setup_s", "direction before a step"),
    ("direction_hold_s", "direction after a step"),
    ("enable_delay_s", "enable before the first step"),
)


def _pairs(queries: Queries, axis: Axis) -> Iterator[tuple[str, Part, str, str, Part]]:
    """The driver of each motor of an axis, and the controller port that steps it."""
    for motor in axis.drives:
        for driver in drivers_of(queries, motor):
            part = queries.part_of(driver)
            for device, port in step_ports_of(queries, motor):
                host = queries.part_of(device)
                if part is not None and host is not None:
                    yield driver, part, device, port, host


@rule(
    id="machine.direction-time",
    consequence="Unreliable",
    scope="axis",
    title="Direction or enable comes too shortly before a step",
    reason="A driver that has not yet taken the new direction makes the step the old way: the axis "
    "shifts by one step at each reversal. One that is not yet enabled loses it.",
    source="The driver's own set-up, hold and enable times against the controller's.",
)
def direction_time(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    for driver, part, device, port, host in _pairs(queries, axis) if axis else ():
        for field, words in LEADS:
            needs = getattr(part.driver, field, None)
            gives = getattr(host.controller, field, None)
            if needs is None or gives is None or gives >= needs:
                continue
            yield RuleOutput(
                f"{device} gives {words} {gives * MICRO:g} µs; {driver} needs {needs * MICRO:g}.",
                (about_axis(axis_id), about(driver), about(PortRef(device=device, port=port))),
                at=(about(driver),),
                detail=field,
                value=round(gives * MICRO, 3),
                limit=needs * MICRO,
                unit="µs",
                over=False,
            )


@rule(
    id="machine.step-edge",
    consequence="Unreliable",
    scope="axis",
    title="The controller changes direction at the driver's step edge",
    reason="Where the pulse ends with the edge that the driver counts, direction changes right at "
    "it: one step is made the wrong way at each reversal, and the axis creeps.",
    source="The driver's own edge against the level at which the controller's pulse rests.",
)
def step_edge(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    for driver, part, device, port, _ in _pairs(queries, axis) if axis else ():
        rests = queries.setting(device, "step_idle", port)
        if part.driver is None or rests is None:
            continue
        wanted = "low" if part.driver.step_edge == "rising" else "high"
        if rests == wanted:
            continue
        remedy = SetSetting(device=device, key=f"step_idle/{port}", value=wanted)
        yield RuleOutput(
            f"{driver} steps at the {part.driver.step_edge} edge; {device} {port} rests {rests}.",
            (about_axis(axis_id), about(driver), about(PortRef(device=device, port=port))),
            at=(about(driver),),
            fixes=(Fix(words=f"let {port} rest {wanted}", remedy=remedy),),
        )


@rule(
    id="machine.edge-spacing",
    consequence="Unreliable",
    scope="axis",
    title="An encoder's edges come closer than its input can tell apart",
    reason="The edges of both channels are a quarter of a line apart, less what the encoder is off "
    "its 90°. Below the input's least spacing two edges fall together and the count is off.",
    source="Edge spacing = (1 - tolerance / 90°) / (4 f), f the frequency of one channel.",
)
def edge_spacing(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis, counts = queries.axis(axis_id), count_figures(queries, axis_id)
    if axis is None or counts is None or not counts.channel_hz or counts.counted_by is None:
        return
    part, port = queries.part_of(counts.encoder), queries.port(counts.counted_by)
    least_s = port.counter.edge_min_s if port and port.counter else None
    if part is None or part.encoder is None or least_s is None:
        return
    spacing_s = (1 - part.encoder.phase_tolerance_deg / 90) / (4 * counts.channel_hz)
    if spacing_s < least_s:
        yield RuleOutput(
            f"At top speed the edges of {counts.encoder} come {spacing_s * MICRO:.3g} µs apart.",
            (about_axis(axis_id), about(counts.encoder), about(counts.counted_by)),
            value=round(spacing_s * MICRO, 3),
            limit=least_s * MICRO,
            unit="µs",
            over=False,
        )


@rule(
    id="machine.index-unread",
    consequence="Unreliable",
    scope="axis",
    title="An axis homes to an index that nothing reads",
    reason="Without a home switch the once-a-turn index is the only fixed point. Left open, or on "
    "an encoder that has none, the axis starts from wherever it stands.",
    source="The encoder's own channels and its conductors.",
)
def index_unread(queries: Queries, axis_id: str) -> Iterator[RuleOutput]:
    axis = queries.axis(axis_id)
    if axis is None or axis.feedback is None or axis.home is not None or axis.homing == "off":
        return
    if axis.endless and axis.homing != "on":
        return
    part, counted = queries.part_of(axis.feedback), counting_port(queries, axis.feedback)
    if part is None or counted is None:
        return
    index = [
        PinRef(device=axis.feedback, port=port.id, pin=pin.id)
        for port in part.ports
        for pin in port.pins
        if pin.function == "encoder Z"
    ]
    read = [ref for ref in index if any(way.lands for way in paths_from(queries, ref))]
    if not read:
        why = "has no index" if not index else "has its index open"
        yield RuleOutput(
            f"{axis_id} homes to the index of {axis.feedback}, which {why}.",
            (about_axis(axis_id), about(axis.feedback)),
        )


RULES = (direction_time, step_edge, edge_spacing, index_unread)
