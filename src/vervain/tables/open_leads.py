"""The leads that stay open, of devices and of cables, and what is done with each."""

import tomllib
from collections.abc import Iterator

from vervain.data import data_text, table_reader
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.model.part import Part
from vervain.queries.connectivity import steps_from
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries


class OpenLead(Record, frozen=True, kw_only=True):
    """One lead or core that is joined to nothing: where, which, what it is, and what to do."""

    where: str
    lead: str
    function: str
    advice: str
    device: str
    port: str | None = None


@table_reader
def advice() -> dict[str, str]:
    """What is done with an open lead, by the function of its pin; "*" for all others."""
    found: dict[str, str] = tomllib.loads(data_text("tables/open_leads.toml"))["advice"]
    return found


@query
def open_leads(queries: Queries) -> tuple[OpenLead, ...]:
    """Every open lead of devices that are joined to something, then the spare cores of cables."""
    found: list[OpenLead] = []
    for device in queries.devices():
        part = queries.part_of(device)
        if part is not None and queries.hookups_of(device):
            found.extend(_of_device(queries, device, part))
    for cable in queries.cables():
        found.extend(_of_cable(queries, cable))
    return tuple(found)


def _of_device(queries: Queries, device: str, part: Part) -> Iterator[OpenLead]:
    for port in part.ports:
        if port.end != "device":
            continue
        used = {
            pin.id
            for pin in port.pins
            if steps_from(queries, PinRef(device=device, port=port.id, pin=pin.id))
        }
        for pin in port.pins:
            if used and pin.lead and pin.id not in used:
                yield OpenLead(
                    where=device,
                    lead=pin.lead,
                    function=pin.text if pin.text != pin.lead else pin.function,
                    advice=advice().get(pin.function, advice()["*"]),
                    device=device,
                    port=port.id,
                )


def _of_cable(queries: Queries, cable_id: str) -> Iterator[OpenLead]:
    cable, hookups = queries.cable(cable_id), queries.hookups_in(cable_id)
    part = queries.cable_part(cable.part) if cable else None
    if part is None or not hookups:
        return
    used = {row.core for hookup in hookups for row in hookup.conductors}
    for number, colour in enumerate(part.cores, 1):
        if number not in used:
            yield OpenLead(
                where=f"{cable_id}.{number}",
                lead=colour,
                function="spare core",
                advice="insulate at both ends, leave its length",
                device=hookups[0].a.device,
            )
