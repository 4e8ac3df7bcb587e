"""The links to controllers and to a bench meter, brought from their threads into the window."""

from PyQt6.QtCore import QObject, pyqtSignal

from vervain.desktop.session import Session
from vervain.live.controller_link import ControllerLink, LinkState, Sample, read_address
from vervain.live.meter_link import MeterLink, MeterReading, read_meter_address
from vervain.live.register_map import register_map
from vervain.live.watching import LampHistory
from vervain.text.quantities import figure

FUNCTION_WORDS = {"V": "DC volts", "Ω": "ohms", "A": "DC amps"}
CLOSED = LinkState("not connected")
# How long closing the window waits for what is armed to go off.
LAST_WAIT_S = 1.0


def reading_words(reading: MeterReading | None) -> str:
    """What the meter shows, as it shows it."""
    if reading is None:
        return "–"
    if reading.value == float("inf"):
        return "open" if reading.unit == "Ω" else "over range"
    return figure(reading.value, reading.unit, places=4)


def typed(reading: MeterReading) -> str:
    """A reading as a builder would type it."""
    return "open" if reading.value == float("inf") else f"{reading.value:.6g}"


class LiveLinks(QObject):
    """One link a controller, and one to a meter. Signals come on the interface thread."""

    sampled = pyqtSignal(str)
    changed = pyqtSignal()
    meter_read = pyqtSignal()
    _sample_came = pyqtSignal(str, object, object)
    _state_came = pyqtSignal(str, object, object)
    _reading_came = pyqtSignal(object, object)
    _meter_state_came = pyqtSignal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.links: dict[str, ControllerLink] = {}
        self.states: dict[str, LinkState] = {}
        self.histories: dict[str, LampHistory] = {}
        self.meter: MeterLink | None = None
        self.meter_state, self.reading = CLOSED, None
        self._sample_came.connect(self._take_sample)
        self._state_came.connect(self._take_state)
        self._reading_came.connect(self._take_reading)
        self._meter_state_came.connect(self._take_meter_state)
        session.opened.connect(self.leave_all)

    reading: MeterReading | None

    def connect_controller(self, device: str, text: str) -> None:
        """Begins to read a controller at an address, in place of another. Raises `Problem`."""
        address = read_address(text)
        self.leave_controller(device)
        entries = register_map(self.session.queries, device)
        # What comes from a link that was left meanwhile is told by the link that it carries.
        found: list[ControllerLink] = []
        link = ControllerLink(
            address,
            entries,
            lambda sample: self._sample_came.emit(device, found[0], sample),
            lambda state: self._state_came.emit(device, found[0], state),
        )
        found.append(link)
        self.links[device], self.histories[device] = link, LampHistory()
        self.states[device] = LinkState("connecting")
        link.open()
        self.changed.emit()

    def leave_controller(self, device: str) -> None:
        """Ends reading a controller; what is armed goes off."""
        link = self.links.pop(device, None)
        if link is not None:
            link.close(wait_s=0)
            self.states.pop(device, None)
            self.histories.pop(device, None)
            self.changed.emit()

    def connect_meter(self, text: str) -> None:
        """Begins to read a meter at an address. Raises `Problem`."""
        address = read_meter_address(text)
        self.leave_meter()
        found: list[MeterLink] = []
        link = MeterLink(
            address,
            lambda reading: self._reading_came.emit(found[0], reading),
            lambda state: self._meter_state_came.emit(found[0], state),
        )
        found.append(link)
        self.meter = link
        link.open()
        self.changed.emit()

    def leave_meter(self) -> None:
        """Ends reading the meter."""
        if self.meter is not None:
            self.meter.close(wait_s=0)
            self.meter, self.meter_state, self.reading = None, CLOSED, None
            self.changed.emit()

    def leave_all(self) -> None:
        """Ends everything."""
        for device in list(self.links):
            self.leave_controller(device)
        self.leave_meter()

    def close(self) -> None:
        """Ends everything, and waits a moment for what is armed to go off."""
        links, meter = list(self.links.values()), self.meter
        self.leave_all()
        for link in links:
            link.close(LAST_WAIT_S)
        if meter is not None:
            meter.close(LAST_WAIT_S)

    def disarm(self) -> None:
        """Switches off what is armed."""
        for link in self.links.values():
            link.disarm()

    def is_live(self, device: str) -> bool:
        """Whether a controller shows what is now."""
        return device in self.states and self.states[device].is_live

    def _take_sample(self, device: str, link: ControllerLink, sample: Sample) -> None:
        if self.links.get(device) is link:
            self.histories[device].take(sample)
            self.sampled.emit(device)

    def _take_state(self, device: str, link: ControllerLink, state: LinkState) -> None:
        if self.links.get(device) is link:
            if not state.is_live:
                # What was before a loss says nothing about what is after it.
                self.histories[device] = LampHistory()
            self.states[device] = state
            self.changed.emit()

    def _take_reading(self, link: MeterLink, reading: MeterReading) -> None:
        if self.meter is link:
            self.reading = reading
            self.meter_read.emit()

    def _take_meter_state(self, link: MeterLink, state: LinkState) -> None:
        if self.meter is link:
            self.meter_state = state
            if not state.is_live:
                self.reading = None
            self.changed.emit()
