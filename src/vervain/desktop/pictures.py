"""Takes the pictures of docs/screenshots from the demo, without a display."""

import time
from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QCoreApplication, QEvent
from PyQt6.QtWidgets import QApplication

from vervain.desktop.app import make_application
from vervain.desktop.background import wait_for_background
from vervain.desktop.session import Selection
from vervain.desktop.settings import Settings
from vervain.desktop.theme import NIGHT, PAPER, Theme, use
from vervain.desktop.window import Window
from vervain.edits.cable_edits import set_cable
from vervain.edits.pin_names import pin_written
from vervain.edits.plug_edits import take_conductor_off
from vervain.files.demos import open_demo, open_template
from vervain.model.machine import Machine, PortRef
from vervain.ports.proposing import propose
from vervain.rules.placed import accepted

LONGEST_WAIT_S = 20.0
# Where the stand-ins of the picture listen.
LIVE_PORTS = (15_520, 15_525)
# A pin table as a manual prints it.
DESCRIBED_BOARD = """Port | Pin | Signal
PWR | 1 | 24V
PWR | 2 | 0V
AXIS 1-4 | 1 | STEP
AXIS 1-4 | 2 | DIR
AXIS 1-4 | 3 | EN
AXIS 1-4 | 4 | GND
IN 1-8 | 1 | 24V
IN 1-8 | 2 | IN
IN 1-8 | 3 | 0V
OUT 1-3 | 1 | 24V
OUT 1-3 | 2 | OUT"""


def settle(window: Window) -> None:
    """Lets the window check and paint until nothing is waiting."""
    end = time.monotonic() + LONGEST_WAIT_S
    while window.session.result is None and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.005)
    # What comes in from a worker may ask for more, and for another layout.
    for _ in range(4):
        wait_for_background()
        QApplication.processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def picture(
    machine: Machine,
    path: Path,
    prepare: Callable[[Window], object],
    theme: Theme = PAPER,
    scale: float = 1.0,
    size: tuple[int, int] = (1280, 800),
) -> Path:
    """One picture of the window on a machine, after `prepare`."""
    make_application()
    use(theme, scale)
    window = Window(machine, None, Settings(path.with_suffix(".ini")), autosaves=False)
    # Which causes are found in time differs from machine to machine; pictures should not.
    window.check.explains = False
    window.resize(*size)
    window.show()
    settle(window)
    prepare(window)
    settle(window)
    window.grab().save(str(path))
    window.close()
    window.deleteLater()
    settle(window)
    return path


def _carry(window: Window) -> None:
    window.session.select(Selection(device="B7"))
    window.take_in_hand("B7")
    window.session.aim(PortRef(device="K1", port="IN 7"))


def _harness(window: Window) -> None:
    window.show_stage("Harness")
    wait_for_background()
    settle(window)
    window.harness.go_to_label("W14.2")
    wait_for_background()


def _sheets(window: Window) -> None:
    """The build sheet of a cable, with what of it and of others is done."""
    _harness(window)
    window.harness.show_face("Sheets")
    wait_for_background()
    settle(window)
    table = window.harness.table
    for label, steps in (("W3", 5), ("W4", 5), ("W5", 4), ("W6", 2), ("W11.1", 3), ("W14.1", 2)):
        window.harness.go_to_label(label)
        for _ in range(steps):
            table.tick_next()
    window.session.apply("W11 is longer", lambda m: set_cable(m, "W11", 6.0, ""))
    harness = window.harness
    while harness.keeper.faces["Sheets"][0] is not window.session.machine:
        settle(window)
    wait_for_background()


def _joining(window: Window) -> None:
    """A lead of the door stop came off; its end is in hand."""
    session = window.session
    pin = pin_written(session.machine, "S1 11-12 12")
    step = session.queries.steps(pin)[0]
    hookup = session.queries.hookup(step.hookup)
    if hookup is not None:
        row = hookup.conductors.index(step.conductor)
        session.apply("Took a lead off S1", lambda m: take_conductor_off(m, hookup.id, row))
    session.select(Selection(device=pin.device, port=pin.port, pin=pin.pin))
    settle(window)
    window.ports.view.take_wire()
    for _ in range(3):
        settle(window)
    box = window.ports.view.picture.pin_shape(pin)
    bar = window.ports.view.verticalScrollBar()
    if box is not None and bar is not None:
        bar.setValue(round(box.bar.top()) - 260)


