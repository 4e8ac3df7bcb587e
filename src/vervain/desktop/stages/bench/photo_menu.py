"""The photos of a step: add one by dialog or drop, look at those that are there."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from msgspec.structs import replace
from PyQt6.QtCore import QMimeData, QPoint, QUrl
from PyQt6.QtGui import QDesktopServices
from PyQt6.QtWidgets import QFileDialog, QMenu, QWidget

from vervain.bench.photos import ENDINGS, keep_photo, photo_path, with_photo
from vervain.bench.step import BenchStep
from vervain.desktop.background import in_background
from vervain.desktop.message import Message
from vervain.desktop.session import Session
from vervain.edits.bench_edits import keep_result
from vervain.model.bench_result import BenchResult
from vervain.model.problem import Problem

Chosen = Callable[[], tuple[BenchStep | None, BenchResult | None]]


def dropped_photos(data: QMimeData | None) -> list[Path]:
    """The photos among what is dropped."""
    urls = data.urls() if data is not None else []
    paths = [Path(url.toLocalFile()) for url in urls if url.isLocalFile()]
    return [path for path in paths if path.suffix.lower() in ENDINGS]


class PhotoMenu:
    """What the photo button does, for the step and the result that are chosen then."""

    def __init__(self, session: Session, widget: QWidget, chosen: Chosen) -> None:
        self.session, self.widget, self.chosen = session, widget, chosen
        self.shown: QMenu | None = None

    def open(self, at: QPoint) -> None:
        """Asks for photos; where there are some, offers them first."""
        _, kept = self.chosen()
        if kept is None or not kept.photos:
            self.ask()
            return
        self.shown = QMenu(self.widget)
        for name in kept.photos:
            action = self.shown.addAction(f"Look at {Path(name).name}")
            if action is not None:
                action.triggered.connect(partial(self.look_at, name))
        action = self.shown.addAction("Add photos …")
        if action is not None:
            action.triggered.connect(self.ask)
        self.shown.popup(at)

    def ask(self) -> None:
        """Asks for photos to add."""
        kinds = " ".join(f"*{ending}" for ending in ENDINGS)
        names, _ = QFileDialog.getOpenFileNames(self.widget, "Photos of this step", "", kinds)
        self.add([Path(name) for name in names])

    def add(self, paths: list[Path]) -> None:
        """Copies photos beside the machine's file on a worker, and keeps their names."""
        step, kept = self.chosen()
        machine_path = self.session.path
        if not paths or step is None:
            return
        if machine_path is None or kept is None:
            words = "Save the machine" if machine_path is None else "Pass or fail the step"
            self.session.say(f"{words} first: photos are kept beside it.")
            return

        def copy() -> list[str]:
            return [keep_photo(path, machine_path, step) for path in paths]

        def refuse(problem: Problem) -> None:
            words = f"{problem.what} {problem.remedy}".strip()
            self.session.said.emit(Message(words, is_bad=True))

        in_background(copy, partial(self._keep, kept), refuse)

    def _keep(self, before: BenchResult, names: list[str]) -> None:
        """Adds to what is kept by now; one that was taken back meanwhile has no photos."""
        kept = next((r for r in self.session.machine.bench_results if r.name == before.name), None)
        if kept is None:
            return
        photos = kept.photos
        try:
            for name in names:
                photos = with_photo(photos, name)
        except Problem as problem:
            self.session.said.emit(Message(problem.what, is_bad=True))
        result = replace(kept, photos=photos)
        count = f"{len(names)} photo{'s' * (len(names) != 1)}"
        self.session.apply(f"{count} of {kept.name}"[:70], lambda m: keep_result(m, result))

    def look_at(self, name: str) -> None:
        """Opens a photo with the desktop's own viewer."""
        if self.session.path is not None:
            path = photo_path(name, self.session.path)
            if path is not None and path.exists():
                QDesktopServices.openUrl(QUrl.fromLocalFile(str(path)))
            else:
                self.session.say(f"{name} is not there any more.")
