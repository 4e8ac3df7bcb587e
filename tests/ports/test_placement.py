"""Placement: optimal against exhaustive search, checked by a certificate, minimal conflicts."""

import itertools
import random
import unittest
from collections import Counter

from msgspec.structs import replace

from tests import small
from tests.sampling import IS_WHOLE, seeded
from vervain.edits import device_edits
from vervain.files.demos import TEMPLATES, open_demo, open_template
from vervain.model.axis import Axis
from vervain.model.machine import Machine, PortRef, Run
from vervain.model.part import OutputBank, Part
from vervain.model.place import Place
from vervain.ports.auto_placement import plugs_to_place
from vervain.ports.fit import fit
from vervain.ports.placement_solver import (
    LEFT_OUT,
    Answer,
    Assignment,
    Bank,
    Edge,
    PlacementCancelled,
    Team,
    conflicts,
    cost_of,
    restricted,
    solve,
)
from vervain.ports.plugging import plug_in, unplug
from vervain.ports.proposal import accept
from vervain.ports.proposing import propose
from vervain.queries.connectivity import host_ports
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_machine


def a_task(chance: random.Random) -> Assignment:
    """A random task of up to eight plugs."""
    plugs, sockets = chance.randint(1, 8), chance.randint(1, 9)
    classes = tuple(chance.choice("ab") for _ in range(sockets))
    names = ("J1", "J2")
    edges = []
    for plug, socket in itertools.product(range(plugs), range(sockets)):
        if chance.random() < 0.45:
            switch = None
            if chance.random() < 0.35:
                switch = (names[socket % 2], chance.choice(("NPN", "PNP")))
            uses = (("pin 1", int(socket < 2)), ("current", plug % 4))
            edges.append(Edge(plug, socket, chance.randint(0, 40), switch, uses))
    groups = ()
    if plugs > 3 and chance.random() < 0.6:
        groups = ((0, 1),) if chance.random() < 0.5 else ((0, 1, 2),)
    switches = tuple(
        (name, "NPN", chance.choice((None, 15))) for name in names if chance.random() < 0.9
    )
    return Assignment(
        plugs, classes, tuple(edges), groups, switches, **limits_of(chance, plugs, sockets)
    )


def limits_of(chance: random.Random, plugs: int, sockets: int) -> dict:
    """Sockets for two, a bank whose last socket is dear, channels and teams, now and then."""
    found = {}
    if chance.random() < 0.3:
        found["capacities"] = tuple(chance.choice((1, 1, 2)) for _ in range(sockets))
    if chance.random() < 0.4:
        found["channels"] = tuple(chance.choice((None, "a", "b", "c")) for _ in range(sockets))
        numbers = list(range(plugs))
        chance.shuffle(numbers)
        cut = chance.randint(0, plugs)
        held = chance.choice(((), (), ("a",)))
        found["teams"] = (
            Team(tuple(numbers[:cut]), chance.randint(1, 2), held), Team(tuple(numbers[cut:])),
        )  # fmt: skip
    if chance.random() < 0.4:
        found["limits"] = (("pin 1", 1), ("current", 5))
    if chance.random() < 0.4 and "capacities" not in found:
        found["banks"] = (Bank(tuple(range(min(3, sockets))), chance.randint(1, 30)),)
    return found


def is_allowed(task: Assignment, chosen: tuple[Edge, ...]) -> bool:
    """The certificate: every hard rule, written down anew."""
    if len({e.plug for e in chosen}) < len(chosen):
        return False
    seated = Counter(edge.socket for edge in chosen)
    if any(count > task.capacity(socket) for socket, count in seated.items()):
        return False
    used = Counter()
    for edge in chosen:
        used.update(dict(edge.uses))
    if any(used[name] > most for name, most in task.limits):
        return False
    if not are_channels_kept(task, chosen):
        return False
    at = {edge.plug: task.classes[edge.socket] for edge in chosen}
    for group in task.groups:
        if len({at[plug] for plug in group if plug in at}) > 1:
            return False
    values: dict[str, set[str]] = {}
    for edge in chosen:
        if edge.switch is not None:
            values.setdefault(edge.switch[0], set()).add(edge.switch[1])
    if any(len(found) > 1 for found in values.values()):
        return False
    fixed = {name: value for name, value, price in task.switches if price is None}
    return all(fixed.get(name, value) == value for name, found in values.items() for value in found)


