"""Machines whose stops are the thing: held by a start button, opened by radio; each sound."""

from msgspec.structs import replace

from builder import Builder, accepted_finding, bench, slide_axis
from vervain.edits.device_edits import set_setting
from vervain.model.axis import Axis
from vervain.model.machine import Machine
from vervain.model.part import Part
from vervain.model.place import Place


def _boxed(build: Builder, outside: str) -> Machine:
    """The machine with everything in one closed box but what is named."""
    devices = tuple(
        device if device.designator in outside.split() else replace(device, place="box")
        for device in build.machine.devices
    )
    box = Place(id="box", name="Box", closed=True, inside_m=0.4)
    return replace(build.machine, devices=devices, places=(box,))


def _feed_slide(build: Builder) -> None:
    """Mains, a fuse for the control and one for the drive, whose feed two contactors open."""
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G1:OUT", "PE-0V")
    build.join("G1:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "X2:1", "OUT-+")
    build.join("G1:OUT", "X2:1", "0V-0V")
    build.join("G1:OUT", "F2:FUSE", "24V-IN")
    build.join("F2:FUSE", "Q1:MAIN", "OUT-13")
    build.join("Q1:MAIN", "Q2:MAIN", "14-13")
    build.join("Q2:MAIN", "T1:FEED", "14-24V")
    build.join("X2:2", "T1:FEED", "0V-2")
    build.join("X2:3", "K1:POWER", "+-24V 0V-0V")
    build.join("X4:3", "K1:POWER", "PE-PE")


def _driven_slide(build: Builder, outside: str) -> Machine:
    """The machine with an axis on the drive, its limit, and everything set; in one box but what is
    named.
    """
    build.join("K1:AXIS 1", "T1:SIGNAL", "1-1 2-2 3-3 4-4")
    build.join("M1:LEADS", "T1:MOTOR", "BK-A+ GN-A− RD-B+ BU-B−")
    build.join("B1:LEADS", "K1:IN 8", "COM-1 NC-2")
    machine = _boxed(build, outside)
    for device, key, value in (
        ("F1", "rating_a", 2.0), ("F2", "rating_a", 4.0), ("T1", "current_peak_a", 1.4),
        ("K1", "invert/IN 8", "inverted"),
    ):  # fmt: skip
        machine = set_setting(machine, device, key, value)
    return replace(machine, axes=(slide_axis("X", "M1", "B1"),))


def radio_stop() -> Machine:
    """A slide whose stop and whose remote open two channels, read, with the relays read back."""
    build = bench(
        "G1 fell-ps24", "F1 quoin-fh1", "F2 quoin-fh1", "X2 quoin-ts12", "S1 larkmoor-es2",
        "K9 osier-rs2", "Q1 fell-c20", "Q2 fell-c20", "K1 tarn-mc5", "T1 fell-d36", "M1 fell-s42",
        "B1 osier-rl2", "X4 quoin-mt4", name="Slide with a remote",
    )  # fmt: skip
    _feed_slide(build)
    build.join("X2:4", "K9:POWER", "+-24V 0V-0V")
    for number, (stop, radio, channel) in enumerate(
        (("11-12", "13-14", "A"), ("21-22", "23-24", "B")), 1
    ):
        first, last = stop.split("-")
        begin, end = radio.split("-")
        build.cable(f"W{number}", "flex-2x0.5", 0.8)
        build.join(f"X2:{4 + number}", f"S1:{stop}", f"+-{first}", f"W{number}")
        build.join(f"S1:{stop}", f"K9:{radio}", f"{last}-{begin}", f"W{number}", "2")
        build.join(f"K9:{radio}", f"Q{number}:COIL", f"{end}-A1")
        build.join(f"Q{number}:COIL", f"X2:{7 + number}", "A2-0V")
        build.join(f"Q{number}:COIL", "K1:STOP", f"A1-{channel}+ A2-{channel}−")
    build.join("K1:IN 1", "Q1:AUX", "IN-21")
    build.join("Q1:AUX", "Q2:AUX", "22-21")
    build.join("Q2:AUX", "K1:IN 1", "22-0V")
    return _driven_slide(build, "S1 M1 B1")


def conveyor() -> Machine:
    """A belt's motor behind a contactor that its start button makes hold itself; no controller."""
    build = bench(
        "G1 fell-ps12", "F1 quoin-fh1", "F2 quoin-fh1", "S1 larkmoor-es2", "S2 quoin-pb1",
        "Q1 fell-c30", "M1 quoin-gm12", "X4 quoin-mt4", "X2 quoin-ts8", name="Belt",
    )  # fmt: skip
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "G1:OUT", "PE-2")
    build.join("G1:OUT", "F1:FUSE", "1-IN")
    build.join("F1:FUSE", "X2:1", "OUT-+")
    build.join("G1:OUT", "X2:1", "2-0V")
    build.join("G1:OUT", "F2:FUSE", "1-IN")
    build.join("F2:FUSE", "Q1:MAIN", "OUT-1")
    build.join("Q1:MAIN", "M1:LEADS", "2-+")
    build.join("M1:LEADS", "X2:2", "−-0V")
    build.join("X2:3", "S1:11-12", "+-11")
    build.join("S1:11-12", "S2:13-14", "12-13")
    build.join("S2:13-14", "Q1:HOLD", "13-13")
    build.join("S2:13-14", "Q1:COIL", "14-A1")
    build.join("Q1:HOLD", "Q1:COIL", "14-A1")
    build.join("Q1:COIL", "X2:3", "A2-0V")
    machine = _boxed(build, "M1")
    for device, value in (("F1", 0.5), ("F2", 5.0)):
        machine = set_setting(machine, device, "rating_a", value)
    axis = Axis(id="X", name="belt", endless=True, drives=("M1",))
    one = accepted_finding("stops.unnoticed:S1:M1", "A belt of 10 W: one channel will do", "")
    return replace(machine, axes=(axis,), accepted=(one,))


