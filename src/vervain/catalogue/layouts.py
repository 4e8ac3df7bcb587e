"""Terminals and leads as they may stand on paper: side by side, “A1 A2 13 14”, “BN + BU −”; behind
the name of their connector, “POWER: 24V 0V”; or below it, set in, or with an empty line between.
"""

import re
from itertools import pairwise

from vervain.catalogue.pin_words import (
    function_at,
    names_connectors,
    read_function,
)
from vervain.catalogue.rows import LONGEST_TEXT, SEPARATORS
from vervain.model.colours import read_colour
from vervain.model.part import BOARD_KINDS, DRIVE_KINDS

# What is printed at a terminal, and is no word of a sentence; 3Vo is what gives 3 V.
WORD = re.compile(r"^[A-Z]{2,10}$")
PRINT = re.compile(r"^(?:[A-Z0-9~+/*_.#&-]{1,10}|[+-]|\d[A-Z][a-z])(?:\([^()\s]{1,8}\))?$")
# The two ends of one of several fuses: 1 and 1', 1A and 1B.
END_OF_A_FUSE = re.compile(r"^[A-Z0-9+]{1,5}'?$", re.I)
# The two ends of one of several coils: A1 A2.
ENDS_OF_A_COIL = re.compile(r"^(?P<of>[A-Z])1 (?P=of)2$")
# What the three Hall sensors of a motor are printed as.
HALLS = ({"hu", "hv", "hw"}, {"ha", "hb", "hc"}, {"h1", "h2", "h3"})
# The contact of a drive's relay.
OF_RELAY = re.compile(r"^([RTKMF]\d?)A \1B \1C$", re.I)
# A throw of one of several relays.
THROW_OF = re.compile(r"^(?:NO|NC|COM|C)(\d{1,2})$", re.I)
# A line that is marked as a name: “POWER:”, “[POWER]”, “# POWER”.
HEADED = re.compile(r"^\s*(?:[#*=]+\s*\S.*|\[.+\]|[A-Za-z][^:|\t]{0,23}:)\s*[*=]*$")
# A name of letters and a number, or of an axis: K1, CN12, X MIN.
NUMBERED = re.compile(
    r"^(?:[a-z]{1,4}\d{1,2}|[xyzabc] (?:axis|motor|min|max|lim|limit|end))$", re.I
)
AXIS_LETTER = re.compile(r"^[XYZABCUVWE]?\d?$", re.I)
# What an encoder tells how its motor stands.
DRIVES = ("stepper driver", "servo drive")
# What gives power.
GIVING = ("supply", "battery")
# A line of a bus, and what stands beside these.
COUNTED_LINE = re.compile(r"^([A-Za-z]{3,})_?[HL]$")
COMMONS = frozenset({"gnd", "0v", "com", "5v", "3v3", "3.3v", "24v", "12v", "g", "+5v", "+24v"})
FEEDS = ("plus", "zero", "com", "pe", "line", "neutral")
ONE_OF_SEVERAL = re.compile(r"^([A-Za-z]+)[ -]?\d+$")
VOLTS_OF_SEVERAL = r"(?:0-)?\d{1,3}(?:[.,]\d)?\s?V(?:AC|DC)?\b(?=[^:=|\t]*[:=]\s*\S+[\s,;]+\S)"
# One that begins with volts, 5V OUT, has several terminals.
NAMED = re.compile(rf"^((?:[A-Za-z]|{VOLTS_OF_SEVERAL})[^:=|\t]{{0,23}})\s*[:=]\s*(\S.*)$")
# One of several connectors that are only counted, and at least two terminals of it.
COUNTED_NAME = re.compile(r"^(\d{1,2})\s*:\s*(\S+\s+\S.*)$")


def as_table(text: str, kind: str) -> str:
    """A table of ports and terminals, where the text names connectors and lists the terminals of
    each; any other text as it is.
    """
    listed = text[:LONGEST_TEXT]
    behind = _behind_names(listed, kind)
    for ports, is_single in (
        (behind, _are_single_lines(behind, kind)),
        (_below_names(listed), False),
    ):
        rows = [f"{name}\t{word}" for name, words in ports for word in words]
        if len(rows) > len(ports) or is_single:
            return "\n".join(("port\tsignal", *rows))
    return text


Connectors = list[tuple[str, list[str]]]


