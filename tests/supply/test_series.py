"""Batteries in series: what they give together, what protects their links, how they are proposed;
and what hangs on its supply alone.
"""

import unittest

from msgspec.structs import replace

from builder import Builder
from street_machines import unwired_kart, wired_kart, wired_vending, wired_walker
from tests.catalogue.test_device_ports import made
from tests.supply.test_feeding_safety_relay import at
from vervain import api
from vervain.electrical.feeds import sources_of
from vervain.electrical.series import range_against
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.supply.feed_sources import feed_sources
from vervain.supply.feed_tree import feed_trees
from vervain.supply.results import delivered_power


def string(lamp_v: float = 48.0, tap: bool = False, links: str | None = None) -> Machine:
    """Four batteries of 12 V in series, a fuse and a lamp; with `tap` one more lamp on the lowest
    two, with `links` cables of that kind between the batteries.
    """
    build = Builder(Machine(name="String"))
    cell = made(kind="battery", title="Battery", pins_text="+ -",
                numbers={"nominal_v": 12, "current_a": 150})  # fmt: skip
    fuse = made(kind="fuse", title="Fuse", pins_text="1 2",
                numbers={"fuse_max_a": 30, "v_max_v": 80})  # fmt: skip
    lamp = made(kind="lamp", title="Lamp", pins_text="+ -",
                numbers={"nominal_v": lamp_v, "current_a": 1})  # fmt: skip
    for number in range(1, 5):
        build.add(f"B{number}", replace(cell, id="my-cell"))
    build.add("F1", replace(fuse, id="my-fuse"))
    build.add("H1", replace(lamp, id="my-lamp"))
    for lower, upper in ((1, 2), (2, 3), (3, 4)):
        build.join(f"B{lower}:PORT", f"B{upper}:PORT", "1-2")
    build.join("B4:PORT", "F1:FUSE", "1-1")
    build.join("F1:FUSE", "H1:LEADS", "2-1")
    build.join("H1:LEADS", "B1:PORT", "2-2")
    if tap:
        other = made(kind="lamp", title="Lamp", pins_text="+ -",
                     numbers={"nominal_v": 24, "current_a": 1})  # fmt: skip
        build.add("H2", replace(other, id="my-other"))
        build.join("H2:LEADS", "B2:PORT", "1-1")
        build.join("H2:LEADS", "B1:PORT", "2-2")
    return build.machine


def told(machine: Machine) -> set[str]:
    return {f.rule for f in api.check(machine).open if f.consequence != "Workmanship"}


class Series(unittest.TestCase):
    def test_a_string_gives_the_volts_of_all_and_is_not_accused(self) -> None:
        queries = Queries(string())
        (source,) = sources_of(queries, at("H1:LEADS:1"))
        low, high = range_against(queries, source, at("H1:LEADS:2"))
        self.assertEqual((47.04, 48.96), (round(low, 2), round(high, 2)))
        self.assertEqual(set(), told(string()))
        (whole,) = feed_sources(queries)
        self.assertEqual((at("B4:PORT:1"), at("B1:PORT:2")), (whole.plus, whole.minus))
        self.assertEqual((48.0, 150.0), (whole.feed.nominal_v, whole.feed.current_a))

    def test_other_volts_at_its_end_are_told_and_a_tap_keeps_it_apart(self) -> None:
        self.assertIn("supply.voltage", told(string(lamp_v=24.0)))
        # What hangs between two of them is fed by the lower ones alone.
        tapped = feed_sources(Queries(string(tap=True)))
        self.assertEqual({24.0}, {source.feed.nominal_v for source in tapped})
        self.assertNotIn("supply.voltage", told(string(tap=True)))

    def test_batteries_are_joined_where_nothing_else_gives_enough(self) -> None:
        plan = api.plan_feeds(unwired_kart())
        self.assertEqual("B1, B2, B3, B4 in series", plan.steps[0].words)
        self.assertIn("48 V together", plan.steps[0].reason)
        two = replace(unwired_kart(), devices=tuple(
            d for d in unwired_kart().devices if d.designator not in ("B3", "B4")
        ))  # fmt: skip
        steps = api.plan_feeds(two).steps
        self.assertFalse([step for step in steps if "in series" in step.words])

    def test_a_kart_is_wired_by_two_keys_and_its_key_turns_on_what_it_bears(self) -> None:
        machine = wired_kart()
        self.assertEqual(set(), told(machine))
        self.assertFalse([f.sentence for f in api.check(machine).to_do if "loose" in f.sentence])
        queries = Queries(machine)
        key = {ref.device for pin in ("1", "2") for ref in queries.net(at(f"S2:LEADS:{pin}"))}
        self.assertTrue({"S2", "F2", "X2"} <= key, key)
        self.assertNotIn("B4", key)
        # The horn's button lies in its feed, not at an input of the drive.
        horn = {ref.device for ref in queries.rail(at("P1:LEADS:1"))}
        self.assertTrue({"S4", "G1"} <= horn, horn)

    def test_what_is_lost_counts_against_the_string_and_its_stop_takes_the_drive(self) -> None:
        queries = Queries(wired_kart())
        fed = next(r for r in delivered_power(queries, "everything") if r.pin == at("A1:B:1"))
        self.assertEqual(48.0, fed.source_v)
        assert fed.lost is not None
        self.assertTrue(0.0 < fed.lost < 0.05, fed.lost)
        roots = {tree.source.device for tree in feed_trees(queries, "everything")}
        self.assertEqual({"B4", "G1", "A1"}, roots)
        bare = replace(wired_kart(), accepted=())
        self.assertEqual({"stops.restarts", "stops.unnoticed"}, told(bare))
        (demand,) = stop_demands(queries)
        self.assertEqual(("S3", (), False), (demand.stop, demand.stays, demand.does_nothing))

    def test_the_links_of_a_string_are_as_thick_as_its_fuse_wants(self) -> None:
        machine = wired_kart()
        thin = next(p for p in machine.cable_parts if p.core_mm2 < 4)
        link = next(
            h.cable for h in machine.hookups
            if {h.a.device, h.b.device} == {"B1", "B2"}
        )  # fmt: skip
        cables = tuple(replace(c, part=thin.id) if c.id == link else c for c in machine.cables)
        weak = replace(machine, cables=cables)
        self.assertIn("supply.fuse", told(weak))


class OnItsSupply(unittest.TestCase):
    def test_a_load_that_no_output_is_for_is_on_with_its_supply(self) -> None:
        plan = api.plan_feeds(api.apply_placements(unwired_kart(), ()))
        step = next(step for step in plan.steps if step.words.startswith("H1 LEADS"))
        self.assertIn("on whenever there is power", step.reason)
        # The board of a vending machine has a relay that is called as the load at mains is.
        queries = Queries(wired_vending())
        self.assertIn("K1", {ref.device for ref in queries.net(at("P1:LEADS:1"))})
        self.assertEqual(set(), told(wired_vending()))

    def test_servos_pass_their_bus_and_their_feed_on(self) -> None:
        machine = wired_walker()
        self.assertEqual(set(), told(machine))
        queries = Queries(machine)
        last = {(ref.device, ref.port) for ref in queries.rail(at("M4:IN:2"))}
        self.assertTrue({("M1", "IN"), ("M3", "OUT"), ("A1", "BUS2"), ("B1", "PORT")} <= last, last)
        self.assertNotIn(("G1", "OUT"), last)
        # 5 V come to a line of 3.3 V over a divider, whose 0 V is the board's.
        dividers = [d.designator for d in machine.devices if "Divider" in d.name]
        self.assertEqual(1, len(dividers))


if __name__ == "__main__":
    unittest.main()
