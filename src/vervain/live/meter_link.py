"""A bench meter by SCPI (IEEE 488.2 and SCPI-99), over TCP or a serial line: it is set to volts,
ohms or amps, and read over and over.
"""

import logging
import re
import threading
import time
from collections.abc import Callable
from typing import Any, NamedTuple

from vervain.live.controller_link import Address, LinkState, read_address
from vervain.model.problem import Problem

log = logging.getLogger("vervain")
# SCPI-99, 7.2.1.4: what is over the range is 9.9E37.
OVER_RANGE = 9.0e37
METER_PORT, FASTEST_BAUD = 5025, 4_000_000
PERIOD_S, PATIENCE_S, RETRY_S = 0.2, 3.0, 1.0
FUNCTIONS = {"V": "CONF:VOLT:DC", "Ω": "CONF:RES", "A": "CONF:CURR:DC"}


# IEEE 488.2-1992, 8.7.2 to 8.7.4: the numbers that a device may answer (NR1, NR2, NR3).
NUMBER = re.compile(r"[+-]?(\d+(\.\d*)?|\.\d+)(E[+-]?\d+)?", re.ASCII | re.IGNORECASE)


class SerialLine(NamedTuple):
    """A serial line: its device, and its speed in baud."""

    device: str
    speed: int = 9600


class MeterReading(NamedTuple):
    """What the meter shows, in V, Ω or A; infinite over its range."""

    value: float
    unit: str


def read_meter_address(text: str) -> Address | SerialLine:
    """Where a meter is, as it is typed: "bench", "bench:5025", "/dev/ttyUSB0", "/dev/ttyUSB0
    19200". Raises `Problem`.
    """
    words = text.split()
    if not text.strip().startswith("/dev/"):
        return read_address(text if ":" in text else f"{text.strip()}:{METER_PORT}")
    if len(words) == 1:
        return SerialLine(words[0])
    if len(words) == 2 and words[1].isdecimal() and 0 < int(words[1]) <= FASTEST_BAUD:
        return SerialLine(words[0], int(words[1]))
    raise Problem(f"“{text}” is no serial line.", remedy="As in: /dev/ttyUSB0 9600")


def number_in(answer: str) -> float:
    """The number that a meter answered. Raises `ConnectionError` where it is none."""
    text = answer.strip(" \t\r\n")
    if NUMBER.fullmatch(text) is None:
        raise ConnectionError("the meter shows no number")
    return float(text)


class MeterLink:
    """Reads a meter on a thread of its own until it is closed. `on_reading` and `on_state` are
    called on that thread.
    """

    def __init__(
        self,
        address: Address | SerialLine,
        on_reading: Callable[[MeterReading], object],
        on_state: Callable[[LinkState], object],
    ) -> None:
        self.address = address
        self.on_reading, self.on_state = on_reading, on_state
        self.wanted = "V"
        self._closing = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def open(self) -> None:
        """Begins to read."""
        self._thread.start()

    def close(self, wait_s: float = PATIENCE_S + RETRY_S) -> None:
        """Ends reading, and waits for the end."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(wait_s)

    def measure(self, unit: str) -> None:
        """Sets what is measured from the next reading on: V, Ω or A; others leave it as it is."""
        if unit in FUNCTIONS:
            self.wanted = unit

    def _run(self) -> None:
        while not self._closing.is_set():
            try:
                self._read_on()
            except Exception as error:
                # Whatever a stranger's device answers ends this connection, and not the link.
                log.info("the meter at %s was lost: %s", self.address, error)
                words = " ".join(str(error).split())[:80] or type(error).__name__
                self.on_state(LinkState(f"lost: {words}"))
            self._closing.wait(RETRY_S)

    def _read_on(self) -> None:
        import pyvisa

        address = self.address
        if isinstance(address, SerialLine):
            name = address.device
            own: dict[str, Any] = {"baud_rate": address.speed}
            resource = f"ASRL{address.device}::INSTR"
        else:
            name, own = address.host, {}
            resource = f"TCPIP::{address.host}::{address.port}::SOCKET"
        self.on_state(LinkState(f"connecting to {name}"))
        manager = pyvisa.ResourceManager("@py")
        meter: Any = None
        try:
            meter = manager.open_resource(
                resource, read_termination="\n", write_termination="\n",
                timeout=int(PATIENCE_S * 1000), open_timeout=int(PATIENCE_S * 1000), **own,
            )  # fmt: skip
            name = meter.query("*IDN?").strip()
            if name.count(",") < 2:
                raise ConnectionError(f"no meter: it is called “{name[:40]}”")
            self._measure_on(meter, name)
        finally:
            if meter is not None:
                meter.close()
            manager.close()

    def _measure_on(self, meter: Any, name: str) -> None:
        maker, model, *_ = (part.strip() for part in name.split(","))
        self.on_state(LinkState(f"{maker} {model}"[:60], is_live=True))
        unit = ""
        while not self._closing.is_set():
            began = time.monotonic()
            if unit != self.wanted:
                unit = self.wanted
                meter.write(FUNCTIONS[unit])
            value = number_in(meter.query("READ?"))
            if abs(value) > OVER_RANGE:
                value = float("inf")
            # What was read while another unit was wanted is not shown as that.
            if unit == self.wanted:
                self.on_reading(MeterReading(value, unit))
            self._closing.wait(max(0.0, PERIOD_S - (time.monotonic() - began)))
