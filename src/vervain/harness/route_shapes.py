"""The route as plain shapes for paper, in its layout's units."""

from vervain.harness.bundles import Strand, bundle_of
from vervain.harness.packing import packed_in_box, packed_round
from vervain.harness.route_layout import (
    Point,
    RoutePicture,
    RunShape,
    lay_out_route,
)
from vervain.harness.route_words import devices_words, run_words
from vervain.harness.shapes import (
    FADED,
    INK,
    PAPER,
    WHITE,
    Disc,
    Drawing,
    Frame,
    Shape,
    Stroke,
    Words,
    cut_words,
)
from vervain.model.colours import base_and_stripe, is_colour
from vervain.queries.machine_queries import Queries

TOOTH = 5.0


def draw_route(queries: Queries, width: float = 760.0) -> Drawing:
    """The route with its sections, for a page so wide."""
    picture = lay_out_route(queries, width, 1.0)
    shapes: list[Shape] = []
    _scales(shapes, picture)
    for run in picture.runs:
        _run(shapes, run, queries, picture)
    for place in picture.places:
        found = queries.place(place.place)
        name = found.name if found else place.place
        node, words = place.node, devices_words(queries, place.place)
        shapes.append(Frame(node, PAPER if place.is_root else WHITE, INK, 1.2))
        if place.is_root:
            middle = node.centre
            shown = cut_words(name, node.height, 7.2)
            shapes.append(
                Words(middle.x - 4, middle.y, 12, shown, bold=True, centred=True, upwards=True)
            )
            shown = cut_words(words, node.height, 5.4)
            shapes.append(
                Words(middle.x + 14, middle.y, 9, shown, FADED, centred=True, upwards=True)
            )
        elif place.is_last:
            shapes.append(Words(node.right + 6, node.centre.y - 3, 11, name, bold=True))
            shapes.append(
                Words(node.right + 6, node.centre.y + 11, 9, cut_words(words, 190, 5.0), FADED)
            )
        else:
            shapes.append(
                Words(
                    node.centre.x,
                    node.y - 17,
                    11,
                    cut_words(name, 104, 6.4),
                    bold=True,
                    centred=True,
                )
            )
            shapes.append(
                Words(node.centre.x, node.y - 5, 9, cut_words(words, 104, 5.0), FADED, centred=True)
            )
    return Drawing(tuple(shapes), picture.width, picture.height)


def _scales(shapes: list[Shape], picture: RoutePicture) -> None:
    right = picture.width - 12
    for extent, words in ((picture.px_per_m, "1 m"), (20 * picture.px_per_mm, "sections 20 mm")):
        left = right - extent
        shapes.append(Stroke((Point(left, 12), Point(right, 12)), 1, INK))
        for x in (left, right):
            shapes.append(Stroke((Point(x, 9), Point(x, 15)), 1, INK))
        shapes.append(Words(left - 6 - len(words) * 5, 15, 9, words, FADED))
        right = left - len(words) * 5 - 24


def _run(shapes: list[Shape], shape: RunShape, queries: Queries, picture: RoutePicture) -> None:
    run = queries.run(shape.run)
    if run is None:
        return
    if shape.branch_from is not None:
        shapes.append(Stroke((shape.branch_from, shape.start), 1, FADED, True))
    if run.moving and not shape.is_ring:
        shapes.append(Stroke(_zigzag(shape), 1.8, INK))
    else:
        shapes.append(Stroke((shape.start, shape.end), 3, INK, shape.is_ring))
    if not shape.section.is_empty:
        _section(shapes, shape, queries, picture.px_per_mm)
    upper, lower = run_words(queries, shape.run)
    x, y = shape.start.x + 6, shape.start.y + 17
    shapes.append(Words(x, y, 11, shape.run, bold=True))
    shapes.append(Words(x + 7.5 * len(shape.run) + 6, y, 10, upper))
    shapes.append(Words(x, y + 12, 9, lower, FADED))


def _zigzag(shape: RunShape) -> tuple[Point, ...]:
    extent = shape.end.x - shape.start.x
    teeth = max(2, round(extent / (2 * TOOTH)))
    between = [
        Point(
            shape.start.x + extent * (number + 0.5) / teeth,
            shape.start.y + (TOOTH if number % 2 else -TOOTH),
        )
        for number in range(teeth)
    ]
    return (shape.start, *between, shape.end)


def _section(shapes: list[Shape], shape: RunShape, queries: Queries, scale: float) -> None:
    """The cross-section of a run in its box."""
    run, bundle, box = queries.run(shape.run), bundle_of(queries, shape.run), shape.section
    diameters = tuple(strand.diameter_mm for strand in bundle.strands)
    if run is not None and run.chain is not None:
        shapes.append(Frame(box, PAPER, FADED, 1.4))
        spots = [
            (box.x + circle.x * scale, box.bottom - circle.y * scale, circle.r * scale)
            for circle in packed_in_box(diameters, run.chain.width_mm)
        ]
    else:
        packing = packed_round(diameters)
        fit = min(1.0, box.width / 2 / max(packing.outer.r * scale, 1e-6)) * scale
        middle = box.centre
        if len(diameters) > 1:
            shapes.append(Disc(middle.x, middle.y, box.width / 2, PAPER, FADED, 1.0))
        spots = [
            (middle.x + circle.x * fit, middle.y - circle.y * fit, circle.r * fit)
            for circle in packing.circles
        ]
    for strand, (x, y, radius) in zip(bundle.strands, spots, strict=True):
        _strand(shapes, strand, x, y, radius)


def _strand(shapes: list[Shape], strand: Strand, x: float, y: float, radius: float) -> None:
    shapes.append(Disc(x, y, radius, WHITE))
    packing = packed_round((1.0,) * len(strand.cores))
    inner = radius * (0.78 if strand.shield else 0.86)
    fit = inner / packing.outer.r if packing.outer.r else 0.0
    for code, circle in zip(strand.cores, packing.circles, strict=True):
        fill = base_and_stripe(code)[0].fill if is_colour(code) else WHITE
        disc = circle.r * fit * 0.94
        shapes.append(Disc(x + circle.x * fit, y - circle.y * fit, disc, fill, FADED, 0.3))
