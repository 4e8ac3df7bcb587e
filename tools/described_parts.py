"""The parts of a cutting table, a placer and a lathe, described by what is printed at them."""

from drive_machines import PULLED_UP, terminals
from vervain.catalogue.drafts import Draft


def table_drafts() -> dict[str, Draft]:
    """The parts of the cutting table."""
    step = "STEP DIR EN COM"
    return {
        "board": Draft(
            kind="controller", title="Motion board, five relays and drivers' outputs",
            pins_text=terminals(
                POWER="24V GND", X=step, Y=step, Z=step, A=step,
                INPUTS=" ".join(f"IN{n}" for n in range(1, 14)) + " COM 24V",
                ESTOP="ES COM", RELAY="C NO", OUTPUTS="OUT1 OUT2 COM",
            ),
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.4, "step_rate_max_hz": 1e5},
            circuits={
                "X/output": "5 V output, push-pull, 20 mA", "IN1/input": PULLED_UP,
                "ESTOP/input": PULLED_UP,
                "OUT1/output": "Low-side switch, 0.5 A, with a diode for coils",
            },
        ),
        "driver": Draft(
            kind="stepper driver", title="Driver that closes the loop",
            pins_text=terminals(
                CONTROL="PUL+ PUL- DIR+ DIR- ENA+ ENA- ALM+ ALM-",
                ENCODER="EA+ EA- EB+ EB- VCC EGND", MOTOR="A+ A- B+ B-", POWER="+V GND",
            ),
            numbers={"v_min_v": 24, "v_max_v": 70, "current_max_peak_a": 6},
            circuits={
                "CONTROL/input": "Isolated input, 5 V: diode and 270 ohm",
                "ALARM/output": "Open collector, 50 mA",
                "ENCODER/input": "Differential receiver, RS-422, ended with 120 ohm",
                "ENCODER/plus": "5 V from the board, 0.3 A",
            },
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor with encoder",
            pins_text=terminals(MOTOR="A+ A- B+ B-", ENCODER="EA+ EA- EB+ EB- VCC EGND"),
            numbers={"current_a": 4.0, "resistance_ohm": 0.6, "steps_per_turn": 200},
        ),
        "height": Draft(
            kind="relay module", title="Height board",
            pins_text=terminals(POWER="24V 0V", UP="COM NO", DOWN="COM NO"),
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.1},
        ),
        "source": Draft(
            kind="controller", title="Cutting source",
            pins_text=terminals(MAINS="L N PE", START="START START", OK="ARC_OK ARC_OK"),
            circuits={"START/input": PULLED_UP},
        ),
        "switch": Draft(
            kind="switch", title="Switch of the floating head", pins_text="C\nNO\nNC",
            numbers={"contact_max_a": 3},
        ),
        "home": Draft(
            kind="sensor", title="Inductive sensor, NPN", drive="NPN", pins_text="BN\nBU\nBK",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.02},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop, two contacts", pins_text="11\n12\n21\n22",
            numbers={"contact_max_a": 10},
        ),
        "supply-48": Draft(
            kind="supply", title="Supply, 48 V", pins_text="L\nN\nGND\nV-\nV-\nV+\nV+",
            numbers={"nominal_v": 48, "current_a": 10},
        ),
        "supply-24": Draft(
            kind="supply", title="Supply, 24 V", pins_text="AC/L\nAC/N\nFG\nCOM\n+V",
            numbers={"nominal_v": 24, "current_a": 3},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1\nA2\n1/L1\n2/T1\n3/L2\n4/T2\n5/L3\n6/T3\n13NO\n14NO\n21NC\n22NC",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
    }  # fmt: skip


