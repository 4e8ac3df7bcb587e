"""What is done on the feed trees: a feed carried to another place, fuses, gauges, negatives."""

from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.background import in_background
from vervain.desktop.session import Session
from vervain.desktop.stages.supply.feed_layout import FeedPicture, FeedShape
from vervain.edits.feed_edits import set_gauge
from vervain.model.machine import Machine, PinRef
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_answers import FeedAnswer, feed_answers
from vervain.supply.feed_tree import Branch
from vervain.supply.results import drop_limit
from vervain.supply.rewiring import (
    bond,
    feed_from,
    join_negatives,
    outlet_of,
    put_fuse,
    take_feed_off,
)
from vervain.supply.sizing import gauges_for
from vervain.supply.states import State
from vervain.text.units import in_area
from vervain.text.words import in_a_row


def _is_earth(branch: Branch) -> bool:
    """Whether a place belongs to protective earth."""
    return branch.kind == "earth" or (branch.kind == "device" and branch.arrival is None)


class FeedHand(QObject):
    """Carries the feed of a consumer, or the negative of a source; every act is one undo step."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.carried: Branch | None = None
        self.target: FeedShape | None = None
        self.answers: tuple[FeedAnswer, ...] = ()
        session.machine_changed.connect(self.drop)

    def drop(self) -> None:
        """Leaves what is carried where it is."""
        if self.carried is not None:
            self.carried = self.target = None
            self.answers = ()
            self.changed.emit()

    def take(self, shape: FeedShape | None, picture: FeedPicture) -> None:
        """Takes the feed of a consumer in hand, or the negative of a source; a feed is aimed at the
        best place at once.
        """
        if shape is None or shape.branch.kind not in ("device", "source"):
            self.session.say("Select a consumer to feed it from elsewhere, or a source.")
            return
        self.carried, self.target = shape.branch, None
        if shape.branch.kind == "device" and not _is_earth(shape.branch):
            places = tuple(place.branch.pin for place in self.places(picture))
            self.answers = feed_answers(self.session.queries, shape.branch.pin, places)
            if self.answers and self.answers[0].verdict != "does not fit":
                self.target = picture.of_pin(self.answers[0].place)
        self.changed.emit()

    def answer(self) -> FeedAnswer | None:
        """What the place that is aimed at says."""
        pin = self.target.branch.pin if self.target is not None else None
        return next((answer for answer in self.answers if answer.place == pin), None)

    def takes(self, branch: Branch) -> bool:
        """Whether what is carried can go to a place."""
        carried = self.carried
        if carried is None or branch.device == carried.device:
            return False
        if carried.kind == "source":
            return branch.kind == "source"
        if _is_earth(carried):
            return branch.kind == "earth" or branch.note == "bonded"
        if _is_earth(branch):
            return False
        if branch.kind not in ("source", "strip", "device"):
            return False
        return outlet_of(self.session.queries, branch.pin) is not None

    def places(self, picture: FeedPicture) -> list[FeedShape]:
        """The places that can take what is carried, from above."""
        shapes = [s for s in (*picture.shapes, *picture.rows) if self.takes(s.branch)]
        return sorted(shapes, key=lambda shape: (shape.y, shape.box.left()))

    def aim(self, picture: FeedPicture, by: int) -> None:
        """Aims at the next place that can take it."""
        places = self.places(picture)
        if not places:
            self.session.say("No other place here feeds on: F proposes a way for everything unfed.")
            return
        order = {answer.place: number for number, answer in enumerate(self.answers)}
        places.sort(key=lambda place: order.get(place.branch.pin, len(order)))
        pins = [place.branch.pin for place in places]
        here = self.target.branch.pin if self.target is not None else None
        at = pins.index(here) + by if here in pins else 0 if by > 0 else -1
        self.target = places[at % len(places)]
        self.changed.emit()

    def put(self) -> None:
        """Carries out what is aimed at."""
        carried, target = self.carried, self.target
        if carried is None or target is None:
            return
        place = target.branch
        if _is_earth(carried):
            words = f"{carried.device} bonded to {place.device}"
            self.session.apply(words, partial(bond, earth=carried.pin, goal=place.pin))
        elif carried.kind == "source":
            words = f"Negatives of {carried.device} and {place.device} joined"
            self.session.apply(words, partial(join_negatives, first=carried.pin, second=place.pin))
        else:
            words = f"{carried.device} fed from {place.label}"
            self.session.apply(words, partial(feed_from, consumer=carried.pin, outlet=place.pin))
        self.drop()

    # Acts on the selection.

    def put_fuse(self, shape: FeedShape | None) -> None:
        """Puts a fuse into the plus of a consumer."""
        if shape is None or shape.branch.arrival is None:
            self.session.say("Select a consumer to put a fuse into its feed.")
            return
        pin, current_a = shape.branch.pin, shape.branch.current_a
        self.session.apply(
            f"Fuse before {pin.device}", partial(put_fuse, pin=pin, load_a=current_a)
        )

    def take_off(self, shape: FeedShape | None) -> None:
        """Takes the feed of a consumer off."""
        if shape is None or shape.branch.arrival is None:
            self.session.say("Select a consumer to take its feed off.")
            return
        pin: PinRef = shape.branch.pin
        self.session.apply(f"Took the feed off {pin.device}", partial(take_feed_off, consumer=pin))

    def choose_gauge(self, shape: FeedShape | None, state: State) -> None:
        """Takes the thinnest gauge with which little enough is lost on the way to a consumer."""
        arrival = shape.branch.arrival if shape is not None else None
        if arrival is None:
            self.session.say("Select a consumer to choose the gauge of its feed.")
            return
        machine, wanted = self.session.machine, arrival

        def take(chosen: tuple[tuple[str, ...], float] | None) -> None:
            if self.session.machine is not machine:
                return
            if chosen is None:
                self.session.say(f"{wanted.pin.device} needs no thicker cable than it has.")
                return
            cables, area = chosen
            words = f"{in_area(area)} for {in_a_row(cables)}"
            if self.session.apply(words, partial(_with_gauge, cables=cables, core_mm2=area)):
                lost, may = (wanted.lost or 0.0) * 100, drop_limit(wanted) * 100
                self.session.say(f"{words}: {lost:.2g} % was lost, {may:g} % may be.")

        def refuse(problem: Problem) -> None:
            self.session.say(str(problem))

        in_background(lambda: gauges_for(Queries(machine), state, wanted), take, refuse)


def _with_gauge(machine: Machine, cables: tuple[str, ...], core_mm2: float) -> Machine:
    """The machine with these cables of another gauge."""
    for cable in cables:
        machine = set_gauge(machine, cable_id=cable, core_mm2=core_mm2)
    return machine
