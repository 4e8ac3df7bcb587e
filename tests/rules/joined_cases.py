"""Machines for the rules about what is joined and must not be: outputs, wires too many."""

from collections.abc import Callable

from mistake_machines import MACHINES
from tests.rules.truth_cases import closed_loop
from vervain.edits import plug_edits
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries


def pin_at(machine: Machine, text: str) -> PinRef:
    """A pin by its device, its port and what it is called."""
    device, port, name = text.split(":")
    found = Queries(machine).port(PortRef(device=device, port=port))
    return PinRef(device=device, port=port, pin=next(p.id for p in found.pins if p.text == name))


def with_wire(name: str, first: str, second: str) -> Machine:
    """A machine of the mistake table with a wire too many."""
    machine = MACHINES[name]()
    return plug_edits.put_conductor(machine, pin_at(machine, first), pin_at(machine, second))


def exchanged_feedback() -> Machine:
    """The pick robot, of which two motors tell each the drive of the other how they stand."""
    first, second = (PortRef(device=drive, port="CN2") for drive in ("T1", "T2"))
    return plug_edits.exchange_plugs(MACHINES["pick robot"](), first, second)


def on_two_drivers() -> Machine:
    """Two motors of which one has a lead on the driver of the other."""
    lead, own, other = (
        PinRef(device=device, port=port, pin=pin)
        for device, port, pin in (
            ("M1", "LEADS", "BU"), ("T1", "MOTOR", "4"), ("T2", "MOTOR", "4"),
        )
    )  # fmt: skip
    machine = plug_edits.take_wire_off(closed_loop("COUNT 1"), lead, own)
    return plug_edits.put_conductor(machine, lead, other)


CASES: dict[str, tuple[Callable[[], Machine], Callable[[], Machine]]] = {
    "ports.feedback": (exchanged_feedback, MACHINES["pick robot"]),
    "ports.outputs-joined": (
        lambda: with_wire("pick robot", "T1:MOTOR:U", "T2:MOTOR:U"), MACHINES["pick robot"],
    ),
    "ports.outputs-against": (
        lambda: with_wire("lift", "K1:D2:D2", "K1:D4:D4"), MACHINES["lift"],
    ),
    "leads.two-drivers": (on_two_drivers, lambda: closed_loop("COUNT 1")),
}  # fmt: skip

# Wires too many, by the machine.
TOO_MANY = (
    ("pick robot", "X1:5:L", "K1:IN3:IN3"), ("pick robot", "X1:5:N", "G1:OUT:0V"),
    ("pick robot", "S0:1-2:1", "T1:CN1:COM+"), ("pick robot", "X0:B:L", "S2:13-14:13"),
    ("pick robot", "M1:LEADS:U", "M2:LEADS:V"), ("lift", "T1:POWER:B-", "M1:LEADS:M+"),
    ("lift", "S4:LEADS:NC", "K1:D2:D2"), ("lift", "K1:A0:A0", "K1:D3:D3"),
)  # fmt: skip
