"""The proposal in the side column: each plug with its reason, wanted or not, and what clashes."""

from PyQt6.QtWidgets import (
    QCheckBox,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from vervain.desktop.shared.plain import PlainLabel, plain
from vervain.desktop.stages.ports.filling import PlacementController
from vervain.desktop.theme import looks


class ProposalList(QWidget):
    """Rows to tick, and the buttons that carry the proposal out or leave it."""

    def __init__(self, filler: PlacementController) -> None:
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
        self.rows = QVBoxLayout(self.frame)
        self.rows.setContentsMargins(10, 8, 10, 8)
        self.rows.setSpacing(4)
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
        wanted = len(self.filler.wanted)
        self.title.setText(f"Proposed: {wanted} of {len(proposal.placements)} plugs")
        self.put_in.setEnabled(wanted > 0)

    def _make_rows(self) -> None:
        while (item := self.rows.takeAt(0)) is not None:
            widget = item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()
        self.boxes = []
        proposal = self.filler.proposal
        for conflict in proposal.conflicts if proposal else ():
            said = PlainLabel(conflict.words)
            said.setWordWrap(True)
            said.setStyleSheet(f"color: {looks.theme.bad};")
            self.rows.addWidget(said)
        for number, row in enumerate(proposal.placements if proposal else ()):
            place, _, reason = row.reason.partition(": ")
            box = QCheckBox(place)
            box.setChecked(True)
            box.setToolTip(plain(reason))
            box.toggled.connect(lambda _, at=number: self.filler.toggle(at))
            self.rows.addWidget(box)
            self.boxes.append(box)
            said = PlainLabel(reason[:1].upper() + reason[1:])
            said.setObjectName("faded")
            said.setWordWrap(True)
            said.setContentsMargins(looks.px(22), 0, 0, 0)
            self.rows.addWidget(said)
