"""What stands on every label: of each core at both ends, and of each cable at both ends."""

from typing import Literal

from vervain.harness.cable_routes import cable_ports
from vervain.harness.conductors import natural_key, pin_words, rows_of_hookup
from vervain.harness.terminations import is_seated
from vervain.model.base import Record
from vervain.model.machine import PinRef
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

Owner = Literal["core", "cable"]


class LabelText(Record, frozen=True, kw_only=True):
    """One label: whose it is, the text, where it sits ("at T4") and where the other end is.

    `key` is the conductor, None on a label of a cable; `diameter_mm` what it goes around is left to
    the printing.
    """

    owner: Owner
    text: str
    at: str
    to: str
    cable: str = ""
    key: tuple[str, int] | None = None

    @property
    def content(self) -> str:
        """All that is printed, as one text: what is compared with what was printed last."""
        return f"{self.text} | {self.at} | {self.to}"


@query
def core_label_texts(queries: Queries, hookup_id: str) -> tuple[LabelText, ...]:
    """The labels of the conductors of a hookup, the control side first; a device's own lead has
    one, where it is joined.
    """
    found = []
    for row in rows_of_hookup(queries, hookup_id):
        leads = " ".join(lead.colour or "" for lead in row.leads).strip()
        behind = f", {row.devices[0]} {leads}".rstrip() if row.devices and row.cable else ""
        ends = (
            (row.label_from, row.start, row.end, behind),
            (row.label_to, row.end, row.start, ""),
        )
        for text, here, far, more in ends:
            if not row.cable and any(lead.pin == here and lead.colour for lead in row.leads):
                # The end of a lead inside its own device.
                continue
            found.append(
                LabelText(
                    owner="core",
                    text=text,
                    at=_at(queries, here),
                    to=f"to {far.device} {pin_words(queries, far)}{more if far == row.end else ''}",
                    cable=row.cable,
                    key=row.key,
                )
            )
    return tuple(found)


def _at(queries: Queries, pin: PinRef) -> str:
    return f"at {pin.device} {pin_words(queries, pin)}"


@query
def cable_label_texts(queries: Queries, cable_id: str) -> tuple[LabelText, ...]:
    """The labels of a cable: one at each device that it comes to, naming the others."""
    devices = tuple(dict.fromkeys(ref.device for ref in cable_ports(queries, cable_id)))
    found = []
    for device in devices:
        others = [other for other in devices if other != device]
        found.append(
            LabelText(
                owner="cable",
                text=cable_id,
                at=f"at {device}",
                to=f"to {', '.join(others)}" if others else "",
                cable=cable_id,
            )
        )
    return tuple(found)


@query
def label_texts(queries: Queries) -> tuple[LabelText, ...]:
    """Every label of cores and of cables with more than one core, in natural order."""
    found = [
        label
        for name in queries.hookups()
        if not is_seated(queries, name)
        for label in core_label_texts(queries, name)
    ]
    for cable_id in queries.cables():
        cable = queries.cable(cable_id)
        part = queries.cable_part(cable.part) if cable else None
        if part is not None and len(part.cores) > 1:
            found += cable_label_texts(queries, cable_id)
    return tuple(sorted(found, key=lambda label: (natural_key(label.text), label.at)))


def changed_labels(
    labels: tuple[LabelText, ...], printed: tuple[str, ...]
) -> tuple[LabelText, ...]:
    """The labels whose text is not on any that was printed."""
    known = set(printed)
    return tuple(label for label in labels if label.content not in known)
