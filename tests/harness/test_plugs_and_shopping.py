"""Plugs cavity by cavity, what each end gets, and the list of everything to buy."""

import unittest
from collections import Counter
from itertools import pairwise
from math import dist

from msgspec.structs import replace

from tests import small
from tests.rules.harness_cases import fan_on_a_run
from vervain.catalogue.describe import describe
from vervain.catalogue.drafts import Draft
from vervain.edits import note_edits, route_edits
from vervain.edits.cable_edits import set_own_sleeve
from vervain.files.demos import DEMOS, open_demo
from vervain.harness.bundles import bundle_of, strand_of_cable
from vervain.harness.fittings import sleeve_for
from vervain.harness.label_texts import label_texts
from vervain.harness.lengths import cable_length
from vervain.harness.plugs import all_plugs, cavity_places, label_of_wire, plug_at
from vervain.harness.shapes import Frame
from vervain.harness.shopping import SPARE, cutting_of, pieces_by_part, shopping_list
from vervain.harness.terminations import is_seated, termination
from vervain.model.machine import Machine, PinRef, PortRef, Reel, ends_of
from vervain.model.problem import Problem
from vervain.queries.machine_queries import Queries
from vervain.tables.cell_edits import edit_for
from vervain.tables.conductor_face import conductor_face
from vervain.tables.cut_face import cut_face
from vervain.tables.cutting_plan import cutting_rows, draw_cutting
from vervain.text.quantities import NotAQuantity

PLANNED = open_demo("glazing-gantry-as-planned")
LOOK = Queries(PLANNED)


def items(machine, section: str) -> dict[str, tuple[float, float]]:
    return {
        item.name: (item.needed, item.to_get)
        for item in shopping_list(Queries(machine))
        if item.section == section
    }


