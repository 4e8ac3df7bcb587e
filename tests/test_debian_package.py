"""The Debian package: what lies in it and where, and that it starts from there."""

import os
import shutil
import subprocess
import tempfile
import unittest
from pathlib import Path

import make_deb
from tests.sampling import IS_WHOLE
from vervain.files.demos import DEMOS
from vervain.files.desktop_integration import placed_files

FOUND = make_deb.ROOT / f"src/vervain/data/demos/{DEMOS[0].key}.vervain"


def said_by(*command: object) -> str:
    return subprocess.run(
        [str(word) for word in command], capture_output=True, text=True, check=True, timeout=120,
        env={"PATH": os.environ["PATH"], "HOME": tempfile.gettempdir()},
    ).stdout  # fmt: skip


@unittest.skipIf(shutil.which("dpkg-deb") is None, "dpkg-deb is not installed here")
class Package(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_everything_lies_where_the_system_looks_and_nothing_else(self) -> None:
        made = make_deb.make(self.folder, quick=True, with_packages=False)
        said_by("dpkg-deb", "-x", made, self.folder / "root")
        root = self.folder / "root/usr"
        for _, target in placed_files():
            self.assertTrue((root / "share" / target).is_file(), target)
        shipped = {path for path in (root / "share").rglob("*") if path.is_file()}
        # No index of the desktop, which other packages have as well.
        self.assertEqual(len(placed_files()) + 1, len(shipped))
        self.assertTrue(os.access(root / "bin/vervain", os.X_OK))
        self.assertTrue((root / "lib/vervain/vervain/data/tables/needs.toml").is_file())
        fields = said_by("dpkg-deb", "--field", made)
        self.assertIn(f"Depends: {make_deb.PYTHON}, ", fields)
        self.assertIn("Architecture: ", fields)
        said_by("dpkg-deb", "-e", made, self.folder / "scripts")
        for name in make_deb.SCRIPTS:
            said_by("sh", "-n", self.folder / "scripts" / name)

    @unittest.skipUnless(IS_WHOLE, "copies half a gigabyte; with VERVAIN_ALL")
    def test_it_starts_from_wherever_it_lies(self) -> None:
        if not Path(f"/usr/bin/{make_deb.PYTHON}").exists():
            self.skipTest("the system has another Python")
        made = make_deb.make(self.folder, quick=True)
        said_by("dpkg-deb", "-x", made, self.folder / "root")
        starter = self.folder / "root/usr/bin/vervain"
        self.assertIn("vervain", said_by(starter, "--version"))
        self.assertIn("label,from", said_by(starter, "table", FOUND, "--as", "csv"))


if __name__ == "__main__":
    unittest.main()
