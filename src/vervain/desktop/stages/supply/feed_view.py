"""The feed trees, drawn and worked on: going about in them, and feeding devices from elsewhere."""

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QResizeEvent

from vervain.desktop.keys_help import SUPPLY
from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.context_menu import ContextMenu
from vervain.desktop.shared.drawn_view import DrawnView
from vervain.desktop.shared.stage_line import StageLine
from vervain.desktop.stages.supply.feed_hand import FeedHand
from vervain.desktop.stages.supply.feed_layout import FeedPicture, FeedShape, lay_out_feeds
from vervain.desktop.stages.supply.feed_painting import paint_feeds
from vervain.desktop.stages.supply.feed_worker import FeedWorker
from vervain.desktop.stages.supply.feeding import FeedingController
from vervain.desktop.theme import looks
from vervain.rules.finding import CONSEQUENCES
from vervain.supply.states import STATES, State

ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)


class FeedView(DrawnView):
    """The trees of one state."""

    state_wanted = pyqtSignal(str)
    hand_changed = pyqtSignal()
    plot_changed = pyqtSignal()

    def __init__(self, session: Session, feeder: FeedWorker, feeding: FeedingController) -> None:
        super().__init__("Feeds")
        self.session, self.feeding = session, feeding
        self.feeder = feeder
        self.state: State = "everything"
        self.picture = FeedPicture()
        self.hand = FeedHand(session)
        self.menu = ContextMenu(session, self, SUPPLY, lambda: self.hand.carried is not None)
        self._pressed = QPointF()
        self.hand.changed.connect(self._hand_changed)
        feeding.changed.connect(self.repaint_soon)
        session.selection_changed.connect(self._follow)
        session.checked.connect(self.repaint_soon)

    def show_state(self, state: State) -> None:
        """Shows the figures of another state."""
        self.state = state
        self.arrange()

    def arrange(self) -> None:
        """Works out where everything stands."""
        viewport = self.viewport()
        if viewport is None:
            return
        figures = self.feeder.figures
        trees = (*figures.trees[self.state], *figures.others) if figures is not None else ()
        self.picture = lay_out_feeds(trees, viewport.width(), looks.scale)
        self.set_extent(self.picture.width, self.picture.height)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self.arrange()

    def _worst(self) -> dict[str, str]:
        """The worst consequence among the stage's findings, by device."""
        found: dict[str, str] = {}
        for finding in self.session.findings(lambda f: f.stage == "Supply"):
            for subject in finding.subjects:
                before = found.get(subject.device or "")
                if subject.device and (
                    before is None
                    or CONSEQUENCES.index(finding.consequence) < CONSEQUENCES.index(before)
                ):
                    found[subject.device] = finding.consequence
        return found

    def paintEvent(self, event: QPaintEvent | None) -> None:
        viewport = self.viewport()
        if viewport is None:
            return
        painter = QPainter(viewport)
        painter.fillRect(viewport.rect(), looks.colour("sheet"))
        if not self.picture.shapes:
            painter.setPen(looks.colour("faded"))
            painter.setFont(looks.font(13))
            words = "Nothing to feed yet." if self.feeder.figures else "Working out the feeds …"
            painter.drawText(viewport.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        painter.translate(-self.offset())
        chosen = self.session.selection.device
        queries = self.session.queries
        seen = QRectF(viewport.rect()).translated(self.offset())
        target = self.hand.target
        worst, ghosts = self._worst(), self.feeding.ghosts()
        paint_feeds(painter, self.picture, queries, worst, chosen, target, seen, ghosts)

    def say_hand(self, line: StageLine) -> bool:
        """Says what is in hand, if anything is."""
        carried, target = self.hand.carried, self.hand.target
        if carried is None:
            return False
        earth = carried.kind == "device" and carried.arrival is None
        what = "The negative" if carried.kind == "source" else "The feed"
        what = "The protective earth" if earth else what
        if target is None:
            rest = "Arrows choose where it goes, Esc leaves it."
        elif earth:
            rest = f"Enter bonds it to {target.branch.device}, arrows try another place."
        elif carried.kind == "source":
            rest = f"Enter joins it to that of {target.branch.device}, arrows try another."
        elif target.branch.kind == "device":
            rest = f"Enter chains it behind {target.branch.device}, arrows try another place."
        else:
            rest = f"Enter feeds it from {target.branch.label}, arrows try another place."
        answer = self.hand.answer()
        if answer is not None and answer.verdict == "does not fit" and target is not None:
            rest = f"{target.branch.label}: {answer.words}. Enter feeds it there all the same."
        line.say(f"{what} of {carried.device} in hand.", rest)
        return True

    def _hand_changed(self) -> None:
        if self.hand.target is not None:
            self._bring_into_view(self.hand.target)
        self.hand_changed.emit()
        self.repaint_soon()

    # Going about.

    def shown(self) -> FeedShape | None:
        """The shape of what is selected."""
        chosen = self.session.selection
        shapes = [*self.picture.rows, *self.picture.shapes]
        # A supply is what it gives, before it is what takes mains.
        shapes.sort(key=lambda s: s.branch.arrival is None and s.branch.kind != "source")
        if chosen.pin_ref is not None:
            found = self.picture.of_pin(chosen.pin_ref)
            if found is not None:
                return found
        return next((s for s in shapes if s.branch.device == chosen.device), None)

    def choose(self, shape: FeedShape) -> None:
        """Selects the device of a shape, and the pin that the feed comes in at."""
        pin = shape.branch.pin
        self.session.select(Selection(device=pin.device, port=pin.port, pin=pin.pin))

    def _follow(self) -> None:
        shape = self.shown()
        if shape is not None:
            self._bring_into_view(shape)
        self.repaint_soon()

    def _bring_into_view(self, shape: FeedShape) -> None:
        bar, viewport = self.verticalScrollBar(), self.viewport()
        if bar is not None and viewport is not None:
            box = QRectF(shape.box).adjusted(0, -looks.px(24), 0, looks.px(24))
            if box.top() < bar.value():
                bar.setValue(round(box.top()))
            elif box.bottom() > bar.value() + viewport.height():
                bar.setValue(round(box.bottom() - viewport.height()))

    def _step(self, by: int) -> None:
        rows = self.picture.rows
        here = self.shown()
        if not rows:
            return
        at = rows.index(here) if here in rows else -1 if by > 0 else 0
        if here is not None and here not in rows:
            below = [n for n, row in enumerate(rows) if row.y > here.y]
            at = (below[0] - 1 if below else len(rows) - 1) if by > 0 else (below or [0])[0]
        self.choose(rows[max(0, min(len(rows) - 1, at + by))])

    def _inward(self) -> None:
        """To what feeds the selection."""
        here = self.shown()
        shape = self.picture.before(here) if here is not None else None
        if shape is not None:
            self.choose(shape)

    def _outward(self) -> None:
        """To the first that the selection feeds."""
        here = self.shown()
        shapes = self.picture.behind(here) if here is not None else []
        if shapes:
            self.choose(shapes[0])

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        key = event.key()
        number = key - Qt.Key.Key_1
        if self.feeding.running or self.feeding.proposal is not None:
            self._answer_proposal(key)
            return
        if self.hand.carried is not None and self._carry(key):
            return
        if key in ENTER:
            self.hand.take(self.shown(), self.picture)
        elif key == Qt.Key.Key_F:
            self.feeding.start()
        elif key == Qt.Key.Key_U:
            self.hand.put_fuse(self.shown())
        elif key == Qt.Key.Key_P:
            self.plot_changed.emit()
        elif key == Qt.Key.Key_G:
            self.hand.choose_gauge(self.shown(), self.state)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.hand.take_off(self.shown())
        elif key == Qt.Key.Key_Up:
            self._step(-1)
        elif key == Qt.Key.Key_Down:
            self._step(1)
        elif key == Qt.Key.Key_Left:
            self._inward()
        elif key == Qt.Key.Key_Right:
            self._outward()
        elif key == Qt.Key.Key_Space:
            self.session.card_wanted.emit()
        elif 0 <= number < len(STATES) and not event.modifiers():
            self.state_wanted.emit(STATES[number])
        else:
            super().keyPressEvent(event)

    def _answer_proposal(self, key: int) -> None:
        """Enter carries a proposal out, Esc leaves it."""
        if key in ENTER and not self.feeding.running:
            self.feeding.put_in()
        elif key == Qt.Key.Key_Escape:
            self.feeding.drop()

    def _carry(self, key: int) -> bool:
        """The keys while something is in hand."""
        if key in ENTER:
            self.hand.put()
        elif key == Qt.Key.Key_Escape:
            self.hand.drop()
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Left):
            self.hand.aim(self.picture, -1)
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Right):
            self.hand.aim(self.picture, 1)
        else:
            return False
        return True

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        if event is None or not event.buttons() & Qt.MouseButton.LeftButton:
            return
        here = event.position() + self.offset()
        far = (here - self._pressed).manhattanLength() > 8
        if self.hand.carried is None and far:
            self.hand.take(self.picture.at(self._pressed), self.picture)
        if self.hand.carried is not None:
            shape = self.picture.at(here)
            self.hand.target = shape if shape and self.hand.takes(shape.branch) else None
            self.hand.changed.emit()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self.hand.carried is not None and self.hand.target is not None:
            self.hand.put()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is None:
            return
        self._pressed = event.position() + self.offset()
        shape = self.picture.at(self._pressed)
        if self.hand.carried is not None and shape is not None and self.hand.takes(shape.branch):
            self.hand.target = shape
        elif shape is not None:
            self.choose(shape)
