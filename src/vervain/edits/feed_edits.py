"""Edits of what the feeds are worked out from: measured currents, gauges, temperatures."""

import re
from collections.abc import Mapping

from msgspec.structs import replace

from vervain.edits.common import free_name, swapped
from vervain.edits.device_edits import find_device
from vervain.model.machine import Machine, OperatingState
from vervain.model.problem import Problem
from vervain.text.units import in_area


def set_measured_currents(
    machine: Machine, designator: str, takes: Mapping[OperatingState, float]
) -> Machine:
    """Keeps the currents in A that were measured in a device's feed, by operating state."""
    device = find_device(machine, designator)
    changed = replace(device, measured_a=dict(takes))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_gauge(machine: Machine, cable_id: str, core_mm2: float) -> Machine:
    """Gives a cable cores of another cross-section: a kind of cable that the machine has already,
    else one like its own. Raises `Problem` where there is no such cable or size.
    """
    cable = next((cable for cable in machine.cables if cable.id == cable_id), None)
    part = next((p for p in machine.cable_parts if cable and p.id == cable.part), None)
    if cable is None or part is None:
        raise Problem(f"There is no cable {cable_id}.")
    if not 0.05 <= core_mm2 <= 50:
        raise Problem(
            f"{in_area(core_mm2)} is no gauge for a machine.",
            place=cable_id,
            remedy="Give it in mm2, 0.05 to 50.",
        )
    if core_mm2 == part.core_mm2:
        return machine
    like = replace(
        part, id=part.id, title=part.title, core_mm2=core_mm2, outer_diameter_mm=None,
        bend_radius_mm=None,
    )  # fmt: skip
    for known in machine.cable_parts:
        same = replace(
            known, id=part.id, title=part.title, outer_diameter_mm=None, bend_radius_mm=None
        )
        if same == like:
            changed = replace(cable, part=known.id)
            return replace(machine, cables=swapped(machine.cables, cable, changed))
    stem, title = part.id.partition("-")[0], re.split(r"[\s,]*\d", part.title)[0]
    counted = f"{len(part.cores)} x {core_mm2:g} mm2"
    words = [
        word
        for word, has in (
            ("shielded", part.shield),
            ("pairs", part.pairs),
            ("flexing", part.flexing),
        )
        if has
    ]
    made = replace(
        like,
        id=f"{stem}-{len(part.cores)}x{core_mm2:g}-{'-'.join(part.cores[:4]).lower()}",
        title=", ".join([f"{title} {counted}".strip(), *words])[:80],
    )
    taken = {known.id for known in machine.cable_parts}
    if made.id in taken:
        made = replace(made, id=free_name(f"{made.id}-", taken))
    return replace(
        machine,
        cable_parts=(*machine.cable_parts, made),
        cables=swapped(machine.cables, cable, replace(cable, part=made.id)),
    )


def set_ambient(machine: Machine, ambient_c: float) -> Machine:
    """Sets the temperature around the machine's cables. Raises `Problem` outside -40 to 69 °C."""
    if not -40 <= ambient_c < 70:
        raise Problem(
            f"At {ambient_c:g} °C no PVC cable may carry anything.",
            remedy="Give a temperature from -40 to 69 °C.",
        )
    return replace(machine, ambient_c=ambient_c)


def set_shedding(machine: Machine, place_id: str, sheds_w: float | None) -> Machine:
    """Sets how much heat a place can give off; None where that is not known. Raises `Problem`."""
    place = next((place for place in machine.places if place.id == place_id), None)
    if place is None:
        raise Problem(f"There is no place {place_id}.")
    if sheds_w is not None and not 0 < sheds_w <= 1e5:
        raise Problem(f"{sheds_w:g} W is nothing that a box sheds.", place=place.name)
    changed = replace(place, sheds_w=sheds_w)
    return replace(machine, places=swapped(machine.places, place, changed))
