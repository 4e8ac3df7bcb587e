"""How times are judged in tests: on a busy machine everything waits, nothing is done too fast."""

from collections.abc import Callable

TRIES = 4
# Only reached where something fails; a slow or busy machine comes about later.
PATIENCE_S = 60.0


def least_s(measured_s: Callable[[], float], enough_s: float) -> float:
    """The least of some tries, in seconds; the first that is enough ends them.

    What else runs on the machine only ever adds to a time, so the least is nearest to its own.
    """
    least = measured_s()
    for _ in range(TRIES - 1):
        if least < enough_s:
            break
        least = min(least, measured_s())
    return least
