"""The strings of the stops as plain shapes for paper, each contact drawn as it is made."""

from vervain.harness.route_layout import Box, Point
from vervain.harness.shapes import (
    FADED,
    INK,
    PAPER,
    WHITE,
    Drawing,
    Frame,
    Shape,
    Stroke,
    Words,
    cut_words,
)
from vervain.model.colours import base_and_stripe, is_colour
from vervain.ports.occupancy import colour_of
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.stops.chains import Chain, Link, WireAlong, chains_of, source_words
from vervain.stops.circuit import Circuit
from vervain.stops.compiling import circuit_of
from vervain.stops.words import names_in_words
from vervain.tables.stop_rows import label_of

BAD = "#AE3342"
TOP, ROW, HIGH = 58.0, 66.0, 28.0
SOURCE, CONTACT, FUSE, END, RETURN = 54.0, 44.0, 54.0, 120.0, 34.0
# What a wire needs for its label.
WIRE, MARGIN = 46.0, 6.0
POST, BAR = 6.0, 3.5
MOST_STRINGS = 8


def draw_stops(queries: Queries, width: float = 760.0) -> tuple[Drawing, ...]:
    """The strings from their sources to what they end in, drawn without power: what is NC closed,
    what is NO open. A drawing for each page of `MOST_STRINGS`, wider than `width` where a string
    needs it; none where there is no stop.
    """
    chains = chains_of(queries)
    pages = [chains[n : n + MOST_STRINGS] for n in range(0, len(chains), MOST_STRINGS)]
    return tuple(_draw_page(queries, page, width) for page in pages)


def _draw_page(queries: Queries, chains: tuple[Chain, ...], width: float) -> Drawing:
    pen = _Pen(queries, circuit_of(queries))
    widest = max(_fixed(chain) + WIRE * _wires(chain) for chain in chains)
    width = max(width, widest + 2 * MARGIN)
    for number, chain in enumerate(chains):
        spare = width - 2 * MARGIN - _fixed(chain)
        pen.string(chain, TOP + ROW * number, spare / max(_wires(chain), 1))
    pen.buttons()
    return Drawing(tuple(pen.shapes), width, TOP + ROW * len(chains) - HIGH)


def _fixed(chain: Chain) -> float:
    """What a string needs besides its wires."""
    links = sum(FUSE if link.kind == "fuse" else CONTACT for link in chain.all_links)
    return SOURCE + END + links + (RETURN if chain.returns else 0.0)


def _groups(chain: Chain) -> list[tuple[WireAlong, ...]]:
    groups = [link.wires for link in chain.links] + [chain.last_wires]
    if chain.returns:
        groups += [*(link.wires for link in chain.returns), chain.return_wires]
    return groups


def _wires(chain: Chain) -> int:
    """How many pieces of wire a string is drawn with."""
    return sum(max(1, len(group)) for group in _groups(chain))


