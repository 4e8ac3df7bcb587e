"""The limits of a described board's pins: by the circuits of its groups, by the numbers of the
part, by what is printed there.
"""

import re

from vervain.catalogue.board_draft import BoardDraft
from vervain.catalogue.circuits import circuit_named
from vervain.catalogue.pin_words import feeds_by_key, feeds_logic, feeds_outputs
from vervain.catalogue.port_groups import PortGroup, given_on_a_bus
from vervain.catalogue.printed_volts import agrees, volts_printed, window_printed
from vervain.model.electrical import Electrical, FeedIn, FeedOut
from vervain.model.part import DRIVE_KINDS, PartKind, PortKind

# What may be fed with mains; a supply takes what its loads make it take.
ON_MAINS: tuple[PartKind, ...] = (*DRIVE_KINDS, "controller")
# A feed with a rectifier behind it.
EITHER_WAY = re.compile(r"^V?AC\b|^V?AC\s?\d", re.IGNORECASE)
# The plus of a board's logic, where its outputs have a feed of their own.
FOR_LOGIC = re.compile(r"^\+?(?:VCC|VDD|VIO|VL|5V|3V3|3\.3V)$", re.I)
# Plugs to a controller that bring the power of a small board along.
FEEDING: tuple[PortKind, ...] = ("bus", "encoder")
# What the logic of a driver takes apart from its motor: 3.3 or 5 V.
OF_LOGIC = FeedIn(v_min_v=3.0, v_max_v=5.5, current_a=0.001)
# What feeds the inputs of a servo drive for mains, and what it takes: data sheets say 12 to 24 V,
# and about 5 mA for each of ten inputs.
FOR_INPUTS = re.compile(r"^COM\+$", re.I)
OF_INPUTS = FeedIn(v_min_v=10.8, v_max_v=26.4, current_a=0.05)
# What turns a drive on carries its electronics alone: data sheets say 0.05 to 0.2 A.
OF_KEY_A = 0.2
# What a drive for mains gives for contacts at its terminals: data sheets say 0.05 to 0.2 A.
OF_CONTACTS_A = 0.05
# The least that a potentiometer at a drive has: the makers' data sheets ask for 1 to 10 kohm.
LEAST_KNOB_OHM = 1000


def fed_by_signal(draft: BoardDraft) -> str | None:
    """The group by whose plug a board without a feed of its own is fed, by its controller."""
    return next(
        (
            group.key
            for group in draft.groups
            if group.role.end == "device" and group.role.kind in FEEDING
            and any(pin.function == "plus" for pin in group.pins)
        ),
        None,
    )  # fmt: skip


def own_feed(draft: BoardDraft) -> str | None:
    """The group by which a board is fed: the first, of a module that passes another feed on to its
    loads the one that is called as that of logic is.
    """
    if given_on_a_bus(draft.groups):
        return fed_by_signal(draft)
    feeds = [group for group in draft.groups if group.role.kind == "feed in"]
    of_logic = [
        group for group in feeds
        if any(pin.function == "plus" and FOR_LOGIC.match(pin.name) for pin in group.pins)
    ]  # fmt: skip
    chosen = of_logic if of_logic and _passes_on(draft) else feeds
    return chosen[0].key if chosen else None


def _own_reference(given_v: float) -> FeedOut:
    """What a drive gives a potentiometer, and reads its wiper against: no tolerance counts."""
    return FeedOut(nominal_v=given_v, current_a=given_v / LEAST_KNOB_OHM, tolerance=0.0)


