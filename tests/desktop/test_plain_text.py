"""Names are shown as the text that they are, on every stage, whatever they look like."""

import re

from msgspec.structs import replace
from PyQt6.QtCore import QAbstractItemModel, QModelIndex, Qt
from PyQt6.QtWidgets import QAbstractItemView, QLabel, QWidget

from tests import ROOT
from tests.desktop.case import WindowCase
from vervain.desktop.session import Selection
from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.model.machine import Machine, PortRef
from vervain.rules.finding import STAGES

HOSTILE = "<img src='/dev/zero'><b>&amp;"
SHOWN_AS_TEXT = "&lt;img src="


def hostile(machine: Machine) -> Machine:
    """The machine with markup in every name and note that a builder types."""
    return replace(
        machine,
        name=HOSTILE,
        state=HOSTILE,
        devices=tuple(replace(d, name=HOSTILE, note=HOSTILE) for d in machine.devices),
        places=tuple(replace(p, name=f"{n} {HOSTILE}") for n, p in enumerate(machine.places)),
        axes=tuple(replace(a, name=HOSTILE) for a in machine.axes),
        cables=tuple(replace(c, note=HOSTILE) for c in machine.cables),
        accepted=tuple(replace(a, reason=HOSTILE) for a in machine.accepted),
        parts=tuple(replace(p, title=HOSTILE, note=HOSTILE) for p in machine.parts),
    )


def tips(widget: QWidget):
    """Every tip that a widget, or the items that it shows, would give."""
    yield widget.toolTip()
    model = widget.model() if isinstance(widget, QAbstractItemView) else None
    if isinstance(model, QAbstractItemModel):
        for row in range(min(model.rowCount(), 30)):
            for column in range(model.columnCount(QModelIndex())):
                tip = model.data(model.index(row, column), Qt.ItemDataRole.ToolTipRole)
                yield str(tip or "")


class Markup(WindowCase):
    demo = "glazing-gantry-as-found"

    def test_no_label_and_no_tip_takes_a_name_for_markup(self) -> None:
        window = self.open(hostile(self.session.machine))
        ref = PortRef(device="K1", port="IN 1")
        seen = 0
        for stage in STAGES:
            window.show_stage(stage)
            for selection in (
                Selection(), Selection(device="K1", port="IN 1"), Selection(device="M1"),
                Selection(axis="X"), Selection(conductor=next(iter(self.conductors(window)))),
            ):  # fmt: skip
                window.session.select(selection)
                self.until(lambda: window.session.checked_machine is window.session.machine)
                self.settle()
                for widget in window.findChildren(QWidget):
                    for tip in tips(widget):
                        self.assertFalse("<img" in tip, tip[:80])
                        seen += SHOWN_AS_TEXT in tip
                    if isinstance(widget, QLabel) and not isinstance(widget, PlainLabel):
                        self.assertNotIn("<img", widget.text())
        window.explain()
        self.assertNotIn("<img", window.help.text.text())
        self.assertNotIn("<img", plain(window.ports.view.port_words(ref)))
        self.assertGreater(seen, 20)

    def conductors(self, window):
        return [(hookup.id, 0) for hookup in window.session.machine.hookups]

    def test_the_source_has_no_other_labels_and_tips(self) -> None:
        risky = re.compile(
            r"(?<![\w.])QLabel\(|setTextFormat|setToolTip\((?!\"|plain\(|f?\"[^{]*\"\)|f\"Ctrl|f\"Key"
            r"|f\"Write|\s)|showText\((?!event\.globalPos\(\), plain\()"
        )
        for path in sorted((ROOT / "src/vervain/desktop").rglob("*.py")):
            if path.name == "plain.py":
                continue
            for number, line in enumerate(path.read_text("utf-8").splitlines(), 1):
                self.assertIsNone(risky.search(line), f"{path.name}:{number} {line.strip()}")
