"""Describing parts: rows joined, marked and kept; the part that follows; newer versions."""

import re
import unittest

import msgspec
from hypothesis import example, given
from hypothesis import strategies as st
from msgspec.structs import replace

from tests import small
from vervain.catalogue.describe import describe
from vervain.catalogue.differences import differences
from vervain.catalogue.drafts import DESCRIBED, Draft, presets
from vervain.catalogue.joined import join
from vervain.catalogue.rows import read_rows
from vervain.edits.device_edits import update_part
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.part_writing import part_text
from vervain.files.shelf import free_part_id
from vervain.model.colours import read_colour
from vervain.model.elements import Contact, Winding
from vervain.model.machine import Machine
from vervain.model.problem import Problem


def marks_of(pins: str, colours: str = "", kind: str = "sensor") -> dict[str, str]:
    found: dict[str, str] = {}
    for row in describe(
        Draft(kind=kind, title="x", pins_text=pins, colours_text=colours), "x"
    ).rows:
        found[row.pin] = " ".join((found.get(row.pin, ""), *row.marks))
    return found


class Colours(unittest.TestCase):
    def test_words_letters_and_stripes(self) -> None:
        for text, expected in (
            ("brown", "BN"), ("BN", "BN"), ("brn", "BN"), ("purple", "VT"), ("gray", "GY"),
            ("wh/bn", "WHBN"), ("White-Brown", "WHBN"), ("white with brown stripe", "WHBN"),
            ("yellow/green", "GNYE"), ("whbn", "WHBN"), ("violet", "VT"),
            ("B", None), ("reddish", None), ("", None), ("red green blue", None), ("7", None),
        ):  # fmt: skip
            with self.subTest(text):
                self.assertEqual(expected, read_colour(text))


class Joining(unittest.TestCase):
    def test_the_same_table_however_it_is_parted(self) -> None:
        wanted = [("1", "plus", "BN"), ("4", "signal", "BK"), ("3", "zero", "BU")]
        for pins, colours in (
            ("Pin\tFunction\n1\t+24V\n4\tOUT\n3\tGND", "1\tbrown\n4\tblack\n3\tblue"),
            ("1;L+\n4;Q\n3;L-", "brown;1\nblack;4\nblue;3"),
            ('"1","V+"\r\n"4","signal"\r\n"3","0 V"', "1 BN\r\n4 BK\r\n3 BU"),
            ("1  +\n4  OUT\n3  −", "brown\nblack\nblue"),
            ("1 | + | BN\n4 | OUT | BK\n3 | - | BU", ""),
            ("Pin;Colour;Signal\n1;BN;plus\n4;BK;output\n3;BU;ground", ""),
            ("1 +\n4 OUT\n3 GND", "+ brown\nOUT black\nGND blue"),
        ):
            with self.subTest(pins):
                rows = join(pins, colours, "sensor")
                self.assertEqual(wanted, [(r.pin, r.function, r.colour) for r in rows])
                self.assertEqual([], [mark for row in rows for mark in row.marks])

    def test_what_is_wrong_is_said_at_its_row(self) -> None:
        marks = marks_of("1 +\n1 OUT\n2 FROB\n3 GND", "1 RD\n3 RD\n9 BU\n2 B")
        self.assertIn("two functions", marks["1"])
        self.assertIn("RD is at pin 3 too", marks["1"])
        self.assertIn("“FROB” is no function", marks["2"])
        self.assertIn("black, brown or blue", marks["2"])
        self.assertIn("no pin “9”", marks["9"])
        self.assertIn("one of them is wrong", marks_of("1 | + | RD", "1 BU")["1"])
        self.assertIn("colour is missing", marks_of("1 +\n2 -", "1 RD")["2"])

    def test_gaps_and_missing_functions_are_problems_of_the_whole(self) -> None:
        said = describe(Draft(title="x", pins_text="1 +\n4 OUT"), "x").problems
        self.assertTrue(any("Pin 2, 3 is missing" in text for text in said))
        self.assertTrue(any("needs a pin for zero" in text for text in said))

    @example("", "¹\x0c0", "brake")
    @example("0\x1f0\r0 0", "", "fuse")
    @example("+0", "", "brake")
    @example("VIN 1-99999999999999999999V", "", "controller")
    @given(st.text(max_size=300), st.text(max_size=200), st.sampled_from(sorted(DESCRIBED)))
    def test_no_row_is_ever_dropped_and_whatever_comes_out_can_be_saved(
        self, pins: str, colours: str, kind: str
    ) -> None:
        described = describe(
            Draft(kind=kind, title="t", pins_text=pins, colours_text=colours), "my-t"
        )
        typed = {row.text for row in read_rows(pins)}
        kept = {row.text for row in described.rows}
        # A line of several terminals is a row for each; a heading is not a row of the part.
        words = {word for text in kept for word in re.split(r"[\W_]+", text)}
        lost = [t for t in typed - kept if not words & {*re.split(r"[\W_]+", t)} - {""}]
        self.assertLessEqual(len(lost), 1)
        if described.part is not None:
            again = decode_parts(part_text(described.part), "t.toml").part[0]
            self.assertEqual(described.part, again)

    def test_a_huge_paste_is_cut_at_a_bound_and_ports_at_64_pins(self) -> None:
        described = describe(Draft(title="t", pins_text="1 +\n" * 100_000), "t")
        self.assertLess(len(described.rows), 1000)
        many = "\n".join(f"{n} +" for n in range(80))
        crowded = describe(Draft(title="t", pins_text=many), "t")
        self.assertIsNone(crowded.part)
        self.assertIn("64", " ".join(crowded.problems))


