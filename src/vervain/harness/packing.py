"""Cross-sections: circles packed to scale, into a round bundle or into a drag chain."""

import math
from functools import lru_cache
from typing import NamedTuple

# Above this many circles every pair of neighbours is no longer tried.
MOST_TRIED = 70
SLACK = 1e-7


class Circle(NamedTuple):
    """A circle where it lies; x to the right, y upwards, in the unit of the diameters."""

    x: float
    y: float
    r: float


class Packing(NamedTuple):
    """Circles in the order that their diameters were given in, and the circle around them."""

    circles: tuple[Circle, ...]
    outer: Circle


@lru_cache(maxsize=2048)
def packed_round(diameters: tuple[float, ...]) -> Packing:
    """Circles laid one after the other, the largest first, each where it touches two others as near
    to the middle as there is room; then moved so that the circle around them stands at 0, 0.
    """
    if not diameters:
        return Packing((), Circle(0.0, 0.0, 0.0))
    order = sorted(range(len(diameters)), key=lambda n: (-diameters[n], n))
    if len(diameters) > MOST_TRIED:
        return _spiral(diameters, order)
    laid: list[Circle] = []
    for number in order:
        radius = diameters[number] / 2
        spots = _beside_two(laid, radius) if len(laid) > 1 else _first_two(laid, radius)
        free = [spot for spot in spots if _is_free(laid, spot)]
        laid.append(min(free, key=lambda c: (round(math.hypot(c.x, c.y) + c.r, 6), c.y, c.x)))
    return _centred(diameters, order, laid)


def _first_two(laid: list[Circle], radius: float) -> list[Circle]:
    if not laid:
        return [Circle(0.0, 0.0, radius)]
    return [Circle(laid[0].r + radius, 0.0, radius)]


def _beside_two(laid: list[Circle], radius: float) -> list[Circle]:
    """Every spot at which a circle touches two that lie already."""
    spots = []
    for first_number, first in enumerate(laid):
        for second in laid[:first_number]:
            spots += _touching(first, second, radius)
    return spots


def _touching(first: Circle, second: Circle, radius: float) -> list[Circle]:
    """The two spots (or none) at which a circle touches two others from outside."""
    near, far = first.r + radius, second.r + radius
    dx, dy = second.x - first.x, second.y - first.y
    apart = math.hypot(dx, dy)
    if apart > near + far or apart < abs(near - far) or apart == 0:
        return []
    along = (near * near - far * far + apart * apart) / (2 * apart)
    off = math.sqrt(max(0.0, near * near - along * along))
    x, y = first.x + along * dx / apart, first.y + along * dy / apart
    return [
        Circle(x - off * dy / apart, y + off * dx / apart, radius),
        Circle(x + off * dy / apart, y - off * dx / apart, radius),
    ]


def _is_free(laid: list[Circle], spot: Circle) -> bool:
    return all(
        math.hypot(spot.x - other.x, spot.y - other.y) >= spot.r + other.r - SLACK * (1 + other.r)
        for other in laid
    )


def _spiral(diameters: tuple[float, ...], order: list[int]) -> Packing:
    """Very many circles: each in a cell of the largest one's size, from the middle outwards."""
    cell = max(diameters)
    count = math.ceil(math.sqrt(len(diameters))) + 1
    cells = [
        (cell * (column + (row % 2) / 2), cell * row * math.sqrt(3) / 2)
        for row in range(-count, count + 1)
        for column in range(-count, count + 1)
    ]
    cells.sort(key=lambda spot: (round(math.hypot(*spot), 6), spot))
    laid = [
        Circle(x, y, diameters[number] / 2)
        for number, (x, y) in zip(order, cells[: len(order)], strict=True)
    ]
    return _centred(diameters, order, laid)


def _centred(diameters: tuple[float, ...], order: list[int], laid: list[Circle]) -> Packing:
    outer = circle_around(laid)
    found: list[Circle] = [outer] * len(diameters)
    for number, circle in zip(order, laid, strict=True):
        found[number] = Circle(circle.x - outer.x, circle.y - outer.y, circle.r)
    return Packing(tuple(found), Circle(0.0, 0.0, outer.r))


def circle_around(circles: list[Circle]) -> Circle:
    """A circle around circles: stepping towards the farthest edge, ever smaller steps; within a
    thousandth of the smallest.
    """
    x = sum(circle.x for circle in circles) / len(circles)
    y = sum(circle.y for circle in circles) / len(circles)
    step = 0.5
    for _ in range(200):
        far = max(circles, key=lambda c: math.hypot(c.x - x, c.y - y) + c.r)
        x, y = x + (far.x - x) * step, y + (far.y - y) * step
        step *= 0.95
    return Circle(x, y, max(math.hypot(c.x - x, c.y - y) + c.r for c in circles))


@lru_cache(maxsize=512)
def packed_in_box(diameters: tuple[float, ...], width: float) -> tuple[Circle, ...]:
    """Circles laid into a chain of an inner width, from its floor up, the largest first; y is the
    height above the floor. What does not fit in lies above its rim.
    """
    order = sorted(range(len(diameters)), key=lambda n: (-diameters[n], n))
    laid: list[Circle] = []
    for number in order:
        radius = diameters[number] / 2
        near = laid if len(laid) <= MOST_TRIED else laid[-MOST_TRIED:]
        spots = [
            Circle(x, y, radius)
            for x, y in _beside_walls(near, radius, width)
            if radius - SLACK <= x <= width - radius + SLACK and y >= radius - SLACK
        ]
        spots += [
            spot
            for first_number, first in enumerate(near)
            for second in near[:first_number]
            for spot in _touching(first, second, radius)
            if radius - SLACK <= spot.x <= width - radius + SLACK and spot.y >= radius - SLACK
        ]
        top = max((circle.y + circle.r for circle in laid), default=0.0)
        spots.append(Circle(max(radius, min(width - radius, radius)), top + radius, radius))
        free = [spot for spot in spots if _is_free(laid, spot)]
        laid.append(min(free, key=lambda c: (round(c.y, 6), c.x)))
    found = [laid[0]] * len(diameters) if laid else []
    for number, circle in zip(order, laid, strict=True):
        found[number] = circle
    return tuple(found)


def _beside_walls(laid: list[Circle], radius: float, width: float) -> list[tuple[float, float]]:
    """Spots at a wall or on the floor, by themselves or against a circle."""
    spots = [(radius, radius), (width - radius, radius)]
    for circle in laid:
        reach = circle.r + radius
        rise = radius - circle.y
        if abs(rise) <= reach:
            off = math.sqrt(reach * reach - rise * rise)
            spots += [(circle.x - off, radius), (circle.x + off, radius)]
        for wall in (radius, width - radius):
            aside = wall - circle.x
            if abs(aside) <= reach:
                spots.append((wall, circle.y + math.sqrt(reach * reach - aside * aside)))
    return spots
