"""What a meter shows between two pins of a machine as it is wired: volts, and ohms without power.

One direct-current network of every conductor, bridge, closed contact, whole fuse, winding and
resistor; sources where they are on, loads as the resistors that their rated current makes of them.
"""

from collections.abc import Iterator
from functools import cached_property

from vervain.electrical.feeds import nominal_v, zero_pin_of
from vervain.electrical.network import (
    Load,
    Network,
    Resistance,
    Solution,
    VoltageSource,
    solve,
)
from vervain.model.electrical import FeedIn, FeedOut, LogicInput
from vervain.model.elements import Bridge, Contact, Diode, Element, Fuse, Resistor, Winding
from vervain.model.machine import PinRef, ends_of
from vervain.queries.connectivity import fitted_bridges
from vervain.queries.machine_queries import Queries

# What copper and contacts have in this network, in ohms: their order is right, and a meter that
# shows a tenth of an ohm cannot tell more.
# What a winding has of which nobody gave it: a motor of some amperes.
WINDING_OHM = 1.5
COPPER_OHM, CONTACT_OHM, BRIDGE_OHM, SOURCE_OHM = 0.05, 0.02, 0.005, 0.05
# What is made for large currents has less: a metre of copper by its cross-section (19.5 ohm per km
# of 1 mm2, IEC 60228 class 5), a contact or a fuse what loses so many volts at its rating, a source
# such a part of its volts.
METRE_OHM_MM2, DROP_V, LOST_INSIDE = 0.0195, 0.1, 0.02
# The resistor through which a meter measures ohms, and above what it shows that nothing conducts.
METER_OHM, OPEN_OHM = 100.0, 2e7
NO_CURRENT_A = 1e-8


def _inside_ohm(feed: FeedOut) -> float:
    """What a source has inside where its part does not say."""
    return min(SOURCE_OHM, LOST_INSIDE * feed.nominal_v / feed.current_a)


def _at_rating_ohm(rating_a: float | None) -> float:
    """What a contact or a fuse has between its ends."""
    return min(CONTACT_OHM, DROP_V / rating_a) if rating_a else CONTACT_OHM


