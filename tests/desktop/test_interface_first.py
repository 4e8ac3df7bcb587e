"""A worker stands still while the interface thread is claimed, and never for long at once."""

import time
import unittest

from PyQt6.QtCore import QEventLoop, QTimer

from tests.timing import least_s
from vervain.desktop import interface_first
from vervain.desktop.app import make_application
from vervain.desktop.interface_first import claim, let_the_interface_go_first, settled


def waited_s() -> float:
    """How long a worker that asks now stands still."""
    start = time.monotonic()
    let_the_interface_go_first()
    return time.monotonic() - start


class Claims(unittest.TestCase):
    def setUp(self) -> None:
        make_application()
        interface_first._until = 0.0

    def claimed_in_a_loop(self, seconds: float) -> None:
        loop = QEventLoop()
        QTimer.singleShot(0, lambda: (claim(seconds), loop.quit()))
        loop.exec()

    def test_a_worker_waits_until_the_claim_is_over(self) -> None:
        self.claimed_in_a_loop(0.4)
        self.assertGreater(waited_s(), 0.05)
        self.assertLess(least_s(waited_s, 0.05), 0.05)

    def test_no_claim_starves_a_worker(self) -> None:
        self.claimed_in_a_loop(30.0)
        waited = waited_s()
        interface_first._until = 0.0
        self.assertGreater(waited, 0.2)
        self.assertLess(waited, 10.0)

    def test_what_was_claimed_for_long_ends_once_it_is_done(self) -> None:
        self.claimed_in_a_loop(30.0)
        settled()
        waited_s()
        self.assertLess(least_s(waited_s, 0.05), 0.05)

    def test_without_a_loop_that_paints_nothing_is_claimed(self) -> None:
        claim(30.0)
        self.assertLess(least_s(waited_s, 0.05), 0.05)
