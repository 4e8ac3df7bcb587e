"""A stand-in for a bench meter: an SCPI server whose probes lie at pins of a simulated machine."""

import socketserver
import threading
from typing import Any

from vervain.live.controller_link import Address
from vervain.model.machine import PinRef
from vervain.model.problem import Problem
from vervain.stand_in.controller import StandIn
from vervain.stand_in.simulated_machine import SimulatedMachine

NAME = "Vervain,Stand-in meter,0,1"
OVER_RANGE = 9.9e37
UNITS = {"CONF:VOLT:DC": "V", "CONF:RES": "Ω", "CONF:CURR:DC": "A"}
LONGEST_LINE = 200


class SimulatedMeter:
    """Serves a meter until it is closed. Its probes are put somewhere, red first; with none it
    shows what a meter shows in the air.
    """

    def __init__(self, stand_in: StandIn, address: Address) -> None:
        self.stand_in, self.address = stand_in, address
        self.probes: tuple[PinRef, PinRef] | None = None
        self._server: socketserver.ThreadingTCPServer | None = None

    def open(self) -> None:
        """Begins to listen. Raises `Problem` where the port is taken."""
        meter = self

        class Handler(socketserver.StreamRequestHandler):
            def handle(self) -> None:
                meter.serve(self.rfile, self.wfile)

        class Server(socketserver.ThreadingTCPServer):
            allow_reuse_address, daemon_threads = True, True

        try:
            self._server = Server((self.address.host, self.address.port), Handler)
        except OSError as error:
            where = f"{self.address.host}:{self.address.port}"
            raise Problem(f"{where} cannot be listened at: {error.strerror}.") from None
        threading.Thread(target=self._server.serve_forever, daemon=True).start()

    def close(self) -> None:
        """Ends listening."""
        if self._server is not None:
            self._server.shutdown()
            self._server.server_close()

    def serve(self, lines: Any, answers: Any) -> None:
        """One connection: a command a line; what is no command is answered as SCPI does, by an
        error in the queue.
        """
        unit = "V"
        errors: list[str] = []
        while line := lines.readline(LONGEST_LINE):
            command = line.decode("ascii", "replace").strip().upper()
            if command == "*IDN?":
                answer = NAME
            elif command in UNITS:
                unit = UNITS[command]
                continue
            elif command == "READ?":
                answer = f"{self.shown(unit):+.8E}"
            elif command == "SYST:ERR?":
                answer = errors.pop(0) if errors else '+0,"No error"'
            else:
                errors.append('-113,"Undefined header"')
                continue
            answers.write(f"{answer}\n".encode("ascii"))
            answers.flush()

    def shown(self, unit: str) -> float:
        """What the meter shows in a unit."""
        if self.probes is None:
            return OVER_RANGE if unit == "Ω" else 0.0
        red, black = self.probes

        def look(machine: SimulatedMachine) -> float:
            if unit == "V":
                return machine.volts(red, black)
            return machine.ohms(red, black) if unit == "Ω" else machine.amps(red)

        value = float(self.stand_in.do(look))
        return OVER_RANGE if value == float("inf") else value