class Parts(unittest.TestCase):
    def made(self, **values):
        described = describe(Draft(title="Mine", **values), "my-part")
        self.assertEqual((), described.problems)
        return described.part

    def test_a_stepper_has_the_windings_of_its_phases(self) -> None:
        part = self.made(
            kind="stepper motor",
            pins_text="A+\ncentre tap A\nA-\nB+\ncentre tap B\nB-",
            colours_text="BK\nYE\nGN\nRD\nWH\nBU",
            numbers={"current_a": 2.0, "resistance_ohm": 1.5, "steps_per_turn": 400},
            rated="series",
        )
        self.assertEqual("series", part.stepper.rated)
        ends = [tuple(pin for _, pin in e.pins) for e in part.inside if isinstance(e, Winding)]
        self.assertEqual([("BK", "YE"), ("YE", "GN"), ("RD", "WH"), ("WH", "BU")], ends)
        self.assertEqual((2, 400), (part.stepper.phases, part.stepper.steps_per_turn))

    def test_coils_by_print_are_known_without_ohms_and_by_colours_alone_are_not(self) -> None:
        printed = self.made(
            kind="stepper motor", pins_text="A+ BK\nA- GN\nB+ RD\nB- BU", numbers={"current_a": 3.0}
        )
        self.assertEqual(2, len(printed.inside))
        self.assertIsNone(printed.inside[0].resistance_ohm)
        draft = Draft(
            kind="stepper motor", title="M", pins_text="black\ngreen\nred\nblue",
            numbers={"current_a": 3.0},
        )  # fmt: skip
        found = describe(draft, "my-m")
        self.assertEqual("motor phases", found.part.ports[0].kind)
        self.assertEqual((), found.part.inside)
        self.assertTrue(all(row.marks for row in found.rows))

    def test_numbers_become_the_limits_of_the_pins_they_are_for(self) -> None:
        def limits(part, text: str):
            pins = {pin.text: pin.electrical for port in part.ports for pin in port.pins}
            return pins[text]

        encoder = {"kind": "encoder", "pins_text": "1 +5V\n2 GND\n3 A\n4 B"}
        numbers = {"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05}
        pushed = limits(self.made(drive="push-pull", numbers=numbers, **encoder), "A")
        self.assertEqual((None, 0.4, 0.5), (pushed.high_max_v, pushed.drop_v, pushed.low_max_v))
        pulled = limits(self.made(drive="NPN", numbers=numbers, **encoder), "A")
        self.assertEqual((None, 0.0), (pulled.high_max_v, pulled.drop_v))
        # A sensor of 5 V loses less than one of 24 V, unless one knows better.
        small = self.made(kind="sensor", pins_text="1 +5V\n2 OUT\n3 0V", numbers=numbers)
        self.assertEqual(0.4, limits(small, "OUT").low_max_v)
        told = {**numbers, "drop_v": 1.1}
        small = self.made(kind="sensor", pins_text="1 +5V\n2 OUT\n3 0V", numbers=told)
        self.assertEqual(1.1, limits(small, "OUT").low_max_v)
        numbers = {"v_min_v": 10, "v_max_v": 30, "current_a": 0.05}
        sensor = self.made(kind="sensor", pins_text="1 +24V\n2 OUT\n3 0V", numbers=numbers)
        self.assertEqual(
            (2.0, 2.0), (limits(sensor, "OUT").drop_v, limits(sensor, "OUT").low_max_v)
        )
        servo = self.made(kind="servo", pins_text="1 S\n2 +6V\n3 GND", numbers={})
        self.assertEqual((2.4, 0.8), (limits(servo, "S").high_min_v, limits(servo, "S").low_max_v))
        fan = self.made(
            kind="fan", pins_text="1 +\n2 -", numbers={"nominal_v": 24, "current_a": 0.2}
        )
        feed = next(p.electrical for p in fan.ports[0].pins if p.electrical is not None)
        self.assertAlmostEqual(21.6, feed.v_min_v)
        self.assertAlmostEqual(26.4, feed.v_max_v)

    def test_three_phases_are_three_windings_in_a_ring(self) -> None:
        motor = self.made(
            kind="stepper motor",
            pins_text="U\nV\nW",
            numbers={"current_a": 3.0, "resistance_ohm": 1},
        )
        ends = [{pin for _, pin in e.pins} for e in motor.inside if isinstance(e, Winding)]
        self.assertEqual([{"1", "2"}, {"2", "3"}, {"1", "3"}], ends)

    def test_six_or_eight_leads_are_asked_what_their_current_is_for(self) -> None:
        pins = "A+\ncentre tap A\nA-\nB+\ncentre tap B\nB-"
        draft = Draft(kind="stepper motor", title="Six", pins_text=pins, numbers={"current_a": 2.0})
        self.assertIn("what its current is for", describe(draft, "my-six").problems[0])
        four = Draft(
            kind="stepper motor", title="Four", pins_text="A+\nA-\nB+\nB-",
            numbers={"current_a": 2.0}, rated="series",
        )  # fmt: skip
        self.assertEqual("as wired", describe(four, "my-four").part.stepper.rated)

    def test_a_switch_has_its_contacts_and_a_controller_its_ports(self) -> None:
        switch = self.made(kind="switch", pins_text="1 COM\n2 NC\n3 NO")
        self.assertEqual(["NC", "NO"], [e.rest for e in switch.inside if isinstance(e, Contact)])
        board = self.made(
            kind="controller",
            pins_text="port,pin,signal\nX,1,STEP\nX,2,DIR\nX,3,GND\nPWR,1,+24V\nPWR,2,GND\nIN,1,SIG\n",
        )
        kinds = {port.id: (port.kind, port.end) for port in board.ports}
        self.assertEqual(("step and direction", "host"), kinds["X"])
        self.assertEqual(("feed in", "device"), kinds["PWR"])
        self.assertEqual(("digital input", "host"), kinds["IN"])

    def test_presets_give_parts_without_a_mark(self) -> None:
        for preset in presets():
            pins, colours = preset.texts
            if preset.kind:
                with self.subTest(preset.title):
                    draft = Draft(
                        kind=preset.kind, title="X", pins_text=pins, colours_text=colours,
                        drive=preset.drive or "PNP",
                    )  # fmt: skip
                    if preset.kind in ("supply", "battery"):
                        self.assertIn("how many volts", describe(draft, "my-x").problems[0])
                        draft = replace(draft, numbers={"nominal_v": 24.0, "current_a": 5.0})
                    made = describe(draft, "my-x")
                    self.assertEqual([], [m for row in made.rows for m in row.marks])
                    self.assertEqual((), made.problems)
                    self.assertIsNotNone(made.part)
        usual = [preset.kind for preset in presets() if preset.usual]
        self.assertEqual(len(usual), len(set(usual)))
        cores = next(preset for preset in presets() if not preset.kind).colours
        self.assertEqual((44, 44), (len(cores), len(set(cores))))

    def test_a_described_sensor_is_the_shipped_one(self) -> None:
        """The preset with the numbers of the shelf's PNP sensor goes where that one goes."""
        preset = presets()[0]
        part = self.made(
            kind="sensor",
            pins_text="\n".join(preset.pins),
            colours_text="\n".join(preset.colours),
            numbers={"v_min_v": 10.0, "v_max_v": 30.0, "current_a": 0.012},
        )
        shipped = shipped_shelf().parts["larkmoor-ip12"]
        ours = {(p.function, p.lead) for p in part.ports[0].pins}
        self.assertEqual({(p.function, p.lead) for p in shipped.ports[0].pins}, ours)

    def test_ids_are_free_and_plain(self) -> None:
        self.assertEqual("my-a-b-2", free_part_id("../A/b", frozenset({"my-a-b"})))
        self.assertEqual("my-part", free_part_id("§§", frozenset()))


class Versions(unittest.TestCase):
    def setUp(self) -> None:
        self.machine: Machine = small.fan()
        self.part = next(p for p in self.machine.parts if p.id == "quoin-bf24")

    def changed(self, **pin):
        port = self.part.ports[0]
        first = msgspec.structs.replace(port.pins[0], **pin)
        ports = (msgspec.structs.replace(port, pins=(first, *port.pins[1:])),)
        return msgspec.structs.replace(self.part, revision=2, ports=ports)

    def test_differences_in_words(self) -> None:
        self.assertEqual((), differences(self.part, self.part))
        self.assertEqual(
            ("LEADS pin 1: colour RD → BN",), differences(self.part, self.changed(lead="BN"))
        )

    def test_a_newer_version_is_taken_unless_a_conductor_would_lose_its_pin(self) -> None:
        taken = update_part(self.machine, self.changed(lead="BN"))
        self.assertEqual(
            "BN", next(p for p in taken.parts if p.id == "quoin-bf24").ports[0].pins[0].lead
        )
        with self.assertRaises(Problem) as refused:
            update_part(self.machine, self.changed(id="9"))
        self.assertIn("no pin 1", str(refused.exception))
