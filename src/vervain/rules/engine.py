"""Runs the rules over a machine, and after an edit only those that the edit touched."""

from collections.abc import Callable

from vervain.model.machine import Machine
from vervain.queries.look import Look
from vervain.rules.finding import Finding, Result
from vervain.rules.registry import RULES
from vervain.rules.rule import Rule, Scope

SUBJECTS: dict[Scope, Callable[[Look], tuple[str, ...]]] = {
    "device": Look.devices,
    "hookup": Look.hookups,
    "cable": Look.cables,
    "axis": Look.axes,
    "run": lambda look: tuple(run.id for run in look.runs()),
    "machine": lambda look: ("",),
}


class Engine:
    """Checks one machine after another and remembers what still holds."""

    def __init__(self, rules: tuple[Rule, ...] = RULES) -> None:
        self._rules = rules
        self._checks = {rule.check for rule in rules}
        self._look: Look | None = None

    def check(self, machine: Machine, goes_on: Callable[[], bool] = lambda: True) -> Result | None:
        """The findings of a machine; None where `goes_on` said no meanwhile."""
        if self._look is None:
            self._look = Look(machine)
        else:
            self._look.move_to(machine)
        look = self._look
        look.computed.clear()
        found: list[Finding] = []
        for rule in self._rules:
            if not goes_on():
                return None
            for subject in SUBJECTS[rule.scope](look):
                found.extend(look.ask(rule.check, subject))
        found.sort(key=lambda finding: finding.rank)
        kept = {acceptance.finding for acceptance in machine.accepted}
        runs = sum(1 for key in look.computed if key[0] in self._checks)
        return Result(
            open=tuple(finding for finding in found if finding.key not in kept),
            accepted=tuple(finding for finding in found if finding.key in kept),
            runs=runs,
        )


def check_machine(machine: Machine) -> Result:
    """One full check."""
    result = Engine().check(machine)
    assert result is not None
    return result
