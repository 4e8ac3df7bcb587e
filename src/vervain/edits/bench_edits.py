"""Edits of what was seen at the bench."""

from msgspec.structs import replace

from vervain.model.bench_result import BenchResult
from vervain.model.machine import Machine


def keep_result(machine: Machine, result: BenchResult) -> Machine:
    """Keeps what was seen at a step, in place of what was seen there before."""
    return replace(machine, bench_results=(*_others(machine, result), result))


def forget_result(machine: Machine, result: BenchResult) -> Machine:
    """Takes back what was seen at a step."""
    return replace(machine, bench_results=_others(machine, result))


def _others(machine: Machine, result: BenchResult) -> tuple[BenchResult, ...]:
    return tuple(item for item in machine.bench_results if item.name != result.name)
