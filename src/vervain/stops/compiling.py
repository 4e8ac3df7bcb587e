"""A machine compiled into the circuit of its stops: its nodes, wires, contacts, coils, sources."""

from collections.abc import Iterator
from itertools import pairwise
from typing import Literal

from vervain.electrical.feeds import (
    Source,
    bridge_feed_pin,
    lowest_plus,
    main_feed_pin,
    sources_of,
    zero_pin_of,
)
from vervain.electrical.mains import has_mains
from vervain.electrical.series import return_of_string
from vervain.electrical.turned_motors import contacts_left_at_rest
from vervain.model.electrical import FeedIn, FeedOut, LogicInput, LogicOutput
from vervain.model.elements import HELD_BY, Bridge, Contact, Diode, Element, Fuse, Resistor
from vervain.model.machine import PinRef, PortRef, ends_of
from vervain.model.part import DRIVE_KINDS, SEATED, Part, PartKind, Port
from vervain.queries.connectivity import fitted_bridges
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.circuit import (
    COIL_PORTS,
    Circuit,
    CoilTimes,
    ContactAt,
    FuseAt,
    InputAt,
    LoadAt,
    MonitorAt,
    OutputAt,
    SourceAt,
    Worker,
    port_of_worker,
)
from vervain.stops.contacts import is_in_stop_chain
from vervain.stops.mains import mains_loads
from vervain.stops.start_buttons import with_starts
from vervain.stops.trimming import without_idle
from vervain.stops.what_goes import goes_at_stop, stop_times
from vervain.text.name_words import name_words, says

# A resistor of less than this passes a coil's current as a wire does.
SMALL_OHM = 20.0
# What may have a feed of its logic beside that which it drives with: a key, an encoder.
WITH_LOGIC: tuple[PartKind, ...] = ("controller", "stepper driver", "motor bridge", *DRIVE_KINDS)
# What a controller switches by: outputs, and the pins of headers.
OUTPUT_PORTS = ("switched output", *SEATED)
# What only tells how a device stands, and moves nothing with the power that it has.
TELLING = ("encoder", "sensor", "analogue sensor", "transducer")
# Where the inputs of a drive that takes mains are fed, and nothing that moves.
BESIDE_SIGNALS = "step and direction"
# What works the contacts of a stop device.
STOP_PORTS = ("stop contacts",)


def is_stop_device(part: Part) -> bool:
    """Whether a part has a stop button: an emergency stop, or whatever has stop contacts, or
    contacts that a remote works, or a light curtain.
    """
    has_ports = any(port.kind in STOP_PORTS for port in part.ports)
    return part.kind == "emergency stop" or has_ports or _holds(part)


def _holds(part: Part) -> bool:
    """Whether a part holds contacts while it has power: a receiver, a light curtain."""
    return any(isinstance(e, Contact) and e.worked_by in HELD_BY for e in part.inside)


@query
def circuit_of(queries: Queries) -> Circuit:
    """The circuit of a machine."""
    made = _Compiler(queries)
    return made.whole()


@query
def stop_devices(queries: Queries) -> tuple[str, ...]:
    """The devices of a machine with a stop button."""
    return circuit_of(queries).stops


@query
def demanded_devices(queries: Queries) -> tuple[str, ...]:
    """The devices that can be asked to stop a machine: stops and doors."""
    return circuit_of(queries).demanded


