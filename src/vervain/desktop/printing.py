"""Papers by the system's print dialog: the PDF that an export would write goes to the queue."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QPageSize
from PyQt6.QtWidgets import QMenu, QWidget

from vervain.desktop.exchange import Exchange
from vervain.files.print_queue import PrintJob, send_to_printer
from vervain.files.writing import write_whole

if TYPE_CHECKING:
    from PyQt6.QtPrintSupport import QPrinter

# The forms that are papers, and how the menu calls them.
PAPERS = {
    "pdf": "Harness: route, sections, every table",
    "sheets": "Build sheets, a page for each cable",
    "board": "Loom board at true scale",
    "bench": "Bench report",
}


def ask_printer(printer: "QPrinter", title: str, parent: Exchange) -> bool:
    """Shows the system's print dialog; whether something is to be printed."""
    from PyQt6.QtPrintSupport import QAbstractPrintDialog, QPrintDialog

    dialog = QPrintDialog(printer, parent.parent_widget)
    dialog.setWindowTitle(f"Print: {title}")
    options = QAbstractPrintDialog.PrintDialogOption
    dialog.setOptions(options.PrintToFile | options.PrintPageRange)
    return bool(dialog.exec())


def job_of(printer: "QPrinter", title: str, media: str) -> PrintJob:
    """What was chosen in the dialog."""
    from PyQt6.QtPrintSupport import QPrinter

    turned = {
        QPrinter.DuplexMode.DuplexLongSide: "long side",
        QPrinter.DuplexMode.DuplexAuto: "long side",
        QPrinter.DuplexMode.DuplexShortSide: "short side",
    }
    return PrintJob(
        printer=printer.printerName(),
        title=title,
        copies=printer.copyCount(),
        pages=printer.pageRanges().toString().replace(" ", ""),
        turned_over=turned.get(printer.duplex(), "none"),
        is_coloured=printer.colorMode() == QPrinter.ColorMode.Color,
        media=media,
    )


class Printing(QObject):
    """Asks for a printer, makes a paper on a worker, and hands it over."""

    def __init__(self, exchange: Exchange) -> None:
        super().__init__(exchange)
        self.exchange = exchange
        # Who is asked instead of the system's dialog, where somebody is.
        self.ask: Callable[[QPrinter, str, Exchange], bool] | None = None

    def open_below(self, widget: QWidget) -> None:
        """Asks below a widget which paper it is to be."""
        menu = QMenu(self.exchange.parent_widget)
        for form, words in PAPERS.items():
            action = menu.addAction(f"Print: {words} …")
            if action is not None:
                action.triggered.connect(partial(self.print_paper, form))
        # So that Enter alone prints the first.
        menu.setActiveAction(menu.actions()[0])
        menu.popup(widget.mapToGlobal(widget.rect().bottomLeft()))

    def print_paper(self, form: str, *_: object) -> None:
        """Prints one of `PAPERS`; it is kept in the machine as printed."""
        title = PAPERS[form].split(":")[0].split(",")[0]

        def hand_over(write_out: Callable[[bytes], object], where: str, paper: str) -> None:
            self.exchange.session.say("Printing …")
            self.exchange.write_paper(form, write_out, where, paper, "Sent")

        self._print(title, None, hand_over)

    def print_made(
        self, title: str, paper: str, make: Callable[[Callable[[bytes], object], str], object]
    ) -> None:
        """Prints what `make` makes as a PDF and hands on: on a paper, or "" for what has a size of
        its own, like a tape.
        """
        self._print(title, paper, lambda write_out, where, _: make(write_out, where))

    def _print(
        self,
        title: str,
        paper: str | None,
        make: Callable[[Callable[[bytes], object], str, str], object],
    ) -> None:
        from PyQt6.QtPrintSupport import QPrinter

        printer = QPrinter(QPrinter.PrinterMode.HighResolution)
        if paper:
            printer.setPageSize(QPageSize(QPageSize.PageSizeId[paper]))
        title = f"{self.exchange.session.machine.name}, {title}"
        if not (self.ask or ask_printer)(printer, title, self.exchange):
            return
        chosen = "letter" if printer.pageLayout().pageSize().key() == "Letter" else "a4"
        if printer.outputFileName():
            path = Path(printer.outputFileName())
            make(partial(write_whole, path), path.name, chosen)
            return
        media = printer.pageLayout().pageSize().key() if paper != "" else ""
        job = job_of(printer, title, media)
        make(partial(send_to_printer, job), job.printer, chosen)
