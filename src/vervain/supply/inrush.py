"""What flows in the instant of switching on: capacitors that charge through a fuse."""

import tomllib

from vervain.data import data_text, table_reader
from vervain.electrical.feeds import PLUS_FUNCTIONS, sources_of
from vervain.model.base import Record
from vervain.model.electrical import FeedIn
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.results import supply_loads
from vervain.supply.voltage_profile import feed_path

# A fuse ages where more than this part of what melts it passes at each switching on.
MAX_MELTING_FRACTION = 0.5
LEAST_LOOP_OHM = 0.01
# What a regulated supply gives above its rating before it limits.
CURRENT_LIMIT_FACTOR = 1.1


class Inrush(Record, frozen=True, kw_only=True):
    """The capacitance behind a fuse, the voltage, the resistance of the way, and what follows:
    the first peak in A, how long it charges in s, and the energy that the fuse feels in A2s. A
    supply that limits gives no more than `limit_a`, of which `load_a` goes elsewhere.
    """

    capacitance_f: float
    voltage_v: float
    loop_ohm: float
    limit_a: float | None = None
    load_a: float = 0.0

    @property
    def peak_a(self) -> float:
        """V / R, or what the supply limits at."""
        free = self.voltage_v / self.loop_ohm
        return free if self.limit_a is None else min(free, self.limit_a)

    @property
    def charge_s(self) -> float:
        """C V / (I_limit - I_load) where the supply limits, else three times R C."""
        if self.limit_a is None or self.peak_a < self.limit_a:
            return 3 * self.loop_ohm * self.capacitance_f
        left = self.limit_a - self.load_a
        return self.capacitance_f * self.voltage_v / left if left > 0 else float("inf")

    @property
    def energy_a2s(self) -> float:
        """I2t: C V^2 / 2R through a resistance alone, the limit squared times the charge time where
        the supply limits.
        """
        if self.limit_a is None or self.peak_a < self.limit_a:
            return self.capacitance_f * self.voltage_v**2 / (2 * self.loop_ohm)
        return self.peak_a**2 * self.charge_s


@table_reader
def melting_table() -> tuple[tuple[float, float], ...]:
    """Rows of (rating in A, melting I2t in A2s), smallest first; data/tables/fuses.toml."""
    rows = tomllib.loads(data_text("tables/fuses.toml"))["melting"]
    return tuple(sorted((float(rating), float(energy)) for rating, energy in rows))


def melting_a2s(rating_a: float) -> float | None:
    """About what melts a blade fuse in an instant; None below the smallest row."""
    found = [energy for rating, energy in melting_table() if rating <= rating_a * 1.001]
    return found[-1] if found else None


@query
def inrush_of(queries: Queries, behind: tuple[PinRef, ...]) -> Inrush | None:
    """The inrush through a fuse into what lies behind it; None where nothing there charges. The
    way is the one to the largest capacitor: in reality the others have their own beside it.
    """
    charging: list[tuple[float, PinRef]] = []
    for ref in behind:
        pin = queries.pin(ref)
        feed = pin.electrical if pin else None
        if pin is None or not isinstance(feed, FeedIn) or pin.function not in PLUS_FUNCTIONS:
            continue
        if feed.capacitance_f:
            charging.append((feed.capacitance_f, ref))
    if not charging:
        return None
    largest = max(charging, key=lambda item: item[0])[1]
    path = feed_path(queries, "start", largest)
    sources = sources_of(queries, largest)
    if path is None or not sources:
        return None
    feed_out = sources[0].feed
    resistance_ohm = sum(flow.link.resistance_ohm for flow in path.flows) + (
        feed_out.resistance_ohm or 0.0
    )
    given = queries.part_of(sources[0].pin.device)
    limits = given is not None and given.kind == "supply"
    idle = next((g for g in supply_loads(queries, "idle") if g.pin == sources[0].pin), None)
    return Inrush(
        limit_a=CURRENT_LIMIT_FACTOR * feed_out.current_a if limits else None,
        load_a=idle.current_a if idle is not None else 0.0,
        capacitance_f=sum(farads for farads, _ in charging),
        voltage_v=feed_out.nominal_v,
        loop_ohm=max(resistance_ohm, LEAST_LOOP_OHM),
    )
