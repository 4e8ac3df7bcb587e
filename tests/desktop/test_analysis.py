"""The one thread that works things out: the newest machine counts, and a bug ends nothing."""

import threading
from unittest import mock

from tests.desktop.case import WindowCase
from vervain.desktop.analysis import LatestWork
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.edits.device_edits import set_name, set_setting


class OneThread(WindowCase):
    demo = "seedling-arm-as-planned"

    def test_only_the_newest_machine_is_worked_out_and_others_go_first(self) -> None:
        analysis, order, hold = self.session.analysis, [], threading.Event()
        wait_for_background()

        def slow(queries, should_continue):
            order.append(("slow", queries.device("M1").name))
            while should_continue() and not hold.is_set():
                hold.wait(0.005)
            return "done" if should_continue() else None

        def quick(queries, should_continue):
            order.append(("quick", queries.device("M1").name))
            return "done"

        patient, hasty = LatestWork(analysis, slow, gives_way=True), LatestWork(analysis, quick)
        came: list[tuple[str, str]] = []
        patient.done.connect(lambda machine, _: came.append(("slow", machine.devices[0].name)))
        first, second = (set_name(self.session.machine, "M1", name) for name in ("One", "Two"))
        patient.ask(first)
        self.until(lambda: order == [("slow", "One")])
        hasty.ask(first)
        self.until(lambda: ("quick", "One") in order)
        patient.ask(second)
        self.until(lambda: order[-1] == ("slow", "Two"))
        hold.set()
        self.until(lambda: bool(came))
        self.application.processEvents()
        self.assertEqual(1, len(came))
        self.assertEqual(1, analysis.count)

    def test_a_bug_in_it_is_told_and_the_stage_goes_on(self) -> None:
        self.window.show_stage("Supply")
        feeder = self.window.supply.feeder
        self.until(lambda: feeder.figures is not None)
        with mock.patch(
            "vervain.desktop.stages.supply.feed_worker.feed_trees", side_effect=ZeroDivisionError
        ):
            self.session.apply("Name", lambda m: set_name(m, "M1", "Other"))
            self.until(lambda: any("could not be worked out" in text for text in self.said))
        self.session.apply("Name", lambda m: set_name(m, "M1", "Another"))
        self.until(lambda: feeder.figures.machine is self.session.machine)

    def test_an_edit_solves_the_network_of_each_state_once(self) -> None:
        self.window.show_stage("Harness")
        self.settle()
        self.session.select(Selection(device="T1"))
        from vervain.supply import solution

        real, solved = solution.solve, []

        def counted(network, *rest):
            solved.append(network)
            return real(network, *rest)

        # Which single change is behind what the edit made wrong is tried on copies of its own.
        no_causes = mock.patch("vervain.rules.cause_search.Search.may_go_on", return_value=False)
        with mock.patch.object(solution, "solve", counted), no_causes:
            self.session.apply("Current", lambda m: set_setting(m, "T1", "current_peak_a", 1.1))
            self.settle()
            self.window.show_stage("Supply")
            self.settle()
        self.assertLessEqual(len(solved), 12)
        self.assertEqual(1, self.session.analysis.count)
