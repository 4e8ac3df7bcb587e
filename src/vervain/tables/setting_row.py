"""One row of the settings sheet."""

from vervain.model.base import Record

GROUPS = (
    "Axes", "Drivers", "Inputs", "Stops", "Outputs", "Encoders", "Jumpers", "Fuses", "Swaps",
    "Leads left open", "Lamps",
)  # fmt: skip


class SettingRow(Record, frozen=True, kw_only=True):
    """One thing to set: its group, where, what, to what, and because of what. `device` and `port`
    are where it is put right.
    """

    group: str
    where: str
    what: str
    value: str
    because: str
    device: str
    port: str | None = None
