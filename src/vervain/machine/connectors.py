"""Connector families in words: "screw-5.08-3" is "screw terminals 5.08 mm, 3-way"."""

FAMILIES = {
    "crimp": "crimp connector",
    "pin": "pin header",
    "screw": "screw terminals",
    "socket": "socket strip",
}


def connector_words(family: str | None) -> str:
    """A connector family in words; flying leads where there is none, its name where unknown."""
    if family is None:
        return "flying leads"
    kind, _, rest = family.partition("-")
    pitch, _, ways = rest.partition("-")
    if kind == "round":
        return f"round plug, {rest}-way"
    if kind not in FAMILIES or not ways:
        return family
    size = pitch if pitch.startswith("M") else f"{pitch} mm"
    return f"{FAMILIES[kind]} {size}, {ways.replace('x', ' × ')}-way"
