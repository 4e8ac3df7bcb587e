"""What shares a common, a plus or a way back with others: contacts of relays, lamps in buttons,
modules that pass a feed on, sensors whose plus the port has at other volts.
"""

import unittest

from shared_machines import unwired_coils, unwired_sorter, wired_coils, wired_sorter
from tests.catalogue.test_source_lines import ports_of
from tests.ports.test_small_boards import made
from tests.ports.test_spreading import at, grave, placed
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.edits.device_edits import add_device, set_name
from vervain.edits.plug_edits import put_conductor, take_wire_off
from vervain.electrical.unmet_needs import is_to_be_fed
from vervain.model.machine import Machine, PortRef
from vervain.model.part import PartKind
from vervain.ports.fit import fit
from vervain.ports.shared_commons import met_at_common, others_at_common
from vervain.ports.switched_loads import is_kept_for_mains
from vervain.queries.machine_queries import Queries
from vervain.rules.registry import RULE_BY_ID
from vervain.supply.feed_inputs import input_at


class Commons(unittest.TestCase):
    def test_two_keys_wire_a_sorting_line_and_a_table_of_coils(self) -> None:
        for begun, wired in ((unwired_sorter, wired_sorter), (unwired_coils, wired_coils)):
            machine, proposal = placed(begun())
            with self.subTest(machine.name):
                self.assertEqual((), proposal.conflicts)
                self.assertEqual([], grave(wired()))

    def test_a_drives_start_and_a_load_have_no_common(self) -> None:
        queries = Queries(wired_sorter())
        self.assertEqual("K1", queries.hookups_of("Y1")[0].b.device)
        own = {ref.port for hookup in queries.hookups_of("Y1") for ref in (hookup.a, hookup.b)}
        drives = {
            ref.port for hookup in queries.hookups_of("T1") for ref in (hookup.a, hookup.b)
            if ref.device == "K1"
        }  # fmt: skip
        groups = [{f"Q0.{n}" for n in numbers} for numbers in ((0, 1, 2), (3, 4, 5))]
        at_drive = next(group for group in groups if drives & group)
        self.assertFalse(own & at_drive)
        free = next(iter(at_drive - drives))
        host, load = PortRef(device="K1", port=free), PortRef(device="Y1", port="LEADS")
        self.assertEqual(["T1"], [ref.device for ref in others_at_common(queries, host)])
        met = met_at_common(queries, load, host)
        self.assertEqual("T1", met.device if met is not None else "")
        answer = fit(queries, load, host)
        self.assertEqual("does not fit", answer.verdict)
        self.assertIn("Its common is that of T1", answer.reason)
        # A second line of the same drive belongs there, and a load beside loads.
        self.assertIsNone(met_at_common(queries, PortRef(device="T1", port="CONTROL"), host))
        beside = PortRef(device="K1", port=next(iter((groups[0] | groups[1]) - at_drive - own)))
        self.assertIsNone(met_at_common(queries, load, beside))

    def test_a_relay_with_s34_alone_starts_from_what_it_gives_a_channel(self) -> None:
        queries = Queries(wired_sorter())
        self.assertIn(at("K2:START:1"), queries.rail(at("S1:13-14:14")))
        self.assertTrue(queries.steps(at("S1:13-14:13")))

    def test_motors_and_metal_have_a_terminal_of_earth_too(self) -> None:
        queries = Queries(wired_sorter())
        root = queries.net(at("J1:A:PE"))
        self.assertLessEqual({at("M1:LEADS:4"), at("K1:POWER:3"), at("G1:MAINS:3")}, set(root))

    def test_what_a_module_passes_on_is_fed_with_what_its_loads_take(self) -> None:
        machine, _ = placed(unwired_coils())
        found = input_at(Queries(machine), at("K2:POWER:1"))
        self.assertLess(found.v_max_v, 60)
        self.assertGreater(found.v_min_v, 40)
        self.assertTrue(found.is_known)
        bare = input_at(Queries(unwired_coils()), at("K2:POWER:1"))
        self.assertFalse(bare.is_known)

    def test_a_sensor_for_5_v_at_lines_with_3_v_has_its_plus_elsewhere_and_a_divider(self) -> None:
        queries = Queries(placed(unwired_coils())[0])
        sensor, line = PortRef(device="B1", port="LEADS"), PortRef(device="K1", port="GP9")
        answer = fit(Queries(unwired_coils()), sensor, line)
        self.assertEqual("fits with", answer.verdict)
        self.assertIn("divider", answer.needs)
        self.assertIn("5V from", answer.needs)
        self.assertFalse(queries.net(at("B1:LEADS:1")) == ())

    def test_a_relay_is_kept_for_the_load_at_mains_of_its_name(self) -> None:
        machine = Machine(name="Shop")
        for kind, text, name in (
            ("relay module", "VCC GND IN\nNO COM NC", "Router"), ("load", "L N", "Router"),
            ("fan", "+ -", "Fan"),
        ):  # fmt: skip
            machine = add_device(machine, made(text, kind), name)
        queries = Queries(machine)
        relay, load, fan = queries.devices()
        host = PortRef(device=relay, port="RELAY")
        plugs = (PortRef(device=fan, port="LEADS"), PortRef(device=load, port="LEADS"))
        self.assertEqual([True, False], [is_kept_for_mains(queries, p, host) for p in plugs])
        renamed = Queries(set_name(machine, relay, "Fan"))
        self.assertFalse(is_kept_for_mains(renamed, plugs[0], host))

    def test_a_load_of_which_no_current_is_given_is_not_put_to_a_processor(self) -> None:
        line = "Line of a 5 V processor, pulled up"
        machine = add_device(Machine(name="Chair"), made("VIN GND 5V\nD2 D3", D2=line), "Board")
        machine = add_device(machine, made("M+ M- BR1 BR2", "brushed motor"), "Left")
        queries = Queries(machine)
        board, motor = queries.devices()
        answer = fit(
            queries, PortRef(device=motor, port="BRAKE"), PortRef(device=board, port="D2 OUT")
        )
        self.assertEqual("does not fit", answer.verdict)
        self.assertIn("How much it takes is not given", answer.reason)


