"""One step of the bench list, and the table of what a meter should show."""

import tomllib
from typing import Literal, get_args

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Positive, Record
from vervain.model.marks import mark_of

Section = Literal[
    "Before power", "First power", "Inputs", "Outputs", "Axes", "Stops", "Calibration",
]  # fmt: skip
SECTIONS: tuple[Section, ...] = get_args(Section)


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
    """One step: its name, which stays the same under edits; what to do, at which device, what to
    see, what that proves; `powers` is what else comes under power by it. The list fills in its
    section, the place of its device, and why it had better wait (`held`).
    """

    id: str
    device: str
    do: str
    see: str
    why: str
    powers: tuple[str, ...] = ()
    section: Section = "Before power"
    place: str = ""
    held: str = ""

    @property
    def mark(self) -> str:
        """A mark of what it proves: what was seen holds while that stays."""
        return mark_of((self.do, self.see))


def volts_words(least_v: float, most_v: float) -> str:
    """A window of volts: "22.8 to 25.2 V"."""
    return f"{least_v:.3g} to {most_v:.3g} V"


def ohms_words(ohms: float) -> str:
    """Ohms as a meter shows them: "1.4 Ω", "2.2 kΩ"."""
    return f"{ohms / 1000:.2g} kΩ" if ohms >= 1000 else f"{ohms:.2g} Ω"