def _behind_names(text: str, kind: str) -> Connectors:
    """Connectors whose terminals stand in a line each, behind a colon; lines without a name among
    them are called by what their terminals have in common. Terminals alone before them are one
    connector; one alone among those of a board is called by what is printed there. None where any
    line is something else, or no line has a name.
    """
    lines = [line.strip() for line in text.splitlines() if line.strip()]
    found: Connectors = []
    alone: list[str] = []
    named = 0
    for line in lines:
        at = named_line(line)
        words = listed_words(at[1] if at else line)
        if at is not None:
            named += 1
            found.append((at[0], words))
        elif not all(map(PRINT.match, words)):
            return []
        elif len(words) == 1 and found:
            if kind not in BOARD_KINDS:
                return []
            found.append((words[0], words))
        elif len(words) == 1:
            alone += words
        else:
            found.append(line_name(words, len(found) + 1))
    if alone:
        found.insert(0, ("PORT", alone))
    names = [name for name, _ in found]
    is_plain = named and len(set(names)) == len(names) and len(alone) <= 4 * named
    return _called_for_use(found, kind) if is_plain else []


def _are_single_lines(ports: Connectors, kind: str) -> bool:
    """Whether connectors of a board have one terminal each, which is called by what is printed
    there and they by what it is for: IN1: GPIO13.
    """
    return (
        kind in BOARD_KINDS
        and bool(ports)
        and not any(read_function(name, kind) in FEEDS for name, _ in ports)
        and not any(read_function(word, kind) in FEEDS for _, words in ports for word in words)
    )


def named_line(line: str) -> tuple[str, str] | None:
    """The name of a connector and what is behind its mark, of a line that begins so."""
    at = NAMED.match(line.strip()) or COUNTED_NAME.match(line.strip())
    return (at[1].strip(), at[2]) if at is not None else None


def listed_words(text: str) -> list[str]:
    """The terminals that a line lists."""
    return [word for word in re.split(r"[\s,;|]+", text) if word]


def line_name(words: list[str], number: int) -> tuple[str, list[str]]:
    """What a line of terminals without a name is called, and its terminals: by their common stem,
    BED+ BED-; by a first word that is of several letters before single ones, XMIN S G; else by its
    number.
    """
    if stem := common_stem(words):
        return stem, words
    if any(halls <= {word.casefold() for word in words} for halls in HALLS):
        return "HALL", words
    if OF_RELAY.match(" ".join(words)):
        return "RELAY", words
    relays = {at[1] for word in words if (at := THROW_OF.match(word)) is not None}
    if len(relays) == 1 and all(map(THROW_OF.match, words)) and len(words) > 1:
        return f"RELAY {relays.pop()}", words
    if len(words) > 2 and len(words[0]) > 2 and all(len(word) < 2 for word in words[1:]):
        return words[0], words[1:]
    return f"PLUG {number}", words


def common_stem(words: list[str]) -> str:
    """What terminals have in common: DC of DC+ and DC-, CAN of CANH, CANL and GND; "" where they
    have nothing.
    """
    if len(stems := _stems(words)) == 1:
        return stems.pop()
    counted = [word for word in words if word.casefold() not in COMMONS]
    first = COUNTED_LINE.match(counted[0]) if counted else None
    if first is None or len(counted) < 2 or len(counted) < len(words) - 2:
        return ""
    ends = {re.sub(r"^[_ ]", "", word[len(first[1]) :]) for word in counted}
    is_shared = all(word.startswith(first[1]) for word in counted) and len(ends) == len(counted)
    return first[1] if is_shared and all(len(end) == 1 for end in ends) else ""


def _stems(words: list[str]) -> set[str]:
    """Words without their signs: BED of BED+ and BED-."""
    return {word.rstrip("+-−") for word in words}


def _below_names(text: str) -> Connectors:
    """Connectors whose terminals stand below, one in a line: the names are marked as such, or the
    terminals are set in, or each begins after an empty line. None where that is not plain.
    """
    lines = [line.rstrip() for line in text.splitlines()]
    filled = [line for line in lines if line.strip()]
    if not filled:
        return []
    marked = [HEADED.match(line) is not None for line in lines]
    set_out = [bool(line) and not line[0].isspace() for line in lines]
    for is_name in (marked, set_out, _after_gaps(lines)):
        found = _sections(lines, is_name)
        if found:
            return found
    return []


def _after_gaps(lines: list[str]) -> list[bool]:
    """Which lines are names: the first after each empty line, where most of them are called by what
    connectors are for, and none is plainly a terminal: 24V, PUL+, or IN1 over IN2.
    """
    is_first = [
        bool(line.strip()) and not before.strip() for before, line in pairwise(("", *lines))
    ]
    firsts = [number for number, first in enumerate(is_first) if first]
    words = [lines[number].strip() for number in firsts]
    below = [lines[number + 1].strip() if number + 1 < len(lines) else "" for number in firsts]
    called = sum(_is_called_for_use(word) for word in words)
    is_plain = any(
        word[:1].isdigit() or re.search(r"[+-]$", word) or _counts_on(word, after)
        for word, after in zip(words, below, strict=True)
    )
    if len(firsts) < 2 or called * 2 < len(words) or is_plain:
        return [False] * len(lines)
    return is_first


