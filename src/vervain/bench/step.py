"""One step of the bench list, and the table of what a meter should show."""

import tomllib
from typing import Literal, get_args

import msgspec

from vervain.data import data_text, table_reader
from vervain.model.base import Positive, Record
from vervain.model.machine import PinRef, PortRef
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
    coil_ratio: Positive
    amps_least_ratio: Positive
    no_load_ratio: Positive
    sent_alike_ratio: Positive
    hand_alike_ratio: Positive


@table_reader
def bench_table() -> BenchTable:
    """The table in force. Raises `ValueError` where it is none."""
    try:
        return msgspec.convert(tomllib.loads(data_text("tables/bench.toml")), BenchTable)
    except msgspec.ValidationError as error:
        raise ValueError(str(error)) from None


class Window(Record, frozen=True, kw_only=True):
    """A number that a step asks for: its unit, from which to which value it is right, and how much
    several of them may differ, as a part of the largest; or several numbers of another `form`.
    """

    unit: str
    least: float | None = None
    most: float | None = None
    alike_ratio: float | None = None
    form: Literal["", "low, neutral, high", "two that differ"] = ""


class LampChange(Record, frozen=True, kw_only=True):
    """What the lamp of an input does while a device is worked."""

    port: PortRef
    does: Literal["goes out", "comes on", "changes"]


class BenchStep(Record, frozen=True, kw_only=True):
    """One step: its name, which stays the same under edits; what to do, at which device, what to
    see, what that proves. `window` is what a reading is judged by, `probes` between which pins it
    is taken, red first; `port` where one looks, `reads` the input that counts, `lamps` what the
    lamps of inputs do; `pressed` the stops that are pressed meanwhile, `contact` the one of several
    that is closed; `powers` what else comes under power. The list fills in its section, the place
    of its device, and why it had better wait (`held`).
    """

    id: str
    device: str
    do: str
    see: str
    why: str
    window: Window | None = None
    port: PortRef | None = None
    probes: tuple[tuple[PinRef, PinRef], ...] = ()
    reads: PortRef | None = None
    lamps: tuple[LampChange, ...] = ()
    pressed: tuple[str, ...] = ()
    contact: tuple[PinRef, PinRef] | None = None
    powers: tuple[str, ...] = ()
    section: Section = "Before power"
    place: str = ""
    held: str = ""

    @property
    def kind(self) -> str:
        """The first word of its name: "coils", "input", "lock"."""
        return self.id.partition(" ")[0]

    @property
    def subject(self) -> str:
        """The rest of its name: what it is about."""
        return self.id.partition(" ")[2]

    @property
    def mark(self) -> str:
        """A mark of what it proves: what was seen holds while that stays."""
        return mark_of((self.do, self.see))


def around(value: float, ratio: float, unit: str) -> Window:
    """A window of a part of a value on both sides of it."""
    return Window(unit=unit, least=value * (1 - ratio), most=value * (1 + ratio))


def ohms_words(ohms: float) -> str:
    """Ohms as a meter shows them: "1.4 Ω", "2.2 kΩ"."""
    return f"{ohms / 1000:.2g} kΩ" if ohms >= 1000 else f"{ohms:.2g} Ω"
