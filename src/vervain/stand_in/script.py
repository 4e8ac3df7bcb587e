"""What is done to a simulated machine while it runs, line by line, from a terminal or a script.

work B4            press, open, shut: until it is let go
work S2 1 2        a selector, to the position that joins two pins
release B4
switch K1 OUT 1 on
send X 100         moves an axis, in its unit
wheel S3 -1        turns a hand wheel, in turns to the right
probe G2 OUT 1 / G2 OUT 2    the meter's red and black probe
cut, short, exchange, swap, turn, shift, unplug, set     faults, as in `faults`
mend               takes all faults out
look               what the lamps, counters and the meter show
"""

from vervain.edits.device_edits import find_device
from vervain.edits.pin_names import pin_written
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.model.problem import Problem
from vervain.stand_in.controller import StandIn
from vervain.stand_in.faults import with_faults
from vervain.stand_in.meter import SimulatedMeter
from vervain.stand_in.simulated_machine import SimulatedMachine

FAULTS = ("cut", "short", "exchange", "swap", "turn", "shift", "unplug", "set")
KINDS = "work, release, switch, send, wheel, probe, mend, look, or a fault"


class StandInBench:
    """A simulated machine with its stand-ins, and the faults in it."""

    def __init__(self, design: Machine, faults: list[str], meter: SimulatedMeter | None = None,
                 stand_in: StandIn | None = None) -> None:  # fmt: skip
        self.design, self.faults = design, list(faults)
        self.stand_in = stand_in or StandIn(self._made())
        self.meter = meter

    def _made(self) -> SimulatedMachine:
        faulty = with_faults(self.design, self.faults)
        return SimulatedMachine(faulty.machine, faulty.touching, self.design)

    def do(self, line: str) -> str:
        """Does what a line says; gives what there is to tell. Raises `Problem`."""
        kind, _, rest = line.strip().partition(" ")
        rest = rest.strip()
        if kind in FAULTS:
            self._rebuild([*self.faults, line.strip()])
            return ""
        acts = {
            "work": self._work, "release": self._release, "switch": self._switch,
            "send": self._send, "wheel": self._wheel, "probe": self._probe,
        }  # fmt: skip
        if kind == "mend":
            self._rebuild([])
        elif kind == "look":
            return self.look()
        elif kind in acts:
            return acts[kind](rest)
        elif line.strip():
            raise Problem(f"“{line.strip()}” is not understood.", remedy=f"There is {KINDS}.")
        return ""

    def _rebuild(self, faults: list[str]) -> None:
        before, self.faults = self.faults, faults
        try:
            made = self._made()
        except Problem:
            self.faults = before
            raise
        with self.stand_in.lock:
            old = self.stand_in.machine
            made.worked, made.on, made.positions = old.worked, old.on, old.positions
            made.turns = old.turns
            self.stand_in.machine = made

    def _work(self, rest: str) -> str:
        name, *pins = rest.split()
        find_device(self.design, name)
        position = None
        if len(pins) == 2:
            a, b = (pin_written(self.design, f"{name} {pin}") for pin in pins)
            position = (a, b)
        self.stand_in.do(lambda machine: machine.work(name, True, position))
        return ""

    def _release(self, rest: str) -> str:
        find_device(self.design, rest)
        self.stand_in.do(lambda machine: machine.work(rest, False))
        return ""

    def _switch(self, rest: str) -> str:
        words, _, how = rest.rpartition(" ")
        name, _, port = words.partition(" ")
        if how not in ("on", "off"):
            raise Problem("On or off?", remedy="As in: switch K1 OUT 1 on")
        find_device(self.design, name)
        ref = PortRef(device=name, port=port)
        self.stand_in.do(lambda machine: machine.switch(ref, how == "on"))
        return ""

    def _send(self, rest: str) -> str:
        axis, _, text = rest.rpartition(" ")
        try:
            distance = float(text)
        except ValueError:
            raise Problem(f"“{text}” is no distance.", remedy="As in: send X 100") from None
        if axis not in self.stand_in.machine.positions:
            known = ", ".join(self.stand_in.machine.positions)
            raise Problem(f"There is no axis “{axis}”.", remedy=f"There are {known}.")
        moved = self.stand_in.do(lambda machine: machine.send(axis, distance))
        return f"{axis} moved by {moved:g}"

    def _wheel(self, rest: str) -> str:
        name, _, text = rest.rpartition(" ")
        find_device(self.design, name)
        try:
            turns = float(text)
        except ValueError:
            raise Problem(f"“{text}” is no number of turns.", remedy="As in: wheel S3 1") from None
        self.stand_in.do(lambda machine: machine.turn_wheel(name, turns))
        return ""

    def _probe(self, rest: str) -> str:
        red, mark, black = rest.partition("/")
        if self.meter is None or not mark:
            raise Problem("Two pins are probed.", remedy="As in: probe G2 OUT 1 / G2 OUT 2")
        pins: tuple[PinRef, PinRef] = (
            pin_written(self.design, red.strip()), pin_written(self.design, black.strip()),
        )  # fmt: skip
        self.meter.probes = pins
        return ""

    def look(self) -> str:
        """What the lamps, the counters and the meter show now."""

        def shown(machine: SimulatedMachine) -> list[str]:
            lit = [f"{p.device} {p.port}" for p, is_lit in machine.lit().items() if is_lit]
            counts = [f"{p.device} {p.port} {n}" for p, n in machine.counts().items()]
            return [f"lit: {', '.join(lit) or 'none'}", f"counts: {', '.join(counts) or 'none'}"]

        told = list(self.stand_in.do(shown))
        if self.meter is not None:
            told.append(f"meter: {self.meter.shown('V'):.4g} V, {self.meter.shown('Ω'):.4g} Ω")
        return "\n".join(told)
