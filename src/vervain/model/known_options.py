"""The options of parts that rules read: one declaration of their ids, units and choices."""

from collections.abc import Iterator

from vervain.model.base import Record
from vervain.model.part import Option, Part, PartKind
from vervain.model.problem import did_you_mean


class KnownOption(Record, frozen=True, kw_only=True):
    """An option with a meaning. With a `unit` it is a number in that unit; else it is a choice,
    among `choices` where their words count, among whole numbers with `counted`. `kinds` are the
    parts that it says something about; all of them where it is empty.
    """

    id: str
    unit: str = ""
    choices: tuple[str, ...] = ()
    counted: bool = False
    kinds: frozenset[PartKind] = frozenset()


KNOWN_OPTIONS: tuple[KnownOption, ...] = (
    KnownOption(id="current_peak_a", unit="A", kinds=frozenset({"stepper driver", "controller"})),
    KnownOption(id="rating_a", unit="A"),
    KnownOption(id="duty_max", unit="%", kinds=frozenset({"motor bridge", "controller"})),
    KnownOption(id="microsteps", counted=True, kinds=frozenset({"stepper driver", "controller"})),
    KnownOption(id="heat_sink", choices=("none", "fitted"), kinds=frozenset({"stepper driver"})),
    KnownOption(id="invert", choices=("as it is", "inverted")),
    KnownOption(id="filter"),
    KnownOption(id="direction", choices=("forward", "reversed")),
    KnownOption(id="enable", choices=("low", "high")),
    KnownOption(id="step_idle", choices=("low", "high")),
)
BY_ID = {known.id: known for known in KNOWN_OPTIONS}


def option_faults(part: Part) -> Iterator[tuple[str, str]]:
    """Options of a part that rules would misread, each with a remedy."""
    for option in part.options:
        known = BY_ID.get(option.id)
        if known is None:
            continue
        if known.kinds and part.kind not in known.kinds:
            kinds = " or ".join(sorted(known.kinds))
            yield f"has the option {option.id}", f"It is for {kinds}. Take another id."
        else:
            yield from _misread(option, known)


def _misread(option: Option, known: KnownOption) -> Iterator[tuple[str, str]]:
    if known.unit:
        if option.choices or option.unit != known.unit:
            yield (
                f"gives {option.id} in {option.unit or 'choices'}",
                f"It is a number in {known.unit}: write unit = “{known.unit}”, without choices.",
            )
        return
    if not option.choices:
        yield f"gives {option.id} no choices", "Write choices = [ … ]."
    for choice in option.choices:
        if known.choices and choice not in known.choices:
            yield f"lets {option.id} be “{choice}”", did_you_mean(choice, known.choices)
        elif known.counted and not (choice.isascii() and choice.isdigit() and int(choice) > 0):
            yield f"lets {option.id} be “{choice}”", "Write a whole number."