def _feeding(window: Window) -> None:
    template = open_template("five-joint-arm")
    window.documents.take_machine(accepted(template, propose(template).placements), None)
    window.show_stage("Supply")
    settle(window)
    window.supply.feeding.start()
    settle(window)


def _leads(window: Window) -> None:
    """Some readings of a motor that lies unplugged, with its leads in a muddled order."""
    window.session.select(Selection(device="M4"))
    window.show_stage("Leads")
    coils = {
        frozenset(pair) for pair in (("RD", "BK"), ("WHRD", "YE"), ("WHBK", "BU"), ("WHYE", "WHBU"))
    }
    for _ in range(5):
        wait_for_background()
        settle(window)
        finding = window.leads.measuring.finding
        if finding is not None and finding.next_pair is not None:
            conducts = frozenset(finding.next_pair) in coils
            window.leads.measuring.enter("1.41" if conducts else "open")
    wait_for_background()


def _order(window: Window) -> None:
    window.session.select(Selection(device="M1"))
    window.show_stage("Leads")
    window.leads.wrong.setChecked(True)
    window.leads.order.saw("does not run")
    wait_for_background()


def _machine(window: Window) -> None:
    window.show_stage("Machine")
    wait_for_background()
    settle(window)
    window.session.select(Selection(axis="X"))


def _part_in_hand(window: Window) -> None:
    window.show_stage("Machine")
    wait_for_background()
    settle(window)
    part = window.shelf.part_of("osier-rl2")
    if part is not None:
        window.session.select(Selection(part=part.id))
        window.machine_stage.hand.take_part(part)


def _describe(window: Window) -> None:
    window.show_stage("Machine")
    wait_for_background()
    window.describe_part()
    page = window.describing
    page.kind.setCurrentText("controller")
    page.title.setText("Four-axis board")
    for key, text in (("v_min_v", "18 V"), ("v_max_v", "30 V"), ("current_a", "300 mA")):
        page.figures.fields[key][0].setText(text)
    page.pins.setPlainText(DESCRIBED_BOARD)
    page.groups.connectors[""] = "crimp-2.5"
    page.groups.circuits["IN 1/input"] = "24 V input, type 3, current sinking"
    page.groups.circuits["AXIS 1/output"] = "5 V output, push-pull, 20 mA"
    page.refresh()


def _supply(window: Window) -> None:
    window.show_stage("Supply")
    wait_for_background()
    settle(window)
    view = window.supply.view
    view.choose(next(row for row in view.picture.rows if row.branch.device == "M8"))
    wait_for_background()


def _chain(window: Window) -> None:
    window.show_stage("Supply")
    wait_for_background()
    settle(window)
    window.supply.show_state("moving")
    view = window.supply.view
    view.choose(next(row for row in view.picture.rows if row.branch.device == "T5"))
    wait_for_background()


def _merge(window: Window) -> None:
    window.session.select(Selection(device="M7"))
    window.show_stage("Leads")


def _printer(window: Window) -> None:
    window.session.select(Selection(device="B1"))


def _filling(window: Window) -> None:
    window.documents.open_template("five-joint-arm")
    window.show_stage("Ports")
    settle(window)
    window.ports.filler.start()
    wait_for_background()


def _settings(window: Window) -> None:
    window.ports.settings.setChecked(True)
    window.ports.sheet.setCurrentCell(2, 0)


def _stops(window: Window) -> None:
    """A wire of a stop cut."""
    window.show_stage("Stops")
    wait_for_background()
    settle(window)
    view = window.stops.view
    for number, element in enumerate(view.picture.elements):
        if element.kind == "wire" and element.chain == 0 and element.wires:
            view.choose(number, 0)
    view.set_tool("cut")
    view.act()


