"""Photos of steps: copied into a folder beside the machine's file, and named from there."""

import re
from pathlib import Path

from vervain.bench.step import BenchStep
from vervain.model.bench_result import MOST_PHOTOS
from vervain.model.problem import Problem

ENDINGS = (".jpg", ".jpeg", ".png", ".webp", ".heic")
LARGEST_BYTES = 40_000_000


def photo_folder(machine_path: Path) -> Path:
    """Where the photos of a machine's file are kept."""
    return machine_path.with_name(f"{machine_path.stem} photos")


def keep_photo(photo: Path, machine_path: Path, step: BenchStep) -> str:
    """Copies a photo beside the machine's file, under a name that tells its step, never over
    another; returns its name from the folder of the file. Raises `Problem`.
    """
    if photo.suffix.lower() not in ENDINGS:
        kinds = ", ".join(ending.removeprefix(".") for ending in ENDINGS)
        raise Problem(f"{photo.name} is no photo.", remedy=f"These are kept: {kinds}.")
    folder = photo_folder(machine_path)
    stem = re.sub(r"[^\w-]+", "-", step.id).strip("-")[:40] or "step"
    try:
        if photo.stat().st_size > LARGEST_BYTES:
            raise Problem(
                f"{photo.name} has more than {LARGEST_BYTES // 1_000_000} MB.",
                remedy="Make it smaller first.",
            )
        data = photo.read_bytes()
        folder.mkdir(exist_ok=True)
        for number in range(1, 10_000):
            target = folder / f"{stem}-{number}{photo.suffix.lower()}"
            try:
                with target.open("xb") as file:
                    file.write(data)
            except FileExistsError:
                continue
            return f"{folder.name}/{target.name}"
    except OSError as error:
        why = error.strerror or "unknown"
        raise Problem(f"{photo.name} could not be kept: {why}.") from None
    raise Problem(f"There are too many photos of this step in {folder.name}.")


def photo_path(name: str, machine_path: Path) -> Path | None:
    """Where a photo is that a machine's file names; None for what is no photo, or lies anywhere but
    in the folder of the file: a file of somebody else's opens nothing of one's own.
    """
    folder = machine_path.parent.resolve()
    path = (folder / name).resolve()
    return path if path.suffix.lower() in ENDINGS and path.is_relative_to(folder) else None


def with_photo(photos: tuple[str, ...], name: str) -> tuple[str, ...]:
    """The photos of a result and one more. Raises `Problem` where there are too many."""
    if len(photos) >= MOST_PHOTOS:
        raise Problem(f"A step has at most {MOST_PHOTOS} photos.")
    return (*photos, name)
