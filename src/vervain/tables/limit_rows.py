"""The ends of the axes: which limits and homes act where, how they are made and read."""

from vervain.model.base import Record
from vervain.model.electrical import LogicOutput
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries
from vervain.stops.contacts import input_of, used_contacts


class EndSwitch(Record, frozen=True, kw_only=True):
    """A limit or home: NC, NO, or a sensor; the input that reads it, and how that is taken;
    and the other ends and homes that the same input reads.
    """

    device: str
    made: str
    entry: str = ""
    taken: str = ""
    shared_with: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """In a few words: "B1 NC, IN 1 inverted, as B2"."""
        read = f", {self.entry} {self.taken}".rstrip() if self.entry else ", read by nothing"
        shared = f", as {' and '.join(self.shared_with)}" if self.shared_with else ""
        return f"{self.device} {self.made}{read}{shared}"


class LimitRow(Record, frozen=True, kw_only=True):
    """An axis with what acts at its two ends and where it homes; None where nothing does. An
    `endless` axis has no ends.
    """

    axis: str
    name: str
    travel: float | None
    unit: str
    minimum: EndSwitch | None
    maximum: EndSwitch | None
    home: EndSwitch | None
    home_at: float | None
    endless: bool


def _end_switch(queries: Queries, device: str | None) -> EndSwitch | None:
    part = queries.part_of(device) if device else None
    if device is None or part is None:
        return None
    used = used_contacts(queries, device)
    made = "NC" if any(contact.rest == "NC" for contact in used) else "NO" if used else ""
    if not used:
        is_sensor = any(
            isinstance(pin.electrical, LogicOutput) for port in part.ports for pin in port.pins
        )
        made = "sensor" if is_sensor else "not wired"
    entry = input_of(queries, device)
    setting = queries.setting(entry.device, "invert", entry.port) if entry else None
    others = tuple(
        name for name in _ends_and_homes(queries)
        if entry is not None and name != device and input_of(queries, name) == entry
    )  # fmt: skip
    return EndSwitch(
        device=device, made=made, entry=entry.port if entry else "", taken=str(setting or ""),
        shared_with=others,
    )  # fmt: skip


@query
def _ends_and_homes(queries: Queries) -> tuple[str, ...]:
    """The devices that are a limit or the home of any axis."""
    axes = [axis for axis_id in queries.axes() if (axis := queries.axis(axis_id)) is not None]
    names = [name for axis in axes for name in (axis.min_limit, axis.max_limit, axis.home) if name]
    return tuple(dict.fromkeys(names))


@query
def limit_rows(queries: Queries) -> tuple[LimitRow, ...]:
    """Every axis, in the builder's order."""
    found = []
    for axis_id in queries.axes():
        axis = queries.axis(axis_id)
        if axis is None:
            continue
        found.append(
            LimitRow(
                axis=axis.id,
                name=axis.name,
                travel=axis.travel,
                unit="mm" if axis.motion == "linear" else "°",
                minimum=_end_switch(queries, axis.min_limit),
                maximum=_end_switch(queries, axis.max_limit),
                home=_end_switch(queries, axis.home),
                home_at=axis.home_at,
                endless=axis.endless,
            )
        )
    return tuple(found)
