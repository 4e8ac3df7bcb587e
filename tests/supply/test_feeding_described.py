"""Machines of parts that no shelf has, wired by the two proposals, places and feeds."""

import unittest

from msgspec.structs import replace

from builder import Builder
from described_machines import (
    unwired_lathe,
    unwired_placer,
    unwired_printer,
    unwired_router,
    unwired_station,
    unwired_table,
)
from heat_machines import unwired_extruder, wired_extruder, wired_roaster
from novice_machines import unwired_cutter, unwired_plant
from printed_machines import unwired_winder
from robot_machines import unwired_lift, unwired_robot
from source_machines import unwired_engraver
from tests.catalogue.test_device_ports import made
from tests.sampling import seeded, some
from tests.supply.test_feeding_safety_relay import at, grave, wired
from vervain import api
from vervain.bench.checklist import bench_list
from vervain.model.machine import Machine, PortRef
from vervain.ports.fit import fit
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.supply.feed_tree import feed_trees


def by_port(**ports: str) -> str:
    """A pin table of some ports, each with its pins."""
    rows = [f"{name}\t{pin}" for name, pins in ports.items() for pin in pins.split()]
    return "\n".join(("port\tpin", *rows))


def cart() -> Machine:
    """A drive at a receiver that a converter feeds, all from one battery."""
    drive = {"v_min_v": 14.0, "v_max_v": 60.0, "current_a": 5.0}
    converter = {"v_min_v": 7.0, "v_max_v": 30.0, "nominal_v": 5.0, "current_a": 3.0}
    receiver = {"v_min_v": 4.5, "v_max_v": 6.0, "current_a": 0.1}
    build = Builder(Machine(name="Cart"))
    for name, part in {
        "G1": made(
            kind="battery", pins_text="+\n-", numbers={"nominal_v": 24.0, "current_a": 20.0}
        ),
        "G2": made(kind="supply", pins_text=by_port(IN="+ -", OUT="+ -"), numbers=converter),
        "K1": made(
            kind="radio receiver",
            pins_text=by_port(CH1="S + -", BATT="+ -"),
            numbers=receiver,
            circuits={"CH1/output": "3.3 V output, push-pull, 8 mA"},
        ),
        "T1": made(
            kind="servo drive",
            pins_text=by_port(BAT="B+ B-", MOTOR="U V W", PPM="5V GND SIG"),
            numbers=drive,
            circuits={"PPM/input": "3.3 V input that bears 5 V"},
        ),
    }.items():
        build.add(name, replace(part, id=f"my-{name.lower()}"))
    return build.machine


def left_to_do(machine: Machine) -> tuple[str, ...]:
    """What is not done yet once cables are planned for whatever has none."""
    cabled = api.apply_cables(machine, api.plan_cables(machine).cables)
    return tuple(finding.sentence for finding in api.check(cabled).to_do)


class Heavy(unittest.TestCase):
    def test_fifty_amperes_come_through_a_bolted_fuse_and_thick_cores(self) -> None:
        build = Builder(Machine(name="Crawler"))
        battery = made(
            kind="battery", pins_text="+\n-", numbers={"nominal_v": 24.0, "current_a": 120.0}
        )
        drive = made(
            kind="servo drive",
            pins_text=by_port(BAT="B+ B-", MOTOR="U V W", PPM="5V GND SIG"),
            numbers={"v_min_v": 14.0, "v_max_v": 60.0, "current_a": 25.0},
            circuits={"PPM/input": "3.3 V input that bears 5 V"},
        )
        build.add("G1", replace(battery, id="my-battery"))
        for name in ("T1", "T2"):
            build.add(name, replace(drive, id="my-drive"))
        machine, plan = wired(build.machine)
        told = [f for f in api.check(machine).open if f.consequence != "Workmanship"]
        self.assertEqual([], [f.sentence for f in told if f.rule.startswith("supply.")])
        fuses = [d for d in machine.devices if d.designator.startswith("F")]
        self.assertEqual(["quoin-fb125"], [d.part for d in fuses], plan.decisions)
        self.assertEqual(70.0, fuses[0].settings["rating_a"])
        used = {cable.part for cable in machine.cables}
        cores = [part.core_mm2 for part in machine.cable_parts if part.id in used]
        self.assertEqual(25.0, max(cores))


