"""Machines for the rules about what is joined and must not be: outputs, wires too many."""

from collections.abc import Callable

from mistake_machines import MACHINES
from tests import small
from tests.rules.truth_cases import closed_loop
from vervain.edits import plug_edits
from vervain.model.machine import Machine, PinRef, PortRef
from vervain.queries.machine_queries import Queries
from workshop_machines import relays_and_switches


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


def turned_by_relays(left_out: str = "", supply_pins: str = "") -> Machine:
    """A pump that two relays turn either way, but for one of their ways; with a lamp that is fed by
    other pins than it should.
    """
    build = small.Builder(relays_and_switches())
    build.device("M9", "quoin-gp24", "Pump", None)
    for relay, lead in (("RELAY 2", "+"), ("RELAY 3", "−")):
        build.join(f"K3:{relay}", "M9:LEADS", f"COM-{lead}")
        for throw, rail in (("NO", "+"), ("NC", "0V")):
            if f"{relay} {throw}" != left_out:
                build.join("X1:7", f"K3:{relay}", f"{rail}-{throw}")
    if supply_pins:
        build.device("M8", "quoin-bf24", "Blower", None)
        build.join("X1:6", "M8:LEADS", supply_pins)
    return build.machine


def two_switches(extra: bool) -> Machine:
    """Two switches at inputs of one board, the signals of which may be joined."""
    build = small.powered_controller()
    for name, port in (("B1", "IN 5"), ("B2", "IN 6")):
        build.device(name, "osier-ms2", "Switch", None)
        build.join(f"{name}:LEADS", f"K1:{port}", "COM-0V NC-IN")
    machine = build.machine
    ends = (pin_at(machine, "B1:LEADS:NC"), pin_at(machine, "K1:IN 6:IN"))
    return plug_edits.put_conductor(machine, *ends) if extra else machine


CASES: dict[str, tuple[Callable[[], Machine], Callable[[], Machine]]] = {
    "ports.feedback": (exchanged_feedback, MACHINES["pick robot"]),
    "ports.outputs-joined": (
        lambda: with_wire("pick robot", "T1:MOTOR:U", "T2:MOTOR:U"), MACHINES["pick robot"],
    ),
    "ports.outputs-against": (
        lambda: with_wire("lift", "K1:D2:D2", "K1:D4:D4"), MACHINES["lift"],
    ),
    "ports.one-way": (lambda: turned_by_relays("RELAY 3 NC"), turned_by_relays),
    "ports.inputs-joined": (lambda: two_switches(True), lambda: two_switches(False)),
    "leads.two-drivers": (on_two_drivers, lambda: closed_loop("COUNT 1")),
}  # fmt: skip

# Wires too many, by the machine.
TOO_MANY = (
    ("pick robot", "X1:5:L", "K1:IN3:IN3"), ("pick robot", "X1:5:N", "G1:OUT:0V"),
    ("pick robot", "S0:1-2:1", "T1:CN1:COM+"), ("pick robot", "X0:B:L", "S2:13-14:13"),
    ("pick robot", "M1:LEADS:U", "M2:LEADS:V"), ("lift", "T1:POWER:B-", "M1:LEADS:M+"),
    ("lift", "S4:LEADS:NC", "K1:D2:D2"), ("lift", "K1:A0:A0", "K1:D3:D3"),
)  # fmt: skip

# Mistakes by the machine and in the words of the table, each of a kind of its own: what a wire
# joins over several contacts, a plug that hangs over the end, a contact that changes nothing.
OF_ALL_KINDS = (
    ("gantry", "P1 LEADS.2 to X31 A.2 off"),
    ("gantry", "X14 A shifted by -1"),
    ("gantry", "X1 5.1 joined to S2 11-12.11 as well"),
    ("gantry", "K3 OUT.5 joined to S2 21-22.22 as well"),
    ("gantry", "X18 B.7 joined to X18 A.8 as well"),
    ("arm", "X11 B shifted by -1"),
    ("arm", "K1 IN 3 shifted by -1"),
    ("printer", "K1 PROBE.2 to S1 21-22.22 off"),
    ("pendant", "K1 IN 5 shifted by -1"),
    ("radio stop", "Q1 COIL.A2 to X2 8.2 off"),
    ("safety relay", "X2 1.1 joined to Q2 MAIN.13 as well"),
    ("feeder", "K2 13-14.13 joined to Q2 AUX.22 as well"),
    ("described thrower", "A1 PLUG 3: 2 and 3 exchanged"),
    ("described thrower", "A3 POWER.1 joined to K1 A0.1 as well"),
    ("described incubator", "G2 V.2 joined to E1 LEADS.1 as well"),
    ("table of coils", "R1 OUT.0V to K1 GP0.3 off"),
    ("feeder", "M2 LEADS.2 joined to X1 4.2 as well"),
    ("described mill", "Q1 COIL.A1 joined to T2 MOTOR.4 as well"),
    ("described filling line", "T2 POWER.1 joined to K1 I4.1 as well"),
    ("gantry", "X3 1.1 joined to B9 LEADS.7 as well"),
    ("gantry", "X41 B shifted by -1"),
    ("gantry", "X2 2.1 to K1 POWER.1 off"),
    ("gantry", "Q1 MAIN.14 to Q2 MAIN.13 off"),
    ("gantry", "X18 A.7 joined to F4 FUSE.2 as well"),
    ("arm", "G1 OUT.1 to F4 FUSE.1 off"),
    ("arm", "X2 7 turned round"),
    ("printer", "E2 LEADS.2 to K1 HEAT.2 off"),
    ("lift", "S1 1-2.2 to S1 3-4.3 off"),
    ("pick robot", "T2 POWER: 2 and 3 exchanged"),
    ("described placer", "K1 MOTOR Z.4 joined to K1 MOTOR B.4 as well"),
    ("described door", "G1 PORT.2 to K2 RELAY 1.3 off"),
    ("described watering", "Y4 LEADS.1 joined to K2 RELAY 2.1 as well"),
    ("described saw", "S3 11-12.12 to S3 21-22.21 off"),
    ("hoist", "K2 1/L1-2/T1.2/T1 to M1 LEADS.3 off"),
    ("arm", "X1 6 turned round"),
    ("arm", "K3 CH 2 shifted by -1"),
    ("printer", "X12 B shifted by 1"),
    ("printer", "the plugs in K1 STOP Y and PROBE exchanged"),
    ("gate", "F2 FUSE.2 joined to K1 POWER.2 as well"),
    ("feeder", "K2 STOP: 2 and 4 exchanged"),
)
