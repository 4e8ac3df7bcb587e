"""Loads behind relays in a proposal, relays that switch nothing, and drivers without figures."""

import unittest

from msgspec.structs import replace

from builder import Builder
from novice_machines import dipper_parts, plant_parts, unwired_dipper, wired_dipper
from shop_machines import unwired_mill, wired_mill
from tests import small
from tests.catalogue.test_terminal_lines import described
from tests.supply.test_feeding_safety_relay import at
from vervain import api
from vervain.harness.proposing import propose_tree
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries
from vervain.supply.loads import driver_rms_a


def placed(machine: Machine) -> Machine:
    return api.apply_placements(machine, api.place(machine).placements)


def bath(
    *heaters: str, relays: tuple[str, ...] = ("Heater relay",), output: str = "HEAT"
) -> Machine:
    """A controller whose output works each relay, and heaters at mains, with nothing between."""
    build, parts = Builder(Machine(name="Bath")), dipper_parts()
    build.add("K1", parts["my-dipper-board"])
    build.add("G1", parts["my-dipper-supply"], "Supply")
    build.device("X1", "quoin-mi1", "Inlet", None)
    for number, name in enumerate(relays, 1):
        build.add(f"Q{number}", parts["my-dipper-relay"], name)
        build.join(f"Q{number}:CONTROL", f"K1:{output if number == 1 else 'LAMP'}", "3-1 4-2")
    for number, name in enumerate(heaters, 1):
        heater = replace(parts["my-dipper-heater"], title=name)
        build.add(f"E{number}", replace(heater, id=f"my-heater-{number}"), name)
    return build.machine


