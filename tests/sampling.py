"""What is too much for every run is sampled, with a printed seed that repeats it.

VERVAIN_SEED=… takes the same sample again; VERVAIN_ALL=1 takes everything.
"""

import os
import random
from collections.abc import Sequence
from typing import TypeVar

T = TypeVar("T")

IS_WHOLE = bool(os.environ.get("VERVAIN_ALL"))


def seeded(what: str) -> random.Random:
    """The chance that a test samples by; its seed is printed."""
    seed = int(os.environ.get("VERVAIN_SEED", random.randrange(10**6)))
    print(f"{what}: VERVAIN_SEED={seed}", flush=True)
    return random.Random(seed)


def some(chance: random.Random, items: Sequence[T], count: int) -> list[T]:
    """So many of the items in their order, or all of them."""
    if IS_WHOLE or count >= len(items):
        return list(items)
    return [items[number] for number in sorted(chance.sample(range(len(items)), count))]
