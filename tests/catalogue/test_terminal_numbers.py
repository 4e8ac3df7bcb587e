"""Parts of which nothing is known but the numbers at their terminals."""

import unittest

from vervain.catalogue.describe import Described, describe
from vervain.catalogue.drafts import Draft
from vervain.model.elements import Bridge, Contact, Fuse

NUMBERS = {"v_min_v": 20, "v_max_v": 28, "current_a": 0.1, "contact_max_a": 6}
INPUT = "24 V input, type 3, current sinking"


def described(kind: str, terminals: str, title: str = "It") -> Described:
    rows = "\n".join(terminals.split())
    circuits = {"STOP/input": INPUT, "START/input": INPUT}
    return describe(
        Draft(kind=kind, title=title, pins_text=rows, numbers=NUMBERS, circuits=circuits), "it"
    )


def ports_of(said: Described) -> dict[str, str]:
    """The kind of each port, and the functions of its pins."""
    return {
        port.id: f"{port.kind}: {', '.join(pin.function for pin in port.pins)}"
        for port in said.part.ports
    }


def contacts_of(said: Described) -> list[tuple[str, str, str]]:
    """The pins of each contact, how it rests, what works it."""
    return [
        ("-".join(pin for _, pin in found.pins), found.rest, found.worked_by)
        for found in said.part.inside
        if isinstance(found, Contact)
    ]


class Switches(unittest.TestCase):
    def test_contacts_that_open_close_and_change_over(self) -> None:
        said = described("switch", "11 12 14 23 24 35 36 47 48", "Guard switch")
        self.assertEqual(((), ()), (said.problems, said.unknown))
        self.assertEqual(
            [
                ("11-12", "NC", "plunger"), ("11-14", "NO", "plunger"), ("23-24", "NO", "plunger"),
                ("35-36", "NC", "plunger"), ("47-48", "NO", "plunger"),
            ],
            contacts_of(said),
        )  # fmt: skip

    def test_a_main_switch_has_poles_and_is_worked_by_hand(self) -> None:
        said = described("switch", "L1 T1 L2 T2 13 14", "Main switch")
        self.assertEqual(
            {"L1-T1": "terminals: through, through", "L2-T2": "terminals: through, through",
             "13-14": "contact: com, no"},
            ports_of(said),
        )  # fmt: skip
        self.assertEqual({"hand"}, {by for _, _, by in contacts_of(said)})

    def test_a_door_that_is_locked_has_a_solenoid(self) -> None:
        said = described("switch", "11 12 E1 E2")
        self.assertEqual("load: load+, load-", ports_of(said)["LOCK"])

    def test_what_is_not_numbered_so_is_asked_for(self) -> None:
        for terminals in ("1 2", "11 13", "11 12 X"):
            with self.subTest(terminals):
                self.assertTrue(described("switch", terminals).problems)
        by_words = describe(Draft(kind="switch", title="It", pins_text="1 COM\n2 NC"), "it")
        self.assertEqual({"LEADS": "contact: com, nc"}, ports_of(by_words))


class Breakers(unittest.TestCase):
    def test_the_contact_of_a_breaker_is_closed_until_it_trips(self) -> None:
        said = described("fuse", "1 2 3 4 13 14 21 22")
        self.assertEqual((), said.problems)
        self.assertEqual(2, sum(isinstance(found, Fuse) for found in said.part.inside))
        self.assertEqual([("13-14", "NC", "trip"), ("21-22", "NO", "trip")], contacts_of(said))


class Relays(unittest.TestCase):
    def test_a_safety_relay_is_told_by_its_terminals(self) -> None:
        said = described("relay module", "A1 A2 S11 S12 S21 S22 S33 S34 13 14 23 24 41 42")
        self.assertEqual(((), ()), (said.problems, said.unknown))
        self.assertEqual(
            {
                "POWER": "feed in: plus, zero",
                "STOP": "stop input: plus, stop A+, plus, stop B+",
                "START": "digital input: plus, signal",
                "13-14": "contact: com, no",
                "23-24": "contact: com, no",
                "41-42": "contact: com, nc",
            },
            ports_of(said),
        )
        given = next(found for found in said.part.inside if isinstance(found, Bridge))
        self.assertEqual({"POWER", "STOP", "START"}, {port for port, _ in given.pins})
        works = {(c.worked_by, c.started_by) for c in said.part.inside if isinstance(c, Contact)}
        self.assertEqual({("STOP", "START")}, works)

    def test_a_relay_on_a_base_has_a_coil_and_a_contact(self) -> None:
        said = described("relay module", "A1 A2 11 12 14")
        self.assertEqual("load: load+, load-", ports_of(said)["COIL"])
        self.assertEqual([("11-12", "NC", "COIL"), ("11-14", "NO", "COIL")], contacts_of(said))

    def test_a_controllers_numbers_only_count(self) -> None:
        said = described("controller", "11 12 13 14")
        self.assertEqual([], contacts_of(said))
