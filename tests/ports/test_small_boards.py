"""Boards whose lines a program makes inputs or outputs, and the modules that hang on them."""

import unittest

from msgspec.structs import replace

from builder import Builder
from small_board_machines import (
    unwired_incubator,
    unwired_thrower,
    wired_incubator,
    wired_thrower,
)
from street_machines import unwired_walker, wired_vending
from tests.catalogue.test_source_lines import ports_of
from tests.ports.test_spreading import at, grave, placed
from vervain import api
from vervain.catalogue.circuits import circuit_named, circuits_for
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.edits.device_edits import add_device
from vervain.edits.plug_edits import put_conductor
from vervain.electrical.feeds import main_feed_pin
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import Machine, PortRef
from vervain.model.part import Part, PartKind
from vervain.ports.bridge_channels import works_nothing
from vervain.ports.fit import fit
from vervain.ports.why_not_spread import why_not
from vervain.queries.machine_queries import Queries
from vervain.queries.processor_pins import ports_at_one_pin, taken_as

TTL = "5 V input, TTL levels"


def made(text: str, kind: PartKind = "controller", title: str = "X", **circuits: str) -> Part:
    chosen = {f"{key}/input": title for key, title in circuits.items()}
    drive = "volts" if title.startswith("Pot") else "PNP"
    draft = Draft(kind=kind, title=title, pins_text=text, circuits=chosen, drive=drive)
    part = describe(draft, f"my-{kind.replace(' ', '-')}-{len(text)}").part
    assert part is not None
    return part


