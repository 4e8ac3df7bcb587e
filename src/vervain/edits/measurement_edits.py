"""Edits of what was measured and tried at a device: readings, coils, trials, the meter."""

from msgspec.structs import replace

from vervain.edits.common import swapped
from vervain.edits.device_edits import find_device
from vervain.model.machine import (
    Machine,
)
from vervain.model.measurements import Meter, Reading, SeriesTest, Trial
from vervain.model.problem import Problem


def add_reading(machine: Machine, designator: str, reading: Reading) -> Machine:
    """Keeps a meter reading at a device; a second one between the same leads stands beside.
    Raises `Problem`.
    """
    device = find_device(machine, designator)
    if reading.a == reading.b:
        raise Problem("A reading is between two different leads.", place=designator)
    changed = replace(device, readings=(*device.readings, reading))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def remove_reading(machine: Machine, designator: str, number: int) -> Machine:
    """Takes a reading of a device back, by its place in the list. Raises `Problem`."""
    device = find_device(machine, designator)
    if not 0 <= number < len(device.readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    kept = (*device.readings[:number], *device.readings[number + 1 :])
    changed = replace(device, readings=kept)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def replace_reading(machine: Machine, designator: str, number: int, reading: Reading) -> Machine:
    """Corrects a reading of a device in its place in the list. Raises `Problem`."""
    device = find_device(machine, designator)
    if not 0 <= number < len(device.readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    kept = (*device.readings[:number], reading, *device.readings[number + 1 :])
    changed = replace(device, readings=kept)
    return replace(machine, devices=swapped(machine.devices, device, changed))


def move_reading(machine: Machine, designator: str, number: int, by: int) -> Machine:
    """Moves a reading up (-1) or down (1) in the list of a device; at the ends it stays.
    Raises `Problem`.
    """
    device = find_device(machine, designator)
    readings = list(device.readings)
    if not 0 <= number < len(readings):
        raise Problem(f"{designator} has no reading {number + 1}.")
    readings.insert(max(0, min(len(readings) - 1, number + by)), readings.pop(number))
    changed = replace(device, readings=tuple(readings))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_coils(
    machine: Machine,
    designator: str,
    coils: tuple[tuple[str, ...], ...],
    printed: bool = False,
) -> Machine:
    """Keeps which leads of a device belong to one coil: as measured, or as printed on it."""
    device = find_device(machine, designator)
    changed = replace(device, coils=coils, coils_printed=printed and bool(coils))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def add_series_test(machine: Machine, designator: str, test: SeriesTest) -> Machine:
    """Keeps what two windings in series showed. Raises `Problem`."""
    device = find_device(machine, designator)
    if len({*test.first, *test.second}) != 4:
        raise Problem("The test needs four different leads.", place=designator)
    changed = replace(device, series_tests=(*device.series_tests, test))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def clear_series_tests(machine: Machine, designator: str) -> Machine:
    """Forgets the tests of windings in series, to begin again."""
    device = find_device(machine, designator)
    changed = replace(device, series_tests=())
    return replace(machine, devices=swapped(machine.devices, device, changed))


def set_meter(machine: Machine, meter: Meter) -> Machine:
    """Sets what the meter is like and how warm the motors are."""
    return replace(machine, meter=meter)


def add_trial(machine: Machine, designator: str, trial: Trial) -> Machine:
    """Keeps what a motor did with its leads in an order."""
    device = find_device(machine, designator)
    changed = replace(device, trials=(*device.trials, trial))
    return replace(machine, devices=swapped(machine.devices, device, changed))


def clear_trials(machine: Machine, designator: str) -> Machine:
    """Forgets what a motor did, to begin again."""
    device = find_device(machine, designator)
    changed = replace(device, trials=())
    return replace(machine, devices=swapped(machine.devices, device, changed))
