"""The fuses of the mains in a proposal: what they are rated, and which cores they protect."""

from vervain.electrical.fuse_kinds import behaviour_of, core_for_fuse_a
from vervain.model.elements import Fuse
from vervain.queries.connectivity import drivers_of
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_building import PlanBuilder
from vervain.supply.feed_steps import FeedStep
from vervain.supply.feed_ways import fuses_for_mains
from vervain.supply.mains_load import mains_current_a, mains_through_a
from vervain.supply.sizing import gauge_for_current, ratings_of

# By practice for what a machine's supplies take, behind a fuse of 10 or 16 A.
MAINS_MM2 = 1.5


def rate_mains_fuses(planner: PlanBuilder) -> None:
    """Gives the fuses in the mains the rating that what hangs on them wants, where nobody has set
    it; says where none is that large.
    """
    queries = planner.queries
    for device in queries.devices():
        part, found = queries.part_of(device), queries.device(device)
        fuses = [e for e in (part.inside if part is not None else ()) if isinstance(e, Fuse)]
        current_a = sum(mains_through_a(queries, device, fuse) for fuse in fuses[:1])
        rating = queries.setting(device, "rating_a")
        wanted_a = current_a / behaviour_of(queries, device).load_ratio
        if not isinstance(rating, int | float) or wanted_a <= rating:
            continue
        suited = next((r for r in ratings_of(part) if r >= wanted_a), None)
        is_set = found is not None and "rating_a" in found.settings
        if suited is None:
            planner.decisions.append(
                f"{current_a:.3g} A come through {device}, which takes no fuse for that."
            )
        elif not is_set:
            planner.add(
                FeedStep(
                    words=f"{device} with a fuse of {suited:g} A",
                    reason=f"{current_a:.3g} A come through it for long.",
                    ratings=((device, suited),),
                )
            )


def area_for_mains_fuse(queries: Queries) -> float | None:
    """The thinnest gauge that the fuse of the mains protects, by what everything takes; None where
    there is no such fuse, or no gauge is thick enough.
    """
    fuse = next(iter(fuses_for_mains(queries)), None)
    if fuse is None:
        return None
    behaviour = behaviour_of(queries, fuse)
    wanted_a = all_taken_a(queries)
    ratings = [r for r in ratings_of(queries.part_of(fuse)) if r >= wanted_a / behaviour.load_ratio]
    is_set = queries.setting(fuse, "rating_a")
    least_a = is_set if isinstance(is_set, int | float) else 0.0
    rating_a = max(least_a, min(ratings, default=wanted_a))
    return gauge_for_current(core_for_fuse_a(behaviour, rating_a), queries.ambient_c())


def all_taken_a(queries: Queries) -> float:
    """What everything takes from the mains for long, in A; what a drive turns, by the drive."""
    takers = (name for name in queries.devices() if not drivers_of(queries, name))
    return sum(mains_current_a(queries, name) for name in takers)


def area_of_mains(queries: Queries) -> float:
    """The cross-section of the cores that mains goes on in, in mm²."""
    return max(MAINS_MM2, area_for_mains_fuse(queries) or MAINS_MM2)
