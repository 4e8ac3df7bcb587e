"""The trace strip: the whole path of the selected conductor, end to end."""

from dataclasses import dataclass

from PyQt6.QtCore import QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.trace_flows import TraceFlows
from vervain.desktop.shared.wire_painting import draw_bar, elided
from vervain.desktop.theme import looks
from vervain.edits.plug_edits import put_conductor
from vervain.harness.conductors import pin_words
from vervain.harness.trace import Trace, TraceSegment, trace_of_conductor, trace_of_pin
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.ports.plugging import plug_in
from vervain.queries.connectivity import SHARED_FUNCTIONS
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_area, in_length

# Less than this is not written down.
LEAST_A = 0.005


@dataclass(frozen=True)
class NodeBox:
    """Where a pin stands on the strip."""

    box: QRectF
    pin: PinRef
    title: str
    text: str


@dataclass(frozen=True)
class StretchBox:
    """Where a conductor stands on the strip."""

    box: QRectF
    stretch: TraceSegment


def lay_out(
    queries: Queries, trace: Trace, width: float, node_width: float, height: float
) -> tuple[list[NodeBox], list[StretchBox]]:
    """Nodes and stretches from left to right; longer conductors get a longer stretch."""
    pins = [trace.stretches[0].start, *(stretch.end for stretch in trace.stretches)]
    room = max(40.0 * len(trace.stretches), width - node_width * len(pins))
    weights = [max(1.0, stretch.length_m or 1.0) ** 0.5 for stretch in trace.stretches]
    nodes: list[NodeBox] = []
    stretches: list[StretchBox] = []
    left = 0.0
    top = height * 0.36
    bottom = height * 0.86
    for number, pin in enumerate(pins):
        device = queries.device(pin.device)
        title = pin.device
        part = queries.part_of(pin.device)
        if device is not None and part is not None and part.kind != "connector":
            title = f"{pin.device} {device.name}"
        box = QRectF(left, top, node_width, bottom - top)
        nodes.append(NodeBox(box=box, pin=pin, title=title, text=pin_words(queries, pin)))
        left += node_width
        if number < len(trace.stretches):
            extent = room * weights[number] / sum(weights)
            bar = QRectF(left, (top + bottom) / 2 - height * 0.09, extent, height * 0.18)
            stretches.append(StretchBox(box=bar, stretch=trace.stretches[number]))
            left += extent
    return nodes, stretches