class _Pen:
    """Draws one string after the other."""

    def __init__(self, queries: Queries, circuit: Circuit) -> None:
        self.queries, self.circuit = queries, circuit
        self.shapes: list[Shape] = []
        self.of_stop: dict[str, list[Point]] = {}
        self.x, self.y = MARGIN, 0.0

    def string(self, chain: Chain, y: float, wire: float) -> None:
        """One string at a height, with wires of a length."""
        self.x, self.y = MARGIN, y
        source = source_words(self.queries, self.circuit.sources[chain.source])
        self._box(SOURCE, *source)
        self._links(chain.links, wire)
        self._wire_group(chain.last_wires, wire)
        names = names_in_words(tuple(dict.fromkeys(ref.device for ref in chain.ends)))
        what = "must lose power" if chain.is_power else self._read_by(chain)
        self._box(END, names, what)
        if chain.returns:
            self._links(chain.returns, wire)
            self._wire_group(chain.return_wires, wire)
            self._box(RETURN, "0 V", "")

    def _read_by(self, chain: Chain) -> str:
        pins = [self.circuit.inputs[number].pin for number in chain.inputs]
        return f"read by {pin_in_words(self.queries, pins[0])}" if pins else "coil"

    def _links(self, links: tuple[Link, ...], wire: float) -> None:
        for link in links:
            self._wire_group(link.wires, wire)
            if link.kind == "fuse":
                self._fuse(link.device)
            else:
                self._contact(link)

    def _line(self, x1: float, x2: float, colour: str = INK, width: float = 1.2) -> None:
        self.shapes.append(Stroke((Point(x1, self.y), Point(x2, self.y)), width, colour))

    def _wire_group(self, wires: tuple[WireAlong, ...], length: float) -> None:
        if not wires:
            self._line(self.x, self.x + length)
            self.x += length
        for along in wires:
            end = self.x + length
            code = colour_of(self.queries, *along.wire)
            fill = base_and_stripe(code)[0].fill if code and is_colour(code) else FADED
            self._line(self.x, end, INK, 5.0)
            self._line(self.x, end, fill, 3.4)
            middle, label = (self.x + end) / 2, label_of(self.queries, along.wire)
            text = cut_words(label, length, 4.6)
            self.shapes.append(Words(middle, self.y - 7, 8, text, centred=True))
            if code:
                self.shapes.append(Words(middle, self.y + 12, 7, code, FADED, centred=True))
            self.x = end

    def _box(self, width: float, first: str, second: str) -> None:
        box = Box(self.x, self.y - HIGH / 2, width, HIGH)
        self.shapes.append(Frame(box, PAPER, INK, 1.0))
        middle, high = self.x + width / 2, self.y + (-1 if second else 4)
        first, second = cut_words(first, width - 6, 6.4), cut_words(second, width - 6, 4.4)
        self.shapes.append(Words(middle, high, 10, first, bold=True, centred=True))
        self.shapes.append(Words(middle, self.y + 10, 8, second, FADED, centred=True))
        self.x += width

    def _fuse(self, device: str) -> None:
        rating = next((f.rating_a for f in self.circuit.fuses if f.device == device), None)
        box = Box(self.x, self.y - 9, FUSE, 18)
        self.shapes.append(Frame(box, WHITE, INK, 1.0))
        words = f"{device} {rating:g} A" if rating else device
        text = cut_words(words, FUSE - 4, 4.8)
        self.shapes.append(Words(self.x + FUSE / 2, self.y + 3, 9, text, bold=True, centred=True))
        self.x += FUSE

    def _contact(self, link: Link) -> None:
        """Two posts with the bridge under them where it is NC, standing off above where NO."""
        contact = self.circuit.contacts[link.number]
        left, right = self.x + 4, self.x + CONTACT - 4 - POST
        self._line(self.x, left)
        self._line(right + POST, self.x + CONTACT)
        for x, pin in ((left, contact.pins[0]), (right, contact.pins[1])):
            self.shapes.append(Frame(Box(x, self.y - POST / 2, POST, POST), WHITE, INK, 1.2))
            text = pin_text(self.queries, pin)
            self.shapes.append(Words(x + POST / 2, self.y - 14, 7, text, FADED, centred=True))
        bar_y = self.y + POST / 2 if contact.is_nc else self.y - POST / 2 - BAR - 5
        bar = Box(left - 2, bar_y, right + POST - left + 4, BAR)
        self.shapes.append(Frame(bar, INK if contact.is_nc else WHITE, INK, 1.0))
        middle = self.x + CONTACT / 2
        if link.kind == "bridged contact":
            arc = (Point(left, self.y + 14), Point(right + POST, self.y + 14))
            self.shapes.append(Stroke((Point(left, self.y), *arc, Point(right + POST, self.y)),
                                      1.6, BAD))  # fmt: skip
            self.shapes.append(Words(middle, self.y + 24, 8, "bridged", BAD, True, True))
        elif link.device not in self.circuit.demanded:
            name = " or ".join((link.device, *link.beside))
            self.shapes.append(Words(middle, self.y + 17, 8, name, bold=True, centred=True))
        if link.device in self.circuit.demanded:
            self.of_stop.setdefault(link.device, []).append(Point(middle, self.y))
        self.x += CONTACT

    def buttons(self) -> None:
        """Each stop's button over its contacts, tied to them by a dashed line."""
        for device, points in self.of_stop.items():
            x, y = points[0].x, 20.0
            last = max(points, key=lambda point: point.y)
            way = [Point(x, y), *(Point(p.x, p.y) for p in points if p is not last), last]
            self.shapes.insert(0, Stroke(tuple(way), 0.8, FADED, True))
            # A mushroom's head, or a door's leaf.
            head = (
                Box(x - 16, y - 2, 32, 4)
                if device in self.circuit.guards
                else Box(x - 16, y - 8, 32, 9)
            )
            self.shapes.append(Frame(head, WHITE, INK, 1.4))
            found = self.queries.device(device)
            words = cut_words(f"{device} {found.name if found else ''}".strip(), 190, 5.4)
            self.shapes.append(Words(x + 22, y, 10, words, bold=True))
