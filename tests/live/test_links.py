"""The links to controllers and meters against independent servers and clients, and bad ones."""

import os
import pty
import random
import socket
import threading
import time
import tty
import unittest
from collections.abc import Callable
from contextlib import ExitStack, closing, suppress

from hypothesis import given, settings
from hypothesis import strategies as st
from pyModbusTCP.client import ModbusClient
from pyModbusTCP.server import ModbusServer

from fuzz_live import served
from tests.listening import HERE, free_port
from tests.timing import PATIENCE_S, least_s
from vervain.files.demos import open_demo
from vervain.live.controller_link import Address, ControllerLink, LinkState, Sample, read_address
from vervain.live.meter_link import MeterLink, read_meter_address
from vervain.live.register_map import requests_for, usual_map, value_in
from vervain.model.live_entry import LiveEntry
from vervain.model.machine import PinRef, PortRef
from vervain.model.problem import Problem
from vervain.stand_in.controller import SimulatedController, StandIn, _words
from vervain.stand_in.meter import SimulatedMeter
from vervain.stand_in.simulated_machine import SimulatedMachine

PLANNED = open_demo("glazing-gantry-as-planned")
ENTRIES = (
    LiveEntry(port="IN 1", table="discrete input", address=3),
    LiveEntry(port="STOP", table="holding register", address=7, bit=4),
    LiveEntry(port="ENC 1", table="input register", address=10, words=2, scale=0.5),
    LiveEntry(port="OUT 1", table="coil", address=5),
)


def until(condition: Callable[[], bool], seconds: float = PATIENCE_S) -> bool:
    end = time.monotonic() + seconds
    while not condition():
        if time.monotonic() > end:
            return False
        time.sleep(0.005)
    return True


class Linked(unittest.TestCase):
    def setUp(self) -> None:
        self.samples: list[Sample] = []
        self.states: list[LinkState] = []
        self.port = free_port()

    def link(self, entries=ENTRIES, unit: int = 1) -> ControllerLink:
        link = ControllerLink(
            Address(HERE, self.port, unit), entries, self.samples.append, self.states.append
        )
        link.open()
        self.addCleanup(link.close)
        return link

    def serve(self) -> ModbusServer:
        server = ModbusServer(HERE, self.port, no_block=True)
        server.start()
        self.addCleanup(server.stop)
        return server

    def is_live(self) -> bool:
        return bool(self.states) and self.states[-1].is_live


class Reading(Linked):
    def test_every_table_is_read_from_another_ones_server_and_followed(self) -> None:
        bank = self.serve().data_bank
        bank.set_input_registers(10, [0xFFFF, 0xFFF6])
        bank.set_holding_registers(7, [0b10000])
        self.link()
        self.assertTrue(until(lambda: len(self.samples) > 1))
        first = self.samples[-1]
        self.assertEqual({"IN 1": False, "STOP": True, "OUT 1": False}, first.lamps)
        self.assertEqual({"ENC 1": -5.0}, first.numbers)
        lit = False

        def from_a_change_to_its_lamp_s() -> float:
            nonlocal lit
            lit = not lit
            bank.set_discrete_inputs(3, [lit])
            began = time.monotonic()
            self.assertTrue(until(lambda: self.samples[-1].lamps["IN 1"] is lit))
            return time.monotonic() - began

        self.assertLess(least_s(from_a_change_to_its_lamp_s, 0.5), 0.5)

    def test_an_armed_output_goes_off_by_itself_on_closing_and_after_a_loss(self) -> None:
        server = self.serve()
        bank = server.data_bank

        def is_on() -> bool:
            return bool(bank.get_coils(5)[0])

        link = self.link()
        self.assertTrue(until(self.is_live))
        with self.assertRaises(Problem):
            link.arm("IN 1", 1)
        link.arm("OUT 1", 0.3)
        self.assertTrue(until(is_on))
        self.assertTrue(until(lambda: not is_on()))
        link.arm("OUT 1", 1e9)
        self.assertTrue(until(is_on))
        link.disarm()
        self.assertTrue(until(lambda: not is_on()))
        # The line is lost while it is on: the first word after it is off, and it stays so.
        link.arm("OUT 1", 20)
        self.assertTrue(until(is_on))
        server.stop()
        self.assertTrue(until(lambda: not self.states[-1].is_live))
        self.assertEqual("", link.armed)
        # What is asked for while nobody answers is not done once somebody does.
        link.arm("OUT 1", 20)
        server.start()
        self.assertTrue(until(self.is_live))
        self.assertTrue(until(lambda: not is_on()))
        self.assertFalse(until(is_on, 0.3))
        link.arm("OUT 1", 20)
        self.assertTrue(until(is_on))
        link.close()
        self.assertFalse(is_on())


