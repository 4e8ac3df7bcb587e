"""Edits of the machine as a whole."""

from msgspec.structs import replace

from vervain.model.machine import Machine
from vervain.model.problem import Problem

LONGEST_NAME = 80
# What fits on the head of a page, as in the types.
MOST_LETTERS = {"state": 80, "revision": 20, "author": 80, "page": 200}

ADDRESSES = ("http://", "https://", "file://")


def rename_machine(machine: Machine, name: str) -> Machine:
    """Gives the machine another name. Raises `Problem`."""
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= LONGEST_NAME:
        raise Problem(f"A name has 1 to {LONGEST_NAME} characters.", place=machine.name)
    return replace(machine, name=cleaned)


def set_papers(
    machine: Machine,
    *,
    state: str | None = None,
    revision: str | None = None,
    author: str | None = None,
    page: str | None = None,
) -> Machine:
    """The machine with what stands on its prints: its state, its revision, who made it, the address
    of its page. Raises `Problem` where one is too long, or no address of a page.
    """
    given = {"state": state, "revision": revision, "author": author, "page": page}
    texts = {key: " ".join(text.split()) for key, text in given.items() if text is not None}
    for key, text in texts.items():
        if len(text) > MOST_LETTERS[key]:
            raise Problem(
                f"{key.capitalize()} has {len(text)} letters.",
                remedy=f"Up to {MOST_LETTERS[key]} fit on a page.",
            )
    address = texts.get("page", "")
    if address and not address.startswith(ADDRESSES):
        raise Problem(
            f"“{address[:40]}” is no address of a page.",
            remedy="Write where the phone opens the page: http://bench/gantry.html.",
        )
    return replace(machine, **texts)
