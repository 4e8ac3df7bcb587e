"""Tool power sources however they are printed, lone lines of controllers, figures left out."""

import unittest

from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.model.electrical import FeedIn, LogicOutput
from vervain.model.elements import Contact
from vervain.model.part import Part, PartKind

MAINS = ("feed in", "line", "neutral", "pe")
TUBE = {
    "MAINS": MAINS,
    "CONTROL": ("analogue command", "signal", "plus", "zero"),
    "START TH": ("drive control", "enable", "zero"),
    "START TL": ("drive control", "enable", "zero"),
    "PERMIT": ("digital input", "signal", "zero"),
}


def described(text: str, kind: PartKind = "tool power source", **numbers: float) -> Part:
    part = describe(Draft(kind=kind, title="X", pins_text=text, numbers=numbers), "my-x").part
    assert part is not None
    return part


def ports_of(part: Part) -> dict[str, tuple[str, ...]]:
    return {port.id: (port.kind, *(pin.function for pin in port.pins)) for port in part.ports}


def lines(names: tuple[str, ...], *functions: str) -> dict[str, tuple[str, ...]]:
    """The ports of lines of a processor: each is an input, and once more an output."""
    return {
        f"{name}{as_what}": (kind, *functions)
        for name in names
        for as_what, kind in (("", "digital input"), (" OUT", "switched output"))
    }


class Sources(unittest.TestCase):
    def test_each_line_is_a_port_however_the_terminals_are_listed(self) -> None:
        ports = ports_of(described("MAINS: L N PE\nCONTROL: TH TL WP G IN 5V\nTUBE: HV+ L-"))
        self.assertEqual(("terminals", "none", "none"), ports.pop("TUBE"))
        self.assertEqual(TUBE, ports)
        self.assertEqual(TUBE, ports_of(described("L\nN\nPE\nTH\nTL\nWP\nG\nIN\n5V")))
        short = ports_of(described("AC: L N FG\nCTRL: H L P G IN 5V"))
        self.assertEqual(TUBE["START TH"], short["START H"])
        self.assertEqual(TUBE["START TL"], short["START L"])
        self.assertEqual(TUBE["PERMIT"], short["PERMIT"])

    def test_of_two_starts_one_is_enough_and_of_one_it_is_needed(self) -> None:
        two = described("MAINS: L N PE\nCONTROL: TH TL G")
        one = described("MAINS: L N PE\nSTART: START START\nOK: OK OK")
        starts = [[p.optional for p in x.ports if p.kind == "drive control"] for x in (two, one)]
        self.assertEqual([[True, True], [False]], starts)
        self.assertEqual(("contact", "com", "no"), ports_of(one)["OK"])
        contacts = [(e.rest, e.worked_by) for e in one.inside if isinstance(e, Contact)]
        self.assertEqual([("NO", "arc")], contacts)


class LoneLines(unittest.TestCase):
    def test_what_nothing_is_known_of_beside_a_way_back_is_a_line_by_its_name(self) -> None:
        found = ports_of(described(
            "POWER: 24V GND\nLASER: L-ON G\nWATER: WP GND\nLID: DOOR GND\nCN3: XYZ GND\n"
            "TORCH: ON GND\nRES: RST GND", "controller",
        ))  # fmt: skip
        kinds = {name: ports[0] for name, ports in found.items()}
        self.assertEqual(
            ["switched output", "digital input", "digital input", "digital input",
             "switched output", "terminals"],
            [kinds[name] for name in ("LASER", "WATER", "LID", "CN3", "TORCH", "RES")],
        )  # fmt: skip


