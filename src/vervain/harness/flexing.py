"""The flexing twin of a cable for fixed laying: shipped, or made to measure."""

from msgspec.structs import replace

from vervain.model.cable_part import CablePart


def flexing_twin(part: CablePart) -> CablePart:
    """A cable part with the same cores that may be bent all the time."""
    return replace(
        part,
        id=f"{part.id}-flexing",
        title=f"{part.title}, flexing",
        flexing=True,
        bend_radius_mm=None,
    )
