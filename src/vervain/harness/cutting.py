"""Cutting: pieces of cable from reels that are there and lengths that are sold, with least bought.

Lengths are whole millimetres inside. Where the plan buys as little as any plan could, it is exact;
else a mixed-integer model is solved (SciPy, HiGHS), and where that does not finish in time the
lower bound that it reached is told.
"""

from collections.abc import Sequence
from typing import NamedTuple

from vervain.model.base import Record

TIME_LIMIT_S = 4.0
# What using up a millimetre of an own reel costs, against buying one.
REEL_WEIGHT = 0.001
MOST_VARIABLES = 6000


class Piece(NamedTuple):
    """A piece to cut: whose it is, and how long in m."""

    name: str
    length_m: float


class Stock(NamedTuple):
    """A length to cut from; `reel` names one that is there already, "" for a length to buy."""

    length_m: float
    reel: str = ""


class Cut(Record, frozen=True, kw_only=True):
    """One length and the pieces that come out of it, the longest first; what is left in m."""

    length_m: float
    reel: str
    pieces: tuple[tuple[str, float], ...]
    left_m: float


class Cutting(Record, frozen=True, kw_only=True):
    """A plan: what is bought in all, the least that any plan must buy, and whether these are equal;
    pieces longer than anything there is to cut from are not in it.
    """

    cuts: tuple[Cut, ...]
    bought_m: float
    bound_m: float
    exact: bool
    too_long: tuple[str, ...] = ()

    @property
    def left_m(self) -> float:
        """What is left of everything that is bought."""
        return sum(cut.left_m for cut in self.cuts if not cut.reel)


class _Bin(NamedTuple):
    size: int
    reel: str


def _mm(length_m: float) -> int:
    return round(length_m * 1000)


def cutting_plan(pieces: Sequence[Piece], stock: Sequence[Stock]) -> Cutting:
    """The plan that buys least. Without a length to buy, each piece too many is bought as it is."""
    reels = [_Bin(_mm(item.length_m), item.reel) for item in stock if item.reel]
    sizes = sorted({_mm(item.length_m) for item in stock if not item.reel})
    longest = max([size for size, _ in reels] + sizes, default=0)
    order = sorted(pieces, key=lambda piece: (-_mm(piece.length_m), piece.name))
    if not sizes:
        return _as_cut(order, reels)
    too_long = tuple(piece.name for piece in order if _mm(piece.length_m) > longest)
    fitting = [piece for piece in order if _mm(piece.length_m) <= longest]
    lengths = [_mm(piece.length_m) for piece in fitting]
    plan = _first_fit(lengths, reels, sizes)
    bought = _bought(plan)
    bound = least_cover_mm(max(0, sum(lengths) - sum(size for size, _ in reels)), sizes)
    if bought > bound and len(lengths) * len(plan) <= MOST_VARIABLES:
        better, reached = _solved(lengths, reels, sizes, plan)
        bound = min(bought, max(bound, reached))
        if better is not None and _bought(better) < bought:
            plan, bought = better, _bought(better)
    cuts = tuple(_cut(item, numbers, fitting) for item, numbers in plan if numbers)
    return Cutting(
        cuts=cuts, bought_m=bought / 1000, bound_m=bound / 1000, exact=bought <= bound,
        too_long=too_long,
    )  # fmt: skip


_Plan = list[tuple[_Bin, list[int]]]


def _bought(plan: _Plan) -> int:
    return sum(item.size for item, numbers in plan if numbers and not item.reel)


def _cut(item: _Bin, numbers: list[int], pieces: list[Piece]) -> Cut:
    taken = tuple((pieces[number].name, pieces[number].length_m) for number in sorted(numbers))
    left = item.size - sum(_mm(length_m) for _, length_m in taken)
    return Cut(length_m=item.size / 1000, reel=item.reel, pieces=taken, left_m=left / 1000)


def _as_cut(pieces: list[Piece], reels: list[_Bin]) -> Cutting:
    """Without lengths to buy: what the reels give, and the rest bought by the metre."""
    lengths = [_mm(piece.length_m) for piece in pieces]
    plan, left_over = _fill([(reel, []) for reel in reels], lengths)
    metres = [(_Bin(lengths[number], ""), [number]) for number in left_over]
    cuts = tuple(_cut(item, numbers, pieces) for item, numbers in plan + metres if numbers)
    bought = sum(lengths[number] for number in left_over) / 1000
    bound = max(0, sum(lengths) - sum(reel.size for reel in reels)) / 1000
    return Cutting(cuts=cuts, bought_m=bought, bound_m=bound, exact=bought <= bound)


def _fill(bins: _Plan, lengths: list[int]) -> tuple[_Plan, list[int]]:
    """Puts each piece, the longest first, where least is left; numbers of those without room."""
    left_over = []
    room = [item.size - sum(lengths[n] for n in numbers) for item, numbers in bins]
    for number, length in enumerate(lengths):
        spots = [spot for spot in range(len(bins)) if room[spot] >= length]
        if not spots:
            left_over.append(number)
            continue
        best = min(spots, key=lambda spot: (room[spot] - length, spot))
        bins[best][1].append(number)
        room[best] -= length
    return bins, left_over


