"""Boards that no shelf has, described in the window."""

from PyQt6.QtCore import Qt

from tests.desktop.case import DescribingCase

Key = Qt.Key


class OwnBoards(DescribingCase):
    """A board that no shelf has, from its manual's table to the machine, in the window."""

    def setUp(self) -> None:
        super().setUp()
        self.page.kind.setCurrentText("controller")

    def choose(self, key: str, text: str) -> None:
        box = self.page.groups.boxes[key]
        box.setCurrentText(text)
        box.activated.emit(box.currentIndex())

    def test_from_the_table_to_a_device_on_ports(self) -> None:
        page = self.page
        self.keys(page.title, "Small board")
        page.figures.fields["v_min_v"][0].setText("18")
        page.figures.fields["v_max_v"][0].setText("30")
        rows = ("port\tpin\tsignal", "PWR\t1\t24V", "PWR\t2\t0V", "IN 1-6\t1\t24V",
                "IN 1-6\t2\tIN", "IN 1-6\t3\t0V")  # fmt: skip
        page.pins.setPlainText("\n".join(rows))
        page.refresh()
        self.assertIn("Levels not known yet: IN 1 to IN 6", page.problems.text())
        self.choose("circuit IN 1/input", "24 V input, type 3, current sinking")
        self.assertNotIn("not known yet", page.problems.text())
        self.assertEqual("Small board, 7 ports", page.drawing.picture.accessibleName())
        self.choose("plug ", "crimp connector 2.5 mm")
        self.choose("plug PWR", "screw terminals 5.08 mm")
        connectors = [page.described.part.port(name).connector for name in ("PWR", "IN 6")]
        self.assertEqual(["screw-5.08-2", "crimp-2.5-3"], connectors)
        self.choose("plug PWR", "plugs as all")
        self.assertEqual("crimp-2.5-2", page.described.part.port("PWR").connector)
        self.choose("is IN 1", "analogue input")
        self.assertEqual("analogue input", page.described.part.port("IN 6").kind)
        self.choose("is IN 1", "digital input")
        page.save()
        rows = self.window.shelf.rows
        self.until(lambda: any(p.title == "Small board" for p in rows.contents.parts))
        part = next(p for p in rows.contents.parts if p.title == "Small board")
        self.assertEqual(11, part.port("IN 4").pins[1].electrical.high_min_v)
        self.window.goals.add_part(part)
        self.window.show_stage("Ports")
        shown = self.window.ports.view.picture.boards
        self.assertEqual([("K1", False)], [(b.device, b.is_block) for b in shown])

    def test_what_print_tells_is_chosen_and_can_be_taken_back(self) -> None:
        page = self.page
        page.kind.setCurrentText("stepper driver")
        page.pins.setPlainText("port,signal\nCTRL,PUL+\nCTRL,PUL-\nCTRL,DIR+\nCTRL,DIR-")
        page.refresh()
        box = page.groups.boxes["circuit CTRL/input"]
        self.assertIn("Isolated input, 5 V", box.currentText())
        self.assertIn("printed", box.toolTip())
        self.assertEqual((), page.described.unknown)
        self.choose("circuit CTRL/input", "levels not known")
        self.assertEqual(("CTRL",), page.described.unknown)
        box = page.groups.boxes["circuit CTRL/input"]
        self.assertEqual("levels not known", box.currentText())

    def test_what_was_chosen_stays_while_the_table_grows_and_goes_with_the_part(self) -> None:
        page = self.page
        page.pins.setPlainText("port,pin,signal\nIN 1-2,1,IN\nIN 1-2,2,0V")
        page.refresh()
        self.choose("circuit IN 1/input", "5 V input, TTL levels")
        page.pins.setPlainText("port,pin,signal\nIN 1-9,1,IN\nIN 1-9,2,0V")
        page.refresh()
        box = page.groups.boxes["circuit IN 1/input"]
        self.assertEqual("5 V input, TTL levels", box.currentText())
        page.kind.setCurrentText("sensor")
        page.refresh()
        self.assertFalse(page.groups.isVisible())
        page.clear()
        self.assertEqual({}, page.groups.circuits)

    def test_alike_ports_are_parted_and_put_together_again(self) -> None:
        page = self.page
        page.pins.setPlainText("VIN GND\nGPIO1 GPIO2 GPIO3 GPIO4 GPIO5")
        page.refresh()
        self.choose("ports GPIO1", "GPIO1 to GPIO3")
        self.choose("is GPIO4", "logic output")
        kinds = [port.kind for port in page.described.part.ports if port.id != "POWER"]
        # A line of a processor is an input or an output.
        self.assertEqual(["digital input", "switched output"] * 3 + ["switched output"] * 2, kinds)
        self.assertIn("GPIO4 and GPIO5", page.problems.text())
        # By keys, and with what was chosen for them when they come back.
        box = page.groups.boxes["ports GPIO1"]
        box.setFocus()
        self.keys(box, Key.Key_End)
        self.assertNotIn("ports GPIO4", page.groups.boxes)
        self.assertTrue(page.groups.boxes["ports GPIO1"].hasFocus())
        self.choose("ports GPIO1", "GPIO1 to GPIO3")
        self.assertEqual("logic output", page.groups.boxes["is GPIO4"].currentText())

    def test_a_module_is_wired_pin_by_pin_and_put_into_a_slot_again(self) -> None:
        page = self.page
        page.kind.setCurrentText("stepper driver")
        page.pins.setPlainText("EN\nDIR\nSTEP\nVIO\nVM 8-30V\nGND\nOA1\nOA2\nOB1\nOB2")
        page.refresh()
        self.choose("is PORT", "step and direction, from a controller")
        self.assertEqual("motor phases", page.described.part.port("MOTOR").kind)
        self.choose("is CONTROL", "foot of a module, into a slot")
        self.assertEqual(["PORT"], [port.id for port in page.described.part.ports])
        self.assertEqual("driver slot", page.described.part.port("PORT").kind)
