"""The part that is described, drawn beside its texts: its plug, or its board to be pulled about."""

from pathlib import Path

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from vervain.catalogue.port_groups import PortGroup
from vervain.desktop.shared.plain import PlainLabel
from vervain.desktop.shared.plug_painting import PartPicture
from vervain.desktop.shared.replacing import put_inside
from vervain.desktop.stages.machine.board_editor import BoardEditor
from vervain.desktop.stages.machine.part_page import faded
from vervain.model.part import Part

PICTURES = "Pictures (*.png *.jpg *.jpeg *.webp *.bmp *.pdf)"
FIRST_HINT = "Pull a port where it lies, or choose one with Page Down and move it with the arrows."


class DrawingColumn(QWidget):
    """A picture with a line of words under it. `placed` tells where the ports of a board were put,
    `chosen` which one is chosen; `wide_wanted` asks how wide a board is whose photograph was laid
    under it.
    """

    placed = pyqtSignal(object)
    wide_wanted = pyqtSignal()
    refused = pyqtSignal(str)
    chosen = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.picture: PartPicture | BoardEditor | None = None
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        self.head = QHBoxLayout()
        self.photo = QPushButton("Photo under it …")
        self.photo.setToolTip("Lay a photograph, a scan or a page of the manual under the board")
        self.photo.clicked.connect(self.ask_photo)
        self.head.addWidget(self.photo)
        column.addLayout(self.head)
        self.area = QScrollArea()
        self.area.setAccessibleName("Drawing of the part")
        self.area.setWidgetResizable(True)
        column.addWidget(self.area, 1)
        self.told: PlainLabel = faded(FIRST_HINT)
        self.told.setWordWrap(True)
        column.addWidget(self.told)

    @property
    def editor(self) -> BoardEditor | None:
        """The picture of a board, where it is one."""
        return self.picture if isinstance(self.picture, BoardEditor) else None

    def show_part(self, part: Part | None, groups: tuple[PortGroup, ...]) -> None:
        """Draws a part; a board keeps its photo and which port is chosen."""
        is_board = part is not None and part.board is not None
        self.photo.setVisible(is_board)
        self.told.setVisible(is_board)
        if part is None:
            self.picture = None
            blank = QFrame()
            blank.setObjectName("blank")
            put_inside(self.area, blank)
            return
        if not is_board:
            self.picture = PartPicture(part)
            put_inside(self.area, self.picture)
            return
        editor = self.editor
        if editor is None:
            editor = self.picture = BoardEditor(part)
            editor.placed.connect(self.placed)
            editor.said.connect(self.told.setText)
            editor.picked.connect(self.chosen)
            editor.spanned.connect(lambda _: self.wide_wanted.emit())
            put_inside(self.area, editor)
            self.told.setText(FIRST_HINT)
        editor.show_part(part, groups)

    def ask_photo(self) -> None:
        """Asks for a picture to lay under the board; again takes it away."""
        editor = self.editor
        if editor is not None and editor.photo is not None:
            editor.without_photo()
            self.photo.setText("Photo under it …")
            return
        name, _ = QFileDialog.getOpenFileName(self, "Lay under the board", "", PICTURES)
        if name:
            self.lay_under(Path(name))

    def lay_under(self, path: Path) -> None:
        """Lays a picture under the board."""
        editor = self.editor
        if editor is None:
            self.refused.emit("Type the board's table first; then lay its photograph under it.")
        elif editor.lay_under(path):
            self.photo.setText("Photo away")
        else:
            self.refused.emit(f"{path.name} is no picture that can be read.")
