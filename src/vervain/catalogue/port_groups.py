"""Alike ports of a board as one group: what they are, and which circuits their pins have."""

import re
from collections.abc import Sequence, Set

from vervain.catalogue.pin_words import AXIS, is_range
from vervain.catalogue.port_roles import (
    AS_ALARM,
    AS_COMMAND,
    AS_SERVO,
    BUS_FUNCTIONS,
    PortPin,
    Role,
    role_of,
    roles_of,
    roles_of_lines,
)
from vervain.catalogue.printed_volts import volts_printed
from vervain.catalogue.role_guess import IS_OUTPUT, guessed_role, is_called_power
from vervain.model.base import Record
from vervain.model.part import SEATED, PartKind, PinFunction
from vervain.model.ways_back import is_return_of

# The axis behind what a line is for.
OF_AXIS = re.compile(r"[ _-]([XYZABC]\d*)$", re.I)
# A table says “A” and “B” of phases and of channels alike; the role tells which.
AS_ENCODER: dict[PinFunction, PinFunction] = {
    "phase A+": "encoder A", "phase A-": "encoder A-", "phase B+": "encoder B",
    "phase B-": "encoder B-", "signal": "encoder Z",
}  # fmt: skip


class PortGroup(Record, frozen=True, kw_only=True):
    """Ports with alike pins. `key` is the first one's name; `role` what they are taken for. `pins`
    are those of the first; `names` what is printed at those of each, which may count: I0, I1;
    `more` the alike ports that follow and are said to be another group. `gives_plus` says of
    outputs with a plus and a minus alone that the plus is what is switched.
    """

    key: str
    ports: tuple[str, ...]
    pins: tuple[PortPin, ...]
    role: Role
    names: tuple[tuple[str, ...], ...] = ()
    more: tuple[str, ...] = ()
    gives_plus: bool = False

    @property
    def words(self) -> str:
        """The ports in words: "IN 1 to IN 8"."""
        return in_words(self.ports)

    def function(self, number: int) -> PinFunction:
        """What a pin is in this role, by its number from 0."""
        pin = self.pins[number]
        if self.role.kind == "switched output" and self._is_bare() and self.gives_plus:
            return "load-" if pin.function == "plus" else "zero"
        if self.role.kind == "switched output" and pin.function == "zero" and self._is_bare():
            # Of an output with a plus and a minus alone it is the minus that is switched.
            return "load-"
        if self.role == AS_SERVO and pin.function == "plus":
            # A drive has a feed of its own; two that gave the receiver theirs would meet there.
            return "none"
        if self.role.kind in ("relay contact", "contact") and self.is_of_outputs:
            # Of an output with its common that is said to be a relay, the two ends of the contact.
            return "no" if pin.function in ("signal", "load-", "none") else "com"
        if pin.function in ("plus", "zero", "pe") and self.role.kind != "thermistor input":
            return self.role.plus if pin.function == "plus" else pin.function
        if pin.function == "com" and self.role in (
            AS_ALARM,
            AS_COMMAND,
            role_of("drive control"),
            role_of("feed in"),
            *roles_of_lines(),
        ):
            # The common of what a transistor or a diode is at; a contact has a role of its own.
            return "zero"
        if self.role.kind == "stop input" and pin.function == "com":
            # A common of both channels is their 0 V.
            return "zero"
        if self.role.kind == "stop input" and self._is_named("stop A+"):
            return pin.function
        if self.role.becomes and self._is_named(self.role.becomes[0]):
            # What is told by its name tells that the others are something else.
            return pin.function
        if self.role.kind == "step and direction" and pin.function == "none":
            # Where pulses have no other way back, each has its own: XP− of XP+.
            has_own = any(is_return_of(pin.name, other.name) for other in self.pins)
            shared = self._is_named("zero") or self._is_named("com")
            return "zero" if has_own and not shared and self.role.end == "host" else "none"
        if self.role.kind == "step and direction" and pin.function == "com":
            # The common of pulses is their 0 V, where no other is.
            return "com" if self._is_named("zero") else "zero"
        if self.role.kind == "digital input" and pin.function in ("no", "nc"):
            return "signal"
        if self.role.kind == "encoder":
            # Of several plain pins, as those of a hand wheel's switches, none is the index.
            others = sum(p.function == "signal" for p in self.pins)
            if pin.function == "signal" and (others > 1 or self._is_named("encoder Z")):
                return "signal"
            return AS_ENCODER.get(pin.function, pin.function)
        if self.role.kind == "header" and pin.function in ("none", "coil+", "coil-"):
            # What goes on through a stack is a signal, whatever the name would be elsewhere.
            return "signal"
        if self.role.kind == "bus" and [p.function for p in self.pins].count("signal") == 1:
            # A plain line that is said to be a bus is its one wire of data.
            is_line = pin.function == "signal" and not any(map(self._is_named, BUS_FUNCTIONS))
            return "data" if is_line else pin.function
        if self.role.kind in ("step and direction", "bus", *SEATED):
            return pin.function
        if self.role.kind in ("motor phases", "relay contact", "contact"):
            return pin.function
        if self.role.kind == "drive control":
            return pin.function
        plain = [n for n, p in enumerate(self.pins) if p.function not in ("plus", "zero", "pe")]
        if self.role.kind == "thermistor input":
            plain = list(range(len(self.pins)))
        at = plain.index(number) if number in plain else -1
        becomes = self.role.becomes
        return becomes[at] if 0 <= at < len(becomes) else pin.function

    def _is_bare(self) -> bool:
        """Whether nothing is there but a plus and a 0 V."""
        return {pin.function for pin in self.pins} == {"plus", "zero"}

    @property
    def is_of_outputs(self) -> bool:
        """Whether each port is an output and its common: none says that it opens or closes."""
        functions = {pin.function for pin in self.pins}
        return len(self.pins) == 2 and not functions & {"no", "nc"} and functions != {"com"}

    def _is_named(self, function: PinFunction) -> bool:
        """Whether a pin is told to be this by its own name."""
        return any(pin.function == function for pin in self.pins)


