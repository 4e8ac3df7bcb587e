"""What an alternate brings with it, and outputs that nobody reads."""

from collections.abc import Iterator

from vervain.model.electrical import LogicOutput
from vervain.model.machine import Alternate, PinRef
from vervain.ports.alternates import alternate_faults, is_in
from vervain.queries.connectivity import (
    steps_from,
)
from vervain.queries.machine_queries import Queries
from vervain.rules.axis_fixes import SetHoming
from vervain.rules.finding import Fix, about, about_axis
from vervain.rules.fixes import SetSetting
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="ports.alternate",
    consequence="Unreliable",
    scope="device",
    title="An alternate is in without its settings",
    reason="The plug is swapped in a second; current, steps, limits and homing are not. The other "
    "motor then runs too hot or too weak, and goes the wrong distance.",
    source="The alternate's own list of settings.",
)
def alternate(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for item in queries.alternates():
        if item.device != device or not is_in(queries, item):
            continue
        for setting in item.settings:
            now = queries.setting(setting.device, setting.key.partition("/")[0], _port(setting.key))
            if now == setting.value:
                continue
            remedy = SetSetting(device=setting.device, key=setting.key, value=setting.value)
            shown = f"{setting.value:g}" if isinstance(setting.value, float) else setting.value
            yield RuleOutput(
                f"{device} is in: {setting.key} of {setting.device} should be {shown}.",
                (about(device), about(setting.device)),
                at=(about(setting.device),),
                detail=setting.key,
                fixes=(Fix(words=f"set it to {shown}", remedy=remedy),),
            )
        yield from _homing(queries, item)


def _port(key: str) -> str | None:
    return key.partition("/")[2] or None


def _homing(queries: Queries, item: Alternate) -> Iterator[RuleOutput]:
    """Homing that should be off while an alternate is in."""
    axis = queries.axis_of(item.device)
    if axis is None or not item.homing_off or axis.homing == "off":
        return
    fix = Fix(words="switch homing off", remedy=SetHoming(axis=axis.id, homing="off"))
    yield RuleOutput(
        f"{item.device} is in: homing of {axis.id} should be off.",
        (about(item.device), about_axis(axis.id)),
        detail="homing",
        fixes=(fix,),
    )


@rule(
    id="ports.alternate-lacks",
    consequence="Unreliable",
    scope="device",
    title="An alternate lacks what its place relies on",
    reason="What takes over a port takes over its driver with all that is set there, and leaves "
    "behind the switches and the encoder of what it replaces.",
    source="The ratings of both devices, and the settings that are kept for the swap.",
)
def alternate_lacks(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for item in queries.alternates():
        if item.device == device:
            for detail, sentence in alternate_faults(queries, item):
                yield RuleOutput(sentence, (about(device), about(item.port)), detail=detail)


@rule(
    id="ports.alarm-unused",
    consequence="Workmanship",
    scope="device",
    title="A driver's alarm output is not used",
    reason="The driver knows when its motor stalls or its current trips; unconnected, the program "
    "goes on with an axis that stands still.",
    source="The part's own outputs.",
)
def alarm_unused(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    if part is None or part.kind != "stepper driver" or not queries.hookups_of(device):
        return
    for port in part.ports:
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            if pin.function != "alarm" or not isinstance(pin.electrical, LogicOutput):
                continue
            if not steps_from(queries, ref):
                yield RuleOutput(
                    f"The alarm of {device} goes nowhere.", (about(ref),), detail=port.id
                )


RULES = (
    alternate,
    alternate_lacks,
    alarm_unused,
)