class Lines(unittest.TestCase):
    def test_a_line_gives_what_its_processor_gives_and_only_one_of_both_is_used(self) -> None:
        for circuit, gives_v in ((TTL, 5.0), ("3.3 V input, not for 5 V", 3.3)):
            part = made("VIN GND\nD2 D3", D2=circuit)
            reads, gives = (part.port(name).pins[0].electrical for name in ("D2", "D2 OUT"))
            assert isinstance(reads, LogicInput) and isinstance(gives, LogicOutput)
            self.assertEqual(gives_v, gives.high_max_v)
        # Of what is not told neither is known; what is only read is no output.
        self.assertIsNone(made("VIN GND\nD2 D3").port("D2 OUT").pins[0].electrical)
        self.assertIsNone(made("VIN GND\nD2 D3", D2="24 V input, type 3, current sinking")
                          .port("D2 OUT"))  # fmt: skip
        self.assertIsNone(made("VIN GND\nA0 A1").port("A0 OUT"))
        # What is only called so is no line of a processor, and no output of one.
        board = made("VIN GND\nD2 D3\nD2 OUT: + -\nPROBE: S G\nPROBE OUT: + -", D2=TTL)
        self.assertEqual(1, sum(port.id == "D2 OUT" for port in board.ports))
        shared = [e.pins for e in board.inside if getattr(e, "name", "")]
        self.assertEqual([(("D3", "1"), ("D3 OUT", "1"))], shared)
        queries = Queries(wired_thrower())
        for port, other in (("D2", "D2 OUT"), ("D8 OUT", "D8")):
            ref, there = (PortRef(device="K1", port=name) for name in (port, other))
            self.assertEqual(((f"pin {port.split()[0]} of the processor", there),),
                             ports_at_one_pin(queries, ref))  # fmt: skip
            self.assertEqual(there, taken_as(queries, ref))
            self.assertIsNone(taken_as(queries, there))

    def test_one_choice_tells_all_lines_of_a_processor(self) -> None:
        self.assertTrue(all(c.gives for c in circuits_for("input", gives_too=True)[:3]))
        self.assertFalse(circuits_for("input")[0].gives)
        for volts in (5.0, 3.3):
            line = f"Line of a {volts:g} V processor, pulled up"
            draft = Draft(kind="controller", title="X", circuits={"D2/input": line},
                          pins_text="VIN GND\nD2 D3\nA0 A1")  # fmt: skip
            said = describe(draft, "my-x")
            self.assertEqual((), said.unknown)
            assert said.part is not None
            wanted = circuit_named(f"Analogue input, 0 to {volts:g} V")
            assert wanted is not None
            self.assertEqual(wanted.electrical, said.part.port("A0").pins[0].electrical)

    def test_what_shares_the_pin_of_a_line_does_not_fit_and_is_told(self) -> None:
        machine = wired_thrower()
        plug, line = PortRef(device="N2", port="LEADS"), PortRef(device="K1", port="D2")
        answer = fit(Queries(machine), plug, line)
        self.assertEqual("does not fit", answer.verdict)
        self.assertIn("D2 OUT, where A3 sits", answer.reason)
        wrong = put_conductor(machine, at("N2:LEADS:2"), at("K1:D2:1"))
        self.assertIn("ports.shared-pin", grave(wrong))

    def test_two_keys_wire_a_thrower_and_an_incubator(self) -> None:
        for begun, wired in ((unwired_thrower, wired_thrower),
                             (unwired_incubator, wired_incubator)):  # fmt: skip
            machine, proposal = placed(begun())
            with self.subTest(machine.name):
                self.assertEqual((), proposal.conflicts)
                self.assertEqual([], grave(wired()))
                loose = [f.sentence for f in api.check(wired()).to_do if f.rule == "ports.loose"]
                self.assertEqual([], loose)

    def test_a_bus_and_a_line_too_few_are_told(self) -> None:
        machine = Machine(name="Small")
        build = Builder(machine)
        build.add("K1", made("VIN GND\nD2 D3", D2=TTL), "Board")
        build.add("B1", made("VCC GND SDA SCL", "sensor"), "Tilt")
        self.assertEqual(
            "Say on Machine which lines of K1 are a bus.",
            why_not(Queries(build.machine), PortRef(device="B1", port="LEADS")),
        )
        build.add("A1", made("B+ B-\nM+ M-\nPWM DIR GND", "motor bridge", CONTROL=TTL), "East")
        build.add("A2", made("B+ B-\nM+ M-\nPWM DIR GND", "motor bridge", CONTROL=TTL), "West")
        machine, proposal = placed(build.machine)
        words = [c.words for c in proposal.conflicts]
        self.assertTrue(any("Every line of K1 is in use." in text for text in words), words)

    def test_the_rows_of_a_keypad_are_driven_and_its_columns_read(self) -> None:
        line = "Line of a 5 V processor, pulled up"
        machine = add_device(
            Machine(name="Door"), made("VIN GND 5V\nD2 D3 D4 D5", D2=line), "Board"
        )
        machine, proposal = placed(add_device(machine, made("R1 R2 C1 C2", "switch"), "Keys"))
        self.assertEqual((), proposal.conflicts)
        joined = {
            c.a: h.b.port for h in machine.hookups for c in h.conductors if h.a.port == "LEADS"
        }
        driven = [joined[pin].endswith(" OUT") for pin in ("1", "2", "3", "4")]
        self.assertEqual([True, True, False, False], driven)
        self.assertEqual(4, len({port.removesuffix(" OUT") for port in joined.values()}))
        self.assertEqual([], [f.sentence for f in api.check(machine).open
                              if f.rule.startswith(("ports.", "leads."))])  # fmt: skip

    def test_a_keypad_goes_to_the_lines_of_its_name_print_by_print(self) -> None:
        queries = Queries(wired_vending())
        for pin in queries.port(PortRef(device="S6", port="LEADS")).pins:
            (step,) = queries.steps(at(f"S6:LEADS:{pin.id}"))
            self.assertEqual(("K1", f"KEYS {pin.name}"), (step.end.device, step.end.port))

    def test_lights_are_no_servos_and_volts_of_a_load_are_those_of_its_output(self) -> None:
        eyes = made("5V DIN GND", "lamp", "Eyes")
        lamp = describe(
            Draft(kind="lamp", title="Lamp", pins_text="+ -",
                  numbers={"nominal_v": 12, "current_a": 0.01}), "my-lamp",
        ).part  # fmt: skip
        assert lamp is not None
        machine = add_device(unwired_walker(), eyes, "Eyes", "H1")
        machine = add_device(machine, lamp, "Lamp", "H2")
        machine = add_device(machine, made("VIN GND\n5V GND\nD2 D3", D2=TTL), "Board", "K2")
        queries = Queries(machine)
        for plug, host, words in (
            ("H1", PortRef(device="A1", port="BUS1"), "no parts of one string"),
            ("H1", PortRef(device="M1", port="OUT"), "no parts of one string"),
            ("H2", PortRef(device="K2", port="D2 OUT"), "It gives 5 V"),
        ):
            answer = fit(queries, PortRef(device=plug, port="LEADS"), host)
            self.assertEqual("does not fit", answer.verdict)
            self.assertIn(words, answer.reason)

    def test_pnp_at_an_input_without_a_resistor_gets_one_to_0_v(self) -> None:
        sensor = describe(
            Draft(kind="sensor", title="Eye", pins_text="BN BU BK", drive="PNP",
                  numbers={"v_min_v": 4.5, "v_max_v": 30}), "my-eye",
        ).part  # fmt: skip
        assert sensor is not None
        board = made("5V GND\nIN1 5V GND", IN1=TTL)
        build = Builder(Machine(name="Eye"))
        build.add("K1", board)
        build.add("B1", sensor)
        machine = api.apply_placements(build.machine, api.place(build.machine).placements)
        names = [device.name for device in machine.devices]
        self.assertIn("Pull-down of K1 IN1", names)
        self.assertNotIn("signals.pull-down", grave(machine))

    def test_lamps_in_a_string_hear_an_output_of_their_own_volts(self) -> None:
        draft = Draft(kind="lamp", title="Lamps in a string", pins_text="DIN 5V GND",
                      numbers={"nominal_v": 5, "current_a": 0.1})  # fmt: skip
        string = describe(draft, "my-string").part
        assert string is not None
        for volts, reason in (("5 V", ""), ("3.3 V", "Its high is only 2.4 V")):
            line = f"Line of a {volts} processor, pulled up"
            machine = add_device(Machine(name="Door"), made("VIN GND 5V\nD2 D3", D2=line), "Board")
            _, proposal = placed(add_device(machine, string, "Lamps"))
            with self.subTest(volts):
                self.assertEqual(bool(reason), bool(proposal.conflicts))
                self.assertIn(reason, " ".join(c.words for c in proposal.conflicts))


