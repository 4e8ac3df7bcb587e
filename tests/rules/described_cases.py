"""Cases of rules on machines of described parts: a faulty one, and one that is right."""

from collections.abc import Callable

from described_machines import wired_lathe
from vervain.edits.plug_edits import take_conductor_off, turn_plug
from vervain.model.machine import Machine, PortRef

Made = Callable[[], Machine]


def _without(device: str, port: str, pin: str) -> Machine:
    """The lathe without the conductor at a pin of a plug."""
    machine = wired_lathe()
    return next(
        take_conductor_off(machine, hookup.id, number)
        for hookup in machine.hookups
        for number, row in enumerate(hookup.conductors)
        if (hookup.a.device, hookup.a.port, row.a) == (device, port, pin)
    )


CASES: dict[str, tuple[Made, Made]] = {
    "signals.output-held": (
        lambda: turn_plug(wired_lathe(), PortRef(device="K1", port="OUT OUT1")), wired_lathe,
    ),
}  # fmt: skip

FAULTY: dict[str, tuple[Made, str]] = {
    "a motor behind a drive on mains without earth": (
        lambda: _without("M1", "PWR", "4"), "supply.earth",
    ),
    "a start on 0 V": (
        lambda: turn_plug(wired_lathe(), PortRef(device="T3", port="START")), "signals.output-held",
    ),
}  # fmt: skip
