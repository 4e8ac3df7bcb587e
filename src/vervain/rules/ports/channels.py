"""Rules about ports of several channels: the lines of one channel go to one channel."""

import re
from collections.abc import Iterator
from itertools import combinations

from vervain.electrical.unmet_needs import pins_it_meets
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Pin, PinFunction, Port
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Fix, about
from vervain.rules.fixes import ExchangeTwo
from vervain.rules.rule import RuleOutput, rule

NOT_LINES: tuple[PinFunction, ...] = ("plus", "zero", "pe", "none")
# “PWMA”, “DIR 2”: the last letter or figure counts; “1A+”: the first.
COUNTED = re.compile(r"^(?:(?P<before>\d)[^\d]+|[^\d].*?[\s_.]*(?P<after>[A-D]|\d))$", re.I)


def channels_of(port: Port) -> dict[str, str]:
    """The channel of each pin, by the pin's id: the mark that the print of its lines has in common.
    Empty where a port has but one channel, or its lines do not count alike.
    """
    lines: dict[str, list[Pin]] = {}
    for pin in port.pins:
        match = COUNTED.match(pin.name)
        if match is not None and pin.function not in NOT_LINES:
            mark = (match["before"] or match["after"]).upper()
            lines.setdefault(mark, []).append(pin)
    kinds = [sorted(pin.function for pin in pins) for pins in lines.values()]
    alike = len(kinds) > 1 and all(kind == kinds[0] for kind in kinds)
    if not alike or len(set(kinds[0])) < 2 or len(set(kinds[0])) < len(kinds[0]):
        return {}
    return {pin.id: mark for mark, pins in lines.items() for pin in pins}


@rule(
    id="ports.channel-mixed",
    consequence="Won't run",
    scope="device",
    title="Lines of two channels have changed places",
    reason="The lines of one channel work together. With one of another channel among them a motor "
    "turns by the strength of one command and in the direction of another.",
    source="The print at the pins of both parts.",
)
def channel_mixed(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part else ():
        ours = channels_of(port) if port.end == "device" else {}
        reached = {
            pin.id: there
            for pin in port.pins
            if ours and (there := _channel_met(queries, device, port, pin)) is not None
        }
        fixes = list(_put_right(device, port, ours, reached)) if _is_mixed(ours, reached) else []
        if fixes:
            yield RuleOutput(
                f"The channels of {device} {port.id} are mixed: {fixes[0].words.split(' at ')[0]}.",
                (about(PortRef(device=device, port=port.id)),),
                detail=port.id,
                fixes=tuple(fixes),
            )


def _put_right(
    device: str, port: Port, ours: dict[str, str], reached: dict[str, tuple[PortRef, str]]
) -> Iterator[Fix]:
    """The exchanges of two lines after which no channel is mixed; first those after which each has
    the mark that it has at the other end.
    """
    found = []
    plug = PortRef(device=device, port=port.id)
    for first, second in combinations((pin for pin in port.pins if pin.id in reached), 2):
        after = {first.id: reached[second.id], second.id: reached[first.id]}
        if first.function != second.function or _is_mixed(ours, reached | after):
            continue
        same = sum(mark == ours.get(pin_id) for pin_id, (_, mark) in (reached | after).items())
        words = f"exchange {first.text} and {second.text} at {device} {port.id}"
        remedy = ExchangeTwo(plug=plug, first=first.id, second=second.id)
        found.append((-same, Fix(words=words, remedy=remedy)))
    yield from (fix for _, fix in sorted(found, key=lambda row: row[0]))


def _channel_met(queries: Queries, device: str, port: Port, pin: Pin) -> tuple[PortRef, str] | None:
    """The port that a line reaches, and which of its channels; None where it counts none."""
    here = PinRef(device=device, port=port.id, pin=pin.id)
    for there in pins_it_meets(queries, here):
        host, found = queries.port(there.port_ref), queries.pin(there)
        if host is None or found is None or found.function != pin.function:
            continue
        mark = channels_of(host).get(there.pin)
        if mark is not None:
            return there.port_ref, mark
    return None


def _is_mixed(ours: dict[str, str], met: dict[str, tuple[PortRef, str]]) -> bool:
    """Whether the lines of some channel reach more than one."""
    by_channel: dict[str, set[tuple[PortRef, str]]] = {}
    for pin_id, there in met.items():
        if pin_id in ours:
            by_channel.setdefault(ours[pin_id], set()).add(there)
    return any(len(reached) > 1 for reached in by_channel.values())


RULES = (channel_mixed,)
