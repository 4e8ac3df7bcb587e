"""Everything that Jump can go to, from devices to actions; and the steps of the undo list."""

from functools import partial
from typing import Protocol

from vervain.desktop.appearance import Appearance
from vervain.desktop.documents.documents import Documents
from vervain.desktop.exchange import Exchange
from vervain.desktop.keys_help import EVERYWHERE, KEYS
from vervain.desktop.printing import PAPERS, Printing
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.jump import Command
from vervain.desktop.stages.ports.stage import PortsStage
from vervain.desktop.window_keys import WindowKeys
from vervain.edits.device_edits import add_device
from vervain.files.demos import DEMOS, TEMPLATES
from vervain.harness.conductors import conductor_rows
from vervain.model.machine import PortRef
from vervain.model.part import Part
from vervain.rules.finding import Stage
from vervain.text.units import ALL_UNITS


class Host(Protocol):
    """What goals need of the window that they go to things in."""

    session: Session
    documents: Documents
    exchange: Exchange
    printing: Printing
    ports: PortsStage
    appearance: Appearance
    keys: WindowKeys

    def show_stage(self, name: Stage) -> None: ...
    def explain(self) -> None: ...
    def open_guide(self) -> None: ...
    def tell_about(self) -> None: ...
    def open_own_folder(self) -> None: ...
    def open_export(self) -> None: ...
    def choose_part(self) -> None: ...
    def describe_part(self) -> None: ...
    def make_like(self) -> None: ...
    def ask_parts(self) -> None: ...
    def ask_part_file(self) -> None: ...
    def shelf_parts(self) -> tuple[Part, ...]: ...
    def open_versions(self) -> None: ...
    def trace_label(self, text: str) -> None: ...