class BadServers(Linked):
    """Garbage, silence, half frames, closing in mid-frame, another unit: no sample, a clear word,
    and it comes back by itself.
    """

    def misbehave(self, answer: Callable[[socket.socket, bytes], None]) -> Callable[[], None]:
        """A server that answers every request in its own way; gives what ends it."""
        server = ExitStack()
        server.enter_context(served(answer, self.port))
        self.addCleanup(server.close)
        return server.close

    def test_what_is_no_answer_gives_no_sample_and_a_word_and_the_link_comes_back(self) -> None:
        rng = random.Random(20)

        def frame(request: bytes) -> bytes:
            size = 1 + (request[11] + 7) // 8 if request[7] < 3 else 1 + 2 * request[11]
            body = bytes([request[6], request[7], size - 1, *bytes(size - 1)])
            return request[:4] + len(body).to_bytes(2, "big") + body

        for name, answer in (
            ("silence", lambda here, request: None),
            ("garbage", lambda here, request: here.sendall(rng.randbytes(40))),
            ("closing", lambda here, request: here.close()),
            ("half", lambda here, request: here.sendall(frame(request)[:9])),
            ("mid-frame", lambda here, request: (here.sendall(frame(request)[:9]), here.close())),
            ("exception", lambda here, request: here.sendall(
                request[:4] + b"\0\3" + bytes([request[6], request[7] | 0x80, 2]))),
            ("short", lambda here, request: here.sendall(
                request[:4] + b"\0\3" + bytes([request[6], request[7], 0]))),
        ):  # fmt: skip
            with self.subTest(name):
                self.samples, self.states, self.port = [], [], free_port()
                end = self.misbehave(answer)
                link = self.link()
                self.assertTrue(until(lambda: any("lost" in s.words for s in self.states)))
                self.assertEqual([], self.samples)
                self.assertFalse(any(state.is_live for state in self.states))
                end()
                link.close()

    def test_it_comes_back_once_the_right_one_answers(self) -> None:
        end = self.misbehave(lambda here, request: here.sendall(b"GET / HTTP/1.1\r\n\r\n"))
        self.link()
        self.assertTrue(until(lambda: any("lost" in state.words for state in self.states)))
        end()
        time.sleep(0.1)
        self.serve()
        self.assertTrue(until(self.is_live))
        self.assertTrue(until(lambda: bool(self.samples)))

    def test_nobody_there_is_told_and_closing_does_not_wait_long(self) -> None:
        link = self.link()
        self.assertTrue(until(lambda: any("no answer" in state.words for state in self.states)))
        began = time.monotonic()
        link.close()
        self.assertLess(time.monotonic() - began, 2.5)

    def test_addresses_are_read_and_others_refused(self) -> None:
        self.assertEqual(Address("10.0.0.5", 502, 1), read_address(" 10.0.0.5 "))
        self.assertEqual(Address("bench", 5020, 3), read_address("bench:5020/3"))
        for bad in ("", ":502", "bench:", "bench:x", "bench:70000", "bench/300", "a b", "bench/x"):
            with self.subTest(bad), self.assertRaises(Problem):
                read_address(bad)


