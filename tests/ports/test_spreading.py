"""What no port fits goes over single lines: drivers, servos and encoders at controllers without
ports for them, and whatever a plug needs besides the line that it is in."""

import unittest

from msgspec.structs import replace

from builder import Builder
from line_machines import arm_parts, filler_drafts, unwired_arm, unwired_filler, wired_filler
from mistake_machines import MACHINES
from novice_machines import unwired_dipper
from shop_machines import unwired_mill
from tests.catalogue.test_device_ports import made
from tests.catalogue.test_terminal_lines import described
from turned_machines import unwired_door
from vervain import api
from vervain.edits.device_edits import add_device
from vervain.edits.plug_edits import put_conductor
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.ports.fit import fit
from vervain.queries.machine_queries import Queries
from vervain.stops.verdicts import stop_demands
from vervain.supply.feed_tree import feed_trees
from vervain.supply.results import supply_loads


def at(text: str) -> PinRef:
    device, port, pin = text.split(":")
    return PinRef(device=device, port=port, pin=pin)


def placed(machine: Machine) -> tuple[Machine, api.Proposal]:
    proposal = api.place(machine)
    return api.apply_placements(machine, proposal.placements), proposal


def grave(machine: Machine) -> list[str]:
    return sorted({f.rule for f in api.check(machine).open if f.consequence != "Workmanship"})


class Spreading(unittest.TestCase):
    def test_two_keys_wire_a_filling_line_and_an_arm(self) -> None:
        for machine, left in ((unwired_filler(), ["stops.unnoticed"]), (unwired_arm(), [])):
            with self.subTest(machine.name):
                machine, proposal = placed(machine)
                # What a driver tells is open collector, and the inputs want plus.
                self.assertLessEqual(
                    {c.plugs[0] for c in proposal.conflicts}, {PortRef(device="T2", port="ALARM")}
                )
                machine = api.apply_feeds(machine, api.plan_feeds(machine).steps)
                self.assertEqual(left, grave(machine))

    def test_what_waits_for_a_board_that_nobody_feeds_yet_is_to_do_and_not_wrong(self) -> None:
        for begun in (unwired_filler, unwired_arm, unwired_mill, unwired_dipper):
            machine, _ = placed(begun())
            with self.subTest(machine.name):
                self.assertEqual([], grave(machine))
                self.assertTrue(api.check(machine).to_do)

    def test_each_signal_has_a_line_and_each_minus_the_0_v_of_its_line(self) -> None:
        queries = Queries(placed(unwired_filler())[0])
        for ours, theirs in (
            ("T2:CONTROL:1", "K1:Q0:1"), ("T2:CONTROL:3", "K1:Q1:1"), ("T2:CONTROL:2", "K1:Q0:3"),
        ):  # fmt: skip
            with self.subTest(ours):
                self.assertIn(at(theirs), queries.net(at(ours)))
        # The enable of a driver may stay open, and its minus with it.
        self.assertEqual([], list(queries.steps(at("T2:CONTROL:6"))))
        reads = {ref.port for pin in "34" for ref in queries.net(at(f"B4:LEADS:{pin}"))} - {"LEADS"}
        self.assertEqual(2, len(reads))

    def test_servos_take_their_power_from_what_gives_it_and_not_from_the_board(self) -> None:
        machine, proposal = placed(unwired_arm())
        rows = [row.reason for row in proposal.placements if row.over is not None]
        self.assertEqual(
            [f"M{n} over K1 GP{n - 1}: no port of its own fits it." for n in (1, 2, 3)], rows[:3]
        )
        queries = Queries(machine)
        self.assertIn(at("G2:OUT:1"), queries.net(at("M1:LEADS:2")))
        self.assertIn(at("G2:OUT:2"), queries.net(at("M1:LEADS:1")))
        # The second axis of the stick at a second input.
        self.assertIn(at("K1:A1:1"), queries.net(at("B1:VRY:4")))

    def test_what_the_lines_do_not_give_is_told(self) -> None:
        text = "PUL+(5V)\nPUL-\nDIR+(5V)\nDIR-\nVCC\nGND\nA+\nA-\nB+\nB-"
        part = replace(described(text, "stepper driver"), id="my-d")
        machine = add_device(unwired_arm(), part, "Driver", "T1")
        _, proposal = placed(machine)
        (conflict,) = proposal.conflicts
        self.assertEqual(
            "No free port fits T1 CONTROL. PUL+ at K1 GP3: Its diode would get 3.17 to 8.97 mA.",
            conflict.words,
        )

    def test_named_lines_stay_for_what_they_are_called_after(self) -> None:
        text = arm_parts()["my-arm-board"]
        named = tuple(
            replace(p, id=f"LAMP {p.id}") if p.id.startswith("GP") else p for p in text.ports
        )
        machine = unwired_arm()
        parts = tuple(
            replace(p, ports=named, inside=()) if p.id == text.id else p for p in machine.parts
        )
        _, proposal = placed(replace(machine, parts=parts))
        self.assertEqual([], [r for r in proposal.placements if r.over and r.plug.device[0] == "M"])

    def test_the_direction_of_a_drive_gets_a_line_of_its_own(self) -> None:
        bare = replace(MACHINES["transporter"](), hookups=(), cables=(), accepted=())
        machine, proposal = placed(bare)
        rest = [row.plug.device for row in proposal.placements if row.over is not None]
        self.assertEqual(["T1", "T2"], rest)
        machine = api.apply_feeds(machine, api.plan_feeds(machine).steps)
        self.assertNotIn("ports.need", grave(machine))


