"""What stands beside places and runs, on the screen and on paper."""

from vervain.harness.bundles import bundle_of
from vervain.harness.route_tree import devices_at
from vervain.queries.device_groups import GROUP_OF_KIND
from vervain.queries.machine_queries import Queries
from vervain.text.units import in_length


def run_words(queries: Queries, run_id: str) -> tuple[str, str]:
    """What stands under a run: its length and its bundle, then how it moves and how full it is."""
    run = queries.run(run_id)
    if run is None:
        return "", ""
    bundle = bundle_of(queries, run_id)
    size = f"  {bundle.diameter_mm:.1f} mm" if bundle.strands and run.chain is None else ""
    words = []
    if run.chain is not None and bundle.fill is not None:
        words.append(f"chain {bundle.fill:.0%} full")
    if run.coiled:
        words.append("coiled")
    if run.axis:
        words.append(f"moves with {run.axis}")
    elif run.moving and not run.coiled:
        words.append("moves")
    if run.entry:
        words.append(f"through {run.entry}")
    return f"{in_length(run.length_m)}{size}", ", ".join(words)


def devices_words(queries: Queries, place: str) -> str:
    """The designators at a place, what does the work before plugs and strips."""
    names = devices_at(queries).get(place, ())

    def rank(name: str) -> tuple[bool, str, int]:
        part = queries.part_of(name)
        joint = part is not None and GROUP_OF_KIND[part.kind] == "Terminals"
        letters = name.rstrip("0123456789")
        return joint, letters, int(name[len(letters) :])

    return " ".join(sorted(names, key=rank))
