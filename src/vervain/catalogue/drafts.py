"""What a builder types of a part: its kind, its tables, its numbers, and what it may begin with."""

import re
import tomllib
from typing import Literal, NamedTuple, get_args

import msgspec
from msgspec.structs import replace

from vervain.catalogue.port_places import PortPlace
from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.part import PartKind
from vervain.model.ratings import Rated
from vervain.text.name_words import name_words, says

Drive = Literal["push-pull", "NPN", "PNP", "volts", "current"]
DRIVES: tuple[Drive, ...] = get_args(Drive)


class Number(NamedTuple):
    """A number that a kind of part is asked for: its key, its words, its unit."""

    key: str
    words: str
    unit: str


VOLTS = (Number("v_min_v", "Works from", "V"), Number("v_max_v", "Works to", "V"))
WINDOW = tuple(number.key for number in VOLTS)
CURRENT = Number("current_a", "Current", "A")
LOAD = (Number("nominal_v", "Rated voltage", "V"), CURRENT)
# What can be described, and which numbers it is asked for. Any may be left out.
DESCRIBED: dict[PartKind, tuple[Number, ...]] = {
    "sensor": (
        *VOLTS,
        CURRENT,
        Number("drop_v", "Loses, when on", "V"),
        Number("gives_max_v", "Gives, at most", "V"),
    ),
    "switch": (Number("contact_max_a", "Contact carries", "A"),),
    "stepper motor": (
        Number("current_a", "Current a phase, RMS", "A"),
        Number("resistance_ohm", "Winding", "ohm"),
        Number("inductance_h", "Inductance", "H"),
        Number("steps_per_turn", "Steps a turn", ""),
    ),
    "brushed motor": LOAD,
    "servo": (*VOLTS, CURRENT),
    "encoder": (Number("lines_per_turn", "Lines a turn", ""), *VOLTS, CURRENT),
    "hand wheel": (Number("lines_per_turn", "Clicks a turn", ""), *VOLTS, CURRENT),
    "brake": LOAD,
    "fan": LOAD,
    "heater": LOAD,
    "lamp": LOAD,
    "valve": LOAD,
    "load": LOAD,
    "stepper driver": (*VOLTS, Number("current_max_peak_a", "Current, peak, to", "A")),
    "controller": (*VOLTS, CURRENT, Number("step_rate_max_hz", "Step rate to", "Hz")),
    "supply": (
        Number("nominal_v", "Gives", "V"),
        Number("current_a", "Current to", "A"),
        Number("v_min_v", "Takes from", "V"),
        Number("v_max_v", "Takes to", "V"),
    ),
    "relay module": (
        *VOLTS,
        Number("current_a", "A channel takes", "A"),
        Number("contact_max_a", "Contact carries", "A"),
    ),
    "contactor": (
        Number("nominal_v", "Coil, rated", "V"),
        Number("current_a", "Coil takes", "A"),
        Number("contact_max_a", "Contact carries", "A"),
    ),
    "emergency stop": (Number("contact_max_a", "Contact carries", "A"),),
    "solid-state relay": (
        Number("v_min_v", "Control from", "V"),
        Number("v_max_v", "Control to", "V"),
        Number("current_a", "Control takes", "A"),
        Number("contact_max_a", "Carries", "A"),
    ),
    "frequency inverter": (*VOLTS, CURRENT),
    "servo drive": (*VOLTS, CURRENT),
    "tool power source": (*VOLTS, CURRENT),
    "three-phase motor": LOAD,
    "fuse": (Number("fuse_max_a", "Fuses up to", "A"), Number("v_max_v", "up to", "V")),
    "terminal strip": (Number("bar_max_a", "A bar carries", "A"),),
    "connector": (),
    "thermistor": (),
    "motor bridge": (*VOLTS, Number("current_a", "Current to", "A")),
    "signal converter": (*VOLTS, CURRENT),
    "radio receiver": (*VOLTS, CURRENT),
    "battery": (Number("nominal_v", "Gives", "V"), Number("current_a", "Current to", "A")),
}
# What an output drives, in words, where the name alone does not say it.
DRIVE_WORDS: dict[Drive, str] = {"volts": "a voltage, analogue", "current": "4 to 20 mA"}
# What the current of a motor with two windings a phase is given for, in words.
RATED_WORDS: dict[Rated, str] = {
    "unipolar": "one half of each phase (unipolar)",
    "series": "both halves in series",
    "parallel": "both halves in parallel",
}
# What works at no more is made for the 3.3 or 5 V of a processor.
LOGIC_MOST_V = 6.0
HAS_DRIVE = ("sensor", "encoder", "hand wheel")
# What the name of a part says of its output: 4-20 mA, NPN; two figures with V behind them.
LOOP = re.compile(r"(?<!\d)[04]\s*(?:mA)?\s*(?:to|/|\.{2,3}|[\u2026\u2212\u2013-])\s*20\s*mA", re.I)
LEVELS = re.compile(r"\b(?:NPN|PNP|push-pull)\b", re.I)
# An output that only switches to 0 V.
OPEN_COLLECTOR = re.compile(r"\bopen[ -](?:collector|drain)\b", re.I)
RANGE = re.compile(
    r"(?<![\d.,])([-\u2212]?\d+(?:[.,]\d+)?)\s*V?\s*(?:to|\.{2,3}|[\u2026\u2212\u2013-])\s*"
    r"\+?(\d+(?:[.,]\d+)?)\s*V\b", re.I
)  # fmt: skip
# A signal begins at no more, and ends at no more than 10 V (IEC 61131-2).
MOST_LOW_V, MOST_HIGH_V = 1.0, 10.0


