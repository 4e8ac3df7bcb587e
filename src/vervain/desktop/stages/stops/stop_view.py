"""The strings of the stops, worked on directly: press, cut, short, weld, lose a supply, mend."""

from dataclasses import replace
from typing import Literal

from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.drawn_view import DrawnView
from vervain.desktop.stages.stops.stop_layout import Element, StopPicture, lay_out
from vervain.desktop.stages.stops.stop_painting import Shown, paint_stops, wire_boxes
from vervain.desktop.stages.stops.stop_worker import StopFigures, StopWorker
from vervain.desktop.theme import looks
from vervain.queries.pin_words import pin_in_words, pin_text
from vervain.stops.chains import Chain
from vervain.stops.circuit import Wire
from vervain.stops.faults import Fault, conditions_of
from vervain.stops.simulation import Conditions, Settled
from vervain.stops.words import fault_words, names_in_words, worker_in_words
from vervain.tables.stop_rows import label_of

Tool = Literal["press", "cut", "short", "unplug", "weld"]
TOOL_KEYS: dict[int, Tool] = {
    Qt.Key.Key_C: "cut", Qt.Key.Key_S: "short", Qt.Key.Key_U: "unplug", Qt.Key.Key_W: "weld",
}  # fmt: skip
ARROWS = {
    Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
}  # fmt: skip