def _first_fit(lengths: list[int], reels: list[_Bin], sizes: list[int]) -> _Plan:
    """A good plan: the best of filling lengths of one size, each then changed for the shortest
    that still holds its pieces.
    """
    plans = []
    for size in sizes:
        plan: _Plan = [(reel, []) for reel in reels]
        plan, waiting = _fill(plan, lengths)
        while waiting:
            wanted = size if lengths[waiting[0]] <= size else sizes[-1]
            plan.append((_Bin(wanted, ""), []))
            spot, used = plan[-1], 0
            still = []
            for number in waiting:
                if used + lengths[number] <= wanted:
                    spot[1].append(number)
                    used += lengths[number]
                else:
                    still.append(number)
            waiting = still
        plans.append([_shortest(item, numbers, lengths, sizes) for item, numbers in plan])
    return min(plans, key=_bought)


def _shortest(
    item: _Bin, numbers: list[int], lengths: list[int], sizes: list[int]
) -> tuple[_Bin, list[int]]:
    used = sum(lengths[number] for number in numbers)
    if item.reel or not numbers:
        return item, numbers
    return _Bin(next(size for size in sizes if size >= used), ""), numbers


def least_cover_mm(total: int, sizes: list[int]) -> int:
    """The least length that any number of stock lengths adds up to and that is at least `total`: no
    plan can buy less.
    """
    if total <= 0:
        return 0
    largest = sizes[-1]
    reached = {0}
    best = -(-total // largest) * largest
    waiting = [0]
    while waiting:
        here = waiting.pop()
        for size in sizes:
            there = here + size
            if there >= total:
                best = min(best, there)
            elif there not in reached and len(reached) < 200_000:
                reached.add(there)
                waiting.append(there)
    return best if len(reached) < 200_000 else total


def _solved(
    lengths: list[int], reels: list[_Bin], sizes: list[int], plan: _Plan
) -> tuple[_Plan | None, int]:
    """The model: pieces of equal length counted by bin; and the lower bound that was reached."""
    import numpy as np
    from scipy.optimize import Bounds, LinearConstraint, milp
    from scipy.sparse import lil_array

    kinds = sorted(set(lengths), reverse=True)
    wanted = [lengths.count(kind) for kind in kinds]
    bought = sum(not item.reel for item, numbers in plan if numbers)
    most = bought * max(1, sizes[-1] // sizes[0])
    bins = [*reels, *(_Bin(size, "") for size in sizes for _ in range(min(most, len(lengths))))]
    width = len(bins) * (len(kinds) + 1)
    if width > MOST_VARIABLES:
        return None, 0
    first = len(bins)
    cost = np.zeros(width)
    for number, item in enumerate(bins):
        cost[number] = item.size * (REEL_WEIGHT if item.reel else 1.0)
    rows = lil_array((len(bins) * 2 + len(kinds), width))
    low = np.full(rows.shape[0], -np.inf)
    high = np.zeros(rows.shape[0])
    for number, item in enumerate(bins):
        rows[number, number] = -item.size
        for kind, length in enumerate(kinds):
            rows[number, first + number * len(kinds) + kind] = length
    for kind, count in enumerate(wanted):
        row = len(bins) + kind
        low[row] = high[row] = count
        for number in range(len(bins)):
            rows[row, first + number * len(kinds) + kind] = 1
    for number in range(1, len(bins)):
        # Of equal lengths the first are used first: the same plan in another order is no other.
        if bins[number] == bins[number - 1]:
            row = len(bins) + len(kinds) + number
            rows[row, number], rows[row, number - 1] = 1, -1
    upper = np.concatenate([np.ones(first), np.tile(np.array(wanted, dtype=float), len(bins))])
    answer = milp(
        cost,
        constraints=LinearConstraint(rows.tocsr(), low, high),
        integrality=np.ones(width),
        bounds=Bounds(0, upper),
        options={"time_limit": TIME_LIMIT_S, "mip_rel_gap": 0.0},
    )
    dual = getattr(answer, "mip_dual_bound", None)
    weight = sum(reel.size for reel in reels) * REEL_WEIGHT
    reached = max(0, int(np.ceil(float(dual) - weight - 1e-6))) if dual is not None else 0
    if answer.x is None:
        return None, _next_sum(reached, sizes)
    numbers_of: dict[int, list[int]] = {}
    for number, length in enumerate(lengths):
        numbers_of.setdefault(length, []).append(number)
    found: _Plan = []
    for number, item in enumerate(bins):
        taken: list[int] = []
        for kind, length in enumerate(kinds):
            count = round(float(answer.x[first + number * len(kinds) + kind]))
            taken += [numbers_of[length].pop(0) for _ in range(count)]
        found.append((item, taken))
    return found, _next_sum(reached, sizes)


def _next_sum(reached: int, sizes: list[int]) -> int:
    """A bound raised to the next length that stock lengths can add up to."""
    return least_cover_mm(reached, sizes)
