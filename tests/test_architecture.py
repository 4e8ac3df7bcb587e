"""What holds for the whole: no Qt in the core, units in names, no doubled or empty words."""

import ast
import importlib
import pkgutil
import re
import subprocess
import sys
import unittest
from pathlib import Path

import vervain
from make_docs import rules_page
from part_fields import part_fields_page
from tests import ROOT
from vervain.electrical.copper import ampacity_a, ampacity_table
from vervain.model.colours import base_and_stripe, colour_words, is_colour, plain_colours
from vervain.model.known_options import BY_ID

SOURCES = sorted((ROOT / "src/vervain").rglob("*.py"))
UNITS = (
    "_ratio",
    "_v",
    "_a",
    "_ohm",
    "_w",
    "_hz",
    "_m",
    "_mm",
    "_mm2",
    "_c",
    "_s",
    "_min",
    "_h",
    "_ah",
    "_f",
    "_deg",
    "_rpm",
    "_nm",
)
FLOAT = re.compile(
    r"(<class 'float'>|typing\.Annotated\[float,.*|float \| None|.*\[float, .*None\])"
)
# Numbers without a unit: counts, ratios, costs and positions; what is in the unit of an axis or
# of the rule, that stands beside it; and lengths of a drawing, in its own measure.
BARE = {
    "least",
    "most",
    "weight",
    "scale",
    "revision",
    "tolerance",
    "steps_per_turn",
    "phases",
    "lines_per_turn",
    "travel",
    "core",
    "minimum",
    "maximum",
    "error_fraction",
    "bits",
    "decoding",
    "teeth",
    "driving_teeth",
    "driven_teeth",
    "gear_ratio",
    "hold_ratio",
    "speed_max",
    "acceleration_max",
    "home_at",
    "cost",
    "fill",
    "bend_factor",
    "chain_fill",
    "chain_height",
    "needed",
    "to_get",
    "probability",
    "unknown",
    "source_drop",
    "limit_factor",
    "efficiency",
    "driver_efficiency",
    "mains_power_factor",
    "idle",
    "holding",
    "moving",
    "everything",
    "start",
    "turn",
    "steps_per_unit",
    "full_step",
    "backlash_steps",
    "counts_per_unit",
    "resolution",
    "counts_in_travel",
    "low",
    "high",
    "value",
    "limit",
    "x",
    "y",
    "x1",
    "y1",
    "x2",
    "y2",
    "r",
    "side",
    "size",
    "width",
    "height",
    "margin_x",
    "margin_y",
    "gap_x",
    "gap_y",
}


# Who goes from one to the next by a list of what waits: the walk; a tree that grows while it is
# walked; and what is no walk over a machine.
WALKS = {
    "queries/walk.py", "supply/feed_tree.py", "harness/route_tree.py", "queries/engine.py",
    "harness/cutting.py", "harness/label_layout.py", "cabling/selection.py", "files/lists.py",
}  # fmt: skip


def walks_by_itself(path: Path) -> bool:
    """Whether a file has a loop that goes on while a list holds something, and takes from it."""
    for loop in ast.walk(ast.parse(path.read_text("utf-8"))):
        if not isinstance(loop, ast.While):
            continue
        tested = {node.id for node in ast.walk(loop.test) if isinstance(node, ast.Name)}
        taken = {
            ast.unparse(node.func.value)
            for node in ast.walk(loop)
            if isinstance(node, ast.Call)
            and isinstance(node.func, ast.Attribute)
            and node.func.attr in ("pop", "popleft")
        }
        if tested & taken:
            return True
    return False


def core_modules() -> list[str]:
    found = pkgutil.walk_packages(vervain.__path__, "vervain.")
    return [
        info.name for info in found if "desktop" not in info.name and "__main__" not in info.name
    ]


class Imports(unittest.TestCase):
    def test_one_walk_follows_what_is_joined(self) -> None:
        walking = {str(p.relative_to(ROOT / "src/vervain")) for p in SOURCES if walks_by_itself(p)}
        self.assertEqual(WALKS, walking)

    def test_the_core_runs_where_qt_cannot_be_imported(self) -> None:
        code = (
            "import sys; sys.modules['PyQt6'] = None\n"
            "import importlib\n"
            f"for name in {core_modules()!r}: importlib.import_module(name)\n"
            "from vervain.entry import main\n"
            "raise SystemExit(main(['rules']))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code],
            env={"PYTHONPATH": str(ROOT / "src")},
            capture_output=True,
            text=True,
        )
        self.assertEqual(0, done.returncode, done.stderr)
        self.assertGreater(len(core_modules()), 40)

    def test_heavy_packages_are_not_imported_at_start(self) -> None:
        code = (
            "import sys; import vervain.desktop.app, vervain.rules.registry\n"
            "heavy = {'openpyxl', 'numpy', 'scipy', 'networkx', 'hypothesis'}\n"
            "raise SystemExit(', '.join(heavy & set(sys.modules)))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code],
            env={"PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen"},
            capture_output=True,
            text=True,
        )
        self.assertEqual("", done.stderr.strip())