def are_channels_kept(task: Assignment, chosen: tuple[Edge, ...]) -> bool:
    """One team a channel, and no team in more channels than it needs."""
    owners: dict[str, set[int]] = {}
    for number, team in enumerate(task.teams):
        for channel in team.held:
            owners.setdefault(channel, set()).add(number)
        for edge in chosen:
            channel = task.channel(edge.socket)
            if channel is not None and edge.plug in team.plugs:
                owners.setdefault(channel, set()).add(number)
    counts = Counter(number for teams in owners.values() for number in teams)
    return all(len(teams) == 1 for teams in owners.values()) and all(
        count <= max(task.teams[number].channels, len(task.teams[number].held))
        for number, count in counts.items()
    )


def best_by_search(task: Assignment) -> int:
    """The least cost with leaving out, by trying everything with a bound."""
    by_plug = [[e for e in task.edges if e.plug == plug] for plug in range(task.plugs)]
    best = LEFT_OUT * (task.plugs + 1)

    def go(plug: int, chosen: tuple[Edge, ...], so_far: int) -> None:
        nonlocal best
        if so_far >= best:
            return
        if plug == task.plugs:
            left = task.plugs - len(chosen)
            best = min(best, cost_of(task, chosen) + left * LEFT_OUT)
            return
        for edge in by_plug[plug]:
            grown = (*chosen, edge)
            if is_allowed(task, grown):
                go(plug + 1, grown, so_far + edge.cost)
        go(plug + 1, chosen, so_far + LEFT_OUT)

    go(0, (), 0)
    return best


def whole_cost(answer: Answer) -> int:
    return answer.cost + LEFT_OUT * len(answer.left_out)


class AgainstSearch(unittest.TestCase):
    def test_random_tasks_are_solved_at_the_least_cost(self) -> None:
        chance, tasks = seeded("tasks of placement"), 200 if IS_WHOLE else 60
        left_out = 0
        for number in range(tasks):
            task = a_task(chance)
            answer = solve(task)
            with self.subTest(number):
                self.assertTrue(is_allowed(task, answer.chosen))
                self.assertEqual(best_by_search(task), whole_cost(answer))
                self.assertEqual(answer, solve(task))
            left_out += bool(answer.left_out)
        self.assertGreater(left_out, tasks / 20)
        self.assertLess(left_out, tasks * 0.95)

    def test_conflicts_are_minimal_and_all_are_found(self) -> None:
        chance, tasks = seeded("conflicts of placement"), 60 if IS_WHOLE else 25
        seen = 0
        for number in range(tasks):
            task = a_task(chance)
            found = conflicts(task)
            with self.subTest(number):
                self.assertEqual(bool(solve(task).left_out), bool(found))
                for members in found:
                    seen += 1
                    self.assertTrue(solve(restricted(task, members)).left_out)
                    for gone in members:
                        fewer = tuple(plug for plug in members if plug != gone)
                        self.assertFalse(solve(restricted(task, fewer)).left_out)
                rest = tuple(p for p in range(task.plugs) if not any(p in m for m in found))
                self.assertFalse(solve(restricted(task, rest)).left_out)
        self.assertGreater(seen, tasks / 12)

    def test_nothing_to_place_and_a_search_that_is_stopped(self) -> None:
        self.assertEqual(Answer((), (0, 1), 0), solve(Assignment(2, (), ())))
        with self.assertRaises(PlacementCancelled):
            solve(Assignment(1, ("a",), (Edge(0, 0, 1),)), lambda: False)


def unplugged(key: str, *devices: str) -> Machine:
    """A planned demo with some devices' leads taken off."""
    machine = open_demo(key)
    for device in devices:
        part = Queries(machine).part_of(device)
        port = next(p for p in part.ports if p.end == "device" and p.kind != "feed in")
        machine = unplug(machine, PortRef(device=device, port=port.id))
    return machine


