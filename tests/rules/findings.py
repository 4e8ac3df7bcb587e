"""What one rule says of a machine."""

from vervain.model.machine import Machine
from vervain.rules.engine import Engine
from vervain.rules.finding import Finding
from vervain.rules.registry import RULE_BY_ID


def found(machine: Machine, rule_id: str) -> list[Finding]:
    """What a rule finds of a machine, what is still to be done included."""
    result = Engine((RULE_BY_ID[rule_id],)).check(machine)
    return [*result.open, *result.to_do]
