"""Rules about labels and cables."""

from collections import defaultdict
from collections.abc import Iterator

from vervain.checks.finding import Fix, about_cable
from vervain.checks.remedies import ClearLabel
from vervain.checks.rule import Said, rule
from vervain.harness.labels import labels
from vervain.harness.templates import LONGEST_LABEL
from vervain.machine.look import Look


@rule(
    id="harness.duplicate-label",
    stage="Harness",
    consequence="Workmanship",
    scope="machine",
    title="Two conductors carry one label",
    reason="Whoever opens the box next year finds two wires of one name, and one of them is the "
    "wrong one.",
    source="IEC 62491: labels identify a conductor uniquely.",
)
def duplicate_label(look: Look, _: str) -> Iterator[Said]:
    users: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for key, entry in labels(look).items():
        for text in {entry.at_a, entry.at_b}:
            users[text].append(key)
    for text, keys in sorted(users.items()):
        if len(keys) < 2:
            continue
        subjects = []
        fixes = []
        for hookup_id, row in keys:
            hookup = look.hookup(hookup_id)
            core = hookup.conductors[row].core if hookup else None
            if hookup is None or hookup.cable is None:
                continue
            subjects.append(about_cable(hookup.cable, core))
            if labels(look)[hookup_id, row].written and core is not None:
                words = f"give core {core} of {hookup.cable} its own label back"
                fixes.append(Fix(words=words, remedy=ClearLabel(cable=hookup.cable, core=core)))
        count = "Two" if len(keys) == 2 else str(len(keys))
        yield Said(
            f"{count} conductors carry the label {text}.",
            tuple(subjects),
            detail=text,
            fixes=tuple(fixes[:1]),
        )


@rule(
    id="harness.long-label",
    stage="Harness",
    consequence="Workmanship",
    scope="machine",
    title="A label is too long for the tape",
    reason="On 9 mm tape at 3.5 mm letters more characters than this do not stay on one flag.",
    source="Derivation: 14 letters of about 2.8 mm on a 40 mm flag.",
)
def long_label(look: Look, _: str) -> Iterator[Said]:
    long = sorted(
        {
            text
            for entry in labels(look).values()
            for text in (entry.at_a, entry.at_b)
            if len(text) > LONGEST_LABEL
        }
    )
    if long:
        more = f" and {len(long) - 1} more" if len(long) > 1 else ""
        yield Said(
            f"{long[0][:24]}{more}: too long for 9 mm tape.",
            (),
            value=float(max(map(len, long))),
            limit=float(LONGEST_LABEL),
            unit="letters",
        )


@rule(
    id="harness.no-length",
    stage="Harness",
    consequence="Workmanship",
    scope="cable",
    title="A cable's length is not given",
    reason="Without it nothing can be cut, and no drop can be worked out.",
    source="The machine's own list of cables.",
)
def no_length(look: Look, cable_id: str) -> Iterator[Said]:
    cable = look.cable(cable_id)
    if cable is not None and cable.length_m is None and look.hookups_in(cable_id):
        yield Said(f"The length of {cable_id} is not given.", (about_cable(cable_id),))


RULES = (duplicate_label, long_label, no_length)
