"""What the program is built on is pinned with hashes, installed as pinned, and states a licence."""

import unittest

from audit import LOCKS, local_faults, loose_lines, pins, unstated_licences


class Audit(unittest.TestCase):
    def test_the_locks_hold_what_is_installed(self) -> None:
        self.assertEqual([], [fault for lock in LOCKS for fault in local_faults(lock)])
        self.assertEqual([], unstated_licences())

    def test_a_loose_line_and_a_missing_hash_are_seen(self) -> None:
        text = "one==1.0 \\\n    --hash=sha256:" + "0" * 64 + "\n    # via two\ntwo==2\nthree>=3\n"
        self.assertEqual({"one": ("1.0", 1), "two": ("2", 0)}, pins(text))
        self.assertEqual(["three>=3"], loose_lines(text))
