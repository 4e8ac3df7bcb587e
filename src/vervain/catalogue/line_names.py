"""Lines of terminals that begin with the name of their connector, where no mark parts it from them:
“MOTOR X A+ A- B+ B-”, “PROBE 5V GND S”.
"""

import re
from collections import Counter

from vervain.catalogue.layouts import (
    AXIS_LETTER,
    FEEDS,
    HALLS,
    PRINT,
    by_functions,
    common_stem,
    listed_words,
    named_line,
)
from vervain.catalogue.manual import ALTERNATING
from vervain.catalogue.pin_words import (
    function_at,
    is_general,
    is_range,
    names_connectors,
    read_function,
)
from vervain.catalogue.port_words import port_words
from vervain.catalogue.prints import WITH_SEVERAL
from vervain.catalogue.role_guess import is_called_for_a_line
from vervain.catalogue.rows import LONGEST_TEXT, SEPARATORS
from vervain.model.colours import read_colour
from vervain.model.part import BOARD_KINDS, PartKind

WORD = re.compile(r"^[A-Za-z][\w/.-]*$")
# What stands behind the letter of an axis in the name of its connector: X MIN.
BEHIND_AXIS = re.compile(r"^(?:axis|motor|mot|min|max|lim|limit|end|endstop|home)$", re.I)
# What stands behind what a connector is for: POWER IN, SPINDLE ENC.
SAYS_WHICH = frozenset({"in", "out", "enc", "encoder"})
SIGNS = "+-−"
# The channels of an encoder, or the two lines of a bus, and what stands behind them.
CHANNELS_OF = re.compile(r"^(?P<stem>[A-Z]*?)A (?P=stem)B(?P<z> (?P=stem)[ZNI])?(?P<rest>( \S+)*)$")
# What a drive has for one motor beside its phases, by what is printed at it.
FEEDBACK = (
    *(("HALL", set(halls)) for halls in HALLS),
    ("ENC", {"a", "b"}), ("ENC", {"a+", "b+"}), ("ENC", {"pa+", "pb+"}), ("ENC", {"ea+", "eb+"}),
)  # fmt: skip
# What a contact does, or the common of several terminals, behind the name of what these are of.
THROW = re.compile(r"^(?:N\.?[OC]\.?|COM|C)$", re.I)
COMMON = re.compile(r"^(?:COM|GND|0V)$", re.I)


def with_names_marked(text: str, kind: PartKind) -> str:
    """The text with a colon behind the name of a connector, where a line begins with one and lists
    its terminals. Where most lines plainly do, the others do too, but for those whose first word
    can only be a terminal. Of what is no board all lines must, two at least.
    """
    if any(mark in text for mark in SEPARATORS[:2]):
        return text
    lines = _with_pairs_in_a_line(text[:LONGEST_TEXT].splitlines(), kind)
    lines = [_with_name_once(line, kind) for line in lines]
    if (twice := Counter(line.split(":")[0] for line in lines if ":" in line).most_common(1)) and (
        twice[0][1] > 1
    ):
        return text
    split = [line.split() for line in lines]
    counts = [_words_of_name(words, kind) for words in split]
    filled = [words for words in split if words]
    sure = sum(count > 0 for count in counts)
    if sure > 1 and 2 * sure >= len(filled) and all(len(words) > 1 for words in filled):
        counts = [
            count or _words_among_names(words, kind)
            for count, words in zip(counts, split, strict=True)
        ]
    if kind not in BOARD_KINDS and (sure < len(filled) or sure < 2):
        return text
    named = [
        (" ".join(words[:count]), words[count:])
        for count, words in zip(counts, split, strict=True) if count
    ]  # fmt: skip
    names = _by_what_they_are_for(named, kind)
    if len(set(names)) < len(names):
        return text
    own = iter(names)
    alone = [
        words for line, words, count in zip(lines, split, counts, strict=True)
        if words and not count and named_line(line) is None
    ]  # fmt: skip
    # The only line without a name is called by what its terminals have in common, DC+ DC-, or are
    # for.
    stem = ""
    if names and len(alone) == 1:
        stem = common_stem(alone[0]) or by_functions(alone[0], kind)
    return "\n".join(
        f"{next(own) if count else stem}: {' '.join(words[count:])}"
        if count or (words in alone and stem and stem not in names) else line
        for line, words, count in zip(lines, split, counts, strict=True)
    )  # fmt: skip


def _by_what_they_are_for(named: list[tuple[str, list[str]]], kind: PartKind) -> list[str]:
    """The names of connectors; of several of one name, M0 A B C and M0 5V H1 H2 H3 GND, those that
    are fed are a motor's Hall sensors, or its encoder.
    """
    counts = Counter(name for name, _ in named)
    found = []
    for name, words in named:
        functions = {read_function(word, kind) for word in words}
        use = next((at for at, marks in FEEDBACK if marks <= {w.casefold() for w in words}), "")
        is_more = counts[name] > 1 and use and functions & {"plus", "zero"}
        found.append(f"{name} {use}" if is_more else name)
    return found


