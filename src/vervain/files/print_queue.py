"""Papers to the system's print queue, by the command `lp` that every spooler of Linux has (POSIX.1,
`lp`; its options are those of CUPS). The PDF goes as it is: drawn, not as a picture, at true scale.
"""

import shutil
import subprocess

from msgspec import Struct

from vervain.model.problem import Problem

PATIENCE_S = 60
SIDES = {
    "none": "one-sided", "long side": "two-sided-long-edge", "short side": "two-sided-short-edge",
}  # fmt: skip


class PrintJob(Struct, frozen=True, kw_only=True):
    """What is printed where and how; `pages` as in "1-3,7", "" for all, `media` by its PWG or
    common name ("A4").
    """

    printer: str
    title: str
    copies: int = 1
    pages: str = ""
    turned_over: str = "none"
    is_coloured: bool = True
    media: str = ""


def lp_command(job: PrintJob) -> list[str]:
    """The command that takes the PDF on its standard input. Scaling is off: labels and the loom
    board are at true size.
    """
    command = ["lp", "-d", job.printer, "-t", job.title, "-n", str(job.copies)]
    if job.pages:
        command += ["-P", job.pages]
    options = [
        f"sides={SIDES[job.turned_over]}",
        f"print-color-mode={'color' if job.is_coloured else 'monochrome'}",
        "print-scaling=none",
    ]
    if job.media:
        options.append(f"media={job.media}")
    for option in options:
        command += ["-o", option]
    return command


def send_to_printer(job: PrintJob, pdf: bytes) -> None:
    """Hands a PDF to the queue. Raises `Problem` where there is no spooler, or where it refuses."""
    if shutil.which("lp") is None:
        raise Problem(
            "The system's print command lp is not installed.",
            remedy="Install the printing system (cups-client), or print to a file.",
        )
    try:
        done = subprocess.run(
            lp_command(job), input=pdf, capture_output=True, timeout=PATIENCE_S, check=False
        )
    except (OSError, subprocess.TimeoutExpired) as error:
        raise Problem(
            f"{job.printer} took nothing: {error}.", remedy="Is the printer on?"
        ) from None
    if done.returncode:
        said = done.stderr.decode(errors="replace").strip().splitlines()
        raise Problem(f"{job.printer} took nothing: {said[-1] if said else 'no reason given'}.")