class OneList(unittest.TestCase):
    def test_what_is_listed_as_one_is_told_apart_by_the_usual_prints_of_its_kind(self) -> None:
        cases: tuple[tuple[PartKind, str, dict[str, tuple[str, ...]]], ...] = (
            ("battery", "B+ B-", {"PORT": ("feed out", "plus", "zero")}),
            ("supply", "IN+ IN- OUT+ OUT-", {
                "IN": ("feed in", "plus", "zero"), "OUT": ("feed out", "plus", "zero"),
            }),
            ("supply", "VIN GND VOUT", {
                "IN": ("feed in", "plus", "zero"), "OUT": ("feed out", "plus", "zero"),
            }),
            ("supply", "L N GND COM COM +V", {
                "MAINS": ("feed in", "line", "neutral", "pe"),
                "OUT": ("feed out", "zero", "zero", "plus"),
            }),
            ("relay module", "TRIG/PWM\nGND\nVIN+\nVIN-\nOUT+\nOUT-", {
                "IN": ("load", "load-", "zero"), "POWER": ("feed in", "plus", "zero"),
                "OUT": ("switched output", "plus", "load-"),
            }),
            ("motor bridge", "VM GND ENA IN1 IN2 OUT1 OUT2 OUT3 OUT4 IN3 IN4 ENB", {
                "POWER": ("feed in", "plus", "zero"),
                "CONTROL A": (
                    "bridge control", "pulse width", "direction", "direction", "zero",
                ),
                "MOTOR A": ("bridge output", "motor+", "motor-"),
                "MOTOR B": ("bridge output", "motor+", "motor-"),
                "CONTROL B": (
                    "bridge control", "direction", "direction", "pulse width", "zero",
                ),
            }),
            ("controller", "VIN GND 3V3 GND\nGPIO1 GPIO2 GPIO3\nSDA SCL\nMOSI MISO SCK CS\nEN", {
                "POWER": ("feed in", "plus", "zero"), "3V3 OUT": ("feed out", "plus", "zero"),
                **lines(("GPIO1", "GPIO2", "GPIO3"), "signal", "plus", "zero"),
                "BUS": ("bus", "data", "clock", "plus", "zero"),
                "SPI": ("bus", "transmit", "receive", "clock", "select", "plus", "zero"),
                "EN": ("terminals", "none"),
            }),
            ("servo", "IN GND VCC DATA\nOUT GND VCC DATA", {
                "IN": ("bus", "zero", "plus", "data"), "OUT": ("bus", "zero", "plus", "data"),
            }),
            ("encoder", "VCC GND MISO MOSI CLK CS", {
                "LEADS": ("bus", "plus", "zero", "transmit", "receive", "clock", "select"),
            }),
            ("controller", "VIN+ VIN-\nX: 1A 1B 2A 2B\nBED+ BED-\nTH0 TH0\nXMIN S G", {
                "VIN": ("feed in", "plus", "zero"),
                "X": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "BED": ("switched output", "plus", "load-"),
                "TH0": ("thermistor input", "sense 1", "sense 2"),
                "XMIN": ("digital input", "signal", "zero"),
            }),
            ("controller", "5V GND D0 D1 D2 A0 VIN GND RST", {
                "POWER": ("feed in", "plus", "zero"), "5V OUT": ("feed out", "plus", "zero"),
                **lines(("D0", "D1", "D2"), "signal", "zero"),
                "A0": ("analogue input", "signal", "zero"),
                "RST": ("terminals", "none", "zero"),
            }),
            ("relay module", "DC+ DC- IN NO COM NC", {
                "POWER": ("feed in", "plus", "zero"), "IN": ("load", "load-"),
                "RELAY": ("relay contact", "no", "com", "nc"),
            }),
            ("stepper driver", "DC+ DC- A+ A- B+ B- PU+ PU- DR+ DR-", {
                "POWER": ("feed in", "plus", "zero"),
                "MOTOR": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
                "CONTROL": ("step and direction", "step", "zero", "direction", "zero"),
            }),
            ("servo drive", "R S T E U V W\nPULS+ PULS- SIGN+ SIGN-\nENC: 5V 0V A+ A- B+ B-", {
                "POWER": ("feed in", "line", "none", "neutral", "pe"),
                "MOTOR": ("motor phases", "phase U", "phase V", "phase W"),
                "CONTROL": ("step and direction", "step", "zero", "direction", "zero"),
                "ENC": (
                    "encoder", "plus", "zero", "encoder A", "encoder A-", "encoder B",
                    "encoder B-",
                ),
            }),
            ("radio receiver", "CH1 CH2 B/VCC", {
                **dict.fromkeys(("CH1", "CH2"), ("servo", "signal", "plus", "zero")),
                "B": ("feed in", "signal", "plus", "zero"),
            }),
            ("contactor", "85 86 30 87 87a", {
                "COIL": ("coil", "coil+", "coil-"), "30-87a": ("contact", "com", "no", "nc"),
            }),
            ("stepper motor", "1 black A+\n2 green A-\n3 red B+\n4 blue B-", {
                "LEADS": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
            }),
            ("sensor", "VCC GND AOUT", {"LEADS": ("sensor", "plus", "zero", "signal")}),
            ("servo", "brown red orange", {"LEADS": ("servo", "zero", "plus", "signal")}),
        )  # fmt: skip
        for kind, text, wanted in cases:
            with self.subTest(text, kind=kind):
                self.assertEqual(wanted, ports_of(described(text, kind)))

    def test_a_line_that_is_read_in_part_is_marked_and_one_that_is_read_whole_is_not(self) -> None:
        def marks(text: str, kind: PartKind) -> list[str]:
            rows = describe(Draft(kind=kind, title="X", pins_text=text), "my-x").rows
            return [mark for row in rows for mark in row.marks if mark.startswith("Only")]

        self.assertEqual(1, len(marks("VCC QQ WW ZZ RR", "sensor")))
        self.assertEqual([], marks("1 BK A+\n2 GN A-\n3 RD B+\n4 BU B-", "stepper motor"))
        self.assertEqual([], marks("CENTRE TAP A\nA+\nA-\nB+\nB-", "stepper motor"))

    def test_no_ground_of_a_list_is_lost(self) -> None:
        first = ports_of(described("GND VIN VOUT GND", "supply"))
        self.assertEqual(("feed in", "plus", "zero"), first["IN"])
        self.assertEqual(("feed out", "plus", "zero"), first["OUT"])
        for text in ("IN+ IN- OUT+ OUT- GND", "GND OUT+ OUT- GND IN+ IN-"):
            part = described(text, "supply")
            count = sum(len(port.pins) for port in part.ports)
            with self.subTest(text):
                self.assertGreaterEqual(count, len(text.split()))

    def test_alike_ports_are_parted_where_somebody_says_so(self) -> None:
        text = "VIN GND\n" + " ".join(f"GPIO{n}" for n in range(1, 6))
        draft = Draft(
            kind="controller", title="X", pins_text=text, begins=frozenset({"GPIO4"}),
            roles={"GPIO4": "logic output"},
        )  # fmt: skip
        said = describe(draft, "my-x")
        assert said.part is not None
        groups = {group.words: group.more for group in said.groups}
        self.assertEqual(("GPIO4", "GPIO5"), groups["GPIO1 to GPIO3"])
        self.assertEqual((), groups["GPIO4 and GPIO5"])
        kinds = [port[0] for name, port in ports_of(said.part).items() if name != "POWER"]
        self.assertEqual(["digital input", "switched output"] * 3 + ["switched output"] * 2, kinds)

    def test_terminals_before_the_named_connectors_are_one_more(self) -> None:
        board = described("12-24V\nGND\nX: 1A 1B 2A 2B\nX- : S G\nFAN: + -", "controller")
        self.assertEqual(
            {"PORT": ("feed in", "plus", "zero"),
             "X": ("motor phases", "phase A+", "phase A-", "phase B+", "phase B-"),
             "X-": ("digital input", "signal", "zero"),
             "FAN": ("switched output", "plus", "load-")},
            ports_of(board),
        )  # fmt: skip


