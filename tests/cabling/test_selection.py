"""Which cable part does for some needs: each thing that it must have, and which sizes carry."""

import unittest

from msgspec.structs import replace

from vervain.cabling.requirements import (
    COMMON,
    EARTH,
    LINE,
    NEUTRAL,
    PLUS,
    SIGNAL,
    Conductor,
    Need,
)
from vervain.cabling.selection import (
    Options,
    choose_part,
    is_differential,
    least_area_mm2,
    may_share,
    suits,
)
from vervain.model.cable_part import CablePart
from vervain.model.machine import PortRef


def need(service: str, *lines: str, current_a: float = 0.01, **given: object) -> Need:
    """A need of a device out on the machine; a conductor is a plus, a common or a signal's line."""
    kinds = {"+": PLUS, "0": COMMON, "L": LINE, "N": NEUTRAL, "E": EARTH}
    conductors = tuple(
        Conductor(row, kinds.get(line, SIGNAL), line if len(line) > 1 else "", current_a,
                  frozenset({row}))
        for row, line in enumerate(lines)
    )  # fmt: skip
    made = Need(
        hookup="H1", service=service, conductors=conductors, places=("box", "end"), runs=("R1",),
        length_m=2.0, moving=False, coiled=False,
        device_end=PortRef(device="B1", port="LEADS"), far_end=PortRef(device="K1", port="IN 1"),
        axis="X", voltage_v=24.0, thinnest_mm2=0.1, thickest_mm2=1.5, ribbon=False, earth=False,
        fused_a=0.0,
    )  # fmt: skip
    return replace(made, **given)


def cable(count: int, **given: object) -> CablePart:
    names = ("BN", "WH", "BU", "BK", "GY", "PK", "VT", "RD", "GN", "YE")[:count]
    made = CablePart(id="c", title="C", cores=names, core_mm2=0.25, flexing=True)
    return replace(made, **given)


SWITCH, SENSOR = need("signal", "s", "0"), need("signal", "+", "s", "0")
MOTOR = need("motor", "s", "s", "s", "s", current_a=0.5)
ENCODER = need(
    "encoder", "+", "0", "encoder A", "encoder A", "encoder B", "encoder B",
)  # fmt: skip
MAINS = need("mains", "L", "N", "E", voltage_v=230.0)


class Suits(unittest.TestCase):
    def test_each_thing_that_a_part_must_have(self) -> None:
        mains = cable(3, cores=("BN", "BU", "GNYE"))
        pairs = cable(6, shield=True, pairs=True)
        for words, wanted, part, group, cores, expected in (
            ("cores enough", True, cable(3), SENSOR, 3, {}),
            ("a core too few", False, cable(2), SENSOR, 3, {}),
            ("a spare core wanted", False, cable(3), SENSOR, 3, {"spare_cores": 1}),
            ("a spare core there", True, cable(4), SENSOR, 3, {"spare_cores": 1}),
            ("mains have no spare core", True, mains, MAINS, 3, {"spare_cores": 1}),
            ("too thin", False, cable(3, core_mm2=0.14), SENSOR, 3, {}),
            ("too thick for its contacts", False, cable(3, core_mm2=2.5), SENSOR, 3, {}),
            ("as thick as they take", True, cable(3, core_mm2=1.5), SENSOR, 3, {}),
            ("it moves", False, cable(3, flexing=False), replace(SENSOR, moving=True), 3, {}),
            ("it lies still", True, cable(3, flexing=False), SENSOR, 3, {}),
            ("a motor's has a shield", False, cable(4), MOTOR, 4, {}),
            ("a motor's with a shield", True, cable(4, shield=True), MOTOR, 4, {}),
            ("an encoder's has pairs", False, cable(6, shield=True), ENCODER, 6, {}),
            ("an encoder's with pairs", True, pairs, ENCODER, 6, {}),
            ("pairs too few", False, cable(4, shield=True, pairs=True), ENCODER, 4, {}),
            ("inside one place no shield", True, cable(6), replace(ENCODER, places=("box", "box")),
             6, {}),
            ("coiled where it hangs", False, cable(3), replace(SENSOR, coiled=True), 3, {}),
            ("coiled", True, cable(3, form="coiled"), replace(SENSOR, coiled=True), 3, {}),
            ("coiled where it lies", False, cable(3, form="coiled"), SENSOR, 3, {}),
            ("a ribbon between headers", False, cable(3), replace(SENSOR, ribbon=True), 3, {}),
            ("a ribbon", True, cable(3, form="ribbon"), replace(SENSOR, ribbon=True), 3, {}),
            ("mains have an earth", False, cable(3), MAINS, 3, {}),
            ("signals have none", False, mains, SENSOR, 3, {}),
            ("loose wires along a run", False, cable(3, form="loose wires"), SENSOR, 3, {}),
            ("loose wires inside", True, cable(3, form="loose wires"), replace(SENSOR, runs=()),
             3, {}),
            ("as many loose wires", False, cable(4, form="loose wires"), replace(SENSOR, runs=()),
             3, {}),
        ):  # fmt: skip
            with self.subTest(words):
                options = Options(**expected)
                self.assertIs(wanted, suits(part, (group,), cores, 0.25, 2.0, options))

    def test_two_share_only_what_the_contacts_of_both_take(self) -> None:
        fine = replace(SENSOR, thickest_mm2=0.2)
        self.assertFalse(suits(cable(6), (SENSOR, fine), 6, 0.25, 2.0, Options()))
        self.assertTrue(suits(cable(6), (SENSOR, SENSOR), 6, 0.25, 2.0, Options()))

    def test_a_line_with_its_complement_is_differential(self) -> None:
        self.assertTrue(is_differential((SENSOR, ENCODER)))
        self.assertFalse(is_differential((SENSOR,)))
        self.assertFalse(is_differential((need("encoder", "encoder A", "encoder B"),)))


