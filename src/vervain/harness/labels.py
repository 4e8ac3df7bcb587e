"""The label of every conductor end: from the template, unique, and stable when others change."""

import re
from collections import Counter

from vervain.harness.label_templates import fill
from vervain.model.base import Record
from vervain.model.machine import Conductor, Hookup, PinRef, ends_of
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# A pole by its number and the line or the load at it, both by IEC 60947-1.
NUMBER_AND_LINE = re.compile(r"(?P<number>\d)/[LT]\d$")


class ConductorLabels(Record, frozen=True, kw_only=True):
    """The labels at side a and side b of one conductor; `written` where the builder wrote it."""

    hookup: str
    row: int
    at_a: str
    at_b: str
    written: bool = False


def core_name(cable: str, core: int | None) -> str:
    """How a core is named whatever the template: "W14.2"."""
    return cable if core is None else f"{cable}.{core}"


@query
def templated_labels(queries: Queries, hookup_id: str) -> tuple[ConductorLabels, ...]:
    """The labels of a hookup's conductors before collisions are looked at."""
    hookup = queries.hookup(hookup_id)
    if hookup is None:
        return ()
    found = []
    for row, conductor in enumerate(hookup.conductors):
        mark = _mark(queries, hookup, conductor)
        if mark is not None:
            at_a = at_b = mark
        else:
            a, b = ends_of(hookup, conductor)
            at_a = _filled(queries, hookup, conductor, a, b)
            at_b = _filled(queries, hookup, conductor, b, a)
        found.append(
            ConductorLabels(
                hookup=hookup_id, row=row, at_a=at_a, at_b=at_b, written=mark is not None
            )
        )
    return tuple(found)


def _mark(queries: Queries, hookup: Hookup, conductor: Conductor) -> str | None:
    cable = queries.cable(hookup.cable) if hookup.cable else None
    for mark in cable.marks if cable else ():
        if mark.core == conductor.core:
            return mark.label
    return None


def _filled(
    queries: Queries, hookup: Hookup, conductor: Conductor, here: PinRef, far: PinRef
) -> str:
    templates = queries.label_templates()
    template = templates.core if hookup.cable else templates.lead
    # A lead is named by the device that it comes out of, at both of its ends.
    device, pin_ref = here.device, here
    if not hookup.cable and not _owns_lead(queries, here) and _owns_lead(queries, far):
        device, pin_ref = far.device, far
    axis = queries.axis_of(device)
    pin = queries.pin(pin_ref)
    cable = queries.cable(hookup.cable) if hookup.cable else None
    cable_part = queries.cable_part(cable.part) if cable else None
    single = cable_part is not None and len(cable_part.cores) == 1
    return fill(
        template,
        {
            "axis": axis.id if axis else "",
            "device": device,
            "port": pin_ref.port,
            "pin": _terminal(pin.text if pin else pin_ref.pin),
            "cable": hookup.cable or "",
            "core": "" if single or conductor.core is None else str(conductor.core),
            "far": far.device,
        },
    )


def _owns_lead(queries: Queries, pin: PinRef) -> bool:
    """Whether a pin is on a device's own plug or leads."""
    port = queries.port(pin.port_ref)
    return port is not None and port.end == "device"


class SharedNames(Record, frozen=True, kw_only=True):
    """What is there more than once in a machine: label texts, and the own names of conductors."""

    texts: frozenset[str] = frozenset()
    owns: frozenset[str] = frozenset()


@query
def own_names(queries: Queries, hookup_id: str) -> tuple[str, ...]:
    """How the conductors of a hookup are named whatever the template: by core, or by lead."""
    return tuple(_own_name(queries, entry) for entry in templated_labels(queries, hookup_id))


@query
def shared_names(queries: Queries) -> SharedNames:
    """The label texts and own names that more than one conductor has."""
    texts: Counter[str] = Counter()
    owns: Counter[str] = Counter()
    for hookup in queries.hookups():
        for entry in templated_labels(queries, hookup):
            texts.update({entry.at_a, entry.at_b})
        owns.update(own_names(queries, hookup))
    return SharedNames(
        texts=frozenset(text for text, count in texts.items() if count > 1),
        owns=frozenset(own for own, count in owns.items() if count > 1),
    )


