"""Tables, parts and demonstrations that ship with Vervain, as files beside this one."""

from pathlib import Path

FOLDER = Path(__file__).parent


def data_text(name: str) -> str:
    """The text of a shipped file, by its path in this folder."""
    return (FOLDER / name).read_text("utf-8")
