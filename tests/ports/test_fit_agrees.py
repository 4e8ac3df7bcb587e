"""The fit and the rules are two ways to ask one question: they must give one answer."""

import unittest

from tests.sampling import seeded, some
from vervain.files.demos import open_demo
from vervain.model.machine import PortRef
from vervain.model.problem import Problem
from vervain.ports.fit import ranked_fits
from vervain.ports.plugging import landed_on_hosts, plug_in, unplug
from vervain.queries.device_groups import axis_with_driver
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import Engine
from vervain.rules.registry import RULE_BY_ID

# Rules that judge where a plug sits; a fit must foresee exactly these.
JUDGES = (
    "signals.floating",
    "ports.two-devices", "ports.wrong-kind", "ports.loose", "signals.level",
    "signals.sensor-drive", "leads.phases", "supply.voltage",
)  # fmt: skip


def judging(*others: str) -> Engine:
    """Checks by those rules, and others, alone."""
    return Engine(tuple(RULE_BY_ID[rule_id] for rule_id in (*JUDGES, *others)))


def twins(queries: Queries, device: str, reason: str) -> bool:
    """Whether a port is only refused because what moves the same axis has the socket already."""
    other = reason.removesuffix(" sits there.")
    axis = axis_with_driver(queries, device)
    return other != reason and axis is not None and axis == axis_with_driver(queries, other)


class Agreement(unittest.TestCase):
    def test_what_fits_makes_no_finding_and_what_does_not_makes_one(self) -> None:
        """Some of the devices, others each run; all of them with VERVAIN_ALL."""
        others = ("B2", "B7", "B8", "B9", "M1", "M4", "M6", "M7", "S3")
        # The driver fits in many ports; without it some kinds of answer may not come up.
        chosen = (*some(seeded("fits that agree"), others, 4), "B10", "T2")
        engine = judging()
        planned = open_demo("glazing-gantry-as-planned")
        for device, port in (("B10", "LEADS"), ("B7", "LEADS"), ("K3", "OUT"), ("B9", "LEADS")):
            planned = unplug(planned, PortRef(device=device, port=port))
        tried = {"fits": 0, "fits with": 0, "does not fit": 0}
        for device in chosen:
            queries = Queries(planned)
            part = queries.part_of(device)
            ports = [p for p in part.ports if p.end == "device" and p.kind != "feed in"]
            plug = PortRef(device=device, port=ports[0].id)
            free = unplug(planned, plug) if landed_on_hosts(queries, plug) else planned
            loose = {f.key for f in engine.check(free).open}
            for fit in ranked_fits(Queries(free), plug):
                try:
                    placed = plug_in(free, plug, fit.host)
                except Problem:
                    self.assertEqual("does not fit", fit.verdict)
                    continue
                new = [f for f in engine.check(placed).open if f.key not in loose]
                tried[fit.verdict] += 1
                where = f"{device} into {fit.host.device} {fit.host.port}: {fit.verdict}"
                with self.subTest(where):
                    if fit.verdict == "fits":
                        self.assertEqual([], [f.sentence for f in new])
                    elif not twins(queries, device, fit.reason):
                        self.assertTrue(new, fit.reason)
                if fit.adds:
                    whole = plug_in(free, plug, fit.host, complete=True)
                    left = [f for f in engine.check(whole).open if f.key not in loose]
                    with self.subTest(f"{where}, with {fit.needs}"):
                        self.assertEqual([], [f.sentence for f in left])
        self.assertGreaterEqual(min(tried.values()), 1, tried)
