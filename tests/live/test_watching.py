"""When a step passes by itself, and what is told when something else is seen; maps as text."""

import unittest

from vervain.bench.step import BenchStep, LampChange
from vervain.files.demos import open_demo
from vervain.live.controller_link import Sample
from vervain.live.map_text import map_text, read_map
from vervain.live.register_map import usual_map
from vervain.live.watching import KEPT_S, LampHistory, LampWatch, Watched
from vervain.model.live_entry import LiveEntry
from vervain.model.machine import PortRef
from vervain.model.problem import Problem

REST = {"IN 1": True, "IN 2": False, "IN 3": True, "OUT 1": False}
CONTROLLER = next(p for p in open_demo("glazing-gantry-as-planned").parts if p.kind == "controller")


def step(**does: str) -> BenchStep:
    lamps = tuple(
        LampChange(port=PortRef(device="K1", port=port.replace("_", " ")), does=way)
        for port, way in does.items()
    )
    return BenchStep(id="input B1", device="B1", do="", see="", why="", lamps=lamps)


def watch(wanted: BenchStep, *changes: tuple[float, str, bool], until: float = 1.0) -> Watched:
    """What is seen of changes at their times, sampled forty times a second."""
    history, seen = LampHistory(), Watched("waiting")
    watched = LampWatch(wanted, "K1", frozenset({"IN 1", "IN 2", "IN 3"}))
    for number in range(int(until * 40) + 1):
        now = number / 40
        lamps = dict(REST)
        for at, port, is_lit in changes:
            if at <= now:
                lamps[port] = is_lit
        history.take(Sample(now, lamps, {}))
        seen = watched.look(history)
        if seen.state == "passed":
            break
    return seen


class Watching(unittest.TestCase):
    def test_the_expected_change_alone_passes_after_a_moment(self) -> None:
        one = step(IN_1="goes out")
        self.assertEqual(
            Watched("waiting", "IN 1 goes out"), watch(one, (0.5, "IN 1", False), until=0.6)
        )
        self.assertEqual(Watched("passed", "IN 1 goes out"), watch(one, (0.5, "IN 1", False)))
        # Worked and let go at once passes as well.
        self.assertEqual(
            "passed", watch(one, (0.5, "IN 1", False), (0.6, "IN 1", True), until=2).state
        )
        self.assertEqual("waiting", watch(one).state)

    def test_both_channels_are_waited_for(self) -> None:
        both = step(IN_1="goes out", IN_2="comes on")
        self.assertEqual("waiting", watch(both, (0.2, "IN 1", False), until=3).state)
        self.assertEqual("passed", watch(both, (0.2, "IN 1", False), (0.4, "IN 2", True)).state)

    def test_another_one_the_wrong_way_and_two_at_once_are_told_and_never_pass(self) -> None:
        one = step(IN_1="goes out")
        for changes, words in (
            ([(0.2, "IN 2", True)], "IN 2 changed instead"),
            ([(0.2, "IN 2", True), (0.2, "IN 1", False)], "IN 2 changed as well"),
            ([(0.2, "IN 1", False), (0.4, "IN 3", False)], "IN 3 changed as well"),
        ):
            self.assertEqual(Watched("wrong", words), watch(one, *changes))
        self.assertEqual(
            Watched("wrong", "IN 2 comes on"), watch(step(IN_2="goes out"), (0.2, "IN 2", True))
        )
        self.assertEqual("passed", watch(step(IN_2="changes"), (0.2, "IN 2", True)).state)
        # What is switched from here is no answer.
        self.assertEqual("waiting", watch(one, (0.2, "OUT 1", True)).state)

    def test_a_contact_that_bounces_is_told(self) -> None:
        bounces = [(0.2 + 0.05 * n, "IN 1", bool(n % 2)) for n in range(5)]
        self.assertIn("bounces", watch(step(IN_1="goes out"), *bounces).words)
        slow = [(0.2 + 0.5 * n, "IN 1", bool(n % 2)) for n in range(5)]
        self.assertEqual("passed", watch(step(IN_1="goes out"), *slow, until=3).state)

    def test_after_a_wrong_one_the_next_try_counts_and_the_word_stays(self) -> None:
        one = step(IN_1="goes out")
        wrong = [(0.2, "IN 2", True), (0.4, "IN 2", False)]
        self.assertEqual("IN 2 changed instead", watch(one, *wrong, until=3).words)
        self.assertEqual("passed", watch(one, *wrong, (3.0, "IN 1", False), until=4).state)
        self.assertEqual("wrong", watch(one, *wrong, (1.5, "IN 1", False), until=2).state)

    def test_the_last_ten_seconds_are_drawn_the_oldest_first(self) -> None:
        history = LampHistory()
        for now, is_lit in ((0.0, False), (5.0, True), (8.0, False), (9.0, False)):
            history.take(Sample(now, {"IN 1": is_lit}, {}))
        self.assertEqual([(KEPT_S, False), (4.0, True), (1.0, False)], history.trace("IN 1"))
        history.take(Sample(30.0, {"IN 1": False}, {}))
        self.assertEqual([(KEPT_S, False)], history.trace("IN 1"))

    def test_a_number_changes_by_so_much_a_second(self) -> None:
        history = LampHistory()
        for now, counts in ((0.0, 100.0), (0.25, 150.0), (0.5, 200.0)):
            history.take(Sample(now, {}, {"ENC": counts}))
        self.assertEqual((200.0, 0.0), (history.rate("ENC"), history.rate("OTHER")))


class MapsAsText(unittest.TestCase):
    def test_a_map_comes_back_as_it_was_written(self) -> None:
        entries = (
            *usual_map(CONTROLLER)[:4],
            LiveEntry(port="IN 8", table="holding register", address=12, bit=3),
            LiveEntry(port="ENC 1", table="input register", address=4, words=2, low_first=True,
                      scale=0.25),
        )  # fmt: skip
        self.assertEqual(entries, read_map(map_text(entries), CONTROLLER))

    def test_what_is_not_understood_is_told_with_its_line(self) -> None:
        for line, words in (
            ("IN 1 = 4", "not understood"), ("IN 99 coil 4", "IN 99"), ("IN 1 coil 70000", "65535"),
            ("IN 1 coil 4 bit 2", "bits"), ("IN 1 holding register 4 bit 16", "bits"),
            ("ENC 1 input register 0, 3 words", "3 words"), ("IN 1 coil 1, low first", "low first"),
            ("ENC 1 input register 0, times zero", "no scale"), ("IN 2 coil 1", "twice"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaises(Problem) as caught:
                read_map(f"IN 2  discrete input 1\n\n{line}", CONTROLLER)
            self.assertEqual("line 3", caught.exception.place)
            self.assertIn(words, caught.exception.what)
