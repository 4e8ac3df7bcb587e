"""A controller and a meter that answer what nobody meant them to: no false reading, no stuck link.

The server keeps to what it is asked now and then; else it cuts, stretches, mislabels or withholds
its answer. What the link then tells may only be what a whole and well-formed answer said.
"""

import contextlib
import random
import socket
import threading
import time
from collections.abc import Callable, Iterator

from vervain.live.controller_link import Address, ControllerLink, LinkState, Sample
from vervain.live.meter_link import MeterLink, MeterReading
from vervain.model.live_entry import LiveEntry

HERE = "127.0.0.1"
LONGEST_S, QUIET_S, CLOSED_S = 0.5, 3.0, 4.0
# What is true of the controller, and what a broken answer says instead.
TRUE, FALSE = 0xA5, 0x5A
ENTRIES = (
    LiveEntry(port="IN 1", table="discrete input", address=0),
    LiveEntry(port="STOP", table="holding register", address=7, bit=0),
    LiveEntry(port="ENC 1", table="input register", address=10, words=2),
    LiveEntry(port="OUT 1", table="coil", address=0),
)
TRUE_WORDS = (TRUE << 24) | (TRUE << 16) | (TRUE << 8) | TRUE
TRUE_SIGNED = TRUE_WORDS - (1 << 32)
METER_TEXTS = (
    "12.5", "+1.25E+01", "9.9E37", "-0.0", "NAN", "", "volts", "1,2", "1e999", "12.5V", "0x10",
    "12.5\r", "\x00", "１２", "1_0", " ", "--1",
)  # fmt: skip


@contextlib.contextmanager
def served(answer: Callable[[socket.socket, bytes], None], port: int = 0) -> Iterator[int]:
    """A server on a port, 0 for any that is free, that answers each request in its own way; gives
    the port.
    """
    listening = socket.create_server((HERE, port))
    ended = threading.Event()

    def serve() -> None:
        while not ended.is_set():
            try:
                here, _ = listening.accept()
            except OSError:
                return
            with here, contextlib.suppress(OSError):
                here.settimeout(QUIET_S)
                while request := here.recv(300):
                    answer(here, request)

    threading.Thread(target=serve, daemon=True).start()
    try:
        yield listening.getsockname()[1]
    finally:
        ended.set()
        # A thread that waits in accept would keep the port.
        with contextlib.suppress(OSError):
            listening.shutdown(socket.SHUT_RDWR)
        listening.close()


def modbus_answer(request: bytes, chance: random.Random, good: float) -> bytes:
    """An answer to a read: true and whole with the chance `good`, else with its frame broken and
    something else in it.
    """
    if len(request) < 12:
        return b""
    asked = int.from_bytes(request[10:12], "big")
    size = (asked + 7) // 8 if request[7] < 3 else 2 * asked
    body = bytearray([request[6], request[7], size, *[TRUE] * size])
    head = bytearray(request[:4])
    if chance.random() < good:
        return bytes(head) + len(body).to_bytes(2, "big") + bytes(body)
    body[3:] = [FALSE] * size
    length = len(body)
    match chance.randrange(7):
        case 0:
            head[chance.randrange(2)] ^= 1 + chance.randrange(255)
        case 1:
            head[2 + chance.randrange(2)] ^= 1 + chance.randrange(255)
        case 2:
            body[0] ^= 1 + chance.randrange(255)
        case 3:
            body[1] ^= 1 + chance.randrange(127)
        case 4:
            del body[chance.randrange(2, len(body)) :]
        case 5:
            body[1] |= 0x80
            del body[3:]
            length = 3
        case _:
            return chance.randbytes(chance.randrange(40))
    return bytes(head) + length.to_bytes(2, "big") + bytes(body)


def controller(chance: random.Random) -> str:
    """Reads a controller that answers badly. Raises `AssertionError` for a false sample, or for a
    link that does not close.
    """
    samples: list[Sample] = []
    states: list[LinkState] = []
    good = chance.choice((0.3, 0.9, 0.98))

    def answer(here: socket.socket, request: bytes) -> None:
        here.sendall(modbus_answer(request, chance, good))
        if chance.random() > good:
            here.close()

    with served(answer) as port:
        link = ControllerLink(Address(HERE, port), ENTRIES, samples.append, states.append)
        _read_and_close(link)
    for sample in samples:
        assert sample.lamps == {"IN 1": True, "STOP": True, "OUT 1": True}, sample
        assert sample.numbers in ({"ENC 1": TRUE_SIGNED}, {"ENC 1": TRUE_WORDS}), sample
    assert states, "nothing was said of the link"
    return "accepted" if samples else "refused with its place"


def meter(chance: random.Random) -> str:
    """Reads a meter that answers badly. Raises as `controller` does."""
    readings: list[MeterReading] = []
    states: list[LinkState] = []
    said: list[str] = []

    def answer(here: socket.socket, request: bytes) -> None:
        if b"*IDN?" in request:
            here.sendall(chance.choice((b"Bench,M1,1,0\n", b"Bench,M1,1,0\n", b"\xff,\xfe,\n")))
        elif b"READ?" in request:
            text = chance.choice(METER_TEXTS)
            said.append(text)
            data = text.encode() + b"\n"
            cut = chance.randrange(len(data)) if chance.random() < 0.1 else len(data)
            here.sendall(data[:cut])

    with served(answer) as port:
        _read_and_close(MeterLink(Address(HERE, port), readings.append, states.append))
    plain = {12.5, float("inf"), -0.0}
    assert all(reading.value in plain for reading in readings), (readings, said)
    assert states, "nothing was said of the link"
    return "accepted" if readings else "refused with its place"


def _read_and_close(link: ControllerLink | MeterLink) -> None:
    link.open()
    time.sleep(LONGEST_S)
    began = time.monotonic()
    link.close()
    took = time.monotonic() - began
    assert took < CLOSED_S, f"closing took {took:.1f} s"
