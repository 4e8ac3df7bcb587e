"""The mains as a tree of their own: from where they come in through switches, fuses, contactors and
terminals to everything that takes them.
"""

from collections.abc import Iterator

from vervain.electrical.mains import MOTOR_PHASES, mains_entries
from vervain.model.elements import Contact, Element, Fuse
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.supply.feed_tree import Branch, BranchKind, FeedTree, label_of
from vervain.supply.mains_load import mains_current_a
from vervain.supply.mains_ways import mains_inputs


@query
def mains_tree(queries: Queries) -> FeedTree | None:
    """What the line of the mains goes through and who takes it, each behind what it hangs on; last
    what takes mains and gets none. None in a machine without mains.
    """
    lines = [ref for ref in _entries(queries) if queries.net(ref)]
    waiting = [poles["line"] for poles in mains_inputs(queries)]
    if not lines and not waiting:
        return None
    found = _Walk(queries).behind(lines)
    loose = [_taker(queries, ref, 1, "not joined") for ref in waiting]
    if not found and not loose:
        return None
    first = lines[0] if lines else waiting[0]
    root = Branch(
        kind="mains", device=first.device if lines else "", pin=first, label="Mains",
        current_a=sum(branch.current_a for branch in found if branch.depth == 1),
        note=first.device if lines else "not there",
    )  # fmt: skip
    return FeedTree((root, *found, *loose))


def _entries(queries: Queries) -> list[PinRef]:
    """The line pins of what brings mains in, in the machine's order."""
    order = {name: number for number, name in enumerate(queries.devices())}
    lines = [
        ref for ref in mains_entries(queries)
        if (pin := queries.pin(ref)) is not None and pin.function == "line"
    ]  # fmt: skip
    return sorted(lines, key=lambda ref: (order[ref.device], ref.port, ref.pin))


def _taker(queries: Queries, ref: PinRef, depth: int, note: str = "") -> Branch:
    return Branch(
        kind="taker", device=ref.device, pin=ref, label=ref.device, depth=depth, note=note,
        current_a=mains_current_a(queries, ref.device),
    )  # fmt: skip


class _Walk:
    """Goes from the line on, each piece of copper and each device that takes mains once."""

    def __init__(self, queries: Queries) -> None:
        self.queries = queries
        self.order = {name: number for number, name in enumerate(queries.devices())}
        self.seen: set[PinRef] = set()
        self.taking: set[str] = set()

    def behind(self, pins: list[PinRef], depth: int = 1) -> list[Branch]:
        """What hangs on some pins, each place before what is behind it; none that leads nowhere."""
        net = [ref for pin in pins if pin not in self.seen for ref in self.queries.net(pin)]
        net = sorted(dict.fromkeys(net), key=lambda ref: self.order[ref.device])
        self.seen.update(net)
        strip = next((ref for ref in net if self._is_strip(ref.device)), None)
        own = depth + (strip is not None)
        found = [branch for ref in net for branch in self._at(ref, own)]
        if strip is None or not found:
            return found
        held = sum(branch.current_a for branch in found if branch.depth == own)
        place = Branch(
            kind="strip", device=strip.device, pin=strip, label=strip.device, depth=depth,
            current_a=held,
        )  # fmt: skip
        return [place, *found]

    def _at(self, ref: PinRef, depth: int) -> Iterator[Branch]:
        """Who takes mains at a pin, and what it goes on through there."""
        pin, port = self.queries.pin(ref), self.queries.port(ref.port_ref)
        takes = pin is not None and pin.function in ("line", *MOTOR_PHASES) and port is not None
        if takes and port is not None and port.end == "device" and ref.device not in self.taking:
            self.taking.add(ref.device)
            yield _taker(self.queries, ref, depth)
        part = self.queries.part_of(ref.device)
        for element in part.inside if part is not None else ():
            other = _other_end(element, ref)
            if other is None or other in self.seen:
                continue
            behind = self.behind([other], depth + 1)
            if behind:
                kind: BranchKind = "fuse" if isinstance(element, Fuse) else "contact"
                yield Branch(
                    kind=kind, device=ref.device, pin=ref, depth=depth,
                    label=label_of(self.queries, kind, ref),
                    current_a=sum(b.current_a for b in behind if b.depth == depth + 1),
                )  # fmt: skip
                yield from behind

    def _is_strip(self, device: str) -> bool:
        part = self.queries.part_of(device)
        return part is not None and part.kind == "terminal strip"


def _other_end(element: Element, ref: PinRef) -> PinRef | None:
    """The far end of a fuse or contact that a pin is an end of; None of anything else."""
    if not isinstance(element, Fuse | Contact) or (ref.port, ref.pin) not in element.pins:
        return None
    port, pin = next(end for end in element.pins if end != (ref.port, ref.pin))
    return PinRef(device=ref.device, port=port, pin=pin)
