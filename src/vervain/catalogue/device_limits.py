"""The electrical limits of the pins of what has one plug, or leads: by the numbers of its label, by
what is printed there, else as is usual.
"""

import re
from typing import Literal

from vervain.catalogue.drafts import HAS_DRIVE, Draft, drive_of, volts_told
from vervain.catalogue.plugs_apart import MOTORS, PRESSED
from vervain.catalogue.port_roles import HALL_FUNCTIONS
from vervain.catalogue.printed_volts import window_printed
from vervain.electrical.mains import MOTOR_PHASES
from vervain.model.electrical import (
    MAINS_V,
    Electrical,
    FeedIn,
    FeedOut,
    LogicInput,
    LogicOutput,
)
from vervain.model.part import PinFunction, PortKind
from vervain.text.name_words import name_words, says

DEVICE_PORT: dict[str, PortKind] = {
    "sensor": "sensor",
    "switch": "contact",
    "stepper motor": "motor phases",
    "three-phase motor": "motor phases",
    "servo": "servo",
    "encoder": "encoder",
    "hand wheel": "encoder",
}
# What an output loses where nobody says: of a 24 V sensor (IEC 60947-5-2 allows up to 3.5 V), of
# what works at 5 V too (a saturated transistor, V_OL of TTL levels).
SENSOR_DROP_V, LOGIC_DROP_V, LOGIC_V = 2.0, 0.4, 5.0
# The channels of a knob that is turned by hand.
KNOB = re.compile(r"^(?:CLK|DT)$", re.I)
# By what a fan of four leads is told its speed, and tells it: both are pulled up to at most 5.25 V,
# and pulled down by an open collector.
PULSES_OF_A_FAN = LogicInput(high_min_v=2.4, low_max_v=0.8, max_v=5.25)
SPEED_OF_A_FAN = LogicOutput(drive="NPN", low_max_v=0.4)
# The volts of a motor's brake in the name of the motor: “brake 24 V”.
BRAKE_VOLTS = re.compile(r"brake[^\d]{0,6}(\d+)\s?V|(\d+)\s?V\s+brake", re.I)
# What a potentiometer bears: 10 kohm are usual, and 0.05 W.
OF_A_POTENTIOMETER = FeedIn(v_min_v=1, v_max_v=22, current_a=0.0012, nominal_v=12)
# What a sensor gives at most that works from more than that, where nobody says: the usual 0 to 10 V
# (IEC 60381-2).
SIGNAL_V = 10.0
# What three Hall sensors take together, with the resistors that pull their outputs up, where nobody
# says: each takes up to 7 mA.
HALL_A = 0.025
# What a two-wire transmitter loses, where nobody says: of 10 V at the least most work.
TRANSMITTER_DROP_V = 10.0


