"""A controller's inputs, read over Modbus/TCP as often as the bench looks at them. Reading only,
but for one output that was armed for one step, and goes off by itself.
"""

import logging
import threading
import time
from collections.abc import Callable
from typing import Any, NamedTuple

from vervain.live.register_map import Request, requests_for, value_in
from vervain.model.live_entry import LiveEntry
from vervain.model.problem import Problem

log = logging.getLogger("vervain")
# 40 reads a second show a switch as it is worked; a controller that does not answer in a second is
# tried again after another.
PERIOD_S, PATIENCE_S, RETRY_S = 0.025, 1.0, 1.0
PORT, UNIT = 502, 1
LONGEST_ARMED_S = 30.0


class Address(NamedTuple):
    """Where a controller is: host, TCP port, Modbus unit."""

    host: str
    port: int = PORT
    unit: int = UNIT


class Sample(NamedTuple):
    """What a controller showed at one moment (of the monotonic clock), by port: lamps on or off,
    and numbers.
    """

    time_s: float
    lamps: dict[str, bool]
    numbers: dict[str, float]


class LinkState(NamedTuple):
    """How the link is, in words, and whether what it shows is of now."""

    words: str
    is_live: bool = False


def read_address(text: str) -> Address:
    """An address as it is typed: "10.0.0.5", "bench:5020", "bench:502/3" for unit 3. Raises
    `Problem`.
    """
    rest, mark, unit = text.strip().partition("/")
    host, colon, port = rest.rpartition(":") if ":" in rest else (rest, "", "")
    try:
        found = Address(host, int(port) if colon else PORT, int(unit) if mark else UNIT)
    except ValueError:
        found = Address("")
    if (
        not found.host
        or " " in found.host
        or not 0 < found.port < 65536
        or not 0 <= found.unit < 256
    ):
        raise Problem(f"“{text}” is no address.", remedy="Write host, host:port or host:port/unit.")
    return found