def _with_name_once(line: str, kind: PartKind) -> str:
    """A line in which the name of a connector stands before each of its contacts, RUN NO RUN COM,
    or before the common of those that are counted, STO1 STO2 STO COM, with the name before all.
    """
    words = listed_words(line)
    if kind not in BOARD_KINDS or len(words) < 3 or ":" in line:
        return line
    name = words[0]
    if len(words) % 2 == 0 and set(words[::2]) == {name} and all(map(THROW.match, words[1::2])):
        return f"{name}: {' '.join(words[1::2])}" if len(words) > 2 else line
    *counted, name, common = words
    if called := _called_by_channels(words, kind):
        return f"{called}: {' '.join(words)}"
    stems = {word.rstrip("0123456789") for word in counted}
    is_common = COMMON.match(common) is not None and stems == {name} and name not in counted
    return f"{name}: {' '.join((*counted, common))}" if is_common else line


def _called_by_channels(words: list[str], kind: PartKind) -> str:
    """What the connector of a controller is for that has A and B and their feed: an encoder's, or,
    with a way back alone, a serial bus (TIA/EIA-485 names its lines so); none of any other.
    """
    ends = CHANNELS_OF.match(" ".join(words))
    others = [read_function(word, kind) for word in ends["rest"].split()] if ends else []
    if ends is None or set(others) - {"plus", "zero"}:
        return ""
    if "plus" in others or ends["z"] or ends["stem"]:
        return "ENC" if kind == "controller" else ""
    return "RS485" if others == ["zero"] and kind in ("controller", "frequency inverter") else ""


def _with_pairs_in_a_line(lines: list[str], kind: PartKind) -> list[str]:
    """The lines of a source of power with both ends of each of its contacts in one: START 1,
    START 2.
    """
    if kind != "tool power source":
        return lines
    found: list[str] = []
    for line in lines:
        *words, number = line.split() or [""]
        before = f"{' '.join(words)} 1"
        if words and number == "2" and found and found[-1].strip() == before:
            found[-1] = f"{' '.join(words)}: 1 2"
        else:
            found.append(line)
    return found


def named_apart(text: str) -> tuple[str, str]:
    """The lines of a text that begin with the name of a connector and a mark, and list its
    terminals; and the others. Both are empty where there are not both.
    """
    lines = text[:LONGEST_TEXT].splitlines()
    named: list[str] = []
    others: list[str] = []
    for line in lines:
        at = named_line(line)
        is_named = at is not None and all(map(PRINT.match, listed_words(at[1])))
        (named if is_named else others).append(line)
    is_both = named and any(line.strip() for line in others)
    return ("\n".join(named), "\n".join(others)) if is_both else ("", "")


def _words_of_name(words: list[str], kind: str) -> int:
    """How many words at the beginning of a line are plainly the name of a connector; 0 where none
    are.
    """
    count = _words_of_long_name(words) or (1 if _can_be_name(words, kind) else 0)
    name, rest = " ".join(words[:count]), words[count:]
    if not count or len(rest) < 2 or not all(map(PRINT.match, rest)):
        return 0
    if count == 1 and _says_that_it_is_a_name(words, kind):
        return count
    if count == 2 and _is_of_power(words[0]) and words[1].casefold() in ("in", "out"):
        # AC IN L N and DC OUT V+ V-.
        return count
    told = [_told_at(name, word, kind) for word in rest]
    return count if all(told) and not set(told) <= set(FEEDS) else 0


def _words_among_names(words: list[str], kind: str) -> int:
    """How many words at the beginning of a line are the name of a connector, where the other lines
    begin with one.
    """
    if not words or not all(map(PRINT.match, words[1:])):
        return 0
    is_name = _can_be_name(words, kind) or _heads_what_is_counted(words, kind)
    return _words_of_long_name(words) or (1 if is_name else 0)


def _heads_what_is_counted(words: list[str], kind: str) -> bool:
    """Whether the first word stands before several of its own that are counted: STO STO1 STO2."""
    own = [word for word in words[1:] if word.rstrip("0123456789") == words[0] != word]
    return len(own) > 1 and read_function(words[0], kind) not in FEEDS