def electrical_of(
    draft: BoardDraft, group: PortGroup, number: int, first_feed: str | None
) -> Electrical | None:
    """The limits of a pin: by its group's circuit, by the numbers of the part, else unknown."""
    function, kind = group.function(number), group.role.kind
    fed_here = kind == "feed in" or (group.key == first_feed and kind in FEEDING)
    if function in ("plus", "load+") and (fed_here or kind == "load"):
        numbers = draft.numbers
        low, high = numbers.get("v_min_v"), numbers.get("v_max_v")
        # A bridge passes its current on, and a converter takes what its loads make it take.
        name = group.pins[number].name
        if any(pin.name == name for pin in group.pins[:number]):
            # A terminal that is there twice is one, and takes its current once: 5V 5V GND GND.
            return None
        if high and not agrees(name, low or 0.0, high):
            # What is called by other volts comes from the board, or belongs to another feed.
            return None
        is_taken = draft.bridge_max_a is None and draft.kind != "supply"
        current_a = numbers.get("current_a") if is_taken else None
        if kind == "feed in" and group.key != first_feed and feeds_outputs(name):
            # What it takes is what the loads at the outputs take.
            return FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=0.0)
        if kind == "feed in" and group.key != first_feed and _passes_on(draft):
            # The numbers of the part are those of its logic.
            low, high = window_printed(name) or (None, None)
            return FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=0.0)
        if draft.kind == "stepper driver" and group.key != first_feed and feeds_logic(name):
            return OF_LOGIC
        if group.key != first_feed and feeds_by_key(name):
            return FeedIn(v_min_v=low or 0.0, v_max_v=high or None, current_a=OF_KEY_A)
        if group.key not in (first_feed, group.key if kind == "load" else first_feed):
            return None
        if not high:
            low, high = window_printed(name) or (low, high)
        return FeedIn(
            v_min_v=low or 0.0, v_max_v=high or None, current_a=current_a,
            polarity_free=EITHER_WAY.match(name) is not None,
        )  # fmt: skip
    if function == "plus" and kind in FEEDING and group.role.end == "device" and first_feed:
        # Beside the feed of its own it takes what is printed there: 5V of 5V GND TX RX.
        window = window_printed(group.pins[number].name)
        return FeedIn(v_min_v=window[0], v_max_v=window[1], current_a=0.0) if window else None
    if function == "line" and draft.kind in ON_MAINS and kind == "feed in":
        low, high = draft.numbers.get("v_min_v"), draft.numbers.get("v_max_v")
        taken_a = draft.numbers.get("current_a")
        return FeedIn(v_min_v=low or 0.0, v_max_v=high, current_a=taken_a) if high else None
    if function == "plus" and kind == "driver slot":
        # A module's first plus is that of its motors.
        first = next(n for n in range(len(group.pins)) if group.function(n) == "plus")
        high = draft.numbers.get("v_max_v")
        if group.role.end == "device" and number == first and high:
            return FeedIn(v_min_v=draft.numbers.get("v_min_v") or 0.0, v_max_v=high)
        return None
    if function == "plus" and kind == "header" and group.role.end == "device":
        return _foot_feed(draft, group.pins[number].name) if first_feed is None else None
    if function == "plus" and kind == "step and direction" and group.role.end == "device":
        # What feeds the logic of a module apart from its motor, or a drive's inputs.
        name = group.pins[number].name
        if draft.kind in ON_MAINS and FOR_INPUTS.match(name):
            return OF_INPUTS
        return OF_LOGIC if feeds_logic(name) else None
    if function == "plus" and kind == "drive control" and draft.kind in ON_MAINS:
        # What a drive for mains gives the contacts that start it, by its print.
        given_v = volts_printed(group.pins[number].name)
        return FeedOut(nominal_v=given_v, current_a=OF_CONTACTS_A) if given_v else None
    if function == "plus" and kind == "analogue command":
        # By its print: the feed of a potentiometer, which may have 1 kohm.
        given_v = volts_printed(group.pins[number].name)
        return _own_reference(given_v) if given_v else None
    if function == "plus" and kind == "feed out" and draft.kind != "controller":
        volts, gives_a = draft.numbers.get("nominal_v"), draft.numbers.get("gives_a")
        gives_a = gives_a or draft.numbers.get("current_a")
        return FeedOut(nominal_v=volts, current_a=gives_a) if volts and gives_a else None
    if function in ("zero", "pe", "stop A-", "stop B-") or function.startswith(
        ("phase", "motor", "sense", "measure", "excitation", "com", "nc", "no", "through", "none")
    ):
        return None
    what = "plus" if function == "plus" else group.role.signals
    if function == "alarm" and kind == "step and direction" and group.role.end == "host":
        # What a driver tells comes in there.
        what = "input"
    circuit = circuit_named(draft.circuits.get(f"{group.key}/{what}", ""))
    return circuit.electrical if circuit is not None else None


def _passes_on(draft: BoardDraft) -> bool:
    """Whether a module switches by transistors what a second feed gives its loads, or a converter
    gives it on with its bus.
    """
    if given_on_a_bus(draft.groups):
        return True
    kinds = [group.role.kind for group in draft.groups]
    return (
        draft.kind == "relay module" and "switched output" in kinds and kinds.count("feed in") > 1
    )


def _foot_feed(draft: BoardDraft, name: str) -> FeedIn | None:
    """What a shield without a feed of its own takes at a plus of its foot: that of the voltage
    which its numbers allow.
    """
    low_v, high_v = draft.numbers.get("v_min_v") or 0.0, draft.numbers.get("v_max_v")
    if not high_v or not agrees(name, low_v, high_v):
        return None
    return FeedIn(v_min_v=low_v, v_max_v=high_v, current_a=draft.numbers.get("current_a"))