def _is_called_for_use(text: str) -> bool:
    """Whether a text is what connectors are called: “MOTOR 2 (5 A)”, “CN12”, “X MIN”."""
    first = re.match(r"[a-z]+", text.casefold())
    word = first[0] if first else ""
    rest = text[len(word) :]
    is_word = names_connectors(word) and re.match(r"^(?:[ _-]?\d+)?(?: .*)?$", rest) is not None
    return is_word or NUMBERED.match(text) is not None


def _counts_on(word: str, after: str) -> bool:
    first, second = ONE_OF_SEVERAL.match(word), ONE_OF_SEVERAL.match(after)
    return bool(first and second and first[1] == second[1])


def _sections(lines: list[str], is_name: list[bool]) -> Connectors:
    """What stands below the lines that are names; none where the first is no name, a name has
    nothing below, an empty line parts no two names, or a terminal is more than a word.
    """
    found: Connectors = []
    after_gap = False
    for line, named in zip(lines, is_name, strict=True):
        words = line.split()
        if named:
            found.append((line.strip(" \t:#=[]*"), []))
        elif not words:
            after_gap = True
            continue
        elif not found or len(words) > 1 or (after_gap and found[-1][1]):
            return []
        else:
            found[-1][1].append(words[0])
        after_gap = False
    names = [name for name, _ in found]
    is_whole = all(name and listed for name, listed in found) and len(set(names)) == len(names)
    return found if is_whole else []


def unnamed_as_table(text: str, kind: str) -> str:
    """A table of ports and terminals, where each line, or each block between empty lines, lists the
    terminals of a connector that has no name; any other text as it is.
    """
    blocks = [block.split() for block in re.split(r"\n[ \t]*\n", text[:LONGEST_TEXT])]
    lines = [line.split() for line in text[:LONGEST_TEXT].splitlines() if line.strip()]
    is_lines = all(len(words) > 1 for words in lines)
    listed = lines if is_lines else [block for block in blocks if block]
    words = [word for line in listed for word in line]
    by_pin = all(
        len(line) == 2 and read_function(line[0], kind) is None and len(_stems(line)) > 1
        for line in lines
    )
    # AC L and AC N are a terminal each.
    firsts = [line[0] for line in lines]
    is_one_print = any(
        len(line) == 2 and firsts.count(line[0]) > 1 and read_function(" ".join(line), kind)
        for line in lines
    )
    if (
        len(listed) < 2
        or by_pin
        or is_one_print
        or (not is_lines and any(len(line) > 1 for line in lines))
        or not all(PRINT.match(word) for word in words)
        or any(line[0].isdigit() or _is_colour(line[-1], kind) for line in listed)
    ):
        return text
    ports: Connectors = []
    for number, line in enumerate(listed, 1):
        # RA, RB and RC say what they are only together.
        by_first = all(function_at(line[0], word, kind) is not None for word in line)
        own = [word for word in line if read_function(word, kind) not in FEEDS]
        if by_first or (len(own) == 1 and line.index(own[0]) == 0 and kind == "controller"):
            name, words = line[0].rstrip("+-\u2212") or line[0], line
        else:
            name, words = line_name(line, number)
        ports.append((name, words))
    rows = [f"{name}\t{word}" for name, words in _called_for_use(ports, kind) for word in words]
    return "\n".join(("port\tsignal", *rows))


def _called_for_use(ports: Connectors, kind: str) -> Connectors:
    """Connectors with those that had no name called by what they are for, counted where several
    are for one thing.
    """
    uses = [
        by_functions(words, kind) if name.startswith("PLUG ") else "" for name, words in ports
    ]  # fmt: skip
    bare = [at for at, (name, _) in enumerate(ports) if name.startswith("PLUG ") and not uses[at]]
    if kind in GIVING and "MAINS" in uses and len(bare) == 1:
        uses[bare[0]] = "OUT"
    taken = {name for name, _ in ports}
    found: Connectors = []
    for at, (name, words) in enumerate(ports):
        use = uses[at]
        if use and uses.count(use) > 1:
            use += f" {uses[: at + 1].count(use)}"
        found.append((use if use and use not in taken else name, words))
    return found