def placer_drafts() -> dict[str, Draft]:
    """The parts of the placer."""
    motors = {f"MOTOR_{letter}": "1A 1B 2A 2B" for letter in "XYZAB"}
    ends = {f"{letter}_LIM": "5V SIG GND" for letter in "XYZ"}
    loads = dict.fromkeys(("VAC1", "VAC2", "PUMP"), "V+ V-")
    five_v = "5 V from the board, 0.3 A"
    return {
        "board": Draft(
            kind="controller", title="Motion board with drivers",
            pins_text=terminals(
                PWR_IN="VIN GND", **motors, **ends, **loads, LED_UP="5V DATA GND",
                LED_DN="5V DATA GND", I2C="3V3 SDA SCL GND",
            ),
            numbers={"v_min_v": 12, "v_max_v": 28, "current_a": 0.5, "step_rate_max_hz": 1e5},
            circuits={
                "X LIM/input": "3.3 V input, pulled up, for contacts to 0 V",
                "X LIM/plus": five_v, "LED UP/plus": five_v,
                "VAC1/output": "Low-side switch, 0.5 A, with a diode for coils",
                "PUMP/output": "Low-side switch, 0.5 A, with a diode for coils",
                "I2C/plus": "3.3 V from the board, 0.2 A",
            },
        ),
        "motor": Draft(
            kind="stepper motor", title="Motor",
            pins_text="black A+\ngreen A-\nred B+\nblue B-",
            numbers={"current_a": 1.5, "resistance_ohm": 1.6, "steps_per_turn": 200},
        ),
        "hollow": Draft(
            kind="stepper motor", title="Motor with a hollow shaft",
            pins_text="1 A\n2 A\\\n3 B\n4 B\\",
            numbers={"current_a": 0.6, "resistance_ohm": 4, "steps_per_turn": 200},
        ),
        "gate": Draft(
            kind="sensor", title="Light gate", pins_text="+\nS\n-", drive="NPN",
            numbers={"v_min_v": 4.5, "v_max_v": 24, "current_a": 0.02},
        ),
        "pump": Draft(
            kind="load", title="Vacuum pump", pins_text="red +\nblack -",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "valve": Draft(
            kind="valve", title="Vacuum valve", pins_text="red\nred",
            numbers={"nominal_v": 24, "current_a": 0.15},
        ),
        "vacuum": Draft(
            kind="sensor", title="Vacuum sensor on a bus", pins_text="VCC\nGND\nSCL\nSDA",
            numbers={"v_min_v": 3.0, "v_max_v": 3.6, "current_a": 0.005},
        ),
        "ring": Draft(
            kind="lamp", title="Ring light", pins_text="5V\nDIN\nGND",
            numbers={"v_min_v": 4.5, "v_max_v": 5.5, "current_a": 0.05},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text=terminals(IN="L N PE", OUT="+ -"),
            numbers={"nominal_v": 24, "current_a": 6},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop", pins_text="NC1\nNC1\nNC2\nNC2",
            numbers={"contact_max_a": 10},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor", pins_text="A1\nA2\n1\n2\n3\n4\n21\n22",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
    }  # fmt: skip


def lathe_drafts() -> dict[str, Draft]:
    """The parts of the lathe."""
    differential = "Differential receiver, RS-422, ended with 120 ohm"
    five_v, open_collector = "5 V from the board, 0.3 A", "Open collector, 50 mA"
    return {
        "board": Draft(
            kind="controller", title="Motion controller",
            pins_text=terminals(
                DC="24V 0V", X="XP+ XP- XD+ XD-", Z="ZP+ ZP- ZD+ ZD-",
                SPINDLE_ENC="A+ A- B+ B- Z+ Z- 5V 0V",
                IN=" ".join(f"IN{n}" for n in range(1, 9)) + " 24V 0V",
                OUT="OUT1 OUT2 OUT3 OUT4 0V", AO="AVI AGND", ESTOP="ES COM",
            ),
            numbers={"v_min_v": 20, "v_max_v": 28, "current_a": 0.3, "step_rate_max_hz": 5e5},
            circuits={
                "X/output": "5 V output, push-pull, 20 mA", "SPINDLE ENC/input": differential,
                "SPINDLE ENC/plus": five_v, "IN1/input": PULLED_UP, "ESTOP/input": PULLED_UP,
                "OUT1/output": "Low-side switch, 0.5 A, with a diode for coils",
                "AO/output": "Analogue output, 0 to 10 V",
            },
        ),
        "pack": Draft(
            kind="servo drive", title="Servo drive",
            pins_text=terminals(
                L="L1 L2 PE", MOTOR="U V W PE",
                CN2="PA+ PA- PB+ PB- PZ+ PZ- U+ U- V+ V- W+ W- 5V GND",
                CN1="PULS+ PULS- SIGN+ SIGN- COM+ SRV-ON A-CLR ALM+ ALM- S-RDY+ S-RDY- "
                "OA+ OA- OB+ OB- OZ+ OZ- GND",
            ),
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 4},
            circuits={
                "CN2/input": differential, "CN2/plus": five_v,
                "CN1/input": "Isolated input, 5 V: diode and 270 ohm",
                "ALM CN1/output": open_collector, "S-RDY CN1/output": open_collector,
                "ENC OUT CN1/output": "Differential driver, RS-422",
            },
        ),
        "servo": Draft(
            kind="three-phase motor", title="Servo motor",
            pins_text=terminals(
                PWR="U V W PE", ENC="5V 0V A+ A- B+ B- Z+ Z- U+ U- V+ V- W+ W-"
            ),
            numbers={"nominal_v": 220, "current_a": 3},
        ),
        "inverter": Draft(
            kind="frequency inverter", title="Spindle inverter",
            pins_text=terminals(
                POWER="L N PE", MOT="U V W PE", X="FWD REV 10V AI GND", KA="KA KB KC"
            ),
            numbers={"v_min_v": 200, "v_max_v": 240, "current_a": 10},
            circuits={"X/input": "Analogue input, 0 to 10 V", "START/input": PULLED_UP},
        ),
        "spindle": Draft(
            kind="three-phase motor", title="Spindle motor", pins_text="U\nV\nW\nPE",
            numbers={"nominal_v": 220, "current_a": 8},
        ),
        "encoder": Draft(
            kind="encoder", title="Spindle encoder",
            pins_text="RD Vcc\nBK 0V\nGN A\nBN A-\nWH B\nGY B-\nYE Z\nOG Z-",
            numbers={"v_min_v": 4.75, "v_max_v": 5.25, "current_a": 0.1, "lines_per_turn": 1024},
        ),
        "home": Draft(
            kind="sensor", title="Inductive sensor, NPN", drive="NPN", pins_text="BN\nBU\nBK",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.02},
        ),
        "oil": Draft(
            kind="load", title="Oil pump", pins_text="+\n-",
            numbers={"nominal_v": 24, "current_a": 0.3},
        ),
        "relay": Draft(
            kind="relay module", title="Relay on a base", pins_text="A1\nA2\n11\n12\n14",
            numbers={
                "nominal_v": 24, "current_a": 0.04, "v_min_v": 20, "v_max_v": 28,
                "contact_max_a": 6,
            },
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop, two contacts", pins_text="1\n2\n3\n4",
            numbers={"contact_max_a": 10},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1\nA2\n1/L1\n2/T1\n3/L2\n4/T2\n5/L3\n6/T3\n21NC\n22NC",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L\nN\n⏚\nV-\nV+",
            numbers={"nominal_v": 24, "current_a": 3},
        ),
    }  # fmt: skip