def _prove(window: Window, upto: str) -> None:
    """Every step before one passed, but for those that are held back."""
    window.show_stage("Bench")
    wait_for_background()
    settle(window)
    stage = window.bench
    for number, step in enumerate(stage.figures.steps if stage.figures is not None else ()):
        stage.choose(number)
        if step.id == upto:
            break
        ends = [e for e in (step.window.least, step.window.most) if e] if step.window else []
        if ends:
            # Between both ends, or clear of the one there is.
            is_least = step.window is not None and step.window.most is None
            middle = sum(ends) / len(ends)
            stage.take_reading(f"{middle * (1.6 if is_least else 1.0):.4g}")
        stage.judge_by_eye("passed")
    settle(window)


def _bench(window: Window) -> None:
    """A step that failed, with what to look at."""
    _prove(window, "input B4")
    window.bench.judge_by_eye("failed")
    wait_for_background()
    settle(window)


def _bench_live(window: Window) -> None:
    """The lamps of a stand-in, one of which just answered, and the meter at a supply."""
    from vervain.live.controller_link import Address
    from vervain.stand_in.controller import SimulatedController
    from vervain.stand_in.meter import SimulatedMeter
    from vervain.stand_in.script import StandInBench

    bench = StandInBench(window.session.machine, [])
    controller = SimulatedController(bench.stand_in, "K1", Address("127.0.0.1", LIVE_PORTS[0]))
    bench.meter = SimulatedMeter(bench.stand_in, Address("127.0.0.1", LIVE_PORTS[1]))
    controller.open()
    bench.meter.open()
    _prove(window, "input B4")
    links = window.bench.live.links
    links.connect_controller("K1", f"127.0.0.1:{LIVE_PORTS[0]}")
    links.connect_meter(f"127.0.0.1:{LIVE_PORTS[1]}")
    bench.do("probe G2 OUT 24V / G2 OUT 0V")
    begun = time.monotonic()
    lines = iter(((1.0, "work B1"), (2.0, "release B1"), (3.5, "work B3"), (4.0, "")))
    at, line = next(lines)
    while time.monotonic() - begun < 4.5:
        QApplication.processEvents()
        time.sleep(0.01)
        if line and time.monotonic() - begun >= at:
            bench.do(line)
            at, line = next(lines)
    window.closing.connect(bench.meter.close)
    window.closing.connect(controller.close)


VIEWS: tuple[tuple[str, str, Callable[[Window], object], Theme], ...] = (
    ("machine", "glazing-gantry-as-found", _machine, PAPER),
    ("machine-carrying", "glazing-gantry-as-found", _part_in_hand, NIGHT),
    ("describe-a-part", "glazing-gantry-as-found", _describe, PAPER),
    ("leads", "glazing-gantry-as-found", _leads, PAPER),
    ("lead-order", "glazing-gantry-as-found", _order, PAPER),
    ("colour-merge", "glazing-gantry-as-found", _merge, NIGHT),
    ("ports-printer", "clay-printer-as-found", _printer, PAPER),
    ("ports-carrying", "glazing-gantry-as-found", _carry, PAPER),
    ("ports-filling", "glazing-gantry-as-found", _filling, PAPER),
    ("settings-sheet", "glazing-gantry-as-planned", _settings, PAPER),
    ("ports-joining", "glazing-gantry-as-planned", _joining, PAPER),
    ("supply", "glazing-gantry-as-found", _supply, PAPER),
    ("supply-chain", "seedling-arm-as-planned", _chain, NIGHT),
    ("harness", "glazing-gantry-as-found", _harness, PAPER),
    ("harness-sheets", "glazing-gantry-as-planned", _sheets, PAPER),
    ("stops", "glazing-gantry-as-found", _stops, PAPER),
    ("bench", "glazing-gantry-as-found", _bench, PAPER),
    ("bench-live", "glazing-gantry-as-planned", _bench_live, NIGHT),
    ("supply-feeding", "glazing-gantry-as-planned", _feeding, NIGHT),
)


def take_pictures(folder: Path, of: frozenset[str] | None = None) -> list[Path]:
    """The pictures of every main view, or of those on some demonstrations, into a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    return [
        picture(open_demo(demo), folder / f"{name}.png", prepare, theme)
        for name, demo, prepare, theme in VIEWS
        if of is None or demo in of
    ]