class Feeds(unittest.TestCase):
    def test_each_plus_of_a_relay_board_is_missed_by_itself(self) -> None:
        numbers = {"nominal_v": 5.0, "current_a": 3.0, "v_min_v": 7.0, "v_max_v": 30.0}
        draft = Draft(kind="supply", title="X", pins_text="IN+ IN-\nOUT+ OUT-", numbers=numbers)
        supply = describe(draft, "my-supply").part
        assert supply is not None
        volts = {"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.07}
        prints = "GND IN1 IN2 VCC\nJD-VCC VCC GND\nNO1 COM1 NC1\nNO2 COM2 NC2"
        draft = Draft(kind="relay module", title="X", numbers=volts, pins_text=prints)
        board = describe(draft, "my-board").part
        assert board is not None
        machine = add_device(add_device(Machine(name="X"), board, "K1", "K1"), supply, "G1", "G1")
        for a, b in (("1", "2"), ("2", "1"), ("3", "1")):
            machine = put_conductor(machine, at(f"K1:POWER:{a}"), at(f"G1:OUT:{b}"))
        rule = RULE_BY_ID["supply.unfed"]
        self.assertFalse(any(Queries(machine).ask(rule.check, "K1")))
        for pin in ("2", "3"):
            less = take_wire_off(machine, at(f"K1:POWER:{pin}"), at("G1:OUT:1"))
            with self.subTest(pin):
                self.assertTrue(any(Queries(less).ask(rule.check, "K1")))
        # The feed that is joined to it inside has begun with it.
        self.assertFalse(is_to_be_fed(Queries(machine), "K1"))
        self.assertTrue(is_to_be_fed(Queries(add_device(Machine(name="X"), board, "K1")), "K1"))


class Prints(unittest.TestCase):
    def test_what_is_printed_at_parts_of_several_things(self) -> None:
        cases: list[tuple[PartKind, str, dict[str, tuple[str, ...]]]] = [
            ("controller", "L+ M\n1L Q0.0 Q0.1\n2L Q0.2", {
                "POWER": ("feed in", "plus", "zero"),
                **dict.fromkeys(("Q0.0", "Q0.1", "Q0.2"), ("relay contact", "com", "no")),
            }),
            ("switch", "13 14\nX1 X2", {
                "13-14": ("contact", "com", "no"), "LAMP": ("load", "load+", "load-"),
            }),
            ("switch", "BAT ON", {"LEADS": ("contact", "com", "no")}),
            ("brushed motor", "M+ M- BR1 BR2", {
                "LEADS": ("bridge motor", "motor+", "motor-"),
                "BRAKE": ("load", "load+", "load-"),
            }),
            ("lamp", "COM R Y BZ", {
                **dict.fromkeys(("R", "Y", "BZ"), ("load", "load+", "load-")),
            }),
            ("relay module", "VCC GND IN1 IN2\nVIN+ VIN-\nOUT1+ OUT1- OUT2+ OUT2-", {
                "POWER": ("feed in", "plus", "zero"), "POWER VIN+": ("feed in", "plus", "zero"),
                **dict.fromkeys(("IN1", "IN2"), ("load", "load-")),
                **dict.fromkeys(("OUT1", "OUT2"), ("switched output", "plus", "load-")),
            }),
            ("relay module", "DC+ DC- CH1 CH2\nSW1 SW1 SW2 SW2", {
                "POWER": ("feed in", "plus", "zero"),
                **dict.fromkeys(("IN1", "IN2"), ("load", "load-")),
                **dict.fromkeys(("SW1", "SW2"), ("relay contact", "com", "no")),
            }),
            ("lamp", "RED BLACK", {"LEADS": ("load", "load+", "load-")}),
            ("relay module", "S + -\nCOM NO NC", {
                "IN": ("load", "load-"), "POWER": ("feed in", "plus", "zero"),
                "RELAY": ("relay contact", "com", "no", "nc"),
            }),
            ("signal converter", "5V GND RX TX", {
                "SERIAL": ("bus", "plus", "zero", "receive", "transmit"),
            }),
            ("controller", "12V GND\nIN1 IN2 GND\nLED GND", {
                "POWER": ("feed in", "plus", "zero"),
                **dict.fromkeys(("IN1", "IN2"), ("digital input", "signal", "zero")),
                "LED": ("switched output", "load-", "zero"),
            }),
            ("switch", "NO1 NC1 C1 NO2 NC2 C2", {
                **dict.fromkeys(("POLE 1", "POLE 2"), ("contact", "no", "nc", "com")),
            }),
            ("sensor", "VCC GND DIN CS CLK", {
                "LEADS": ("bus", "plus", "zero", "receive", "select", "clock"),
            }),
            ("signal converter", "E+ E- A- A+ B- B+\nGND DT SCK VCC", {
                "PLUG 1": ("transducer input", "excitation+", "excitation-", "measure-", "measure+",
                           "none", "none"),
                "PLUG 2": ("bus", "zero", "data", "clock", "plus"),
            }),
            ("servo drive", "V+ V-\nU V W\nVSP GND FG EN CW", {
                "V": ("feed in", "plus", "zero"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
                "PLUG 3": ("analogue command", "signal", "zero"),
                "START": ("drive control", "alarm", "enable", "direction", "zero"),
            }),
            ("stepper driver", "VDC GND A+ A- B+ B-\nPUL+ PUL- DIR+ DIR-\nALM+ ALM-", {
                "POWER": ("feed in", "plus", "zero"),
                "MOTOR": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "CONTROL": ("step and direction", "step", "zero", "direction", "zero"),
                "ALM": ("sensor", "signal", "zero"),
            }),
            ("stepper motor", "A C B D", {
                "LEADS": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
            }),
            ("emergency stop", "11 12 X1 X2", {
                "LAMP": ("load", "load+", "load-"), "11-12": ("stop contacts", "com", "nc"),
            }),
            ("controller", "VBAT GND\nM1+ M1- M2+ M2-\nIN1 IN2 GND", {
                "POWER": ("feed in", "plus", "zero"),
                **dict.fromkeys(("M1", "M2"), ("bridge output", "motor+", "motor-")),
                **dict.fromkeys(("IN1", "IN2"), ("digital input", "signal", "zero")),
            }),
            ("hand wheel", "+5V 0V A B\nX Y COM\nX1 X10 COM", {
                "LEADS": ("encoder", "plus", "zero", "encoder A", "encoder B", "none"),
                **{f"COM-{n}": ("contact", "com", "no") for n in ("X", "Y", "X1", "X10")},
            }),
            ("controller", "5V GND\n12-24V GND\nXP XD YP YD GND\n0-10V GND", {
                "POWER": ("feed in", "plus", "zero"), "5V OUT": ("feed out", "plus", "zero"),
                **dict.fromkeys(("X", "Y"), ("step and direction", "step", "direction", "zero")),
                "0-10V": ("analogue output", "signal", "zero"),
            }),
        ]  # fmt: skip
        for kind, text, wanted in cases:
            with self.subTest(text):
                self.assertEqual(wanted, ports_of(made(text, kind)))
        # Serial lines go from one to one; those of a bus with a clock to every socket.
        for text, is_one in (("HAND: 5V GND TX RX\nGPS: 5V GND TX RX", False),
                             ("A: 5V GND SDA SCL\nB: 5V GND SDA SCL", True)):  # fmt: skip
            inside = made(f"12V GND\n{text}").inside
            lines = [e for e in inside if {pin for _, pin in e.pins} == {"3"} and len(e.pins) == 2]
            self.assertEqual(is_one, bool(lines), text)
        self.assertEqual(
            ("contact", "com", "no"), ports_of(made("CLIP PLATE", "switch", "Touch plate"))["LEADS"]
        )