class Plugs(unittest.TestCase):
    def test_a_controller_s_input_is_a_housing_with_sockets(self) -> None:
        plug = plug_at(LOOK, PortRef(device="K1", port="IN 7"))
        self.assertEqual("crimp connector 2.5 mm, 3-way", plug.words)
        self.assertEqual(("sockets", True, False), (plug.contacts, plug.keyed, plug.is_terminal))
        wires = [wire for cavity in plug.cavities for wire in cavity.wires]
        self.assertEqual(["BN", "BK", "BU"], [wire.colour for wire in wires])
        self.assertEqual(["W19.1", "W19.2", "W19.3"], [label_of_wire(LOOK, w) for w in wires])
        self.assertEqual({True}, {wire.end.fits for wire in wires})

    def test_the_halves_of_an_in_line_connector_mate(self) -> None:
        first = plug_at(LOOK, PortRef(device="X14", port="A"))
        second = plug_at(LOOK, PortRef(device="X14", port="B"))
        self.assertEqual(("X14 B", "X14 A"), (first.mate, second.mate))
        self.assertEqual({"pins", "sockets"}, {first.contacts, second.contacts})

    def test_every_conductor_is_in_the_plugs_at_its_connectors(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            shown = sum(len(c.wires) for plug in all_plugs(queries) for c in plug.cavities)
            ends = [
                (end, pin)
                for hookup in open_demo(demo.key).hookups
                if not is_seated(queries, hookup.id)
                for row in hookup.conductors
                for end, pin in ((hookup.a, row.a), (hookup.b, row.b))
                if queries.port(end).connector is not None
            ]
            with self.subTest(demo.key):
                self.assertEqual(len(ends), shown)

    def test_an_empty_cavity_is_counted_and_an_unused_port_is_no_plug(self) -> None:
        plug = plug_at(LOOK, PortRef(device="K1", port="IN 8"))
        self.assertEqual(1, plug.empty)
        self.assertIsNone(plug_at(Queries(small.powered_controller().machine),
                                  PortRef(device="K1", port="IN 8")))  # fmt: skip

    def test_the_mating_side_is_the_mirror_image(self) -> None:
        for name, count in (("crimp-2.5-4", 4), ("pin-2.54-2x8", 16), ("round-8", 8)):
            wires = cavity_places(name, count, "wires")
            mating = cavity_places(name, count, "mating")
            with self.subTest(name):
                self.assertEqual(count, len(set(wires)))
                self.assertEqual([(-x, y) for x, y in wires], list(mating))

    def test_two_rows_are_numbered_in_columns_and_round_ones_clockwise(self) -> None:
        places = cavity_places("pin-2.54-2x8", 16, "wires")
        self.assertEqual((places[0][0], 1.0), (places[1][0], places[1][1] - places[0][1]))
        ring = cavity_places("round-4", 4, "wires")
        self.assertTrue(ring[0][1] < 0 < ring[1][0] and ring[2][1] > 0 > ring[3][0])
        for count in range(4, 13):
            # From 7 on one is in the middle; the others are a pitch from their neighbours.
            around = cavity_places(f"round-{count}", count, "wires")[: count - (count >= 7)]
            apart = [dist(one, two) for one, two in pairwise((*around, around[0]))]
            self.assertAlmostEqual(min(apart), max(apart))
            self.assertAlmostEqual(1.0 if count > 4 else max(1.0, min(apart)), min(apart), 1)


class Ends(unittest.TestCase):
    def end(self, cable: str, core: int, port: str) -> str:
        for hookup in LOOK.hookups_in(cable):
            for row in hookup.conductors:
                for ref, pin in ((hookup.a, row.a), (hookup.b, row.b)):
                    if row.core == core and f"{ref.device} {ref.port}" == port:
                        pin_ref = PinRef(device=ref.device, port=ref.port, pin=pin)
                        return termination(LOOK, hookup.id, pin_ref).item
        raise AssertionError(port)

    def test_what_each_kind_of_port_takes(self) -> None:
        for cable, core, port, item in (
            ("W14", 1, "T4 MOTOR", "ferrule 1 mm² × 8 mm, RD"),
            ("W14", 1, "X14 B", "socket contact for round plug"),
            ("W19", 1, "K1 IN 7", "socket contact for crimp connector 2.5 mm"),
            ("W22", 1, "K3 ENCODER", "ferrule 0.14 mm² × 6 mm, GY, colour by the trade"),
            ("W23", 1, "B2 LEADS", "splice, insulated"),
        ):
            with self.subTest(port):
                self.assertEqual(item, self.end(cable, core, port))

    def test_ends_at_a_board_whose_plugs_nobody_said_are_left_open_and_told(self) -> None:
        build = small.bench("G1 fell-ps24")
        for name, kind, text in (
            ("K1", "controller", "24V 0V\nIN1 IN2 COM"), ("Q1", "contactor", "A1 A2 13 14"),
        ):  # fmt: skip
            numbers = {"nominal_v": 24.0, "current_a": 0.1, "v_min_v": 20.0, "v_max_v": 28.0}
            draft = Draft(kind=kind, title=name, pins_text=text, numbers=numbers)
            build.add(name, describe(draft, f"my-{name}").part)
        build.cable("W1", "flex-2x0.5", 1.0)
        build.join("G1:OUT", "K1:POWER", "1-1 2-2", "W1")
        look = Queries(build.machine)
        hookup = look.hookups_in("W1")[0]
        ends = [termination(look, hookup.id, pin) for pin in ends_of(hookup, hookup.conductors[0])]
        self.assertEqual({"ferrule", "not said"}, {end.form for end in ends})
        lines = [item for item in shopping_list(look) if item.section == "Not counted"]
        self.assertEqual(["K1 POWER"], [item.name for item in lines])
        self.assertNotIn("splice", " ".join(item.name for item in shopping_list(look)))


class Shopping(unittest.TestCase):
    def test_everything_is_bought_once_with_the_spare(self) -> None:
        ferrules = items(PLANNED, "Ferrules")
        # 21 ends of 1 mm2: five motors' and the booth's; 10 % over is 23.1.
        self.assertEqual((21, 24), ferrules["ferrule 1 mm² × 8 mm, RD"])
        none = route_edits.set_allowances(PLANNED, spare_ratio=0)
        self.assertEqual((21, 21), items(none, "Ferrules")["ferrule 1 mm² × 8 mm, RD"])

    def test_what_is_bought_is_less_what_is_on_hand_and_in_sold_lengths(self) -> None:
        # 24.8 and 2.5 over, of which 12 lie on a reel: two of ten metres.
        name = "Motor cable 4 x 1.0 mm2, shielded, flexing"
        self.assertEqual((24.8, 20.0), items(PLANNED, "Cable")[name])
        self.assertEqual((24.8, 30.0), items(replace(PLANNED, reels=()), "Cable")[name])
        # By the metre, where nobody said in which lengths it is sold.
        self.assertEqual((2.4, 2.7), items(PLANNED, "Cable")["Brown wire, 0.5 mm2"])

    def test_no_planned_demonstration_has_a_conductor_without_gauge_and_length(self) -> None:
        for demo in DEMOS:
            face = conductor_face(Queries(open_demo(demo.key)), {})
            open_ends = [
                row.cells[:8] for row in face.rows
                if None in (face.cell(row, "area_mm2"), face.cell(row, "length_m"))
            ]  # fmt: skip
            if demo.key.endswith("planned"):
                self.assertEqual([], open_ends, demo.key)

    def test_two_alike_wires_in_one_terminal_get_one_twin_ferrule(self) -> None:
        def ferrules(*kinds: str, at: str = "G1:OUT") -> dict[str, float]:
            build = small.bench("G1 fell-ps24", "K1 tarn-mc5", "X1 quoin-ts8")
            for number, kind in enumerate(kinds, 1):
                build.cable(f"W{number}", kind, 0.3)
                build.join(at, f"X1:{number}", "1-1", f"W{number}")
            return {name: needed for name, (needed, _) in items(build.machine, "Ferrules").items()}

        single, twin = "ferrule 0.5 mm² × 8 mm, WH", "twin ferrule 2 × 0.5 mm² × 8 mm, WH"
        red, brown = "wire-rd-0.5", "wire-bn-0.5"
        self.assertEqual({single: 2, twin: 1}, ferrules(red, brown))
        self.assertEqual({single: 6}, ferrules(red, brown, red))
        self.assertNotIn(twin, ferrules(red, "wire-bn-2.5"))
        thick = "wire-rd-2.5", "wire-bn-2.5"
        self.assertIn("twin ferrule 2 × 2.5 mm² × 10 mm, BU", ferrules(*thick))
        # Two of 2.5 mm2 are more than the controller's smaller terminal takes.
        self.assertEqual(["ferrule 2.5 mm² × 8 mm, BU"], [*ferrules(*thick, at="K1:POWER")])

    def test_shields_are_joined_where_it_is_said(self) -> None:
        where = [cable for cable in PLANNED.cables if cable.shield_to]
        ends = sum(len(cable.shield_to) for cable in where)
        named = {n: c for n, (c, _) in items(PLANNED, "Terminals").items() if "shield" in n}
        self.assertEqual(ends, sum(named.values()))

    def test_nothing_is_bought_for_what_comes_ready_or_is_pushed_in(self) -> None:
        printer = open_demo("clay-printer-as-planned")
        told = {**items(printer, "Contacts"), **items(printer, "Housings")}
        self.assertFalse([name for name in told if "socket strip" in name])
        self.assertFalse([t for t in label_texts(Queries(printer)) if "SLOT" in t.at + t.to])
        conductors = conductor_face(Queries(printer), {})
        self.assertFalse([row for row in conductors.rows if "SLOT" in str(row.cells)])
        self.assertEqual({}, items(small.servo(), "Contacts") | items(small.servo(), "Housings"))

    def test_two_wires_in_one_contact_are_one_contact_for_both(self) -> None:
        contacts = items(PLANNED, "Contacts")
        shared = {name.partition(", for ")[2] for name in contacts if "×" in name or "+" in name}
        self.assertEqual({"2 × 0.5 mm²", "2 × 0.5 mm² + 0.75 mm²"}, shared)
        cavities = sum(
            any(wire.end.form == "contact" for wire in cavity.wires)
            for plug in all_plugs(LOOK) for cavity in plug.cavities
        )  # fmt: skip
        self.assertEqual(cavities, sum(needed for needed, _ in contacts.values()))

    def test_what_cannot_be_counted_says_so_and_how_to_put_it_right(self) -> None:
        self.assertEqual({}, items(PLANNED, "Not counted"))
        devices = tuple(
            replace(d, place=None) if d.designator == "X11" else d for d in PLANNED.devices
        )
        queries = Queries(replace(PLANNED, devices=devices))
        told = {i.name: i.detail for i in shopping_list(queries) if i.section == "Not counted"}
        self.assertIn("W11, Motor cable 4 x 1.0 mm2, shielded, flexing", told)
        self.assertIn("lay it on its way", " ".join(told.values()))
        build = small.Builder(small.bench("G1 fell-ps24", "K1 tarn-mc5").machine)
        build.join("G1:OUT", "K1:POWER", "1-1 2-2")
        self.assertEqual(["G1 OUT to K1 POWER"], list(items(build.machine, "Not counted")))

    def test_every_piece_is_cut_once_from_something_long_enough(self) -> None:
        for demo in DEMOS:
            queries = Queries(open_demo(demo.key))
            rows = cutting_rows(queries)
            cut = Counter((name, length) for row in rows for name, length in row.pieces)
            wanted: Counter = Counter()
            for part_id, pieces in pieces_by_part(queries).items():
                part = queries.cable_part(part_id)
                on_reel = any(reel.part == part_id for reel in queries.reels())
                if not part.ready_made and (part.stock_m or on_reel):
                    wanted.update((piece.name, piece.length_m) for piece in pieces)
            with self.subTest(demo.key):
                spares = {key: n for key, n in cut.items() if key[0] == SPARE}
                self.assertEqual(wanted, cut - Counter(spares))
                for row in rows:
                    used_m = sum(length_m for _, length_m in row.pieces)
                    self.assertAlmostEqual(row.length_m, used_m + row.left_m, 6)
        drawn = draw_cutting(LOOK, 500.0)[0]
        bars = [shape for shape in drawn.shapes if isinstance(shape, Frame)]
        self.assertAlmostEqual(500.0, max(bar.box.width for bar in bars))
        self.assertLessEqual(max(bar.box.x + bar.box.width for bar in bars), 500.001)

    def test_a_reel_goes_first_and_the_plan_says_what_is_bought(self) -> None:
        found = {item.name: item.detail for item in shopping_list(LOOK)}
        words = found["Motor cable 4 x 1.0 mm2, shielded, flexing"]
        self.assertTrue(words.startswith("from Reel 1; buy"), words)
        without = replace(PLANNED, reels=())
        plan = cutting_of(Queries(without), "motor-4x1")
        self.assertEqual((30.0, True), (plan.bought_m, plan.exact))
        long = replace(PLANNED, reels=(Reel(id="Drum", part="motor-4x1", length_m=100),))
        self.assertEqual(0, cutting_of(Queries(long), "motor-4x1").bought_m)

    def test_glands_only_where_a_box_has_walls(self) -> None:
        self.assertTrue(items(PLANNED, "Glands"))
        self.assertEqual(
            {}, items(route_edits.change_place(PLANNED, "box", closed=False), "Glands")
        )
        self.assertEqual({"cable gland M12": (1, 1)}, items(fan_on_a_run(), "Glands"))

    def test_a_sheath_is_closed_with_heat_shrink_at_both_ends(self) -> None:
        shrink = [i for i in shopping_list(Queries(fan_on_a_run())) if i.section == "Heat-shrink"]
        self.assertEqual(["2 cable ends of 40 mm"], [item.detail for item in shrink])
        self.assertEqual([0.08], [item.needed for item in shrink])

    def test_sleeve_for_loose_runs_only(self) -> None:
        names = [item.detail for item in shopping_list(LOOK) if item.section == "Sleeves"]
        laid = {run for detail in names for run in detail.split(", ")}
        self.assertEqual({"R1", "R3", "R5", "R7"}, laid)

    def test_a_cable_with_a_sleeve_of_its_own_lies_beside_that_of_its_bundle(self) -> None:
        sleeves = {i.name: i.needed for i in shopping_list(LOOK) if i.section == "Sleeves"}
        shared = next(run for run in ("R1", "R3", "R5", "R7") if bundle_of(LOOK, run).in_sleeve > 2)
        cable_id = next(s.name for s in bundle_of(LOOK, shared).strands if not s.is_lead)
        queries = Queries(set_own_sleeve(PLANNED, cable_id, own_sleeve=True))
        after = {i.name: i for i in shopping_list(queries) if i.section == "Sleeves"}
        size = f"braided sleeve {sleeve_for(strand_of_cable(queries, cable_id).diameter_mm)} mm"
        length_m = cable_length(queries, cable_id).used_m
        self.assertIn(cable_id, after[size].detail)
        self.assertAlmostEqual(length_m, after[size].needed - sleeves.get(size, 0), 3)
        left = bundle_of(queries, shared)
        self.assertEqual(bundle_of(LOOK, shared).in_sleeve - 1, left.in_sleeve)
        self.assertEqual(bundle_of(LOOK, shared).diameter_mm, left.diameter_mm)

    def test_fuses_by_their_rating_and_prices_by_item(self) -> None:
        fuses = items(PLANNED, "Fuses")
        self.assertIn("Blade fuse holder, 15 A", fuses)
        # The link besides its holder, and one for the day that it blows.
        self.assertEqual((1, 2), fuses["fuse link, blade, 15 A"])
        machine = note_edits.set_prices(PLANNED, {"Blade fuse holder, 15 A": 2.5, "x": 1.0})
        machine = note_edits.set_prices(machine, {"x": None})
        self.assertEqual({"Blade fuse holder, 15 A": 2.5}, dict(machine.prices))

    def test_a_price_is_written_as_one_writes_money_and_its_currency_is_everybodys(self) -> None:
        face = cut_face(LOOK, PLANNED)
        row, item = face.rows[0], str(face.cell(face.rows[0], "item"))

        def priced(text: str) -> Machine:
            return edit_for(face, "price", [row], text, dict)(PLANNED)

        for text, price, currency in (
            ("2.5", 2.5, ""), ("2,50 €", 2.5, "€"), ("£ 3", 3.0, "£"), ("CHF 0,8", 0.8, "CHF"),
        ):  # fmt: skip
            machine = priced(text)
            with self.subTest(text):
                self.assertEqual((price, currency), (machine.prices[item], machine.currency))
                titles = [column.title for column in cut_face(Queries(machine), machine).columns]
                self.assertIn(f"Price {currency}".strip(), titles)
                self.assertIn(f"Cost {currency}".strip(), titles)
        # A figure alone leaves the currency that is there.
        again = edit_for(face, "price", [row], "4", dict)(priced("2,50 €"))
        self.assertEqual("€", again.currency)
        for text in ("-3", "much", "3 €€€€€€€€", "1e99", "1,2,3"):
            with self.subTest(text), self.assertRaises((Problem, NotAQuantity)):
                priced(text)

    def test_spare_cores_are_capped_at_both_ends_where_they_are_to_be_insulated(self) -> None:
        # Four of twelve in W41, one of four in W21.
        caps = {name: n for name, n in items(PLANNED, "Terminals").items() if "cap" in name}
        self.assertEqual({"end cap for a core of 0.25 mm²": (8, 9),
                          "end cap for a core of 1 mm²": (2, 3)}, caps)  # fmt: skip
        bare = replace(
            PLANNED, cables=tuple(replace(cable, spares="cut back") for cable in PLANNED.cables)
        )
        self.assertFalse([name for name in items(bare, "Terminals") if "cap" in name])

    def test_a_label_for_every_end(self) -> None:
        counted = items(PLANNED, "Labels")
        self.assertEqual(len(label_texts(LOOK)), sum(needed for needed, _ in counted.values()))

    def test_a_cable_without_a_length_is_not_guessed(self) -> None:
        machine = route_edits.put_device(fan_on_a_run(), "M1", None)
        self.assertEqual({}, items(machine, "Cable"))