@query
def hookup_labels(queries: Queries, hookup_id: str) -> tuple[ConductorLabels, ...]:
    """The labels of a hookup's conductors, as `labels` tells them."""
    return tuple(
        entry if entry.written else _made_unique(queries, entry, own)
        for entry, own in zip(
            templated_labels(queries, hookup_id), own_names(queries, hookup_id), strict=True
        )
    )


def conductor_labels(queries: Queries, hookup_id: str, row: int) -> ConductorLabels | None:
    """The labels of one conductor, for those who show one; None where there is no such."""
    found = hookup_labels(queries, hookup_id)
    return found[row] if row < len(found) else None


@query
def labels(queries: Queries) -> dict[tuple[str, int], ConductorLabels]:
    """Every conductor's labels, made unique.

    Templated labels that collide get the core's own name behind them, or, of leads, that of their
    device, plug and pin; all of the colliding ones, so that the outcome does not depend on the
    order. Written labels are left as they are.
    """
    return {
        (entry.hookup, entry.row): entry
        for hookup in queries.hookups()
        for entry in hookup_labels(queries, hookup)
    }


def _made_unique(queries: Queries, entry: ConductorLabels, own: str) -> ConductorLabels:
    shared, hookup = shared_names(queries), queries.hookup(entry.hookup)
    if own in shared.owns:
        own = f"{own}/{_far_name(queries, entry)}"
    is_lead = hookup is not None and not hookup.cable
    return ConductorLabels(
        hookup=entry.hookup,
        row=entry.row,
        at_a=_unique(entry.at_a, own, shared, is_lead),
        at_b=_unique(entry.at_b, own, shared, is_lead),
    )


def _own_name(queries: Queries, entry: ConductorLabels) -> str:
    hookup = queries.hookup(entry.hookup)
    if hookup is None:
        return entry.hookup
    conductor = hookup.conductors[entry.row]
    if hookup.cable:
        return core_name(hookup.cable, conductor.core)
    return _lead_name(queries, _ends(queries, hookup, conductor)[0])


def _terminal(text: str) -> str:
    """A terminal as it is written on a label: of 1/L1 its number, which says the same."""
    both = NUMBER_AND_LINE.match(text)
    return both["number"] if both is not None else text


def _ends(queries: Queries, hookup: Hookup, conductor: Conductor) -> tuple[PinRef, PinRef]:
    """The end of a lead that it comes out of, and the other one."""
    a, b = ends_of(hookup, conductor)
    return (b, a) if not _owns_lead(queries, a) and _owns_lead(queries, b) else (a, b)


def _lead_name(queries: Queries, end: PinRef) -> str:
    """A lead by its device and pin, with the plug where another one has a pin of that name; a pin
    whose name is there twice at its plug goes by its number.
    """
    part, pin = queries.part_of(end.device), queries.pin(end)
    ports = part.ports if part is not None else ()
    here = [p.text for port in ports if port.id == end.port for p in port.pins]
    name = _terminal(pin.text) if pin is not None and here.count(pin.text) == 1 else end.pin
    others = [p for port in ports if port.id != end.port for p in port.pins]
    elsewhere = any(name in (p.text, p.id) for p in others)
    return f"{end.device}.{end.port}.{name}" if elsewhere else f"{end.device}.{name}"


def _far_name(queries: Queries, entry: ConductorLabels) -> str:
    """Where a lead goes: what tells two leads of one pin apart, which have no core number."""
    hookup = queries.hookup(entry.hookup)
    if hookup is None:
        return ""
    _, far = _ends(queries, hookup, hookup.conductors[entry.row])
    return f"{far.device}.{_terminal(far.pin)}"


def _unique(text: str, own: str, shared: SharedNames, is_lead: bool) -> str:
    if text not in shared.texts:
        return text
    # A lead's own name says all that its template does, and the plug.
    if is_lead or own.startswith(text):
        return own
    return f"{text}/{own}" if text else own
