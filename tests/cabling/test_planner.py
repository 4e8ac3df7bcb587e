"""The cable planner: what goes together, what never does, and that nothing cheaper was missed."""

import random
import unittest
from itertools import combinations

from msgspec.structs import replace

from mistake_machines import MACHINES
from tests import small
from tests.rules.harness_cases import routed, run
from tests.sampling import seeded, some
from vervain.cabling.apply_plan import accept_cables
from vervain.cabling.planner import (
    best_division,
    joined_division,
    plan_cables,
    units,
)
from vervain.cabling.requirements import needs
from vervain.cabling.selection import (
    Options,
    choose_part,
    cores_wanted,
    may_share,
    shared_commons,
)
from vervain.edits import cable_edits, route_edits
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.cable_part import CablePart
from vervain.model.machine import Machine, PinRef
from vervain.model.place import Place, Run
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine
from vervain.rules.finding import Finding

PARTS = tuple(shipped_shelf().cable_parts.values())
PLANNED = open_demo("glazing-gantry-as-planned")
# What sits out on a machine.
FAR = (
    "brushed motor", "stepper motor", "switch", "sensor", "encoder", "servo", "fan", "lamp",
    "heater", "emergency stop", "hand wheel", "connector", "valve", "brake", "load", "thermistor",
)  # fmt: skip


def bare(machine: Machine) -> Machine:
    """The machine with all its cables taken away."""
    for cable in machine.cables:
        machine = cable_edits.remove_cable(machine, cable.id)
    return machine


def spread(machine: Machine, chance: random.Random) -> Machine:
    """The machine without cables; what controls it in a box, the rest at the ends of a random tree
    of runs.
    """
    parts = {part.id: part for part in machine.parts}
    ends = [f"e{n}" for n in range(chance.randint(1, 4))]
    places = (
        Place(id="box", name="Box", closed=True, inside_m=0.4),
        *(Place(id=name, name=name.upper(), inside_m=0.3) for name in ends),
    )
    runs = tuple(
        Run(
            id=f"R{n}", a=chance.choice(["box", *ends[:n]]), b=name,
            length_m=round(chance.uniform(0.3, 6), 1), moving=chance.random() < 0.5,
        )
        for n, name in enumerate(ends)
    )  # fmt: skip
    devices = tuple(
        replace(device, place=chance.choice(ends) if parts[device.part].kind in FAR else "box")
        for device in machine.devices
    )
    return replace(bare(machine), places=places, runs=runs, devices=devices, accepted=())


def switches(count: int, **how) -> Machine:
    """Switches with short leads, a run away from their inputs."""
    build = small.powered_controller()
    for number in range(1, count + 1):
        build.device(f"B{number}", "osier-rl2", f"Switch {number}", None)
        build.join(f"B{number}:LEADS", f"K1:IN {number + 3}", "COM-1 NC-2")
    places = {"K1": "box", "G1": "box", **{f"B{n}": "end" for n in range(1, count + 1)}}
    return routed(build.machine, places, run(length_m=4.0, **how))


def of_switches(machine: Machine):
    """What the switches want."""
    return tuple(n for n in needs(Queries(machine)) if n.device_end.device.startswith("B"))


def planned(machine: Machine, **options):
    return plan_cables(machine, PARTS, Options(**options))


def cables_to(plan, *devices: str):
    """The planned cables that come to any of some devices."""
    return [
        cable
        for cable in plan.cables
        if any(need.device_end.device in devices for need in cable.needs)
    ]


def about_what(finding: Finding) -> tuple[str, str | None]:
    """The rule of a finding and the device that it is about."""
    return finding.rule, next((s.device for s in finding.subjects if s.device), None)