class StopsView(DrawnView):
    """Draws what the circuit comes to; `tried` tells that something else was done to it,
    `went` that something else is chosen."""

    tried = pyqtSignal()
    went = pyqtSignal()

    def __init__(self, session: Session, worker: StopWorker) -> None:
        super().__init__("Stops")
        self.session, self.worker = session, worker
        self.picture = StopPicture()
        self.chosen = -1
        self.chosen_wire = 0
        self.tool: Tool = "press"
        self.conditions = Conditions()
        self.faults: list[Fault] = []
        # The first of two wires that are to be shorted.
        self.first_wire: Wire | None = None
        self.settled: Settled | None = None
        self.setMinimumHeight(looks.px(110))

    @property
    def figures(self) -> StopFigures | None:
        """What the worker found of the machine."""
        return self.worker.figures

    def arrange(self) -> None:
        """Lays out anew what is known, and settles it."""
        figures = self.figures
        viewport = self.viewport()
        if figures is None or viewport is None:
            self.picture = StopPicture()
            self.settled = None
            self.repaint_soon()
            return
        self.picture = lay_out(figures.chains, figures.circuit, viewport.width())
        if self.chosen >= len(self.picture.elements):
            self.chosen = -1
        self.settle()
        self.set_extent(self.picture.width, self.picture.height)

    def settle(self) -> None:
        """Works out where the machine comes to rest with what was done to it."""
        figures = self.figures
        if figures is None:
            return
        now = conditions_of(figures.circuit, *self.faults)
        self.conditions = replace(now, pressed=self.conditions.pressed)
        self.settled = figures.judge.under(self.conditions)
        self.tried.emit()
        self.repaint_soon()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    # What is done.

    def set_tool(self, tool: Tool, keeps_first: bool = False) -> None:
        """Takes a tool: what a click or Enter then does."""
        if not (keeps_first and tool == self.tool):
            self.first_wire = None
        self.tool = tool
        self.tried.emit()

    def mend(self) -> None:
        """Makes everything whole, and releases every button."""
        self.faults, self.first_wire = [], None
        self.conditions = Conditions()
        self.settle()

    def try_faults(self, *faults: Fault) -> None:
        """Shows some faults, with nothing else."""
        self.faults, self.first_wire = list(faults), None
        self.conditions = Conditions()
        self.settle()

    def press(self, device: str) -> None:
        """Presses a stop or opens a door; then releases or shuts it."""
        self.conditions = replace(self.conditions, pressed=self.conditions.pressed ^ {device})
        self.settle()

    def fault_words(self) -> list[str]:
        """What was done to it, in words."""
        figures = self.figures
        if figures is None:
            return []

        def label(wire: Wire) -> str:
            return label_of(self.session.queries, wire)

        return [fault_words(self.session.queries, fault, label) for fault in self.faults]

    def _toggle(self, fault: Fault) -> None:
        if fault in self.faults:
            self.faults.remove(fault)
        else:
            self.faults.append(fault)
        self.settle()

    def act(self) -> None:
        """Does with the chosen element what the tool is for."""
        element = self._element()
        if element is None:
            self.session.say("Choose something with the arrows first, or click it.")
            return
        figures = self.figures
        assert figures is not None
        wire = self._wire(element)
        if element.kind == "source":
            source = Fault(kind="source lost", source=element.number, device=element.device)
            self._toggle(source)
        elif wire is not None and self.tool == "short":
            self._short(wire)
        elif wire is not None and self.tool == "unplug":
            self._unplug(wire)
        elif wire is not None:
            self._toggle(Fault(kind="cut", wires=(wire,)))
        elif "contact" in element.kind:
            contact = figures.circuit.contacts[element.number]
            is_demanded = element.device in figures.circuit.demanded
            if self.tool != "weld" and is_demanded:
                self.press(element.device)
            elif contact.coil is not None or contact.is_start or is_demanded:
                weld = Fault(kind="welded", device=element.device, contact=element.number)
                self._toggle(weld)

    def _unplug(self, wire: Wire) -> None:
        """Pulls a plug that the wire goes into, then its other one, then puts both back."""
        assert self.figures is not None
        every = [verdict.fault for verdict in self.figures.verdicts]
        plugs = [f for f in every if f.kind == "unplugged" and wire in f.wires]
        whole = [plug for plug in plugs if plug not in self.faults]
        if not plugs:
            label = self.figures.labels.get(wire, "")
            self.session.say(f"{label} goes to terminals at both ends: nothing there to pull.")
        elif whole:
            self._toggle(whole[0])
        else:
            self.faults = [fault for fault in self.faults if fault not in plugs]
            self.settle()

    def _short(self, wire: Wire) -> None:
        if self.first_wire is None or self.first_wire == wire:
            self.first_wire = None if self.first_wire == wire else wire
            self.tried.emit()
            return
        pair, self.first_wire = (self.first_wire, wire), None
        self._toggle(Fault(kind="short", wires=pair))

    def _element(self) -> Element | None:
        return self.picture.elements[self.chosen] if self.chosen >= 0 else None

    def _wire(self, element: Element) -> Wire | None:
        if element.kind != "wire" or not element.wires:
            return None
        return element.wires[min(self.chosen_wire, len(element.wires) - 1)].wire

    # Going about.

    def choose(self, number: int, wire: int = 0) -> None:
        """Chooses an element, and tells the rest of the window what it is."""
        self.chosen, self.chosen_wire = number, wire
        element = self._element()
        found = self._wire(element) if element is not None else None
        if found is not None:
            self.session.select(Selection(conductor=found))
        elif element is not None and element.device:
            self.session.select(Selection(device=element.device))
        self.went.emit()
        self.repaint_soon()

    def chosen_words(self) -> str:
        """The chosen element in words; "" where none is."""
        element = self._element()
        return self.words_of(element) if element is not None else ""

    def words_of(self, element: Element) -> str:
        """An element in words."""
        wire = self._wire(element)
        if wire is not None and self.figures is not None:
            return f"wire {self.figures.labels.get(wire, '')}"
        return f"{element.kind} {element.device}"

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = Qt.Key(event.key())
        if key in ARROWS:
            self._step(*ARROWS[key])
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.act()
        elif key == Qt.Key.Key_P:
            self._press_chosen()
        elif key in TOOL_KEYS:
            self.set_tool(TOOL_KEYS[key], keeps_first=True)
            self._act_with_tool()
        elif key in (Qt.Key.Key_M, Qt.Key.Key_Escape):
            self.mend()
        elif key == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        else:
            super().keyPressEvent(event)

    def _act_with_tool(self) -> None:
        """Uses the tool where what is chosen is of its kind: a contact is welded, a wire is not."""
        element = self._element()
        if element is None:
            return
        is_wire = self._wire(element) is not None
        if is_wire != (self.tool == "weld") and (is_wire or "contact" in element.kind):
            self.act()

    def _press_chosen(self) -> None:
        """Presses the chosen stop; where none is chosen, the first."""
        self.set_tool("press")
        figures, element = self.figures, self._element()
        stops = figures.circuit.demanded if figures is not None else ()
        if not stops:
            return
        device = element.device if element is not None and element.device in stops else stops[0]
        self.press(device)

    def _step(self, dx: int, dy: int) -> None:
        elements = self.picture.elements
        if not elements:
            return
        element = self._element()
        if element is None:
            self.choose(0)
            return
        if dx:
            at = self.chosen_wire + dx
            if element.wires and 0 <= at < len(element.wires):
                self.choose(self.chosen, at)
                return
            number = self.chosen + dx
            if 0 <= number < len(elements) and elements[number].chain == element.chain:
                last = max(0, len(elements[number].wires) - 1)
                self.choose(number, last if dx < 0 else 0)
            return
        beside = [(n, e) for n, e in enumerate(elements) if e.chain == element.chain + dy]
        if beside:
            x = element.box.center().x()
            self.choose(min(beside, key=lambda item: abs(item[1].box.center().x() - x))[0])

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self.setFocus()
        at = event.position() + self.offset()
        for button in self.picture.buttons:
            if (button.at - at).manhattanLength() < looks.px(26):
                self.press(button.device)
                return
        found = self._under(at)
        if found is not None:
            self.choose(*found)
            self.act()

    def _under(self, at: QPointF) -> tuple[int, int] | None:
        for number, element in enumerate(self.picture.elements):
            if not element.box.adjusted(0, -8, 0, 8).contains(at):
                continue
            for place, (box, _) in enumerate(wire_boxes(element)):
                if box.adjusted(0, -8, 0, 8).contains(at):
                    return number, place
            return number, 0
        return None

    # Drawing.

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport = self.viewport()
        if viewport is None:
            return
        painter = QPainter(viewport)
        painter.fillRect(viewport.rect(), looks.colour("sheet"))
        figures, settled = self.figures, self.settled
        if figures is None or settled is None or not figures.circuit.stops:
            painter.setPen(looks.colour("faded"))
            painter.setFont(looks.font(13))
            words = "Working the stops out …"
            if figures is not None:
                words = (
                    "No emergency stop yet. Add one (Ctrl+Shift+A), join its contacts on Ports,\n"
                    "and see here what it stops, and what a broken wire would do."
                )
            flags = Qt.AlignmentFlag.AlignCenter
            painter.drawText(viewport.rect(), flags, words)
            return
        painter.translate(-self.offset())
        shown = self._shown(figures, settled)
        paint_stops(painter, self.picture, shown, self.chosen, self.chosen_wire)

    def _shown(self, figures: StopFigures, settled: Settled) -> Shown:
        judge, queries = figures.judge, self.session.queries
        conditions = judge.let_go(self.conditions)
        shorted = {w for f in self.faults if f.kind == "short" for w in f.wires}
        if self.first_wire is not None:
            shorted.add(self.first_wire)
        inputs: dict[int, tuple[tuple[str, bool], ...]] = {}
        ends: dict[int, tuple[str, str, bool]] = {}
        for number, chain in enumerate(figures.chains):
            inputs[number] = tuple(self._input_words(n, settled) for n in chain.inputs)
            ends[number] = self._end_words(chain, settled)
        names = {
            name: device.name
            for name in figures.circuit.demanded
            if (device := queries.device(name)) is not None
        }
        return Shown(
            circuit=figures.circuit, chains=figures.chains,
            live=judge.simulator.nodes_at(conditions, settled, "plus"),
            at_minus=judge.simulator.nodes_at(conditions, settled, "minus"),
            closed=judge.simulator.closed_contacts(conditions, settled),
            cut=self.conditions.cut, shorted=frozenset(shorted), welded=self.conditions.welded,
            pressed=self.conditions.pressed, lost=self.conditions.lost_sources,
            blown=settled.blown, labels=figures.labels, colours=figures.colours,
            sources=figures.sources, ends=ends, inputs=inputs, names=names,
            pins={p: pin_text(queries, p) for c in figures.circuit.contacts for p in c.pins},
            ratings={f.device: f"{f.rating_a:g} A" for f in figures.circuit.fuses if f.rating_a},
        )  # fmt: skip

    def _input_words(self, number: int, settled: Settled) -> tuple[str, bool]:
        assert self.figures is not None
        entry = self.figures.circuit.inputs[number]
        return pin_in_words(self.session.queries, entry.pin), settled.levels[number] == "high"

    def _end_words(self, chain: Chain, settled: Settled) -> tuple[str, str, bool]:
        """What a string ends in, and how it fares: a coil holds or drops, power is there or not."""
        assert self.figures is not None
        circuit = self.figures.circuit
        refs = set(chain.ends)
        loads = [n for n, load in enumerate(circuit.loads) if load.ref in refs]
        is_on = any(n in settled.on for n in loads)
        devices = tuple(dict.fromkeys(ref.device for ref in chain.ends))
        if chain.is_power:
            return names_in_words(devices), "has power" if is_on else "no power", is_on
        if not loads:
            return self._input_end(chain, settled)
        return names_in_words(devices), "holds" if is_on else "drops", is_on

    def _input_end(self, chain: Chain, settled: Settled) -> tuple[str, str, bool]:
        end = worker_in_words(self.session.queries, chain.ends[0])
        is_on = any(settled.levels[n] == "high" for n in chain.inputs)
        return end, "sees it closed" if is_on else "sees it open", is_on