class Names(unittest.TestCase):
    def test_numbers_carry_their_unit(self) -> None:
        for name in core_modules():
            for kind in vars(importlib.import_module(name)).values():
                if not isinstance(kind, type) or kind.__module__ != name:
                    continue
                for field, declared in vars(kind).get("__annotations__", {}).items():
                    if not FLOAT.fullmatch(str(declared)) or field in BARE:
                        continue
                    with self.subTest(f"{name} {kind.__name__}.{field}"):
                        self.assertTrue(field.endswith(UNITS))

    def test_options_that_rules_read_are_declared(self) -> None:
        for path in SOURCES:
            for node in ast.walk(ast.parse(path.read_text("utf-8"))):
                if (
                    isinstance(node, ast.Call)
                    and isinstance(node.func, ast.Attribute)
                    and node.func.attr == "setting"
                    and len(node.args) > 1
                    and isinstance(node.args[1], ast.Constant)
                ):
                    with self.subTest(path.name):
                        self.assertIn(node.args[1].value, BY_ID)

    def test_public_functions_of_the_core_say_what_they_give(self) -> None:
        for path in SOURCES:
            if "desktop" in path.parts:
                continue
            tree = ast.parse(path.read_text("utf-8"))
            self.assertTrue(ast.get_docstring(tree) or not tree.body, path)
            for node in tree.body:
                if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                    declared = any("rule" in ast.unparse(d) for d in node.decorator_list)
                    private = "cli" in path.parts
                    text = ast.get_docstring(node) or ""
                    raising = any(isinstance(n, ast.Raise) and n.exc for n in ast.walk(node))
                    with self.subTest(f"{path.name}: {node.name}"):
                        self.assertTrue(declared or private or text)
                        self.assertTrue(private or not raising or "aises" in text)

    def test_files_are_one_idea(self) -> None:
        for path in (*SOURCES, *sorted((ROOT / "tests").rglob("*.py"))):
            with self.subTest(path.name):
                self.assertLess(len(path.read_text("utf-8").splitlines()), 560)

    def test_nothing_is_left_unfinished(self) -> None:
        marks = re.compile(r"\b(TO" r"DO|FIX" r"ME|XX" r"X|NotImplemented)\b")
        for path in SOURCES:
            self.assertIsNone(marks.search(path.read_text("utf-8")), path)

    def test_pictures_are_few_and_linked(self) -> None:
        readme = (ROOT / "README.md").read_text("utf-8")
        pictures = list((ROOT / "docs/screenshots").glob("*.png"))
        self.assertLess(len(pictures), 20)
        for picture in pictures:
            self.assertIn(picture.name, readme)


class Tables(unittest.TestCase):
    def test_colours_are_those_of_iec_60757(self) -> None:
        letters = ["BK", "BN", "RD", "OG", "YE", "GN", "BU", "VT", "GY", "WH", "PK", "TQ"]
        self.assertEqual(letters, list(plain_colours()))
        for code in ("BK", "WHBN", "GNYE", "GYPK"):
            self.assertTrue(is_colour(code))
        for code in ("", "B", "XX", "WHB", "BNBNBN", "bk", "BKX "):
            self.assertFalse(is_colour(code), code)
        self.assertEqual("white with brown stripe", colour_words("WHBN"))
        self.assertEqual("green-yellow", colour_words("GNYE"))
        self.assertEqual(("WH", "BN"), tuple(half.letters for half in base_and_stripe("WHBN")))

    def test_ampacity_against_the_table_of_the_rules(self) -> None:
        for area_mm2, current_a in (
            (0.05, 1.0), (0.14, 2.0), (0.25, 4.8), (0.5, 7.5), (0.75, 8.5), (1.0, 10.1),
            (1.5, 13.1), (2.5, 17.4), (4, 23), (16, 54), (25, 70), (0.52, 7.5), (0.33, 4.8),
        ):  # fmt: skip
            with self.subTest(area_mm2):
                self.assertEqual(current_a, ampacity_a(area_mm2, 40.0))
        self.assertIsNone(ampacity_a(0.04, 40.0))
        currents = [current for _, current in ampacity_table()]
        self.assertEqual(sorted(currents), currents)


class Documents(unittest.TestCase):
    def test_the_rules_page_is_the_one_of_the_declarations(self) -> None:
        self.assertEqual(rules_page(), (ROOT / "docs/rules.md").read_text("utf-8"))

    def test_the_page_of_part_fields_is_the_one_of_the_types(self) -> None:
        page = part_fields_page()
        self.assertEqual(page, (ROOT / "docs/part-fields.md").read_text("utf-8"))
        for told in ("`inset_mm` | a number from 0", "“stop input”", 'type = "logic input"'):
            self.assertIn(told, page)

    def test_every_page_that_is_linked_exists(self) -> None:
        for page in (ROOT / "README.md", *sorted((ROOT / "docs").glob("*.md"))):
            for target in re.findall(r"\]\(([^)#]+)\)", page.read_text("utf-8")):
                with self.subTest(f"{page.name}: {target}"):
                    self.assertTrue((page.parent / target).exists())
