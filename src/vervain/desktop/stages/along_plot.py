"""The voltage along a feed, from its source to one consumer."""

from functools import cached_property

import pyqtgraph
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QVBoxLayout, QWidget

from vervain.desktop.theme import looks
from vervain.supply.path import Station


class AlongPlot(QWidget):
    """A heading and a plot: metres across, volts up, the stretch below which too much is lost."""

    def __init__(self) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        head = QHBoxLayout()
        self.title, self.state = QLabel(), QLabel()
        self.title.setObjectName("head")
        self.state.setObjectName("faded")
        head.addWidget(self.title, 1)
        head.addWidget(self.state)
        column.addLayout(head)
        self.stations: tuple[Station, ...] = ()
        self.hide()

    @cached_property
    def graph(self) -> pyqtgraph.PlotWidget:
        """The plot itself, made when it is first wanted."""
        graph = pyqtgraph.PlotWidget()
        graph.setMouseEnabled(x=False, y=False)
        graph.setMenuEnabled(False)
        graph.hideButtons()
        graph.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.layout().addWidget(graph)
        return graph

    def show_stations(self, stations: tuple[Station, ...], limit: float, state: str) -> None:
        """Draws the stations; `limit` is the fraction of the first voltage that may be lost."""
        self.stations = stations
        first, last = stations[0], stations[-1]
        self.title.setText(f"Voltage from {first.device} to {last.device}")
        self.state.setText(state.lower())
        self.setAccessibleName(
            f"{self.title.text()}: {first.volts_v:.2f} to {last.volts_v:.2f} V, {state.lower()}"
        )
        graph, ink, faded = self.graph, looks.colour("ink"), looks.colour("faded")
        graph.clear()
        graph.setFixedHeight(looks.px(170))
        graph.setBackground(looks.colour("sheet"))
        for name in ("left", "bottom"):
            axis = graph.getAxis(name)
            axis.setPen(faded)
            axis.setTextPen(faded)
            axis.setStyle(tickFont=looks.font(10))
        floor = first.volts_v * (1 - limit)
        volts = [station.volts_v for station in stations]
        metres = [station.metres_m for station in stations]
        lowest = min(*volts, floor)
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
            metres, volts, pen=pyqtgraph.mkPen(looks.colour("accent"), width=2), symbol="o",
            symbolSize=7, symbolBrush=looks.colour("sheet"), symbolPen=looks.colour("accent"),
        )  # fmt: skip
        self._name_stations(ink)
        self._name_axes()

    def _name_stations(self, ink) -> None:
        """The devices at their points: the last, and before it those that stand apart enough."""
        whole = max(self.stations[-1].metres_m, 0.1)
        nearest = None
        for station in reversed(self.stations):
            if nearest is not None and nearest - station.metres_m < 0.16 * whole:
                continue
            nearest = station.metres_m
            text = pyqtgraph.TextItem(station.device, color=ink, anchor=(0.5, 1.15))
            text.setFont(looks.font(10, bold=True))
            text.setPos(station.metres_m, station.volts_v)
            self.graph.addItem(text)

    def _name_axes(self) -> None:
        whole = max(self.stations[-1].metres_m, 0.1)
        ticks = [(0.0, "0 m"), (whole, f"{whole:.1f} m")]
        self.graph.getAxis("bottom").setTicks([ticks])