class StandInController(Linked):
    def test_another_ones_client_reads_lamps_and_counts_and_switches(self) -> None:
        machine = SimulatedMachine(PLANNED)
        server = SimulatedController(StandIn(machine), "K1", Address(HERE, self.port))
        server.open()
        self.addCleanup(server.close)
        client = ModbusClient(HERE, self.port, timeout=2, auto_open=True)
        self.addCleanup(client.close)
        entries = {entry.port: entry for entry in server.entries}

        def lamp(port: str) -> bool:
            return client.read_discrete_inputs(entries[port].address, 1)[0]

        self.assertTrue(lamp("IN 4") and lamp("STOP") and not lamp("IN 7"))
        machine.work("B4", True)
        self.assertFalse(lamp("IN 4"))
        machine.send("A", -30)
        self.assertEqual([0xFFFF, 0x10000 - 2000], client.read_input_registers(0, 2))
        self.assertTrue(client.write_single_coil(entries["OUT 1"].address, True))
        self.assertEqual({PortRef(device="K1", port="OUT 1")}, machine.on)
        self.assertEqual([True], client.read_coils(entries["OUT 1"].address, 1))
        self.assertTrue(client.write_multiple_coils(0, [False, True]))
        self.assertEqual({PortRef(device="K1", port="OUT 2")}, machine.on)
        # What the map has not is answered by an exception, and the server lives on.
        self.assertIsNone(client.read_discrete_inputs(500, 1))
        self.assertIsNotNone(client.read_discrete_inputs(0, 1))

    def test_a_port_that_is_taken_is_told(self) -> None:
        with closing(socket.create_server((HERE, self.port))), self.assertRaises(Problem) as caught:
            SimulatedController(
                StandIn(SimulatedMachine(PLANNED)), "K1", Address(HERE, self.port)
            ).open()
        self.assertIn(str(self.port), caught.exception.what)


class Maps(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.lists(
            st.builds(
                LiveEntry,
                port=st.text("ABC 12", min_size=1, max_size=4),
                table=st.sampled_from(["coil", "input register", "holding register"]),
                address=st.integers(0, 400),
                words=st.integers(1, 2),
                low_first=st.booleans(),
                scale=st.sampled_from([1.0, 0.5, -2.0]),
            ),
            max_size=30,
        ),
        st.integers(-20_000, 20_000),
    )
    def test_requests_read_every_entry_and_no_more_than_one_may_ask(self, entries, value) -> None:
        requests = requests_for(tuple(entries))
        for request in requests:
            self.assertLessEqual(request.size, 2000 if request.table == "coil" else 125)
        for entry in entries:
            words = _words(entry, value * entry.scale)
            found = []
            for request in requests:
                answer: list[int] = [0] * request.size
                at = entry.address - request.address
                if request.table == entry.table and at >= 0 and at + len(words) <= request.size:
                    answer[at : at + len(words)] = words
                    found.append(value_in(entry, request, answer))
            expected = float(bool(value)) if entry.table == "coil" else value * entry.scale
            if entry.table != "coil" and entry.words == 1:
                expected = ((value + 0x8000) % 0x10000 - 0x8000) * entry.scale
            self.assertIn(expected, found)

    def test_the_usual_map_shows_every_input_counter_and_output_once(self) -> None:
        part = next(p for p in PLANNED.parts if p.kind == "controller")
        entries = usual_map(part)
        self.assertEqual(len(entries), len({entry.port for entry in entries}))
        places = [(e.table, e.address + n) for e in entries for n in range(e.words)]
        self.assertEqual(len(places), len(set(places)))
        self.assertLessEqual({"IN 1", "STOP", "ENC 1", "OUT 1"}, {e.port for e in entries})


