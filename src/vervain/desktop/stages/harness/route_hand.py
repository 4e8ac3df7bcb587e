"""What is done on the route: devices put into places, places grown, runs laid and changed."""

from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.session import Selection, Session
from vervain.edits import cable_edits, route_edits
from vervain.edits.common import free_name
from vervain.harness.cable_routes import cable_route
from vervain.harness.proposing import propose_tree
from vervain.text.units import in_length

NEW_RUN_M = 1.0


class RouteHand(QObject):
    """Carries a device to a place, or a run from one place to another; every act is one step."""

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.device: str | None = None
        self.run_from: str | None = None
        self.target: str | None = None
        session.machine_changed.connect(self.drop)

    @property
    def is_empty(self) -> bool:
        """Whether nothing is in hand."""
        return self.device is None and self.run_from is None

    def drop(self) -> None:
        """Leaves what is in hand where it is."""
        if not self.is_empty:
            self.device = self.run_from = self.target = None
            self.changed.emit()

    def take_device(self, designator: str) -> None:
        """Takes a device in hand, to put it into another place."""
        device = self.session.queries.device(designator)
        if device is None:
            return
        places = self.session.queries.places()
        if not places:
            self.session.say("There is no place yet: N makes the first, T proposes a whole tree.")
            return
        self.device, self.run_from = designator, None
        self.target = device.place or places[0].id
        self.changed.emit()

    def take_run(self, place: str) -> None:
        """Begins a run at a place."""
        self.device, self.run_from, self.target = None, place, None
        self.changed.emit()

    def aim(self, order: tuple[str, ...], by: int) -> None:
        """Aims at the next place of an order."""
        if not order:
            return
        at = order.index(self.target) + by if self.target in order else 0 if by > 0 else -1
        self.target = order[at % len(order)]
        if self.target == self.run_from and len(order) > 1:
            self.aim(order, by)
            return
        self.changed.emit()

    def put(self) -> None:
        """Carries out what is aimed at."""
        target = self.target
        if target is None:
            return
        place = self.session.queries.place(target)
        name = place.name if place else target
        if self.device is not None:
            device = self.device
            known = self.session.queries.device(device)
            self.drop()
            if known is not None and known.place != target:
                edit = partial(route_edits.put_device, designator=device, place_id=target)
                self.session.apply(f"{device} sits at {name}", edit)
            self.session.select(Selection(place=target))
        elif self.run_from is not None and self.run_from != target:
            start = self.run_from
            run = free_name("R", (other.id for other in self.session.queries.runs()))
            self.drop()
            edit = partial(route_edits.add_run, a=start, b=target, length_m=NEW_RUN_M)
            if self.session.apply(f"{run} laid to {name}, {in_length(NEW_RUN_M)}", edit):
                self.session.select(Selection(run=run))

    def grow(self, place: str | None) -> None:
        """A new place with a run to it from a place; the first place stands by itself."""
        queries = self.session.queries
        names = {known.name for known in queries.places()}
        number = len(names) + 1
        while f"Place {number}" in names:
            number += 1
        name = "Control box" if not names else f"Place {number}"
        made = free_name("P", (known.id for known in queries.places()))
        if place is None or not names:
            edit = partial(route_edits.add_place, name=name, place_id=made)
        else:
            edit = partial(
                route_edits.add_place_beyond, from_place=place, name=name, length_m=NEW_RUN_M
            )
        if self.session.apply(f"{name} is new", edit):
            self.session.select(Selection(place=made))

    def remove(self, place: str | None, run: str | None) -> None:
        """Takes a place or a run away."""
        if run is not None:
            self.session.apply(f"{run} taken away", partial(route_edits.remove_run, run_id=run))
        elif place is not None:
            found = self.session.queries.place(place)
            words = f"{found.name if found else place} taken away"
            self.session.apply(words, partial(route_edits.remove_place, place_id=place))

    def toggle_moving(self, run: str | None) -> None:
        """A run that moves becomes a fixed one, and the other way round."""
        found = self.session.queries.run(run or "")
        if found is not None:
            words = f"{found.id} is fixed" if found.moving else f"{found.id} moves"
            edit = partial(route_edits.change_run, run_id=found.id, moving=not found.moving)
            self.session.apply(words, edit)

    def toggle_held(self, place: str | None) -> None:
        """The cables are held at a place, or not any more."""
        found = self.session.queries.place(place or "")
        if found is not None:
            held = not found.strain_relief
            words = f"Cables {'held' if held else 'not held'} at {found.name}"
            edit = partial(route_edits.change_place, place_id=found.id, strain_relief=held)
            self.session.apply(words, edit)

    def split(self, run: str | None) -> None:
        """A new place in the middle of a run."""
        found = self.session.queries.run(run or "")
        if found is None:
            return
        made = free_name("P", (known.id for known in self.session.queries.places()))
        name = f"Middle of {found.id}"
        edit = partial(route_edits.split_run, run_id=found.id, at_m=found.length_m / 2, name=name)
        if self.session.apply(f"{found.id} divided", edit):
            self.session.select(Selection(place=made))

    def toggle_way(self, cable: str | None, run: str | None) -> None:
        """Lays the traced cable through a run, or takes it out of it."""
        if cable is None or run is None:
            self.session.say("Trace a conductor first; then W lays its cable through a run.")
            return
        runs = list(cable_route(self.session.queries, cable).runs)
        if run in runs:
            runs.remove(run)
        else:
            runs.append(run)
        words = f"{cable} through {', '.join(runs) or 'the shortest way'}"
        edit = partial(cable_edits.set_cable_runs, cable_id=cable, runs=tuple(runs))
        self.session.apply(words, edit)

    def propose(self) -> None:
        """A first tree from the axes."""
        self.session.apply("A first tree of places, from the axes", propose_tree)
