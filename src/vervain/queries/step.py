"""A conductor seen from one of its ends."""

from vervain.model.base import Record
from vervain.model.machine import Conductor, Hookup, PinRef


class Step(Record, frozen=True, kw_only=True):
    """One conductor of a way, from the pin it leaves to the pin it comes to."""

    start: PinRef
    end: PinRef
    hookup: str
    conductor: Conductor


def ends_of(hookup: Hookup, conductor: Conductor) -> tuple[PinRef, PinRef]:
    """The two pins of a conductor: at side a and at side b of its hookup."""
    return (
        PinRef(device=hookup.a.device, port=hookup.a.port, pin=conductor.a),
        PinRef(device=hookup.b.device, port=hookup.b.port, pin=conductor.b),
    )
