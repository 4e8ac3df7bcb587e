"""What a proposal comes to once everything is in it: fuses that carry more than they may are taken
larger, and cables thicker on whose way too much is lost, as far as the terminals at their ends go.
"""

from msgspec.structs import replace

from vervain.electrical.fuse_kinds import behaviour_of, core_for_fuse_a
from vervain.model.elements import Fuse
from vervain.model.machine import PinRef
from vervain.model.part import Part
from vervain.queries.connectivity import is_contact, nets_reached
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import (
    FeedStep,
    NewCable,
    NewDevice,
    carry_out,
    flexing_kind,
)
from vervain.supply.lossy_cables import thickest_mm2, where_much_is_lost
from vervain.supply.results import currents_of
from vervain.supply.sizing import gauge_for_current, ratings_of
from vervain.supply.states import LASTING_STATES
from vervain.supply.stop_contacts import contact_ends

# A thicker cable leaves more to what hangs beside it as well: few rounds are enough.
MOST_ROUNDS = 6
Areas = dict[str, float]


def finish(planner: PlanBuilder) -> None:
    """Takes the fuses and the cables of the plan as large as what is behind them wants, which is
    known only now: loads at the outputs of a board come by its feed.
    """
    ratings = _larger_ratings(planner)
    # What a fuse was put before when it lay already is as thick as that fuse wants.
    put_in = {name: a for step in planner.steps if step.through for name, a in step.ratings}
    if ratings or put_in:
        areas = _cores_behind(planner.queries, put_in | ratings)
        _carry_out_again(planner, [_rated(planner, step, ratings) for step in planner.steps], areas)
    for _ in range(MOST_ROUNDS):
        if not _carry_out_again(planner, planner.steps, _where_much_is_lost(planner)):
            return


def _larger_ratings(planner: PlanBuilder) -> dict[str, float]:
    """The fuses that steps rate and that carry more than they may for long, with the rating, in A,
    that they want; of a fuse that a step adds one that another holder takes, too.
    """
    queries = planner.queries
    found: dict[str, float] = {}
    for device, rating_a in (row for step in planner.steps for row in step.ratings):
        carried_a = max(
            (
                current.current_a for state in LASTING_STATES
                for current in currents_of(queries, device, state) if current.kind == "fuse"
            ),
            default=0.0,
        )  # fmt: skip
        ratio = behaviour_of(queries, device).load_ratio
        ratings = {*ratings_of(queries.part_of(device))}
        ratings |= {r for part in _holders_instead(planner, device) for r in ratings_of(part)}
        wanted = min((r for r in ratings if carried_a <= ratio * r), default=None)
        if carried_a > ratio * rating_a and wanted is not None:
            found[device] = wanted
    return found


def _holders_instead(planner: PlanBuilder, device: str) -> list[Part]:
    """The fuses that may stand where a step adds one: with the same terminals, and that blow alike;
    none for one that was there.
    """
    added = [new for step in planner.steps for new in step.adds if new.designator == device]
    if not added:
        return []
    own = [e for e in added[0].part.inside if isinstance(e, Fuse)]
    known = (part for part in (*planner.machine.parts, *planner.shelf) if part.kind == "fuse")
    return [
        part for part in known
        if [(e.pins, e.kind) for e in part.inside if isinstance(e, Fuse)]
        == [(e.pins, e.kind) for e in own]
    ]  # fmt: skip


def _with_holders(
    planner: PlanBuilder, adds: tuple[NewDevice, ...], ratings: dict[str, float]
) -> tuple[NewDevice, ...]:
    """What a step adds, with fuses that take the ratings which they want now."""

    def taking(added: NewDevice) -> NewDevice:
        rating_a = ratings.get(added.designator)
        if rating_a is None or rating_a in ratings_of(added.part):
            return added
        holders = _holders_instead(planner, added.designator)
        part = next((holder for holder in holders if rating_a in ratings_of(holder)), added.part)
        return replace(added, part=part)

    return tuple(map(taking, adds))


def _rated(planner: PlanBuilder, step: FeedStep, ratings: dict[str, float]) -> FeedStep:
    """A step with other ratings, in its words as well."""
    words = step.words
    for device, rating_a in step.ratings:
        if device in ratings:
            words = words.replace(f"{device}, {rating_a:g} A", f"{device}, {ratings[device]:g} A")
    return replace(
        step, words=words, adds=_with_holders(planner, step.adds, ratings),
        ratings=tuple((name, ratings.get(name, rating_a)) for name, rating_a in step.ratings),
    )  # fmt: skip


def _cores_behind(queries: Queries, ratings: dict[str, float]) -> Areas:
    """The cross-sections, in mm², that larger fuses want of the cables at their ends and behind the
    contacts there.
    """
    found: Areas = {}
    for device, rating_a in ratings.items():
        part = queries.part_of(device)
        fuses = [e for e in (part.inside if part is not None else ()) if isinstance(e, Fuse)]
        ends = [end for fuse in fuses for end in contact_ends(device, fuse)]
        carried_a = core_for_fuse_a(behaviour_of(queries, device), rating_a)
        area = gauge_for_current(carried_a, queries.ambient_c())
        for name in _cables_at(queries, ends) if area is not None else ():
            found[name] = max(found.get(name, 0.0), area or 0.0)
    return found


def _cables_at(queries: Queries, ends: list[PinRef]) -> set[str]:
    """The cables on the copper of some pins, contacts there taken for closed."""
    nets = nets_reached(queries, ends, is_contact)
    steps = (step for net in nets for ref in net for step in queries.steps(ref))
    hookups = (queries.hookup(step.hookup) for step in steps)
    return {h.cable for h in hookups if h is not None and h.cable is not None}


def _where_much_is_lost(planner: PlanBuilder) -> Areas:
    queries = planner.queries
    return where_much_is_lost(queries, lambda name, area: area <= thickest_mm2(queries, name))


def _carry_out_again(planner: PlanBuilder, steps: list[FeedStep], areas: Areas) -> bool:
    """Makes the plan of steps with cables as thick as some areas, by their names; whether any of
    its own cables is thicker.
    """
    own = {cable.id: cable for step in planner.steps for cable in step.cables}
    thicker = {
        name: area for name, area in areas.items()
        if name in own and own[name].part.core_mm2 < area <= thickest_mm2(planner.queries, name)
    }  # fmt: skip
    if not thicker and steps is planner.steps:
        return False
    planner.steps = [_thicker(planner, step, thicker) for step in steps]
    planner.machine = planner.before.machine
    for step in planner.steps:
        planner.machine = carry_out(planner.machine, step)
    planner.queries = Queries(planner.machine)
    return bool(thicker)


def _thicker(planner: PlanBuilder, step: FeedStep, areas: Areas) -> FeedStep:
    """A step with its cables of other cross-sections, by their names."""

    def made(cable: NewCable) -> NewCable:
        area = areas.get(cable.id)
        if area is None:
            return cable
        moves = flexing_kind(planner.cables, len(cable.part.cores), area)
        part = moves if cable.part.flexing and moves else planner.cable_of(cable.part.cores, area)
        return replace(cable, part=part)

    return replace(step, cables=tuple(map(made, step.cables)))
