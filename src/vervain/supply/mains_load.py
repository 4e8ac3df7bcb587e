"""What a machine takes from the mains, and what of it runs through a fuse."""

from collections.abc import Iterable

from vervain.electrical.mains import MOTOR_PHASES, mains_entries
from vervain.model.electrical import FeedIn
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.connectivity import nets_reached
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.results import supply_loads
from vervain.supply.states import LASTING_STATES, feed_table

LINE = "line"


@query
def mains_current_a(queries: Queries, device: str) -> float:
    """What a device takes from the mains for long, in A: as its part says, of a supply what it
    gives in its hardest state, I = P_out / (efficiency · power factor · volts), by the table of
    feeds. 0 where nothing says.
    """
    part = queries.part_of(device)
    # Each line of one plug takes what the device is rated for.
    said_a = sum(
        max((
            pin.electrical.current_a or 0.0 for pin in port.pins
            if isinstance(pin.electrical, FeedIn) and pin.function in (LINE, *MOTOR_PHASES)
        ), default=0.0)
        for port in (part.ports if part is not None else ())
    )  # fmt: skip
    if said_a or part is None or part.kind != "supply":
        return said_a
    table = feed_table()
    watts = max(
        sum(load.watts for load in supply_loads(queries, state) if load.pin.device == device)
        for state in LASTING_STATES
    )
    return watts / table.efficiency / table.mains_power_factor / table.mains_v


def mains_through_a(queries: Queries, device: str, fuse: Fuse) -> float:
    """What runs through a fuse in the mains for long, in A: what all takes that hangs on the one of
    its sides that the mains do not come from. 0 for a fuse in anything else, and where they come
    round it as well.
    """
    ends = [PinRef(device=device, port=port, pin=pin) for port, pin in fuse.pins]

    def passes(name: str, element: Element) -> bool:
        return isinstance(element, Contact | Fuse) and not (name == device and element == fuse)

    near = [queries.net(end) for end in ends]
    far = [frozenset(r for net in nets_reached(queries, [e], passes) for r in net) for e in ends]
    entries = mains_entries(queries)
    for nets in (near, far):
        comes = [any(ref in entries for ref in net) for net in nets]
        if comes[0] != comes[1]:
            takers = _takers(queries, far[comes.index(False)])
            return sum(mains_current_a(queries, name) for name in takers)
    return 0.0


def _takers(queries: Queries, pins: Iterable[PinRef]) -> set[str]:
    """The devices that take mains at some of these pins."""
    return {
        ref.device
        for ref in pins
        if (pin := queries.pin(ref)) is not None and pin.function in (LINE, *MOTOR_PHASES)
        and (port := queries.port(ref.port_ref)) is not None and port.end == "device"
    }  # fmt: skip
