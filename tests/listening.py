"""Where servers listen in tests: at ports of the test's own process, that nobody else is given."""

import itertools
import socket
from collections.abc import Iterator
from contextlib import closing

HERE = "127.0.0.1"
# Below those that Linux gives to outgoing connections (from 32768): a port found free there may
# be somebody's a moment later.
FIRST, LAST, EACH = 20_000, 32_000, 100


def _own_ports() -> Iterator[int]:
    """Without end, the ports of this process: it holds the first of a hundred as its claim."""
    for first in range(FIRST, LAST, EACH):
        claim = socket.socket()
        try:
            claim.bind((HERE, first))
        except OSError:
            claim.close()
            continue
        _claims.append(claim)
        return itertools.cycle(range(first + 1, first + EACH))
    raise OSError(f"every port from {FIRST} to {LAST} is taken")


def free_port() -> int:
    """A port nobody listens at, and nobody else will: not that of the call before."""
    for _ in range(EACH):
        port = next(_ports)
        with closing(socket.socket()) as tried:
            # What closed a moment ago leaves its port waiting, which servers here do not mind.
            tried.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                tried.bind((HERE, port))
            except OSError:
                continue
            return port
    raise OSError("every port of this process is taken")


_claims: list[socket.socket] = []
_ports = _own_ports()
