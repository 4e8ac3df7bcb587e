"""What the program is, under which licence, and what it is built on."""

import re
from collections.abc import Iterable
from importlib import metadata
from importlib.metadata import PackageNotFoundError

# What pyproject.toml asks for; a test holds the two together.
BUILT_ON = (
    "msgspec", "numpy", "openpyxl", "platformdirs", "pymodbus", "PyQt6", "pyqtgraph", "pyserial",
    "pyvisa", "pyvisa-py", "quantiphy", "reportlab", "rl-accel", "scipy", "segno", "tomlkit",
)  # fmt: skip
NOT_THERE = "not there"
LONGEST_LICENCE = 60
LICENCE_CLASS = "License :: OSI Approved :: "
LINES = (
    "Wiring of self-built machines: ports, leads, supplies, checks and a labelled harness.",
    "Free software under the GNU General Public License, version 3 or later. No warranty.",
    "It helps to find mistakes; it is no proof that a machine is safe.",
)


def version() -> str:
    """The version of the program; "" where it runs without being installed."""
    try:
        return metadata.version("vervain")
    except PackageNotFoundError:
        return ""


def packages() -> tuple[tuple[str, str], ...]:
    """The packages that the program is built on, those that they need in turn among them, each
    with its version and licence.
    """
    return tuple((name, _licence(name)) for name in sorted(_needed(BUILT_ON, {}), key=str.casefold))


def _needed(names: Iterable[str], known: dict[str, str]) -> Iterable[str]:
    """Packages and all that they need that is here, each once; what only an extra needs is not
    asked for. `known` holds those that were met, by the name that PEP 503 compares.
    """
    for name in names:
        if _one_name(name) not in known:
            known[_one_name(name)] = name
            _needed(_requirements(name), known)
    return known.values()


def _one_name(name: str) -> str:
    """A package's name as PEP 503 compares it."""
    return re.sub(r"[-_.]+", "-", name).casefold()


def _requirements(name: str) -> list[str]:
    """The names of what a package needs and what is here."""
    if _licence(name) == NOT_THERE:
        return []
    asked = [text for text in metadata.requires(name) or [] if "extra ==" not in text]
    names = [found[0] for text in asked if (found := re.match(r"[\w.-]+", text))]
    return [need for need in names if _licence(need) != NOT_THERE]


def _licence(name: str) -> str:
    try:
        found = metadata.metadata(name)
    except PackageNotFoundError:
        return NOT_THERE
    classes = [text for text in found.get_all("Classifier") or [] if LICENCE_CLASS in text]
    words = "".join(found.get_all("License-Expression") or [])
    if not words and classes:
        words = classes[0].removeprefix(LICENCE_CLASS)
    # Older packages have one line, or their whole text there.
    stated = "".join(found.get_all("License") or []).strip().splitlines()
    if not words and stated and len(stated[0]) < LONGEST_LICENCE:
        words = stated[0]
    return f"{found['Version']}, {words or 'licence not stated'}"
