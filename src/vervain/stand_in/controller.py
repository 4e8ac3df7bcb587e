"""A stand-in for a controller: a Modbus/TCP server that shows a simulated machine by its map, and
switches its outputs.
"""

import asyncio
import logging
import threading
from collections.abc import Callable
from typing import Any

from vervain.live.controller_link import Address
from vervain.live.register_map import register_map
from vervain.model.live_entry import LiveEntry, ModbusTable
from vervain.model.machine import PortRef
from vervain.model.problem import Problem
from vervain.stand_in.simulated_machine import SimulatedMachine

TABLES: tuple[ModbusTable, ...] = (
    "coil", "discrete input", "holding register", "input register",
)  # fmt: skip
# Function codes of the Modbus application protocol V1.1b3, 6.
READ_OF = {1: "coil", 2: "discrete input", 3: "holding register", 4: "input register"}
WRITE_COILS = (5, 15)
PATIENCE_S = 5.0


class StandIn:
    """A machine that more than one thread looks at: what is done to it, and what it shows, one
    after the other.
    """

    def __init__(self, machine: SimulatedMachine) -> None:
        self.machine = machine
        self.lock = threading.Lock()

    def do(self, act: Callable[[SimulatedMachine], Any]) -> Any:
        """Does something to the machine, and gives what comes of it."""
        with self.lock:
            return act(self.machine)


class SimulatedController:
    """Serves one controller of a machine until it is closed; `address` is where it listens."""

    def __init__(self, stand_in: StandIn, device: str, address: Address) -> None:
        self.stand_in, self.device, self.address = stand_in, device, address
        self.entries = stand_in.do(lambda machine: register_map(machine.queries, device))
        self._loop = asyncio.new_event_loop()
        self._server: Any = None
        self._failure: Exception | None = None
        self._listening = threading.Event()
        self._thread = threading.Thread(target=self._run, daemon=True)

    def open(self) -> None:
        """Begins to listen. Raises `Problem` where the port is taken."""
        self._thread.start()
        self._listening.wait(PATIENCE_S)
        if self._failure is not None:
            raise Problem(
                f"{self.address.host}:{self.address.port} cannot be listened at: {self._failure}."
            )

    def close(self) -> None:
        """Ends listening, and every connection."""
        if self._thread.is_alive():
            asyncio.run_coroutine_threadsafe(self._end(), self._loop).result(PATIENCE_S)
            self._thread.join(PATIENCE_S)

    async def _end(self) -> None:
        if self._server is not None:
            await self._server.shutdown()

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        try:
            self._loop.run_until_complete(self._serve())
        except OSError as error:
            self._failure = error
        finally:
            self._listening.set()
            self._loop.close()

    async def _serve(self) -> None:
        from pymodbus.server import ModbusTcpServer
        from pymodbus.simulator import DataType, SimData, SimDevice

        logging.getLogger("pymodbus").setLevel(logging.CRITICAL)

        def block(table: ModbusTable) -> list[Any]:
            size = max((e.address + e.words for e in self.entries if e.table == table), default=1)
            is_bits = table in ("coil", "discrete input")
            kind = DataType.BITS if is_bits else DataType.REGISTERS
            return [SimData(0, count=size, values=False if is_bits else 0, datatype=kind)]

        coils, inputs, holding, registers = (block(table) for table in TABLES)
        device = SimDevice(
            self.address.unit, simdata=(coils, inputs, holding, registers), action=self._act
        )
        server = ModbusTcpServer(device, address=(self.address.host, self.address.port))
        self._server = server
        if not await server.listen():
            raise OSError("it is taken, or not of this computer")
        self._listening.set()
        await server.serving

    async def _act(
        self,
        function: int,
        start: int,
        address: int,
        count: int,
        registers: list[Any],
        values: list[Any] | None,
    ) -> None:
        """Fills in what a request reads, and carries out what it writes."""
        if function in WRITE_COILS and values is not None:
            for number, value in enumerate(values):
                self._switch(address + number, bool(value))
            return
        table = READ_OF.get(function)
        if table is None:
            return
        shown = self.stand_in.do(self._shown)
        for entry in self.entries:
            if entry.table != table:
                continue
            # Single bits are packed, sixteen to a word.
            first = entry.address // 16 if entry.is_bits else entry.address
            for number, word in enumerate(_words(entry, shown.get(entry.port, 0.0))):
                at = first + number - start
                if 0 <= at < len(registers):
                    registers[at] = _with_bit(entry, registers[at], word)

    def _shown(self, machine: SimulatedMachine) -> dict[str, float]:
        """By port what the controller shows."""
        lamps = {port.port: float(lit) for port, lit in machine.lit().items()
                 if port.device == self.device}  # fmt: skip
        counts = {port.port: float(count) for port, count in machine.counts().items()
                  if port.device == self.device}  # fmt: skip
        on = {port.port: 1.0 for port in machine.on if port.device == self.device}
        return lamps | counts | on

    def _switch(self, address: int, is_on: bool) -> None:
        for entry in self.entries:
            if entry.table == "coil" and entry.address == address:
                port = PortRef(device=self.device, port=entry.port)
                self.stand_in.do(lambda machine: machine.switch(port, is_on))  # noqa: B023


def _words(entry: LiveEntry, value: float) -> list[int]:
    """A value as the bits or registers that show it, in the order of their addresses."""
    if entry.is_bits or entry.bit is not None:
        return [int(bool(value))]
    number = round(value / entry.scale) & ((1 << 16 * entry.words) - 1)
    words = [number >> 16 * n & 0xFFFF for n in range(entry.words)]
    return words if entry.low_first else words[::-1]


def _with_bit(entry: LiveEntry, before: int, word: int) -> int:
    bit = entry.address % 16 if entry.is_bits else entry.bit
    if bit is None:
        return word
    return (int(before) & ~(1 << bit)) | word << bit
