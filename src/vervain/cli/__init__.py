"""The command line: the same core as the window, without it."""

import argparse
import json
import sys
from collections.abc import Sequence
from difflib import get_close_matches
from pathlib import Path

from vervain import __version__
from vervain.cli import versions
from vervain.exports.bench_set import FORMS, harness_bytes, write_set
from vervain.exports.formats import csv_bytes, findings_json, table_json
from vervain.exports.tables import face_table
from vervain.files.demos import DEMOS, open_demo
from vervain.files.machine_file import decode_machine, save_machine
from vervain.files.own_tables import own_tables_folder, take_own_tables
from vervain.files.problems import FileProblem
from vervain.files.reading import is_there, read_bytes
from vervain.files.saving import save_document
from vervain.files.writing import write_whole
from vervain.harness.compare import Difference, compare
from vervain.model.machine import Machine
from vervain.model.problem import Problem
from vervain.queries.look import Look
from vervain.rules.engine import check_machine
from vervain.rules.finding import Result
from vervain.rules.registry import RULES
from vervain.supply.results import arrivals, source_name, supply_loads
from vervain.supply.states import STATE_WORDS, STATES
from vervain.tables.change_face import change_face

CLEAN, FOUND = 0, 1
COMMANDS = (
    "check", "table", "harness", "changes", "versions", "import", "supply", "place", "cards",
    "rules", "demo",
)  # fmt: skip


