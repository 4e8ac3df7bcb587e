"""What every print says of itself, so that it can be trusted a year later: which machine in which
state and revision it shows, by whom and when it was made, and the fingerprint of the file.
"""

import hashlib
from datetime import date

from msgspec.structs import replace

from vervain.files.machine_file import encode_machine
from vervain.model.base import Record
from vervain.model.machine import Machine

# Eight figures in two groups tell four billion files apart, and can be read out aloud.
GROUPS, GROUP = 2, 4


class Stamp(Record, frozen=True, kw_only=True):
    """What stands on a print. `day` is written as in ISO 8601."""

    machine: str
    state: str
    revision: str
    author: str
    day: str
    fingerprint: str

    @property
    def line(self) -> str:
        """All of it in one line, without what is not given."""
        revision = f"revision {self.revision}" if self.revision else ""
        title = " ".join(filter(None, (self.machine, self.state)))
        parts = (title, revision, self.author, self.day, self.fingerprint)
        return "  ·  ".join(part for part in parts if part)


def stamp_of(machine: Machine, day: date | None = None) -> Stamp:
    """The stamp of a machine as it is now; of today where no day is given."""
    return Stamp(
        machine=machine.name,
        state=machine.state,
        revision=machine.revision,
        author=machine.author,
        day=(day or date.today()).isoformat(),
        fingerprint=fingerprint_of(machine),
    )


def fingerprint_of(machine: Machine) -> str:
    """The first figures of the SHA-256 of the machine's file, without what was printed and made of
    it: "3F9A-20C1"; another machine, another fingerprint.
    """
    cables = tuple(replace(cable, done={}) for cable in machine.cables)
    designed = replace(machine, papers=(), bench_results=(), printed=(), cables=cables)
    figures = hashlib.sha256(encode_machine(designed)).hexdigest()[: GROUPS * GROUP].upper()
    return "-".join(figures[at : at + GROUP] for at in range(0, len(figures), GROUP))
