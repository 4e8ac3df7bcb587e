"""The base of everything in the document, and the kinds of number and name in it.

Every number has bounds, far beyond any machine: a file with a run of 1e308 m is a mistake, and
arithmetic on it would overflow.
"""

from typing import Annotated

import msgspec
from msgspec import Meta

LEAST, MOST = 1e-12, 1e9
LONGEST_M, LARGEST_MM = 10_000.0, 100_000.0
LONGEST_NAME = 80

Positive = Annotated[float, Meta(ge=LEAST, le=MOST)]
NotNegative = Annotated[float, Meta(ge=0, le=MOST)]
PositiveMetres = Annotated[float, Meta(ge=1e-6, le=LONGEST_M)]
Metres = Annotated[float, Meta(ge=0, le=LONGEST_M)]
PositiveMillimetres = Annotated[float, Meta(ge=1e-6, le=LARGEST_MM)]
Millimetres = Annotated[float, Meta(ge=0, le=LARGEST_MM)]
Name = Annotated[str, Meta(min_length=1, max_length=LONGEST_NAME)]


class Record(
    msgspec.Struct, frozen=True, kw_only=True, forbid_unknown_fields=True, omit_defaults=True
):
    """Base of everything in the document: immutable, strict, defaults left out of the file."""


def number_is_in_bounds(value: float) -> bool:
    """Whether a document may hold a number: finite, at most 1e9, and 0 or at least 1e-12."""
    return value == 0 or LEAST <= abs(value) <= MOST
