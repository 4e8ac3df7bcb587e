"""The card of the selection: its facts, with every number that is ours editable in place."""

from functools import partial

from PyQt6.QtWidgets import (
    QPushButton,
)

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.property_rows import FactRows
from vervain.desktop.stages.harness.route_card import show_cable, show_place, show_run
from vervain.desktop.stages.leads.meter_card import show_meter
from vervain.desktop.stages.machine.axis_card import AxisFacts
from vervain.desktop.stages.machine.part_card import pin_facts, show_part
from vervain.desktop.stages.ports.alternate_card import (
    read_setting,
    show_direction,
    show_kept,
    show_swaps,
)
from vervain.desktop.stages.stops.stop_card import show_at_stop
from vervain.desktop.stages.supply.feed_card import (
    show_ambient,
    show_gauge,
    show_measured,
    show_shedding,
)
from vervain.edits.cable_edits import set_cable, set_core_label
from vervain.edits.device_edits import set_designator, set_lie, set_name, set_setting, update_part
from vervain.edits.route_edits import put_device
from vervain.files.shelf import ShelfContents
from vervain.harness.labels import labels
from vervain.model.electrical import FeedIn, FeedOut
from vervain.model.machine import Device
from vervain.model.orientation import TURNS
from vervain.model.part import Option, Part
from vervain.rules.finding import Stage

MOST_DIFFERENCES = 8
NOT_GIVEN = "not given"
NO_PLACE = "no place"


