"""Small machines for the rules about three-phase mains, on both sides of their limits."""

from collections.abc import Callable

from builder import Builder
from three_phase_machines import hoist, wired_hoist, wired_saw
from vervain.edits.plug_edits import take_wire_off
from vervain.model.machine import Machine, PinRef

Made = Callable[[], Machine]


def two_lines() -> Machine:
    """The saw with two of its phases at one line."""
    v = PinRef(device="M1", port="LEADS", pin="2")
    far = PinRef(device="K1", port="3/L2-4/T2", pin="4/T2")
    build = Builder(take_wire_off(wired_saw(), v, far))
    build.join("K1:1/L1-2/T1", "M1:LEADS", f"2/T1-{v.pin}")
    return build.machine


def lines_at_a_contactor() -> Machine:
    """The saw with two lines joined behind its contactor."""
    build = Builder(wired_saw())
    build.join("K1:1/L1-2/T1", "K1:3/L2-4/T2", "2/T1-4/T2")
    return build.machine


CASES: dict[str, tuple[Made, Made]] = {
    "supply.motor-lines": (two_lines, wired_saw),
    "supply.lines-joined": (lines_at_a_contactor, wired_saw),
    "supply.not-interlocked": (lambda: hoist(interlocked=False), wired_hoist),
}
