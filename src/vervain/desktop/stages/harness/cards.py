"""Cards of the Harness stage: a run's section, a cable's length, its labels, a plug's face."""

from abc import abstractmethod

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFont, QGuiApplication, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QSizePolicy, QWidget

from vervain.desktop.session import Session
from vervain.desktop.shared.wire_painting import draw_bar, elided
from vervain.desktop.stages.harness.bundle_painting import paint_section, section_size_mm
from vervain.desktop.theme import looks
from vervain.harness.bundles import bundle_of
from vervain.harness.fittings import fittings
from vervain.harness.label_layout import Line, Square, Style, Text, lay_out_label
from vervain.harness.label_texts import LabelText, core_label_texts
from vervain.harness.lengths import PartKind, cable_length
from vervain.harness.plugs import Plug, cavity_places, plug_at
from vervain.model.place import Run
from vervain.text.units import in_length, shown_length
from vervain.text.words import count_of

LEFT = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
RIGHT = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter
MIDDLE = Qt.AlignmentFlag.AlignCenter


def _is_abstract(value: object) -> bool:
    return bool(getattr(value, "__isabstractmethod__", False))


class HarnessCard(QWidget):
    """A titled frame that is shown while it has something to show."""

    def __init_subclass__(cls) -> None:
        """Refuses a card that lacks a method: Qt's own class of classes does not look."""
        super().__init_subclass__()
        own = [name for name, value in vars(HarnessCard).items() if _is_abstract(value)]
        missing = sorted(name for name in own if _is_abstract(getattr(cls, name)))
        if missing:
            raise TypeError(f"{cls.__name__} lacks {', '.join(missing)}")

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        session.selection_changed.connect(self.refresh)
        session.machine_changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows what belongs to the selection, on the Harness stage."""
        self.setVisible(self.has_something())
        self.updateGeometry()
        self.update()

    @abstractmethod
    def has_something(self) -> bool:
        """Whether there is something to show."""

    @abstractmethod
    def body_height(self) -> int:
        """The height of what is in the frame, in pixels."""

    @abstractmethod
    def title(self) -> tuple[str, str]:
        """The title, and what stands at its right."""

    @abstractmethod
    def paint_body(self, painter: QPainter, box: QRectF) -> None:
        """Paints what is in the frame."""

    def sizeHint(self) -> QSize:
        height = self.body_height() + looks.px(24) if self.has_something() else 0
        return QSize(looks.px(200), height)

    def minimumSizeHint(self) -> QSize:
        return QSize(looks.px(120), self.sizeHint().height())

    def traced_cable(self) -> str | None:
        """The cable of the selected conductor."""
        chosen = self.session.selection.conductor
        hookup = self.session.queries.hookup(chosen[0]) if chosen else None
        return hookup.cable if hookup else None

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if not self.has_something():
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        head = QRectF(0, 0, self.width(), looks.px(20))
        title, aside = self.title()
        painter.setFont(looks.font(10.5))
        painter.setPen(looks.colour("faded"))
        painter.drawText(head, RIGHT, aside)
        room = self.width() - painter.fontMetrics().horizontalAdvance(aside) - 8
        painter.setPen(looks.colour("ink"))
        painter.setFont(looks.font(12, bold=True))
        painter.drawText(head, LEFT, elided(painter, title, room))
        frame = QRectF(0.5, looks.px(22), self.width() - 1, self.height() - looks.px(22) - 1)
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.setBrush(looks.colour("sheet"))
        painter.drawRoundedRect(frame, 3, 3)
        self.paint_body(painter, frame.adjusted(9, 7, -9, -7))


class SectionCard(HarnessCard):
    """The section of the selected run, as large as there is room, and its figures."""

    def _run(self) -> Run | None:
        return self.session.queries.run(self.session.selection.run or "")

    def has_something(self) -> bool:
        run = self._run()
        return run is not None and bool(bundle_of(self.session.queries, run.id).strands)

    def _scale(self) -> float:
        """Pixels a millimetre: four times real size at most, or as fits."""
        run = self._run()
        if run is None:
            return 1.0
        width, height = section_size_mm(bundle_of(self.session.queries, run.id), run)
        room = max(self.width(), looks.px(180)) - 34
        return min(4 * px_per_mm(self), room / width, looks.px(190) / height)

    def body_height(self) -> int:
        run = self._run()
        if run is None:
            return 0
        height = section_size_mm(bundle_of(self.session.queries, run.id), run)[1]
        return round(height * self._scale()) + looks.px(36) + len(self._facts()) * looks.px(17)

    def title(self) -> tuple[str, str]:
        run = self._run()
        times = self._scale() / px_per_mm(self)
        return f"{run.id if run else ''} in section", f"{times:.1f} times real size"

    def _facts(self) -> list[tuple[str, str]]:
        run = self._run()
        if run is None:
            return []
        bundle = bundle_of(self.session.queries, run.id)
        count = len(bundle.strands)
        facts = [(count_of(count, "cable"), f"{bundle.area_mm2:.0f} mm²")]
        if run.chain is not None:
            chain = run.chain
            facts.append(("Chain inside", f"{chain.width_mm:g} × {chain.height_mm:g} mm"))
            most = fittings().chain_fill
            facts.append((f"Full, at most {most:.0%}", f"{bundle.fill or 0:.0%}"))
            facts.append(("Needs a bend radius of", f"{bundle.bend_radius_mm:g} mm"))
            facts.append(("The chain bends at", f"{chain.bend_radius_mm:g} mm"))
        else:
            facts.append(("Bundle", f"{bundle.diameter_mm:.1f} mm"))
            facts.append(("Sleeve", f"{bundle.sleeve} mm" if bundle.sleeve else "none fits"))
        guessed = [strand.name for strand in bundle.strands if strand.estimated]
        if guessed:
            facts.append(("Diameter estimated", ", ".join(guessed)))
        return facts

    def paint_body(self, painter: QPainter, box: QRectF) -> None:
        run = self._run()
        if run is None:
            return
        queries, scale = self.session.queries, self._scale()
        bundle = bundle_of(queries, run.id)
        _, full = section_size_mm(bundle, run)
        if run.chain is not None:
            width, height = run.chain.width_mm * scale, run.chain.height_mm * scale
        else:
            width = height = bundle.diameter_mm * scale
        top = box.top() + 4 + full * scale - height
        section = QRectF(box.center().x() - width / 2, top, width, height)
        paint_section(painter, section, bundle, run, self.traced_cable(), scale)
        y = section.bottom() + looks.px(9)
        for name, value in self._facts():
            row = QRectF(box.left(), y, box.width(), looks.px(17))
            painter.setFont(looks.font(11))
            painter.setPen(looks.colour("faded"))
            painter.drawText(row, LEFT, name)
            extent = painter.fontMetrics().horizontalAdvance(name) + 8
            painter.setPen(looks.colour("ink"))
            painter.drawText(row, RIGHT, elided(painter, value, row.width() - extent))
            y += looks.px(17)


class LengthCard(HarnessCard):
    """How the length of the traced cable comes about."""

    KINDS: tuple[tuple[str, tuple[PartKind, ...]], ...] = (
        ("route", ("run", "inside")),
        ("loops", ("loop",)),
        ("slack", ("slack",)),
        ("ends", ("end",)),
    )

    def has_something(self) -> bool:
        cable = self.traced_cable()
        return cable is not None and self.session.queries.cable(cable) is not None

    def body_height(self) -> int:
        cable = self.traced_cable()
        length = cable_length(self.session.queries, cable) if cable else None
        return looks.px(74 if length is not None and length.parts else 40)

    def title(self) -> tuple[str, str]:
        cable = self.traced_cable() or ""
        length = cable_length(self.session.queries, cable)
        if length.measured_m is not None:
            return f"{cable}, measured {in_length(length.measured_m)}", ""
        if length.cut_m is None:
            return f"{cable}: length not known", ""
        return f"{cable}, how {in_length(length.cut_m)} comes about", ""

    def paint_body(self, painter: QPainter, box: QRectF) -> None:
        length = cable_length(self.session.queries, self.traced_cable() or "")
        painter.setFont(looks.font(11))
        if not length.parts:
            painter.setPen(looks.colour("faded"))
            words = length.missing[:1].upper() + length.missing[1:] + "."
            painter.drawText(box, int(Qt.TextFlag.TextWordWrap), words)
            return
        total = sum(part.length_m for part in length.parts)
        left = box.left()
        for part in length.parts:
            width = box.width() * part.length_m / total
            bar = QRectF(left, box.top(), max(1.0, width - 1), looks.px(16))
            is_run = part.kind in ("run", "inside")
            chosen = part.kind == "run" and part.where == self.session.selection.run
            shade = "accent" if chosen else "faded" if is_run else "rule"
            painter.fillRect(bar, looks.colour(shade))
            if is_run and width > looks.px(20):
                painter.setPen(looks.colour("on_accent"))
                painter.setFont(looks.font(10, bold=True))
                painter.drawText(bar, MIDDLE, part.where if part.kind == "run" else "inside")
            left += width
        painter.setFont(looks.font(11))
        painter.setPen(looks.colour("faded"))
        width = box.width() / 4
        for number, (name, kinds) in enumerate(self.KINDS):
            cell = QRectF(
                box.left() + number * width, box.top() + looks.px(19), width, looks.px(16)
            )
            value = f"{name} {shown_length(length.of(*kinds)):.2g}" if length.of(*kinds) else ""
            painter.drawText(cell, LEFT if number == 0 else MIDDLE, value)
        row = QRectF(box.left(), box.top() + looks.px(40), box.width(), looks.px(17))
        painter.setPen(QPen(looks.colour("rule"), 1))
        painter.drawLine(row.topLeft(), row.topRight())
        painter.setPen(looks.colour("faded"))
        painter.drawText(row.translated(0, 2), LEFT, f"{in_length(total, '.3f')}, rounded up")
        painter.setPen(looks.colour("ink"))
        cut = (
            f"cut {in_length(length.cut_m or 0)}"
            if length.measured_m is None
            else "measured length counts"
        )
        painter.drawText(row.translated(0, 2), RIGHT, cut)


def px_per_mm(widget: QWidget) -> float:
    """Pixels a millimetre on the screen that a widget is on."""
    screen = widget.screen() or QGuiApplication.primaryScreen()
    return screen.logicalDotsPerInch() / 25.4 if screen is not None else 3.78


class LabelCard(HarnessCard):
    """The labels of the selected conductor at real size, at both ends."""

    TAPE_MM = 12.0

    def _labels(self) -> tuple[LabelText, ...]:
        chosen = self.session.selection.conductor
        if chosen is None:
            return ()
        texts = core_label_texts(self.session.queries, chosen[0])
        return tuple(text for text in texts if text.key == chosen)

    def has_something(self) -> bool:
        return bool(self._labels())

    def body_height(self) -> int:
        count = len(self._labels())
        return round(count * (self.TAPE_MM * px_per_mm(self) + looks.px(7))) + looks.px(10)

    def title(self) -> tuple[str, str]:
        return "Labels at real size", f"tape {self.TAPE_MM:g} mm"

    def paint_body(self, painter: QPainter, box: QRectF) -> None:
        scale = px_per_mm(self)
        family = painter.font().family()

        def measure(text: str, size: float, bold: bool) -> float:
            painter.setFont(self._font(family, size * scale, bold))
            return painter.fontMetrics().horizontalAdvance(text) / scale

        style = Style("sleeve", self.TAPE_MM)
        y = box.top()
        for text in self._labels():
            label = lay_out_label(text, style, 2.0, "", measure)
            width = min(label.width * scale, box.width())
            frame = QRectF(box.left(), y, width, self.TAPE_MM * scale)
            painter.setPen(QPen(looks.colour("faded"), 1))
            painter.setBrush(looks.colour("sheet"))
            painter.drawRoundedRect(frame, 2, 2)
            painter.save()
            painter.setClipRect(frame)
            painter.translate(frame.topLeft())
            for shape in label.shapes:
                self._paint_shape(painter, shape, scale, family)
            painter.restore()
            y += self.TAPE_MM * scale + looks.px(7)

    def _font(self, family: str, pixels: float, bold: bool) -> QFont:
        font = looks.font(12, bold=bold)
        font.setPixelSize(max(4, round(pixels)))
        return font

    def _paint_shape(
        self, painter: QPainter, shape: Text | Line | Square, scale: float, family: str
    ) -> None:
        if isinstance(shape, Text):
            painter.setPen(looks.colour("ink"))
            painter.setFont(self._font(family, shape.size * scale, shape.bold))
            painter.drawText(QPointF(shape.x * scale, shape.y * scale), shape.text)


class PlugCard(HarnessCard):
    """The face of the selected plug, from the wires or from the mating side; a click turns it."""

    def __init__(self, session: Session) -> None:
        self.from_wires = True
        super().__init__(session)
        self.setToolTip("A click shows it from the other side")

    def _plug(self) -> Plug | None:
        ref = self.session.selection.port_ref
        if ref is None or self.session.selection.conductor is None:
            return None
        return plug_at(self.session.queries, ref)

    def has_something(self) -> bool:
        return self._plug() is not None

    def _places(self) -> tuple[tuple[float, float], ...]:
        plug = self._plug()
        port = self.session.queries.port(plug.port) if plug else None
        if plug is None or port is None:
            return ()
        side = "wires" if self.from_wires else "mating"
        return cavity_places(port.connector, len(plug.cavities), side)  # type: ignore[arg-type]

    def _pitch(self) -> float:
        places = self._places()
        if not places:
            return 1.0
        width = max(x for x, _ in places) - min(x for x, _ in places) + 1.3
        room = max(self.width(), looks.px(180)) - 24
        return min(looks.px(46), room / width)

    def body_height(self) -> int:
        places = self._places()
        if not places:
            return 0
        rows = max(y for _, y in places) - min(y for _, y in places) + 1
        return round(rows * max(self._pitch(), looks.px(34))) + looks.px(60)

    def title(self) -> tuple[str, str]:
        plug = self._plug()
        name = f"{plug.port.device} {plug.port.port}" if plug else ""
        return f"Plug {name}", "from the wires" if self.from_wires else "mating side"

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        self.from_wires = not self.from_wires
        self.update()

    def paint_body(self, painter: QPainter, box: QRectF) -> None:
        plug, places = self._plug(), self._places()
        if plug is None:
            return
        pitch = self._pitch()
        tall = max(pitch, looks.px(34))
        top = min(y for _, y in places)
        chosen = self.session.selection.pin_ref
        for cavity, (x, y) in zip(plug.cavities, places, strict=True):
            centre = QPointF(
                box.center().x() + x * pitch, box.top() + looks.px(16) + (y - top + 0.3) * tall
            )
            cell = QRectF(centre.x() - pitch * 0.44, centre.y() - looks.px(13), pitch * 0.88,
                          looks.px(26))  # fmt: skip
            here = cavity.pin == chosen
            painter.setPen(QPen(looks.colour("accent" if here else "faded"), 2 if here else 1))
            painter.setBrush(looks.colour("wash" if here else "paper"))
            painter.drawRoundedRect(cell, 3, 3)
            if cavity.wires:
                share = (cell.width() - 4) / len(cavity.wires)
                for number, wire in enumerate(cavity.wires):
                    bar = QRectF(
                        cell.left() + 2 + number * share, cell.top() + 4, share, cell.height() - 8
                    )
                    draw_bar(painter, bar, wire.colour)
            painter.setFont(looks.font(9.5))
            painter.setPen(looks.colour("faded"))
            number_box = QRectF(cell.left(), cell.top() - looks.px(13), cell.width(), looks.px(12))
            painter.drawText(number_box, MIDDLE, str(cavity.number))
        rows = max(y for _, y in places) - top + 1
        y = box.top() + looks.px(14) + rows * tall
        lines = [plug.words + (f", {plug.contacts}" if plug.contacts else "")]
        lines.append("keyed" if plug.keyed else "not keyed: mark number 1")
        for words in lines:
            row = QRectF(box.left(), y, box.width(), looks.px(16))
            painter.setFont(looks.font(11))
            painter.setPen(looks.colour("faded"))
            painter.drawText(row, LEFT, elided(painter, words, row.width()))
            y += looks.px(16)