def _words_of_long_name(words: list[str]) -> int:
    """How many words name the connector of an axis, MOTOR X, X MIN, END X MIN, AXIS 1, or say what
    of a thing it is: POWER IN; 0 where the line begins otherwise. Of A, B and C all are terminals.
    """
    if len(words) < 4:
        return 0
    first, second, *rest = words
    if AXIS_LETTER.match(first):
        return 2 if BEHIND_AXIS.match(second) else 0
    if not names_connectors(first):
        return 0
    if AXIS_LETTER.match(second):
        is_more = BEHIND_AXIS.match(rest[0]) is not None and len(words) > 4
        return 0 if any(map(AXIS_LETTER.match, rest)) else 3 if is_more else 2
    return 2 if second.casefold() in SAYS_WHICH and second != first else 0


def _can_be_name(words: list[str], kind: str) -> bool:
    """Whether the first word of a line can be the name of what follows: it begins with a letter and
    has no sign, is none of several that are counted, IN1 IN2, no feed and no other function.
    """
    if len(words) < 3 or WORD.match(words[0]) is None or read_colour(words[0]) is not None:
        return False
    first, rest = words[0], words[1:]
    if first not in rest and _is_one_of(first, rest, kind):
        return False
    if sorted(words) == ["+", "-", "S"]:
        # The plug of a servo, or of what is worked as one.
        return False
    if len(words) > 2 and words[::2] == words[1::2]:
        # SW1 SW1 SW2 SW2: both ends of each.
        return False
    if len(first) == 1 or AXIS_LETTER.match(first):
        return not any(len(word) == 1 and word.isalpha() for word in rest)
    function = read_function(first, kind)
    commands = function in ("step", "signal", "pulse width")
    if commands and any(read_function(word, kind) == "direction" for word in rest):
        # PUL and PWM of what is told a direction too.
        return False
    is_terminal = function in FEEDS and not _is_of_power(first) and not _are_both_signs(rest)
    if is_terminal or (first.casefold() in ALTERNATING and rest.count(first) == 1):
        return False
    if function_at(first, first, kind) is not None and first not in rest:
        # KA of KA, KB and KC.
        return False
    return names_connectors(first) or function in (None, "signal")


def _is_one_of(first: str, rest: list[str], kind: str) -> bool:
    """Whether a word is one of several: IN1 of IN1 and IN2, TH of TH and TL, LV before LV1; and
    PWM 0-10V is one.
    """
    stem = first.rstrip("0123456789")
    is_counted = stem != first and any(word.rstrip("0123456789") == stem for word in rest)
    is_lettered = first.isalpha() and any(
        len(word) == len(first) and word.isalpha() and word[:-1] == first[:-1] for word in rest
    )
    is_told = kind in WITH_SEVERAL or read_function(first, kind) is not None
    is_before = not is_told and any(word.rstrip("0123456789") == first for word in rest)
    return is_counted or is_lettered or is_before or is_range(rest[0])


def _says_that_it_is_a_name(words: list[str], kind: str) -> bool:
    """Whether the first word is what connectors are called, or stands among the others once more,
    PROBE PROBE GND, or with a sign, OUT OUT+ OUT-, or before nothing but signs.
    """
    first, rest = words[0], words[1:]
    if _are_both_signs(rest) or {first, *(f"{first}{sign}" for sign in SIGNS)} & set(rest):
        return True
    are_feeds = all(
        (function_at(first, word, kind) or read_function(word, kind)) in FEEDS
        or word.casefold() in ALTERNATING
        for word in rest
    )
    if _is_of_power(first):
        return are_feeds
    # SERVO 5V GND is a signal and its feed, START STOP COM two of them.
    is_word = names_connectors(first) and not AXIS_LETTER.match(first)
    has_lines = any(_is_line(word, kind) for word in rest)
    return is_word and not are_feeds and not has_lines and read_function(first, kind) is None


def _are_both_signs(words: list[str]) -> bool:
    """Whether all words are a plus and a minus of something: V+ V-."""
    ends = [next((end for end in (word[-1], word[0]) if end in SIGNS), "") for word in words]
    return all(ends) and len({*ends}) > 1


def _is_of_power(word: str) -> bool:
    """Whether a word says that power comes in, and is no terminal by itself: POWER, but not VIN."""
    is_terminal = word[0] in "Vv" or re.search(r"\d", word)
    plain = word.casefold()
    return not is_terminal and (plain in ALTERNATING or port_words().is_of_power(plain))


def _told_at(name: str, word: str, kind: str) -> str | None:
    """What a word is that is printed at a connector: its function there, or a letter for what has
    no other name; None of a line of its own, STOP, which would not stand at a connector.
    """
    function = function_at(name, word, kind) or read_function(word, kind)
    if function is not None:
        return None if is_general(word) or _is_line(word, kind) else function
    return word if len(word) == 1 and word.isalpha() else None


def _is_line(word: str, kind: str) -> bool:
    """Whether a word is called for a line, and for nothing that a connector has beside others."""
    is_word = len(word) > 2 and word.isalpha() and read_function(word, kind) not in (None, "signal")
    return is_word and is_called_for_a_line(word)