def given_on_a_bus(groups: Sequence[PortGroup]) -> frozenset[str]:
    """The pluses that a converter gives on with its bus, to servos, from a feed of its own, while
    its controller feeds it at another plug; none of any other board.
    """
    at: dict[tuple[str, str], set[str]] = {}
    for group in groups:
        names = {pin.name for pin in group.pins if pin.function == "plus"}
        at.setdefault((group.role.kind, group.role.end), set()).update(names)
    own, given = at.get(("bus", "device"), set()), at.get(("bus", "host"), set())
    is_fed = bool(own and at.get(("feed in", "device")))
    return frozenset(name for name in given - own if is_fed and volts_printed(name) is None)


def in_words(ports: Sequence[str]) -> str:
    """Some neighbours in words: "IN 1 to IN 8"."""
    if len(ports) > 2:
        return f"{ports[0]} to {ports[-1]}"
    return " and ".join(ports)


def grouped(
    kind: PartKind,
    ports: dict[str, tuple[PortPin, ...]],
    chosen: dict[str, str],
    begins: Set[str] = frozenset(),
) -> tuple[PortGroup, ...]:
    """The ports of a board in groups of neighbours with alike pins and like names; `chosen` says by
    a group's key what it is, in the words of a role, `begins` at which port another group of alike
    ones begins.
    """
    found: list[list[str]] = []
    alike: list[list[str]] = []
    for name, pins in ports.items():
        same = found and _shape(found[-1][0], ports[found[-1][0]]) == _shape(name, pins)
        is_like = bool(same) and _is_alike(found[-1][0], name)
        if is_like:
            alike[-1].append(name)
        else:
            alike.append([name])
        if is_like and name not in begins:
            found[-1].append(name)
        else:
            found.append([name])
    run_of = {name: run for run in alike for name in run}
    roles = {role.words: role for role in roles_of(kind)}
    guessed = [guessed_role(kind, names[0], ports[names[0]]) for names in found]
    fed_by_name = kind == "controller" and any(
        role.kind == "feed in" and _says_power(names[0], ports[names[0]])
        for role, names in zip(guessed, found, strict=True)
    )
    commands = any(role == role_of("step and direction") for role in guessed)
    made = []
    for role, names in zip(guessed, found, strict=True):
        if commands and role.kind == "analogue input" and is_range(names[0]):
            # Beside axes a range alone is that of the speed which a board gives its spindle.
            role = role_of("analogue output")
        if (
            fed_by_name and role.kind == "feed in"
            and not _says_power(names[0], ports[names[0]])
            and not _is_fed_by_mains(names[0], ports[names[0]])
        ):  # fmt: skip
            # Beside where the board is fed, a plus and a minus of another name are for a load.
            role = role_of("switched output")
        made.append(
            PortGroup(
                key=names[0],
                ports=tuple(names),
                pins=ports[names[0]],
                names=tuple(tuple(pin.name for pin in ports[name]) for name in names),
                more=tuple(run_of[names[0]][run_of[names[0]].index(names[-1]) + 1 :]),
                role=roles.get(chosen.get(names[0], ""), role),
            )
        )
    return tuple(made)


def _is_fed_by_mains(name: str, pins: tuple[PortPin, ...]) -> bool:
    """Whether mains come in at a port; what is called an output gives them."""
    return any(pin.function == "line" for pin in pins) and IS_OUTPUT.search(name) is None


def _says_power(name: str, pins: tuple[PortPin, ...]) -> bool:
    """Whether the name of a port, or of its plus, says that power comes in there."""
    called = (name, *(pin.name for pin in pins if pin.function == "plus" and len(pin.name) > 2))
    return any(map(is_called_power, called))


def _shape(port: str, pins: tuple[PortPin, ...]) -> tuple[tuple[str, PinFunction], ...]:
    """What alike ports have in common: their pins, without a number that only counts, or the letter
    of the axis that the port is called by.
    """
    letter = port[:1] if AXIS.match(port) else ""
    # The axis that a line is for is in its name as well: X at SEL X, LIM-X at LIM-X.
    axis = OF_AXIS.search(port)
    own = {port, axis[1]} if axis is not None else set()
    names = [pin.name.removeprefix(letter) if pin.name not in own else "" for pin in pins]
    # OUT1+ at OUT1 is as OUT2+ at OUT2.
    names = [name.removeprefix(port) or name for name in names]
    return tuple(
        (name.rstrip("0123456789.") if pin.function == "signal" else name, pin.function)
        for name, pin in zip(names, pins, strict=True)
    )


def _is_alike(first: str, second: str) -> bool:
    """Whether two ports count by their ends, IN 1 and IN 2, or by the letter of an axis beside one
    word, X MIN and Y MIN, LIM-X and LIM-Y, or alone.
    """
    one, two = (re.split(r"[\s_-]+", name.casefold()) for name in (first, second))
    if AXIS.match(first) and AXIS.match(second):
        return True
    lettered = len(one) == len(two) == 2 and any(
        one[at] == two[at] and len(one[1 - at]) == len(two[1 - at]) == 1 and one[1 - at].isalpha()
        for at in (0, 1)
    )
    return lettered or _stem(first) == _stem(second)


def _stem(name: str) -> str:
    words = name.casefold().split()
    if words and words[-1] in ("in", "out", "next"):
        return name.casefold()
    return " ".join(words[:-1]) if len(words) > 1 else name.casefold().rstrip("0123456789")
