"""Rules just inside and just outside of their limits, and leads that change places."""

import math
import unittest
from itertools import combinations

from former_machine import wired_former
from tests import small
from tests.rules.signal_cases import with_pin
from tests.rules.test_rules import encoder_on, found
from tests.sampling import IS_WHOLE, seeded
from vervain.edits import hookup_edits
from vervain.files.demos import DEMOS, open_demo
from vervain.leads.merge import mergeable, merged_ports, polarity_free
from vervain.model.elements import Contact
from vervain.model.machine import Machine, PortRef
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import Engine


class Limits(unittest.TestCase):
    """Values just inside and just outside of each limit."""

    def consequence(self, machine: Machine, rule_id: str) -> str | None:
        findings = found(machine, rule_id)
        return findings[0].consequence if findings else None

    def test_supply_budget(self) -> None:
        # fell-ps24 gives 5 A: 80 % is 4 A.
        for current_a, expected in (
            (4.0, None),
            (4.001, "Unreliable"),
            (5.0, "Unreliable"),
            (5.001, "Won't run"),
        ):
            machine = small.with_part(
                small.fan(),
                "quoin-bf24",
                lambda p, a=current_a: small.with_electrical(p, "LEADS", "1", current_a=a),
            )
            with self.subTest(current_a):
                self.assertEqual(expected, self.consequence(machine, "supply.budget"))

    def test_driver_current(self) -> None:
        # fell-s57 is rated 2.8 A RMS: a peak of 2.8 * sqrt(2) = 3.9598 A is inside.
        limit = 2.8 * math.sqrt(2)
        for peak_a, expected in (
            (limit, None),
            (limit + 0.01, "Damage"),
            (limit / 2, None),
            (limit / 2 - 0.01, "Unreliable"),
        ):
            machine = small.with_setting(small.motor_on_driver(), "T1", "current_peak_a", peak_a)
            with self.subTest(peak_a):
                self.assertEqual(expected, self.consequence(machine, "supply.driver-current"))

    def test_a_feed_window_is_one_of_rated_volts(self) -> None:
        # 24 V with 1 % is 23.76 to 24.24 V; what works to 24 V is meant for it.
        for low, high, expected in (
            (23.7, 24.3, None),
            (12.0, 24.0, None),
            (24.0, 48.0, None),
            (12.0, 23.9, "Damage"),
            (24.1, 48.0, "Won't run"),
        ):
            machine = small.with_part(
                small.fan(),
                "quoin-bf24",
                lambda p, lo=low, hi=high: small.with_electrical(
                    p, "LEADS", "1", v_min_v=lo, v_max_v=hi
                ),
            )
            with self.subTest((low, high)):
                self.assertEqual(expected, self.consequence(machine, "supply.voltage"))

    def test_signal_levels(self) -> None:
        def receiver(**values):
            return small.with_part(
                encoder_on("K2:ENCODER"),
                "quoin-dr3",
                lambda p: small.with_electrical(p, "ENCODER", "3", **values),
            )

        # The encoder gives 2.5 to 5.0 V high and at most 0.5 V low.
        for values, expected in (
            ({"max_v": 5.0}, None),
            ({"max_v": 4.99}, "Damage"),
            ({"high_min_v": 2.5}, None),
            ({"high_min_v": 2.51}, "Unreliable"),
            ({"low_max_v": 0.5}, None),
            ({"low_max_v": 0.49}, "Unreliable"),
        ):
            with self.subTest(values):
                self.assertEqual(expected, self.consequence(receiver(**values), "signals.level"))

    def test_of_several_cores_the_one_with_most_is_judged(self) -> None:
        build = small.bench("G1 fell-ps24", "M1 quoin-gp24", "M2 quoin-bf24")
        build.cable("W1", "motor-4x1", 0.1)
        build.join("G1:OUT", "M2:LEADS", "1-1 2-2", "W1", "1 2")
        build.join("G1:OUT", "M1:LEADS", "1-+ 2-−", "W1", "3 4")
        # A core of 1 mm2 carries 10.1 A, of two circuits together 0.8 times that.
        for current_a, cores in ((8.0, set()), (8.2, {3, 4})):
            machine = with_pin(build.machine, "quoin-gp24", "LEADS", "1", current_a=current_a)
            told = found(machine, "supply.core-current")
            with self.subTest(current_a):
                self.assertLessEqual({f.subjects[0].core for f in told}, cores)
                self.assertEqual(bool(cores), bool(told))

    def test_the_fuse_of_the_mains_against_its_wires(self) -> None:
        # Cores of 1.5 mm2 carry 13.1 A; a fuse that blows at 1.6 times protects 1.45/1.6 of it.
        for rating_a, expected in ((10.0, None), (13.0, "Damage")):
            machine = small.with_setting(wired_former(), "F1", "rating_a", rating_a)
            with self.subTest(rating_a):
                self.assertEqual(expected, self.consequence(machine, "supply.fuse"))
        self.assertEqual("fit a 10 A fuse", found(machine, "supply.fuse")[0].fixes[0].words[:15])

    def test_fuse_against_wire(self) -> None:
        # 0.5 mm2 carries 7.5 A by the table; 0.25 mm2 of a two-core lead 4.8 A.
        for rating_a, cable, expected in (
            (7.5, "wire-bn-0.5", None),
            (7.6, "wire-bn-0.5", "Damage"),
            (4.8, "flat-2x0.25", None),
            (4.9, "flat-2x0.25", "Damage"),
        ):
            with self.subTest((rating_a, cable)):
                machine = small.fused_fan(rating_a, cable)
                self.assertEqual(expected, self.consequence(machine, "supply.fuse"))

    def test_a_load_without_a_wire_is_loose_too(self) -> None:
        machine = small.bench("M1 quoin-bf24", "X1 quoin-ts8").machine
        self.assertEqual(["ports.loose:M1"], [f.key for f in found(machine, "ports.loose")])

    def test_fuse_fix_leaves_a_quarter_of_reserve(self) -> None:
        fix = found(small.fused_fan(20), "supply.fuse")[0].fixes[0]
        # The fan takes 0.85 A; the next rating with 0.85 <= 0.75 * rating is 2 A.
        self.assertEqual(2.0, fix.remedy.value)


