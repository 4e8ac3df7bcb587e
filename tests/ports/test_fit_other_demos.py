"""What the fit says of the printer's and the arm's plugs, and that the rules agree."""

import unittest

from tests.ports.test_fit_agrees import judging
from vervain.files.demos import open_demo
from vervain.model.machine import Machine, PortRef
from vervain.model.problem import Problem
from vervain.ports.fit import Fit, ranked_fits
from vervain.ports.plugging import landed_on_hosts, plug_in, unplug
from vervain.queries.connectivity import host_ports
from vervain.queries.machine_queries import Queries
from vervain.rules.ports.occupancy import SHARED_KINDS


def freed(machine: Machine, device: str) -> tuple[Machine, PortRef]:
    """The machine with a device's plug taken off, and that plug."""
    queries = Queries(machine)
    part = queries.part_of(device)
    port = next(p for p in part.ports if p.end == "device" and p.kind != "feed in")
    plug = PortRef(device=device, port=port.id)
    return (unplug(machine, plug) if landed_on_hosts(queries, plug) else machine), plug


def shares(fit: Fit, machine: Machine) -> bool:
    """Whether a port is only taken, and may all the same drive what comes beside."""
    port = Queries(machine).port(fit.host)
    return fit.reason.endswith("sits there.") and port is not None and port.kind in SHARED_KINDS


class OtherDemos(unittest.TestCase):
    def test_every_plug_fits_where_it_was_planned(self) -> None:
        for key, devices in (
            ("clay-printer-as-planned", ("M1", "M2", "B1", "B2", "B4", "E1", "E2", "T1", "M5")),
            ("seedling-arm-as-planned", ("M1", "B1", "B11", "M7", "M6", "M9", "M10")),
        ):
            planned = open_demo(key)
            for device in devices:
                before = Queries(planned)
                free, plug = freed(planned, device)
                home = host_ports(before, plug)
                fits = {fit.host: fit.verdict for fit in ranked_fits(Queries(free), plug)}
                with self.subTest(f"{key}: {device}"):
                    self.assertTrue(home)
                    for host in home:
                        self.assertEqual("fits", fits[host])

    def test_fit_and_rules_agree(self) -> None:
        tried = 0
        for key, devices in (
            ("clay-printer-as-planned", ("M1", "B1", "B3", "B4", "T2")),
            ("seedling-arm-as-planned", ("M2", "B2", "B11", "M7", "K3")),
        ):
            planned, engine = open_demo(key), judging("ports.empty-slot")
            for device in devices:
                free, plug = freed(planned, device)
                known = {f.key for f in engine.check(free).open}
                for fit in ranked_fits(Queries(free), plug):
                    try:
                        placed = plug_in(free, plug, fit.host)
                    except Problem:
                        self.assertEqual("does not fit", fit.verdict)
                        continue
                    found = engine.check(placed).open
                    new = [f for f in found if f.key not in known]
                    tried += 1
                    with self.subTest(f"{device} into {fit.host.device} {fit.host.port}"):
                        if fit.verdict == "fits" and "empty-slot" not in str(new):
                            self.assertEqual([], [f.sentence for f in new])
                        elif fit.verdict == "does not fit" and not shares(fit, planned):
                            self.assertTrue(new, fit.reason)
        self.assertGreater(tried, 30)
