"""What stands between one answer and another in proposals of feeds: windows, counts, places."""

import unittest

from builder import bench
from vervain.files.part_files import shipped_shelf
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_answers import feed_answers
from vervain.supply.feed_inputs import input_at
from vervain.supply.feed_ways import fresh_strip

PLUS = PinRef(device="X1", port="1", pin="1")


def on_a_strip():
    """A controller and a lamp on a strip that nothing feeds."""
    build = bench("G1 fell-ps24", "X1 quoin-ts8", "X2 quoin-ts8", "K1 tarn-mc5", "P1 quoin-bl24")
    build.join("X1:2", "K1:POWER", "+-1 0V-2")
    build.join("X1:3", "P1:LEADS", "+-+ 0V-−")
    return build


class Edges(unittest.TestCase):
    def test_the_window_is_what_all_behind_a_strip_bear(self) -> None:
        found = input_at(Queries(on_a_strip().machine), PLUS)
        self.assertEqual({"K1", "P1"}, set(found.feeds))
        feeds = [
            next(pin.electrical for pin in port.pins if isinstance(pin.electrical, FeedIn))
            for part, port_id in (("tarn-mc5", "POWER"), ("quoin-bl24", "LEADS"))
            if (port := shipped_shelf().parts[part].port(port_id)) is not None
        ]
        self.assertEqual(2, len({feed.v_min_v for feed in feeds}))
        self.assertEqual(2, len({feed.v_max_v for feed in feeds}))
        self.assertEqual(max(feed.v_min_v for feed in feeds), found.v_min_v)
        self.assertEqual(min(feed.v_max_v for feed in feeds), found.v_max_v)

    def test_a_strip_of_just_so_many_terminals_is_enough(self) -> None:
        queries = Queries(on_a_strip().machine)
        for count, device in ((8, "X2"), (9, None)):
            found = fresh_strip(queries, (), count, 1.0, 0.5)
            with self.subTest(count):
                self.assertEqual(device, found.pairs[0][0].device if found and device else device)
                self.assertEqual(device is None, found is None)

    def test_a_place_without_a_source_answers_only_where_it_is_a_strip(self) -> None:
        build = on_a_strip()
        build.device("F1", "quoin-fh1", "Fuse", None)
        places = [
            PinRef(device="G1", port="OUT", pin="1"), PinRef(device="X2", port="1", pin="1"),
            PinRef(device="F1", port="FUSE", pin="2"),
        ]  # fmt: skip
        here = PinRef(device="K1", port="POWER", pin="1")
        answers = feed_answers(Queries(build.machine), here, tuple(places))
        self.assertEqual({"G1", "X2"}, {answer.place.device for answer in answers})