def run(arguments: Sequence[str] | None = None) -> int:
    """Runs the command line; returns the exit status. Raises `Problem`."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    unread = take_own_tables(own_tables_folder())[1]
    for problem in unread:
        print(problem, file=sys.stderr)
    if given and given[0] in COMMANDS:
        options = command_parser().parse_args(given)
        return int(options.run(options))
    options = window_parser().parse_args(given)
    if options.file is not None:
        refuse_mistyped(options.file)
    return open_window(options.file, unread)


def refuse_mistyped(path: Path) -> None:
    """Raises `Problem` for a word that is neither a command nor a file, nor looks like one."""
    word = str(path)
    if path.suffix or len(path.parts) > 1 or is_there(path):
        return
    near = get_close_matches(word, COMMANDS, n=1, cutoff=0.5)
    raise Problem(
        f"There is no command and no file “{word}”.",
        remedy=f"Did you mean “{near[0]}”?" if near else f"Commands are {', '.join(COMMANDS)}.",
    )


def read_machine(path: Path) -> Machine:
    """The machine in a file, or on standard input for `-`; what the shell hands over as a pipe is
    read as well. Raises `FileProblem`.
    """
    if str(path) == "-":
        path = Path("/dev/stdin")
    from_shell = str(path).startswith(("/dev/", "/proc/"))
    return decode_machine(read_bytes(path, pipes=from_shell), str(path))


def window_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="vervain",
        description="Wiring of self-built machines.",
        epilog=f"Commands without a window: {', '.join(COMMANDS)}; see vervain COMMAND --help.",
    )
    parser.add_argument("file", nargs="?", type=Path, help="machine file; the demo if left out")
    parser.add_argument("--version", action="version", version=f"vervain {__version__}")
    return parser


def command_parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="vervain")
    commands = parser.add_subparsers(required=True)
    check = commands.add_parser(
        "check",
        help="check a machine file",
        description="Exit status: 0 nothing above Workmanship, 1 findings, 2 cannot read.",
    )
    check.add_argument("file", type=Path)
    check.add_argument("--json", action="store_true", help="print JSON (docs/json-output.md)")
    check.set_defaults(run=run_check)
    table = commands.add_parser("table", help="write the harness table")
    table.add_argument("file", type=Path)
    table.add_argument("--as", dest="form", choices=FORMS, required=True)
    table.add_argument("--to", type=Path, help="where to write; standard output if left out")
    table.set_defaults(run=run_table)
    harness = commands.add_parser("harness", help="write everything that goes to the bench")
    harness.add_argument("file", type=Path)
    harness.add_argument("--to", type=Path, required=True, help="folder for the set")
    harness.set_defaults(run=run_harness)
    changed = commands.add_parser(
        "changes",
        help="what changed between two versions of a machine",
        description="Exit status: 0 nothing changed, 1 something did, 2 cannot read.",
    )
    changed.add_argument("old", type=Path)
    changed.add_argument("new", type=Path)
    changed.add_argument("--as", dest="form", choices=("text", "csv", "json"), default="text")
    changed.add_argument("--to", type=Path, help="where to write; standard output if left out")
    changed.set_defaults(run=run_changes)
    versions.add_command(commands)
    taking = commands.add_parser(
        "import",
        help="take devices or conductors in from CSV or XLSX",
        description="Without --to it only says what each row would do. Exit status: 0 every row is "
        "taken or there already, 1 some are left out, 2 cannot read.",
    )
    taking.add_argument("file", type=Path, help="machine file")
    taking.add_argument("list", type=Path, help="CSV or XLSX (docs/import.md)")
    taking.add_argument("--to", type=Path, help="machine file to write")
    taking.set_defaults(run=run_import)
    place = commands.add_parser(
        "place",
        help="put every loose plug into a port",
        description="Exit status: 0 everything is placed, 1 something cannot be, 2 cannot read.",
    )
    place.add_argument("file", type=Path)
    place.add_argument("--to", type=Path, required=True, help="machine file to write")
    place.add_argument("--explain", action="store_true", help="say why, a line a plug")
    place.set_defaults(run=run_place)
    cards = commands.add_parser("cards", help="write a door card (PDF) for every controller")
    cards.add_argument("file", type=Path)
    cards.add_argument("--to", type=Path, required=True, help="folder for the cards")
    cards.add_argument("--paper", choices=("a4", "letter"), default="a4")
    cards.set_defaults(run=run_cards)
    supply = commands.add_parser("supply", help="print what each supply gives, and what arrives")
    supply.add_argument("file", type=Path)
    supply.add_argument("--state", choices=STATES, default="everything")
    supply.set_defaults(run=run_supply)
    rules = commands.add_parser("rules", help="list every rule with its reason and source")
    rules.add_argument("--json", action="store_true")
    rules.set_defaults(run=run_rules)
    demo = commands.add_parser("demo", help="run the full example without a display")
    demo.add_argument("--to", type=Path, default=Path("demo-results"), help="folder for results")
    demo.set_defaults(run=run_demo)
    return parser


def write_machine(machine: Machine, path: Path) -> None:
    """Writes a machine file; what was there becomes a version. Raises `FileProblem`."""
    saved = save_document(machine, path, None, versions.kept_rules(), replaces=True)
    if saved.unkept:
        print(saved.unkept, file=sys.stderr)


def open_window(path: Path | None, unread: list[FileProblem]) -> int:
    from vervain.desktop.app import run_window

    return run_window(path, unread)


def exit_status(result: Result) -> int:
    """0 where nothing is above Workmanship, else 1."""
    worst = any(finding.consequence != "Workmanship" for finding in result.open)
    return FOUND if worst else CLEAN


def run_check(options: argparse.Namespace) -> int:
    machine = read_machine(options.file)
    result = check_machine(machine)
    if options.json:
        sys.stdout.buffer.write(findings_json(machine, result))
    else:
        print_findings(machine, result)
    return exit_status(result)


def print_findings(machine: Machine, result: Result) -> None:
    for finding in result.open:
        measured = ""
        if finding.value is not None and finding.limit is not None:
            measured = f" [{finding.value:.3g} of {finding.limit:.3g} {finding.unit}]"
        print(f"{finding.consequence}: {finding.sentence}{measured}")
        for fix in finding.fixes:
            print(f"    fix: {fix.words}")
    state = f", {machine.state}" if machine.state else ""
    accepted = f", {len(result.accepted)} accepted" if result.accepted else ""
    print(f"{machine.name}{state}: {len(result.open)} findings{accepted}")


def run_harness(options: argparse.Namespace) -> int:
    machine = read_machine(options.file)
    for path in write_set(machine, options.to):
        print(path)
    return CLEAN


def changes_text(difference: Difference) -> str:
    """What changed, a line a conductor and a label, and the sums."""
    lines = []
    for change in difference.changes:
        told = " → ".join(words for words in (change.before, change.after) if words)
        lines.append(f"{change.kind}: {change.label}  {told}")
    lines += [f"print: {content}" for content in difference.reprint]
    lines += [f"take off: {content}" for content in difference.take_off]
    lines.append(
        f"{len(difference.changes)} conductors changed, {len(difference.reprint)} labels to "
        f"print, {len(difference.take_off)} to take off"
    )
    return "\n".join(lines) + "\n"


def run_changes(options: argparse.Namespace) -> int:
    difference = compare(Look(read_machine(options.old)), Look(read_machine(options.new)))
    table = face_table(change_face(difference))
    if options.form == "text" and options.to is None:
        print(changes_text(difference), end="")
        return FOUND if difference.changes or difference.reprint else CLEAN
    if options.form == "csv":
        data = csv_bytes(table)
    elif options.form == "json":
        data = table_json(read_machine(options.new), (table,))
    else:
        data = changes_text(difference).encode()
    if options.to is not None:
        write_whole(options.to, data)
    else:
        sys.stdout.buffer.write(data)
    return FOUND if difference.changes or difference.reprint else CLEAN


def run_import(options: argparse.Namespace) -> int:
    from vervain.files.lists import dry_run, read_sheet
    from vervain.files.shelf import own_folder, read_shelf

    machine, shelf = read_machine(options.file), read_shelf(own_folder())
    result = dry_run(machine, read_sheet(options.list), shelf.parts, shelf.cable_parts)
    for row in result.rows:
        print(f"row {row.number}, {row.verdict}: {row.words}")
    left = result.count("left out")
    there = result.count("there already")
    print(f"{result.count('taken')} taken, {there} there already, {left} left out")
    if options.to is not None:
        write_machine(result.machine, options.to)
        print(f"Written to {options.to}")
    return FOUND if left else CLEAN


def run_table(options: argparse.Namespace) -> int:
    machine = read_machine(options.file)
    data = table_bytes(machine, options.form)
    if options.to is not None:
        write_whole(options.to, data)
    elif options.form in ("xlsx", "pdf") and sys.stdout.isatty():
        raise Problem("This form is not for the screen.", remedy="Give a file with --to.")
    else:
        sys.stdout.buffer.write(data)
    return CLEAN


def table_bytes(machine: Machine, form: str) -> bytes:
    """The harness table in one of its forms."""
    return harness_bytes(machine, form)


def run_supply(options: argparse.Namespace) -> int:
    look = Look(read_machine(options.file))
    print(f"{STATE_WORDS[options.state]}:")
    for load in supply_loads(look, options.state):
        name = source_name(look, load.pin)
        print(f"  {name:8} {load.amps:7.2f} of {load.rated_a:g} A  {load.fraction:6.0%}")
    for row in arrivals(look, options.state):
        where = f"{row.pin.device} {row.pin.port}"
        volts = "  -  " if row.volts is None else f"{row.volts:5.2f}"
        lost = "" if row.lost is None else f"  lost {row.lost:6.1%}"
        fares = "" if row.status == "on" else f"  {row.status}"
        source = source_name(look, row.source)
        of_v = f"{row.source_v or row.nominal_v:g}"
        print(f"  {where:14} {row.amps:7.3f} A  {volts} of {of_v} V of {source}{lost}{fares}")
    return CLEAN


def run_place(options: argparse.Namespace) -> int:
    from vervain.ports.auto_placement import accept, propose

    machine = read_machine(options.file)
    proposal = propose(machine)
    write_machine(accept(machine, proposal.placements), options.to)
    if options.explain:
        for placement in proposal.placements:
            print(placement.reason)
    for conflict in proposal.conflicts:
        print(conflict.words)
    left = sum(len(conflict.plugs) for conflict in proposal.conflicts)
    contended = f", {left} contend for ports" if left else ""
    print(f"{len(proposal.placements)} plugs placed{contended}; written to {options.to}")
    return FOUND if proposal.conflicts else CLEAN


def run_cards(options: argparse.Namespace) -> int:
    from vervain.desktop.app import make_application
    from vervain.desktop.stages.ports.door_card import controllers, write_door_card

    make_application()
    machine = read_machine(options.file)
    for device in controllers(machine):
        print(write_door_card(machine, device, options.to / f"{device}.pdf", options.paper))
    return CLEAN


def run_rules(options: argparse.Namespace) -> int:
    if options.json:
        fields = ("id", "stage", "consequence", "title", "reason", "source")
        rows = [{field: getattr(rule, field) for field in fields} for rule in RULES]
        print(json.dumps(rows, ensure_ascii=False, indent=1))
        return CLEAN
    for rule in RULES:
        print(f"{rule.id}  ({rule.consequence}, {rule.stage})\n  {rule.title}.")
        print(f"  {rule.reason}\n  Source: {rule.source}\n")
    return CLEAN


def run_demo(options: argparse.Namespace) -> int:
    folder: Path = options.to
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileProblem(str(folder), f"It cannot be made: {error.strerror}.") from None
    for demo in DEMOS:
        machine = open_demo(demo.key)
        save_machine(machine, folder / f"{demo.key}.vervain")
        result = check_machine(machine)
        print(f"{demo.title}: {len(result.open)} findings")
        write_whole(folder / f"{demo.key}-findings.json", findings_json(machine, result))
        for form in FORMS:
            write_whole(folder / f"{demo.key}-harness.{form}", table_bytes(machine, form))
        write_set(machine, folder / f"{demo.key}-bench")
    from vervain.desktop.pictures import take_pictures

    pictures = take_pictures(folder)
    print(f"{len(pictures)} pictures of the window")
    print(f"Results are in {folder.resolve()}")
    return CLEAN
