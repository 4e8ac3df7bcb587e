"""Rules about outputs that are joined to each other, to a feed, or to an input of their board, and
about inputs that are joined.
"""

from collections.abc import Iterator

from vervain.electrical.unmet_needs import natures
from vervain.model.electrical import LogicInput, LogicOutput
from vervain.model.machine import PinRef, PortRef
from vervain.model.part import Pin, PinFunction
from vervain.ports.belonging import DRIVING, axis_letter
from vervain.queries.connectivity import across, is_contact, joined_inside
from vervain.queries.machine_queries import Queries
from vervain.queries.pin_words import pin_in_words
from vervain.rules.finding import about
from vervain.rules.rule import RuleOutput, rule
from vervain.text.words import in_a_row

READ: tuple[PinFunction, ...] = ("sense 1", "sense 2", "measure+", "measure-")
RAILS: tuple[PinFunction, ...] = ("plus", "zero", "pe")


@rule(
    id="ports.outputs-joined",
    consequence="Damage",
    scope="device",
    title="An output for a motor is joined to another one, or to a feed",
    reason="A driver pulls each of its outputs to its plus and to its 0 V in turn. Where another "
    "output, or a feed, holds it elsewhere, their transistors are a short circuit.",
    source="Half bridges switch between both rails (IEC 60747-9); the machine's own copper. Two "
    "outputs of one sign of one bridge may be used side by side.",
)
def outputs_joined(queries: Queries, device: str) -> Iterator[RuleOutput]:
    told: set[tuple[PortRef, PortRef]] = set()
    for at, pin in _outputs(queries, device):
        for other, why in _against(queries, at, pin):
            if (ports := (at.port_ref, other.port_ref)) not in told:
                told.add(ports)
                yield _told(queries, at, other, why)


def _against(queries: Queries, at: PinRef, pin: Pin) -> Iterator[tuple[PinRef, str]]:
    """What an output for a motor is joined to and must not be, and why."""
    if not queries.steps(at):
        return
    for other in queries.net(at):
        there = queries.pin(other)
        if there is None or other == at:
            continue
        if _is_output(queries, other):
            beside = at.device == other.device and pin.function == there.function
            beside = beside and not _have_drivers_apart(queries, at, other)
            if _is_first(queries, at, other) and not beside:
                yield other, "they drive against each other"
        elif there.function in RAILS and pin.function.startswith("motor"):
            yield other, "what holds it there is a short circuit"
            return
    for other in queries.rail(at):
        if natures(queries, other) & {"source", "return"}:
            yield other, "a contact or a fuse brings that to it"
            return


def _have_drivers_apart(queries: Queries, one: PinRef, other: PinRef) -> bool:
    """Whether phases of two plugs of a board are of two drivers: the plugs are not behind one slot,
    nor called by the letter of one axis. Of a bridge two outputs may share a motor's current.
    """
    pin, ports = queries.pin(one), [queries.port(ref.port_ref) for ref in (one, other)]
    if pin is None or not pin.function.startswith("phase") or other in joined_inside(queries, one):
        return False
    slots = {port.needs for port in ports if port is not None}
    letters = {axis_letter(ref.port) for ref in (one, other)}
    return None not in letters and len(letters) > 1 and (len(slots) > 1 or slots == {None})


def _is_first(queries: Queries, one: PinRef, other: PinRef) -> bool:
    """Whether a pin comes before another one: of two, the first tells of both."""
    order = queries.devices()
    return (order.index(one.device), one.port, one.pin) < (
        order.index(other.device), other.port, other.pin,
    )  # fmt: skip