class Modules(unittest.TestCase):
    def test_a_load_lies_on_the_side_that_an_output_does_not_switch(self) -> None:
        load = replace(made("1 2 3+ 4-", "solid-state relay"), id="my-relay")
        supply = made("L N V- V+", "supply")
        for drive, wanted in (("NPN", ("4-", "1")), ("push-pull", ("3+", "1"))):
            board = made("24V GND\nSSR0 SSR1 GND")
            output = LogicOutput(drive=drive, low_max_v=0.4, high_max_v=5.0, current_a=1.0)
            ports = tuple(
                replace(port, pins=(replace(port.pins[0], electrical=output), *port.pins[1:]))
                if port.kind == "switched output" else port
                for port in board.ports
            )  # fmt: skip
            machine = Machine(name="B")
            for name, part in (("K1", replace(board, ports=ports)), ("A1", load), ("G1", supply)):
                machine = add_device(machine, part, name, name)
            plug, host = (PortRef(device=d, port=p) for d, p in (("A1", "CONTROL"), ("K1", "SSR0")))
            with self.subTest(drive):
                self.assertIn(wanted, fit(Queries(machine), plug, host).pairs)
                joined = put_conductor(machine, at(f"A1:CONTROL:{wanted[0]}"), at("K1:SSR0:1"))
                wrong = [f for f in api.check(joined).open if f.rule == "leads.swapped"]
                self.assertEqual([], wrong)

    def test_small_modules_by_what_is_printed_there(self) -> None:
        load = ("load", "load-", "zero")
        cases: list[tuple[PartKind, str, dict[str, tuple[str, ...]]]] = [
            ("relay module", "VCC GND SIG\nV+ V-\nOUT+ OUT-", {
                "POWER": ("feed in", "plus", "zero"), "POWER V+": ("feed in", "plus", "zero"),
                "IN": load, "OUT": ("switched output", "plus", "load-"),
            }),
            ("relay module", "SIG VCC GND\nVIN GND\nV+ V-", {
                "PORT": ("feed in", "plus", "zero"), "PORT VIN": ("feed in", "plus", "zero"),
                "SIG": ("load", "load-"), "OUT": ("switched output", "plus", "load-"),
            }),
            ("stepper driver", "EN STEP DIR\nVMOT GND 2B 2A 1A 1B VDD GND", {
                "CONTROL": ("step and direction", "enable", "step", "direction"),
                "POWER": ("feed in", "plus", "zero"), "LOGIC": ("feed in", "plus", "zero"),
                "MOTOR": ("motor phases", "phase B-", "phase B+", "phase A+", "phase A-"),
            }),
            ("motor bridge", "BAT+ BAT-\nM+ M-\nSIG +5V GND", {
                "BAT": ("feed in", "plus", "zero"), "M": ("bridge output", "motor+", "motor-"),
                "PLUG 3": ("bridge control", "pulse width", "plus", "zero"),
            }),
            ("sensor", "5V GND DOUT CLK", {
                "LEADS": ("sensor", "plus", "zero", "signal", "enable"),
            }),
            ("controller", "5V GND\n3V3 EN\nIN1 IN2", {
                "POWER": ("feed in", "plus", "zero"), "3V3 OUT": ("feed out", "plus"),
                "EN": ("terminals", "none"), "IN1": ("digital input", "signal"),
                "IN2": ("digital input", "signal"),
            }),
        ]  # fmt: skip
        for kind, text, wanted in cases:
            with self.subTest(text):
                self.assertEqual(wanted, ports_of(made(text, kind)))

    def test_the_lines_of_a_board_have_the_plus_that_it_gives_in_a_row(self) -> None:
        part = made("7-12V GND\n5V 5V 5V\nGND GND\nD2 D3")
        self.assertEqual(["signal", "plus", "zero"], [p.function for p in part.port("D3").pins])
        part = made("VBUS VSYS GND 3V3 GP0 GP1 RUN\nGP2 GP3")
        self.assertEqual("VSYS", part.port("POWER").pins[0].text)

    def test_a_potentiometer_whose_terminals_are_counted_and_a_solid_state_relay(self) -> None:
        knob = made("1 2 3", "sensor", "Potentiometer")
        self.assertEqual(["plus", "signal", "zero"], [p.function for p in knob.ports[0].pins])
        for text in ("1 ~ 2 ~\n3 + 4 -", "~ ~\n+ -", "LOAD~ LOAD~\nIN+ IN-", "T1 T2\nA1+ A2-"):
            relay = made(text, "solid-state relay")
            with self.subTest(text):
                self.assertEqual(["load", "terminals"], [port.kind for port in relay.ports])
        said = describe(
            Draft(kind="solid-state relay", title="X", pins_text="VCC GND SIG\nOUT+ OUT-"), "my-x"
        )
        self.assertIn("describe it as a relay module", said.problems[-1])

    def test_what_enables_a_bridge_is_held_high_and_missed(self) -> None:
        bridge = made("B+ B-\nM+ M-\nRPWM LPWM R_EN L_EN VCC GND", "motor bridge", CONTROL=TTL)
        board = made("VIN GND 5V\nD2 D3 D4 D5", D2=TTL)
        machine = add_device(add_device(Machine(name="Mover"), board, "Board"), bridge, "Mover")
        machine, _ = placed(add_device(machine, made("+ -", "brushed motor"), "Mover"))
        hookup = next(h for h in machine.hookups if h.a.port == "CONTROL")
        self.assertEqual({("3", "2"), ("4", "2")},
                         {(c.a, c.b) for c in hookup.conductors if c.a in ("3", "4")})  # fmt: skip
        self.assertNotIn("ports.wrong-kind", grave(machine))
        less = replace(hookup, conductors=tuple(c for c in hookup.conductors if c.a != "4"))
        told = api.check(replace(machine, hookups=tuple(
            less if h is hookup else h for h in machine.hookups
        ))).open  # fmt: skip
        words = [f.sentence for f in told if f.rule == "ports.need"]
        self.assertTrue(any("L_EN does not reach what enables it" in text for text in words), words)

    def test_the_channel_without_a_motor_needs_no_lines(self) -> None:
        queries = Queries(wired_thrower())
        self.assertFalse(works_nothing(queries, PortRef(device="A3", port="CONTROL A")))
        self.assertTrue(works_nothing(queries, PortRef(device="A3", port="CONTROL B")))
        bare = Queries(unwired_thrower())
        self.assertFalse(works_nothing(bare, PortRef(device="A3", port="CONTROL B")))

    def test_what_heats_with_15_w_at_the_most_wants_no_cut_out(self) -> None:
        for current_a, is_told in ((1.25, False), (1.26, True)):
            machine = Machine(name="Dew")
            for kind, text, numbers in (
                ("battery", "+ -", {"nominal_v": 12.0, "current_a": 10.0}),
                ("heater", "+ -", {"nominal_v": 12.0, "current_a": current_a}),
            ):  # fmt: skip
                draft = Draft(kind=kind, title="X", pins_text=text, numbers=numbers)
                part = describe(draft, f"my-{kind}").part
                assert part is not None
                machine = add_device(machine, part, kind, "B1" if kind == "battery" else "E1")
            for n in ("1", "2"):
                machine = put_conductor(machine, at(f"B1:PORT:{n}"), at(f"E1:LEADS:{n}"))
            with self.subTest(current_a):
                self.assertEqual(is_told, "signals.heater-cutout" in grave(machine))

    def test_no_motor_brakes_into_what_feeds_the_logic_of_a_module(self) -> None:
        queries = Queries(wired_incubator())
        pin = main_feed_pin(queries, "A1")
        self.assertEqual("POWER", pin.port if pin is not None else "")
