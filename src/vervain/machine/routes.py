"""Routes: how a lead gets from one place of the machine to another, along its runs."""

from vervain.machine.look import Look, query
from vervain.machine.record import Record


class Route(Record, frozen=True, kw_only=True):
    """The runs from place to place in order, their length together, and whether one moves."""

    runs: tuple[str, ...] = ()
    length_m: float = 0.0
    moving: bool = False


@query
def route_between(look: Look, first: str, second: str) -> Route | None:
    """The shortest way between the places of two devices; None where a place is not given, or no
    run leads there. Ties go to the run that is named first.
    """
    starts, goal = _place(look, first), _place(look, second)
    if starts is None or goal is None:
        return None
    best = {starts: Route()}
    waiting = [starts]
    while waiting:
        waiting.sort(key=lambda place: best[place].length_m)
        here = waiting.pop(0)
        if here == goal:
            break
        for run in look.runs():
            if here not in (run.a, run.b):
                continue
            there = run.b if run.a == here else run.a
            so_far = best[here]
            route = Route(
                runs=(*so_far.runs, run.id),
                length_m=so_far.length_m + run.length_m,
                moving=so_far.moving or run.moving,
            )
            if there not in best or route.length_m < best[there].length_m:
                best[there] = route
                waiting.append(there)
    return best.get(goal)


def _place(look: Look, device: str) -> str | None:
    found = look.device(device)
    return found.place if found else None