class LeftOut(unittest.TestCase):
    def test_a_feed_without_figures_is_a_feed_all_the_same(self) -> None:
        cases: tuple[tuple[str, PartKind, float | None], ...] = (
            ("VCC GND OUT", "sensor", None), ("1 2", "valve", None), ("A1+ A2- 1 2",
            "solid-state relay", None), ("POWER: VDC GND\nMOTOR: A+ A- B+ B-", "stepper driver",
            None), ("POWER: 24V GND\nIN: IN1 GND", "controller", 26.4),
        )  # fmt: skip
        for text, kind, most_v in cases:
            feeds = [
                pin.electrical for port in described(text, kind).ports for pin in port.pins
                if isinstance(pin.electrical, FeedIn)
            ]  # fmt: skip
            with self.subTest(kind):
                self.assertEqual(
                    [most_v], [feed.v_max_v and round(feed.v_max_v, 1) for feed in feeds]
                )

    def test_steppers_and_their_drivers_need_no_current_to_be_known(self) -> None:
        motor = described("A+ red A- green B+ yellow B- blue", "stepper motor")
        driver = described("POWER: VDC GND\nMOTOR: A+ A- B+ B-", "stepper driver")
        assert motor.stepper is not None and driver.driver is not None
        self.assertEqual((2, None), (motor.stepper.phases, motor.stepper.current_a))
        self.assertEqual((2, None), (driver.driver.phases, driver.driver.current_max_peak_a))

    def test_a_sensor_of_unknown_volts_is_not_said_to_lose_many(self) -> None:
        def low_v(**numbers: float) -> float:
            sensor = described("VCC GND OUT", "sensor", **numbers)
            limits = (pin.electrical for pin in sensor.ports[0].pins)
            (output,) = (found for found in limits if isinstance(found, LogicOutput))
            return output.low_max_v

        self.assertLess(low_v(), 0.8)
        self.assertGreater(low_v(v_min_v=10.0, v_max_v=30.0), 0.8)
