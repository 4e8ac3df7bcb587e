"""The label template form: text, fields in braces, and optional stretches in square brackets.

`{cable}[.{core}]` gives "W14.2", and "W2" where the cable has one core: a stretch in brackets is
left out when a field in it is empty. Documented in docs/labels.md.
"""

import re
from collections.abc import Mapping

from vervain.model.machine import LabelTemplates
from vervain.model.problem import Problem

FIELDS = ("axis", "device", "pin", "port", "cable", "core", "far")
# At 9 mm tape and 3.5 mm letters about 14 characters stay under 40 mm.
LONGEST_LABEL = 14
PIECE = re.compile(r"\{([^{}\[\]]*)\}|(\[)|(\])|([^{}\[\]]+)|(.)", re.DOTALL)


def check_template(template: str) -> None:
    """Raises `Problem`, naming the column, where a template is not in the form."""
    depth = 0
    fields = 0
    for match in PIECE.finditer(template):
        field, opens, closes, _, stray = match.groups()
        place = f"column {match.start() + 1}"
        if field is not None and field not in FIELDS:
            raise Problem(
                f"“{{{field}}}” is no field of a label.",
                place=place,
                remedy="Fields are " + ", ".join(f"{{{name}}}" for name in FIELDS) + ".",
            )
        if stray:
            raise Problem(f"A lone “{stray}” stands in the template.", place=place)
        fields += field is not None
        depth += bool(opens) - bool(closes)
        if depth not in (0, 1):
            raise Problem("Square brackets must close and cannot nest.", place=place)
    if depth:
        raise Problem("A square bracket is not closed.", place=f"column {len(template)}")
    if not fields:
        raise Problem("A template without a field gives every conductor the same label.")


def check_templates(templates: LabelTemplates) -> None:
    """Raises `Problem` where one of the two templates is not in the form."""
    check_template(templates.core)
    check_template(templates.lead)


def fill(template: str, values: Mapping[str, str]) -> str:
    """The label that a template gives for the values of its fields."""
    done: list[str] = []
    stretch: list[str] | None = None
    empty = False
    for match in PIECE.finditer(template):
        field, opens, closes, text, stray = match.groups()
        if opens:
            stretch, empty = [], False
        elif closes:
            if stretch is not None and not empty:
                done.extend(stretch)
            stretch = None
        else:
            piece = values.get(field, "") if field is not None else text or stray or ""
            empty = empty or (field is not None and not piece)
            (done if stretch is None else stretch).append(piece)
    return "".join(done).strip()