class Commons(unittest.TestCase):
    def test_n_switches_take_n_and_one_cores(self) -> None:
        for count in (2, 3, 4):
            machine = switches(count)
            group = of_switches(machine)
            with self.subTest(count):
                self.assertEqual(2 * count, cores_wanted(group, Options()))
                self.assertEqual(count + 1, cores_wanted(group, Options(share_commons=True)))

    def test_sensors_share_plus_and_zero(self) -> None:
        build = small.powered_controller()
        for number in (1, 2, 3):
            build.device(f"B{number}", "larkmoor-ip12", "Sensor", None)
            build.join(f"B{number}:LEADS", f"K1:IN {number + 4}", "+-1 OUT-2 −-3")
        places = {"K1": "box", "B1": "end", "B2": "end", "B3": "end"}
        group = needs(Queries(routed(build.machine, places, run())))
        group = tuple(need for need in group if need.device_end.device.startswith("B"))
        self.assertEqual(5, cores_wanted(group, Options(share_commons=True)))
        currents = shared_commons(group, Options(share_commons=True)).values()
        self.assertEqual(2, len(currents))

    def test_the_reason_names_the_lost_redundancy(self) -> None:
        plan = planned(switches(3), share_commons=True)
        words = cables_to(plan, "B1")[0].why
        self.assertIn("one core is the common of 3", words)
        self.assertIn("if it breaks, all 3 are lost", words)

    def test_a_shared_common_is_a_splice_at_the_devices(self) -> None:
        machine = switches(3)
        plan = planned(machine, share_commons=True)
        laid = accept_cables(machine, plan.cables, Options(share_commons=True))
        splice = next(d for d in laid.devices if d.name.startswith("Common of B1"))
        self.assertEqual("end", splice.place)
        queries = Queries(laid)
        before = Queries(machine)
        for number in (1, 2, 3):
            for pin in ("COM", "NC"):
                ref = small.at(f"B{number}:LEADS")
                port = before.port(ref)
                found = next(p.id for p in port.pins if pin in (p.id, p.text))
                here = PinRef(device=ref.device, port=ref.port, pin=found)
                hosts = {p for p in before.net(here) if p.device == "K1"}
                self.assertTrue(hosts & {p for p in queries.net(here) if p.device == "K1"})
        self.assertFalse(
            [f for f in check_machine(laid).open if f.consequence in ("Damage", "Won't run")
             and f.rule.startswith("harness")]
        )  # fmt: skip


class Separation(unittest.TestCase):
    def setUp(self) -> None:
        self.found = {need.hookup: need for need in needs(Queries(bare(PLANNED)))}

    def of(self, *devices: str):
        return tuple(n for n in self.found.values() if n.device_end.device in devices)

    def test_what_never_lies_together(self) -> None:
        for devices in (("X11", "X18"), ("X11", "X12"), ("X14", "X19"), ("G1", "K1"),
                        ("S1", "X18")):  # fmt: skip
            with self.subTest(devices):
                self.assertFalse(may_share(self.of(*devices)))

    def test_a_motor_with_the_brake_of_its_axis(self) -> None:
        self.assertTrue(may_share(self.of("X14", "X15")))
        self.assertFalse(may_share(self.of("X11", "X15")))

    def test_a_motor_with_the_brake_of_another_axis_at_the_same_place(self) -> None:
        motor, brake = self.of("X14"), self.of("X15")
        there = tuple(replace(need, places=motor[0].places) for need in brake)
        self.assertTrue(may_share((*motor, *there)))
        other = tuple(replace(need, axis="Q") for need in there)
        self.assertFalse(may_share((*motor, *other)))
        none = tuple(replace(need, axis="") for need in (*motor, *there))
        self.assertFalse(may_share(none))

    def test_switches_and_sensors_of_one_place(self) -> None:
        self.assertTrue(may_share(self.of("X19", "B8")))

    def test_every_planned_cable_keeps_what_its_needs_want(self) -> None:
        for name in ("glazing-gantry", "seedling-arm", "clay-printer"):
            for commons in (False, True):
                plan = planned(bare(open_demo(f"{name}-as-planned")), share_commons=commons)
                for cable in plan.cables:
                    self.keeps(cable, Options(share_commons=commons))

    def keeps(self, cable, options) -> None:
        """An independent reading of the hard conditions."""
        part, group = cable.part, cable.needs
        with self.subTest((part.id, [need.hookup for need in group])):
            self.assertLessEqual(cores_wanted(group, options), len(part.cores))
            self.assertTrue(part.flexing or not any(need.moving for need in group))
            services = {need.service for need in group}
            if "motor" in services:
                self.assertTrue(part.shield)
                self.assertLessEqual(services, {"motor", "feed"})
            if "mains" in services:
                self.assertEqual({"mains"}, services)
                self.assertIn("GNYE", part.cores)
            self.assertEqual(1, len({frozenset(need.places) for need in group}))
            for need in group:
                self.assertLessEqual(need.thinnest_mm2 * 0.99, part.core_mm2)


