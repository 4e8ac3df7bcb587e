"""What is printed at a board, copied terminal by terminal without headings or columns: which of the
prints belong to one port.

    24V 0V   X PUL+ X PUL- X DIR+ X DIR-   IN1 IN2 IN3 COM   OUT1 OUT2 GND
"""

import re
from collections import Counter
from collections.abc import Sequence
from itertools import groupby

from vervain.catalogue.manual import ManualRow
from vervain.catalogue.pin_words import (
    feeds_outputs,
    function_at,
    is_general,
    is_plus_with_volts,
    names_connectors,
    read_function,
)
from vervain.catalogue.port_names import DASHES
from vervain.catalogue.port_roles import BUS_FUNCTIONS
from vervain.catalogue.port_words import port_words
from vervain.catalogue.printed_volts import WINDOW
from vervain.catalogue.prints import (
    LONGEST_PRINT,
    OF_AXIS,
    WITH_SEVERAL,
    Print,
    counted_of,
    is_one,
    means_alone,
    partings,
    print_of,
    says_more,
)
from vervain.catalogue.rows import LONGEST_TEXT, MOST_ROWS
from vervain.model.part import PartKind, PinFunction

LEAST_PRINTS = 4
BACK: tuple[PinFunction, ...] = ("zero", "com")
MAINS: tuple[PinFunction, ...] = ("line", "neutral", "pe")
CONTACTS: tuple[PinFunction, ...] = ("no", "nc")
LINE_NUMBER = re.compile(r"^(\d{1,2})\s*[).:]?\s+(?=\S)")
REMARK = re.compile(r"^(.*?\S)\s+\(?[a-z]{2,}\b.*$")
COUNTED_COMMON = re.compile(r"^(COM|C)\d$|^\dL$", re.I)
# A plus that feeds the board itself, whatever else it has.
OWN_FEED = re.compile(r"^(?:V?IN|VIN\d?|RAW|VM|VMOT|VBAT|DC ?IN|PWR)\+?$", re.I)
BARE_SIGNS = frozenset({"+", "-"})
# Prints side by side, of one sort.
Group = tuple[str, list[Print]]


def printed_rows(text: str, kind: PartKind, is_open: bool = False) -> tuple[ManualRow, ...]:
    """The rows of a board's prints with the port that each belongs to; none where the text is
    anything but such a list. An open list may have words among the others that mean nothing yet.
    """
    blocks = _blocks(text, kind, is_open)
    prints = [found for block in blocks for found in block]
    if len(prints) < LEAST_PRINTS or not _is_list(prints, kind):
        return ()
    if kind not in WITH_SEVERAL and len(blocks) > 1:
        # Each line, or block, is a connector of its own.
        return ()
    return tuple(
        ManualRow(port, str(number), at.name, at.function, at.text)
        for port, members in _ports(blocks, kind).items()
        for number, at in enumerate(members, 1)
    )[:MOST_ROWS]


def _blocks(text: str, kind: PartKind, is_open: bool = False) -> list[list[Print]]:
    """The prints as they stand together: by empty lines, else by lines that have several. None
    where any word is no print, or, in an open list, where more than a third are.
    """
    cleaned = text[:LONGEST_TEXT].replace("\r\n", "\n").replace("\r", "\n")
    for dash in DASHES:
        cleaned = cleaned.replace(dash, "-")
    lines = _uncounted([line.strip() for line in cleaned.split("\n")])[:MOST_ROWS]
    lines = [_unremarked(line, kind) for line in lines]
    if any(mark in line for line in lines for mark in "|;:=\t"):
        return []
    split = [_whole_or_words(line, kind) for line in lines]
    counts = counted_of({word for words in split for word in words}, kind)
    # “OUT1 GND” is one print where OUT1 has others, else two terminals.
    split = [
        [part for word in words for part in _parts_of_one(word, kind, counts)] for words in split
    ]
    blocks: list[list[Print]] = [[]]
    for line, words in zip(lines, split, strict=True):
        found = [print_of(word, line, kind, counts) for word in words]
        if is_open:
            found = [at or _unknown(word, line) for at, word in zip(found, words, strict=True)]
        if not all(found):
            return []
        if not words or len(words) > 1:
            blocks.append([])
        blocks[-1] += [at for at in found if at is not None]
        if len(words) > 1:
            blocks.append([])
    prints = [at for block in blocks for at in block]
    if is_open and 3 * sum(at.function is None for at in prints) > len(prints):
        return []
    return [block for block in blocks if block]


def _unknown(word: str, line: str) -> Print | None:
    """A word that means nothing yet as the print of a line of its own; none of a sentence, or what
    connectors are called.
    """
    is_print = len(word) <= LONGEST_PRINT and word == word.upper() and not names_connectors(word)
    return Print("", word, None, line) if is_print else None