class Goals:
    """Makes the goals of a window anew each time Jump is opened."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self.session = window.session

    def everything(self) -> list[Command]:
        """Everything that Jump can go to."""
        session, queries = self.session, self.session.queries
        # Who looks for nothing yet sees first what can be done.
        found = self.actions()
        for designator in queries.devices():
            device, part = queries.device(designator), queries.part_of(designator)
            if device is None or part is None:
                continue
            found.append(
                Command(
                    "device",
                    f"{designator} {device.name}",
                    partial(session.select, Selection(device=designator)),
                )
            )
            for port in part.ports:
                if port.end == "host":
                    ref = PortRef(device=designator, port=port.id)
                    found.append(
                        Command("port", f"{designator} {port.id}", partial(self._go_to_port, ref))
                    )
        for axis_id in queries.axes():
            axis = queries.axis(axis_id)
            found.append(
                Command(
                    "axis",
                    f"{axis_id} {axis.name if axis else ''}",
                    partial(self._go_to_axis, axis_id),
                )
            )
        for finding in session.findings():
            found.append(
                Command(
                    f"finding, {finding.consequence}",
                    finding.sentence,
                    partial(session.select_finding, finding),
                )
            )
        for row in conductor_rows(queries):
            found.append(
                Command("label", row.label_from, partial(self._go_to_label, row.label_from))
            )
        for part in self.window.shelf_parts():
            model = f", {part.maker} {part.model}" if part.model else ""
            found.append(Command("part", f"Add {part.title}{model}", partial(self.add_part, part)))
        return found

    def add_part(self, part: Part) -> None:
        """Adds a device of a part, and selects it."""
        before = set(self.session.queries.devices())
        if self.session.apply(f"Added {part.title}", lambda m: add_device(m, part, part.title)):
            added = [name for name in self.session.queries.devices() if name not in before]
            self.session.select(Selection(device=added[0]))

    def _export_set(self) -> None:
        self.window.exchange.export("all")

    def actions(self) -> list[Command]:
        """What can be done with the machine as a whole, and with the window."""
        exchange, look = self.window.exchange, self.window.appearance
        actions = [
            Command("action", "New empty machine  Ctrl+N", self.window.documents.new_machine),
            Command("action", "Open a machine  Ctrl+O", self.window.documents.ask_open),
        ]
        documents = self.window.documents
        starts = [
            *(("Open the demo", demo, documents.open_demo) for demo in DEMOS),
            *(("Begin from the template", item, documents.open_template) for item in TEMPLATES),
        ]
        actions += [
            Command("action", f"{words}: {start.title}", partial(begin, start.key))
            for words, start, begin in starts
        ]
        actions += [
            Command("action", "Save  Ctrl+S", self.window.documents.save),
            Command("action", "Save as  Ctrl+Shift+S", self.window.documents.ask_save),
            Command("action", "Versions of this file  Ctrl+Shift+H", self.window.open_versions),
            Command(
                "action",
                "Work that was never saved",
                self.window.documents.unsaved.offer_never_saved,
            ),
            Command("action", "Add a device  Ctrl+Shift+A", self.window.choose_part),
            Command("action", "Export the harness table  Ctrl+E", self.window.open_export),
            *(
                Command(
                    "action", f"Print: {words}", partial(self.window.printing.print_paper, form)
                )
                for form, words in PAPERS.items()
            ),
            Command(
                "action",
                "Take in devices or conductors (CSV, XLSX)",
                exchange.ask_import,
            ),
            Command("action", "Describe a part", self.window.describe_part),
            Command("action", "Make a part like the selected one", self.window.make_like),
            Command("action", "Take in parts (TOML)", self.window.ask_parts),
            Command("action", "Save the selected part to a file", self.window.ask_part_file),
            Command("action", "The whole set for the bench into a folder", self._export_set),
            Command("action", "Door cards of the boards (PDF)", exchange.door_cards),
            Command("action", "Theme: paper", partial(look.set_theme, "paper")),
            Command("action", "Theme: night", partial(look.set_theme, "night")),
            Command("action", "Theme: as the desktop", partial(look.set_theme, "desktop")),
            *(
                Command("action", f"Units: {units}", partial(look.set_units, units))
                for units in ALL_UNITS
            ),
            Command("action", "Larger text  Ctrl++", partial(look.make_larger, 0.1)),
            Command("action", "Smaller text  Ctrl+−", partial(look.make_larger, -0.1)),
            Command("action", "Open my folder of parts and tables", self.window.open_own_folder),
            Command("action", "Guide to this stage  Shift+F1", self.window.open_guide),
            Command("action", "Keys and help  F1", self.window.explain),
            Command("action", "About Vervain, and its licences", self.window.tell_about),
        ]
        return actions

    def keys(self) -> list[Command]:
        """Every key, with where it is of use, those of the stage that is shown first; what is
        chosen is done.
        """
        here = self.window.keys.area()
        return [
            Command(
                entry.area, f"{entry.words}  {entry.keys}", partial(self.window.keys.press, entry)
            )
            for entry in sorted(KEYS, key=lambda e: (e.area != here, e.area != EVERYWHERE))
        ]

    def steps(self) -> list[Command]:
        """The steps of the undo list, newest first."""
        session = self.session
        found = []
        for number in range(len(session.steps) - 1, -1, -1):
            kind = "now" if number == session.at else "undone" if number > session.at else "done"
            found.append(
                Command(
                    kind,
                    f"{number}. {session.steps[number].words}",
                    partial(session.go_to_step, number),
                )
            )
        return found

    def _go_to_port(self, ref: PortRef) -> None:
        self.window.show_stage("Ports")
        self.session.select(Selection(device=ref.device, port=ref.port))
        self.window.ports.view.show_port(ref)

    def _go_to_axis(self, axis_id: str) -> None:
        self.window.show_stage("Machine")
        self.session.select(Selection(axis=axis_id))

    def _go_to_label(self, text: str) -> None:
        self.window.show_stage("Harness")
        self.window.trace_label(text)
