"""The rules of the stops: fixes that heal without harm, and what is not to be accused."""

import unittest

from mistake_machines import MACHINES
from tests.rules.findings import found
from tests.rules.joined_cases import with_wire
from tests.rules.stop_cases import upright
from tests.stops.circuits import (
    BASE,
    HOLDING,
    MINUS_SIDE,
    ON,
    ON_A_SWITCH,
    ONE_CHANNEL,
    UNTOLD,
    holding,
    motor,
    read_channels,
    wired,
)
from vervain.files.demos import open_demo
from vervain.model.axis import BallScrew, Screw
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.rules.finding import CONSEQUENCES
from vervain.stops.verdicts import stop_demands

# A second driver, fed past the contact.
BESIDE = "G1 OUT.24V - T2 FEED.24V\nT2 FEED.0V F - G1 OUT.0V\n"
# A switch before everything, that stays on; and one over the coil's contact, which only starts it.
SWITCHED = HOLDING.replace("G1 OUT.24V - S1 11-12.11", "G1 OUT.24V - S4 13-14.13", 1) + (
    "S4 13-14.14 - S1 11-12.11"
)


class Fixes(unittest.TestCase):
    def test_what_is_offered_heals_and_brings_nothing_as_bad(self) -> None:
        for rule, machine, words in (
            ("stops.minus-side", wired(MINUS_SIDE, *BASE), "turn the string round"),
            ("stops.minus-side", open_demo("clay-printer-as-found"), "S1 11-12 12 to plus"),
            ("stops.power-stays", open_demo("seedling-arm-as-found"), "feed T5 from Q2 MAIN 14"),
            ("stops.power-stays", wired(ONE_CHANNEL + BESIDE, *BASE, "T2 fell-d36"), "feed T2"),
            ("stops.weld-unread", read_channels(), "read Q1 AUX"),
            ("stops.not-told", holding(UNTOLD, "K1 tarn-mc5"), "read S1 21-22"),
        ):
            with self.subTest(rule, words=words):
                before = {finding.key for finding in check_machine(machine).open}
                finding = found(machine, rule)[0]
                self.assertIn(words, finding.fixes[0].words)
                after = check_machine(finding.fixes[0].remedy.apply(machine)).open
                self.assertNotIn(finding.key, {other.key for other in after})
                bad = CONSEQUENCES.index(finding.consequence)
                new = [f.key for f in after if f.key not in before
                       and CONSEQUENCES.index(f.consequence) <= bad]  # fmt: skip
                self.assertEqual([], new)


class Sound(unittest.TestCase):
    def test_what_a_resting_relay_feeds_past_the_stop_is_told(self) -> None:
        # Both contactors are bypassed while the program does not hold the relay, and only then.
        past = with_wire("feeder", "Q1:MAIN:13", "K3:11-14:12")
        (finding,) = found(past, "stops.power-stays")
        self.assertEqual(
            "S2 pressed: T1 has power as soon as the program lets go of K3.", finding.sentence
        )
        self.assertEqual([], found(MACHINES["feeder"](), "stops.power-stays"))

    def test_a_start_button_in_a_coils_line_is_not_loose(self) -> None:
        # The driver alone is still to be wired.
        self.assertEqual(
            ["T1 SIGNAL is loose."], [f.sentence for f in found(holding(), "ports.loose")]
        )

    def test_a_switch_stays_on_and_a_start_button_is_let_go(self) -> None:
        machine = wired(SWITCHED, *ON["holding"], "S4 quoin-pb1")
        demand = stop_demands(Queries(machine))[0]
        self.assertEqual(((), False), (demand.stays, demand.restarts))

    def test_a_motor_on_a_switch_is_judged_by_its_volts_not_by_its_port(self) -> None:
        open_now = check_machine(motor(ON_A_SWITCH, "G1 fell-ps24", "S4 quoin-pb1")).open
        self.assertIn("supply.voltage:M1:G1:LEADS over", {finding.key for finding in open_now})
        self.assertNotIn("ports.wrong-kind", {finding.rule for finding in open_now})

    def test_a_ball_screw_and_a_thin_screw_do_not_hold(self) -> None:
        for screw, holds in (
            (BallScrew(lead_mm=4, diameter_mm=16), False),
            (Screw(lead_mm=2), True), (Screw(lead_mm=4), False),
            (Screw(lead_mm=8, diameter_mm=16), False), (Screw(lead_mm=3, diameter_mm=12), True),
        ):  # fmt: skip
            with self.subTest(screw=screw):
                self.assertEqual(not holds, bool(found(upright(screw), "stops.no-brake")))
