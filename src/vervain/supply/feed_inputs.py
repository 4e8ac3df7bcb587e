"""What has to be fed: every input of a device that takes power from elsewhere, and every piece of
wiring with loads on it that no source reaches.
"""

import math
from typing import Literal

from msgspec.structs import replace

from vervain.catalogue.drafts import LOGIC_MOST_V
from vervain.electrical.feeds import (
    RETURN_FUNCTIONS,
    Consumer,
    consumers_of,
    feed_pins,
    is_supply_return,
    main_feed_pin,
    sources_of,
    zero_pin_of,
)
from vervain.electrical.unmet_needs import is_started, natures
from vervain.model.base import Record
from vervain.model.electrical import CurrentType, FeedIn
from vervain.model.elements import Contact, Fuse
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import DRIVE_KINDS, PortKind
from vervain.ports.fit_issues import LEAST_LOAD_A
from vervain.ports.hand_switched import fed_all_the_time, switch_of_load
from vervain.ports.motors_between_relays import throws_of_motor
from vervain.queries.connectivity import occupants, steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.what_goes import goes_at_stop
from vervain.supply.loads import demands_in
from vervain.supply.states import LASTING_STATES

# What moves the machine: what hangs on such an input goes off with the stop.
MOVING_KINDS = frozenset({"stepper driver", "motor bridge", "servo", "stepper motor", *DRIVE_KINDS})
# A strip with nothing on it takes any voltage that is no mains.
MOST_V = 120.0
STRIPS = frozenset({"terminal strip"})
# What power is switched by; the contact of a limit switch is a signal's.
SWITCHING = frozenset({"relay module", "contactor", "solid-state relay", "emergency stop"})
# Plugs that are worked or read once they are fed, by their host or from elsewhere.
WITH_SIGNALS: frozenset[PortKind] = frozenset(
    {
        "bus",
        "sensor",
        "analogue sensor",
        "encoder",
        "servo",
        "radio",
        "transducer",
        "step and direction",
    }
)
# Of what a drive takes, what its electronics take at the most that have a feed of their own.
ELECTRONICS = 0.1
Purpose = Literal["motion", "control"]


class FeedInput(Record, frozen=True, kw_only=True):
    """Where power is to come in: its plus, and its return unless that is there already. The window
    of everything behind it, the most that this takes for long in A, and what it is for.
    """

    plus: PinRef
    minus: PinRef | None
    v_min_v: float
    v_max_v: float
    nominal_v: float | None
    current_a: float
    purpose: Purpose
    feeds: tuple[str, ...] = ()
    current_type: CurrentType = "DC"

    @property
    def is_known(self) -> bool:
        """Whether it is known how many volts it takes."""
        return not math.isinf(self.v_max_v)

    @property
    def middle_v(self) -> float:
        """The middle of its window, in V."""
        return (self.v_min_v + self.v_max_v) / 2

    @property
    def words(self) -> str:
        """The input as it is written: device and port."""
        return f"{self.plus.device} {self.plus.port}"


def is_feed_port(queries: Queries, plus: PinRef) -> bool:
    """Whether a pin belongs to a port that is made to be fed from elsewhere."""
    port = queries.port(plus.port_ref)
    return port is not None and port.kind == "feed in" and port.end == "device"


@query
def is_wanted(queries: Queries, plus: PinRef) -> bool:
    """Whether a consumer's pin has to be fed: a feed port that is not optional, or whose device
    feeds on from it; anything else that is wired, at its signals too where these bring no plus, or
    that a switch of its own is for, or nothing.
    """
    port, minus = queries.port(plus.port_ref), zero_pin_of(queries, plus, None)
    used = any(ref is not None and steps_from(queries, ref) for ref in (plus, minus))
    if not is_feed_port(queries, plus):
        is_told = port is not None and port.kind in WITH_SIGNALS and port.end == "device"
        by_hand = switch_of_load(queries, plus.device) is not None
        is_read = is_told and is_started(queries, plus.port_ref)
        is_on = fed_all_the_time(queries, plus.port_ref)
        return bool(steps_from(queries, plus)) or is_read or by_hand or is_on
    passed_on = any(
        steps_from(queries, ref) for ref in queries.rail(plus) if ref.port_ref != plus.port_ref
    )
    return used or passed_on or (port is not None and not port.optional)


def purpose_of(queries: Queries, device: str) -> Purpose:
    """What a device takes power for."""
    part = queries.part_of(device)
    if part is None:
        return "control"
    drives = part.kind == "brushed motor" and queries.axis_of(device) is not None
    return "motion" if part.kind in MOVING_KINDS or part.has_drivers or drives else "control"


