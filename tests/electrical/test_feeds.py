"""Nets, rails, and what feeds what."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from tests import small
from tests.strategies import a_change, applied
from vervain.electrical.feeds import (
    consumers_of,
    downstream_pins,
    sources_of,
    zero_pin_of,
)
from vervain.files.demos import open_demo
from vervain.model.elements import Bridge, Contact, Fuse
from vervain.model.machine import PinRef
from vervain.queries.index import Index
from vervain.queries.machine_queries import Queries

PLANNED = open_demo("glazing-gantry-as-planned")


def at(device: str, port: str, pin: str) -> PinRef:
    return PinRef(device=device, port=port, pin=pin)


class Nets(unittest.TestCase):
    """Checked against a second, slower way of joining: colours that spread until nothing moves."""

    def spread(self, machine, through_switches: bool) -> dict[PinRef, int]:
        pairs: list[tuple[PinRef, PinRef]] = []
        for h in machine.hookups:
            for c in h.conductors:
                pairs.append((at(h.a.device, h.a.port, c.a), at(h.b.device, h.b.port, c.b)))
        parts = {part.id: part for part in machine.parts}
        for device in machine.devices:
            for element in parts[device.part].inside:
                if isinstance(element, Bridge) or (
                    through_switches and isinstance(element, Contact | Fuse)
                ):
                    first, *others = (at(device.designator, *pin) for pin in element.pins)
                    pairs.extend((first, other) for other in others)
        colour = {
            pin: n for n, pin in enumerate(sorted({p for pair in pairs for p in pair}, key=str))
        }
        moved = True
        while moved:
            moved = False
            for a, b in pairs:
                low = min(colour[a], colour[b])
                if (colour[a], colour[b]) != (low, low):
                    colour[a] = colour[b] = low
                    moved = True
        return colour

    @settings(max_examples=15, deadline=None)
    @given(a_change())
    def test_groups_are_those_of_the_slow_way(self, change) -> None:
        machine = applied(PLANNED, change)
        index = Index(machine)
        for groups, through in ((index.net_of_pin, False), (index.rail_of_pin, True)):
            colour = self.spread(machine, through)
            self.assertEqual(set(colour), set(groups))
            for pin, group in groups.items():
                same = {p for p in colour if colour[p] == colour[pin]}
                self.assertEqual(same, set(group))

    @settings(max_examples=15, deadline=None)
    @given(st.lists(a_change(), min_size=1, max_size=4))
    def test_what_is_made_from_the_index_before_is_what_is_made_anew(self, changes) -> None:
        machine, index = PLANNED, Index(PLANNED)
        names = (
            "net_of_pin", "rail_of_pin", "steps_of_pin", "hookups_of_device", "hookups_of_cable",
        )  # fmt: skip
        for name in names:
            getattr(index, name)
        for change in changes:
            machine, before = applied(machine, change), index
            index, anew = Index(machine, before=before), Index(machine)
            for name in names:
                old, new = getattr(before, name), getattr(index, name)
                self.assertEqual(getattr(anew, name), new, (change[0], name))
                differ = {key for key in (*old, *new) if old.get(key) != new.get(key)}
                self.assertLessEqual(differ, index.differs(before, name), (change[0], name))
            index.forget_before()

    def test_an_unchanged_net_keeps_its_tuple(self) -> None:
        before = Index(PLANNED)
        nets = before.net_of_pin
        copied = applied(PLANNED, (("name",), lambda m: m))
        after = Index(copied, before=before)
        for pin, net in after.net_of_pin.items():
            self.assertIs(nets[pin], net)


class Feeds(unittest.TestCase):
    def test_every_consumer_of_the_demo_has_the_source_it_should(self) -> None:
        queries = Queries(PLANNED)
        for pin, source in (
            (at("T1", "POWER", "1"), "G1"),
            (at("T5", "POWER", "1"), "G1"),
            (at("K1", "POWER", "1"), "G2"),
            (at("M8", "LEADS", "1"), "G2"),
            (at("M5", "LEADS", "1"), "G2"),
            (at("Q2", "COIL", "A1"), "G2"),
            (at("B7", "LEADS", "1"), "G2"),
            (at("M7", "PLUG", "3"), "G3"),
            (at("B9", "LEADS", "1"), "K1"),
            (at("S3", "LEADS", "1"), "K1"),
        ):
            with self.subTest(pin.device):
                self.assertEqual([source], [s.pin.device for s in sources_of(queries, pin)])

    def test_the_sum_of_a_supply_is_the_sum_of_its_consumers(self) -> None:
        queries = Queries(PLANNED)
        for supply, expected_a in (("G1", 4 * 2.0 + 1.4), ("G3", 0.9)):
            total = sum(
                item.feed.current_a or 0.0 for item in consumers_of(queries, at(supply, "OUT", "1"))
            )
            self.assertAlmostEqual(expected_a, total)

    def test_a_fuse_protects_what_is_behind_it_and_nothing_else(self) -> None:
        queries = Queries(PLANNED)
        behind = {pin.device for pin in downstream_pins(queries, "F4")}
        self.assertLessEqual({"X2", "K2", "X31", "M8", "M10", "P1"}, behind)
        self.assertFalse(behind & {"G2", "K1", "Q1", "M5", "F2"})
        self.assertIn("T5", {pin.device for pin in downstream_pins(queries, "F1")})

    def test_a_fuse_that_is_not_fed_protects_nothing(self) -> None:
        machine = small.bench("F1 quoin-fh1", "M1 quoin-bf24").machine
        self.assertEqual((), downstream_pins(Queries(machine), "F1"))
        self.assertEqual((), downstream_pins(Queries(machine), "M1"))

    def test_the_zero_of_a_signal(self) -> None:
        queries = Queries(PLANNED)
        own = zero_pin_of(queries, at("B7", "LEADS", "2"), None)
        self.assertEqual(at("B7", "LEADS", "3"), own)
        named = zero_pin_of(queries, at("K1", "SERVO", "1"), ("POWER", "2"))
        self.assertEqual(at("K1", "POWER", "2"), named)
        self.assertIsNone(zero_pin_of(queries, at("X11", "A", "1"), None))
