"""What is not finished, apart from what is wrong: a line a device that nothing is joined to yet."""

from functools import partial

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from vervain.desktop.session import Selection, Session
from vervain.desktop.shared.replacing import clear
from vervain.rules.finding import Finding
from vervain.text.words import count_of

MOST_LINES = 10


def lines_of(findings: tuple[Finding, ...], stage: str | None) -> dict[str, list[str]]:
    """The devices with something to do on a stage, or anywhere, each with the ports it is about."""
    found: dict[str, list[str]] = {}
    for finding in findings:
        if stage is not None and finding.stage != stage:
            continue
        for subject in finding.subjects[:1]:
            if subject.device is not None:
                ports = found.setdefault(subject.device, [])
                if subject.port is not None and subject.port not in ports:
                    ports.append(subject.port)
    return found


class ToDoList(QWidget):
    """A head that says how many, and under it, when opened, the devices; one is gone to by a click
    or by Enter.
    """

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._shown: object = None
        self._lines: dict[str, list[str]] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(1)
        self.head = QPushButton()
        self.head.setObjectName("todo")
        self.head.setCheckable(True)
        self.head.setToolTip("Devices and plugs that nothing is joined to yet")
        self.head.clicked.connect(self._fill)
        column.addWidget(self.head)
        self.rows = QVBoxLayout()
        self.rows.setSpacing(0)
        column.addLayout(self.rows)
        self.hide()

    def show_stage(self, stage: str | None) -> None:
        """Shows what is to do on a stage, or on all where it is None."""
        result = self.session.result
        lines = lines_of(result.to_do, stage) if result is not None else {}
        if lines == self._lines and self._shown == stage:
            return
        self._lines, self._shown = lines, stage
        count = len(lines)
        what = "to lay cables to" if stage == "Harness" else "to join"
        self.head.setText(f"To do: {count_of(count, 'device')} {what}")
        self.setVisible(bool(lines))
        self._fill()

    def _fill(self) -> None:
        clear(self.rows)
        if not self.head.isChecked():
            return
        names = list(self._lines)
        for name in names[:MOST_LINES]:
            device = self.session.queries.device(name)
            ports = ", ".join(self._lines[name])
            text = f"{name}  {device.name if device else ''}{f'  ·  {ports}' if ports else ''}"
            row = QPushButton(text.replace("&", "&&"))
            row.setObjectName("line")
            row.clicked.connect(partial(self._go, name))
            self.rows.addWidget(row)
        if len(names) > MOST_LINES:
            more = QPushButton(f"and {len(names) - MOST_LINES} more")
            more.setObjectName("line")
            more.setEnabled(False)
            self.rows.addWidget(more)

    def _go(self, name: str) -> None:
        self.session.select(Selection(device=name))
