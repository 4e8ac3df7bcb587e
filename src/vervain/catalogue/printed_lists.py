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
    is_general,
)
from vervain.catalogue.port_words import port_words
from vervain.catalogue.print_blocks import blocks_of
from vervain.catalogue.printed_volts import volts_printed
from vervain.catalogue.prints import (
    WITH_SEVERAL,
    Print,
)
from vervain.catalogue.rows import MOST_ROWS
from vervain.catalogue.rows_of_pins import (
    each_once,
    feeds_itself,
    feeds_of_rows,
    is_anybodys,
    is_row_of_pins,
)
from vervain.model.part import PartKind, PinFunction

LEAST_PRINTS = 4
BACK: tuple[PinFunction, ...] = ("zero", "com")
MAINS: tuple[PinFunction, ...] = ("line", "neutral", "pe")
FEED: tuple[PinFunction, ...] = ("plus", *BACK)
CONTACTS: tuple[PinFunction, ...] = ("no", "nc")
COUNTED_COMMON = re.compile(r"^(COM|C)\d$|^\dL$", re.I)
BARE_SIGNS = frozenset({"+", "-"})
# Prints side by side, of one sort.
Group = tuple[str, list[Print]]


def printed_rows(text: str, kind: PartKind, is_open: bool = False) -> tuple[ManualRow, ...]:
    """The rows of a board's prints with the port that each belongs to; none where the text is
    anything but such a list. An open list may have words among the others that mean nothing yet.
    """
    blocks = blocks_of(text, kind, is_open)
    prints = [found for block in blocks for found in block]
    if not _are_several_feeds(blocks, kind) and (
        len(prints) < LEAST_PRINTS or not _is_list(prints, kind)
    ):
        return ()
    if kind not in WITH_SEVERAL and len(blocks) > 1:
        # Each line, or block, is a connector of its own.
        return ()
    return tuple(
        ManualRow(port, str(number), at.name, at.function, at.text)
        for port, members in _ports(blocks, kind).items()
        for number, at in enumerate(members, 1)
    )[:MOST_ROWS]


def _are_several_feeds(blocks: list[list[Print]], kind: PartKind) -> bool:
    """Whether a list in one line has nothing but what feeds a controller, and what it gives:
    VIN GND 5V 3V3.
    """
    prints = blocks[0] if len(blocks) == 1 and kind == "controller" else []
    functions = [at.function for at in prints]
    pluses = [at.name for at in prints if at.function == "plus"]
    is_told = len({*pluses}) == len(pluses) and any(map(feeds_itself, pluses))
    are_feeds = set(functions) == {"plus", "zero"}
    return is_told and are_feeds and functions.count("plus") > 1


def _is_list(prints: Sequence[Print], kind: PartKind) -> bool:
    """Whether prints are a list of a board's terminals, and no headings with their pins: “OUT 1”
    over “+” and “-”.
    """
    own = Counter((at.of, at.name, at.function) for at in prints if at.sort != "feed")
    pairs = 2 if kind == "controller" else 1
    # Some pins are printed at both rows of a small board: RST.
    twice = ("signal", None)
    if any(count > (1 if of or f not in twice else pairs) for (of, _, f), count in own.items()):
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
    has_own = any(at.function == "plus" and feeds_itself(at.name) for at in prints)
    if kind == "controller" and is_row_of_pins(prints):
        found.update(feeds_of_rows(prints))
        blocks = each_once(blocks)
    for block in blocks:
        groups = _feeds_apart([(sort, list(own)) for sort, own in groupby(block, _sort)], has_own)
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
    if axis and "enable" in (has := {at.function for at in axis}) and has <= {"enable", *FEED}:
        # No axis has an enable alone: it is that of the board itself.
        del found["AXIS"]
        enables = [at for at in axis if at.function == "enable"]
        found.update({at.name: [at._replace(function=None)] for at in enables})
        if feed := [at for at in axis if at not in enables]:
            _add_feed(found, feed, has_own)
    power = {"POWER": found.pop("POWER")} if "POWER" in found else {}
    return {**power, **_with_the_boards_own(power.get("POWER", []), found)}


def _with_the_boards_own(
    power: list[Print], found: dict[str, list[Print]]
) -> dict[str, list[Print]]:
    """The ports, lines of a small board, and its bus of two wires, with what the board has for all
    of them, where they have no feed beside: the plus that it gives, and its 0 V.
    """
    given = [
        next(at for at in pins if at.function == "plus") for name, pins in found.items()
        if name.endswith(" OUT") and len({at.name for at in pins if at.function == "plus"}) == 1
    ]  # fmt: skip
    backs = [at for at in power if at.function in BACK]
    own = [given[0], backs[0]] if given and backs else _feed_of_lines(found)
    return {
        name: [*pins, *own] if all(map(is_anybodys, pins)) else pins for name, pins in found.items()
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


def _feeds_apart(groups: list[Group], has_own: bool) -> list[Group]:
    """The groups, with each further plus that has a way back of its own: VIN GND, 3V3 GND; what the
    board gives stands before what feeds it, which it may have elsewhere.
    """
    found: list[Group] = []
    for sort, members in groups:
        if sort == "feed" and has_own and (apart := _given_apart(members)):
            found += [(sort, own) for own in apart]
            continue
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


def _given_apart(members: list[Print]) -> list[list[Print]]:
    """What a board gives at several volts in one line that has no feed of its own, 5V 3V3 GND: the
    first plus with the ways back, then the others. None of any other line.
    """
    pluses = [at for at in members if at.function == "plus"]
    backs = [at for at in members if at.function in BACK]
    volts = {volts_printed(at.name) for at in pluses}
    is_given = len(volts) == len(pluses) > len(backs) > 0 and None not in volts
    if not is_given or any(feeds_itself(at.name) for at in pluses):
        return []
    return [[pluses[0], *backs], *([at] for at in pluses[1:])]


def _given_beside_own(members: list[Print]) -> list[Print]:
    """The pluses that a board gives, beside the one that feeds it and its way back: 5V and 3V3 of
    VIN 5V 3V3 GND.
    """
    pluses = [at for at in members if at.function == "plus"]
    backs = sum(at.function in BACK for at in members)
    own = [at for at in pluses if feeds_itself(at.name)]
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
                if any(feeds_itself(at.name) for at in feed):
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
        functions = {at.function for at in own}
        if functions <= {"transmit", "receive", "plus", "zero"}:
            return f"SERIAL {name}"
        return f"{'RELAY' if functions & set(CONTACTS) else 'AXIS'} {name}"
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
    if has_own and not any(feeds_itself(at.name) for at in feed):
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
