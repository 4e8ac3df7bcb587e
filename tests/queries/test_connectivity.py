"""Ways through connectors, also where the wiring is odd: loops, stubs, a plug into itself."""

import unittest

from tests import small
from vervain.edits.device_edits import set_name, set_setting
from vervain.files.demos import open_demo
from vervain.harness.conductors import conductor_rows, pin_words
from vervain.harness.trace import trace_of_conductor
from vervain.model.machine import PinRef, PortRef
from vervain.queries.connectivity import host_ports, nets_reached, occupants, paths_from
from vervain.queries.machine_queries import Queries
from vervain.queries.walk import path_to, reached
from vervain.rules.engine import check_machine


def at(device: str, port: str, pin: str) -> PinRef:
    return PinRef(device=device, port=port, pin=pin)


class Ways(unittest.TestCase):
    def test_through_two_connectors_in_a_row(self) -> None:
        build = small.bench("M1 fell-s57", "T1 fell-d72", "X1 quoin-il4", "X2 quoin-il4")
        build.join("M1:LEADS", "X1:A", "BK-1 GN-2 RD-3 BU-4")
        build.join("X1:B", "X2:A", "1-1 2-2 3-3 4-4")
        build.join("X2:B", "T1:MOTOR", "1-1 2-2 3-3 4-4")
        queries = Queries(build.machine)
        way = paths_from(queries, at("M1", "LEADS", "BK"))[0]
        self.assertEqual((3, at("T1", "MOTOR", "1")), (len(way.steps), way.end))
        self.assertEqual(
            (PortRef(device="T1", port="MOTOR"),),
            host_ports(queries, PortRef(device="M1", port="LEADS")),
        )
        trace = trace_of_conductor(queries, "H2", 0)
        self.assertEqual(["T1", "X2", "X1"], [s.start.device for s in trace.stretches])

    def test_a_jumper_joins_its_pins_also_in_a_look_that_moves_on(self) -> None:
        machine = small.bench("K1 osier-mb4").machine
        queries = Queries(machine)
        one, two = at("K1", "STOP", "1"), at("K1", "STOP", "2")
        nets = []
        for jumper, name in (("removed", "a"), ("fitted", "a"), ("fitted", "b"), ("removed", "b")):
            machine = set_name(set_setting(machine, "K1", "JS", jumper), "K1", name)
            queries.move_to(machine)
            self.assertEqual(Queries(machine).net(one), queries.net(one))
            nets.append(two in queries.net(one))
        self.assertEqual([False, True, True, False], nets)

    def test_an_unplugged_connector_does_not_land(self) -> None:
        build = small.bench("M1 fell-s57", "X1 quoin-il4")
        build.join("M1:LEADS", "X1:A", "BK-1")
        way = paths_from(Queries(build.machine), at("M1", "LEADS", "BK"))[0]
        self.assertFalse(way.lands)
        self.assertEqual(at("X1", "B", "1"), way.end)

    def test_odd_wiring_ends_and_is_checked(self) -> None:
        odd = []
        build = small.bench("X1 quoin-il4", "X2 quoin-il4")
        build.join("X1:A", "X2:A", "1-1 2-2")
        build.join("X2:B", "X1:B", "1-1 2-3")
        odd.append(build.machine)
        build = small.bench("X1 quoin-ts8")
        build.join("X1:1", "X1:2", "1-1 1-2")
        odd.append(build.machine)
        build = small.bench("K1 tarn-mc5")
        build.join("K1:IN 1", "K1:IN 1", "1-2")
        build.join("K1:AXIS 1", "K1:AXIS 2", "1-1")
        odd.append(build.machine)
        build = small.bench("G1 fell-ps24")
        build.join("G1:OUT", "G1:OUT", "1-2")
        odd.append(build.machine)
        for machine in odd:
            queries = Queries(machine)
            check_machine(machine)
            for hookup in machine.hookups:
                for row in range(len(hookup.conductors)):
                    self.assertTrue(trace_of_conductor(queries, hookup.id, row).stretches)
            self.assertTrue(conductor_rows(queries))

    def test_shared_returns_do_not_occupy_a_port(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        self.assertEqual(
            [PortRef(device="B1", port="LEADS")],
            list(occupants(queries, PortRef(device="K1", port="IN 1"))),
        )
        self.assertEqual((), occupants(queries, PortRef(device="K1", port="PROBE")))

    def test_pins_are_called_by_the_shortest_words_that_tell_them_apart(self) -> None:
        queries = Queries(open_demo("glazing-gantry-as-planned"))
        for pin, words in (
            (at("T4", "MOTOR", "2"), "A−"),
            (at("K1", "AXIS 2", "1"), "AXIS 2 STP"),
            (at("X14", "B", "2"), "2"),
            (at("X2", "5", "1"), "5 +"),
            (at("B7", "LEADS", "2"), "OUT"),
            (at("Q1", "COIL", "A1"), "A1"),
            (at("F1", "FUSE", "2"), "OUT"),
            (at("Z9", "P", "7"), "P 7"),
        ):
            with self.subTest(words):
                self.assertEqual(words, pin_words(queries, pin))


class Walk(unittest.TestCase):
    def test_the_nearest_comes_first_and_every_path_is_the_shortest(self) -> None:
        ring = {n: ((n + 1) % 8, (n - 1) % 8) for n in range(8)}
        came_from = reached([0], ring.__getitem__)
        self.assertEqual([0, 1, 7, 2, 6, 3, 5, 4], list(came_from))
        lengths = [len(path_to(n, came_from)) - 1 for n in range(8)]
        self.assertEqual([0, 1, 2, 3, 4, 3, 2, 1], lengths)
        self.assertEqual([], path_to(9, came_from))
        chain = reached([0], lambda n: [n + 1] if n < 5000 else [])
        self.assertEqual(5001, len(path_to(5000, chain)))

    def test_only_what_is_let_through_is_crossed(self) -> None:
        build = small.bench("G1 fell-ps24", "F1 quoin-fh1", "M1 quoin-bf24")
        build.join("G1:OUT", "F1:FUSE", "1-1")
        build.join("F1:FUSE", "M1:LEADS", "2-+")
        queries = Queries(build.machine)
        start = at("G1", "OUT", "1")
        for passes, devices in ((False, {"G1", "F1"}), (True, {"G1", "F1", "M1"})):
            nets = nets_reached(queries, [start], lambda device, element, yes=passes: yes)
            self.assertEqual(devices, {pin.device for net in nets for pin in net})
        ended = nets_reached(queries, [start], lambda device, element: True, lambda net: True)
        self.assertEqual((queries.net(start),), ended)