def limits_of(
    draft: Draft, function: PinFunction, port_kind: PortKind, name: str
) -> Electrical | None:
    """The electrical limits of a pin, as far as the numbers and its own name tell them."""
    numbers = draft.numbers
    low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
    if draft.kind in MOTORS and port_kind == "load":
        # A brake takes what its name says, else what its motor is for, but no mains: its plus and
        # minus say that it is for direct current. The motor's current is not its own.
        said = BRAKE_VOLTS.search(draft.title)
        motor_v = numbers.get("nominal_v") or 0.0
        rated_v = float(said[1] or said[2]) if said else motor_v if motor_v < MAINS_V else 0.0
        takes = FeedIn(
            v_min_v=rated_v * 0.85, v_max_v=rated_v * 1.1 or None, nominal_v=rated_v or None,
            inductive=True, polarity_free=True,
        )  # fmt: skip
        return takes if function == "load+" else None
    if function in ("plus", "load+", "motor+", "line"):
        return _feed(draft, port_kind, name)
    if draft.kind == "three-phase motor" and function in MOTOR_PHASES:
        # For lower volts there is no mains: what a drive makes of its supply is the drive's.
        rated_v = numbers.get("nominal_v") or 0.0
        if rated_v < MAINS_V:
            return None
        return FeedIn(
            v_min_v=rated_v * 0.9, v_max_v=rated_v * 1.1, current_a=numbers.get("current_a"),
            inductive=True,
        )  # fmt: skip
    fed_v = numbers.get("nominal_v") or 0.0
    if draft.kind == "lamp" and function == "receive" and fed_v:
        # Lamps that pass their data on read it as logic of their own volts: 0.3 and 0.7 of these.
        return LogicInput(high_min_v=0.7 * fed_v, low_max_v=0.3 * fed_v, max_v=fed_v + 0.5)
    if draft.kind == "fan" and function == "pulse width":
        return PULSES_OF_A_FAN
    if draft.kind == "fan" and function == "signal":
        return SPEED_OF_A_FAN
    asks = function == "enable" and port_kind == "sensor"
    if asks or (function == "signal" and (draft.kind == "servo" or port_kind == "servo")):
        return LogicInput(high_min_v=2.4, low_max_v=0.8, max_v=5.5)
    # Without its volts it may be a sensor of logic as well: nothing is said against it.
    is_logic = not (low or high) or 0 < (low or 24.0) <= LOGIC_V or (high or 24.0) <= LOGIC_V + 1
    drop_v = numbers.get("drop_v") or (LOGIC_DROP_V if is_logic else SENSOR_DROP_V)
    if function == "signal" and draft.kind == "sensor" and name.casefold() in PRESSED:
        # A contact to 0 V beside what a stick gives.
        return LogicOutput(drive="NPN", drop_v=0.0, low_max_v=0.0)
    if function == "signal" and draft.kind == "sensor":
        drives = drive_of(draft)
        if drives == "current":
            lost_v = numbers.get("drop_v") or low or TRANSMITTER_DROP_V
            return LogicOutput(drive="current", drop_v=lost_v, low_max_v=0.0, current_a=0.02)
        if drives == "volts":
            usual_v = volts_told(draft.title) or (SIGNAL_V if (low or 0.0) > SIGNAL_V else None)
            return LogicOutput(
                drive="push-pull", low_max_v=0.0, high_max_v=numbers.get("gives_max_v") or usual_v
            )
        return LogicOutput(drive=drives, drop_v=drop_v, low_max_v=drop_v)
    if function == "signal" and port_kind == "sensor" and draft.kind in DEVICE_PORT:
        return LogicOutput(drive="NPN", drop_v=0.0, low_max_v=0.0)
    if function == "signal" and draft.kind in MOTORS:
        return LogicOutput(drive="push-pull", low_max_v=0.0)
    if function in HALL_FUNCTIONS and name.endswith("+"):
        # U+ beside U−: the encoder drives both lines of a pair (RS-422).
        return LogicOutput(drive="push-pull", drop_v=LOGIC_DROP_V, low_max_v=0.5)
    if function in HALL_FUNCTIONS:
        return LogicOutput(drive="NPN", drop_v=LOGIC_DROP_V, low_max_v=LOGIC_DROP_V)
    if function.startswith("encoder") and port_kind == "encoder":
        drive: Literal["push-pull", "NPN", "PNP"] = "push-pull"
        # A knob has contacts that close to 0 V, with resistors to its plus: that is its high.
        drives = drive_of(draft)
        is_knob = KNOB.match(name) is not None and drives == "PNP"
        if draft.kind in HAS_DRIVE and (drives == "NPN" or drives == "PNP") and not is_knob:
            drive = drives
        # Push-pull outputs swing to what the encoder is fed with, not to what it could be.
        lost_v = drop_v if drive == "push-pull" else 0.0
        if draft.kind not in HAS_DRIVE:
            lost_v = LOGIC_DROP_V
        return LogicOutput(drive=drive, drop_v=lost_v, low_max_v=0.5)
    return None


def _feed(draft: Draft, port_kind: PortKind, name: str) -> FeedIn | FeedOut | None:
    """What a plus takes, or gives."""
    numbers = draft.numbers
    low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
    nominal_v, current_a = numbers.get("nominal_v"), numbers.get("current_a")
    of_a_motor = draft.kind in MOTORS and port_kind != "bridge motor"
    if draft.kind == "supply":
        if not nominal_v or not current_a:
            return None
        return FeedOut(nominal_v=nominal_v, current_a=current_a)
    if nominal_v and not of_a_motor:
        # A load is expected to work within a tenth of what it is rated for.
        return FeedIn(
            v_min_v=nominal_v * 0.9, v_max_v=nominal_v * 1.1, current_a=current_a,
            polarity_free=port_kind == "bridge motor",
        )  # fmt: skip
    if high and not of_a_motor:
        return FeedIn(v_min_v=low or 0.0, v_max_v=high, current_a=current_a)
    window = window_printed(name)
    if (
        window is None
        and port_kind == "analogue sensor"
        and says(draft.title, name_words().potentiometer)
    ):
        return OF_A_POTENTIOMETER
    if window is None and of_a_motor:
        return None
    if window is None:
        return FeedIn(v_min_v=low or 0.0, current_a=current_a)
    taken_a = None if of_a_motor else current_a
    return FeedIn(
        v_min_v=window[0], v_max_v=window[1],
        inductive=port_kind == "load",
        current_a=HALL_A if of_a_motor and port_kind == "encoder" else taken_a,
    )  # fmt: skip