class Best(unittest.TestCase):
    def partitions(self, items: list) -> list[list[tuple]]:
        if not items:
            return [[]]
        first, rest = items[0], items[1:]
        found = []
        for size in range(len(rest) + 1):
            for others in combinations(rest, size):
                left = [item for item in rest if item not in others]
                group = tuple(need for unit in (first, *others) for need in unit)
                found += [[group, *more] for more in self.partitions(left)]
        return found

    def test_no_division_of_a_few_units_costs_less(self) -> None:
        chance = random.Random(3)
        for count in (2, 3, 4, 5):
            machine = switches(count, moving=bool(count % 2))
            group = units(of_switches(machine))
            for _ in range(3):
                some = tuple(chance.sample(PARTS, 12)) + PARTS[:6]
                options = Options(share_commons=chance.random() < 0.5)

                def choice(needs_, some=some, options=options):
                    return choose_part(needs_, some, options) if may_share(needs_) else None

                if any(choice(unit) is None for unit in group):
                    continue
                best = sum(choice(part).cost for part in best_division(group, choice))
                every = [
                    sum(choice(part).cost for part in division)
                    for division in self.partitions(group)
                    if all(choice(part) is not None for part in division)
                ]
                self.assertAlmostEqual(min(every), best, 4)
                joined = sum(choice(part).cost for part in joined_division(group, choice))
                self.assertGreaterEqual(joined, best - 1e-6)
                self.assertLessEqual(joined, sum(choice(unit).cost for unit in group) + 1e-6)

    def test_the_same_machine_gives_the_same_plan(self) -> None:
        machine = bare(PLANNED)
        shuffled = tuple(reversed(PARTS))
        self.assertEqual(planned(machine), plan_cables(machine, shuffled, Options()))

    def test_the_gantry_planned_anew_has_no_finding(self) -> None:
        machine = bare(PLANNED)
        plan = planned(machine)
        self.assertEqual((), plan.left)
        laid = accept_cables(machine, plan.cables, Options())
        # The lead of the servo at the gun is long, and accepted.
        accepted = {about_what(f) for f in check_machine(PLANNED).accepted}
        found = check_machine(laid).open
        worse = [f for f in found if f.consequence != "Workmanship"]
        self.assertEqual([], [f.sentence for f in worse if about_what(f) not in accepted])
        self.assertEqual(len(plan.cables), len(laid.cables))
        self.assertEqual((), planned(laid).cables)

    def test_no_plan_is_too_thin_for_a_fuse_or_too_thick_for_what_it_joins(self) -> None:
        """Machines of many kinds, spread at random; all of them with VERVAIN_ALL."""
        chance = seeded("planned from nothing")
        for name in some(chance, sorted(MACHINES), 4):
            machine = spread(MACHINES[name](), chance)
            before = {finding.key for finding in check_machine(machine).open}
            plan = planned(machine)
            for cable in plan.cables:
                thickest = min(need.thickest_mm2 for need in cable.needs)
                if len(cable.needs) > 1:
                    self.assertLessEqual(cable.part.core_mm2, thickest * 1.001, name)
            laid = check_machine(accept_cables(machine, plan.cables, Options()))
            thin = [f.sentence for f in laid.open
                    if f.rule == "supply.fuse" and f.key not in before]  # fmt: skip
            self.assertEqual([], thin, name)

    def test_stopping_leaves_what_is_not_reached(self) -> None:
        self.assertEqual((), plan_cables(bare(PLANNED), PARTS, Options(), lambda: False).cables)


