"""A conductor seen from one of its ends."""

from vervain.model.base import Record
from vervain.model.machine import Conductor, PinRef


class Step(Record, frozen=True, kw_only=True):
    """One conductor of a way, from the pin it leaves to the pin it comes to."""

    start: PinRef
    end: PinRef
    hookup: str
    conductor: Conductor