class Meters(unittest.TestCase):
    def setUp(self) -> None:
        self.port = free_port()
        self.readings: list = []
        self.states: list[LinkState] = []

    def link(self) -> MeterLink:
        link = MeterLink(Address(HERE, self.port), self.readings.append, self.states.append)
        link.open()
        self.addCleanup(link.close)
        return link

    def meter(self) -> SimulatedMeter:
        meter = SimulatedMeter(StandIn(SimulatedMachine(PLANNED)), Address(HERE, self.port))
        meter.open()
        self.addCleanup(meter.close)
        return meter

    def test_a_plain_socket_speaks_to_the_stand_in(self) -> None:
        meter = self.meter()
        meter.probes = tuple(PinRef(device="G2", port="OUT", pin=pin) for pin in ("1", "2"))
        with closing(socket.create_connection((HERE, self.port), 3)) as here:
            lines = here.makefile("r")
            for command, answer in (
                ("*IDN?", "Vervain,"), ("CONF:VOLT:DC", ""), ("READ?", "+2.39"),
                ("BLORP", ""), ("SYST:ERR?", "-113,"), ("SYST:ERR?", '+0,"No error"'),
                ("conf:res", ""), ("READ?", "+1.2"),
            ):  # fmt: skip
                here.sendall(f"{command}\n".encode())
                if answer:
                    self.assertTrue(lines.readline().startswith(answer), command)

    def test_the_link_names_the_meter_follows_the_unit_and_knows_open(self) -> None:
        meter, link = self.meter(), self.link()
        self.assertTrue(until(lambda: bool(self.readings)))
        self.assertEqual("Vervain Stand-in meter", self.states[-1].words)
        meter.probes = tuple(PinRef(device="G2", port="OUT", pin=pin) for pin in ("1", "2"))
        self.assertTrue(until(lambda: abs(self.readings[-1].value - 24) < 0.3))
        link.measure("Ω")
        meter.probes = None
        self.assertTrue(until(lambda: self.readings[-1].unit == "Ω"))
        self.assertTrue(until(lambda: self.readings[-1].value == float("inf")))
        link.measure("mm")
        self.assertEqual("Ω", link.wanted)

    def test_a_meter_on_a_serial_line_is_read_as_well(self) -> None:
        ours, theirs = pty.openpty()
        tty.setraw(theirs)
        meter = SimulatedMeter(StandIn(SimulatedMachine(PLANNED)), Address(HERE, 0))
        meter.probes = tuple(PinRef(device="G2", port="OUT", pin=pin) for pin in ("1", "2"))
        lines, answers = os.fdopen(ours, "rb", 0), os.fdopen(os.dup(ours), "wb", 0)
        threading.Thread(target=self.serve_line, args=(meter, lines, answers), daemon=True).start()
        address = read_meter_address(f"{os.ttyname(theirs)} 19200")
        self.assertEqual(19200, address.speed)
        link = MeterLink(address, self.readings.append, self.states.append)
        link.open()
        self.addCleanup(link.close)
        self.assertTrue(until(lambda: bool(self.readings)), self.states)
        self.assertAlmostEqual(24, self.readings[-1].value, delta=0.3)
        link.close()
        os.close(theirs)

    def serve_line(self, meter: SimulatedMeter, lines, answers) -> None:
        with lines, answers, suppress(OSError):
            meter.serve(lines, answers)

    def test_addresses_of_meters_are_read_and_others_refused(self) -> None:
        self.assertEqual(Address("bench", 5025), read_meter_address("bench"))
        self.assertEqual(("/dev/ttyUSB0", 9600), read_meter_address(" /dev/ttyUSB0 "))
        for bad in ("/dev/ttyUSB0 fast", "/dev/ttyUSB0 9600 8", "/dev/ttyUSB0 0", "bench:x", ""):
            with self.subTest(bad), self.assertRaises(Problem):
                read_meter_address(bad)

    def test_what_is_no_meter_is_told_and_gives_no_reading(self) -> None:
        for said in (
            b"hello\n",
            b"A,B,C\n1_0\n",
            b"A,B,C\nNAN\n",
            b"A,B,C\nnothing\n",
            b"\xff\xfe\n",
        ):
            with self.subTest(said):
                self.port, self.states, self.readings = free_port(), [], []
                listening = socket.create_server((HERE, self.port))

                def serve(listening=listening, said=said) -> None:
                    here, _ = listening.accept()
                    with here:
                        here.sendall(said)
                        time.sleep(0.5)

                threading.Thread(target=serve, daemon=True).start()
                link = self.link()
                self.assertTrue(until(lambda: any("lost" in s.words for s in self.states)))
                self.assertEqual([], self.readings)
                link.close()
                listening.close()
