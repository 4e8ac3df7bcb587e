"""What is done between whiles: garbage once the hand rests, labels before one asks for them."""

import gc
from unittest import mock

from tests.desktop.case import WindowCase
from vervain.desktop import housekeeping
from vervain.desktop.housekeeping import Housekeeping
from vervain.edits.cable_edits import rename_cable
from vervain.harness.labels import labels, templated_labels
from vervain.queries.machine_queries import Queries


def hookups_labelled(queries: Queries) -> int:
    """How often the labels of a hookup were worked out."""
    counts = queries.run_counts.items()
    return sum(n for function, n in counts if function.__name__ == templated_labels.__name__)


class BetweenWhiles(WindowCase):
    def keeper(self) -> Housekeeping:
        """One that does nothing by itself."""
        made = Housekeeping(self.session)
        self.addCleanup(gc.unfreeze)
        self.addCleanup(gc.set_threshold, *gc.get_threshold())
        return made

    def test_labels_are_known_piece_by_piece_before_one_is_shown(self) -> None:
        self.session.queries = Queries(self.session.machine)
        keeper = self.keeper()
        with mock.patch.object(housekeeping, "PIECE_S", -1.0):
            keeper._begin_ahead()
            keeper.work_ahead()
        queries = self.session.queries
        self.assertEqual(1, hookups_labelled(queries))
        self.until(lambda: not keeper._pieces.isActive())
        self.assertEqual(len(self.session.machine.hookups), hookups_labelled(queries))
        self.assertGreater(len(labels(queries)), 100)
        self.assertEqual(len(self.session.machine.hookups), hookups_labelled(queries))

    def test_an_edit_works_out_the_labels_that_it_touches_alone(self) -> None:
        queries = self.session.queries
        before = labels(queries)
        known = hookups_labelled(queries)
        self.session.apply("rename", lambda machine: rename_cable(machine, "W24", "W240"))
        after = labels(self.session.queries)
        changed = {key[0] for key, entry in after.items() if entry != before.get(key)}
        again = hookups_labelled(self.session.queries) - known
        self.assertTrue(changed)
        self.assertLess(again, len(self.session.machine.hookups) / 4)

    def test_garbage_waits_until_the_hand_rests(self) -> None:
        keeper = self.keeper()
        for quiet, collected in ((0.1, 0), (housekeeping.QUIET_S + 1, 1)):
            with (
                self.subTest(quiet),
                mock.patch.object(housekeeping, "quiet_s", lambda quiet=quiet: quiet),
                mock.patch.object(housekeeping.gc, "collect") as collect,
            ):
                keeper.tidy()
                self.assertEqual(collected, collect.call_count)
                wanted = housekeeping.INTERVAL_MS if collected else housekeeping.AGAIN_MS
                self.assertEqual(wanted, keeper._timer.interval())
        keeper._timer.stop()