class OnMachines(unittest.TestCase):
    def test_what_is_taken_off_a_planned_machine_goes_where_it_makes_no_finding(self) -> None:
        for key, devices in (
            ("glazing-gantry-as-planned", ("B7", "B10", "M1", "M6", "M7", "B9")),
            ("clay-printer-as-planned", ("M1", "M2", "M3", "B1", "B3", "B4", "T1")),
            ("seedling-arm-as-planned", ("M1", "M5", "B1", "B4", "B11", "M6", "M7")),
        ):
            machine = unplugged(key, *devices)
            proposal = propose(machine)
            placed = accept(machine, proposal.placements)
            before = {f.key for f in check_machine(open_demo(key)).open}
            new = {f.key for f in check_machine(placed).open} - before
            with self.subTest(key):
                self.assertEqual((), proposal.conflicts)
                self.assertEqual(set(), {name for name in new if name.startswith("ports.")})
                self.assertEqual((), plugs_to_place(Queries(placed)))

    def test_what_is_wired_stays(self) -> None:
        machine = unplugged("glazing-gantry-as-planned", "B7")
        proposal = propose(machine)
        self.assertEqual(["B7"], [p.plug.device for p in proposal.placements])
        self.assertEqual("IN 7", proposal.placements[0].host.port)
        after = accept(machine, proposal.placements)
        for device in ("B10", "M1", "B9"):
            plug = PortRef(device=device, port="LEADS")
            self.assertEqual(host_ports(Queries(machine), plug), host_ports(Queries(after), plug))

    def test_every_template_is_filled_and_every_choice_has_a_reason(self) -> None:
        for template in TEMPLATES:
            machine = open_template(template.key)
            proposal = propose(machine)
            placed = accept(machine, proposal.placements)
            with self.subTest(template.key):
                self.assertGreater(len(proposal.placements), 3)
                self.assertEqual(proposal, propose(machine))
                for placement in proposal.placements:
                    self.assertTrue(placement.reason.endswith("."))
                    self.assertIn(placement.host, host_ports(Queries(placed), placement.plug))
                left = {ref.device for ref in plugs_to_place(Queries(placed))}
                self.assertEqual({p.device for c in proposal.conflicts for p in c.plugs}, left)

    def test_the_later_of_two_devices_in_one_port_moves(self) -> None:
        proposal = propose(open_demo("glazing-gantry-as-found"))
        moved = [p for p in proposal.placements if p.was_in is not None]
        self.assertEqual([("B10", "IN 4", "IN 2")], [
            (p.plug.device, p.was_in.port, p.host.port) for p in moved
        ])  # fmt: skip
        self.assertIn("IN 4 has two devices", moved[0].reason)

    def test_motors_of_one_axis_go_to_drivers_of_one_kind(self) -> None:
        build = small.bench(
            "M1 fell-s57", "M2 fell-s57", "T1 fell-d72", "T2 fell-d36", "T3 fell-d36"
        )
        axis = Axis(id="Y", name="y", drives=("M1", "M2"))
        machine = Machine(
            name="x", axes=(axis,), devices=build.machine.devices, parts=build.machine.parts
        )
        hosts = {p.plug.device: p.host.device for p in propose(machine).placements}
        self.assertEqual({"T2", "T3"}, {hosts["M1"], hosts["M2"]})

    def test_a_jumper_is_turned_only_where_nobody_relies_on_it(self) -> None:
        build = small.powered_controller()
        build.device("B1", "larkmoor-ip12", "PNP", None)
        build.device("B2", "larkmoor-in12", "NPN", None)
        hosts = {p.plug.device: p for p in propose(build.machine).placements}
        queries = Queries(accept(build.machine, tuple(hosts.values())))
        for device, reads in (("B1", "PNP"), ("B2", "NPN")):
            port = hosts[device].host
            bank = "JP1" if port.port in ("IN 1", "IN 2", "IN 3", "IN 4") else "JP2"
            self.assertEqual(reads, queries.setting("K1", bank))
            plug = PortRef(device=device, port="LEADS")
            self.assertEqual("fits", fit(queries, plug, port).verdict)

    def test_too_many_for_the_ports_is_said_with_the_ports(self) -> None:
        build = small.bench("K1 quoin-rc8", *(f"B{n} quoin-sm3" for n in range(1, 6)))
        proposal = propose(build.machine)
        self.assertEqual(3, len(proposal.placements))
        self.assertTrue(proposal.conflicts)
        words = proposal.conflicts[0].words
        self.assertIn("ANALOGUE 1, K1 ANALOGUE 2 and K1 ANALOGUE 3", words)
        self.assertEqual(4, len(proposal.conflicts[0].plugs))
        odd = small.bench("M1 quoin-ps9").machine
        words = propose(odd).conflicts[0].words
        self.assertTrue(words.startswith("No free port fits M1. No device of this machine"), words)

    def test_a_pin_of_the_processor_is_used_by_one_plug(self) -> None:
        build = small.bench("K1 osier-mb4", *(f"B{n} osier-rl2" for n in range(1, 6)))
        proposal = propose(build.machine)
        found = check_machine(accept(build.machine, proposal.placements)).open
        self.assertNotIn("ports.shared-pin", {finding.rule for finding in found})
        # LIMIT Z and SPINDLE share a pin: five switches have four places.
        self.assertEqual((4, 5), (len(proposal.placements), len(proposal.conflicts[0].plugs)))

    def test_ties_are_broken_in_the_order_of_the_devices(self) -> None:
        build = small.bench("K1 osier-mb4", *(f"B{n} osier-rl2" for n in range(1, 4)))
        hosts = [p.host.port for p in propose(build.machine).placements]
        self.assertEqual(["LIMIT X", "LIMIT Y", "LIMIT Z"], hosts)

    def two_axes(self) -> small.Builder:
        """Two axes, each with motor, driver and encoder; the encoders in the other order."""
        build = small.bench(
            "K1 larkmoor-pc12", "M1 fell-s57", "M2 fell-s57", "T1 fell-d72", "T2 fell-d72",
            "B2 larkmoor-e1000", "B1 larkmoor-e1000",
        )  # fmt: skip
        axes = tuple(
            Axis(id=name, name=name, drives=(f"M{n}",), feedback=f"B{n}")
            for n, name in enumerate("XY", 1)
        )
        build.machine = replace(build.machine, axes=axes)
        return build

    def test_what_belongs_to_one_axis_goes_into_one_channel(self) -> None:
        machine = self.two_axes().machine
        hosts = {p.plug.device: p.host.port for p in propose(machine).placements}
        for encoder, motor in (("B1", "M1"), ("B2", "M2")):
            driver = next(
                p.host.device for p in propose(machine).placements if p.plug.device == motor
            )
            self.assertEqual(hosts[driver].split()[-1], hosts[encoder].split()[-1])

    def test_a_channel_that_an_axis_is_in_is_kept(self) -> None:
        build = self.two_axes()
        build.join("M1:LEADS", "T1:MOTOR", "BK-1 GN-2 RD-3 BU-4")
        machine = plug_in(
            build.machine, PortRef(device="T1", port="SIGNAL"), PortRef(device="K1", port="AXIS 4")
        )
        hosts = {p.plug.device: p.host.port for p in propose(machine).placements}
        self.assertEqual("COUNT 4", hosts["B1"])
        self.assertNotIn("4", hosts["B2"] + hosts["T2"])

    def test_loads_are_placed_within_the_current_of_their_bank(self) -> None:
        build = small.powered_controller()
        for number in (1, 2, 3):
            build.device(f"Y{number}", "larkmoor-av24", "Valve", None)
        bank = OutputBank(name="A", ports=("OUT 1", "OUT 2", "OUT 3"), current_max_a=1.0)
        machine = small.with_part(
            build.machine, "tarn-mc5", lambda part: replace(part, banks=(bank,))
        )
        hosts = [p.host.port for p in propose(machine).placements]
        self.assertEqual(3, len(hosts))
        self.assertIn("OUT 4", hosts)

    def test_a_port_that_holds_two_takes_two(self) -> None:
        build = small.bench("K1 quoin-rc8", "B1 quoin-sm3", "B2 quoin-sm3")

        def one_port(part: Part) -> Part:
            kept = tuple(p for p in part.ports if p.kind != "analogue input" or p.id[-1] == "1")
            return replace(
                part, ports=tuple(replace(p, holds=2) if p.id[-1] == "1" else p for p in kept)
            )

        machine = small.with_part(build.machine, "quoin-rc8", one_port)
        proposal = propose(machine)
        self.assertEqual(2, len(proposal.placements))
        placed = accept(machine, proposal.placements)
        self.assertNotIn("ports.two-devices", {f.rule for f in check_machine(placed).open})
        self.assertEqual((), plugs_to_place(Queries(placed)))

    def test_short_cables_come_before_the_order_of_boards(self) -> None:
        build = small.bench("M1 fell-s57", "T1 fell-d72", "T2 fell-d72")
        machine = build.machine
        at = {"M1": "near", "T1": "far", "T2": "near"}
        machine = replace(
            machine,
            places=(Place(id="far", name="Far"), Place(id="near", name="Near")),
            devices=tuple(replace(d, place=at[d.designator]) for d in machine.devices),
        )
        machine = replace(machine, runs=(Run(id="R1", a="far", b="near", length_m=3.0),))
        (placement,) = propose(machine).placements[:1]
        self.assertEqual("T2", placement.host.device)

    def test_an_alternate_is_left_alone(self) -> None:
        machine = open_demo("glazing-gantry-as-planned")
        self.assertEqual((), plugs_to_place(Queries(machine)))
        self.assertIsNotNone(device_edits.find_device(machine, "M11"))