class MachineNetwork:
    """The network of a machine in one state: the contacts that are `closed`, the devices that give
    power, the fuses that have blown; and pairs of pins that touch.
    """

    def __init__(
        self,
        queries: Queries,
        closed: frozenset[tuple[PinRef, PinRef]],
        giving: frozenset[str],
        blown: frozenset[str] = frozenset(),
        touching: tuple[tuple[PinRef, PinRef], ...] = (),
    ) -> None:
        self.queries = queries
        self.closed, self.giving, self.blown = closed, giving, blown
        self.touching = touching
        pins = (
            PinRef(device=device, port=port.id, pin=pin.id)
            for device in queries.devices() if (part := queries.part_of(device)) is not None
            for port in part.ports for pin in port.pins
        )  # fmt: skip
        self.nodes = {pin: number for number, pin in enumerate(pins)}

    def volts(self, red: PinRef, black: PinRef, plugged: bool = True) -> float:
        """What a meter shows between two pins, in V; nothing where no source reaches both. Nothing
        takes power where nothing is `plugged`.
        """
        if red not in self.nodes or black not in self.nodes:
            # Planned, and not there: the probe touches nothing.
            return 0.0
        a, b = self.nodes[red], self.nodes[black]
        solution = self._powered if plugged else self._unloaded
        first, second = solution.voltage_v[a], solution.voltage_v[b]
        if first is None or second is None or solution.islands[a] != solution.islands[b]:
            return 0.0
        return first - second

    def ohms(self, a: PinRef, b: PinRef) -> float:
        """What a meter shows between two pins without power, in ohms; infinite where nothing
        conducts, and electronics do not.
        """
        here, there = self.nodes[a], self.nodes[b]
        test = VoltageSource(minus=there, plus=here, voltage_v=1.0, resistance_ohm=METER_OHM)
        network = Network(
            nodes=len(self.nodes), resistances=self._resistances, sources=(test,), loads=()
        )
        current_a = solve(network).given_a[0]
        if current_a < NO_CURRENT_A:
            return float("inf")
        ohm = 1.0 / current_a - METER_OHM
        return max(0.0, ohm) if ohm < OPEN_OHM else float("inf")

    @cached_property
    def _resistances(self) -> tuple[Resistance, ...]:
        found = [
            (a, b, self._copper_ohm(hookup.cable)) for hookup_id in self.queries.hookups()
            if (hookup := self.queries.hookup(hookup_id)) is not None
            for conductor in hookup.conductors
            for a, b in (ends_of(hookup, conductor),)
        ]  # fmt: skip
        found += [(a, b, BRIDGE_OHM) for a, b in self.touching]
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            for element in part.inside if part else ():
                found += self._inside(device, element)
        for ref in self._pins_of(LogicInput):
            pin = self.queries.pin(ref)
            entry = pin.electrical if pin is not None else None
            if isinstance(entry, LogicInput) and entry.shunt_ohm is not None:
                zero = zero_pin_of(self.queries, ref, entry.reference)
                found += [(ref, zero, entry.shunt_ohm)] if zero is not None else []
        return tuple(
            Resistance(a=self.nodes[a], b=self.nodes[b], resistance_ohm=ohm) for a, b, ohm in found
        )

    def _inside(self, device: str, element: Element) -> Iterator[tuple[PinRef, PinRef, float]]:
        pins = [PinRef(device=device, port=port, pin=pin) for port, pin in element.pins]
        match element:
            case Bridge():
                if element in fitted_bridges(self.queries, device):
                    yield from ((pins[0], other, BRIDGE_OHM) for other in pins[1:])
            case Contact():
                if (pins[0], pins[1]) in self.closed:
                    yield pins[0], pins[1], _at_rating_ohm(element.current_max_a)
            case Fuse():
                rating = self.queries.setting(device, "rating_a")
                if device not in self.blown:
                    rating_a = float(rating) if isinstance(rating, int | float) else None
                    yield pins[0], pins[1], _at_rating_ohm(rating_a)
            case Winding():
                yield pins[0], pins[1], element.resistance_ohm or WINDING_OHM
            case Resistor():
                yield pins[0], pins[1], element.resistance_ohm
            case Diode():
                pass

    def _pins_of(self, kind: type) -> Iterator[PinRef]:
        for device in self.queries.devices():
            part = self.queries.part_of(device)
            for port in part.ports if part else ():
                for pin in port.pins:
                    if isinstance(pin.electrical, kind):
                        yield PinRef(device=device, port=port.id, pin=pin.id)

    def _copper_ohm(self, cable_id: str | None) -> float:
        """What a conductor has, in a cable of which the cross-section is known or not."""
        cable = self.queries.cable(cable_id) if cable_id else None
        part = self.queries.cable_part(cable.part) if cable is not None else None
        return min(COPPER_OHM, METRE_OHM_MM2 / part.core_mm2) if part is not None else COPPER_OHM

    @cached_property
    def _demands(self) -> tuple[tuple[PinRef, PinRef, float], ...]:
        """What takes power: its plus, its minus, and its resistance at its rated current."""
        found = []
        for ref in self._pins_of(FeedIn):
            pin, back = self.queries.pin(ref), zero_pin_of(self.queries, ref, None)
            feed = pin.electrical if pin is not None else None
            if isinstance(feed, FeedIn) and back is not None and feed.current_a:
                volts = nominal_v(self.queries, ref)
                found.append((ref, back, volts / feed.current_a))
        return tuple(found)

    @cached_property
    def _powered(self) -> Solution:
        loads = tuple(
            Load(plus=self.nodes[plus], minus=self.nodes[minus], law="resistive", value=ohm)
            for plus, minus, ohm in self._demands
        )
        return self._solved(loads)

    @cached_property
    def _unloaded(self) -> Solution:
        return self._solved(())

    def _solved(self, loads: tuple[Load, ...]) -> Solution:
        resistances = self._resistances
        sources: list[VoltageSource] = []
        for ref in self._pins_of(FeedOut):
            pin, back = self.queries.pin(ref), zero_pin_of(self.queries, ref, None)
            if back is None or pin is None or ref.device not in self.giving:
                continue
            assert isinstance(pin.electrical, FeedOut)
            sources.append(VoltageSource(
                minus=self.nodes[back], plus=self.nodes[ref],
                voltage_v=pin.electrical.nominal_v,
                resistance_ohm=pin.electrical.resistance_ohm or _inside_ohm(pin.electrical),
            ))  # fmt: skip
        return solve(
            Network(
                nodes=len(self.nodes), resistances=resistances, sources=tuple(sources), loads=loads
            )
        )
