"""How far each cable is: which steps of its making are done, and which an edit asks for again."""

from typing import Literal

from vervain.harness.build_sheet import build_sheet
from vervain.harness.cable_routes import cable_ports, cable_route
from vervain.harness.labels import hookup_labels
from vervain.harness.lengths import cable_length_m
from vervain.model.machine import MAKING_STEPS, MakingStep
from vervain.model.marks import mark_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

StepState = Literal["", "done", "again", "none"]
# What comes ready-made is neither cut nor crimped here.
OF_READY_MADE: tuple[MakingStep, ...] = ("labelled", "laid", "tested")


@query
def step_mark(queries: Queries, cable_id: str, step: MakingStep) -> str:
    """What a step of a cable rests on, as eight figures of a SHA-256: another length, another mark
    of “cut”. Ticked, it is kept; where it differs later, the step is to be done again. "" for a
    step that the cable has not.
    """
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    hookups = queries.hookups_in(cable_id)
    if cable is None or part is None or not hookups:
        return ""
    if part.ready_made and step not in OF_READY_MADE:
        return ""
    rests_on: object
    if step == "cut":
        rests_on = cable.part, cable_length_m(queries, cable_id)
    elif step == "made":
        sheet = build_sheet(queries, cable_id)
        rests_on = (sheet.rows, sheet.a, sheet.b, sheet.shield, cable.spares) if sheet else None
    elif step == "labelled":
        rests_on = (
            cable_id,
            [entry for hookup in hookups for entry in hookup_labels(queries, hookup.id)],
        )
    elif step == "laid":
        devices = dict.fromkeys(ref.device for ref in cable_ports(queries, cable_id))
        places = [device.place for name in devices if (device := queries.device(name))]
        rests_on = cable_route(queries, cable_id).runs, places
    else:
        rests_on = [(hookup.a, hookup.b, hookup.conductors) for hookup in hookups]
    return mark_of(rests_on)


@query
def step_state(queries: Queries, cable_id: str, step: MakingStep) -> StepState:
    """How a step of a cable stands; "none" where the cable has no such step."""
    cable, mark = queries.cable(cable_id), step_mark(queries, cable_id, step)
    if cable is None or not mark:
        return "none"
    kept = cable.done.get(step)
    if kept is None:
        return ""
    return "done" if kept == mark else "again"


def _ticked(queries: Queries, cable_id: str) -> tuple[int, int]:
    """How many steps of a cable are ticked, of how many; one that joins nothing has none."""
    cable = queries.cable(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if cable is None or part is None or not queries.hookups_in(cable_id):
        return 0, 0
    steps = OF_READY_MADE if part.ready_made else MAKING_STEPS
    return len(cable.done.keys() & set(steps)), len(steps)


@query
def ticked_steps(queries: Queries) -> tuple[int, int]:
    """How many steps of all cables are ticked, of how many; whether an edit asks for one again is
    not looked at.
    """
    counts = [_ticked(queries, cable) for cable in queries.cables()]
    return sum(done for done, _ in counts), sum(of for _, of in counts)


@query
def is_cabled(queries: Queries, device: str) -> bool:
    """Whether every step of every cable at a device is ticked."""
    cables = {hookup.cable for hookup in queries.hookups_of(device) if hookup.cable}
    counts = [_ticked(queries, cable) for cable in cables]
    return bool(counts) and all(done == of for done, of in counts)
