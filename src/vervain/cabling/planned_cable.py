"""A cable that is proposed."""

from vervain.cabling.requirements import Need
from vervain.model.base import Record
from vervain.model.cable_part import CablePart


class PlannedCable(Record, frozen=True, kw_only=True):
    """Its part, the needs that it serves, how many cores they take, what it costs (as `cost_of`),
    and the reason. `instead` is the cable, if any, that was there and becomes one of this part;
    `takes_off` are wires of mains that were there and give way to it, for they have no sheath.
    """

    part: CablePart
    needs: tuple[Need, ...]
    used: int
    cost: float
    why: str
    instead: str = ""
    takes_off: tuple[str, ...] = ()