class WhatItIsFor(unittest.TestCase):
    def test_one_output_of_a_sensor_goes_to_an_input_and_two_there_are_told(self) -> None:
        machine = wired_filler()
        queries = Queries(machine)
        answer = fit(queries, PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="I9"))
        self.assertEqual([("4", "1"), ("3", "2")], [p for p in answer.pairs if p[0] in "234"])
        host = next(ref for ref in queries.net(at("B1:LEADS:4")) if ref.device == "K1")
        both = put_conductor(machine, at("B1:LEADS:2"), host)
        told = [f for f in api.check(both).open if f.rule == "signals.outputs-meet"]
        self.assertEqual(
            ["NC and NO of B1 meet: what reads them cannot tell one from the other."],
            [f.sentence for f in told],
        )

    def test_only_a_button_that_closes_starts_a_safety_relay(self) -> None:
        queries = Queries(placed(unwired_filler())[0])
        self.assertEqual([], list(queries.steps(at("K2:START:2"))))
        fed = Queries(wired_filler())
        self.assertIn(at("S2:13-14:14"), fed.net(at("K2:START:2")))
        self.assertTrue({r.device for r in fed.net(at("S3:11-12:12"))} == {"S3", "K1"})

    def test_what_the_outputs_give_goes_off_with_the_stop(self) -> None:
        machine = wired_filler()
        (demand,) = stop_demands(Queries(machine))
        self.assertEqual((), demand.stays)
        past = put_conductor(machine, at("G1:OUT:2"), at("K1:POWER QL+:1"))
        (demand,) = stop_demands(Queries(past))
        self.assertLessEqual({"Y1", "Y2"}, set(demand.stays))

    def test_what_outputs_give_is_counted_at_the_supply_and_drawn_behind_it(self) -> None:
        queries = Queries(wired_filler())
        (load,) = supply_loads(queries, "everything")
        # 24 V less what the output loses, at 24 V / 0.35 A.
        self.assertAlmostEqual(0.336, dict(load.shares)["Y1"], places=3)
        self.assertAlmostEqual(load.current_a, sum(a for _, a in load.shares), places=2)
        drawn = {
            r.pin.device for tree in feed_trees(queries, "everything") for r in tree.consumers()
        }
        self.assertLessEqual({"Y1", "Y2", "P1"}, drawn)

    def test_a_position_that_nothing_reads_is_told(self) -> None:
        machine = wired_filler()
        hookups = tuple(
            replace(h, conductors=tuple(c for c in h.conductors if c.a != "2"))
            if h.a == PortRef(device="S4", port="COM-2") else h
            for h in machine.hookups
        )  # fmt: skip
        cut = replace(machine, hookups=tuple(h for h in hookups if h.conductors))
        told = [f.sentence for f in api.check(cut).open if f.rule == "signals.selector"]
        self.assertEqual(["Position 2 of S4 is read by nothing."], told)

    def test_a_driver_is_set_to_its_motor_where_nobody_has_set_it(self) -> None:
        machine = unwired_filler()
        queries = Queries(placed(machine)[0])
        self.assertEqual(2.1, queries.setting("T2", "current_peak_a"))
        own = tuple(
            replace(d, settings={"current_peak_a": 0.5}) if d.designator == "T2" else d
            for d in machine.devices
        )
        kept = Queries(placed(replace(machine, devices=own))[0])
        self.assertEqual(0.5, kept.setting("T2", "current_peak_a"))
        self.assertEqual(5.6, filler_drafts()["driver"].numbers["current_max_peak_a"])