class Sizes(unittest.TestCase):
    def test_a_core_carries_its_current_and_what_the_fuse_lets_through(self) -> None:
        for group, area in (
            (SENSOR, 0.14), (replace(SENSOR, thinnest_mm2=0.3), 0.34),
            (need("feed", "+", "0", current_a=6.0, length_m=0.2, places=("box", "box")), 0.5),
            (need("feed", "+", "0", fused_a=10.0), 1.0),
        ):  # fmt: skip
            with self.subTest(group.conductors[0].current_a):
                self.assertEqual(area, least_area_mm2((group,), 0.2, Options()))

    def test_length_costs_volts_and_a_motor_does_not_mind(self) -> None:
        feed = need("feed", "+", "0", current_a=2.0)
        short, long = (least_area_mm2((feed,), metres, Options()) for metres in (1.0, 20.0))
        self.assertGreater(long, short)
        self.assertEqual(short, least_area_mm2((feed,), 20.0, Options(), minds_drop=False))
        motor = replace(MOTOR, conductors=need("x", "s", "s", current_a=2.0).conductors)
        self.assertEqual(
            least_area_mm2((motor,), 1.0, Options()), least_area_mm2((motor,), 20.0, Options())
        )

    def test_the_cheapest_that_does_is_taken(self) -> None:
        dear = cable(8, id="dear")
        choice = choose_part(
            (SENSOR,), (dear, cable(3, id="fits"), cable(2, id="short")), Options()
        )
        self.assertEqual(("fits", 3), (choice.part.id, choice.used))
        self.assertIsNone(choose_part((SENSOR,), (cable(2),), Options()))


class Sharing(unittest.TestCase):
    def test_what_lies_in_one_cable(self) -> None:
        other = PortRef(device="B2", port="LEADS")
        brake = replace(need("feed", "+", "0", current_a=0.4), device_end=other)
        for words, together, first, second in (
            ("two switches", True, SWITCH, replace(SWITCH, device_end=other)),
            ("other places", False, SWITCH, replace(SWITCH, device_end=other, places=("box", "a"))),
            ("a stop with a switch", False, SWITCH, need("stop", "s", "s", device_end=other)),
            ("two stops", True, need("stop", "s", "s"), need("stop", "s", "s", device_end=other)),
            ("a motor and the brake of its axis", True, MOTOR, brake),
            ("a motor and the brake of another", False, MOTOR, replace(brake, axis="Y")),
            ("a motor with a switch", False, MOTOR, replace(SWITCH, device_end=other)),
            ("a small feed with a switch", True, SWITCH, brake),
            ("a strong feed with a switch", False, SWITCH,
             replace(need("feed", "+", "0", current_a=1.1), device_end=other)),
            ("mains with a switch", False, SWITCH, replace(MAINS, device_end=other)),
            ("a ribbon with a switch", False, SWITCH,
             replace(SWITCH, device_end=other, ribbon=True)),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIs(together, may_share((first, second)))
