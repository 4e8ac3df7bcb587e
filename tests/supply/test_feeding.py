"""Feeding the rest: what is proposed for everything unfed, and that it holds."""

import unittest

from msgspec.structs import replace

from tests import small
from tests.sampling import seeded, some
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.edits.device_edits import add_device
from vervain.files.demos import TEMPLATES, open_demo, open_template
from vervain.files.part_files import shipped_shelf
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.proposal import accept
from vervain.ports.proposing import propose
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.feeding import propose_feeds
from vervain.supply.feed_answers import feed_answers
from vervain.supply.feed_inputs import unfed_inputs
from vervain.supply.feed_plan import plan_feeds
from vervain.supply.feed_steps import FeedPlan, carry_out
from vervain.supply.feed_tree import feed_trees
from vervain.supply.feed_ways import free_pairs

SHELF = shipped_shelf()
PARTS, CABLES = tuple(SHELF.parts.values()), tuple(SHELF.cable_parts.values())
# Settings and switches that no feed can choose.
NOT_OF_FEEDS = {"stops.invert", "stops.no-brake", "machine.axis-limit", "machine.twins-direction",
                "supply.driver-current", "harness.contact-gauge"}  # fmt: skip


def fed(machine: Machine, plan: FeedPlan) -> Machine:
    for step in plan.steps:
        machine = carry_out(machine, step)
    return machine


def grave(machine: Machine) -> dict[str, str]:
    found = check_look(Queries(machine))
    assert found is not None
    return {f.key: f.sentence for f in found.open if f.consequence != "Workmanship"}


def without_feeds(machine: Machine) -> Machine:
    """A machine with every conductor between supplies, fuses, strips and feed ports taken off."""
    queries = Queries(machine)

    def is_of_feeds(ref: PortRef) -> bool:
        port, part = queries.port(ref), queries.part_of(ref.device)
        kinds = ("supply", "battery", "fuse", "terminal strip")
        main = part.kind == "contactor" and ref.port != "COIL"
        return part.kind in kinds or port.kind == "feed in" or main

    kept = tuple(h for h in machine.hookups if not (is_of_feeds(h.a) and is_of_feeds(h.b)))
    used = {hookup.cable for hookup in kept}
    return replace(machine, hookups=kept, cables=tuple(c for c in machine.cables if c.id in used))