def station_drafts() -> dict[str, Draft]:
    """The parts of a pump station."""
    one_a = {"contact_max_a": 1.0}
    return {
        "controller": Draft(
            kind="controller", title="Small controller, relay outputs",
            pins_text=terminals(
                POWER="L+ M", INPUTS="1M 0.0 0.1 0.2 0.3 0.4 0.5 0.6 0.7",
                OUTPUTS="1L 0.0 0.1 0.2 2L 0.3 0.4 0.5", AI="AI0 AI1 AGND",
            ),
            numbers={"v_min_v": 20.4, "v_max_v": 28.8, "current_a": 0.3},
            circuits={
                "INPUTS 0.0/input": "24 V input, type 3, current sinking",
                "AI0/input": "Analogue input, 4 to 20 mA",
            },
        ),
        "supply": Draft(
            kind="supply", title="Supply, 24 V", pins_text="L\nN\nPE\n-\n+",
            numbers={"nominal_v": 24, "current_a": 5},
        ),
        "float": Draft(
            kind="switch", title="Float switch", pins_text="black NO\nblack", numbers=one_a
        ),
        "flow": Draft(
            kind="switch", title="Flow switch", pins_text="brown NC\nblue", numbers=one_a
        ),
        "valve": Draft(
            kind="valve", title="Water valve", pins_text="1\n2",
            numbers={"nominal_v": 24, "current_a": 0.4},
        ),
        "pump": Draft(
            kind="load", title="Pump", pins_text="red\nblack",
            numbers={"nominal_v": 24, "current_a": 2},
        ),
        "pressure": Draft(
            kind="sensor", title="Pressure transmitter", pins_text="1 +\n2 -", drive="current",
            numbers={"v_min_v": 10, "v_max_v": 30},
        ),
        "stop": Draft(
            kind="emergency stop", title="Stop, two contacts", pins_text="11\n12\n21\n22",
            numbers={"contact_max_a": 6},
        ),
        "key": Draft(
            kind="switch", title="Key switch", pins_text="COM\nON", numbers={"contact_max_a": 3}
        ),
        "lights": Draft(
            kind="lamp", title="Beacon", pins_text="0V\nRED\nYELLOW\nGREEN",
            numbers={"nominal_v": 24, "current_a": 0.05},
        ),
        "probe": Draft(
            kind="sensor", title="Level probe, PNP", drive="PNP", pins_text="BN\nBU\nBK",
            numbers={"v_min_v": 10, "v_max_v": 30, "current_a": 0.02},
        ),
        "contactor": Draft(
            kind="contactor", title="Contactor",
            pins_text="A1\nA2\n1/L1\n2/T1\n3/L2\n4/T2\n5/L3\n6/T3\n21NC\n22NC",
            numbers={"nominal_v": 24, "current_a": 0.2, "contact_max_a": 20},
        ),
        "fuses": Draft(
            kind="fuse", title="Fuse block", pins_text="1\n1\n2\n2\n3\n3\n4\n4",
            numbers={"fuse_max_a": 10},
        ),
    }  # fmt: skip