class TracePicture(QWidget):
    """Draws a trace; a click on a stretch goes there."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.trace: Trace | None = None
        self.title = ""
        self.shown_look = session.queries
        self._aside: Queries | None = None
        self.flows = TraceFlows(session)
        self.flows.changed.connect(self.update)
        session.selection_changed.connect(self.refresh)
        session.hand_changed.connect(self.refresh)
        session.wire_changed.connect(self.refresh)
        session.machine_changed.connect(self.refresh)

    def refresh(self) -> None:
        """Traces what is selected now."""
        self.trace, self.title = self._trace()
        self.flows.want(self.trace if self.shown_look is self.session.queries else None)
        self.setAccessibleName(self.title)
        self.update()

    def _trace(self) -> tuple[Trace | None, str]:
        self.shown_look = queries = self.session.queries
        chosen = self.session.selection
        if self.session.in_hand is not None and self.session.target is not None:
            return self._trace_if_plug_in(self.session.in_hand, self.session.target)
        if self.session.wire is not None:
            return self._trace_if_joined(*self.session.wire)
        if chosen.conductor is not None:
            trace = trace_of_conductor(queries, *chosen.conductor)
            return trace, self._words(trace) if trace else ""
        if chosen.pin_ref is not None:
            trace = trace_of_pin(queries, chosen.pin_ref)
            return trace, self._words(trace) if trace else "Nothing is joined to this pin"
        if chosen.device is not None:
            part = queries.part_of(chosen.device)
            ports = [port for port in (part.ports if part else ()) if port.id == chosen.port]
            for port in ports or (part.ports if part else ()):
                for pin in port.pins:
                    ref = PinRef(device=chosen.device, port=port.id, pin=pin.id)
                    trace = trace_of_pin(queries, ref)
                    if trace is not None:
                        return trace, self._words(trace)
            return None, f"{chosen.device} is joined to nothing yet"
        return None, ""

    def _trace_if_plug_in(self, hand: PortRef, target: PortRef) -> tuple[Trace | None, str]:
        """The path of the signal that would come about: drawn from a machine tried aside."""
        try:
            tried = plug_in(self.session.machine, hand, target)
        except Problem as problem:
            return None, problem.remedy or problem.what
        queries = self._look_aside(tried)
        port = queries.port(hand)
        pins = sorted(port.pins, key=lambda pin: pin.function in SHARED_FUNCTIONS) if port else []
        for pin in pins:
            ref = PinRef(device=hand.device, port=hand.port, pin=pin.id)
            trace = trace_of_pin(queries, ref)
            if trace is not None:
                return trace, f"If put into {target.port}: {pin.text} of {hand.device}"
        return None, ""

    def _look_aside(self, tried: Machine) -> Queries:
        """A look at a machine that is only tried. One look goes from trial to trial: what the
        trials share is worked out once.
        """
        if self._aside is None:
            self._aside = Queries(tried)
        self._aside.move_to(tried)
        self.shown_look = self._aside
        return self._aside

    def _trace_if_joined(self, start: PinRef, end: PinRef) -> tuple[Trace | None, str]:
        """The path that a wire in hand would make."""
        try:
            tried = put_conductor(self.session.machine, start, end)
        except Problem as problem:
            return None, problem.remedy or problem.what
        trace = trace_of_pin(self._look_aside(tried), start)
        return trace, f"If joined: {self._words(trace)}" if trace is not None else ""

    def _words(self, trace: Trace) -> str:
        queries = self.session.queries
        ends = []
        for pin in (trace.stretches[0].start, trace.stretches[-1].end):
            device = queries.device(pin.device)
            ends.append(f"{pin.device} {device.name}" if device else pin.device)
        return f"{ends[0]} to {ends[1]}"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        height = self.height()
        if self.trace is None:
            painter.setPen(looks.colour("faded"))
            painter.setFont(looks.font(12))
            text = self.title or "Select a pin, a lead or a conductor to see its whole path here."
            painter.drawText(QRectF(self.rect()), Qt.AlignmentFlag.AlignVCenter, text)
            return
        painter.setFont(looks.font(12, bold=True))
        painter.setPen(looks.colour("ink"))
        head = QRectF(0, looks.px(2), self.width(), looks.px(18))
        painter.drawText(head, Qt.AlignmentFlag.AlignVCenter, self.title)
        beside = head.adjusted(painter.fontMetrics().horizontalAdvance(self.title) + 16, 0, 0, 0)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        summary = self._summary(self.trace)
        beside.adjust(0, 0, -painter.fontMetrics().horizontalAdvance(summary) - 16, 0)
        string = elided(painter, self._string(self.trace), beside.width())
        painter.drawText(beside, Qt.AlignmentFlag.AlignVCenter, string)
        flags = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
        painter.drawText(head, flags, summary)
        nodes, stretches = lay_out(
            self.shown_look, self.trace, self.width() - 1, looks.px(104), height
        )
        for item in stretches:
            self._paint_stretch(painter, item)
        for node in nodes:
            self._paint_node(painter, node)

    def _string(self, trace: Trace) -> str:
        """The string of the stops that the traced conductors are in; nothing until it is known."""
        known = [self.flows.along.get((s.hookup, s.row)) for s in trace.stretches]
        return next((along.string for along in known if along is not None and along.string), "")

    @staticmethod
    def _summary(trace: Trace) -> str:
        length = (
            in_length(trace.length_m, ".3g") if trace.length_m is not None else "length not given"
        )
        more = f" · {trace.branches} more join it" if trace.branches else ""
        return f"{length}{more}"

    def _paint_stretch(self, painter: QPainter, item: StretchBox) -> None:
        stretch, box = item.stretch, item.box
        chosen = self.session.selection.conductor
        draw_bar(painter, box, stretch.colour, text=stretch.colour or "")
        if chosen is not None and chosen[0] == stretch.hookup:
            painter.setPen(QPen(looks.colour("accent"), 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(box.adjusted(0, -2, 0, 2))
        above = QRectF(box.left(), box.top() - looks.px(16), box.width(), looks.px(15))
        below = QRectF(box.left(), box.bottom() + 2, box.width(), looks.px(15))
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(11, bold=True))
        label = f"lead {stretch.colour or ''}" if stretch.is_lead else stretch.label
        painter.drawText(above, Qt.AlignmentFlag.AlignCenter, elided(painter, label, box.width()))
        painter.setPen(looks.colour("faded"))
        painter.setFont(looks.font(10))
        facts = [in_area(stretch.area_mm2)] if stretch.area_mm2 else []
        if stretch.length_m is not None:
            facts.append(in_length(stretch.length_m))
        known = self.flows.along.get((stretch.hookup, stretch.row))
        flow = known.current if known is not None else None
        parallel = stretch.is_lead and self.trace is not None and self.trace.branches > 0
        if flow is not None and flow.current_a >= LEAST_A and not parallel:
            facts += [f"{flow.current_a:.3g} A", f"{flow.drop_v:.2f} V"]
        text = elided(painter, " · ".join(facts), box.width())
        painter.drawText(below, Qt.AlignmentFlag.AlignCenter, text)

    def _paint_node(self, painter: QPainter, node: NodeBox) -> None:
        chosen = self.session.selection.device == node.pin.device
        painter.setPen(QPen(looks.colour("accent" if chosen else "ink"), 1.2))
        painter.setBrush(looks.colour("wash" if chosen else "sheet"))
        painter.drawRoundedRect(node.box.adjusted(0.5, 0.5, -0.5, -0.5), 3, 3)
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(11, bold=True))
        upper = QRectF(
            node.box.left() + 3, node.box.top(), node.box.width() - 6, node.box.height() / 2
        )
        lower = upper.translated(0, node.box.height() / 2 - 2)
        title = elided(painter, node.title, upper.width())
        painter.drawText(upper, Qt.AlignmentFlag.AlignCenter, title)
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        text = elided(painter, node.text, lower.width())
        painter.drawText(lower, Qt.AlignmentFlag.AlignCenter, text)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None or self.trace is None:
            return
        nodes, stretches = lay_out(
            self.shown_look, self.trace, self.width() - 1, looks.px(104), self.height()
        )
        for node in nodes:
            if node.box.contains(event.position()):
                pin = node.pin
                self.session.select(Selection(device=pin.device, port=pin.port, pin=pin.pin))
                return
        for item in stretches:
            if item.box.adjusted(0, -12, 0, 12).contains(event.position()):
                self._go_to(item.stretch)
                return

    def _go_to(self, stretch: TraceSegment) -> None:
        hookup = self.session.queries.hookup(stretch.hookup)
        if hookup is None:
            return
        for row, conductor in enumerate(hookup.conductors):
            pins = {(hookup.a.device, conductor.a), (hookup.b.device, conductor.b)}
            if pins == {
                (stretch.start.device, stretch.start.pin),
                (stretch.end.device, stretch.end.pin),
            }:
                self.session.select(Selection(conductor=(stretch.hookup, row)))
                self.session.stage_wanted.emit("Harness")


class TraceStrip(QWidget):
    """The label field at the left, the trace beside it."""

    traced = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.setObjectName("strip")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        self.left = QWidget()
        column = QVBoxLayout(self.left)
        column.setContentsMargins(12, 8, 12, 8)
        column.setSpacing(4)
        head = QHBoxLayout()
        name = PlainLabel("Trace a label")
        name.setObjectName("head")
        key = PlainLabel("Ctrl+L")
        key.setObjectName("faded")
        head.addWidget(name)
        head.addStretch(1)
        head.addWidget(key)
        column.addLayout(head)
        self.field = QLineEdit()
        self.field.setPlaceholderText("as on the wire: W14.2")
        self.field.setAccessibleName("Label from a wire")
        self.field.returnPressed.connect(lambda: self.traced.emit(self.field.text()))
        column.addWidget(self.field)
        self.picture = TracePicture(session)
        right = QWidget()
        inner = QVBoxLayout(right)
        inner.setContentsMargins(16, 4, 12, 4)
        inner.addWidget(self.picture)
        layout.addWidget(self.left)
        layout.addWidget(right, 1)

    def sizeHint(self) -> QSize:
        return QSize(600, looks.px(88))

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        edge = self.left.width()
        painter.fillRect(QRectF(edge, 0, self.width(), self.height()), looks.colour("sheet"))
        painter.setPen(looks.colour("rule"))
        painter.drawLine(0, 0, self.width(), 0)
        painter.drawLine(edge, 0, edge, self.height())