def _uncounted(lines: list[str]) -> list[str]:
    """Lines without the numbers that count all of them."""
    filled = [line for line in lines if line]
    numbers = [LINE_NUMBER.match(line) for line in filled]
    if all(at and int(at[1]) == number for number, at in enumerate(numbers, 1)):
        return [LINE_NUMBER.sub("", line) for line in lines]
    return lines


def _unremarked(line: str, kind: PartKind) -> str:
    """A line without the words in small letters behind a print: “IN1 limit of the door”."""
    found = REMARK.match(line)
    if found is None or OF_AXIS.match(found[1]):
        return line
    return found[1] if any(means_alone(found[1], kind)) or partings(found[1], kind) else line


def _whole_or_words(line: str, kind: PartKind) -> list[str]:
    """A line as one print, where it can be one, else its words; the first may name the others."""
    if not line:
        return []
    listed = [part for part in re.split(r"\s*,\s*|\s{2,}", line) if part]
    if len(listed) > 1:
        return [word for part in listed for word in _whole_or_words(part, kind)]
    words = _with_windows(line.split(), kind)
    if len(words) == 2 and any(map(is_general, words)):
        # SDA GPIO21 is one pin, of which the bus has the better name.
        on_bus = [word for word in words if read_function(word, kind) in BUS_FUNCTIONS]
        if len(on_bus) == 1 and not is_general(on_bus[0]):
            return on_bus
    if len(words) < 3:
        return [line] if len(words) == 1 or is_one(line, kind) else words
    is_name = (
        OF_AXIS.match(words[0]) is not None
        or not any(means_alone(words[0], kind))
        # ENC A+ A- B+ B-
        or all(function_at(words[0], word, kind) is not None for word in words[1:])
    )
    if (
        kind in WITH_SEVERAL
        and is_name
        and not all(map(is_general, words))
        and all(read_function(word, kind) is not None for word in words[1:])
    ):
        return [f"{words[0]} {word}" for word in words[1:]]
    return words


def _with_windows(words: list[str], kind: PartKind) -> list[str]:
    """Words, with the window of a plus behind its name: “VIN 12-24V”, GND."""
    found: list[str] = []
    for word in words:
        if found and WINDOW.search(word) and is_plus_with_volts(f"{found[-1]} {word}", kind):
            found[-1] += f" {word}"
        else:
            found.append(word)
    return found


def _parts_of_one(word: str, kind: PartKind, counts: dict[str, int]) -> list[str]:
    """A print whole, or its words where it is of nothing that others are of too."""
    parts = word.split()
    if says_more(word, kind):
        return [word]
    is_of_many = any(counts.get(of, 0) > 1 for of, _ in partings(word, kind))
    is_many = len(parts) > 1 and all(any(means_alone(part, kind)) for part in parts)
    return parts if is_many and not is_of_many and read_function(word, kind) is None else [word]


def _is_list(prints: Sequence[Print], kind: PartKind) -> bool:
    """Whether prints are a list of a board's terminals, and no headings with their pins: “OUT 1”
    over “+” and “-”.
    """
    own = Counter((at.of, at.name, at.function) for at in prints if at.sort != "feed")
    pairs = 2 if kind == "controller" else 1
    if any(count > (1 if of or f != "signal" else pairs) for (of, _, f), count in own.items()):
        return False
    for first, second, third in zip(prints, prints[1:], prints[2:], strict=False):
        if first.sort == "line" and not second.of and {second.name, third.name} == BARE_SIGNS:
            return False
    lines = [at for at in prints if at.sort == "line"]
    return any(at.of for at in prints) or kind != "controller" or len(lines) > 1


def _ports(blocks: list[list[Print]], kind: PartKind) -> dict[str, list[Print]]:
    """The ports of a list: one for each thing that prints are of, one for each word of the lines,
    with the feeds that stand beside them. What a drive has is one connector, and told apart by what
    it does there.
    """
    prints = [at for block in blocks for at in block]
    found: dict[str, list[Print]] = {}
    if kind not in WITH_SEVERAL or not (kind == "controller" or any(at.of for at in prints)):
        for pin in prints:
            found.setdefault(pin.of or "PORT", []).append(pin)
        return found
    has_own = any(at.function == "plus" and OWN_FEED.match(at.name) for at in prints)
    for block in blocks:
        groups = _feeds_apart([(sort, list(own)) for sort, own in groupby(block, _sort)])
        groups = _feeds_as_usual(groups)
        used = _with_feeds(groups, found)
        for at, (sort, members) in enumerate(groups):
            if sort == "mains" or (
                sort == "feed"
                and (
                    at not in used
                    or (kind == "controller" and _feeds_the_board(members, found, has_own))
                    or any(feeds_outputs(pin.name) for pin in members)
                )
            ):
                _add_feed(found, members, has_own)
    axis = found.get("AXIS", [])
    if axis and {at.function for at in axis} == {"enable"}:
        # No axis has an enable alone: it is that of the board itself.
        del found["AXIS"]
        found.update({at.name: [at._replace(function=None)] for at in axis})
    power = {"POWER": found.pop("POWER")} if "POWER" in found else {}
    return {**power, **_with_the_boards_own(power.get("POWER", []), found)}