def _purpose_of_all(queries: Queries, pins: frozenset[PinRef]) -> Purpose:
    """What is fed together takes power for. What must go with the stop moves, but for what a
    controller works that has to stay; what gives to a controller's outputs alone has not.
    """
    beside = {
        pin for pin in pins
        if (port := queries.port(pin.port_ref)) is not None and port.kind == "step and direction"
    }  # fmt: skip
    if beside and beside >= pins:
        # The logic of drivers is fed as the board that commands them.
        return "control"
    if all(_is_of_electronics(queries, pin) for pin in pins):
        return "control"
    devices = frozenset(
        pin.device for pin in pins
        if purpose_of(queries, pin.device) == "motion"
        or main_feed_pin(queries, pin.device) in (pin, None)
    )  # fmt: skip
    if any(purpose_of(queries, device) == "motion" for device in devices):
        return "motion"
    parts = [queries.part_of(device) for device in devices]
    if any(part is not None and part.kind == "controller" for part in parts):
        return "control"
    return "motion" if any(goes_at_stop(queries, device) for device in devices) else "control"


def _is_of_electronics(queries: Queries, pin: PinRef) -> bool:
    """Whether a feed of what moves takes next to nothing beside the main one: by its key. Where the
    main one's current is not given, what takes less than a load does, at the volts of logic.
    """
    main = main_feed_pin(queries, pin.device)
    found = [queries.pin(ref) for ref in (pin, main) if ref is not None]
    feeds = [at.electrical for at in found if at is not None and isinstance(at.electrical, FeedIn)]
    if main in (pin, None) or len(feeds) < 2 or not feeds[0].current_a:
        return False
    if not feeds[1].current_a:
        is_of_logic = (feeds[0].v_max_v or math.inf) <= LOGIC_MOST_V < (feeds[1].v_max_v or 0.0)
        return is_of_logic and feeds[0].current_a < LEAST_LOAD_A
    return feeds[0].current_a <= ELECTRONICS * feeds[1].current_a


def load_a(queries: Queries, consumers: tuple[Consumer, ...]) -> float:
    """What consumers take together for long at the most, in A; their ratings where nothing tells
    more.
    """
    behind = {taker.pin: taker.feed for taker in consumers}
    devices = dict.fromkeys(ref.device for ref in behind)
    sums = [
        sum(
            demand.current_a
            for device in devices
            for demand in demands_in(queries, device, state)
            if demand.plus in behind
        )
        for state in LASTING_STATES
    ]
    return max(sums) or sum(feed.current_a or 0.0 for feed in behind.values())


@query
def unfed_inputs(queries: Queries) -> tuple[FeedInput, ...]:
    """What has to be fed and is not, in the machine's order: one for each piece of wiring, however
    many loads hang on it.
    """
    found: dict[PinRef, FeedInput] = {}
    for device in queries.devices():
        for plus in feed_pins(queries, device):
            rail = queries.rail(plus)
            wanted = is_wanted(queries, plus) and not sources_of(queries, plus)
            if wanted and rail[0] not in found and not is_given(queries, plus):
                found[rail[0]] = _input(queries, plus)
    return tuple(found.values())


def is_given(queries: Queries, plus: PinRef) -> bool:
    """Whether an output gives plus there: a load on a switched output, a sensor at its input, a
    motor on its bridge. It is no input of the wiring.
    """
    given = {"logic output", "bridge"}
    return any(given & natures(queries, ref) for ref in queries.net(plus))


def _input(queries: Queries, plus: PinRef) -> FeedInput:
    """The input of the wiring that a consumer's pin belongs to."""
    found = input_at(queries, plus)
    if throws := throws_of_motor(queries, plus):
        return replace(found, plus=throws[0], minus=throws[1])
    entry = entry_of(queries, plus)
    return replace(found, plus=entry, minus=_return_wanted(queries, entry, plus))


def input_at(queries: Queries, plus: PinRef) -> FeedInput:
    """A pin as an input: what is behind it, the window of all that, and what it takes together."""
    pin = queries.pin(plus)
    behind = consumers_of(queries, plus)
    nominal_v = pin.electrical.nominal_v if pin and isinstance(pin.electrical, FeedIn) else None
    types = [taker.feed.current_type for taker in behind] or ["DC"]
    windows = [(taker.feed.v_min_v, taker.feed.most_v) for taker in behind]
    if windows and all(math.isinf(most_v) for _, most_v in windows):
        windows += _windows_of_loads(queries, plus)
    return FeedInput(
        plus=plus,
        minus=zero_pin_of(queries, plus, None),
        v_min_v=max((least_v for least_v, _ in windows), default=0.0),
        v_max_v=min((most_v for _, most_v in windows), default=MOST_V),
        nominal_v=nominal_v,
        current_a=load_a(queries, behind),
        purpose=_purpose_of_all(queries, frozenset(taker.pin for taker in behind)),
        feeds=tuple(dict.fromkeys(taker.pin.device for taker in behind)),
        current_type=next((t for t in types if t != "either"), "either"),
    )