class FactsCard(FactRows):
    """The facts of the selected device, or of the selected conductor and its cable."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.shelf = ShelfContents()
        self.stage: Stage = "Machine"
        session.machine_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows the facts of what is selected now; the keyboard stays in the fact it was in."""
        self.begin()
        session = self.session
        conductor, designator = session.selection.conductor, session.selection.device
        queries, chosen = session.queries, session.selection
        if chosen.run is not None and (run := queries.run(chosen.run)) is not None:
            show_run(self, session, run)
        elif chosen.place is not None and (place := queries.place(chosen.place)) is not None:
            show_place(self, session, place)
        elif conductor is not None and queries.hookup(conductor[0]) is not None:
            self._show_conductor(*conductor)
        elif designator is not None and (device := session.queries.device(designator)) is not None:
            self._show_device(device)
        elif (axis_id := session.selection.axis) is not None and session.queries.axis(axis_id):
            AxisFacts(self, session, axis_id).show()
        elif session.selection.part is not None and (part := self.part_named(session)) is not None:
            show_part(self, session, part)
        else:
            self.title.setText("")
        self.end()
        self.setVisible(bool(self.title.text()))

    def show_for(self, stage: Stage) -> None:
        """Turns to what is wanted of a device on a stage: its meter where its leads are read."""
        if stage != self.stage:
            self.stage = stage
            self.refresh()

    def part_named(self, session: Session) -> Part | None:
        """The part of the shelf that is selected."""
        return self.shelf.part(session.selection.part or "")

    def show_shelf(self, contents: ShelfContents) -> None:
        """Takes what is on the shelf, for the cards of its parts and newer versions of parts."""
        self.shelf = contents
        self.refresh()

    def _show_device(self, device: Device) -> None:
        session, name = self.session, device.designator
        part = session.queries.part(device.part)
        self.title.setText(f"{name}  {device.name}")
        self.row(
            "Name",
            self.field(
                device.name,
                lambda text: session.apply(
                    f"Name of {name}: {text}", lambda m: set_name(m, name, text)
                ),
                "Name",
            ),
        )
        self.row(
            "Designator", self.field(name, lambda text: self._rename(name, text), "Designator")
        )
        if part is None:
            return
        self.row("Part", f"{part.maker} {part.model}".strip() or part.title)
        self._newer_version(part)
        self._place(device)
        self._ratings(part)
        if part.stepper is not None:
            show_direction(self, session, name)
        show_swaps(self, session, name, session.selection.port)
        show_kept(self, session, device)
        show_at_stop(self, session, device)
        self._lie(device, part)
        show_measured(self, session, device)
        if part.kind == "supply":
            show_shedding(self, session, device)
        for option in part.options:
            if not option.ports:
                self._option(name, option, option.id)
            elif session.selection.port in option.ports:
                self._option(name, option, f"{option.id}/{session.selection.port}")
        if session.selection.port is not None:
            port = part.port(session.selection.port)
            for pin in port.pins if port else ():
                self.row(f"{port.id if port else ''} {pin.text}", pin_facts(pin))
        elif part.note:
            self.row("Note", part.note)
        if self.stage == "Leads" and part.stepper is not None:
            show_meter(self, session)

    def _place(self, device: Device) -> None:
        """Where the device sits; to be changed where there are places."""
        names = {place.name: place.id for place in self.session.queries.places()}
        if not names:
            return
        here = next((name for name, key in names.items() if key == device.place), NO_PLACE)

        def take(text: str) -> None:
            edit = partial(put_device, designator=device.designator, place_id=names.get(text))
            self.session.apply(f"{device.designator} sits at {text}", edit)

        self.row("Place", self.choice((NO_PLACE, *names), here, take, "Place"))

    def _lie(self, device: Device, part: Part) -> None:
        """How a board with ports lies on the bench."""
        if part.board is None or not any(port.end == "host" for port in part.ports):
            return
        name, turns = device.designator, tuple(f"{turn}°" for turn in TURNS)

        def turn(text: str) -> None:
            after = TURNS[turns.index(text)]
            words = f"{name} turned to {text}"
            self.session.apply(words, lambda m: set_lie(m, name, after, device.turned_over))

        def flip(text: str) -> None:
            words = f"{name} turned over: {text}"
            self.session.apply(words, lambda m: set_lie(m, name, device.turned_deg, text == "yes"))

        self.row("Lies turned by", self.choice(turns, f"{device.turned_deg}°", turn, "Turned by"))
        over = "yes" if device.turned_over else "no"
        self.row("Turned over", self.choice(("no", "yes"), over, flip, "Turned over"))

    def _newer_version(self, part: Part) -> None:
        """Offers a newer version of the part from the shelf, with what it changes."""
        newer = self.shelf.part(part.id)
        if newer is None or newer.revision <= part.revision:
            return
        from vervain.catalogue.differences import differences

        button = QPushButton(f"Take version {newer.revision}")
        button.setAccessibleName("Take the newer version")
        button.clicked.connect(
            lambda: self.session.apply(
                f"{part.title}: version {newer.revision}", lambda m: update_part(m, newer)
            )
        )
        self.row("On the shelf", button)
        for words in differences(part, newer)[:MOST_DIFFERENCES]:
            self.row("", words)

    def _rename(self, old: str, new: str) -> bool:
        cleaned = new.strip().upper()
        done = self.session.apply(
            f"{old} is now {cleaned}", lambda m: set_designator(m, old, cleaned)
        )
        if done:
            self.session.select(Selection(device=cleaned))
        return done

    def _ratings(self, part: Part) -> None:
        if part.stepper is not None:
            self.row("Phases", str(part.stepper.phases))
            if part.stepper.current_a is not None:
                self.row("Rated, a phase", f"{part.stepper.current_a:g} A RMS")
        if part.driver is not None:
            self.row("Drives", f"{part.driver.phases} phases")
        if part.encoder is not None:
            self.row("Lines a turn", str(part.encoder.lines_per_turn))
        pins = [pin for port in part.ports for pin in port.pins if pin.electrical]
        if self.session.selection.port is None and len(pins) <= 3:
            for pin in pins:
                self.row(pin.text, pin_facts(pin))
        elif part.kind in ("stepper driver", "controller", "supply"):
            feeds = [p for p in pins if isinstance(p.electrical, FeedIn | FeedOut)]
            for pin in feeds[:3]:
                self.row(pin.text, pin_facts(pin))

    def _take_choice(self, device: str, option: Option, key: str, text: str) -> None:
        self.session.apply(
            f"{option.title} of {device}: {text}", lambda m: set_setting(m, device, key, text)
        )

    def _option(self, device: str, option: Option, key: str) -> None:
        session = self.session
        found = session.queries.device(device)
        value = found.settings.get(key, option.default) if found else option.default
        if option.choices:
            take_choice = partial(self._take_choice, device, option, key)
            self.row(
                option.title, self.choice(option.choices, str(value), take_choice, option.title)
            )
            return

        def take(text: str) -> bool:
            number = read_setting(session, option, text)
            if not isinstance(number, float):
                return False
            words = f"{option.title} of {device}: {number:g} {option.unit}"
            return session.apply(words, lambda m: set_setting(m, device, key, number))

        shown = f"{value:g} {option.unit}" if isinstance(value, int | float) else NOT_GIVEN
        self.row(option.title, self.field(shown, take, option.title))

    def _show_conductor(self, hookup_id: str, row: int) -> None:
        session = self.session
        hookup = session.queries.hookup(hookup_id)
        if hookup is None or row >= len(hookup.conductors):
            self.title.setText("")
            return
        core = hookup.conductors[row].core
        named = labels(session.queries).get((hookup_id, row))
        self.title.setText(f"Conductor {named.at_a if named else ''}")
        cable = session.queries.cable(hookup.cable) if hookup.cable else None
        part = session.queries.cable_part(cable.part) if cable else None
        if cable is None or part is None:
            self.row("Made by", "the device's own lead")
            return
        if core is not None:
            self.row(
                "Label",
                self.field(
                    named.at_a if named else "",
                    lambda text: session.apply(
                        f"Label of core {core} of {cable.id}: {text or 'as the template'}",
                        lambda m: set_core_label(m, cable.id, core, text),
                    ),
                    "Label",
                ),
            )
        self.row("Cable", part.title)

        show_cable(self, session, cable, part)
        show_gauge(self, session, cable, part)
        show_ambient(self, session)
        note = self.field(
            cable.note,
            lambda text: session.apply(
                f"Note on {cable.id}", lambda m: set_cable(m, cable.id, cable.length_m, text)
            ),
            "Note",
        )
        note.setPlaceholderText("none")
        self.row("Note", note)
