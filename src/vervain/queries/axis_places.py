"""What stands on the Machine stage: every axis with its roles, and lanes of everything else."""

from vervain.model.axis import ROLE_WORDS, Axis, Role
from vervain.model.base import Record
from vervain.queries.device_groups import GROUP_OF_KIND, GROUP_ORDER
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# What usually stands in a lane: said in its empty place, and looked for on the shelf from there.
LANE_EXAMPLES: dict[str, tuple[str, str]] = {
    "Tools": ("servo, heater, fan, valve …", ""),
    "Operator": ("emergency stop, hand wheel …", "emergency"),
    "Control": ("controller, drivers, relays …", "controller"),
    "Supplies": ("supply, battery, fuses …", "supply"),
    "Terminals": ("strips and plugs …", "strip"),
}
LANE_TITLES = {"Tools": "Tools and heat"}


class Place(Record, frozen=True, kw_only=True):
    """A place on a lane: a role of an axis, or a lane by its title; `device` where it is filled."""

    axis: str | None = None
    role: Role | None = None
    lane: str | None = None
    device: str | None = None

    @property
    def words(self) -> str:
        """As it is said: "X min limit", "Tools and heat"."""
        if self.axis is not None and self.role is not None:
            return f"{self.axis} {ROLE_WORDS[self.role]}"
        return LANE_TITLES.get(self.lane or "", self.lane or "")


def places_of_axis(axis: Axis) -> tuple[Place, ...]:
    """The places of an axis in the order they are shown; an empty role is a place without device.

    An endless axis has no ends for limits; only an upright axis is asked for a brake.
    """
    found = []

    def single(role: Role, device: str | None, wanted: bool) -> None:
        if device is not None or wanted:
            found.append(Place(axis=axis.id, role=role, device=device))

    single("min_limit", axis.min_limit, not axis.endless)
    single("home", axis.home, True)
    found.extend(Place(axis=axis.id, role="also", device=name) for name in axis.also)
    single("max_limit", axis.max_limit, not axis.endless)
    found.extend(Place(axis=axis.id, role="drive", device=name) for name in axis.drives)
    if not axis.drives:
        found.append(Place(axis=axis.id, role="drive"))
    single("feedback", axis.feedback, True)
    single("brake", axis.brake, axis.vertical)
    return tuple(found)


def first_empty_place(axis: Axis) -> Place | None:
    """The place of an axis that wants a part first: what moves it, then what tells where it is."""
    empty = {place.role: place for place in places_of_axis(axis) if place.device is None}
    wanted: tuple[Role, ...] = ("drive", "home", "min_limit", "max_limit", "brake", "feedback")
    return next((empty[role] for role in wanted if role in empty), None)


@query
def lane_devices(queries: Queries) -> tuple[tuple[str, tuple[str, ...]], ...]:
    """Each lane below the axes with its devices: all that are in no role of an axis."""
    lanes: dict[str, list[str]] = {title: [] for title in GROUP_ORDER}
    for designator in queries.devices():
        part = queries.part_of(designator)
        if part is not None and queries.axis_of(designator) is None:
            lanes[GROUP_OF_KIND[part.kind]].append(designator)
    return tuple((title, tuple(names)) for title, names in lanes.items())