def by_functions(words: list[str], kind: str) -> str:
    """What a connector without a name is called where all at it is for one thing; "" elsewhere."""
    functions = {read_function(word, kind) or "" for word in words}
    if functions & {"line", "neutral"} and functions <= {"line", "neutral", "pe"}:
        return "MAINS"
    if functions <= {"plus", "zero", "pe"} and len(functions) > 1:
        # Of two pairs of a supply without mains the one feeds it, and the other is what it gives.
        return "POWER" if kind not in GIVING else ""
    if any(f.startswith(("phase", "motor")) for f in functions) and all(
        f.startswith(("phase", "motor")) or f == "pe" for f in functions
    ):
        return "MOTOR"
    if functions and all(function.startswith("stop") for function in functions):
        return "STOP"
    if {"encoder A", "encoder B"} <= functions and kind in DRIVES:
        return "ENCODER"
    is_bus = functions == {"plus", "zero", "data"} or {w.casefold() for w in words} == {
        "g",
        "v",
        "d",
    }
    if kind == "signal converter" and is_bus:
        return "BUS"
    if kind in DRIVE_KINDS and functions & {"enable", "direction"} and "signal" not in functions:
        return "CONTROL"
    if kind in DRIVE_KINDS and "signal" in functions and functions <= {"signal", "plus", "zero"}:
        return "ANALOG"
    return "CONTROL" if {"step", "direction"} <= functions else ""


def _is_colour(word: str, kind: str) -> bool:
    """Whether a word is a colour, and no print: VIO is what feeds the logic of a driver."""
    return read_colour(word) is not None and read_function(word, kind) is None


# The end of one of several coils: A+, SOL1−.
SIGNED = re.compile(r"^[A-Z]{1,3}\d?[+\u2212-]$", re.I)
# What may have several contacts or coils beside one common.
BESIDE_A_COMMON = ("switch", "valve", "load", "lamp", "heater", "brake", "brushed motor")


def one_a_row(text: str, kind: str) -> str:
    """The text with each terminal or lead in a row of its own, where several were written in one;
    any other text as it is.
    """
    lines = [line.split() for line in text[:LONGEST_TEXT].splitlines() if line.strip()]
    words = [word.strip(",;") for line in lines for word in line]
    if len(words) == len(lines) or any(mark in text for mark in SEPARATORS[:2]):
        return text
    if len(lines) == 1 and len(words) > 2 and words == [str(n + 1) for n in range(len(words))]:
        # Terminals that are only counted.
        return "\n".join(words)
    is_pair = len(lines) == 1 and len(words) == 2 and all(map(WORD.match, words))
    if kind in ("switch", "sensor") and is_pair:
        # Both leads of a contact, or an electrode: BAT ON, CLIP PLATE, SIGNAL REF.
        return "\n".join(words)
    if (
        kind in BESIDE_A_COMMON
        and len(lines) == 1
        and len(words) > 2
        and all(map(PRINT.match, words))
        and (sum(word in ("COM", "C") for word in words) == 1)
    ):
        # The positions of a selector beside its common, the coils of a valve: UP DOWN COM.
        return "\n".join(words)
    are_coils = len(lines) == 1 and len({*words}) == len(words) and all(map(SIGNED.match, words))
    if kind in BESIDE_A_COMMON and are_coils:
        return "\n".join(words)
    if kind == "fuse" and all(map(END_OF_A_FUSE.match, words)):
        return "\n".join(words)
    if len(lines) > 1 and all(map(ENDS_OF_A_COIL.match, map(" ".join, lines))):
        return "\n".join(words)
    if kind == "hand wheel" and max(map(len, lines)) > 2 and all(map(PRINT.match, words)):
        return "\n".join(words)
    told = [_kind_of(word, kind) for word in words]
    if len(lines) > 1:
        # Nobody writes three words of which each is a terminal's for one of them.
        is_several = max(map(len, lines)) > 2 and set(told) == {"f"}
        return "\n".join(words) if is_several else text
    if len(set(told)) == 1 and told[0] and len(words) > 1:
        return "\n".join(words)
    pairs = list(zip(told[::2], told[1::2], strict=False))
    colours = [[told == "c" for told in pair] for pair in pairs]
    are_leads = all(sum(pair) == 1 and pair == colours[0] for pair in colours)
    if len(words) > 2 and len(words) % 2 == 0 and are_leads and "f" in told:
        return "\n".join(f"{a}\t{b}" for a, b in zip(words[::2], words[1::2], strict=True))
    if len(words) > 2 and len(words) - told.count("") > 1 and all(map(PRINT.match, words)):
        # One among known prints whose meaning is asked for at its row.
        return "\n".join(words)
    return text


def _kind_of(word: str, kind: str) -> str:
    """Whether a word is a colour (c), a function (f), or neither."""
    if read_colour(word) is not None and not re.fullmatch(r"[A-Za-z]", word):
        return "c"
    return "f" if read_function(word, kind) is not None else ""
