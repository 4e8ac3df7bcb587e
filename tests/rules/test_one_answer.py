"""One question, one answer: fit, rules, planner and window agree whatever the figures are."""

import random
import unittest

from msgspec.structs import replace

from tests import small
from tests.rules import supply_cases as cases
from tests.small import at
from vervain.cabling.apply_plan import accept_cables
from vervain.cabling.planner import Options, plan_cables
from vervain.edits import route_edits
from vervain.edits.feed_edits import set_ambient
from vervain.files.demos import open_demo
from vervain.files.part_files import shipped_shelf
from vervain.model.machine import Machine
from vervain.ports.extension import short_by_m
from vervain.ports.fit import fit
from vervain.ports.plugging import plug_in, unplug
from vervain.queries.machine_queries import Queries
from vervain.queries.routes import route_between
from vervain.rules.engine import Engine, check_machine
from vervain.rules.registry import RULE_BY_ID
from vervain.supply.core_limits import core_limit_a

CABLES = shipped_shelf().cable_parts.values()
GANTRY = open_demo("glazing-gantry-as-planned")


def rules_of(machine: Machine) -> set[str]:
    return {finding.rule for finding in check_machine(machine).open}


class FitAndCheck(unittest.TestCase):
    def test_a_feed_fits_exactly_where_the_check_is_silent(self) -> None:
        """Random windows and tolerances of a sensor at the gantry's 24 V input."""
        chance, plug, host = random.Random(3), at("B10:LEADS"), at("K1:IN 7")
        free = unplug(GANTRY, plug)
        part_id = next(d.part for d in free.devices if d.designator == "B10")
        seen, engine = {True: 0, False: 0}, Engine((RULE_BY_ID["supply.voltage"],))
        for _ in range(18):
            low, high = chance.uniform(20, 24.5), chance.uniform(23.6, 27)
            tolerance = chance.choice((0.0, 0.01, 0.02, 0.05))
            machine = small.with_part(
                free,
                part_id,
                lambda p: _windowed(p, round(low, 2), round(high, 2)),  # noqa: B023
            )
            supply = next(d.part for d in machine.devices if d.designator == "G2")
            machine = small.with_part(machine, supply, lambda p: _tolerant(p, tolerance))  # noqa: B023
            verdict = fit(Queries(machine), plug, host)
            refuses = "V there" in verdict.reason
            placed = plug_in(machine, plug, host)
            told = any(f.about.device == "B10" for f in engine.check(placed).open)
            self.assertEqual(told, refuses, f"{low} to {high} V, {tolerance}: {verdict.reason}")
            seen[told] += 1
        self.assertGreater(min(seen.values()), 3, seen)

    def test_leads_reach_or_not_in_whole_millimetres(self) -> None:
        """Leads that are just as long as a run and what the ends need reach, however long."""
        plug, host, queries = at("B10:LEADS"), at("K1:IN 7"), Queries(GANTRY)
        run, part_id = route_between(queries, "B10", "K1").runs[0], queries.device("B10").part
        for number in range(1, 119):
            run_m = number * 0.05
            machine = route_edits.change_run(GANTRY, run, length_m=run_m)
            lead_m = route_between(Queries(machine), "B10", "K1").length_m + 0.15
            for more_mm, reaches in ((0, True), (-1, False)):
                led = small.with_part(
                    machine,
                    part_id,
                    lambda p: _led(p, lead_m + more_mm / 1000),  # noqa: B023
                )
                self.assertEqual(reaches, short_by_m(Queries(led), plug, host) == 0, run_m)


def _windowed(part, low: float, high: float):
    port = part.port("LEADS")
    pin = next(pin for pin in port.pins if type(pin.electrical).__name__ == "FeedIn")
    return small.with_electrical(part, "LEADS", pin.id, v_min_v=low, v_max_v=high)


def _tolerant(part, tolerance: float):
    for port in part.ports:
        for pin in port.pins:
            if type(pin.electrical).__name__ == "FeedOut":
                part = small.with_electrical(part, port.id, pin.id, tolerance=tolerance)
    return part


def _led(part, length_m: float):
    port = part.port("LEADS")
    ports = tuple(replace(p, lead_length_m=length_m) if p is port else p for p in part.ports)
    return replace(part, ports=ports)