def laser(own: Part) -> Machine:
    """A laser whose mains goes through a contactor: a stop and two doors in its line, both read."""
    build = bench(
        "X4 quoin-mt4", "G1 fell-ps24", "F1 quoin-fh1", "X2 quoin-ts12", "S1 larkmoor-es2",
        "S2 osier-rl2", "S3 osier-rl2", "Q1 fell-c20", "Q2 fell-c20", "K1 tarn-mc5",
        "M1 fell-s42", "T1 fell-d36", "B1 osier-rl2", "F2 quoin-fh1", name="Laser with doors",
    )  # fmt: skip
    build.add("E1", own, "Tube supply")
    build.join("X4:1", "G1:MAINS", "L-L N-N PE-PE")
    build.join("X4:2", "Q1:MAIN", "L-13")
    build.join("Q1:MAIN", "E1:MAINS", "14-L")
    build.join("X4:2", "E1:MAINS", "N-N PE-PE")
    build.join("X4:3", "G1:OUT", "PE-0V")
    build.join("G1:OUT", "F1:FUSE", "24V-IN")
    build.join("F1:FUSE", "X2:1", "OUT-+")
    build.join("G1:OUT", "X2:1", "0V-0V")
    build.join("G1:OUT", "F2:FUSE", "24V-IN")
    build.join("F2:FUSE", "Q2:MAIN", "OUT-13")
    build.join("Q2:MAIN", "T1:FEED", "14-24V")
    build.join("X2:2", "T1:FEED", "0V-2")
    build.join("X2:3", "K1:POWER", "+-24V 0V-0V")
    build.join("X4:4", "K1:POWER", "PE-PE")
    build.join("X2:4", "S1:11-12", "+-11")
    build.join("S1:11-12", "S2:LEADS", "12-COM")
    build.join("S2:LEADS", "S3:LEADS", "NO-COM")
    build.join("S3:LEADS", "Q1:COIL", "NO-A1")
    build.join("Q1:COIL", "X2:5", "A2-0V")
    build.join("X2:6", "S1:21-22", "+-21")
    build.join("S1:21-22", "Q2:COIL", "22-A1")
    build.join("Q2:COIL", "X2:7", "A2-0V")
    for number, channel in ((1, "A"), (2, "B")):
        build.join(f"Q{number}:COIL", "K1:STOP", f"A1-{channel}+ A2-{channel}−")
    machine = _driven_slide(build, "M1 B1 S2 S3")
    accepted = tuple(
        accepted_finding(f"stops.unnoticed:{key}", "One channel each will do here", "")
        for key in ("S1:E1:T1", "S2:E1", "S3:E1")
    )
    return replace(machine, accepted=accepted)


def safety_relay() -> Machine:
    """A slide whose stop goes by two channels into a safety relay, one in its plus and one in its
    0 V; two contactors behind it, read back in the line of its start button.
    """
    build = bench(
        "X4 quoin-mt4", "G1 fell-ps24", "F1 quoin-fh1", "F2 quoin-fh1", "X2 quoin-ts12",
        "S1 larkmoor-es2", "S2 quoin-pb1", "K9 fell-sr2", "Q1 fell-c20", "Q2 fell-c20",
        "K1 tarn-mc5", "T1 fell-d36", "M1 fell-s42", "B1 osier-rl2", name="Slide with a relay",
    )  # fmt: skip
    _feed_slide(build)
    build.join("X2:4", "K9:POWER", "+-1 0V-2")
    build.cable("W1", "flex-2x0.5", 0.8)
    build.join("X2:5", "S1:11-12", "+-11", "W1", "1")
    build.join("S1:11-12", "K9:STOP", "12-A+", "W1", "2")
    build.join("K9:STOP", "X2:5", "A−-0V")
    build.join("X2:6", "K9:STOP", "+-B+")
    build.cable("W2", "flex-2x0.5", 0.8)
    build.join("K9:STOP", "S1:21-22", "B−-21", "W2", "1")
    build.join("S1:21-22", "X2:6", "22-0V", "W2", "2")
    build.join("K9:START", "S2:13-14", "1-13")
    build.join("S2:13-14", "Q1:AUX", "14-21")
    build.join("Q1:AUX", "Q2:AUX", "22-21")
    build.join("Q2:AUX", "K9:START", "22-2")
    for number, port in ((1, "13-14"), (2, "23-24")):
        build.join(f"X2:{6 + number}", f"K9:{port}", "+-1")
        build.join(f"K9:{port}", f"Q{number}:COIL", "2-A1")
        build.join(f"Q{number}:COIL", f"X2:{8 + number}", "A2-0V")
    for number, channel in ((1, "A"), (2, "B")):
        build.join(f"Q{number}:COIL", "K1:STOP", f"A1-{channel}+ A2-{channel}−")
    return _driven_slide(build, "S1 M1 B1")
