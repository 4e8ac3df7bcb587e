"""What the program is, under which licence, and what it is built on."""

from importlib import metadata
from importlib.metadata import PackageNotFoundError

# What pyproject.toml asks for; a test holds the two together.
BUILT_ON = (
    "msgspec", "numpy", "openpyxl", "platformdirs", "pymodbus", "PyQt6", "pyqtgraph", "pyserial",
    "pyvisa", "pyvisa-py", "quantiphy", "reportlab", "rl-accel", "scipy", "segno", "tomlkit",
)  # fmt: skip
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
    """The packages that the program is built on, each with its version and licence."""
    return tuple((name, _licence(name)) for name in BUILT_ON)


def _licence(name: str) -> str:
    try:
        found = metadata.metadata(name)
    except PackageNotFoundError:
        return "not there"
    classes = [text for text in found.get_all("Classifier") or [] if LICENCE_CLASS in text]
    words = "".join(found.get_all("License-Expression") or [])
    if not words and classes:
        words = classes[0].removeprefix(LICENCE_CLASS)
    return f"{found['Version']}, {words or 'licence not stated'}"