class Told(unittest.TestCase):
    def test_what_a_driver_tells_goes_to_the_alarm_of_the_port_that_commands_it(self) -> None:
        board = made(
            kind="controller", pins_text="24V GND\nJ1: PUL+ PUL- DIR+ DIR- ALM+ ALM-\nIN1 GND",
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.2},
        )  # fmt: skip
        driver = made(
            kind="stepper driver",
            pins_text="PUL+ PUL- DIR+ DIR-\nALM+ ALM-\nV+ V-\nA+ A- B+ B-",
            numbers={"v_min_v": 20, "v_max_v": 50, "current_max_peak_a": 6},
        )  # fmt: skip
        build = Builder(Machine(name="Told"))
        build.add("K1", replace(board, id="my-board"))
        build.add("T1", replace(driver, id="my-driver"))
        machine, _ = placed(build.machine)
        queries = Queries(machine)
        ends = {pin: [step.end for step in queries.steps(at(f"T1:ALM:{pin}"))] for pin in "12"}
        self.assertEqual({"1": [at("K1:J1:5")], "2": [at("K1:J1:6")]}, ends)
        self.assertFalse({"ports.wrong-kind", "ports.outputs-against"} & set(grave(machine)))
        told = [f.sentence for f in api.check(machine).open if "read by nothing" in f.sentence]
        self.assertEqual([], told)


class LowerPlus(unittest.TestCase):
    def test_a_module_at_inputs_of_3_v_takes_their_plus_and_no_divider(self) -> None:
        lines = " ".join(f"D{n}" for n in range(2, 8))
        board = made(
            kind="controller", pins_text=f"VIN GND 5V 3V3\n{lines}",
            numbers={"v_min_v": 7, "v_max_v": 12, "current_a": 0.2},
            circuits={"D2/input": "3.3 V input, pulled up, for contacts to 0 V"},
        )  # fmt: skip
        five_v = {"v_min_v": 3.3, "v_max_v": 5.5, "current_a": 0.01}
        knob = made(kind="encoder", pins_text="GND + SW DT CLK", drive="push-pull",
                    numbers={**five_v, "lines_per_turn": 20})  # fmt: skip
        fork = made(kind="sensor", pins_text="VCC GND OUT", drive="push-pull", numbers=five_v)
        build = Builder(Machine(name="Module"))
        for name, part in (("K1", board), ("B1", fork), ("B2", knob)):
            build.add(name, replace(part, id=f"my-{name}"))
        machine = api.apply_placements(build.machine, api.place(build.machine).placements)
        self.assertEqual({"K1", "B1", "B2"}, {device.designator for device in machine.devices})
        queries = Queries(machine)
        for plus in ("B1:LEADS:1", "B2:LEADS:2"):
            self.assertIn(at("K1:3V3 OUT:1"), queries.net(at(plus)))
        # Pressed, the shaft closes to the 0 V of the same plug.
        self.assertEqual(1, len(queries.steps(at("B2:BUTTON:3"))))


class Turning(unittest.TestCase):
    def test_two_relays_that_are_called_as_a_motor_turn_it_either_way(self) -> None:
        machine, _ = placed(unwired_door())
        machine = api.apply_feeds(machine, api.plan_feeds(machine).steps)
        self.assertEqual([], grave(machine))
        queries = Queries(machine)
        for lead, relay in (("1", "RELAY 1"), ("2", "RELAY 2")):
            common, no, nc = (at(f"K2:{relay}:{pin}") for pin in ("1", "2", "3"))
            self.assertIn(common, queries.net(at(f"M1:LEADS:{lead}")))
            self.assertIn(at("F1:FUSE:2"), queries.net(no))
            self.assertIn(at("G1:PORT:2"), queries.net(nc))
        # The board works both, and feeds the module from the 5 V that it gives.
        self.assertIn(at("K1:5V OUT:1"), queries.net(at("K2:IN:1")))
        for channel in ("1", "2"):
            self.assertIn(at(f"K1:OUT{channel}:1"), queries.net(at(f"K2:IN{channel}:1")))

        # With both relays worked it would brake: it is counted with one.
        amps = [load.current_a for load in supply_loads(queries, "everything")]
        self.assertGreater(max(amps), 2.0)

    def test_what_turns_either_way_goes_with_the_stop(self) -> None:
        stop = described("11 12 NC", "emergency stop", numbers={"contact_max_a": 10})
        machine = add_device(unwired_door(), replace(stop, id="my-stop"), "Stop", "S5")
        machine, _ = placed(machine)
        machine = api.apply_feeds(machine, api.plan_feeds(machine).steps)
        demand = next(d for d in stop_demands(Queries(machine)) if d.stop == "S5")
        self.assertEqual((), demand.stays)
        self.assertNotIn("ports.one-way", grave(machine))
        self.assertIn(at("S5:11-12:12"), Queries(machine).net(at("K2:RELAY 1:2")))

    def test_with_a_relay_less_the_motor_is_switched_one_way(self) -> None:
        machine = put_conductor(unwired_door(), at("K2:RELAY 2:1"), at("G1:PORT:1"))
        (row,) = [p for p in placed(machine)[1].placements if p.plug.device == "M1"]
        self.assertEqual((None, PortRef(device="K2", port="RELAY 1")), (row.over, row.host))