class CoreLimits(unittest.TestCase):
    def test_the_planner_knows_how_warm_it_is(self) -> None:
        bare = replace(
            GANTRY,
            cables=(),
            hookups=tuple(
                replace(
                    h, cable=None, conductors=tuple(replace(c, core=None) for c in h.conductors)
                )
                for h in GANTRY.hookups
            ),
            accepted=(),
        )
        for ambient_c in (40.0, 60.0, 65.0):
            warm = set_ambient(bare, ambient_c)
            plan = plan_cables(warm, CABLES)
            made = accept_cables(warm, plan.cables, Options())
            wrong = {"supply.core-current", "supply.fuse"} & rules_of(made)
            self.assertEqual(set(), wrong, ambient_c)

    def test_each_loaded_circuit_takes_its_part_from_the_others(self) -> None:
        # Two, three and four circuits together carry 0.80, 0.70 and 0.65 of what one does.
        limits = []
        for count in range(1, 5):
            build = small.bench("G1 fell-ps24", *(f"M{n} quoin-bf24" for n in range(1, count + 1)))
            build.cable("W1", "flex-8x0.25", 1.0)
            for n in range(1, count + 1):
                build.join("G1:OUT", f"M{n}:LEADS", "1-+ 2-−", "W1", f"{2 * n - 1} {2 * n}")
            limits.append(core_limit_a(Queries(build.machine), "W1"))
        for limit, part in zip(limits, (1.0, 0.8, 0.7, 0.65), strict=True):
            self.assertAlmostEqual(part, limit / limits[0])

    def test_a_fuse_is_held_against_the_core_in_its_bundle_and_warmth(self) -> None:
        queries = Queries(GANTRY)
        cable = next(c.id for c in GANTRY.cables if (core_limit_a(queries, c.id) or 0) > 5)
        cool, warm = (core_limit_a(Queries(set_ambient(GANTRY, t)), cable) for t in (30.0, 60.0))
        self.assertAlmostEqual(cool / 1.15, warm / 0.58, places=6)
        pump = cases.pump()
        self.assertNotIn("supply.fuse-missing", rules_of(pump))
        self.assertIn("supply.fuse-missing", rules_of(set_ambient(pump, 69.0)))


class Names(unittest.TestCase):
    def test_a_fuse_may_call_its_pins_what_it_likes(self) -> None:
        found = open_demo("glazing-gantry-as-found")
        before = {f.key for f in check_machine(found).open}
        renamed = found
        other = {"1": "IN", "2": "OUT"}
        fuses = [part for part in found.parts if part.kind == "fuse"]
        for part in fuses:
            ports = tuple(
                replace(port, pins=tuple(replace(pin, id=other[pin.id]) for pin in port.pins))
                for port in part.ports
            )
            inside = tuple(
                replace(element, pins=tuple((port, other[pin]) for port, pin in element.pins))
                for element in part.inside
            )
            renamed = small.with_part(
                renamed,
                part.id,
                lambda p: replace(p, ports=ports, inside=inside),  # noqa: B023
            )
        holders = {d.designator for d in found.devices if d.part in {p.id for p in fuses}}
        hookups = tuple(
            replace(h, conductors=tuple(
                replace(
                    c,
                    a=other[c.a] if h.a.device in holders else c.a,
                    b=other[c.b] if h.b.device in holders else c.b,
                )
                for c in h.conductors
            ))
            for h in renamed.hookups
        )  # fmt: skip
        renamed = replace(renamed, hookups=hookups)
        self.assertEqual(before, {f.key for f in check_machine(renamed).open})


class Runs(unittest.TestCase):
    def test_two_runs_that_become_one_keep_all_that_they_had(self) -> None:
        machine = small.bench().machine
        for name in ("one", "middle", "two"):
            machine = route_edits.add_place(machine, name, name)
        machine = route_edits.add_run(machine, "one", "middle", 1.0)
        machine = route_edits.add_run(machine, "middle", "two", 0.5)
        machine = route_edits.change_run(machine, "R2", coiled=True, entry="gland M20")
        merged = route_edits.remove_place(machine, "middle")
        run = merged.runs[0]
        self.assertEqual(
            (1.5, True, True, "gland M20"), (run.length_m, run.moving, run.coiled, run.entry)
        )
        laid = route_edits.split_run(GANTRY, "R2", 0.5, "Half way")
        half = laid.places[-1].id
        through = Queries(laid).cable("W14").runs
        again = route_edits.remove_place(laid, half)
        self.assertEqual(
            Queries(GANTRY).cable("W14").runs, Queries(again).cable("W14").runs, through
        )
