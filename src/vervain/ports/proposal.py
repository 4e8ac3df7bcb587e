"""What is proposed for the loose plugs of a machine, as values, and carrying it out."""

from vervain.model.base import Record
from vervain.model.machine import Machine, PortRef
from vervain.ports.plugging import plug_in, unplug
from vervain.ports.spreading import Spread, put_spread
from vervain.text.words import in_a_row

# What the port of a device is called that has no other.
ONLY_PORTS = ("LEADS", "PLUG")


class Placement(Record, frozen=True, kw_only=True):
    """One plug into one port, what is set for it, where it was, and why; or wire by wire over
    several lines, of which the first is at the host.
    """

    plug: PortRef
    host: PortRef
    reason: str
    setting: tuple[str, str] | None = None
    was_in: PortRef | None = None
    over: Spread | None = None


class Conflict(Record, frozen=True, kw_only=True):
    """Plugs that cannot all be placed, and the ports that they compete for; none where no port
    is of their kind, with the reason why the lines that are left do not do.
    """

    plugs: tuple[PortRef, ...]
    hosts: tuple[PortRef, ...]
    reason: str = ""

    @property
    def words(self) -> str:
        """The conflict in one sentence."""
        names = in_a_row([
            plug.device if plug.port in ONLY_PORTS else f"{plug.device} {plug.port}"
            for plug in self.plugs
        ])  # fmt: skip
        if not self.hosts:
            return f"No free port fits {names}. {self.reason}".strip()
        ports = in_a_row([f"{ref.device} {ref.port}" for ref in self.hosts])
        only = "is" if len(self.hosts) == 1 else "are"
        return f"For {names} there {only} only {ports}."


class Proposal(Record, frozen=True, kw_only=True):
    """What is proposed, what cannot be reconciled, and the points that it costs."""

    placements: tuple[Placement, ...]
    conflicts: tuple[Conflict, ...] = ()
    cost: int = 0


def accept(machine: Machine, placements: tuple[Placement, ...]) -> Machine:
    """The machine with placements carried out: first all that move come off, then all go in."""
    for placement in placements:
        if placement.was_in is not None:
            machine = unplug(machine, placement.plug)
    for placement in placements:
        if placement.over is not None:
            machine = put_spread(machine, placement.over)
        else:
            machine = plug_in(machine, placement.plug, placement.host, complete=True)
    return machine