class Proposals(unittest.TestCase):
    def test_templates_are_fed_but_for_what_is_named(self) -> None:
        for template in TEMPLATES:
            with self.subTest(template.key):
                loose = open_template(template.key)
                machine = accept(loose, propose(loose).placements)
                plan = propose_feeds(machine, PARTS, CABLES)
                after = fed(machine, plan)
                told = " ".join(plan.decisions)
                for key, sentence in grave(after).items():
                    rule = key.partition(":")[0]
                    if rule in NOT_OF_FEEDS or sentence in told:
                        continue
                    # A servo that has no supply of its voltage is named by its board's port.
                    self.assertIn("SERVO PWR takes", told, sentence)
                left = {item.words for item in unfed_inputs(Queries(after))}
                self.assertTrue(all(words in told for words in left), left)

    def test_a_wired_machine_without_its_feeds_gets_them_again(self) -> None:
        # The arm's relays say over a 0 V of the controller that they dropped: that is no feed.
        demos = ("seedling-arm-as-planned", 2), ("glazing-gantry-as-planned", 1)
        for key, most in some(seeded("feeds once more"), demos, 1):
            with self.subTest(key):
                planned = open_demo(key)
                bare = without_feeds(planned)
                self.assertGreater(len(unfed_inputs(Queries(bare))), 5)
                plan = propose_feeds(bare, PARTS, CABLES)
                new = set(grave(fed(bare, plan))) - set(grave(planned))
                self.assertLessEqual(len(new), most, new)

    def test_what_moves_goes_off_with_the_stop_and_logic_does_not(self) -> None:
        loose = open_template("three-axis-router")
        machine = fed(loose, plan_feeds(loose, PARTS, CABLES))
        queries = Queries(machine)
        driver = PinRef(device="T1", port="POWER", pin="1")
        logic = PinRef(device="K1", port="POWER", pin="1")
        contact = {PinRef(device="Q1", port="MAIN", pin=pin) for pin in ("13", "14")}
        self.assertTrue(contact <= set(queries.rail(driver)))
        self.assertFalse(contact & set(queries.net(logic)))
        supply = PinRef(device="G1", port="OUT", pin="1")
        self.assertNotIn(supply, queries.net(driver), "a fuse and a contact lie between")

    def test_a_controller_does_not_go_with_the_brake_at_its_output(self) -> None:
        arm = open_template("five-joint-arm")
        arm = accept(arm, propose(arm).placements)
        words = [step.words for step in plan_feeds(arm, PARTS, CABLES).steps]
        behind = next(text for text in words if "Q1 to Q2 to" in text).split(" to ")[-1]
        (control,) = [text for text in words if text.startswith("K1 POWER from")]
        self.assertNotIn(behind, control)
        self.assertTrue(any(text.startswith(f"T1 FEED from {behind}") for text in words))

    def test_a_step_goes_with_what_it_needs(self) -> None:
        loose = open_template("three-axis-router")
        plan = plan_feeds(loose, PARTS, CABLES)
        first = next(n for n, step in enumerate(plan.steps) if step.adds)
        left = plan.with_needed(set(range(len(plan.steps))) - {first})
        self.assertTrue(all(first not in plan.steps[n].needs for n in left))
        part = loose
        for number in left:
            part = carry_out(part, plan.steps[number])
        self.assertLess(len(part.devices), len(fed(loose, plan).devices))

    def test_nothing_suits_is_said_and_nothing_is_done(self) -> None:
        build = small.bench("G1 fell-ps6", "T1 fell-d72")
        plan = plan_feeds(build.machine, PARTS, CABLES)
        self.assertIn("T1 POWER takes 20 to 72 V, and no supply gives that", plan.decisions[0])
        self.assertFalse(any("T1" in step.words for step in plan.steps))
        self.assertEqual(FeedPlan(), plan_feeds(Machine(name="Empty"), PARTS, CABLES))

    def test_the_other_type_of_current_is_told_as_such(self) -> None:
        machine = Machine(name="Pool")
        for name, kind, title, text, volts in (
            ("G1", "supply", "Transformer, 12 V", "PRI: L N\nSEC: 1 2", 12),
            ("H1", "lamp", "Lamp", "1 2", 12),
        ):  # fmt: skip
            numbers = {"nominal_v": volts, "current_a": 4}
            part = describe(Draft(kind=kind, title=title, pins_text=text, numbers=numbers), "my-x")
            machine = add_device(machine, replace(part.part, id=f"my-{kind}"), title, name)
        (told,) = [t for t in plan_feeds(machine, PARTS, CABLES).decisions if "H1" in t]
        self.assertIn("of direct current; G1 gives alternating current", told)

    def test_a_small_supply_is_told_before_it_is_asked_for_too_much(self) -> None:
        build = small.bench("G1 fell-ps24", "T1 fell-hb2")
        plan = plan_feeds(build.machine, PARTS, CABLES)
        self.assertTrue(any("G1 gives 5 A: too little" in words for words in plan.decisions))

    def test_more_than_one_strip_holds_are_fed_by_two(self) -> None:
        names = [f"T{number}" for number in range(1, 15)]
        build = small.bench("G1 fell-ps48", *(f"{name} fell-d72" for name in names))
        machine = fed(build.machine, plan_feeds(build.machine, PARTS, CABLES))
        queries = Queries(machine)
        self.assertEqual((), unfed_inputs(queries))
        strips = [n for n in queries.devices() if queries.part_of(n).kind == "terminal strip"]
        self.assertGreater(len(strips), 2)
        taken = [
            queries.steps(PinRef(device=name, port=port.id, pin=pin.id))
            for name in strips
            for port in queries.part_of(name).ports
            for pin in port.pins
            if pin.function in ("plus", "zero")
        ]
        self.assertLessEqual(max(len(steps) for steps in taken), 1)


class Rows(unittest.TestCase):
    def test_every_feed_port_and_empty_strip_has_its_row(self) -> None:
        build = small.bench("G1 fell-ps24", "K1 tarn-pb5", "X1 quoin-ts8")
        trees = feed_trees(Queries(build.machine), "everything")
        unfed = next(tree for tree in trees if tree.source.kind == "unfed")
        rows = {(branch.device, branch.pin.port) for branch in unfed.branches[1:]}
        self.assertLessEqual({("K1", "LOGIC"), ("K1", "MOTORS"), ("X1", "1")}, rows)

    def test_one_input_fed_leaves_the_others_to_be_seen(self) -> None:
        build = small.bench("G1 fell-ps24", "K1 tarn-pb5")
        build.join("G1:OUT", "K1:LOGIC", "1-1 2-2")
        trees = feed_trees(Queries(build.machine), "everything")
        unfed = next(tree for tree in trees if tree.source.kind == "unfed")
        self.assertIn("MOTORS", {branch.pin.port for branch in unfed.branches[1:]})
        self.assertNotIn("LOGIC", {branch.pin.port for branch in unfed.branches[1:]})

    def test_places_answer_with_voltage_current_and_company(self) -> None:
        build = small.bench("G1 fell-ps24", "G2 fell-ps48", "X1 quoin-ts8", "T1 fell-d72")
        build.device("K1", "larkmoor-pc12", "K1", None)
        build.join("G2:OUT", "X1:1", "1-+ 2-0V")
        queries = Queries(build.machine)
        outlets = [PinRef(device=name, port="OUT", pin="1") for name in ("G1", "G2")]
        places = (*outlets, free_pairs(queries, "X1")[0][0])
        answers = feed_answers(queries, PinRef(device="K1", port="POWER", pin="1"), places)
        self.assertEqual(["fits", "does not fit", "does not fit"], [a.verdict for a in answers])
        self.assertEqual("G1", answers[0].place.device)
        self.assertIn("48 V from G2", answers[1].words)
        driver = feed_answers(queries, PinRef(device="T1", port="POWER", pin="1"), places)
        self.assertEqual("X1", driver[0].place.device, "a strip before the supply itself")
