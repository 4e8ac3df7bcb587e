"""What the coil finder is told beforehand."""

from vervain.model.base import Positive, Record


class Datasheet(Record, frozen=True, kw_only=True):
    """What the part says: the kind of `explanations.KIND_WORDS`, and one winding at 20 °C."""

    kind: str
    winding_ohm: Positive | None = None
