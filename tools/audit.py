"""Audits what the program is built on: pinned with hashes, installed as pinned, licences stated,
and no vulnerability known.

    .venv/bin/python tools/audit.py [--offline]

Known vulnerabilities are asked for by pip-audit, in an environment of its own (.venv-audit, made
from tools/audit.lock). Where the package index has no such service, that is said, package by
package; everything else needs no network.
"""

import argparse
import json
import re
import subprocess
import sys
import venv
from importlib import metadata
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LOCKS = ("requirements.lock", "requirements-dev.lock")
PINNED = re.compile(r"^([A-Za-z0-9._-]+)==(\S+)", re.MULTILINE)
HASH = re.compile(r"--hash=sha256:[0-9a-f]{64}\b")


def pins(text: str) -> dict[str, tuple[str, int]]:
    """What a lock file pins: each package with its version and how many hashes it has."""
    starts = list(PINNED.finditer(text))
    ends = [found.start() for found in starts[1:]] + [len(text)]
    return {
        found[1]: (found[2].rstrip("\\"), len(HASH.findall(text[found.start() : end])))
        for found, end in zip(starts, ends, strict=True)
    }


def loose_lines(text: str) -> list[str]:
    """The lines of a lock file that ask for a package without pinning it."""
    asked = [line for line in text.splitlines() if line and line[0] not in "# \t"]
    return [line for line in asked if not PINNED.match(line)]


def local_faults(lock: str) -> list[str]:
    """What is wrong with a lock file, or with what is installed by it, without any network."""
    text = (ROOT / lock).read_text()
    faults = [f"{lock}: not pinned: {line}" for line in loose_lines(text)]
    for name, (version, hashes) in pins(text).items():
        if not hashes:
            faults.append(f"{lock}: {name} has no hash")
        try:
            installed = metadata.version(name)
        except metadata.PackageNotFoundError:
            continue
        if installed != version:
            faults.append(f"{lock}: {name} {version} is pinned, {installed} is installed")
    return faults


def broken_needs() -> list[str]:
    """Packages whose needs are not met by what is installed."""
    done = subprocess.run(
        [sys.executable, "-m", "pip", "check", "--disable-pip-version-check"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    return done.stdout.strip().splitlines() if done.returncode else []


def unstated_licences() -> list[str]:
    """Packages of the program that state no licence."""
    sys.path.insert(0, str(ROOT / "src"))
    from vervain.desktop.about import packages

    return [f"{name}: {words}" for name, words in packages() if "not stated" in words]


def known_vulnerabilities(lock: str) -> tuple[list[str], list[str], int]:
    """What is known against the pinned versions; the packages that nobody answered for; and how
    many were answered for. Raises `subprocess.CalledProcessError` where pip-audit cannot be had.
    """
    folder = ROOT / ".venv-audit"
    program = folder / "bin" / "pip-audit"
    if not program.exists():
        venv.create(folder, with_pip=True, clear=True)
        subprocess.run(
            [folder / "bin" / "python", "-m", "pip", "install", "--quiet", "--require-hashes",
             "--disable-pip-version-check", "-r", ROOT / "tools" / "audit.lock"],
            check=True,
        )  # fmt: skip
    done = subprocess.run(
        [program, "-r", ROOT / lock, "--require-hashes", "--disable-pip", "--format", "json",
         "--progress-spinner", "off"],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    if not done.stdout.strip():
        raise subprocess.CalledProcessError(done.returncode, "pip-audit", stderr=done.stderr)
    found, silent, answered = [], [], 0
    for package in json.loads(done.stdout)["dependencies"]:
        if "skip_reason" in package:
            silent.append(package["name"])
            continue
        answered += 1
        for vulnerability in package["vulns"]:
            fixed = ", ".join(vulnerability["fix_versions"]) or "no version yet"
            found.append(
                f"{package['name']} {package['version']}: {vulnerability['id']}, fixed in {fixed}"
            )
    return found, silent, answered


def main() -> int:
    parser = argparse.ArgumentParser(description="Audits what the program is built on.")
    parser.add_argument("--offline", action="store_true", help="ask nobody")
    offline = parser.parse_args().offline
    faults: list[str] = []
    for lock in LOCKS:
        wrong = local_faults(lock)
        faults += wrong
        count = len(pins((ROOT / lock).read_text()))
        print(f"{lock}: {count} packages, {len(wrong)} faults in pins, hashes and versions")
    faults += broken_needs()
    unstated = unstated_licences()
    print(f"licences: {len(unstated)} packages state none{': ' if unstated else ''}"
          f"{', '.join(unstated)}")  # fmt: skip
    for lock in LOCKS if not offline else ():
        try:
            found, silent, answered = known_vulnerabilities(lock)
        except (subprocess.CalledProcessError, OSError) as error:
            print(f"{lock}: not asked for vulnerabilities: {error}")
            continue
        faults += found
        print(f"{lock}: asked for vulnerabilities: {answered} packages answered for, "
              f"{len(found)} known; no answer for {len(silent)}")  # fmt: skip
    for fault in faults:
        print(f"  {fault}")
    return 1 if faults else 0


if __name__ == "__main__":
    sys.exit(main())
