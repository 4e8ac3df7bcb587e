"""Small machines for the rules about three-phase mains, on both sides of their limits."""

from collections.abc import Callable

from builder import Builder
from drive_machines import described
from former_machine import wired_former
from mains_machines import hoist, wired_hoist, wired_saw
from vervain.catalogue.drafts import Draft
from vervain.edits.plug_edits import put_conductor, take_wire_off
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


def valve_on(supply: str) -> Machine:
    """A valve for alternating current at a supply of 24 V."""
    figures = {"nominal_v": 24.0, "current_a": 0.5}
    parts = described({
        "my-supply": Draft(kind="supply", title=supply, pins_text="L N\n24V 0V", numbers=figures),
        "my-valve": Draft(
            kind="valve", title="Valve, 24 V AC", pins_text="1 2", numbers=figures
        ),
    })  # fmt: skip
    build = Builder(Machine(name="Valve"))
    build.add("G1", parts["my-supply"])
    build.add("Y1", parts["my-valve"])
    build.join("G1:OUT", "Y1:LEADS", "1-1 2-2")
    return build.machine


def relay_between_supplies() -> Machine:
    """The former with its solid-state relay between 24 V and the output of its controller."""
    plus, minus = (PinRef(device="Q2", port="CONTROL", pin=pin) for pin in ("3+", "4-"))
    machine = wired_former()
    for end, pin in ((plus, "1"), (minus, "2")):
        machine = take_wire_off(machine, end, PinRef(device="K1", port="SSR", pin=pin))
    machine = put_conductor(machine, plus, PinRef(device="G1", port="OUT", pin="1"))
    return put_conductor(machine, minus, PinRef(device="K1", port="SSR", pin="1"))


CASES: dict[str, tuple[Made, Made]] = {
    "supply.motor-lines": (two_lines, wired_saw),
    "supply.lines-joined": (lines_at_a_contactor, wired_saw),
    "supply.current-type": (
        lambda: valve_on("Supply, 24 V"),
        lambda: valve_on("Transformer"),
    ),
    "supply.other-common": (relay_between_supplies, wired_former),
    "supply.not-interlocked": (lambda: hoist(interlocked=False), wired_hoist),
}
