"""Parts as they are printed, where a name alone says too little: what stands beside it tells."""

import unittest

from msgspec.structs import replace

from builder import Builder
from described_machines import (
    lathe_parts,
    placer_parts,
    table_parts,
    unwired_lathe,
    unwired_station,
    unwired_table,
)
from described_parts import lathe_drafts
from tests.catalogue.test_device_ports import made
from vervain import api
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.model.electrical import FeedIn, FeedOut, LogicOutput
from vervain.model.elements import Bridge, Contact
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Part
from vervain.ports.fit import fit
from vervain.ports.port_wishes import may_go
from vervain.queries.machine_queries import Queries


def functions(part: Part) -> dict[str, list[str]]:
    return {port.id: [pin.function for pin in port.pins] for port in part.ports}


def at(port: PortRef, pin: str) -> PinRef:
    return PinRef(device=port.device, port=port.port, pin=pin)


class Told(unittest.TestCase):
    def test_what_a_pin_is_its_neighbours_tell(self) -> None:
        volts = {"v_min_v": 10.0, "v_max_v": 30.0, "nominal_v": 24.0, "current_a": 1.0}
        for kind, printed, port, wanted in (
            ("sensor", "BN\nBU\nBK", "LEADS", ["plus", "zero", "signal"]),
            ("sensor", "BN\nBU\nBK\nWH", "LEADS", ["plus", "zero", "signal", "signal"]),
            ("supply", "L\nN\nGND\nV-\nV+", "MAINS", ["line", "neutral", "pe"]),
            ("supply", "L\nN\nGND\nV+", "OUT", ["zero", "plus"]),
            ("supply", "AC/L\nAC/N\nFG\nCOM\n+V", "OUT", ["zero", "plus"]),
            ("valve", "red\nred", "LEADS", ["load+", "load-"]),
            ("fan", "black\nred", "LEADS", ["load-", "load+"]),
            ("emergency stop", "NC1\nNC1\nNC2\nNC2", "NC1.1-NC1.2", ["com", "nc"]),
            ("emergency stop", "NC1\nNC2\nNO1\nNO2", "NO1-NO2", ["com", "no"]),
            ("supply", "L\nN\nPE\nV1+\nV1-\nV2+\nV2-", "OUT", ["plus", "zero", "plus", "zero"]),
            ("switch", "probe NO\nprobe COM\nover NC\nover COM", "over", ["nc", "com"]),
            ("switch", "black NO\nwhite", "LEADS", ["no", "com"]),
            ("fuse", "1\n1\n2\n2", "FUSE 2", ["through", "through"]),
            ("sensor", "1 L+\n3 M\n4 Q", "LEADS", ["plus", "zero", "signal"]),
            ("supply", "AC\nAC\nFG\nV-\nV+", "MAINS", ["line", "neutral", "pe"]),
            ("supply", "AC L\nAC N\nV+ V-", "MAINS", ["line", "neutral"]),
            ("supply", "L N\n24V~: 1 2", "24V~", ["plus", "zero"]),
            ("supply", "L N PE\nAC1 AC2", "OUT", ["plus", "zero"]),
            ("supply", "PRI: 0 230V\nSEC: 0 24V", "PRI", ["line", "neutral"]),
            ("supply", "PRI: 0 230V\nSEC: 0 24V", "SEC", ["plus", "zero"]),
            ("controller", "5V GND\n12 13 27", "IO27", ["signal"]),
            (
                "controller",
                "1: L\n2: N\n3: TC+\n4: TC-\n9: AL1 COM\n10: AL1 NO",
                "AL1",
                ["com", "no"],
            ),
            ("controller", "5V GND\nTX1 RX1\nTX2 RX2", "SERIAL 2", ["transmit", "receive"]),
            ("tool power source", "START: 1 2\nARC OK: 1 2\nWORK", "ARC OK", ["com", "no"]),
            (
                "frequency inverter",
                "R S T PE\nU V W PE\nFWD REV DCM",
                "MOTOR",
                ["phase U", "phase V", "phase W", "pe"],
            ),
            ("switch", "COM\nON", "LEADS", ["com", "no"]),
            ("lamp", "X1\nX2", "LEADS", ["load+", "load-"]),
            ("valve", "A+\nA-\nB+\nB-", "B", ["load+", "load-"]),
            ("solid-state relay", "+1\n-2\n+3\n-4", "CONTROL", ["load+", "load-"]),
            ("solid-state relay", "+1\n-2\n+3\n-4", "+1--2", ["through", "through"]),
            (
                "encoder",
                "+V\n0V\nCLK+\nCLK-\nDATA+\nDATA-",
                "LEADS",
                ["plus", "zero", "clock", "none", "data+", "data-"],
            ),
            (
                "hand wheel",
                "5V\n0V\nA\nB\nX\nY\nZ\nX1\nX10",
                "LEADS",
                ["plus", "zero", "encoder A", "encoder B", *["none"] * 5],
            ),
            ("switch", "L in\nL out\nN in\nN out", "N in-N out", ["through", "through"]),
        ):
            with self.subTest(printed, kind=kind):
                part = made(kind=kind, pins_text=printed, numbers=volts)
                self.assertEqual(wanted, functions(part)[port])

    def test_a_drive_for_more_than_230_v_has_three_lines(self) -> None:
        for least_v, wanted in ((200.0, ["line", "none", "neutral"]), (380.0, ["line"] * 3)):
            drive = made(
                kind="frequency inverter", pins_text="R/L1 S/L2 T/L3 PE\nU V W PE\nFWD REV DCM",
                numbers={"v_min_v": least_v, "v_max_v": least_v * 1.2},
            )  # fmt: skip
            self.assertEqual(wanted, functions(drive)["MAINS"][:3])

    def test_what_is_printed_gnd_is_the_0_v_of_the_board_and_a_common_is_not(self) -> None:
        board = made(kind="controller", pins_text="24V 0V\nIN1 IN2 GND\nIN3 IN4 COM")
        own = {at[0] for e in board.inside if isinstance(e, Bridge) for at in e.pins}
        self.assertLessEqual({"POWER", "IN1", "IN2"}, own)
        apart = [e.pins for e in board.inside if isinstance(e, Bridge)
                 and {"POWER", "IN3"} <= {port for port, _ in e.pins}]  # fmt: skip
        self.assertEqual([], apart)

    def test_what_alternates_is_said_by_its_name(self) -> None:
        for kind, title, printed, wanted in (
            ("supply", "Transformer", "L N\n24V~: 1 2", {"AC"}),
            ("supply", "Supply, 230 V AC to 24 V", "L N\nV+ V-", {"DC"}),
            ("supply", "AC/DC supply, 24 V", "L N\nV+ V-", {"DC"}),
            ("valve", "Valve, 24 V AC", "1 2", {"AC"}),
            ("valve", "Valve, AC 24 V", "1 2", {"AC"}),
            ("lamp", "Lamp, 24 V AC/DC", "X1 X2", {"either"}),
            ("contactor", "Contactor, coil 24 VAC", "A1 A2\n1 2", {"AC"}),
            ("valve", "Valve, 24 V", "1 2", {"DC"}),
            ("stepper driver", "Driver, 20-70 V AC", "PUL+ PUL-\nGND VCC A+ A- B+ B-", {"either"}),
        ):
            with self.subTest(title):
                part = made(kind=kind, title=title, pins_text=printed,
                            numbers={"nominal_v": 24.0, "current_a": 1.0})  # fmt: skip
                feeds = (pin.electrical for port in part.ports for pin in port.pins)
                types = {f.current_type for f in feeds if isinstance(f, FeedIn | FeedOut)}
                self.assertEqual(wanted, types)

    def test_colours_that_are_no_switchs_are_asked_for(self) -> None:
        for printed in ("BN\nBU\nGN", "BN\nBU\nBK\nBK", "red\nblack\nwhite\ngreen"):
            with self.subTest(printed), self.assertRaises(AssertionError):
                made(kind="sensor", pins_text=printed)
        # What only usage says is taken, and marked at each of its leads.
        usual = describe(Draft(kind="sensor", title="X", pins_text="red\nblack\nwhite"), "my-x")
        self.assertTrue(all("by usage" in " ".join(row.marks) for row in usual.rows))

    def test_contacts_may_say_what_they_do(self) -> None:
        contactor = table_parts()["my-table-contactor"]
        rests = {e.pins[0][0]: e.rest for e in contactor.inside if isinstance(e, Contact)}
        self.assertEqual(("NO", "NC"), (rests["13NO-14NO"], rests["21NC-22NC"]))


