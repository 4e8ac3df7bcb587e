"""What is wrong with a file: the path, each fault with its place, and what to do."""

from typing import NamedTuple

from vervain.model.problem import Problem


class Place(NamedTuple):
    """One fault in a file: where (line or path inside), what, and the remedy."""

    where: str
    what: str
    remedy: str


class FileProblem(Problem):
    """A file that cannot be read, written or understood. Nothing was changed on disk."""

    def __init__(
        self, path: str, what: str, *, faults: tuple[Place, ...] = (), remedy: str = ""
    ) -> None:
        super().__init__(what, place=path, remedy=remedy)
        self.path = path
        self.faults = faults

    def __str__(self) -> str:
        lines = [f"{self.path}: {self.what}"]
        for fault in self.faults[:12]:
            stop = "." if fault.remedy and fault.what[-1:] not in ".:?" else ""
            lines.append(f"  at {fault.where}: {fault.what}{stop} {fault.remedy}".rstrip())
        if len(self.faults) > 12:
            lines.append(f"  and {len(self.faults) - 12} more")
        if self.remedy:
            lines.append(self.remedy)
        return "\n".join(lines)
