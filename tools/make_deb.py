"""Makes a Debian package of the tree, with the locked packages that it needs from the environment
that it is run in: no network. It installs below /usr and starts with the release's own Python.

    .venv/bin/python tools/make_deb.py [--to dist] [--quick]

The package is for the Python version and the architecture that it is made on. --quick packs with
little effort, for a try.
"""

import argparse
import importlib.metadata
import os
import re
import shutil
import subprocess
import sys
import tempfile
import tomllib
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from vervain.files.desktop_integration import SHIPPED, placed_files  # noqa: E402

PYTHON = f"python{sys.version_info[0]}.{sys.version_info[1]}"
# What Qt and the fonts of the window want of the system, by the names of all releases since 12.
LIBRARIES = (
    "libegl1", "libgl1", "libxkbcommon0", "libxkbcommon-x11-0", "libdbus-1-3", "libfontconfig1",
    "libglib2.0-0 | libglib2.0-0t64", "fonts-dejavu-core", "libxcb-cursor0", "libxcb-icccm4",
    "libxcb-keysyms1", "libxcb-shape0", "libxcb-image0", "libxcb-render-util0", "libxcb-xinerama0",
    "libxcb-randr0",
)  # fmt: skip
# It finds its files from where it lies, so that it can be tried below any folder.
STARTER = f"""#!/bin/sh
here=$(dirname "$(dirname "$(readlink -f "$0")")")
export PYTHONPATH="$here/lib/vervain"
exec /usr/bin/{PYTHON} -m vervain "$@"
"""
# Compiled once, as no user may write there; what was compiled goes before the package does.
SCRIPTS = {
    "postinst": f"#!/bin/sh\n/usr/bin/{PYTHON} -m compileall -q -j 0 /usr/lib/vervain || true\n",
    "prerm": "#!/bin/sh\nfind /usr/lib/vervain -name __pycache__ -prune -exec rm -rf {} +\n",
}
COPYRIGHT = """Format: https://www.debian.org/doc/packaging-manuals/copyright-format/1.0/
Upstream-Name: Vervain

Files: *
Copyright: The Vervain team
License: GPL-3.0-or-later
 On Debian systems the whole text is in /usr/share/common-licenses/GPL-3. The packages beside it in
 /usr/lib/vervain have their licences in their *.dist-info folders; Help, About lists them.
"""


def locked() -> dict[str, str]:
    """The packages of requirements.lock with their versions."""
    rows = re.findall(r"^([A-Za-z0-9_.-]+)==(\S+)", (ROOT / "requirements.lock").read_text(), re.M)
    return dict(rows)


def copy_packages(to: Path) -> None:
    """Copies the locked packages of this environment. Raises `SystemExit` where one is another."""
    for name, version in locked().items():
        found = importlib.metadata.distribution(name)
        if found.version != version:
            raise SystemExit(f"{name} is {found.version} here, {version} in requirements.lock.")
        for file in found.files or ():
            source, target = Path(str(found.locate_file(file))), to / str(file)
            # Commands of packages lie outside; nothing starts them.
            if ".." in file.parts or "__pycache__" in file.parts or not source.is_file():
                continue
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.copy2(source, target)


def stage(root: Path, with_packages: bool = True) -> None:
    """Puts everything where it lies once it is installed, below a folder."""
    library = root / "usr/lib/vervain"
    library.mkdir(parents=True)
    if with_packages:
        copy_packages(library)
    ignored = shutil.ignore_patterns("__pycache__", "*.egg-info")
    shutil.copytree(ROOT / "src/vervain", library / "vervain", ignore=ignored)
    starter = root / "usr/bin/vervain"
    starter.parent.mkdir(parents=True)
    starter.write_text(STARTER)
    starter.chmod(0o755)
    # The indexes of the desktop are kept by its own packages when this one comes or goes.
    for source, target in placed_files():
        path = root / "usr/share" / target
        path.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(SHIPPED / source, path)
    note = root / "usr/share/doc/vervain/copyright"
    note.parent.mkdir(parents=True)
    note.write_text(COPYRIGHT)


def control(root: Path) -> str:
    """The control file (Debian Policy 5.3)."""
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())["project"]
    said = subprocess.run(
        ["dpkg", "--print-architecture"], capture_output=True, text=True, check=True
    )
    size = sum(path.stat().st_size for path in root.rglob("*") if path.is_file()) // 1024
    return (
        f"Package: vervain\nVersion: {project['version']}\nSection: electronics\n"
        f"Priority: optional\nArchitecture: {said.stdout.strip()}\nInstalled-Size: {size}\n"
        f"Maintainer: The Vervain team <vervain@localhost>\n"
        f"Depends: {', '.join((PYTHON, *LIBRARIES))}\n"
        "Description: wire a machine that you build yourself\n"
        " Assigns motors, drivers, switches and stops to the ports of controllers, checks\n"
        " supplies, levels and stops, and makes the papers of the harness.\n"
    )


def make(to: Path, quick: bool, with_packages: bool = True) -> Path:
    """Makes the package in a folder; gives its path. Raises `SystemExit`."""
    if shutil.which("dpkg-deb") is None:
        raise SystemExit("dpkg-deb is not here: a Debian package is made on Debian.")
    to.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "root"
        stage(root, with_packages)
        described = root / "DEBIAN/control"
        described.parent.mkdir()
        described.write_text(control(root))
        for name, text in SCRIPTS.items():
            script = described.with_name(name)
            script.write_text(text)
            script.chmod(0o755)
        for path in (root, *root.rglob("*")):
            path.chmod(0o755 if path.is_dir() or os.access(path, os.X_OK) else 0o644)
        effort = ["-Zgzip", "-z1"] if quick else ["-Zxz"]
        done = subprocess.run(
            ["dpkg-deb", "--root-owner-group", *effort, "--build", str(root), str(to)],
            capture_output=True, text=True, check=False,
        )  # fmt: skip
        if done.returncode:
            raise SystemExit(done.stderr)
    return max(to.glob("vervain_*.deb"), key=lambda path: path.stat().st_mtime)


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--to", type=Path, default=ROOT / "dist")
    parser.add_argument("--quick", action="store_true")
    options = parser.parse_args()
    print(make(options.to, options.quick))


if __name__ == "__main__":
    main()