class _Compiler:
    def __init__(self, queries: Queries) -> None:
        self.queries = queries
        self.made = Circuit()
        self.workers = frozenset(_workers(queries))

    def whole(self) -> Circuit:
        made, queries = self.made, self.queries
        for hookup_id in queries.hookups():
            hookup = queries.hookup(hookup_id)
            for row, conductor in enumerate(hookup.conductors if hookup else ()):
                assert hookup is not None
                a, b = ends_of(hookup, conductor)
                made.wires[hookup_id, row] = self.node(a), self.node(b)
        stops = []
        for device in queries.devices():
            part = queries.part_of(device)
            if part is None:
                continue
            at_rest = contacts_left_at_rest(queries, device)
            for place, element in enumerate(part.inside):
                self._element(device, part, element, place in at_rest)
            for port in part.ports:
                self._port(device, part, port)
            if is_stop_device(part):
                stops.append(device)
        made.stops = tuple(stops)
        feeds: dict[str, int] = {}
        for number, load in enumerate(made.loads):
            main = main_feed_pin(queries, load.ref.device)
            if load.kind == "feed" and main is not None and main.port_ref == load.ref:
                feeds[load.ref.device] = number
        made.sources = [s._replace(feed=feeds.get(s.device)) for s in made.sources]
        self._mains()
        made.monitors = list(self._monitors(feeds))
        made.contacts = with_starts(made)
        self._guards()
        made.must_go = tuple(self._must_go())
        made.control = self._control()
        return without_idle(made)

    def _guards(self) -> None:
        """The doors: by a contact that is closed while they are shut, or by one in the line of the
        stops that opens by force; of such a one the other contacts close when it is opened.
        """
        made = self.made
        joined = {node for ends in made.wires.values() for node in ends}
        wired = [c for c in made.contacts if {c.a, c.b} <= joined]
        by_force = {
            contact.device
            for contact in wired
            if contact.worked_by == "plunger" and contact.is_nc
            and is_in_stop_chain(self.queries, *contact.pins)
        }  # fmt: skip
        made.contacts = [
            contact._replace(worked_by="door")
            if contact.is_of_guard and contact.device in by_force else contact
            for contact in made.contacts
        ]  # fmt: skip
        made.guards = tuple(dict.fromkeys(
            contact.device for contact in wired
            if contact.is_of_guard or contact.device in by_force
        ))  # fmt: skip

    def node(self, pin: PinRef) -> int:
        """The number of a pin's node."""
        return self.made.node_of.setdefault(pin, len(self.made.node_of))

    def _element(self, device: str, part: Part, element: Element, is_at_rest: bool) -> None:
        made = self.made
        pins = tuple(PinRef(device=device, port=port, pin=pin) for port, pin in element.pins)
        nodes = [self.node(pin) for pin in pins]
        if isinstance(element, Bridge):
            if element not in fitted_bridges(self.queries, device):
                return
            pairs = list(pairwise(nodes))
            if part.kind == "jumper" or element.when is not None:
                made.jumpers += [(a, b, device) for a, b in pairs]
            else:
                made.joints += pairs
        elif isinstance(element, Contact):
            worker = part.port(element.worked_by)
            is_worked = worker is not None and not is_at_rest
            coil = _worker(device, worker, element) if worker and is_worked else None
            if element.worked_by in HELD_BY:
                # Only while the device is fed.
                feed = main_feed_pin(self.queries, device)
                coil = feed.port_ref if feed is not None else None
            # What sits on an axis is worked by the axis.
            worked_by = "axis" if self.queries.axis_of(device) else element.worked_by
            is_nc = element.rest == "NC"
            if element.worked_by == "program":
                # The worst case: the program has its relay on and leaves it on.
                is_nc = not is_nc
            if coil is not None:
                self._times(coil, part.kind, element)
            made.contacts.append(
                ContactAt(nodes[0], nodes[1], device, (pins[0], pins[1]), is_nc, coil,
                          worked_by, is_let_go=says(part.title, name_words().let_go))
            )  # fmt: skip
        elif isinstance(element, Fuse):
            rating = self.queries.setting(device, "rating_a")
            rating_a = float(rating) if isinstance(rating, int | float) else None
            made.fuses.append(FuseAt(nodes[0], nodes[1], device, rating_a))
        elif isinstance(element, Diode):
            made.diodes.append((nodes[0], nodes[1]))
        elif isinstance(element, Resistor) and element.resistance_ohm < SMALL_OHM:
            made.joints.append((nodes[0], nodes[1]))

    def _times(self, coil: Worker, kind: str, contact: Contact) -> None:
        """How long a contact takes to follow its coil; the slowest of a coil counts."""
        usual = stop_times()
        operate_s, release_s = usual.get(kind, usual["other"])
        known = self.made.times.get(coil, CoilTimes(0.0, 0.0))
        self.made.times[coil] = CoilTimes(
            max(known.operate_s, contact.operate_s or operate_s),
            max(known.release_s, contact.release_s or release_s),
        )

    def _port(self, device: str, part: Part, port: Port) -> None:
        made, queries = self.made, self.queries
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            match pin.electrical:
                case FeedOut() as feed:
                    back = return_of_string(queries, Source(pin=at, feed=feed))
                    if back is not None:
                        made.sources.append(
                            SourceAt(self.node(at), self.node(back), device, port.id, None)
                        )
                case FeedIn() if pin.function == "line":
                    # What takes mains comes back by the neutral, not by a 0 V (see `_mains`).
                    pass
                case FeedIn(polarity_free=free):
                    back = self._return_of(at, port)
                    if back is not None and port.end == "device":
                        ref = PortRef(device=device, port=port.id)
                        works = port.kind in COIL_PORTS and ref in self.workers
                        works = works or self._feeds_what_holds(device, part, port)
                        kind: Literal["coil", "feed"] = "coil" if works else "feed"
                        made.loads.append(
                            LoadAt(self.node(at), self.node(back), ref, kind, free or works)
                        )
                case LogicInput() as entry if port.kind in COIL_PORTS:
                    self._channel(at, PortRef(device=device, port=port.id), entry)
                case LogicInput() as entry if at in self.workers:
                    self._channel(at, at, entry)
                case LogicInput() as entry:
                    self._input(at, port, entry)
                case LogicOutput() as output if port.kind in OUTPUT_PORTS:
                    self._output(at, port, output)
                case _:
                    pass
            if pin.function == "pe" and made.earth is None and port.end != "device":
                made.earth = self.node(at)

    def _return_of(self, at: PinRef, port: Port) -> PinRef | None:
        """The pin by which the current of a feed comes back: a motor's other lead, else a 0 V."""
        other = next((pin for pin in port.pins if pin.function == "motor-"), None)
        if other is not None:
            return PinRef(device=at.device, port=at.port, pin=other.id)
        return zero_pin_of(self.queries, at, None)

    def _feeds_what_holds(self, device: str, part: Part, port: Port) -> bool:
        """Whether a port feeds a receiver, or a light curtain, that holds contacts."""
        feed = main_feed_pin(self.queries, device)
        return _holds(part) and feed is not None and feed.port == port.id

    def _mains(self) -> None:
        """What takes mains, as loads of the place where mains comes in: a source that takes it is
        there only while a contact lets it through. Whatever is not joined to such a place yet
        counts as on.
        """
        made = self.made
        entries: dict[tuple[PinRef, PinRef], SourceAt] = {}
        feeds: dict[str, int] = {}
        for load in mains_loads(self.queries, self.workers):
            for root, back in load.entries:
                entries[root, back] = SourceAt(
                    self.node(root), self.node(back), root.device, root.port, None
                )
            feeds[load.at.device] = len(made.loads)
            kind: Literal["coil", "feed"] = "coil" if load.works else "feed"
            ends = self.node(load.line), self.node(load.back)
            made.loads.append(LoadAt(*ends, load.at, kind, load.works or load.is_three_phase))
        made.sources = [s._replace(feed=feeds.get(s.device, s.feed)) for s in made.sources]
        made.sources += entries.values()

    def _monitors(self, feeds: dict[str, int]) -> Iterator[MonitorAt]:
        """The safety relays: devices with contacts that a stop input of theirs works."""
        inputs: dict[PortRef, list[int]] = {}
        for number, entry in enumerate(self.made.inputs):
            inputs.setdefault(entry.pin.port_ref, []).append(number)
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            starts = {
                element.worked_by: element.started_by
                for element in (part.inside if part else ())
                if isinstance(element, Contact)
            }
            for port in part.ports if part else ():
                if port.kind == "stop input" and port.id in starts:
                    ref = PortRef(device=device, port=port.id)
                    button = starts[port.id]
                    start = inputs.get(PortRef(device=device, port=button), []) if button else []
                    yield MonitorAt(
                        ref, tuple(inputs.get(ref, ())), start[0] if start else None,
                        feeds.get(device),
                    )  # fmt: skip

    def _input(self, at: PinRef, port: Port, entry: LogicInput) -> None:
        against: PinRef | None = None
        is_stop = at.port == port.id and port.kind == "stop input"
        if is_stop:
            mate = {"stop A+": "stop A-", "stop B+": "stop B-"}
            own = port.pin(at.pin)
            wanted = mate.get(own.function if own else "")
            pin = next((p for p in port.pins if p.function == wanted), None)
            against = PinRef(device=at.device, port=port.id, pin=pin.id) if pin else None
        if against is None and (entry.opto is not None or (is_stop and not entry.pull_up_ohm)):
            # What takes current has it back by a 0 V of its own.
            against = zero_pin_of(self.queries, at, entry.reference)
        reads: Literal["high", "low", "open"] = "high" if entry.pull_up_ohm else "open"
        node = self.node(against) if against is not None else None
        self.made.inputs.append(InputAt(self.node(at), node, at, reads, is_stop))

    def _channel(self, at: PinRef, worker: Worker, entry: LogicInput) -> None:
        """A channel of a module that a logic level switches, fed by the module itself."""
        feed, zero = main_feed_pin(self.queries, at.device), zero_pin_of(self.queries, at, None)
        if worker not in self.workers or feed is None or zero is None:
            return
        plus, minus = (feed, at) if entry.active != "high" else (at, zero)
        self.made.loads.append(LoadAt(self.node(plus), self.node(minus), worker, "coil", False))

    def _output(self, at: PinRef, port: Port, output: LogicOutput) -> None:
        rail = self._rail_of(at, port, output)
        if rail is not None:
            ref = PortRef(device=at.device, port=at.port)
            self.made.outputs.append(OutputAt(self.node(at), self.node(rail), ref))
            return
        back = zero_pin_of(self.queries, at, output.reference)
        if output.drive == "push-pull" and back is not None and has_mains(self.queries, at.device):
            # It gives by itself while its device has mains; the worst case is on.
            self.made.sources.append(
                SourceAt(self.node(at), self.node(back), at.device, at.port, None)
            )

    def _rail_of(self, at: PinRef, port: Port, output: LogicOutput) -> PinRef | None:
        """What an output joins its pin to while it is on. One that drives both ways is on at the
        level that the channel behind it waits for; without a plus beside it, it gives that of its
        board's lowest supply.
        """
        sinks = output.drive == "NPN"
        if output.drive == "push-pull":
            sinks = any(
                (found := self.queries.pin(pin)) is not None
                and isinstance(entry := found.electrical, LogicInput)
                and entry.active != "high" and {pin, pin.port_ref} & self.workers
                for pin in self.queries.net(at)
            )  # fmt: skip
        if sinks:
            return zero_pin_of(self.queries, at, output.reference)
        plus = next((p for p in port.pins if p.function == "plus"), None)
        if plus is None and output.drive == "PNP":
            # A high-side switch gives what its board is fed with.
            return main_feed_pin(self.queries, at.device)
        if plus is not None:
            return PinRef(device=at.device, port=at.port, pin=plus.id)
        is_at_work = port.kind in SEATED or self._feeds_a_load(at)
        return lowest_plus(self.queries, at.device) if is_at_work else None

    def _feeds_a_load(self, at: PinRef) -> bool:
        """Whether the plus of a load lies at an output."""
        pins = (self.queries.pin(ref) for ref in self.queries.net(at))
        return any(pin is not None and pin.function == "load+" for pin in pins)

    def _control(self) -> int:
        """The source on the rail of a stop contact; else of a coil."""
        made, queries = self.made, self.queries
        pins = [c.pins[0] for c in made.contacts if c.device in made.stops and c.is_of_button]
        pins += [PinRef(device=ref.device, port=ref.port, pin=pin.id)
                 for load in made.loads if load.kind == "coil"
                 for ref in (port_of_worker(load.ref),) if (port := queries.port(ref)) is not None
                 for pin in port.pins]  # fmt: skip
        for pin in pins:
            for source in sources_of(queries, pin):
                for number, known in enumerate(made.sources):
                    if (known.device, known.port) == (source.pin.device, source.pin.port):
                        return number
        return -1

    def _must_go(self) -> list[int]:
        """The feeds that must be dead after a stop: of what drives the one that it drives with."""
        queries, found = self.queries, []
        for number, load in enumerate(self.made.loads):
            device, part = load.ref.device, queries.part_of(load.ref.device)
            if part is None or load.kind == "coil" or not goes_at_stop(queries, device):
                continue
            port = part.port(load.ref.port)
            if port is not None and port.kind in TELLING:
                continue
            drives = bridge_feed_pin(queries, device) or main_feed_pin(queries, device)
            if part.kind in WITH_LOGIC and drives is not None:
                if drives.port_ref == load.ref:
                    found.append(number)
            elif port is None or port.kind != BESIDE_SIGNALS:
                found.append(number)
        return found


def _workers(queries: Queries) -> Iterator[Worker]:
    """Everything in a machine that works a contact."""
    for device in queries.devices():
        part = queries.part_of(device)
        for element in part.inside if part else ():
            if isinstance(element, Contact) and part is not None:
                port = part.port(element.worked_by)
                worker = _worker(device, port, element) if port is not None else None
                if worker is not None:
                    yield worker


def _worker(device: str, port: Port, contact: Contact) -> Worker | None:
    """What works a contact: a port, or one pin of a header; None where nobody said which."""
    if contact.worked_pin is not None:
        return PinRef(device=device, port=port.id, pin=contact.worked_pin)
    return PortRef(device=device, port=port.id) if port.kind not in SEATED else None