class Switched(unittest.TestCase):
    def test_the_load_goes_through_the_relay_and_the_contactor(self) -> None:
        machine = placed(unwired_dipper())
        said = [item.sentence for item in api.check(machine).to_do]
        self.assertIn("Q1 switches nothing yet: 1-2 is joined to nothing.", said)
        steps = api.plan_feeds(machine).steps
        step = next(step for step in steps if "goes through Q1" in step.words)
        self.assertEqual("K1 HEAT turns it on and off.", step.reason)
        queries = Queries(wired_dipper())
        # From the heater by the contactor and the relay to the terminals of mains.
        self.assertIn(at("Q2:3/L2-4/T2:4/T2"), queries.net(at("E1:LEADS:1")))
        self.assertIn(at("Q1:1-2:2"), queries.net(at("Q2:3/L2-4/T2:3/L2")))
        self.assertFalse([x for x in api.check(wired_dipper()).open
                          if x.consequence != "Workmanship"])  # fmt: skip

    def test_in_the_box_the_line_is_a_brown_wire_and_the_cable_stays_with_the_heater(self) -> None:
        machine = propose_tree(wired_dipper())
        queries = Queries(machine)
        cable = next(h.cable for h in machine.hookups if {h.a.device, h.b.device} == {"E1", "Q2"})
        beside = {h.cable for h in machine.hookups if "E1" in (h.a.device, h.b.device)}
        self.assertEqual({cable}, beside)
        self.assertIn("GNYE", queries.cable_part(queries.cable(cable).part).cores)
        planned = api.plan_cables(machine).cables
        wired = api.apply_cables(machine, planned)
        inside = [
            h for h in wired.hookups if {h.a.device, h.b.device} in ({"Q1", "Q2"}, {"Q1", "X2"})
        ]
        parts = [Queries(wired).cable_part(Queries(wired).cable(h.cable).part) for h in inside]
        self.assertEqual([("BN",), ("BN",)], [part.cores for part in parts])
        self.assertTrue(all(part.core_mm2 >= 0.75 for part in parts))
        self.assertEqual((), api.check(wired).to_do)

    def test_mains_between_two_contacts_is_mains(self) -> None:
        """What starts the relay, and what it switches, in one cable: no pin there says mains."""

        def core(number: int, wanted: set[str], machine: Machine) -> Machine:
            return replace(machine, hookups=tuple(
                replace(h, cable="W99", conductors=tuple(
                    replace(c, core=number + n) for n, c in enumerate(h.conductors)))
                if {h.a.device, h.b.device} == wanted else h
                for h in machine.hookups))  # fmt: skip

        build = Builder(wired_dipper())
        build.cable("W99", "flex-5x0.5", 1.0)
        machine = core(1, {"Q1", "K1"}, core(3, {"Q1", "Q2"}, build.machine))
        self.assertIn("harness.mains-beside:W99", {x.key for x in api.check(machine).open})
        apart = core(1, {"Q1", "K1"}, build.machine)
        self.assertNotIn("harness.mains-beside:W99", {x.key for x in api.check(apart).open})

    def test_a_pump_at_mains_gets_the_relay_that_the_output_of_its_name_works(self) -> None:
        bare = unwired_mill()
        placed_at = {(p.plug.device, p.plug.port): p.host for p in api.place(bare).placements}
        for plug, host in (
            (("K2", "IN2"), "COOLANT"), (("P1", "LEADS"), "LIGHT"),
            (("T4", "CONTROL"), "SPINDLE ON"), (("T4", "ANALOG"), "AVI 0-10V"),
        ):  # fmt: skip
            with self.subTest(plug):
                self.assertEqual(PortRef(device="K1", port=host), placed_at[plug])
        steps = [step.words for step in api.plan_feeds(placed(bare)).steps]
        self.assertIn("M5 L goes through K2 RELAY 2", steps)
        self.assertIn("T4 R goes through Q1 3/L2-4/T2", steps)
        machine = wired_mill()
        self.assertFalse([x.key for x in api.check(machine).open if x.consequence != "Workmanship"])
        # The contact switches the pump alone, not what hangs beside it at the terminals.
        strong = replace(machine, parts=tuple(
            small.with_contacts(part, current_max_a=1.0) if part.id == "my-mill-relays" else part
            for part in machine.parts
        ))  # fmt: skip
        self.assertNotIn("signals.contact-rating", {x.rule for x in api.check(strong).open})

    def test_a_button_beside_the_contact_that_holds_is_judged(self) -> None:
        """Both ends of the button reach the plus: one through the stop, one through the contact."""
        parts = dipper_parts()
        button = described("13 14 NO", "switch", numbers={"contact_max_a": 0.05})
        build = Builder(Machine(name="Holds itself"))
        for name, part in (
            ("G1", parts["my-dipper-supply"]), ("S1", parts["my-dipper-stop"]),
            ("S2", replace(button, id="my-button")), ("Q1", parts["my-dipper-contactor"]),
        ):  # fmt: skip
            build.add(name, part)
        for a, b, pins in (
            ("G1:OUT", "S1:11-12", "3-11"), ("S1:11-12", "S2:13-14", "12-13"),
            ("S2:13-14", "Q1:COIL", "14-A1"), ("Q1:13-14", "S2:13-14", "13-13 14-14"),
            ("Q1:COIL", "G1:OUT", "A2-1"),
        ):  # fmt: skip
            build.join(a, b, pins)
        told = [x.sentence for x in api.check(build.machine).open if x.rule.endswith("-rating")]
        self.assertIn(
            "S2 switches 0.1 A (Q1); it carries 0.05 A.", [t.split(" of ")[-1] for t in told]
        )

    def test_a_contact_for_low_volts_gets_no_mains(self) -> None:
        machine = bath("Wax heater", output="FAN")
        for most_v, count in ((30.0, 0), (250.0, 1)):
            parts = tuple(
                small.with_contacts(part, v_max_v=most_v)
                if part.kind == "solid-state relay"
                else part
                for part in machine.parts
            )
            steps = api.plan_feeds(replace(machine, parts=parts)).steps
            with self.subTest(most_v):
                self.assertEqual(count, sum("goes through Q1" in step.words for step in steps))

    def test_a_battery_goes_through_the_main_switch(self) -> None:
        parts = plant_parts()
        build = Builder(Machine(name="Cart"))
        switch = described("13 14 NO", "switch", numbers={"contact_max_a": 16})
        for name, part in (
            ("G1", parts["my-plant-battery"]), ("G2", parts["my-plant-converter"]),
            ("K1", parts["my-plant-board"]), ("M1", parts["my-plant-pump"]),
        ):  # fmt: skip
            build.add(name, part)
        bare = [step.words for step in api.plan_feeds(build.machine).steps]
        build.add("S9", replace(switch, id="my-main"), "Main switch")
        plan = api.plan_feeds(build.machine)
        words = [step.words for step in plan.steps]
        self.assertEqual([*bare, "F1 goes through S9"], words)
        queries = Queries(api.apply_feeds(build.machine, plan.steps))
        # Nothing hangs on the battery but the fuse, and behind that nothing but the switch.
        beside = {pin.device for pin in queries.net(at("G1:PORT:1"))} - {"G1"}
        self.assertEqual({"F1"}, beside)
        ends = [queries.net(PinRef(device="S9", port=port, pin=pin))
                for port, pin in build.machine.parts[-1].inside[0].pins]  # fmt: skip
        around = [{pin.device for pin in net} - {"S9"} for net in ends]
        self.assertEqual([{"F1"}, {"G2"}], sorted(around, key=str))

    def test_what_is_called_a_main_switch_is_no_input(self) -> None:
        machine = unwired_mill()
        for name, goes in (("Main switch", False), ("Battery isolator", False), ("Probe", True)):
            called = replace(machine, devices=tuple(
                replace(d, name=name) if d.designator == "B4" else d for d in machine.devices
            ))  # fmt: skip
            with self.subTest(name):
                plugs = {placement.plug.device for placement in api.place(called).placements}
                self.assertEqual(goes, "B4" in plugs)

    def test_what_is_not_plain_is_left_to_the_builder(self) -> None:
        def through(machine: Machine) -> list[str]:
            return [s.words for s in api.plan_feeds(machine).steps if "goes through Q" in s.words]

        two = bath("Wax bath", "Glue pot", relays=("Glue relay", "Wax relay"), output="FAN")
        self.assertEqual({"E2 L goes through Q1 1-2", "E1 L goes through Q2 1-2"}, {*through(two)})
        # Nothing is called alike, but there is one of each.
        lone = bath("Kettle", relays=("Relay",), output="FAN")
        lone = replace(lone, devices=tuple(
            replace(d, name="Kettle") if d.designator == "E1" else d for d in lone.devices
        ))  # fmt: skip
        self.assertEqual(["E1 L goes through Q1 1-2"], through(lone))
        two = bath("Wax heater", "Wax heater", relays=("Relay", "Relay"), output="FAN")
        self.assertEqual([], through(two))
        decisions = " ".join(api.plan_feeds(two).decisions)
        self.assertIn("Which of Q1, Q2 switches which of E1, E2 is not known", decisions)

    def test_a_driver_without_figures_takes_what_its_motor_is_rated_for(self) -> None:
        queries = Queries(wired_dipper())
        self.assertEqual(2.0, driver_rms_a(queries, "T1"))
        self.assertIsNone(driver_rms_a(queries, "K1"))

    def test_a_limit_may_be_home(self) -> None:
        machine = unwired_dipper()
        axis = replace(machine.axes[0], home=None)
        machine = placed(replace(machine, axes=(axis,)))
        finding = next(x for x in api.check(machine).open if x.rule == "machine.no-home")
        offered = {getattr(fix.remedy, "device", "") for fix in finding.fixes}
        self.assertNotIn("B4", offered, "The switch of a lid is called after it.")
        mended = finding.fixes[0].remedy.apply(machine)
        self.assertEqual(("B2", "B2"), (mended.axes[0].home, mended.axes[0].min_limit))
        self.assertNotIn("machine.no-home", {x.rule for x in api.check(mended).open})
