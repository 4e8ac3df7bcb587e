"""Where everything on the Machine stage stands: plain shapes, worked out apart from painting."""

from dataclasses import dataclass, field

from PyQt6.QtCore import QPointF, QRectF

from vervain.model.axis import Axis
from vervain.queries.axis_places import LANE_TITLES, Place, lane_devices, places_of_axis
from vervain.queries.machine_queries import Queries

LEFT, RIGHT, GAP, EDGE = 84.0, 14.0, 8.0, 8.0
CARD, CARD_WIDE, CARD_HEIGHT, THIN_HEIGHT = 100.0, 148.0, 34.0, 24.0
# How much narrower the cards over a rule may become to stand in one row.
NARROWEST = 0.78
RULE_SHARE = 0.22
SHAFT, LINE, RULE_ZONE, DIAL = 12.0, 22.0, 44.0, 58.0


@dataclass(frozen=True)
class Card:
    """A place with its box; `acts_at` is where on the rule it acts, if that is known."""

    place: Place
    box: QRectF
    acts_at: QPointF | None = None
    offered: bool = False


@dataclass(frozen=True)
class AxisLane:
    """An axis: its band, its label, its cards, the bars of its rule, and its line of figures."""

    axis: Axis
    band: QRectF
    label: QRectF
    cards: tuple[Card, ...]
    bars: tuple[QRectF, ...]
    shafts: tuple[QRectF, ...]
    dial: QRectF | None
    figures: QRectF

    def x_at(self, position: float) -> float:
        """Where a position of the axis is on its rule."""
        rule = self.bars[-1]
        share = position / self.axis.travel if self.axis.travel else 0.0
        return rule.left() + rule.width() * max(0.0, min(1.0, share))


@dataclass(frozen=True)
class GroupLane:
    """A lane of devices that belong to no axis."""

    title: str
    band: QRectF
    label: QRectF
    cards: tuple[Card, ...]


@dataclass
class Lanes:
    """All lanes and the height that they take together."""

    axes: list[AxisLane] = field(default_factory=list)
    groups: list[GroupLane] = field(default_factory=list)
    height: float = 0.0

    def cards(self) -> list[Card]:
        """Every card, from the top."""
        lanes: list[AxisLane | GroupLane] = [*self.axes, *self.groups]
        return [card for lane in lanes for card in lane.cards]

    def card_of(self, place: Place) -> Card | None:
        """The card of a place."""
        return next((card for card in self.cards() if card.place == place), None)


def lay_out(queries: Queries, width: float, scale: float, offered: tuple[Place, ...] = ()) -> Lanes:
    """The lanes of a machine in a width, with the places `offered` to what is in hand."""
    lanes = Lanes()
    top = 0.0
    for axis_id in queries.axes():
        axis = queries.axis(axis_id)
        if axis is None:
            continue
        own = tuple(place for place in offered if place.axis == axis_id)
        lane = _axis_lane(axis, own, QRectF(0, top, width, 0), scale)
        lanes.axes.append(lane)
        top = lane.band.bottom()
    for title, names in lane_devices(queries):
        own = tuple(place for place in offered if place.lane == title)
        group = _group_lane(title, names, own, QRectF(0, top, width, 0), scale)
        lanes.groups.append(group)
        top = group.band.bottom()
    lanes.height = top
    return lanes


