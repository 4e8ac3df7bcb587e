"""`vervain simulate`: a controller and a bench meter that behave as a machine is wired."""

import argparse
import contextlib
import sys
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

from vervain.cli.common import CLEAN, Commands, read_machine

if TYPE_CHECKING:
    from vervain.stand_in.script import StandInBench


def add_command(commands: Commands) -> None:
    """Adds the command to those of the command line."""
    command = commands.add_parser(
        "simulate",
        help="a stand-in for the machine: its controller by Modbus/TCP, a meter by SCPI",
        description="Starts a Modbus/TCP server for each controller and an SCPI meter, which "
        "behave as the machine is wired. Lines from the terminal work its switches, move its "
        "axes, put faults in: “help” tells them. Exit status: 0, 2 cannot read.",
    )
    command.add_argument("file", type=Path)
    command.add_argument("--host", default="127.0.0.1", help="the address to listen at")
    command.add_argument("--port", type=int, default=5020, help="of the first controller")
    command.add_argument("--meter-port", type=int, default=5025)
    command.add_argument(
        "--fault", action="append", default=[], metavar="LINE", help="a fault, as “cut W18.3”"
    )
    command.add_argument("--script", type=Path, help="lines to do first")
    command.add_argument(
        "--window", action="store_true", help="a small window with its switches, in place of lines"
    )
    command.set_defaults(run=run_simulate)


def run_simulate(options: argparse.Namespace) -> int:
    from vervain.live.controller_link import Address
    from vervain.stand_in import script
    from vervain.stand_in.controller import SimulatedController
    from vervain.stand_in.meter import SimulatedMeter

    machine = read_machine(options.file)
    bench = script.StandInBench(machine, options.fault)
    meter = SimulatedMeter(bench.stand_in, Address(options.host, options.meter_port))
    bench.meter = meter
    names = [
        name for name in bench.stand_in.machine.queries.devices()
        if (part := bench.stand_in.machine.queries.part_of(name)) and part.kind == "controller"
    ]  # fmt: skip
    servers = [
        SimulatedController(bench.stand_in, name, Address(options.host, options.port + number))
        for number, name in enumerate(names)
    ]
    with contextlib.ExitStack() as opened:
        for server in servers:
            server.open()
            opened.callback(server.close)
        meter.open()
        opened.callback(meter.close)
        for server in servers:
            print(f"{server.device} by Modbus/TCP at {options.host}:{server.address.port}")
        print(f"Meter by SCPI at {options.host}:{options.meter_port}", flush=True)
        _follow(bench, options.script.read_text("utf-8").splitlines() if options.script else [])
        if options.window:
            told = [f"{s.device} by Modbus/TCP at {options.host}:{s.address.port}" for s in servers]
            told.append(f"meter by SCPI at {options.host}:{options.meter_port}")
            _show(bench, ", ".join(told))
        else:
            _follow(bench, sys.stdin)
    return CLEAN


def _follow(bench: "StandInBench", lines: Iterable[str]) -> None:
    """Does line after line, and prints what there is to tell."""
    from vervain.model.problem import Problem
    from vervain.stand_in import script

    for line in lines:
        if line.strip() in ("quit", "exit"):
            return
        if line.strip() == "help":
            print(script.__doc__, flush=True)
            continue
        try:
            told = bench.do(line.split("#")[0])
        except Problem as problem:
            told = f"{problem.what} {problem.remedy}".strip()
        if told:
            print(told, flush=True)


def _show(bench: "StandInBench", where: str) -> None:
    """The small window, until it is closed."""
    from vervain.desktop.app import make_application
    from vervain.desktop.settings import Settings
    from vervain.desktop.stand_in_window import StandInWindow
    from vervain.desktop.theme import use

    application, settings = make_application(), Settings()
    use(settings.theme(), settings.scale())
    window = StandInWindow(bench, where, application.quit)
    window.show()
    application.exec()