class Described(unittest.TestCase):
    def test_a_router_of_parts_that_no_shelf_has_is_wired_by_two_keys(self) -> None:
        machine, plan = wired(unwired_router())
        self.assertEqual(["stops.unnoticed"], grave(machine))
        self.assertEqual((), left_to_do(machine))
        words = [step.words for step in plan.steps]
        # Its second contact closes an input to 0 V, which the chain of the coil leaves it.
        self.assertIn("S1 told to K1 ESTOP", words)
        queries = Queries(machine)
        self.assertIn(at("S1:3-4:3"), queries.net(at("K1:ESTOP:1")))
        self.assertIn(at("S1:1-2:2"), queries.net(at("Q1:COIL:A1")))
        # Pulled up, that input is closed while it reads low: pressed, it stops the board.
        (demand,) = stop_demands(queries)
        self.assertEqual(((), True, False), (demand.stays, demand.is_read, demand.restarts))
        # Its lamp, lit while it is closed, goes out.
        step = next(step for step in api.bench_steps(machine) if step.id == "input S1")
        self.assertIn("the lamp of K1 ESTOP goes out", step.see)
        # A load hangs on an output, not on the contact by which the inverter tells of itself.
        self.assertIn(at("P1:LEADS:2"), queries.net(at("K1:OUTPUTS Y0:1")))

    def test_a_printer_of_parts_that_no_shelf_has_is_wired_by_two_keys(self) -> None:
        machine, _ = wired(unwired_printer())
        self.assertEqual(([], ()), (grave(machine), left_to_do(machine)))

    def test_other_machines_of_described_parts_lack_only_a_second_contactor(self) -> None:
        others = some(
            seeded("described machines"), (unwired_winder, unwired_table, unwired_placer), 1
        )
        for unwired in (*others, unwired_lathe):
            machine, plan = wired(unwired())
            with self.subTest(machine.name):
                self.assertEqual(["stops.unnoticed"], grave(machine))
                self.assertEqual((), left_to_do(machine))
        # Of three drives on a contactor of three poles each has its line cut.
        through = [step.words for step in plan.steps if "goes through Q1" in step.words]
        self.assertEqual(["T1 L1", "T2 L1", "T3 L"], [words.split(" goes")[0] for words in through])

    def test_a_robot_stops_by_its_relay_and_each_drive_is_told_by_its_own_motor(self) -> None:
        bare = unwired_robot()
        machine, plan = wired(bare)
        self.assertEqual(([], ()), (grave(machine), left_to_do(machine)))
        words = [step.words for step in plan.steps]
        for wanted in (
            "S1, B2 to K2, K2 to T1, T2, T3", "S2 starts K2", "K2 41-42 read by K1 IN8",
            "X1 gets mains from X0 B", "Mains from X0 goes through S0",
        ):  # fmt: skip
            self.assertIn(wanted, words)
        queries = Queries(machine)
        # The earth of a motor lies at its drive, with its phases.
        earth = next(
            p.id for p in queries.port(at("M3:LEADS:1").port_ref).pins if p.function == "pe"
        )
        self.assertIn("T3", {step.end.device for step in queries.steps(at(f"M3:LEADS:{earth}"))})
        for channel, reads in (("13-14:14", "1"), ("23-24:24", "2")):
            self.assertLessEqual(
                {at(f"T{n}:CN3:{reads}") for n in (1, 2, 3)}, {*queries.net(at(f"K2:{channel}"))}
            )
        put = {(p.plug.device, p.plug.port): p.host for p in api.place(bare).placements}
        for number in (1, 2, 3):
            hosts = put[f"M{number}", "LEADS"], put[f"M{number}", "ENCODER"]
            self.assertEqual((hosts[0].device, "CN2"), (hosts[1].device, hosts[1].port))
        self.assertEqual("ENC", put["B1", "LEADS"].port)

    def test_a_lift_stops_although_its_actuators_are_told_apart_from_their_power(self) -> None:
        machine, plan = wired(unwired_lift())
        demand = next(d for d in stop_demands(Queries(machine)) if d.stop == "S1")
        self.assertEqual(((), True), (demand.stays, demand.restarts))
        # A fuse is added for the string of the stop, which a battery could burn.
        (stops,) = (step for step in plan.steps if step.words == "S1 stops K2")
        self.assertEqual(["fuse"], [added.part.kind for added in stops.adds])
        # A motor at its bridge waits for nobody to feed it.
        trees = feed_trees(Queries(machine), "everything")
        waiting = {b.device for t in trees if t.source.kind == "unfed" for b in t.branches[1:]}
        self.assertEqual(set(), {name for name in waiting if name.startswith("M")})

    def test_what_no_board_commands_is_worked_by_hand(self) -> None:
        """A knob and a switch go to the drive itself; mains go through switch, breaker, relays."""
        proposal = api.place(unwired_extruder())
        self.assertEqual((), proposal.conflicts)
        hosts = {p.plug.device: (p.host.device, p.host.port) for p in proposal.placements}
        self.assertEqual(("T1", "ANALOG"), hosts["B3"])
        self.assertEqual(("T1", "CONTROL"), hosts["S3"])
        machine = wired_extruder()
        queries = Queries(machine)
        self.assertEqual(13, queries.setting("F1", "rating_a"))
        for zone in (1, 2):
            rail = {ref.device for ref in queries.rail(at(f"E{zone}:LEADS:1"))}
            self.assertIn(f"Q{zone + 2}", rail)
            self.assertNotIn(
                f"Q{5 - zone}", {r.device for r in queries.net(at(f"E{zone}:LEADS:1"))}
            )
        result = api.check(machine)
        self.assertEqual([], [f.key for f in result.open if f.consequence != "Workmanship"])
        steps = {step.id: step for step in bench_list(queries)}
        self.assertEqual("about 10 V, and none at its lower end", steps["command T1 ANALOG"].see)
        self.assertNotIn("input B3", steps)

    def test_two_share_a_bus_each_by_a_line_of_its_own(self) -> None:
        machine = wired_roaster()
        queries = Queries(machine)
        chosen = [queries.net(at(f"{name}:PLUG 1:4")) for name in ("K3", "K4")]
        hosts = [{ref.pin for ref in net if ref.device == "K1"} for net in chosen]
        self.assertEqual([1, 1], [len(pins) for pins in hosts])
        self.assertNotEqual(*hosts)
        bus = PortRef(device="K1", port="BUS")
        self.assertEqual(
            "does not fit", fit(queries, PortRef(device="K4", port="PLUG 1"), bus).verdict
        )
        self.assertIn("S1", {ref.device for ref in queries.rail(at("E1:LEADS:1"))})
        self.assertEqual(
            [], [f.key for f in api.check(machine).open if f.consequence != "Workmanship"]
        )

    def test_an_inlet_feeds_terminals_and_each_port_has_what_it_is_called_after(self) -> None:
        machine, plan = wired(unwired_engraver())
        # What its extractor's relay is to switch is not on the machine; the tube is none of it.
        self.assertEqual(
            ("Q2 switches nothing yet: 1-2 is joined to nothing.",), left_to_do(machine)
        )
        words = [step.words for step in plan.steps]
        self.assertIn("X2 gets mains from X1 OUT", words)
        self.assertFalse([text for text in plan.decisions if "inlet" in text])
        queries = Queries(machine)
        # Its power by pulses, its start where an output pulls down; the other start stays free.
        joined = (
            ("T3:CONTROL:1", "K1:LASER PWM:1"), ("T3:START TL:1", "K1:LASER L-ON:1"),
            ("B3:LEADS:1", "K1:WATER:1"), ("B4:11-12:12", "K1:LID:1"),
            ("B4:21-22:22", "T3:PERMIT:1"),
        )  # fmt: skip
        for plug, host in joined:
            with self.subTest(host):
                self.assertIn(at(host), queries.net(at(plug)))
        self.assertEqual(1, len(queries.net(at("T3:START TH:1"))))

    def test_a_cutter_without_a_contactor_stops_by_the_contact_of_its_stop(self) -> None:
        machine, _ = wired(unwired_cutter())
        # Its wire hangs free: it has no cut-out.
        left = ["stops.restarts", "stops.unnoticed"]
        self.assertEqual(left, grave(machine))
        self.assertEqual((), left_to_do(machine))
        queries = Queries(machine)
        self.assertIn(at("K1:HOTWIRE:1"), queries.net(at("K2:IN:1")))
        # The plus of what a module switches is the plus that feeds it.
        self.assertIn(at("K2:POWER:1"), queries.net(at("E1:LEADS:1")))
        # Motors whose drivers say no current get cores for what they are rated for, and what no
        # fuse protects carries what its supply gives.
        cabled = api.apply_cables(machine, api.plan_cables(machine).cables)
        self.assertEqual(left, grave(cabled))
        parts = {part.id: part for part in cabled.cable_parts}
        cables = {cable.id: parts[cable.part] for cable in cabled.cables}
        of = {h.a.device: cables[h.cable].core_mm2 for h in cabled.hookups if h.cable}
        self.assertEqual((0.5, 2.5), (of["M1"], of["E1"]))

    def test_relays_are_driven_by_what_gives_levels_and_only_those_that_are_used(self) -> None:
        machine, _ = wired(unwired_plant())
        self.assertEqual(([], ()), (grave(machine), left_to_do(machine)))
        queries = Queries(machine)
        driven = {n: queries.net(at(f"K2:IN{n}:1")) for n in (1, 2, 3, 4)}
        self.assertEqual([2, 2, 2, 1], [len(net) for net in driven.values()])
        outputs = {ref.port for net in driven.values() for ref in net if ref.device == "K1"}
        given = {f"GPIO{n}" for n in range(5, 9)} | {f"GPIO{n} OUT" for n in range(1, 5)}
        self.assertTrue(outputs <= given, outputs)

    def test_what_takes_nobody_said_how_many_volts_is_asked_for(self) -> None:
        _, plan = wired(unwired_engraver(has_figures=False))
        asked = [text for text in plan.decisions if "is not given" in text]
        self.assertEqual(["T1", "T2"], [text.split()[3] for text in asked if "POWER" in text])
        fed = {wire.b.device for step in plan.steps for wire in step.wires}
        self.assertTrue(fed.isdisjoint({"T1", "T2"}))
        self.assertIn("K1", fed, "what is printed at it says its volts")

    def test_loads_behind_contacts_with_one_common_have_a_way_back_each(self) -> None:
        machine, plan = wired(unwired_station())
        self.assertEqual(["signals.flyback", "stops.restarts", "stops.unnoticed"], grave(machine))
        words = [step.words for step in plan.steps]
        # One plus for each common, and of what hangs on it only the first has its minus with it.
        commons = [text[:14] for text in words if text.startswith("K1 OUTPUTS")]
        self.assertEqual(["K1 OUTPUTS 0.0", "K1 OUTPUTS 0.3"], commons)
        queries = Queries(machine)
        zero = queries.rail(at("G1:OUT:1"))
        for load in ("Y1:LEADS:2", "Y2:LEADS:2", "P1:LEADS:2", "P2:GREEN:1"):
            with self.subTest(load):
                self.assertIn(at(load), zero)
        # What must go with the stop hangs behind its contactor, at whatever output.
        self.assertIn(at("Q1:1/L1-2/T1:2/T1"), queries.net(at("K1:OUTPUTS 0.1:1")))

    def test_a_step_needs_those_that_add_what_its_wires_come_to(self) -> None:
        for unwired in (unwired_table, unwired_station, unwired_router):
            steps = wired(unwired())[1].steps
            adding = {new.designator: n for n, step in enumerate(steps) for new in step.adds}
            self.assertTrue(adding)
            for number, step in enumerate(steps):
                touched = {ref.device for wire in step.wires for ref in (wire.a, wire.b)}
                wanted = {adding[name] for name in touched & adding.keys()} - {number}
                with self.subTest(step.words):
                    self.assertLessEqual(wanted, set(step.needs))

    def test_the_0_v_of_a_signal_is_no_way_back_for_a_battery(self) -> None:
        machine, plan = wired(cart())
        self.assertEqual(([], ()), (grave(machine), plan.decisions))
        (step,) = [step for step in plan.steps if step.words.startswith("T1 BAT")]
        self.assertEqual({"1", "2"}, {wire.b.pin for wire in step.wires})
        # The receiver has its plus from the converter, not from the drive that hangs on it.
        self.assertIn(at("G2:OUT:1"), Queries(machine).net(at("K1:BATT:1")))
