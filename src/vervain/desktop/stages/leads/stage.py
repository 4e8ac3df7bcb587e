"""The Leads stage: one motor's leads measured, put in order, used; a plug's colours matched."""

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QPainter, QPaintEvent, QShowEvent
from PyQt6.QtWidgets import QPushButton, QScrollArea, QStackedLayout, QVBoxLayout, QWidget

from vervain.desktop.keys_help import LEADS
from vervain.desktop.session import Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.led_focus import LedFocus
from vervain.desktop.shared.live_links import LiveLinks, reading_words, typed
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.leads.measuring import MeasuringPage
from vervain.desktop.stages.leads.merge_panel import MergePanel
from vervain.desktop.stages.leads.order_panel import OrderPanel
from vervain.desktop.stages.leads.winding_panel import UsePanel
from vervain.desktop.theme import looks
from vervain.leads.merge import mergeable
from vervain.leads.motors import leads_of, measurable
from vervain.model.machine import Device

# Motors with more leads than two plain coils have can be used in more than one way.
LEADS_OF_TWO_COILS = 4


class LeadsStage(LedFocus):
    """One motor at a time: the selected one, else the first."""

    def __init__(self, session: Session, links: LiveLinks) -> None:
        super().__init__()
        self.session, self.links = session, links
        self.line = StageLine()
        self.wrong = self.line.add_button(QPushButton("It runs wrong  R"))
        self.wrong.setCheckable(True)
        self.wrong.toggled.connect(self._show_order)
        self.using = self.line.add_button(QPushButton("How it is used  U"))
        self.using.setCheckable(True)
        self.using.toggled.connect(self._show_use)
        self.measuring, self.order = MeasuringPage(session), OrderPanel(session)
        self.use, self.merge = UsePanel(session), MergePanel(session)
        self.keep = self.line.add_button(QPushButton("Keep these coils  T"))
        self.keep.clicked.connect(self.measuring.keep_coils)
        self.printed = self.line.add_button(QPushButton("As printed  P"))
        self.printed.clicked.connect(self.measuring.take_printed)
        self.forget = self.line.add_button(QPushButton("Coils as the part says"))
        self.forget.clicked.connect(self.measuring.forget_coils)
        self.measuring.answered.connect(self._say_motor)
        self.measuring.field.runs_wrong.connect(self.wrong.toggle)
        self.measuring.field.used_how.connect(self._toggle_use)
        self.menu = ContextMenu(session, self, LEADS, target=self.measuring.field)
        self.measuring.field.takes_meter.connect(self.take_meter)
        links.meter_read.connect(self._show_meter)
        links.changed.connect(self._show_meter)
        self._arrange()
        self.lead_focus_to(self.measuring)
        session.machine_changed.connect(self.refresh)
        session.selection_changed.connect(self.refresh)
        session.checked.connect(self._checked)
        self.refresh()

    def _arrange(self) -> None:
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.line)
        # Without a parent a stack shows its first widget as a window of its own.
        self.body = QStackedLayout()
        column.addLayout(self.body, 1)
        # At large text the measuring needs more room than the stage has: then it scrolls.
        self.scroller, self.order_page, self.use_page, self.merge_page = (
            _scrolled(widget) for widget in (self.measuring, self.order, self.use, self.merge)
        )
        self.empty = PlainLabel(
            "Which leads of a motor belong together is found here with a meter.\n"
            "Add a motor first: Ctrl+Shift+A, or from the shelf on Machine (Alt+1)."
        )
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setObjectName("faded")
        self.empty.setWordWrap(True)
        pages = (self.scroller, self.order_page, self.use_page, self.merge_page, self.empty)
        for page in pages:
            self.body.addWidget(page)

    def _show_order(self, shown: bool) -> None:
        """Changes between measuring the leads and putting their order right."""
        if shown:
            self.using.setChecked(False)
        self._show_page()

    def _show_use(self, shown: bool) -> None:
        """Changes between measuring the leads and choosing how the windings are used."""
        if shown:
            self.wrong.setChecked(False)
        self._show_page()

    def _toggle_use(self) -> None:
        if self.using.isVisible():
            self.using.toggle()

    def _show_page(self) -> None:
        pages: list[tuple[bool, QWidget, QWidget]] = [
            (self.wrong.isChecked(), self.order_page, self.order),
            (self.using.isChecked(), self.use_page, self.use),
            (True, self.scroller, self.measuring.field),
        ]
        page, focus = next((page, focus) for shown, page, focus in pages if shown)
        self.body.setCurrentWidget(page)
        self.refresh()
        focus.setFocus()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.text().casefold() == "r":
            self.wrong.toggle()
        elif event is not None and event.text().casefold() == "u":
            self._toggle_use()
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self.links.meter is not None:
            self.links.meter.measure("Ω")

    def _show_meter(self) -> None:
        reading = self.links.reading
        is_ohms = reading is not None and reading.unit == "Ω"
        self.measuring.field.show_meter(reading_words(reading) if is_ohms else "")

    def take_meter(self) -> None:
        """Takes what the meter shows as the reading of the pair that is asked for."""
        reading = self.links.reading
        if reading is not None and reading.unit == "Ω":
            self.measuring.enter(typed(reading))
        else:
            self.session.say("No meter shows ohms. It is connected on the Bench (Alt+7, C).")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        QPainter(self).fillRect(self.rect(), looks.colour("sheet"))

    def scale(self) -> None:
        """Takes the text scale in force."""
        self.measuring.scale()

    def refresh(self) -> None:
        """Turns to the selected device: a motor to measure, or a plug to match."""
        queries, chosen = self.session.queries, self.session.selection.device
        if chosen is not None and chosen in mergeable(queries):
            self._show_merge(chosen)
            return
        device = self._motor()
        if self.body.currentWidget() in (self.scroller, self.empty, self.merge_page):
            self.body.setCurrentWidget(self.empty if device is None else self.scroller)
        self.measuring.show_device(device.designator if device else None)
        if device is None:
            self._hide_buttons()
            self.line.say("No motor to measure.", "Add one with Ctrl+Shift+A.")
            return
        self._show_pages_of(device.designator)
        self._say_motor()

    def _motor(self) -> Device | None:
        """The selected motor, else the one before, else the first."""
        queries, question = self.session.queries, self.measuring.question
        motors = measurable(queries)
        wanted = (self.session.selection.device, question.device if question else None, *motors)
        name = next((name for name in wanted if name in motors), None)
        return queries.device(name) if name is not None else None

    def _hide_buttons(self) -> None:
        for button in (self.keep, self.forget, self.wrong, self.using, self.printed):
            button.hide()

    def _show_pages_of(self, name: str) -> None:
        """What can be asked of a motor, and the page that is open."""
        queries = self.session.queries
        part = queries.part_of(name)
        two_phase = part is not None and part.stepper is not None and part.stepper.phases == 2
        several = two_phase and len(leads_of(queries, name)) > LEADS_OF_TWO_COILS
        self.wrong.show()
        self.using.setVisible(several)
        if self.using.isChecked() and not several:
            self.using.setChecked(False)
        if self.wrong.isChecked():
            self.order.show_device(name)
        if self.using.isChecked():
            self.use.show_device(name)

    def _show_merge(self, name: str) -> None:
        """Shows the colour merge of a device that is no motor."""
        device = self.session.queries.device(name)
        self.measuring.show_device(None)
        self._hide_buttons()
        self.body.setCurrentWidget(self.merge_page)
        self.merge.show_device(name)
        self.line.say(f"{name}  {device.name if device else ''}", "Its plug, pin by pin.")

    def _checked(self) -> None:
        chosen = self.session.selection.device
        if self.body.currentWidget() is self.merge_page and chosen is not None:
            self.merge.show_device(chosen)

    def _say_motor(self) -> None:
        """The stage's line and buttons: what is kept, or what to do next."""
        question = self.measuring.question
        device = self.session.queries.device(question.device) if question else None
        if device is None:
            return
        measuring = not self.wrong.isChecked() and not self.using.isChecked()
        self.keep.setVisible(measuring and self.measuring.are_coils_known)
        self.forget.setVisible(measuring and bool(device.coils))
        self.printed.setVisible(measuring and self.measuring.can_take_printed)
        self.line.say(f"{device.designator}  {device.name}", self._what_next(device))

    def _what_next(self, device: Device) -> str:
        if self.wrong.isChecked():
            return "Say what it does; R goes back to the meter."
        if self.using.isChecked():
            return "How its windings are used; U goes back to the meter."
        coils = ", ".join("–".join(coil) for coil in device.coils)
        if coils and device.coils_printed:
            return f"As printed, not measured: {coils}. The meter decides."
        if coils:
            return f"Measured coils are kept: {coils}."
        if self.measuring.are_coils_known:
            return "The coils are known: T keeps them, and the checks believe them."
        return "Unplug it, with no power on its driver, then probe."


def _scrolled(widget: QWidget) -> QScrollArea:
    area = QScrollArea()
    if not widget.objectName():
        widget.setObjectName("blank")
    area.setWidgetResizable(True)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(widget)
    return area