def _axis_lane(axis: Axis, offered: tuple[Place, ...], area: QRectF, scale: float) -> AxisLane:
    """One axis: its switches over the rule, motors at the end where they pull, figures below."""
    left, right = LEFT * scale, area.width() - RIGHT * scale
    card_width, card_height, gap = CARD * scale, CARD_HEIGHT * scale, GAP * scale
    places = places_of_axis(axis)
    extra = tuple(place for place in offered if place not in places)
    on_shaft = [p for p in (*places, *extra) if p.role == "drive"]
    mates = [p for p in places if _turns_with_motor(p, axis)]
    above = [p for p in places if p.role != "drive" and p not in mates]
    above += [p for p in extra if p.role != "drive"]
    top = area.top() + EDGE * scale
    narrow = min(card_width, (right - left + gap) / max(1, len(above)) - gap)
    upper_width = narrow if narrow >= card_width * NARROWEST else card_width * NARROWEST
    boxes, rows = _row_boxes(above, QRectF(left, top, right - left, card_height), upper_width, gap)
    top += rows * (card_height + gap * 0.75) if above else 0
    several = len(on_shaft) > 1
    motor_height = THIN_HEIGHT * scale if several else card_height
    stack = len(on_shaft) * (motor_height + 3 * scale)
    zone = max(RULE_ZONE * scale + (len(on_shaft) - 1) * (motor_height + 3 * scale), stack)
    if axis.endless and axis.motion == "rotary":
        zone = max(zone, (DIAL + 2) * scale)
    shaft = SHAFT * scale
    # The rule keeps a part of the width, however much stands on the motor's shaft.
    most = (right - left) * (1 - RULE_SHARE) / (1 + len(mates)) - shaft
    motor_width = min(card_width, most)
    cluster = (motor_width + shaft) * (1 + len(mates))
    dial = None
    rule_left, rule_right = left, right
    if axis.endless and axis.motion == "rotary":
        dial = QRectF(left, top, DIAL * scale, DIAL * scale)
        rule_left += (DIAL + 14) * scale
    at_min = axis.pulls_at == "min" and dial is None
    motor_left = left if at_min else right - cluster + shaft
    if at_min:
        motor_left += (motor_width + shaft) * len(mates)
        rule_left = left + cluster
        rule_right = right - 8 * scale
    else:
        rule_right = right - cluster
    cards, shafts, bars = [], [], []
    for number, place in enumerate(on_shaft):
        y = top + number * (motor_height + 3 * scale)
        box = QRectF(motor_left, y, motor_width, motor_height)
        cards.append(Card(place, box, offered=place in offered))
        stub_left = box.right() if at_min else box.left() - shaft
        shafts.append(QRectF(stub_left, box.center().y() - 4 * scale, shaft * 0.8, 8 * scale))
        bars.append(
            QRectF(rule_left, box.center().y() - 3 * scale, rule_right - rule_left, 6 * scale)
        )
    for number, place in enumerate(mates, 1):
        step = (motor_width + shaft) * number
        x = motor_left - step if at_min else motor_left + step
        box = QRectF(x, top, motor_width, card_height)
        cards.append(Card(place, box, offered=place in offered))
        stub = box.right() if at_min else box.left() - shaft
        shafts.append(QRectF(stub, box.center().y() - 4 * scale, shaft, 8 * scale))
    lane_top = top + zone
    figures = QRectF(16 * scale, lane_top, right - 16 * scale, LINE * scale)
    band = QRectF(0, area.top(), area.width(), figures.bottom() + 4 * scale - area.top())
    label = QRectF(0, band.top(), left - 8 * scale, max(figures.top() - band.top(), 60 * scale))
    lane = AxisLane(axis, band, label, (), tuple(bars), tuple(shafts), dial, figures)
    placed = [
        Card(
            place,
            box,
            _acts_at(lane, place) if box.bottom() >= boxes[-1].bottom() else None,
            place in offered,
        )
        for place, box in zip(above, boxes, strict=True)
    ]
    return AxisLane(axis, band, label, (*placed, *cards), tuple(bars), tuple(shafts), dial, figures)


def _turns_with_motor(place: Place, axis: Axis) -> bool:
    """Brakes and encoders that are there stand on the motor's shaft; empty ones wait above."""
    if place.device is None:
        return False
    return place.role == "brake" or (place.role == "feedback" and axis.feedback_at == "motor")


def _acts_at(lane: AxisLane, place: Place) -> QPointF | None:
    """Where on the rule a switch acts; home where it is given, else at the min end."""
    axis, y = lane.axis, lane.bars[0].center().y() if lane.bars else 0.0
    if not lane.bars or axis.endless:
        return None
    if place.role == "min_limit":
        return QPointF(lane.bars[0].left() - 6, y)
    if place.role == "max_limit":
        return QPointF(lane.bars[0].right() + 4, y)
    if place.role == "home":
        return QPointF(lane.x_at(axis.home_at or 0.0), y)
    return None


def _row_boxes(
    places: list[Place], row: QRectF, card_width: float, gap: float
) -> tuple[list[QRectF], int]:
    """Boxes for the cards over the rule, and how many rows they take.

    In one row, what acts at the far end (and what is missing) stands at the right; where one row
    does not hold them, they run on from the left.
    """
    step = card_width + gap
    capacity = max(1, int((row.width() + gap) // step))
    if len(places) > capacity:
        boxes = [
            QRectF(
                row.left() + (n % capacity) * step,
                row.top() + (n // capacity) * (row.height() + gap * 0.75),
                card_width,
                row.height(),
            )
            for n in range(len(places))
        ]
        return boxes, -(-len(places) // capacity)
    ends = [p for p in places if p.role in ("max_limit", "feedback", "brake")]
    starts = [p for p in places if p not in ends]
    at: dict[int, float] = {}
    for n, place in enumerate(starts):
        at[id(place)] = row.left() + n * step
    for n, place in enumerate(reversed(ends)):
        at[id(place)] = row.right() - card_width - n * step
    return [QRectF(at[id(p)], row.top(), card_width, row.height()) for p in places], 1


def _group_lane(
    title: str, names: tuple[str, ...], offered: tuple[Place, ...], area: QRectF, scale: float
) -> GroupLane:
    """Cards in rows; an empty lane has one empty place."""
    left, right = LEFT * scale, area.width() - RIGHT * scale
    gap, height = GAP * scale, CARD_HEIGHT * scale
    columns = max(1, int((right - left + gap) // (CARD_WIDE * scale + gap)))
    width = (right - left + gap) / columns - gap
    places = [Place(lane=title, device=name) for name in names]
    if offered or not names:
        places.append(Place(lane=title))
    cards = []
    for number, place in enumerate(places):
        x = left + (number % columns) * (width + gap)
        y = area.top() + 4 * scale + (number // columns) * (height + gap * 0.75)
        cards.append(Card(place, QRectF(x, y, width, height), offered=place in offered))
    rows = -(-len(places) // columns)
    bottom = area.top() + 8 * scale + rows * (height + gap * 0.75) - gap * 0.75
    band = QRectF(0, area.top(), area.width(), bottom - area.top())
    label = QRectF(16 * scale, band.top(), left - 20 * scale, height + 8 * scale)
    return GroupLane(LANE_TITLES.get(title, title), band, label, tuple(cards))
