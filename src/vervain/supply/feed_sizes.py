"""Sizes in a proposal: fuses between load and wire, cross-sections for load, fuse and loss."""

from vervain.electrical.copper import RHO_OHM_MM2_M, ampacity_a
from vervain.electrical.fuse_kinds import BEHAVIOURS, fuse_limit_a
from vervain.model.machine import PinRef
from vervain.queries.connectivity import is_contact, nets_reached, steps_from
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between
from vervain.supply.core_limits import core_limit_a
from vervain.supply.feed_inputs import FeedInput
from vervain.supply.feed_sources import FeedSource
from vervain.supply.feed_steps import IN_THE_BOX_M
from vervain.supply.inrush import CURRENT_LIMIT_FACTOR
from vervain.supply.rewiring import THINNEST_MM2
from vervain.supply.sizing import FUSE_LOAD, USUAL_MM2, fuse_ratings

# Of the voltage, what a proposal lets go on each of the two stretches to an input: together less
# than a third of what a supply.drop finding allows.
DROP = 0.008
# A core is chosen for a quarter more than it carries.
RESERVE = 1.25
BLADE = BEHAVIOURS["blade"]


def rating_for(load_a: float) -> float | None:
    """The smallest usual fuse that carries a load for long; None where none is that large."""
    least = load_a / FUSE_LOAD
    return next((float(rating) for rating in fuse_ratings()["blade"] if rating >= least), None)


def fuse_most_a(queries: Queries, item: FeedInput) -> float | None:
    """The largest fuse that the wires behind an input allow; None where there are none yet."""
    nets = nets_reached(queries, [item.plus], is_contact)
    cables = {
        hookup.cable
        for net in nets
        for ref in net
        for step in steps_from(queries, ref)
        if (hookup := queries.hookup(step.hookup)) is not None and hookup.cable is not None
    }
    limits = [limit for cable in cables if (limit := core_limit_a(queries, cable)) is not None]
    return fuse_limit_a(BLADE, min(limits)) if limits else None


def by_fuse(queries: Queries, inputs: list[FeedInput]) -> list[list[FeedInput]]:
    """Inputs in groups that may share a fuse: what has thinner wires behind it than the fuse of the
    others allows gets one of its own.
    """
    most = {item.plus: fuse_most_a(queries, item) for item in inputs}
    shared, apart = list(inputs), []
    while len(shared) > 1:
        rating = rating_for(sum(item.current_a for item in shared)) or float("inf")
        thin = [i for i in shared if (limit := most[i.plus]) is not None and limit < rating]
        if not thin:
            break
        weakest = min(thin, key=lambda item: most[item.plus] or 0.0)
        shared.remove(weakest)
        apart.append([weakest])
    return [shared, *apart]


def area_for(queries: Queries, source: FeedSource, load_a: float, rating: float | None) -> float:
    """The cross-section of a way out in mm2: for its load, for its fuse, and where that is too
    large to blow at what the source gives, or there is none, for all that the source gives.
    """
    gives_a, volts = source.feed.current_a * CURRENT_LIMIT_FACTOR, source.feed.nominal_v
    least = max(THINNEST_MM2, _for_drop(2 * IN_THE_BOX_M, load_a, volts))
    for area in USUAL_MM2:
        carries = ampacity_a(area, queries.ambient_c()) or 0.0
        if area < least or carries < load_a * RESERVE:
            continue
        bears_all = source.is_battery or carries >= source.feed.current_a
        if rating is None:
            if bears_all:
                return area
        elif fuse_limit_a(BLADE, carries) >= rating and (
            bears_all or BLADE.fusing_ratio * rating <= gives_a
        ):
            return area
    return USUAL_MM2[-1]


def area_that_carries(queries: Queries, current_a: float) -> float | None:
    """The thinnest usual core that carries a current; None where none does."""
    ambient = queries.ambient_c()
    return next((a for a in USUAL_MM2 if (ampacity_a(a, ambient) or 0.0) >= current_a), None)


def area_for_way(queries: Queries, start: PinRef, item: FeedInput, volts: float) -> float:
    """The cross-section in mm2 at which little enough is lost on the way to an input."""
    route = route_between(queries, start.device, item.plus.device)
    length_m = route.length_m if route is not None and route.runs else IN_THE_BOX_M
    wanted = _for_drop(length_m, item.current_a, volts)
    return next((area for area in USUAL_MM2 if area >= wanted), USUAL_MM2[-1])


def _for_drop(length_m: float, current_a: float, volts: float) -> float:
    """R = 2 rho l / A, there and back."""
    return 2 * RHO_OHM_MM2_M * length_m * current_a / (DROP * volts)
