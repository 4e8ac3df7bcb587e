"""The public Python interface: its examples run, its names stay, and it needs no window."""

import doctest
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path

from tests import ROOT
from vervain import api


class Interface(unittest.TestCase):
    def test_the_examples_of_the_documentation_run(self) -> None:
        result = doctest.testfile(
            str(ROOT / "docs/python-api.md"), module_relative=False,
            optionflags=doctest.ELLIPSIS | doctest.IGNORE_EXCEPTION_DETAIL,
        )  # fmt: skip
        self.assertGreater(result.attempted, 30)
        self.assertEqual(0, result.failed)

    def test_every_name_is_there_and_documented(self) -> None:
        for name in api.__all__:
            value = getattr(api, name)
            if callable(value) and getattr(value, "__module__", "") == "vervain.api":
                self.assertTrue(value.__doc__, name)
        self.assertEqual(len(api.__all__), len(set(api.__all__)))

    def test_what_is_saved_is_opened_and_the_one_before_is_kept(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "m.vervain"
            rules = api.default_rules()._replace(folder=Path(folder) / "versions")
            for key in ("rover", "printer"):
                api.save_machine(api.open_template(key), str(path), rules)
            self.assertEqual(api.open_template("printer"), api.open_machine(str(path)))
            self.assertEqual(2, len(list((Path(folder) / "versions").rglob("*.vervain"))))
        with self.assertRaises(api.Problem):
            api.export(api.open_template("rover"), "doc")

    def test_a_script_needs_no_qt(self) -> None:
        code = (
            "import sys; sys.modules['PyQt6'] = None\n"
            "from vervain import api\n"
            "print(len(api.check(api.open_demo('clay-printer-as-planned')).open))"
        )
        done = subprocess.run(
            [sys.executable, "-c", code], env={"PYTHONPATH": str(ROOT / "src")},
            capture_output=True, text=True,
        )  # fmt: skip
        self.assertEqual(("0\n", ""), (done.stdout, done.stderr))
