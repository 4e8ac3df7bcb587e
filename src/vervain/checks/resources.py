"""Rules about what a port gives: pins of the processor, abilities, jumpers; and alternates."""

from collections.abc import Iterator
from itertools import combinations

from vervain.checks.finding import Fix, about, about_axis
from vervain.checks.ports import free_fit, move_to
from vervain.checks.remedies import SetHoming, SetSetting
from vervain.checks.rule import Said, rule
from vervain.leads.direction import step_ports_of, turns_forward
from vervain.machine.electrical import LogicOutput
from vervain.machine.inside import Bridge
from vervain.machine.look import Look
from vervain.machine.machine import Alternate, PinRef, PortRef
from vervain.machine.reach import (
    host_ports,
    motors_of,
    neighbours_at,
    occupants,
    steps_from,
    ways_from,
)
from vervain.ports.alternates import alternate_faults, is_in
from vervain.stops.contacts import input_of


@rule(
    id="ports.shared-pin",
    stage="Ports",
    consequence="Won't run",
    scope="device",
    title="Two used ports share one pin of the processor",
    reason="Both ports end at the same pin: the controller cannot tell their signals apart, and "
    "what it gives to one goes to the other as well.",
    source="The part's own list of shared pins.",
)
def shared_pin(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    for element in part.inside if part else ():
        if not isinstance(element, Bridge) or not element.name:
            continue
        ports = dict.fromkeys(port for port, _ in element.pins)
        refs = [PortRef(device=device, port=port) for port in ports]
        seated = {ref: occupants(look, ref) for ref in refs}
        for first, second in combinations([ref for ref in refs if seated[ref]], 2):
            ours, theirs = seated[first][0], seated[second][-1]
            if ours.device == theirs.device:
                continue
            answer = free_fit(look, theirs)
            yield Said(
                f"{first.port} and {second.port} of {device} share {element.name}: "
                f"{ours.device} and {theirs.device} meet there.",
                (about(first), about(second), about(ours.device), about(theirs.device)),
                detail=f"{first.port}-{second.port}",
                fixes=(move_to(answer, theirs),) if answer else (),
            )


@rule(
    id="ports.ability",
    stage="Ports",
    consequence="Won't run",
    scope="device",
    title="A pin cannot do what the device needs",
    reason="Pulse width, counting and interrupts are done by parts of the processor that only some "
    "of its pins reach; on a plain pin a fan runs at full speed or not at all, and edges are lost.",
    source="The parts' own lists of what their pins can do.",
)
def ability(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    for port in part.ports if part else ():
        for pin in port.pins:
            if port.end != "device" or not pin.wants:
                continue
            ref = PortRef(device=device, port=port.id)
            for host in host_ports(look, ref):
                lacking = missing_abilities(look, PinRef(device=device, port=port.id, pin=pin.id))
                if not lacking:
                    continue
                answer = free_fit(look, ref)
                yield Said(
                    f"{device} needs {' and '.join(lacking)}; {host.device} {host.port} has none.",
                    (about(device), about(host)),
                    detail=f"{host.device} {host.port}",
                    fixes=(move_to(answer, ref),) if answer else (),
                )


def missing_abilities(look: Look, pin: PinRef) -> tuple[str, ...]:
    """What a device pin wants and none of the host pins that it reaches can do."""
    wants = look.pin(pin)
    for way in ways_from(look, pin):
        there = look.pin(way.end) if way.lands else None
        if there is not None and there.abilities is not None and wants is not None:
            return tuple(name for name in wants.wants if name not in there.abilities)
    return ()


@rule(
    id="ports.reserved",
    stage="Ports",
    consequence="Won't run",
    scope="device",
    title="A jumper keeps a port for something else",
    reason="While the jumper stands as it does, the port repeats another one or its contacts are "
    "bridged; what is plugged in does not do what its name says.",
    source="The part's own jumpers.",
)
def reserved(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    for port in part.ports if part else ():
        ref = PortRef(device=device, port=port.id)
        for item in port.reserved:
            seated = occupants(look, ref)
            if not seated or look.setting(device, item.option) != item.value:
                continue
            if item.twin_of is not None and _is_twin(look, ref, item.twin_of):
                continue
            option = part.option(item.option) if part else None
            free = next((c for c in (option.choices if option else ()) if c != item.value), None)
            fixes: tuple[Fix, ...] = ()
            if free is not None:
                remedy = SetSetting(device=device, key=item.option, value=free)
                fixes = (Fix(words=f"set {item.option} of {device} to {free}", remedy=remedy),)
            named = " and ".join(dict.fromkeys(seat.device for seat in seated))
            does = f"repeats {item.twin_of}" if item.twin_of else "is bridged"
            yield Said(
                f"{named} sits in {port.id}, which {does} while {item.option} is at {item.value}.",
                (about(ref), *(about(seat.device) for seat in seated)),
                detail=port.id,
                consequence="Damage" if item.bridged else None,
                fixes=fixes,
            )


def _is_twin(look: Look, ref: PortRef, twin: str) -> bool:
    """Whether what sits in both ports moves one axis: then the jumper is as it should be."""
    other = PortRef(device=ref.device, port=twin)
    axes = []
    for port in (ref, other):
        axes.append({a.id for seat in _driven(look, port) if (a := look.axis_of(seat))})
    return bool(axes[0] & axes[1])


def _driven(look: Look, port: PortRef) -> list[str]:
    """The devices at a port; for a slot, the motors of the ports that need it."""
    part = look.part_of(port.device)
    found = [seat.device for seat in neighbours_at(look, port)]
    for other in part.ports if part else ():
        if other.needs == port.port:
            seats = occupants(look, PortRef(device=port.device, port=other.id))
            found += [seat.device for seat in seats]
    return [*found, *(motor for name in found for motor in motors_of(look, name))]


@rule(
    id="machine.homing-on",
    stage="Machine",
    consequence="Unreliable",
    scope="axis",
    title="An axis is set to home, and has nothing to home to",
    reason="The controller drives the axis towards a switch that never comes, into its end.",
    source="The axis's own setting against its home switch and encoder.",
)
def homing_on(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is None or axis.homing != "on" or axis.feedback is not None:
        return
    if axis.home is not None and input_of(look, axis.home) is not None:
        return
    why = f"{axis.home} is in no input" if axis.home else "it has no home switch"
    yield Said(
        f"Homing of {axis_id} is on, but {why}.",
        (about_axis(axis_id), *((about(axis.home),) if axis.home else ())),
        fixes=(Fix(words="switch homing off", remedy=SetHoming(axis=axis_id, homing="off")),),
    )


@rule(
    id="machine.twins-direction",
    stage="Machine",
    consequence="Damage",
    scope="axis",
    title="Two motors of one axis pull against each other",
    reason="Motors that look at each other must turn opposite ways to move one axis; motors that "
    "look the same way must turn alike. Otherwise they rack the axis until something gives.",
    source="Derivation: signs of the winding currents, and how the motors stand.",
)
def twins_direction(look: Look, axis_id: str) -> Iterator[Said]:
    axis = look.axis(axis_id)
    if axis is None or not axis.faces or len(axis.drives) != 2:
        return
    ways = [turns_forward(look, motor) for motor in axis.drives]
    if None in ways or (ways[0] == ways[1]) == (axis.faces == "same way"):
        return
    first, second = axis.drives
    fixes: tuple[Fix, ...] = ()
    ports = step_ports_of(look, second)
    if len(ports) == 1 and set(ports) != set(step_ports_of(look, first)):
        device, port = ports[0]
        part = look.part_of(device)
        option = part.option("direction") if part else None
        if option is not None and port in option.ports:
            now = look.setting(device, "direction", port)
            other = "forward" if now == "reversed" else "reversed"
            remedy = SetSetting(device=device, key=f"direction/{port}", value=other)
            fixes = (Fix(words=f"set {port} to {other}", remedy=remedy),)
    looks = "look at each other" if axis.faces == "each other" else "look the same way"
    turn = "the same way" if ways[0] == ways[1] else "opposite ways"
    yield Said(
        f"{first} and {second} {looks} and turn {turn}.",
        (about_axis(axis_id), about(first), about(second)),
        fixes=fixes,
    )


@rule(
    id="ports.alternate",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="An alternate is in without its settings",
    reason="The plug is swapped in a second; current, steps, limits and homing are not. The other "
    "motor then runs too hot or too weak, and goes the wrong distance.",
    source="The alternate's own list of settings.",
)
def alternate(look: Look, device: str) -> Iterator[Said]:
    for item in look.alternates():
        if item.device != device or not is_in(look, item):
            continue
        for setting in item.settings:
            now = look.setting(setting.device, setting.key.partition("/")[0], _port(setting.key))
            if now == setting.value:
                continue
            remedy = SetSetting(device=setting.device, key=setting.key, value=setting.value)
            shown = f"{setting.value:g}" if isinstance(setting.value, float) else setting.value
            yield Said(
                f"{device} is in: {setting.key} of {setting.device} should be {shown}.",
                (about(device), about(setting.device)),
                detail=f"{setting.device}.{setting.key}",
                fixes=(Fix(words=f"set it to {shown}", remedy=remedy),),
            )
        yield from _homing(look, item)


def _port(key: str) -> str | None:
    return key.partition("/")[2] or None


def _homing(look: Look, item: Alternate) -> Iterator[Said]:
    """Homing that should be off while an alternate is in."""
    axis = look.axis_of(item.device)
    if axis is None or not item.homing_off or axis.homing == "off":
        return
    fix = Fix(words="switch homing off", remedy=SetHoming(axis=axis.id, homing="off"))
    yield Said(
        f"{item.device} is in: homing of {axis.id} should be off.",
        (about(item.device), about_axis(axis.id)),
        detail="homing",
        fixes=(fix,),
    )


@rule(
    id="ports.alternate-lacks",
    stage="Ports",
    consequence="Unreliable",
    scope="device",
    title="An alternate lacks what its place relies on",
    reason="What takes over a port takes over its driver with all that is set there, and leaves "
    "behind the switches and the encoder of what it replaces.",
    source="The ratings of both devices, and the settings that are kept for the swap.",
)
def alternate_lacks(look: Look, device: str) -> Iterator[Said]:
    for item in look.alternates():
        if item.device == device:
            for detail, sentence in alternate_faults(look, item):
                yield Said(sentence, (about(device), about(item.port)), detail=detail)


@rule(
    id="ports.alarm-unused",
    stage="Ports",
    consequence="Workmanship",
    scope="device",
    title="A driver's alarm output is not used",
    reason="The driver knows when its motor stalls or its current trips; unconnected, the program "
    "goes on with an axis that stands still.",
    source="The part's own outputs.",
)
def alarm_unused(look: Look, device: str) -> Iterator[Said]:
    part = look.part_of(device)
    if part is None or part.kind != "stepper driver" or not look.hookups_of(device):
        return
    for port in part.ports:
        for pin in port.pins:
            ref = PinRef(device=device, port=port.id, pin=pin.id)
            if pin.function != "alarm" or not isinstance(pin.electrical, LogicOutput):
                continue
            if not steps_from(look, ref):
                yield Said(f"The alarm of {device} goes nowhere.", (about(ref),), detail=port.id)


RULES = (
    shared_pin,
    ability,
    reserved,
    homing_on,
    twins_direction,
    alternate,
    alternate_lacks,
    alarm_unused,
)
