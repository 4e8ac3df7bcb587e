"""How fuses of each kind behave: what they carry for long, and what blows them."""

from vervain.model.base import Record
from vervain.model.elements import Fuse, FuseKind
from vervain.queries.engine import query
from vervain.queries.machine_queries import Queries

# Blade fuses are made for this direct voltage, where their part does not say more (ISO 8820-3).
BLADE_V = 32.0


class FuseBehaviour(Record, frozen=True):
    """Of its rating, what a fuse carries for long, and what blows it for certain (I_2 / I_n)."""

    load_ratio: float
    fusing_ratio: float
    source: str


BEHAVIOURS: dict[FuseKind, FuseBehaviour] = {
    "blade": FuseBehaviour(0.75, 1.35, "UL 248-14"),
    "IEC 60127": FuseBehaviour(1.0, 2.1, "IEC 60127-2"),
    "gG": FuseBehaviour(1.0, 1.6, "IEC 60269-1"),
    # It holds 1.13 times its rating for an hour, and trips at 1.45 times.
    "breaker": FuseBehaviour(1.0, 1.45, "IEC 60898-1"),
}


@query
def fuse_of(queries: Queries, device: str) -> Fuse | None:
    """The fuse link of a device."""
    part = queries.part_of(device)
    return next((e for e in (part.inside if part else ()) if isinstance(e, Fuse)), None)


def behaviour_of(queries: Queries, device: str) -> FuseBehaviour:
    """How the fuse of a device behaves; as a blade fuse where it has none."""
    found = fuse_of(queries, device)
    return BEHAVIOURS[found.kind if found is not None else "blade"]


# For as long as it takes a fuse to blow a core may carry so much more (IEC 60364-4-43).
OVERLOAD = 1.45


def fuse_limit_a(behaviour: FuseBehaviour, core_limit_a: float) -> float:
    """The largest rating that protects a core: I_n <= I_z and I_2 <= 1.45 I_z (IEC 60364-4-43)."""
    return min(core_limit_a, OVERLOAD * core_limit_a / behaviour.fusing_ratio)


def core_for_fuse_a(behaviour: FuseBehaviour, rating_a: float) -> float:
    """What a core must be able to carry for a rating to protect it: `fuse_limit_a` turned round."""
    return rating_a * max(1.0, behaviour.fusing_ratio / OVERLOAD)
