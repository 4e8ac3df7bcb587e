"""The voltage along a feed, from its source to one consumer."""

from functools import cached_property
from itertools import pairwise

import pyqtgraph
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QVBoxLayout, QWidget

from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.theme import looks
from vervain.supply.voltage_profile import ProfilePoint
from vervain.text.units import in_length


class AlongPlot(QWidget):
    """A heading and a plot: metres across, volts up, the stretch below which too much is lost."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        self.title = PlainLabel()
        self.title.setObjectName("head")
        # The column is as wide as it is; the heading gives way.
        self.title.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.setMinimumWidth(0)
        self.other = QPushButton()
        self.other.setObjectName("flat")
        self.other.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.other.clicked.connect(self.change)
        head.addWidget(self.title, 1)
        head.addWidget(self.other)
        column.addLayout(head)
        self.stations: tuple[ProfilePoint, ...] = ()
        self.shows_current = False
        self._limit, self._state = 0.0, ""
        self.hide()

    def change(self) -> None:
        """Changes between the voltage along the feed and the current in it."""
        self.shows_current = not self.shows_current
        if self.stations:
            self.show_stations(self.stations, self._limit, self._state)

    @cached_property
    def graph(self) -> pyqtgraph.PlotWidget:
        """The plot itself, made when it is first wanted."""
        graph = pyqtgraph.PlotWidget()
        graph.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        graph.setMouseEnabled(x=False, y=False)
        graph.setMenuEnabled(False)
        graph.hideButtons()
        for widget in (graph, graph.viewport()):
            widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        layout = self.layout()
        if layout is not None:
            layout.addWidget(graph)
        return graph

    def show_stations(self, stations: tuple[ProfilePoint, ...], limit: float, state: str) -> None:
        """Draws the stations; `limit` is the fraction of the first voltage that may be lost."""
        self.stations, self._limit, self._state = stations, limit, state
        first, last = stations[0], stations[-1]
        shown, other = ("Current", "Voltage") if self.shows_current else ("Voltage", "Current")
        self.title.setText(f"{shown} from {first.device} to {last.device}")
        self.other.setText(f"{other}  P")
        self.setAccessibleName(
            f"{self.title.text()}: {first.volts_v:.2f} to {last.volts_v:.2f} V, {state.lower()}"
        )
        graph, faded = self.graph, looks.colour("faded")
        graph.clear()
        graph.setFixedHeight(looks.px(170))
        graph.setBackground(looks.colour("sheet"))
        for name in ("left", "bottom"):
            axis = graph.getAxis(name)
            axis.setPen(faded)
            axis.setTextPen(faded)
            axis.setStyle(tickFont=looks.font(10))
        if self.shows_current:
            self._draw_current()
        else:
            self._draw_voltage(limit)
        self._name_axes()

    def _draw_current(self) -> None:
        """The current in each stretch, and over it what its thinnest core may carry."""
        xs, current_a, most = [], [], []
        for before, here in pairwise(self.stations):
            xs += [before.metres_m, here.metres_m]
            current_a += [here.amps_a, here.amps_a]
            most += [here.most_a or float("nan")] * 2
        top = max([*current_a, *(value for value in most if value == value), 0.1])
        self.graph.setYRange(0, top * 1.2, padding=0)
        self.graph.setXRange(0, max(xs[-1], 0.1), padding=0.08)
        line = pyqtgraph.mkPen(looks.colour("bad"), width=1.4, style=Qt.PenStyle.DashLine)
        self.graph.plot(xs, most, pen=line, connect="finite")
        self.graph.plot(xs, current_a, pen=pyqtgraph.mkPen(looks.colour("accent"), width=2))
        self._name_stations([station.amps_a for station in self.stations])

    def _draw_voltage(self, limit: float) -> None:
        """The voltage at each station, and the stretch below which too much is lost."""
        graph, first = self.graph, self.stations[0]
        floor = first.volts_v * (1 - limit)
        voltage_v = [station.volts_v for station in self.stations]
        metres = [station.metres_m for station in self.stations]
        lowest = min(*voltage_v, floor)
        span = max(first.volts_v - lowest, 0.01 * first.volts_v)
        graph.setYRange(lowest - 0.18 * span, first.volts_v + 0.18 * span, padding=0)
        graph.setXRange(0, max(metres[-1], 0.1), padding=0.08)
        bad = looks.colour("bad")
        wash = looks.colour("bad")
        wash.setAlpha(28)
        band = pyqtgraph.LinearRegionItem(
            (lowest - span, floor), orientation="horizontal", brush=wash, movable=False
        )
        for line in band.lines:
            line.setPen(bad)
        graph.addItem(band)
        graph.plot(
            metres, voltage_v, pen=pyqtgraph.mkPen(looks.colour("accent"), width=2), symbol="o",
            symbolSize=7, symbolBrush=looks.colour("sheet"), symbolPen=looks.colour("accent"),
        )  # fmt: skip
        self._name_stations(voltage_v)

    def _name_stations(self, heights: list[float]) -> None:
        """The devices at their points: the last, and before it those that stand apart enough."""
        whole = max(self.stations[-1].metres_m, 0.1)
        nearest = None
        for station, height in reversed(list(zip(self.stations, heights, strict=True))):
            if nearest is not None and nearest - station.metres_m < 0.16 * whole:
                continue
            nearest = station.metres_m
            ink = looks.colour("ink")
            text = pyqtgraph.TextItem(station.device, color=ink, anchor=(0.5, 1.15))
            text.setFont(looks.font(10, bold=True))
            text.setPos(station.metres_m, height)
            self.graph.addItem(text)

    def _name_axes(self) -> None:
        whole = max(self.stations[-1].metres_m, 0.1)
        ticks = [(0.0, in_length(0)), (whole, in_length(whole, ".1f"))]
        self.graph.getAxis("bottom").setTicks([ticks])