def is_potentiometer(kind: PartKind, title: str) -> bool:
    """Whether a part divides whatever is put across it, by its name."""
    return kind == "sensor" and says(title, name_words().potentiometer)


def drive_told(kind: PartKind, title: str) -> Drive | None:
    """What an output drives by the name of its part; None where that does not say it."""
    if kind not in HAS_DRIVE:
        return None
    if kind == "sensor":
        if LOOP.search(title):
            return "current"
        is_analogue = says(title, name_words().analogue)
        if is_potentiometer(kind, title) or is_analogue or volts_told(title) is not None:
            return "volts"
    named = {match.upper() for match in LEVELS.findall(title)}
    if not named and OPEN_COLLECTOR.search(title):
        return "NPN"
    return next((drive for drive in DRIVES if {drive.upper()} == named), None)


def volts_told(title: str) -> float | None:
    """Up to how many V the output of a sensor goes by its name: 0.5 to 4.5 V, 0-10 V. A range that
    begins higher is what it runs on.
    """
    for match in RANGE.finditer(title):
        low, high = (float(match[side].replace(",", ".").replace("\u2212", "-")) for side in (1, 2))
        if low <= MOST_LOW_V and low < high <= MOST_HIGH_V:
            return high
    return None


def window_told(title: str) -> tuple[float, float] | None:
    """From how many V and to how many V a part works by its name: 3-32 V, DC 12 to 24 V. A range
    that begins at 1 V or below is a signal.
    """
    for match in RANGE.finditer(title):
        low, high = (float(match[side].replace(",", ".").replace("\u2212", "-")) for side in (1, 2))
        if MOST_LOW_V < low < high:
            return low, high
    return None


class Draft(Record, frozen=True, kw_only=True):
    """What the builder typed so far; `drive` is None where nobody chose what an output does."""

    kind: PartKind = "sensor"
    title: str = ""
    maker: str = ""
    model: str = ""
    pins_text: str = ""
    colours_text: str = ""
    drive: Drive | None = None
    lead_length_m: float = 0.0
    numbers: dict[str, float] = msgspec.field(default_factory=dict)
    rated: Rated | None = None
    roles: dict[str, str] = msgspec.field(default_factory=dict)
    circuits: dict[str, str] = msgspec.field(default_factory=dict)
    apart: frozenset[str] = frozenset()
    begins: frozenset[str] = frozenset()
    connectors: dict[str, str] = msgspec.field(default_factory=dict)
    places: dict[str, PortPlace] = msgspec.field(default_factory=dict)
    size_mm: tuple[float, float] | None = None
    settings_text: str = ""


def drive_of(draft: Draft) -> Drive:
    """What the output of a part drives: as it was chosen, else by its name, else as is usual: what
    works at 5 V drives both ways, what works at more gives plus.
    """
    told = draft.drive or drive_told(draft.kind, draft.title)
    most_v = draft.numbers.get("v_max_v") or 0.0
    return told or ("push-pull" if 0 < most_v <= LOGIC_MOST_V else "PNP")


class Preset(Record, frozen=True, kw_only=True):
    """A pin table and a colour list to begin with; kind empty where it goes with any. The `usual`
    one of a kind is taken where only numbers are given; `drive` is what its output does.
    """

    title: str
    kind: str
    pins: tuple[str, ...]
    colours: tuple[str, ...]
    usual: bool = False
    drive: Drive | None = None

    @property
    def texts(self) -> tuple[str, str]:
        """The pin table and the colour list as they are typed."""
        pins, colours = ("\n".join(rows).replace(" | ", "\t") for rows in (self.pins, self.colours))
        return pins, colours


@table_reader
def presets() -> tuple[Preset, ...]:
    """The presets of data/tables/presets.toml."""
    rows = tomllib.loads(data_text("tables/presets.toml"))["preset"]
    return tuple(msgspec.convert(rows, list[Preset]))


def usual_of(kind: PartKind) -> Preset | None:
    """The usual leads or terminals of a kind of part."""
    return next((preset for preset in presets() if preset.usual and preset.kind == kind), None)


def told_by_title(draft: Draft) -> dict[str, float]:
    """The numbers that the name of a part tells, where nobody gave them: its volts."""
    asked = {number.key for number in DESCRIBED[draft.kind]}
    if draft.kind == "supply" or not {*WINDOW} <= asked or {*WINDOW} & {*draft.numbers}:
        return {}
    volts = window_told(draft.title)
    return dict(zip(WINDOW, volts, strict=True)) if volts is not None else {}


def with_usual(draft: Draft) -> Draft:
    """A draft of which only the numbers of the label were given, with the usual leads; its volts
    by its name, where they were not given.
    """
    usual = usual_of(draft.kind)
    typed = draft.pins_text.strip() or draft.colours_text.strip()
    nothing_said = not draft.numbers and (DESCRIBED[draft.kind] or not draft.title.strip())
    draft = replace(draft, numbers={**draft.numbers, **told_by_title(draft)})
    if usual is None or typed or nothing_said:
        return draft
    pins, colours = usual.texts
    return replace(draft, pins_text=pins, colours_text=colours)