@rule(
    id="ports.outputs-against",
    consequence="Won't run",
    scope="device",
    title="Two outputs are joined, or an output and an input of its own board",
    reason="Two outputs of which one pulls up and one down hold each other somewhere between, and "
    "heat up. An input at an output of its own board follows that, and not what is wired to it.",
    source="One net, one driver; outputs that only pull to one and the same rail may share it.",
)
def outputs_against(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    told: set[tuple[PortRef, PortRef]] = set()
    for port in part.ports if part is not None else ():
        for pin in port.pins if port.kind != "bus" else ():
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if not isinstance(pin.electrical, LogicOutput) or not queries.steps(at):
                continue
            for other in queries.net(at):
                why = _why_against(queries, at, pin.electrical, other)
                if why and (ports := (at.port_ref, other.port_ref)) not in told:
                    told.add(ports)
                    yield _told(queries, at, other, why)


def _why_against(queries: Queries, at: PinRef, output: LogicOutput, other: PinRef) -> str:
    """Why an output must not be joined to another pin; "" where nothing speaks against it."""
    here, there = queries.port(at.port_ref), queries.port(other.port_ref)
    pin, part = queries.pin(other), queries.part_of(at.device)
    if here is None or there is None or pin is None or part is None or there.kind == "bus":
        return ""
    if other == at or other in joined_inside(queries, at):
        return ""
    if isinstance(pin.electrical, LogicOutput):
        drives = {output.drive, pin.electrical.drive}
        pull_apart = "push-pull" in drives or drives == {"NPN", "PNP"}
        if not _is_first(queries, at, other) or not (pull_apart or here.end == there.end == "host"):
            return ""
        return "they drive against each other" if pull_apart else "each works the other's load too"
    is_own = other.device == at.device and part.kind == "controller"
    reads = isinstance(pin.electrical, LogicInput) or pin.function in READ
    is_input = reads and here.end == there.end == "host"
    return "the input follows the output of its own board" if is_own and is_input else ""


@rule(
    id="ports.inputs-joined",
    consequence="Won't run",
    scope="device",
    title="Two inputs with a contact each are joined",
    reason="Whichever of the contacts closes works both inputs: which of them it was, the program "
    "cannot tell.",
    source="The machine's own copper.",
)
def inputs_joined(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    for port in part.ports if part is not None else ():
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if not _is_read(queries, at) or not queries.steps(at):
                continue
            others = [
                ref for ref in queries.net(at)
                if ref.device == device and _is_read(queries, ref) and _is_first(queries, at, ref)
                and queries.steps(ref) and ref not in joined_inside(queries, at)
            ]  # fmt: skip
            contacts = sorted({ref.device for ref in queries.net(at) if _has_contact(queries, ref)})
            if others and len(contacts) > 1:
                why = f"{in_a_row(contacts)} work both"
                yield _told(queries, at, others[0], why)


def _is_read(queries: Queries, at: PinRef) -> bool:
    port, pin = queries.port(at.port_ref), queries.pin(at)
    is_host = port is not None and port.end == "host" and port.kind == "digital input"
    return is_host and pin is not None and isinstance(pin.electrical, LogicInput)


def _has_contact(queries: Queries, at: PinRef) -> bool:
    """Whether a contact of a switch begins at a pin."""
    part = queries.part_of(at.device)
    return part is not None and part.kind == "switch" and bool(across(queries, at, is_contact))


def _told(queries: Queries, at: PinRef, other: PinRef, why: str) -> RuleOutput:
    return RuleOutput(
        f"{pin_in_words(queries, at)} is joined to {pin_in_words(queries, other)}: {why}.",
        (about(at), about(other)),
        at=(about(at),),
        detail=f"{at.port} {other.device} {other.port}",
    )


def _outputs(queries: Queries, device: str) -> Iterator[tuple[PinRef, Pin]]:
    """The pins by which a device gives motors their current."""
    part = queries.part_of(device)
    for port in part.ports if part is not None else ():
        for pin in port.pins:
            at = PinRef(device=device, port=port.id, pin=pin.id)
            if _is_output(queries, at):
                yield at, pin


def _is_output(queries: Queries, at: PinRef) -> bool:
    port, pin = queries.port(at.port_ref), queries.pin(at)
    is_driving = port is not None and port.kind in DRIVING and port.end == "host"
    return is_driving and pin is not None and pin.function.startswith(("phase", "motor"))


RULES = (outputs_joined, outputs_against, inputs_joined)