class ControllerLink:
    """Reads a controller on a thread of its own until it is closed. `on_sample` and `on_state` are
    called on that thread.
    """

    def __init__(
        self,
        address: Address,
        entries: tuple[LiveEntry, ...],
        on_sample: Callable[[Sample], object],
        on_state: Callable[[LinkState], object],
    ) -> None:
        self.address, self.entries = address, entries
        self.on_sample, self.on_state = on_sample, on_state
        self.requests = requests_for(entries)
        self._closing = threading.Event()
        self._lock = threading.Lock()
        # The coil that is to be on, until when on the monotonic clock.
        self._armed: tuple[LiveEntry, float] | None = None
        self._is_on: LiveEntry | None = None
        self._thread = threading.Thread(target=self._run, daemon=True)

    def open(self) -> None:
        """Begins to read."""
        self._thread.start()

    def close(self, wait_s: float = 2 * PATIENCE_S + RETRY_S) -> None:
        """Ends reading, and waits for the end; an armed output goes off first."""
        self._closing.set()
        if self._thread.is_alive():
            self._thread.join(wait_s)

    def arm(self, port: str, seconds: float) -> None:
        """Switches one output on for a time, of at most half a minute; another one goes off. Raises
        `Problem` where the map has no coil for it.
        """
        entry = next((e for e in self.entries if e.port == port and e.table == "coil"), None)
        if entry is None:
            raise Problem(f"{port} has no coil in the map: it cannot be switched from here.")
        with self._lock:
            self._armed = entry, time.monotonic() + min(seconds, LONGEST_ARMED_S)

    def disarm(self) -> None:
        """Switches the armed output off."""
        with self._lock:
            self._armed = None

    @property
    def armed(self) -> str:
        """The port of the output that is on from here; "" where none is."""
        with self._lock:
            return self._armed[0].port if self._armed is not None else ""

    def _run(self) -> None:
        while not self._closing.is_set():
            try:
                self._read_on()
            except Exception as error:
                # Whatever a stranger's device answers ends this connection, and not the link.
                log.info("the link to %s was lost: %s", self.address, error)
                self.on_state(LinkState(f"lost: {_reason(error)}"))
            # What was armed is not switched on again by itself.
            self.disarm()
            self._closing.wait(RETRY_S)

    def _read_on(self) -> None:
        """One connection, from its opening to its loss."""
        from pymodbus.client import ModbusTcpClient

        # What goes wrong is told by the link, once.
        logging.getLogger("pymodbus").setLevel(logging.CRITICAL)
        address = self.address
        self.on_state(LinkState(f"connecting to {address.host}"))
        client: Any = ModbusTcpClient(
            address.host, port=address.port, timeout=PATIENCE_S, retries=0, reconnect_delay=0
        )
        try:
            if not client.connect():
                self.on_state(LinkState(f"no answer from {address.host}:{address.port}"))
                return
            # What was on as the line was lost goes off before anything else, and what was armed
            # while nobody answered is not switched on.
            self.disarm()
            self._let_go(client)
            is_first = True
            while not self._closing.is_set():
                began = time.monotonic()
                sample = self._sample(client)
                if is_first:
                    self.on_state(LinkState("live", is_live=True))
                    is_first = False
                self.on_sample(sample)
                self._switch(client)
                self._closing.wait(max(0.0, PERIOD_S - (time.monotonic() - began)))
        finally:
            self.disarm()
            self._let_go(client)
            client.close()

    def _sample(self, client: Any) -> Sample:
        lamps: dict[str, bool] = {}
        numbers: dict[str, float] = {}
        for request in self.requests:
            answer = _ask(client, request, self.address.unit)
            for entry in self.entries:
                value = value_in(entry, request, answer)
                if value is not None and entry.is_lamp:
                    lamps[entry.port] = bool(value)
                elif value is not None:
                    numbers[entry.port] = value
        return Sample(time.monotonic(), lamps, numbers)

    def _switch(self, client: Any) -> None:
        """Brings the coils to what is armed."""
        with self._lock:
            if self._armed is not None and time.monotonic() >= self._armed[1]:
                self._armed = None
            wanted = self._armed[0] if self._armed is not None else None
        if self._is_on is not None and self._is_on != wanted:
            self._write(client, self._is_on, False)
            self._is_on = None
        if wanted is not None and self._is_on != wanted:
            self._write(client, wanted, True)
            self._is_on = wanted

    def _write(self, client: Any, entry: LiveEntry, is_on: bool) -> None:
        answer = client.write_coil(entry.address, is_on, device_id=self.address.unit)
        if answer.isError():
            raise ConnectionError(f"{entry.port} could not be switched ({answer})")

    def _let_go(self, client: Any) -> None:
        """Off on leaving; where the line is gone the controller's own watchdog has to do it."""
        entry = self._is_on
        if entry is None:
            return
        try:
            self._write(client, entry, False)
            self._is_on = None
        except Exception as error:
            log.warning("%s may still be on: %s", entry.port, error)


def _ask(client: Any, request: Request, unit: int) -> list[int] | list[bool]:
    """The answer to a request. Raises `ConnectionError` for an exception response or garbage."""
    reads = {
        "coil": client.read_coils, "discrete input": client.read_discrete_inputs,
        "holding register": client.read_holding_registers,
        "input register": client.read_input_registers,
    }  # fmt: skip
    answer = reads[request.table](request.address, count=request.size, device_id=unit)
    if answer.isError():
        raise ConnectionError(f"{request.table} {request.address}: {answer}")
    is_bits = request.table in ("coil", "discrete input")
    values = answer.bits if is_bits else answer.registers
    if len(values) < request.size:
        raise ConnectionError(f"{request.table} {request.address}: a short answer")
    return list(values)


def _reason(error: Exception) -> str:
    words = " ".join(str(error).split())
    return (words or type(error).__name__)[:80]
