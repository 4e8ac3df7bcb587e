"""What a wire would put right and what it would bring, tried on a copy before it is made."""

from vervain.edits.plug_edits import put_conductor
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.rules.engine import check_look
from vervain.rules.finding import Finding, Result

# What these say of a plug that is wired wire by wire is only that the rest of it is still to come;
# so are cables and their ways, which the Harness stage asks for.
STILL_TO_COME = frozenset(
    {
        "leads.left-off", "leads.signal-open", "leads.unidentified", "ports.half-joined",
        "ports.loose", "ports.need", "signals.contact-idle", "signals.contact-in-the-way",
        "signals.contact-unread", "signals.flyback", "signals.floating", "supply.fuse-missing",
        "supply.no-common", "supply.no-return", "supply.unfed",
    }
)  # fmt: skip


class JoinTrial(Record, frozen=True, kw_only=True):
    """What a wire would put right, and the findings that it would bring, the worst first."""

    clears: tuple[Finding, ...] = ()
    brings: tuple[Finding, ...] = ()

    @property
    def words(self) -> str:
        """What comes of the wire, in a sentence; "" where nothing does."""
        if self.brings:
            return f"{self.brings[0].consequence}: {self.brings[0].sentence}"
        count = f" {len(self.clears)}" if len(self.clears) > 1 else ""
        return f"Puts right{count}: {self.clears[0].sentence}" if self.clears else ""


def try_join(queries: Queries, before: Result, start: PinRef, end: PinRef) -> JoinTrial | None:
    """What a wire between two pins would put right and bring; None where it cannot be made.
    `queries` stands on the machine, is moved to the trial and back; `before` is what was found
    without the wire.
    """
    machine = queries.machine
    try:
        queries.move_to(put_conductor(machine, start, end))
        after = check_look(queries)
    except Problem:
        return None
    finally:
        queries.move_to(machine)
    assert after is not None
    told = (*before.open, *before.accepted, *before.to_do)
    known, left = {f.key for f in told}, {f.key for f in (*after.open, *after.to_do)}
    return JoinTrial(
        clears=tuple(f for f in (*before.open, *before.to_do) if f.key not in left),
        brings=tuple(
            f
            for f in after.open
            if f.key not in known
            and f.consequence != "Workmanship"
            and f.rule not in STILL_TO_COME
            and f.stage != "Harness"
            and not f.unfinished
        ),
    )