class Boards(unittest.TestCase):
    def test_what_is_printed_at_boards_tells_their_ports(self) -> None:
        step, pulses = ["step", "zero", "direction", "zero"], "step and direction"
        for kind, printed, port, port_kind, wanted in (
            ("controller", {"X": "XP+ XP- XD+ XD-"}, "X", pulses, step),
            ("controller", {"X": "CW+ CW- CCW+ CCW-"}, "X", pulses, step),
            ("controller", {"Z": "STEP DIR COM"}, "Z", pulses, ["step", "direction", "zero"]),
            ("controller", {"FAN": "V G"}, "FAN", "switched output", ["plus", "load-"]),
            ("controller", {"XEND": "G V S"}, "XEND", "digital input", ["zero", "plus", "signal"]),
            ("controller", {"STEP": "P2 P3 5V"}, "STEP P3", "switched output", ["signal", "plus"]),
            (
                "controller",
                {"SP": "10V AVI GND"},
                "SP",
                "analogue output",
                ["plus", "signal", "zero"],
            ),
            (
                "motor bridge",
                {"MOTOR": "A B C"},
                "MOTOR",
                "motor phases",
                ["phase U", "phase V", "phase W"],
            ),
            ("motor bridge", {"RC": "S 5V GND"}, "RC", "servo", ["signal", "none", "zero"]),
            ("relay module", {"OUT": "OUT+ OUT-"}, "OUT", "switched output", ["plus", "load-"]),
            ("frequency inverter", {"KA": "KA KB KC"}, "KA", "relay contact", ["no", "nc", "com"]),
            (
                "signal converter",
                {"OUT": "VCC OUT1 OUT2 GND"},
                "OUT2",
                "sensor",
                ["signal", "plus", "zero"],
            ),
        ):
            pins = "port\tpin\n" + "\n".join(
                f"{name}\t{pin}" for name, names in printed.items() for pin in names.split()
            )
            with self.subTest(kind, printed=printed):
                part = made(kind=kind, pins_text=pins)
                self.assertEqual((port_kind, wanted), (part.port(port).kind, functions(part)[port]))

    def test_signs_at_a_converter_that_is_fed_elsewhere_are_measured_or_given(self) -> None:
        text = "+24V 0V\nARC+ ARC-\nT+ T-\nOUT+ OUT-"
        made_so = functions(made(kind="signal converter", pins_text=text))
        self.assertEqual(["plus", "zero"], made_so["POWER"])
        self.assertEqual(["measure+", "measure-"], made_so["ARC"])
        self.assertEqual(["measure+", "measure-"], made_so["T"])
        self.assertEqual(["signal", "zero"], made_so["OUT"])
        drive = made(kind="servo drive", pins_text="L N PE\nU V W PE\nSON ALM COM+ COM-")
        self.assertEqual(["enable", "alarm", "plus", "zero"], functions(drive)["CONTROL"])
        tower = made(kind="lamp", pins_text="RD GN YE COM", numbers={"nominal_v": 24.0})
        self.assertEqual(["RD", "GN", "YE"], [port.id for port in tower.ports])

    def test_a_converter_does_not_give_what_it_takes(self) -> None:
        pins = "port\tpin\nIN\t+\nIN\t-\nOUT\t+\nOUT\t-"
        numbers = {"v_min_v": 7.0, "v_max_v": 30.0, "nominal_v": 5.0, "current_a": 3.0}
        part = made(kind="supply", pins_text=pins, numbers=numbers)
        joined = [e.pins for e in part.inside if isinstance(e, Bridge)]
        self.assertEqual([(("IN", "2"), ("OUT", "2"))], joined)

    def test_one_terminal_serves_the_contacts_of_several_relays(self) -> None:
        pins = "port\tpin\n" + "\n".join(
            f"OUT\t{p}" for p in ["1L", "0.0", "0.1", "2L", "0.2", "0.3"]
        )
        part = made(kind="controller", pins_text=pins)
        joined = {e.pins for e in part.inside if isinstance(e, Bridge)}
        first = (("OUT 0.0", "1"), ("OUT 0.1", "1"))
        self.assertEqual({first, (("OUT 0.2", "1"), ("OUT 0.3", "1"))}, joined)
        works = {e.worked_by for e in part.inside if isinstance(e, Contact)}
        self.assertEqual({"program"}, works)

    def test_a_hand_wheels_switches_are_no_index(self) -> None:
        pins = "port\tpin\n" + "\n".join(
            f"MPG\t{p}" for p in ["A", "B", "X1", "X10", "X100", "5V", "GND"]
        )
        told = functions(made(kind="controller", pins_text=pins))["MPG"]
        self.assertEqual(["encoder A", "encoder B", "signal", "signal", "signal"], told[:5])

    def test_a_drives_plug_is_parted_by_where_its_wires_go(self) -> None:
        pack = lathe_parts()["my-lathe-pack"]
        kinds = {port.id: (port.kind, port.end, port.optional) for port in pack.ports}
        self.assertEqual(("sensor", "device", False), kinds["ALM CN1"])
        self.assertEqual(kinds["ALM CN1"], kinds["S-RDY CN1"])
        self.assertEqual(("encoder", "device", True), kinds["ENC OUT CN1"])
        self.assertEqual(["hall U", "none", "hall V", "none"], functions(pack)["CN2"][6:10])
        self.assertNotIn("plus", functions(lathe_parts()["my-lathe-servo"])["ENC"][2:])

    def test_nobody_chooses_the_circuits_that_print_tells(self) -> None:
        draft = lathe_drafts()["pack"]
        told = describe(replace(draft, circuits={}), "my-pack")
        self.assertEqual((), told.unknown)
        self.assertEqual(lathe_parts()["my-lathe-pack"].ports, told.part.ports)
        # That it is not known can be said all the same.
        asked = describe(replace(draft, circuits={"CN2/input": ""}), "my-pack")
        self.assertEqual(("CN2",), asked.unknown)
        board = describe(replace(lathe_drafts()["board"], circuits={}), "my-board")
        self.assertEqual(("IN1 to IN8", "OUT1 to OUT4", "ESTOP"), board.unknown)

    def test_each_pulse_comes_back_by_its_own_way(self) -> None:
        machine = unwired_lathe()
        plug, host = PortRef(device="T2", port="CN1"), PortRef(device="K1", port="Z")
        names = {
            (queries.pin(at(plug, a)).text, queries.pin(at(host, b)).text)
            for queries in [Queries(machine)]
            for a, b in fit(queries, plug, host).pairs
        }
        wanted = {("PULS+", "ZP+"), ("PULS-", "ZP-"), ("SIGN+", "ZD+"), ("SIGN-", "ZD-")}
        self.assertEqual(wanted, names)

    def test_a_driver_tells_of_itself_by_a_pair_that_is_apart(self) -> None:
        driver = table_parts()["my-table-driver"]
        alarm = driver.port("ALARM")
        self.assertEqual(("sensor", "device"), (alarm.kind, alarm.end))
        self.assertIsInstance(alarm.pins[0].electrical, LogicOutput)
        self.assertNotIn("alarm", functions(driver)["CONTROL"])
        joined = [at for e in driver.inside if isinstance(e, Bridge) for at in e.pins]
        self.assertNotIn(("ALARM", "2"), joined)

    def test_two_terminals_of_one_name_are_an_input_or_tell_something(self) -> None:
        source = functions(table_parts()["my-table-source"])
        self.assertEqual((["signal", "zero"], ["com", "no"]), (source["START"], source["OK"]))

    def test_beside_where_a_board_is_fed_plus_and_minus_are_for_loads(self) -> None:
        board = placer_parts()["my-placer-board"]
        kinds = {port.id: port.kind for port in board.ports}
        self.assertEqual("feed in", kinds["PWR IN"])
        self.assertEqual({"switched output"}, {kinds[n] for n in ("VAC1", "VAC2", "PUMP")})

    def test_lamps_with_one_lead_together_go_where_the_other_is_switched(self) -> None:
        for common, fits in (("COM", "does not fit"), ("0V", "fits")):
            build = Builder(unwired_station())
            volts = {"nominal_v": 24.0, "current_a": 0.05}
            lamp = made(kind="lamp", pins_text=f"{common}\nRED\nGREEN", numbers=volts)
            build.add("P9", replace(lamp, id="my-lamp"))
            found = fit(
                Queries(build.machine), PortRef(device="P9", port="RED"),
                PortRef(device="K1", port="OUTPUTS 0.0"),
            )  # fmt: skip
            with self.subTest(common):
                self.assertEqual((fits, common == "COM"), (found.verdict, "common" in found.reason))

    def test_an_alarm_starts_nothing(self) -> None:
        machine = unwired_table()
        queries, alarm = Queries(machine), PortRef(device="T1", port="ALARM")
        self.assertFalse(may_go(queries, alarm, PortRef(device="P1", port="START")))
        placed = {p.plug: p.host for p in api.place(machine).placements}
        self.assertTrue(placed[alarm].port.startswith("IN"))
        # It takes no plus where the inputs give one.
        self.assertEqual("K1", placed[alarm].device)
