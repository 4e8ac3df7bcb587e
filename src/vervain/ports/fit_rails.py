"""Where the plus and the 0 V of a plug come from that its port has not, or has at other volts."""

import math

from vervain.edits.plug_edits import put_conductor
from vervain.electrical.feeds import sources_of
from vervain.model.electrical import FeedIn, LogicInput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Port
from vervain.ports.fit_issues import feed_refusal
from vervain.ports.insertions import DividerAt, RailAt
from vervain.ports.rails import lower_plus, rail_for
from vervain.ports.signal_issues import FitIssue
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words


def as_fed(
    queries: Queries, plug: PortRef, theirs: Port, rails: dict[str, PinRef | None]
) -> Queries:
    """The machine with the plus of a plug from where it comes, where that is more than an input of
    the port bears: what the plug gives then is known.
    """
    bears_v = min(
        (p.electrical.max_v for p in theirs.pins if isinstance(p.electrical, LogicInput)),
        default=math.inf,
    )
    for pin, at in rails.items():
        sources = sources_of(queries, at) if at is not None else ()
        if at is not None and any(source.feed.highest_v > bears_v for source in sources):
            ours = PinRef(device=plug.device, port=plug.port, pin=pin)
            return Queries(put_conductor(queries.machine, ours, at))
    return queries


def with_another_plus(
    queries: Queries, device_port: PortRef, host_port: PortRef, pairs: tuple[tuple[str, str], ...]
) -> tuple[tuple[tuple[str, str], ...], dict[str, PinRef | None]]:
    """Pairs, without that of a plus which is not for a device where another is: what the board
    gives elsewhere, or a supply; and where that pin then goes.
    """
    ours = queries.port(device_port)
    for mine, theirs in pairs if ours is not None and ours.kind != "load" else ():
        pin = ours.pin(mine) if ours is not None else None
        if pin is None or pin.function != "plus" or not isinstance(pin.electrical, FeedIn):
            continue
        at = PinRef(device=host_port.device, port=host_port.port, pin=theirs)
        if not feed_refusal(queries, at, pin.electrical):
            continue
        own = PinRef(device=device_port.device, port=device_port.port, pin=mine)
        found = rail_for(queries, host_port.device, own, "plus")
        if found is not None:
            return tuple(pair for pair in pairs if pair[0] != mine), {mine: found}
    return pairs, {}


def by_lower_plus(
    queries: Queries,
    device_port: PortRef,
    host_port: PortRef,
    pairs: tuple[tuple[str, str], ...],
    issues: tuple[FitIssue, ...],
) -> tuple[tuple[tuple[str, str], ...], tuple[FitIssue, ...]]:
    """Pairs and issues; where an output would be too high by the plus of the port, with the lower
    plus that the board gives at another one, which needs no divider.
    """
    ours = queries.port(device_port)
    high = [issue for issue in issues if isinstance(issue.adds, DividerAt)]
    plus = next((p for p in (ours.pins if ours else ()) if p.function == "plus"), None)
    paired = dict(pairs)
    if not high or ours is None or plus is None or plus.id not in paired:
        return pairs, issues
    mine = PinRef(device=device_port.device, port=device_port.port, pin=plus.id)
    entries = [issue.adds.pin for issue in high if isinstance(issue.adds, DividerAt)]
    found = {lower_plus(queries, host_port.device, mine, entry) for entry in entries}
    at = found.pop() if len(found) == 1 else None
    if at is None:
        return pairs, issues
    words = f"{plus.text} from {pin_in_words(queries, at)}"
    reason = f"Fed from {pin_in_words(queries, at)} its output is no higher than the input bears."
    issue = FitIssue(reason=reason, needs=words, adds=RailAt(pin=plus.id, at=at))
    others = tuple(issue for issue in issues if issue not in high)
    return tuple(pair for pair in pairs if pair[0] != plus.id), (*others, issue)


def by_a_rail(queries: Queries, ours: Port, pin_id: str, at: PinRef) -> FitIssue:
    """What a pin needs whose plus, or 0 V, the port has not."""
    pin = ours.pin(pin_id)
    name = pin.text if pin is not None else pin_id
    words = f"{name} from {pin_in_words(queries, at)}"
    reason = f"It has no pin for {name}; that comes from {at.device}."
    return FitIssue(reason=reason, needs=words, adds=RailAt(pin=pin_id, at=at))