class Kinds(unittest.TestCase):
    def test_a_coiled_run_takes_the_ready_made_lead(self) -> None:
        plan = planned(bare(PLANNED))
        part = cables_to(plan, "S3")[0].part
        self.assertEqual(("coiled", True), (part.form, part.ready_made))

    def test_a_ready_made_lead_keeps_the_length_that_it_is_bought_in(self) -> None:
        machine = switches(1)
        lead = CablePart(
            id="lead", title="Lead", cores=("WH", "BN"), core_mm2=0.34, ready_made=True,
            stock_m=(2.0, 5.0, 10.0),
        )  # fmt: skip
        plan = plan_cables(machine, (lead,), Options())
        laid = accept_cables(machine, plan.cables, Options())
        # 4 m and 0.6 m for the loops.
        self.assertIn(5.0, [cable.length_m for cable in laid.cables])

    def test_a_plug_that_does_not_reach_gets_an_extension_with_its_mate(self) -> None:
        build = small.powered_controller()
        build.device("M1", "quoin-ps9", "Servo", None)
        build.device("G2", "fell-ps6", "6 V", None)
        build.join("G2:OUT", "K1:SERVO PWR", "1-6V 2-2")
        build.join("M1:PLUG", "K1:SERVO", "S-1 −-2 +-3")
        places = {"K1": "box", "G1": "box", "G2": "box", "M1": "end"}
        machine = routed(build.machine, places, run(length_m=3.0))
        plan = planned(machine)
        laid = accept_cables(machine, cables_to(plan, "M1"), Options())
        joint = next(d for d in laid.devices if d.name == "Extension of M1")
        self.assertEqual("end", joint.place)
        queries, before = Queries(laid), Queries(machine)
        for pin in before.port(small.at("M1:PLUG")).pins:
            ref = PinRef(device="M1", port="PLUG", pin=pin.id)
            hosts = [p for p in before.net(ref) if p.device == "K1" and p.port == "SERVO"]
            self.assertTrue(set(hosts) <= set(queries.net(ref)), pin.id)
        rules = {finding.rule for finding in check_machine(laid).open}
        self.assertFalse(rules & {"ports.mating", "harness.short-lead", "harness.short-cable"})

    def test_a_ribbon_between_headers_pin_on_pin(self) -> None:
        build = small.bench("K1 tarn-pb5", "K2 tarn-pb5")
        slot = next(p for p in build.machine.parts[0].ports if p.kind == "driver slot")
        named = replace(slot, kind="terminals", connector="pin-2.54-2x8")
        machine = small.with_part(
            build.machine,
            "tarn-pb5",
            lambda part: replace(
                part, ports=tuple(named if port is slot else port for port in part.ports)
            ),
        )
        build = small.Builder(machine)
        pins = " ".join(f"{pin.id}-{pin.id}" for pin in slot.pins)
        build.join(f"K1:{slot.id}", f"K2:{slot.id}", pins)
        machine = routed(build.machine, {"K1": "box", "K2": "box"}, run())
        plan = planned(machine)
        self.assertEqual("ribbon", plan.cables[0].part.form)
        laid = accept_cables(machine, plan.cables, Options())
        rows = laid.hookups[0].conductors
        self.assertEqual([(1, "1"), (16, "16")], [(rows[n].core, rows[n].a) for n in (0, 15)])

    def test_a_core_behind_a_fuse_carries_what_the_fuse_lets_through(self) -> None:
        plan = planned(bare(PLANNED))
        for cable in plan.cables:
            fused = max(need.fused_a for need in cable.needs)
            if fused >= 15:
                with self.subTest(cable.part.id):
                    self.assertGreaterEqual(cable.part.core_mm2, 2.5)

    def test_spare_cores_are_left_and_insulated(self) -> None:
        machine = switches(3)
        cable = cables_to(planned(machine, spare_cores=1), "B1")[0]
        self.assertGreater(len(cable.part.cores), cable.used)
        laid = accept_cables(machine, (cable,), Options(spare_cores=1))
        self.assertEqual("insulated", laid.cables[-1].spares)

    def test_what_no_part_serves_is_told_with_the_reason(self) -> None:
        plan = plan_cables(switches(2), (), Options())
        self.assertEqual(2, len(plan.left))
        self.assertIn("2 cores", plan.left[0][1])

    def test_leads_that_reach_want_no_cable(self) -> None:
        machine = switches(2)
        near = route_edits.change_run(machine, "R1", length_m=0.1)
        names = {need.device_end.device for need in needs(Queries(near))}
        self.assertNotIn("B1", names)
