"""A rule about contacts with one common: what has a feed of its own shares it with nobody."""

from collections.abc import Iterator

from vervain.model.machine import PortRef
from vervain.ports.shared_commons import met_at_common
from vervain.queries.connectivity import occupants
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import about
from vervain.rules.ports.occupancy import free_fit, move_to
from vervain.rules.rule import RuleOutput, rule


@rule(
    id="ports.common-of-another",
    consequence="Won't run",
    scope="device",
    title="Two feeds meet at the common of some contacts",
    reason="A drive gives the contact that starts it a voltage of its own. Where the common of "
    "that contact is also that of a lamp or a valve, the feed of these comes to its input.",
    source="Derivation: two sources with one node in common, and no way back from one to the "
    "other; the part's own list of what is joined inside.",
)
def common_of_another(queries: Queries, device: str) -> Iterator[RuleOutput]:
    part = queries.part_of(device)
    seen: set[frozenset[str]] = set()
    for port in part.ports if part is not None else ():
        host = PortRef(device=device, port=port.id)
        if port.kind != "relay contact":
            continue
        for plug in occupants(queries, host):
            other = met_at_common(queries, plug, host)
            pair = frozenset({plug.device, other.device}) if other is not None else frozenset()
            if other is None or pair in seen:
                continue
            seen.add(pair)
            answer = free_fit(queries, plug)
            common = next((pin.text for pin in port.pins if pin.function == "com"), "")
            yield RuleOutput(
                f"{plug.device} and {other.device} meet at the common {common} of {device}: each "
                "has a feed of its own.",
                (about(plug), about(other), about(host)),
                detail="-".join(sorted(pair)),
                fixes=(move_to(answer, plug),) if answer is not None else (),
            )


RULES = (common_of_another,)
