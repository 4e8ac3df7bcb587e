"""The stops as strings, and the ends of the axes."""

import unittest

from tests.small import switch_in
from tests.stops.circuits import by_contactor, holding, in_mains, one_channel, read_channels
from vervain.files.demos import open_demo
from vervain.harness.labels import labels
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.stops.chains import chains_of, wires_along
from vervain.stops.verdicts import stop_verdicts
from vervain.tables.limit_rows import limit_rows

FOUND, PLANNED = (open_demo(f"glazing-gantry-as-{name}") for name in ("found", "planned"))


def strings(machine: Machine) -> list[str]:
    """Each string in words: source, wires and links in order, what it ends in."""
    queries = Queries(machine)
    names = labels(queries)
    found = []
    for chain in chains_of(queries):
        words = []
        for link in chain.links:
            words += [names[along.wire].at_a for along in link.wires]
            words.append(f"[{link.kind} {link.device}]")
        words += [names[along.wire].at_a for along in chain.last_wires]
        found.append(" ".join((*words, *dict.fromkeys(ref.device for ref in chain.ends))))
    return found


class Strings(unittest.TestCase):
    def test_a_string_goes_from_its_source_to_what_it_ends_in(self) -> None:
        coil, power = strings(one_channel())
        self.assertEqual("W1.1 [contact S1] W1.2 Q1", coil)
        self.assertRegex(power, r"^\S+ \[contact Q1\] \S+ T1$")

    def test_two_channels_are_two_strings_with_the_inputs_that_read_them(self) -> None:
        queries = Queries(read_channels())
        first, second, power = chains_of(queries)
        self.assertEqual([1, 1, 0], [len(chain.inputs) for chain in (first, second, power)])
        self.assertEqual(["Q1", "Q2"], [link.device for link in power.links])
        self.assertEqual([False, False, True], [c.is_power for c in (first, second, power)])

    def test_a_self_holding_circuit_goes_through_a_contact(self) -> None:
        queries = Queries(holding())
        coil = next(c for c in chains_of(queries) if c.ends[0].device == "Q1")
        self.assertEqual(["S1", "K2"], [link.device for link in coil.links])
        self.assertEqual(("S3",), coil.links[1].beside, "the button that starts it")

    def test_what_switches_the_mains_of_a_supply_is_a_string(self) -> None:
        self.assertEqual("X4.L [contact Q1] G1.L G1", strings(by_contactor())[-1])
        self.assertEqual("S1.11 [contact S1] S1.12 G1", strings(in_mains())[-1])

    def test_a_bridged_contact_is_in_its_string(self) -> None:
        self.assertIn("[bridged contact S2]", " ".join(strings(FOUND)))
        self.assertNotIn("bridged", " ".join(strings(PLANNED)))

    def test_each_wire_that_is_drawn_can_fail(self) -> None:
        for machine in (PLANNED, FOUND, open_demo("seedling-arm-as-planned"), one_channel()):
            queries = Queries(machine)
            cut = {v.fault.wires[0] for v in stop_verdicts(queries) if v.fault.kind == "cut"}
            self.assertLessEqual(wires_along(queries), cut)

    def test_no_stop_no_string(self) -> None:
        self.assertEqual([], strings(Machine(name="Empty")))


class Ends(unittest.TestCase):
    def test_a_switch_is_told_as_made_and_as_it_is_read(self) -> None:
        for contact in ("NC", "NO"):
            row = limit_rows(Queries(switch_in("IN 1", contact)))[0]
            self.assertTrue(row.minimum.words.startswith(f"B1 {contact}, IN 1"))

    def test_the_gantrys_ends(self) -> None:
        rows = {row.axis: row for row in limit_rows(Queries(PLANNED))}
        self.assertEqual("NC", rows["X"].minimum.made)
        self.assertEqual("inverted", rows["X"].minimum.taken)
        self.assertEqual("sensor", rows["Z"].home.made)
        self.assertIsNone(rows["Z"].minimum)
        self.assertTrue(rows["A"].endless)
        self.assertIn(
            "read by nothing", {r.axis: r for r in limit_rows(Queries(FOUND))}["Z"].home.words
        )
