"""Rules about loops of 4 to 20 mA."""

from collections.abc import Iterator

from vervain.electrical.levels import (
    driving_outputs,
    inputs_driven_by,
    levels_of,
    mismatches,
    supply_v,
)
from vervain.model.electrical import LogicInput
from vervain.ports.signal_issues import mismatch_words
from vervain.queries.machine_queries import Queries
from vervain.rules.finding import Consequence, about, about_port
from vervain.rules.rule import RuleOutput, rule

CONSEQUENCES: dict[str, Consequence] = {
    "current into volts": "Won't run",
    "volts into current": "Damage",
    "too little left": "Unreliable",
}


@rule(
    id="signals.current-loop",
    consequence="Won't run",
    scope="device",
    title="A current is read as volts, or volts as a current",
    reason="An input for volts takes no current, so that a transmitter drives it to its supply; an "
    "input for a current is a small resistor, which volts burn.",
    source="IEC 60381-1: 4 to 20 mA; supply - transmitter's least volts >= 20 mA * input resistor.",
)
def current_loop(queries: Queries, device: str) -> Iterator[RuleOutput]:
    for ref, output in driving_outputs(queries, device):
        levels = levels_of(output, supply_v(queries, ref))
        for target in inputs_driven_by(queries, ref):
            pin = queries.pin(target)
            if pin is None or not isinstance(pin.electrical, LogicInput):
                continue
            for item in mismatches(output, levels, pin.electrical, "either"):
                if item.trouble in CONSEQUENCES:
                    yield RuleOutput(
                        f"{device} into {target.device} {target.port}: "
                        f"{mismatch_words(item, output)}",
                        (about(target), about(ref)),
                        at=(about_port(target),),
                        detail=item.trouble,
                        consequence=CONSEQUENCES[item.trouble],
                    )


RULES = (current_loop,)
