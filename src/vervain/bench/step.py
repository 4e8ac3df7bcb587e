"""One step of the bench list, and the table of what a meter should show."""

import hashlib
import tomllib
from typing import Literal, get_args

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Positive, Record

Section = Literal[
    "Before power", "First power", "Inputs", "Outputs", "Axes", "Stops", "Calibration",
]  # fmt: skip
SECTIONS: tuple[Section, ...] = get_args(Section)
MARK = 8


class BenchTable(Record, frozen=True, kw_only=True):
    """The table tables/bench.toml."""

    earth_most_ohm: Positive
    short_ratio: Positive
    short_least_ohm: Positive
    alike_ratio: Positive
    sent_ratio: Positive


@table_reader
def bench_table() -> BenchTable:
    """The table in force. Raises `ValueError` where it is none."""
    try:
        return msgspec.convert(tomllib.loads(data_text("tables/bench.toml")), BenchTable)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None


class BenchStep(Record, frozen=True, kw_only=True):
    """One step: its name, which stays the same under edits; what to do, at which device and place,
    what to see, what that proves. `held` says why it had better wait.
    """

    id: str
    section: Section
    device: str
    place: str
    do: str
    see: str
    why: str
    held: str = ""

    @property
    def mark(self) -> str:
        """What it proves, as eight figures of a SHA-256: what was seen holds while that stays."""
        return hashlib.sha256(f"{self.do}\n{self.see}".encode()).hexdigest()[:MARK]


def volts_words(least_v: float, most_v: float) -> str:
    """A window of volts: "22.8 to 25.2 V"."""
    return f"{least_v:.3g} to {most_v:.3g} V"


def ohms_words(ohms: float) -> str:
    """Ohms as a meter shows them: "1.4 Ω", "2.2 kΩ"."""
    return f"{ohms / 1000:.2g} kΩ" if ohms >= 1000 else f"{ohms:.2g} Ω"
