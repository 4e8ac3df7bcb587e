"""For each rule of the stops a machine that it fires on, and one that it is silent on."""

from msgspec.structs import replace

from mistake_machines import MACHINES
from tests import small
from tests.stops.circuits import (
    BASE,
    DRIVEN_MOTOR,
    FEEDBACK,
    MINUS_SIDE,
    ON,
    ON_A_CONTACTOR,
    ON_A_SWITCH,
    OWN_RAIL,
    PENDANT,
    PENDANT_BESIDE,
    PROGRAM_ONLY,
    RACE,
    READ,
    START_PAST_STOP,
    TWO_CHANNELS,
    UNTOLD,
    boxed,
    by_contactor,
    by_radio,
    heavy,
    holding,
    motor,
    one_channel,
    read_channels,
    two_channels,
    wired,
)
from vervain.edits import plug_edits
from vervain.model.axis import Belt, Mechanism, Screw
from vervain.model.machine import Machine, PortRef
from vervain.model.part import Option
from workshop_machines import relays_and_switches


def upright(mechanism: Mechanism, **roles: str) -> Machine:
    return small.with_axis(
        small.bench("M1 fell-s57").machine, vertical=True, mechanism=mechanism, drives=("M1",),
        **roles,
    )  # fmt: skip


def pump_on_a_relay(throw: str) -> Machine:
    """A pump behind a throw of a relay that a controller works."""
    build = small.Builder(relays_and_switches())
    build.device("M9", "quoin-gp24", "Pump", None)
    build.join("K3:RELAY 1", "M9:LEADS", f"{throw}-+")
    build.join("X1:6", "M9:LEADS", "0V-−")
    return build.machine


def bridged_stop(bridge: bool) -> Machine:
    build = small.Builder(small.stop_chain("11-12", ("11", "12")))
    build.device("X9", "quoin-bj2", "Jumper", None)
    build.join("X9:WIRE", "S1:11-12", "1-11 2-12" if bridge else "1-11")
    return build.machine


def stop_taken(value: str) -> Machine:
    """A stop in two channels that a controller reads, whose stop input is set so."""
    choice = Option(id="invert", title="Taken", choices=("as it is", "inverted"), ports=("STOP",))
    machine = small.with_part(
        read_channels(), "tarn-mc5", lambda part: replace(part, options=(choice,))
    )
    return small.with_setting(machine, "K1", "invert/STOP", value)


CASES = {
    "stops.estop-no": (
        lambda: small.stop_chain("23-24", ("23", "24")),
        lambda: small.stop_chain("11-12", ("11", "12")),
    ),
    "stops.power-stays": (
        lambda: wired(PROGRAM_ONLY, *BASE[:2], "T1 fell-d36", "K1 tarn-mc5"),
        read_channels,
    ),
    "supply.shorted-at-work": (
        lambda: two_channels("Q2 MAIN.14 - G1 OUT.0V\n"),
        lambda: two_channels(),
    ),
    "stops.does-nothing": (lambda: wired(PENDANT_BESIDE, *PENDANT), read_channels),
    "stops.restarts": (one_channel, read_channels),
    "stops.unnoticed": (
        one_channel,
        lambda: boxed(read_channels()),
    ),
    "stops.never-closes": (lambda: wired(OWN_RAIL, *BASE), one_channel),
    "stops.not-told": (lambda: holding(UNTOLD, "K1 tarn-mc5"), read_channels),
    "stops.minus-side": (lambda: wired(MINUS_SIDE, *BASE), one_channel),
    "stops.link-lost": (lambda: by_radio("NC"), by_radio),
    "stops.braking-energy": (lambda: heavy(20.0), lambda: heavy(0.01)),
    "stops.hold-up": (lambda: by_contactor(DRIVEN_MOTOR, "M1 fell-s42"), one_channel),
    "stops.start-overrides": (
        lambda: wired(START_PAST_STOP, *ON["holding"]),
        holding,
    ),
    "stops.power-return": (
        # What stays on; a button that is held down is let go.
        lambda: small.with_part(
            motor(ON_A_SWITCH, "G1 fell-ps24", "S4 quoin-pb1"),
            "quoin-pb1",
            lambda part: replace(part, title="Toggle switch"),
        ),
        lambda: motor(ON_A_CONTACTOR, *ON["holding"][:3], *ON["holding"][4:]),
    ),
    "stops.on-at-rest": (lambda: pump_on_a_relay("NC"), lambda: pump_on_a_relay("NO")),
    "stops.race": (lambda: wired(RACE, *ON["two"]), two_channels),
    "stops.weld-unread": (read_channels, lambda: read_channels(FEEDBACK)),
    "stops.no-brake": (
        lambda: upright(Belt(pitch_mm=2, teeth=20)),
        lambda: upright(Screw(lead_mm=4, diameter_mm=16)),
    ),
    "stops.bridged": (lambda: bridged_stop(True), lambda: bridged_stop(False)),
    "stops.limit-no": (lambda: small.switch_in("IN 5", "NO"), lambda: small.switch_in("IN 5")),
    "stops.channels-crossed": (
        lambda: plug_edits.exchange_two(
            MACHINES["feeder"](), PortRef(device="K2", port="STOP"), "2", "4"
        ),
        MACHINES["feeder"],
    ),
    "stops.channel-idle": (
        lambda: wired(
            (TWO_CHANNELS + READ).replace("Q2 COIL.A1 - K1 STOP.B+", "G1 OUT.24V - K1 STOP.B+"),
            *ON["read"],
        ),
        read_channels,
    ),
    "stops.stop-inverted": (lambda: stop_taken("inverted"), lambda: stop_taken("as it is")),
    "stops.invert": (
        lambda: small.with_setting(small.switch_in("IN 5"), "K1", "invert/IN 5", "as it is"),
        lambda: small.switch_in("IN 5"),
    ),
}