class Polarity(unittest.TestCase):
    def test_no_two_leads_change_places_unnoticed_unless_they_may(self) -> None:
        """Pairs of leads of every sensor, encoder, servo and load of the planned demos: some,
        others each run; all of them with VERVAIN_ALL.
        """
        chance, share = seeded("leads that change places"), 1.0 if IS_WHOLE else 0.1
        tried = 0
        for demo in DEMOS:
            if not demo.key.endswith("as-planned"):
                continue
            machine = open_demo(demo.key)
            queries, engine = Queries(machine), Engine()
            before = {finding.key for finding in engine.check(machine).open}
            for device in mergeable(queries):
                for swapped, may in swaps(queries, device, machine):
                    if chance.random() > share:
                        continue
                    tried += 1
                    after = {finding.key for finding in engine.check(swapped).open}
                    with self.subTest(f"{demo.key}: {device}"):
                        self.assertEqual(may, after == before)
        self.assertGreater(tried, 0)


def swaps(queries: Queries, device: str, machine: Machine):
    """The machine with two leads of a device exchanged, and whether that may be."""
    part = queries.part_of(device)
    ports = {PortRef(device=device, port=port.id): port for port in merged_ports(part)}
    contacts = [set(e.pins) for e in part.inside if isinstance(e, Contact)]
    for hookup in queries.hookups_of(device):
        side = "a" if hookup.a in ports else "b"
        port = ports[hookup.a if side == "a" else hookup.b]
        pins = [c.a if side == "a" else c.b for c in hookup.conductors]
        for first, second in combinations(dict.fromkeys(pins), 2):
            may = polarity_free(part, port) or {(port.id, first), (port.id, second)} in contacts
            yield hookup_edits.exchange_pins(machine, hookup.id, side, first, second), may
