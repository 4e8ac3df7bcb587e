"""The one walk: everything that can be reached, nearest first. Who walks says what is passed."""

from collections import deque
from collections.abc import Callable, Hashable, Iterable, Mapping
from typing import TypeVar

Node = TypeVar("Node", bound=Hashable)


def reached(
    starts: Iterable[Node], neighbours: Callable[[Node], Iterable[Node]]
) -> dict[Node, Node | None]:
    """Everything that is reached from some nodes, themselves first, then the nearest; with the node
    that each was come to from, None for a start. `neighbours` gives what one node leads to, and is
    asked once for each.
    """
    came_from: dict[Node, Node | None] = dict.fromkeys(starts)
    waiting = deque(came_from)
    while waiting:
        here = waiting.popleft()
        for there in neighbours(here):
            if there not in came_from:
                came_from[there] = here
                waiting.append(there)
    return came_from


def reached_under(
    starts: Mapping[Node, int], neighbours: Callable[[Node], Iterable[tuple[Node, int]]]
) -> dict[Node, int]:
    """Under which of many conditions each node is reached, one bit a condition. `starts` says under
    which one begins where; `neighbours` gives what a node leads to, and under which conditions.
    """
    found = dict(starts)
    # First come, first served, each once: more of a node is known when its turn comes.
    waiting, is_waiting = deque(found), set(found)
    while waiting:
        here = waiting.popleft()
        is_waiting.discard(here)
        bits = found[here]
        for there, passing in neighbours(here):
            known = found.get(there, 0)
            new = bits & passing & ~known
            if new:
                found[there] = known | new
                if there not in is_waiting:
                    is_waiting.add(there)
                    waiting.append(there)
    return found


def path_to(goal: Node, came_from: dict[Node, Node | None]) -> list[Node]:
    """The nodes from a start to one that was reached, both included; none where it was not."""
    if goal not in came_from:
        return []
    path: list[Node] = [goal]
    while (before := came_from[path[-1]]) is not None:
        path.append(before)
    return path[::-1]
