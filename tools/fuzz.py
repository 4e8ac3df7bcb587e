"""Feeds Vervain what nobody meant to feed it, by structure and by bytes: what becomes of it?

Run: QT_QPA_PLATFORM=offscreen PYTHONPATH=src:tools .venv/bin/python tools/fuzz.py [TARGET …]
     [--seconds 60] [--tries N] [--seed N]

A target is tried so long or so often. Each trial is accepted, refused with its place, or refused
without one; whatever else is raised, takes over 5 s or over 1 GB is a fault, told with its seed:
`--seed N --tries 1` repeats it.
"""

import argparse
import copy
import csv
import io
import json
import random
import resource
import sys
import tempfile
import time
import tomllib
import traceback
import zipfile
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from fuzz_edits import random_step
from fuzz_live import controller, meter
from vervain.data import FOLDER
from vervain.edits.device_edits import remove_device
from vervain.exports.tables import all_tables
from vervain.files.lists import dry_run, read_sheet
from vervain.files.machine_file import decode_machine, encode_machine, proven_bytes
from vervain.files.own_tables import take_own_tables
from vervain.files.part_files import decode_parts, shipped_shelf
from vervain.files.problems import FileProblem
from vervain.model.machine import Machine
from vervain.model.problem import Problem

# In seconds of the trial's own thread: what else runs beside it is no fault of it.
# Feeds that can be given by no means collapse load by load, which takes a while.
SLOW_S, LARGE_KB = 45.0, 1_000_000
# A trial of the window is five minutes of somebody's work, not one act.
SLOW_WINDOW_S = 60.0
ACCEPTED, PLACED, UNPLACED = "accepted", "refused with its place", "refused without a place"
TEXTS = (
    "", " ", "x" * 81, "x" * 5000, "\ud800", "\x00", "\x1b]0;x\x07", "=1+1", "@STYLE@", "../../x",
    "<img src='/dev/zero'>", "M1", "W1", "K1", "Z9", "\n", "−5", "1e308", "nan", "∞", "\u202ex",
    "{cable}",
)  # fmt: skip
VALUES: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 3, 64, 1e308, -1e308, 5e-324, 1e-13, 1e9, 1e10, 10**30, 0.5, -0.0,
    *TEXTS, [], {}, [[]], [1], ["M1", "LEADS"], {"a": 1}, [[[[[[]]]]]],
)  # fmt: skip
DEMOS = tuple(sorted((FOLDER / "demos").glob("*-found.vervain"))) + tuple(
    sorted((FOLDER / "templates").glob("*.vervain"))
)


def places_in(value: Any) -> list[tuple[Any, Any]]:
    """Every (container, key) in a value of lists and objects."""
    found, waiting = [], [value]
    while waiting:
        here = waiting.pop()
        keys = here.keys() if isinstance(here, dict) else range(len(here))
        for key in keys:
            found.append((here, key))
            if isinstance(here[key], dict | list):
                waiting.append(here[key])
    return found


def mutated(value: Any, chance: random.Random) -> Any:
    """A copy with one to three of its places changed, doubled, moved or taken away."""
    made = copy.deepcopy(value)
    for _ in range(chance.choice((1, 1, 1, 2, 3))):
        places = places_in(made)
        if not places:
            return made
        here, key = chance.choice(places)
        act = chance.randrange(12)
        if act >= 6:
            here[key] = _altered(here[key], key, places, chance)
        elif act == 0:
            del here[key]
        elif act == 1 and isinstance(here, list):
            here.insert(chance.randrange(len(here) + 1), copy.deepcopy(here[key]))
        elif act == 2:
            other, at = chance.choice(places)
            here[key] = copy.deepcopy(other[at]) if at in other or isinstance(at, int) else None
        elif act == 3 and isinstance(here, dict):
            here[chance.choice(("x", "", "id", "core", "settings", "\ud800"))] = here[key]
        else:
            here[key] = copy.deepcopy(chance.choice(VALUES))
    return made


