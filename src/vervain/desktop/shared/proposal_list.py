"""A proposal in the side column: each row with its reason, wanted or not, and what is left."""

from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.shared.proposing import ProposalController
from vervain.desktop.shared.replacing import clear
from vervain.desktop.theme import looks


class ProposalList(QWidget):
    """Rows to tick, and the buttons that carry the proposal out or leave it."""

    def __init__(self, filler: ProposalController) -> None:
        super().__init__()
        self.filler = filler
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.title = PlainLabel()
        self.title.setObjectName("head")
        column.addWidget(self.title)
        self.boxes: list[QCheckBox] = []
        self.put_in, self.leave = QPushButton("Put them in  Enter"), QPushButton("Leave it  Esc")
        self.put_in.setObjectName("main")
        self.put_in.clicked.connect(filler.put_in)
        self.leave.clicked.connect(filler.drop)
        acts = QHBoxLayout()
        acts.addWidget(self.put_in)
        acts.addWidget(self.leave)
        acts.addStretch(1)
        column.addLayout(acts)
        self.frame = QFrame()
        self.frame.setObjectName("card")
        column.addWidget(self.frame)
        self.list = QVBoxLayout(self.frame)
        self.list.setContentsMargins(10, 8, 10, 8)
        self.list.setSpacing(4)
        self._made_for: object = None
        filler.changed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Shows the proposal, if there is one."""
        proposal = self.filler.proposal
        self.setVisible(proposal is not None)
        if proposal is None:
            self._made_for = None
            return
        if proposal is not self._made_for:
            self._make_rows()
            self._made_for = proposal
        self.title.setText(self.filler.title())
        self.put_in.setEnabled(bool(self.filler.wanted))
        for number, box in enumerate(self.boxes):
            if box.isChecked() != (number in self.filler.wanted):
                box.blockSignals(True)
                box.setChecked(number in self.filler.wanted)
                box.blockSignals(False)

    def _make_rows(self) -> None:
        clear(self.list)
        self.boxes = []
        for words in self.filler.warnings():
            said = PlainLabel(words)
            said.setWordWrap(True)
            said.setStyleSheet(f"color: {getattr(looks.theme, self.filler.warning_ink)};")
            self.list.addWidget(said)
        for number, (words, reason) in enumerate(self.filler.rows()):
            box = QCheckBox(words)
            box.setChecked(True)
            box.setToolTip(plain(reason))
            box.toggled.connect(lambda _, at=number: self.filler.toggle(at))
            self.list.addWidget(box)
            self.boxes.append(box)
            said = PlainLabel(reason[:1].upper() + reason[1:])
            said.setObjectName("faded")
            said.setWordWrap(True)
            said.setContentsMargins(looks.px(22), 0, 0, 0)
            self.list.addWidget(said)