def _with_the_boards_own(
    power: list[Print], found: dict[str, list[Print]]
) -> dict[str, list[Print]]:
    """The ports, lines of a small board, and its bus of two wires, with what the board has for all
    of them, where they have no feed beside: the plus that it gives, and its 0 V.
    """
    given = [pins[0] for name, pins in found.items() if name.endswith(" OUT") and len(pins) == 1]
    backs = [at for at in power if at.function in BACK]
    own = [given[0], backs[0]] if given and backs else _feed_of_lines(found)
    return {
        name: [*pins, *own] if all(map(_is_anybodys, pins)) else pins
        for name, pins in found.items()
    }


def _feed_of_lines(found: dict[str, list[Print]]) -> list[Print]:
    """The plus and the 0 V that stand beside the lines of a small board; none where there are no
    both.
    """
    for pins in found.values():
        feed = [at for at in pins if at.sort == "feed" and at.function in ("plus", *BACK)]
        if any(is_general(at.name) for at in pins) and {at.function for at in feed} >= {
            "plus",
            "zero",
        }:
            return feed
    return []


def _is_anybodys(pin: Print) -> bool:
    """Whether a pin is a line for whatever hangs there, or of a bus whose devices the board
    feeds.
    """
    of_a_bus = pin.function in ("data", "clock", "select") or pin.of == "SPI"
    return is_general(pin.name) or of_a_bus


def _feeds_apart(groups: list[Group]) -> list[Group]:
    """The groups, with each further plus that has a way back of its own: VIN GND, 3V3 GND; what the
    board gives stands before what feeds it.
    """
    found: list[Group] = []
    for sort, members in groups:
        given = _given_beside_own(members) if sort == "feed" else []
        found += [(sort, [at]) for at in given]
        members = [at for at in members if at not in given]
        found.append((sort, []))
        for at in members:
            before = found[-1][1]
            is_whole = {"plus", "zero"} <= {other.function for other in before}
            if sort == "feed" and at.function == "plus" and is_whole:
                found.append((sort, []))
            found[-1][1].append(at)
    return found


def _given_beside_own(members: list[Print]) -> list[Print]:
    """The pluses that a board gives, beside the one that feeds it and its way back: 5V and 3V3 of
    VIN 5V 3V3 GND.
    """
    pluses = [at for at in members if at.function == "plus"]
    backs = sum(at.function in BACK for at in members)
    own = [at for at in pluses if OWN_FEED.match(at.name)]
    is_shared = own and backs and backs < len(pluses)
    return [at for at in pluses if at not in own] if is_shared else []


def _feeds_as_usual(groups: list[Group]) -> list[Group]:
    """The groups, with a plus apart that stands behind one way back alone, where its neighbours
    have theirs without: LIM1 GND, LIM2 GND, LID GND, 5V.
    """
    feeds = [tuple(at.function for at in own) for sort, own in groups if sort == "feed"]
    found: list[Group] = []
    for number, (sort, members) in enumerate(groups):
        functions = tuple(at.function for at in members)
        is_odd = functions in (("zero", "plus"), ("com", "plus")) and feeds.count(functions) == 1
        if sort == "feed" and number and is_odd and feeds.count(functions[:1]) > 1:
            found += [(sort, members[:1]), (sort, members[1:])]
        else:
            found.append((sort, members))
    return found


def _sort(at: Print) -> str:
    """What a print is among its neighbours; mains are nobody's feed but the board's."""
    return "mains" if at.function in MAINS else at.sort


def _with_feeds(groups: list[Group], found: dict[str, list[Print]]) -> set[int]:
    """Adds the ports of members and lines with the feed behind them, else before; gives the places
    of the feeds that were used.
    """
    used: set[int] = set()
    for number, (sort, members) in enumerate(groups):
        if sort not in ("member", "line"):
            continue
        beside = _feeds_beside(number, groups)
        for name, own in _named(members, found).items():
            feed: list[Print] = []
            if beside and _lacks_feed(sort, own):
                used.add(beside[0])
                feed = groups[beside[0]][1]
                if any(OWN_FEED.match(at.name) for at in feed):
                    # What feeds the board itself gives a line its way back alone.
                    feed = [at for at in feed if at.function in BACK][:1]
            found[name] = [*found.get(name, []), *own, *feed]
    return used


