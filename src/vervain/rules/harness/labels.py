"""Rules about labels."""

from collections import defaultdict
from collections.abc import Iterator

from vervain.harness.label_templates import LONGEST_LABEL
from vervain.harness.labels import labels
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about, about_cable
from vervain.rules.harness_fixes import ClearLabel
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="harness.duplicate-label",
    consequence="Workmanship",
    scope="machine",
    title="Two conductors carry one label",
    reason="Whoever opens the box next year finds two wires of one name, and one of them is the "
    "wrong one.",
    source="IEC 62491: labels identify a conductor uniquely.",
)
def duplicate_label(queries: Queries, _: str) -> Iterator[RuleOutput]:
    users: dict[str, list[tuple[str, int]]] = defaultdict(list)
    for key, entry in labels(queries).items():
        for text in {entry.at_a, entry.at_b}:
            users[text].append(key)
    for text, keys in sorted(users.items()):
        if len(keys) < 2:
            continue
        subjects = []
        fixes = []
        for hookup_id, row in keys:
            hookup = queries.hookup(hookup_id)
            core = hookup.conductors[row].core if hookup else None
            if hookup is None or hookup.cable is None:
                continue
            subjects.append(about_cable(hookup.cable, core))
            if labels(queries)[hookup_id, row].written and core is not None:
                words = f"give core {core} of {hookup.cable} its own label back"
                fixes.append(Fix(words=words, remedy=ClearLabel(cable=hookup.cable, core=core)))
        count = "Two" if len(keys) == 2 else str(len(keys))
        yield RuleOutput(
            f"{count} conductors carry the label {text}.",
            tuple(subjects),
            detail=text,
            fixes=tuple(fixes[:1]),
        )


@rule(
    id="harness.long-label",
    consequence="Workmanship",
    scope="machine",
    title="A label is too long for the tape",
    reason="On 9 mm tape at 3.5 mm letters more characters than this do not stay on one flag.",
    source="Derivation: 14 letters of about 2.8 mm on a 40 mm flag.",
)
def long_label(queries: Queries, _: str) -> Iterator[RuleOutput]:
    long = sorted(
        {
            text
            for entry in labels(queries).values()
            for text in (entry.at_a, entry.at_b)
            if len(text) > LONGEST_LABEL
        }
    )
    if long:
        more = f" and {len(long) - 1} more" if len(long) > 1 else ""
        yield RuleOutput(
            f"{long[0][:24]}{more}: too long for 9 mm tape.",
            (),
            value=float(max(map(len, long))),
            limit=float(LONGEST_LABEL),
            unit="letters",
        )


@rule(
    id="harness.no-label",
    consequence="Workmanship",
    scope="machine",
    title="Conductors have no label",
    reason="The form gives them no text: nobody will know them again.",
    source="IEC 62491: every conductor end is labelled.",
)
def no_label(queries: Queries, _: str) -> Iterator[RuleOutput]:
    bare = [key for key, entry in labels(queries).items() if not entry.at_a or not entry.at_b]
    if bare:
        hookup = queries.hookup(bare[0][0])
        count = "One conductor has" if len(bare) == 1 else f"{len(bare)} conductors have"
        ends = (about(hookup.a), about(hookup.b)) if hookup else ()
        yield RuleOutput(f"{count} no label by the form.", ends, why="Give the form another field.")


RULES = (duplicate_label, long_label, no_label)