def _windows_of_loads(queries: Queries, plus: PinRef) -> list[tuple[float, float]]:
    """What the loads at the outputs of a module take, where its feed is passed on to them."""
    part = queries.part_of(plus.device)
    if part is None or part.kind != "relay module" or not is_feed_port(queries, plus):
        return []
    outputs = [port.id for port in part.ports if port.kind == "switched output"]
    refs = (PortRef(device=plus.device, port=name) for name in outputs)
    loads = (load for ref in refs for load in occupants(queries, ref))
    feeds = (
        pin.electrical for load in loads if (port := queries.port(load)) is not None
        for pin in port.pins
    )  # fmt: skip
    return [(feed.v_min_v, feed.most_v) for feed in feeds if isinstance(feed, FeedIn)]


def entry_of(queries: Queries, plus: PinRef) -> PinRef:
    """Where a feed is brought to a piece of wiring: a free terminal of a strip on it, the open end
    of a fuse or contact, a feed port that nothing comes to, a strip's terminal that is in use, else
    the pin itself.
    """
    return min(queries.rail(plus), key=lambda ref: _order_of_entry(queries, ref, plus))


def _order_of_entry(queries: Queries, ref: PinRef, plus: PinRef) -> int:
    part = queries.part_of(ref.device)
    taken, is_strip = bool(steps_from(queries, ref)), part is not None and part.kind in STRIPS
    ends = {
        end
        for element in (part.inside if part is not None else ())
        if isinstance(element, Contact | Fuse)
        for end in element.pins
    }
    if is_strip:
        return 4 if taken else 0
    if not taken and (ref.port, ref.pin) in ends and _goes_on(queries, ref):
        kind, port = part.kind if part is not None else "", queries.port(ref.port_ref)
        if kind == "fuse":
            return 1
        if kind in SWITCHING or (port is not None and port.kind == "relay contact"):
            return 2
    if not taken and is_feed_port(queries, ref) and isinstance(_electrical(queries, ref), FeedIn):
        return 3
    return 5 if ref == plus else 6


def _electrical(queries: Queries, ref: PinRef) -> object:
    pin = queries.pin(ref)
    return pin.electrical if pin is not None else None


def _goes_on(queries: Queries, ref: PinRef) -> bool:
    """Whether the other end of the contact or fuse that a pin is an end of is joined on."""
    part, here = queries.part_of(ref.device), (ref.port, ref.pin)
    return any(
        steps_from(queries, PinRef(device=ref.device, port=port, pin=pin))
        for element in (part.inside if part is not None else ())
        if isinstance(element, Contact | Fuse) and here in element.pins
        for port, pin in element.pins
        if (port, pin) != here
    )


def _return_wanted(queries: Queries, entry: PinRef, plus: PinRef) -> PinRef | None:
    """The return pin to be joined along with an entry: beside it at a feed port or strip, else that
    of a feed port behind it, else of the load. None where it reaches the return of a supply.
    """
    behind = [taker.pin for taker in consumers_of(queries, plus)]
    ports = [ref for ref in behind if is_feed_port(queries, ref)]
    part = queries.part_of(entry.device)
    minus = None
    if is_feed_port(queries, entry) or (part is not None and part.kind in STRIPS):
        port = queries.port(entry.port_ref)
        pins = [pin.id for pin in (port.pins if port else ()) if pin.function in RETURN_FUNCTIONS]
        minus = PinRef(device=entry.device, port=entry.port, pin=pins[0]) if pins else None
    minus = minus or zero_pin_of(queries, (ports or [plus])[0], None)
    own = {ref.device for ref in behind}
    backs = (ref for ref in queries.rail(minus or plus) if ref.device not in own)
    if minus is None or lacks_own_return(queries, entry, minus):
        return minus
    return None if any(is_supply_return(queries, ref) for ref in backs) else minus


def lacks_own_return(queries: Queries, plus: PinRef, minus: PinRef) -> bool:
    """Whether a feed port has nothing at its 0 V: what its device has at other plugs is no way back
    for what it takes at this one.
    """
    return is_feed_port(queries, plus) and not steps_from(queries, minus)