def _feeds_beside(number: int, groups: list[Group]) -> list[int]:
    """The places of the feeds next to a group, the likelier first: the one behind, but where
    commons stand before what they serve.
    """
    near = [place for place in (number + 1, number - 1) if 0 <= place < len(groups)]
    beside = [place for place in near if groups[place][0] == "feed"]
    beside = [place for place in beside if place < number or not _is_counted(groups[place])]
    first, last = groups[0], groups[-1]
    is_common = first[0] == "feed" and all(pin.function in BACK for pin in first[1])
    comes_first = is_common and last[0] != "feed" and len(groups) > 2
    if comes_first or (number and _is_counted(groups[number - 1])):
        beside.reverse()
    return beside


def _is_counted(group: Group) -> bool:
    """Whether a group is a common that is counted, before what it serves: C0 Y0 Y1, C1 Y2."""
    sort, members = group
    return sort == "feed" and COUNTED_COMMON.match(members[-1].name) is not None


def _lacks_feed(sort: str, own: list[Print]) -> bool:
    """Whether a port has no way back of its own; two of one name are both ends of a contact, and a
    line with its sign has its other one: HEAT+ HEAT-.
    """
    is_contact = len(own) > 1 and own[0].name == own[-1].name
    signs = {pin.name[-1:] for pin in own}
    is_line = sort == "line" and signs != {"+", "-"}
    return not is_contact and (is_line or not any(_is_back(pin) for pin in own))


def _outputs_without(found: dict[str, list[Print]]) -> list[list[Print]]:
    """The outputs that have no feed beside them."""
    return [
        pins for name, pins in found.items()
        if port_words().is_switched(name) and all(at.sort == "line" for at in pins)
    ]  # fmt: skip


def _named(members: list[Print], found: dict[str, list[Print]]) -> dict[str, list[Print]]:
    """Members by what they are of, lines by their words, two of one name by that; a second port of
    a name has its first print beside it.
    """
    twice = {name for name, count in Counter(at.name for at in members).items() if count > 1}
    ports: dict[str, list[Print]] = {}
    for at in members:
        word = re.match(r"[A-Za-z]+", at.name)
        by_word = word[0].upper() if word and at.name not in twice else at.name
        ports.setdefault(at.of or by_word, []).append(at)
    return {_port_name(name, own, found): own for name, own in ports.items()}


def _port_name(name: str, own: list[Print], found: dict[str, list[Print]]) -> str:
    """What a port is called that is of a thing, or by a word."""
    if own[0].of.isdecimal():
        return f"{'RELAY' if any(at.function in CONTACTS for at in own) else 'AXIS'} {name}"
    if own[0].of:
        return name
    alone = own[0].name if len(own) == 1 else name
    return f"{alone} {own[0].name}" if alone in found else alone


def _is_back(pin: Print) -> bool:
    """Whether a pin is the way back of others, or of its neighbour."""
    return pin.function in BACK or pin.name.endswith("-")


def _feeds_the_board(
    feed: list[Print], found: dict[str, list[Print]], has_own: bool = False
) -> bool:
    """Whether a feed with its way back is the first one, which feeds the board."""
    functions = {at.function for at in feed}
    if has_own and not any(OWN_FEED.match(at.name) for at in feed):
        # What has a feed of its own gives the others: 5V beside VIN.
        return False
    is_first = not any(at.function in ("plus", "line") for at in found.get("POWER", ()))
    return is_first and "plus" in functions and bool(functions & set(BACK))


def _add_feed(found: dict[str, list[Print]], feed: list[Print], has_own: bool = False) -> None:
    """Adds a feed that no neighbour uses: mains, and the first with its way back, are the board's;
    a way back alone is that of all that have none, or one more of the board's; another plus is
    called by what is printed there.
    """
    needy = [
        pins for pins in found.values() if pins[0].of and not any(_is_back(pin) for pin in pins)
    ]
    if needy and all(at.function in BACK for at in feed):
        for pins in needy:
            pins += feed
        return
    plus = next((at for at in feed if at.function == "plus"), None)
    is_more = plus is not None and not _feeds_the_board(feed, found, has_own)
    name = f"{plus.name} OUT" if plus is not None and is_more else "POWER"
    if plus is not None and is_more and feeds_outputs(plus.name):
        for pins in _outputs_without(found):
            pins += feed
        name = f"POWER {plus.name}"
    if plus is None and any(at.function == "line" for at in found.get("POWER", ())):
        # Beside mains a way back is that of what the board gives.
        gives = (port for port, pins in found.items() if any(at.function == "plus" for at in pins))
        name = next(gives, feed[0].name)
    found[name] = [*found.get(name, []), *feed]