def _altered(value: Any, key: Any, places: list[tuple[Any, Any]], chance: random.Random) -> Any:
    """Another value of the same type: many a machine with one still opens."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return value * chance.choice((0, -1, 1e-9, 1e-3, 0.5, 2, 1e3, 1e6))
    if isinstance(value, str):
        alike = [here[at] for here, at in places if at == key and isinstance(here[at], str)]
        return chance.choice((*alike, *TEXTS)) if chance.random() < 0.3 else chance.choice(alike)
    if isinstance(value, list) and len(value) > 1:
        return chance.sample(value, len(value))
    return value


def broken_bytes(data: bytes, chance: random.Random) -> bytes:
    """Bytes cut, turned, doubled or with foreign ones put in."""
    at = chance.randrange(len(data) + 1)
    act = chance.randrange(5)
    if act == 0:
        return data[:at]
    if act == 1:
        return data[:at] + bytes([chance.randrange(256)]) + data[at + 1 :]
    if act == 2:
        length = chance.randrange(200)
        return data[:at] + data[at : at + length] + data[at:]
    if act == 3:
        return (
            data[:at]
            + chance.choice((b"NaN", b"\xff", b"[" * 3000, b'"', b"\x00", b"1e999"))
            + data[at:]
        )
    return data[:at] + data[at + chance.randrange(300) :]


def consumers() -> tuple[Callable[[Machine], object], ...]:
    """What is done with a machine that opened."""
    from vervain.exports.bench_set import harness_bytes
    from vervain.exports.formats import findings_json
    from vervain.harness.shopping import shopping_list
    from vervain.ports.proposing import propose
    from vervain.queries.machine_queries import Queries
    from vervain.rules.engine import check_machine

    return (
        check_machine,
        lambda machine: json.loads(
            findings_json(machine, check_machine(machine)), parse_constant=_no_constant
        ),
        lambda machine: harness_bytes(machine, "csv"),
        lambda machine: harness_bytes(machine, "html"),
        lambda machine: harness_bytes(machine, "json"),
        lambda machine: harness_bytes(machine, "xlsx"),
        lambda machine: harness_bytes(machine, "pdf"),
        propose,
        lambda machine: shopping_list(Queries(machine)),
    )


def _no_constant(name: str) -> float:
    raise AssertionError(f"{name} is in the JSON that goes out")


def machine_file(chance: random.Random) -> str:
    data = chance.choice(DEMOS).read_bytes()
    if chance.random() < 0.25:
        data = broken_bytes(data, chance)
    else:
        data = json.dumps(mutated(json.loads(data), chance), ensure_ascii=True).encode()
    machine = decode_machine(data, "fuzzed")
    proven_bytes(machine, "fuzzed")
    if chance.random() < 0.35:
        chance.choice(consumers())(machine)
    return ACCEPTED


def part_file(chance: random.Random) -> str:
    import tomlkit

    text = chance.choice(sorted((FOLDER / "parts").glob("*.toml"))).read_text("utf-8")
    if chance.random() < 0.4:
        text = broken_bytes(text.encode(), chance).decode("utf-8", "replace")
    else:
        document = tomllib.loads(text)
        parts = document.get("part", [])
        document["part"] = chance.sample(parts, min(2, len(parts)))
        try:
            text = tomlkit.dumps(mutated(document, chance))
        except (TypeError, ValueError, AttributeError):
            return ACCEPTED
    decode_parts(text, "fuzzed.toml")
    return ACCEPTED


def own_table(chance: random.Random) -> str:
    from vervain.data import replace_tables

    shipped = chance.choice(sorted((FOLDER / "tables").glob("*.toml")))
    text = broken_bytes(shipped.read_bytes(), chance)
    with tempfile.TemporaryDirectory() as folder:
        (Path(folder) / shipped.name).write_bytes(text)
        _, problems = take_own_tables(Path(folder))
    replace_tables({shipped.name: None})
    return PLACED if problems else ACCEPTED


def _list_rows(chance: random.Random, machine: Machine) -> list[list[str]]:
    if chance.random() < 0.6:
        return _spoiled(_own_list(machine, chance), chance)
    if chance.random() < 0.5:
        head, words = ["designator", "part", "name", "place"], ("osier-rl2", "fell-s57", "bed")
    else:
        head = ["from", "from pin", "to", "to pin", "cable", "core"]
        words = ("K1", "M1", "IN 1", "1", "T1", "W1", "larkmoor-cable")
    rows = [head]
    for _ in range(chance.randrange(1, 6)):
        rows.append([chance.choice((*words, *TEXTS, "99", "0", "9" * 5000)) for _ in head])
    return rows


def _own_list(machine: Machine, chance: random.Random) -> list[list[str]]:
    """A few rows of the devices or conductors that Vervain itself exports of a machine."""
    wanted = chance.choice(("Conductors", "Devices"))
    if (machine.name, wanted) not in _exported:
        tables = {table.title: table for table in all_tables(machine)}
        table = tables[wanted]
        _exported[machine.name, wanted] = [
            list(table.names),
            *(["" if c is None else str(c) for c in row] for row in table.rows),
        ]
    head, *rows = _exported[machine.name, wanted]
    return [list(head), *(list(row) for row in chance.sample(rows, min(8, len(rows))))]


_exported: dict[tuple[str, str], list[list[str]]] = {}


def _spoiled(rows: list[list[str]], chance: random.Random) -> list[list[str]]:
    """A list with at most three cells that say something else, and columns in any order."""
    for _ in range(chance.randrange(4)):
        row = chance.choice(rows)
        other = chance.choice(chance.choice(rows))
        row[chance.randrange(len(row))] = chance.choice((*TEXTS, other, other, "99"))
    order = list(range(len(rows[0])))
    chance.shuffle(order)
    return [[row[at] for at in order] for row in rows]


def _list_machine(chance: random.Random) -> Machine:
    """A demonstration, now and then with some of its hookups and devices gone."""
    machine = decode_machine(chance.choice(DEMOS).read_bytes(), "demo")
    for device in chance.sample(machine.devices, chance.choice((0, 0, 2))):
        machine = remove_device(machine, device.designator)
    keep = tuple(hookup for hookup in machine.hookups if chance.random() < 0.8)
    return replace(machine, hookups=keep if chance.random() < 0.7 else machine.hookups)


def _take_in(data: bytes, ending: str, machine: Machine) -> str:
    shelf = shipped_shelf()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"list{ending}"
        path.write_bytes(data)
        result = dry_run(
            machine, read_sheet(path), shelf.parts.values(), shelf.cable_parts.values()
        )
    if result.count("taken"):
        proven_bytes(result.machine, "taken in")
    return PLACED if result.count("left out") else ACCEPTED


def csv_list(chance: random.Random) -> str:
    machine = _list_machine(chance)
    stream = io.StringIO()
    csv.writer(stream, delimiter=chance.choice(",;\t")).writerows(_list_rows(chance, machine))
    data = stream.getvalue().encode("utf-8", "replace")
    return _take_in(broken_bytes(data, chance) if chance.random() < 0.3 else data, ".csv", machine)


def workbook(chance: random.Random) -> str:
    from openpyxl import Workbook

    from vervain.exports.formats import CONTROL

    machine, book = _list_machine(chance), Workbook()
    for row in _list_rows(chance, machine):
        book.active.append([CONTROL.sub("", cell)[:30_000] for cell in row])
    stream = io.BytesIO()
    book.save(stream)
    data = stream.getvalue()
    if chance.random() < 0.5:
        return _take_in(data, ".xlsx", machine)
    if chance.random() < 0.4:
        return _take_in(b"PK" + broken_bytes(data, chance)[2:], ".xlsx", machine)
    packed = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(packed, "w", 8) as new:
        broken = chance.choice(old.namelist())
        for name in old.namelist():
            content = old.read(name)
            new.writestr(name, broken_bytes(content, chance) if name == broken else content)
    return _take_in(packed.getvalue(), ".xlsx", machine)


def pasted_table(chance: random.Random) -> str:
    from vervain.catalogue.describe import describe
    from vervain.catalogue.drafts import DESCRIBED, Draft
    from vervain.files.part_writing import part_text

    words = ("1", "2", "+24V", "GND", "OUT", "BN", "BU", "A+", "STEP", "pin", "colour", *TEXTS)
    lines = [
        chance.choice(("\t", ";", " ", ",")).join(chance.choices(words, k=chance.randrange(1, 5)))
        for _ in range(chance.randrange(12))
    ]
    half = len(lines) // 2
    draft = Draft(
        kind=chance.choice(tuple(DESCRIBED)), title=chance.choice(("A part", *TEXTS))[:80] or "P",
        pins_text="\n".join(lines[:half]), colours_text="\n".join(lines[half:]),
    )  # fmt: skip
    described = describe(draft, "my-part")
    if described.part is not None:
        decode_parts(part_text(described.part), "own.toml")
    return ACCEPTED


def label_form(chance: random.Random) -> str:
    from vervain.edits.note_edits import set_label_templates
    from vervain.harness.label_templates import check_templates
    from vervain.harness.label_texts import label_texts
    from vervain.model.machine import LabelTemplates
    from vervain.queries.machine_queries import Queries

    pieces = ("{cable}", "{core}", "[", "]", "{", "}", ".", "{device}", "{far}", "{pin}", *TEXTS)
    core, lead = ("".join(chance.choices(pieces, k=chance.randrange(6))) for _ in range(2))
    templates = LabelTemplates(core=core, lead=lead)
    check_templates(templates)
    machine = decode_machine(chance.choice(DEMOS).read_bytes(), "demo")
    label_texts(Queries(set_label_templates(machine, templates)))
    return ACCEPTED


def settings_file(chance: random.Random) -> str:
    from vervain.desktop.settings import Settings

    keys = ("theme", "scale", "columns\\Conductors", "versions\\most_kept", "versions\\folder")
    lines = ["[General]", *(f"{chance.choice(keys)}={chance.choice(TEXTS)!r}" for _ in range(4))]
    lines += ["[versions]", *(f"most_kept={chance.choice(TEXTS)}", "most_mb=x", "folder=@Variant(")]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "s.ini"
        path.write_bytes(broken_bytes("\n".join(lines).encode("utf-8", "replace"), chance))
        settings = Settings(path)
        settings.theme(), settings.scale(), settings.version_rules(), settings.columns("Conductors")
    return ACCEPTED


def edits(chance: random.Random) -> str:
    """Thirty random edits of one demo, each through the gate, with undo; saved and read again."""
    machine = decode_machine(chance.choice(DEMOS).read_bytes(), "demo")
    past = [machine]
    for _ in range(30):
        if len(past) > 1 and chance.random() < 0.15:
            past.pop()
            continue
        changed = random_step(past[-1], chance, TEXTS)
        if changed is not None:
            past.append(changed)
    data = proven_bytes(past[-1], "edited")
    # The bytes of what was read are those that were read, but for 0 that was written for 0.0.
    assert decode_machine(encode_machine(decode_machine(data, "edited")), "again") == past[-1]
    return ACCEPTED


def window(chance: random.Random) -> str:
    """Keys and mouse over every stage of the real window."""
    from fuzz_window import play_on

    play_on(decode_machine(chance.choice(DEMOS).read_bytes(), "demo"), chance, 60)
    return ACCEPTED


TARGETS: dict[str, Callable[[random.Random], str]] = {
    "machine": machine_file,
    "parts": part_file,
    "tables": own_table,
    "lists": csv_list,
    "workbooks": workbook,
    "pasted": pasted_table,
    "labels": label_form,
    "settings": settings_file,
    "edits": edits,
    "window": window,
    "controller": controller,
    "meter": meter,
}


def one_trial(target: str, seed: int) -> tuple[str, float]:
    """What became of one trial, and the processor time in s that it took; faults are `fault: …`."""
    began = time.thread_time()
    try:
        outcome = TARGETS[target](random.Random(f"{target} {seed}"))
    except FileProblem as problem:
        outcome = PLACED if problem.faults or problem.place else UNPLACED
        if not problem.faults and "line" not in str(problem) and target == "machine":
            outcome = UNPLACED
    except Problem:
        outcome = PLACED
    except Exception as error:
        where = traceback.extract_tb(error.__traceback__)[-1]
        outcome = f"fault: {type(error).__name__} at {Path(where.filename).name}:{where.lineno}"
    took = time.thread_time() - began
    if took > (SLOW_WINDOW_S if target == "window" else SLOW_S) and not outcome.startswith("fault"):
        outcome = f"fault: took {took:.0f} s"
    return outcome, took


def run(target: str, first_seed: int, tries: int, seconds: float) -> tuple[Counter[str], list[str]]:
    """Tries one target: how often each outcome was, and the faults with their seeds."""
    counts: Counter[str] = Counter()
    faults = []
    end = time.monotonic() + seconds
    for number in range(tries):
        if time.monotonic() > end:
            break
        outcome, _ = one_trial(target, first_seed + number)
        counts["tried"] += 1
        counts["faults" if outcome.startswith("fault") else outcome] += 1
        if outcome.startswith("fault"):
            faults.append(f"{target} --seed {first_seed + number}: {outcome}")
    return counts, faults


def main() -> int:
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("targets", nargs="*", choices=(*TARGETS, []), help="all where left out")
    parser.add_argument("--seconds", type=float, default=60.0, help="for each target")
    parser.add_argument("--tries", type=int, default=10**9)
    parser.add_argument("--seed", type=int, default=None)
    options = parser.parse_args()
    seed = options.seed if options.seed is not None else random.SystemRandom().randrange(10**6)
    print(f"seed {seed}")
    failed = False
    for target in options.targets or TARGETS:
        counts, faults = run(target, seed, options.tries, options.seconds)
        peak_kb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
        failed = failed or bool(faults) or peak_kb > LARGE_KB
        told = ", ".join(f"{counts[name]} {name}" for name in ("tried", ACCEPTED, PLACED, UNPLACED))
        print(f"{target}: {told}, {len(faults)} faults; peak {peak_kb // 1000} MB", flush=True)
        for fault in faults[:20]:
            print(f"  {fault}")
    return 1 if failed else 0


if __name__ == "__main__":
    sys.exit(main())
