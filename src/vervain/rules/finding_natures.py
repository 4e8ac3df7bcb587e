"""What a finding tells of, by its rule: the copper, what the stops are like, a part; and what it
hides.
"""

from vervain.rules.finding import Finding

# Rules that tell what a feed that does not come leaves dead.
DEAD = frozenset({"supply.unfed", "stops.never-closes", "ports.loose"})
# What a machine lacks of its stops shows only once they do something, and of what they leave on
# only once that has power, as do the volts that are lost on the way: such findings may come with a
# cure. By the rule that hides them.
HIDDEN_BY: dict[str, frozenset[str]] = {
    "stops.does-nothing": frozenset({"stops.restarts", "stops.unnoticed", "stops.weld-unread"}),
    **dict.fromkeys(
        (
            *DEAD,
            "ports.need",
            "ports.half-joined",
            "supply.no-return",
            "supply.polarity",
            "supply.same-rail",
            # What an output drives past its stop runs otherwise than the stops have it.
            "ports.outputs-joined",
        ),
        frozenset({"stops.restarts", "stops.unnoticed", "stops.weld-unread", "supply.drop"}),
    ),
}
# What may show besides where conductors only change places: that bypasses no contact of a stop.
HIDDEN_BY_PLACE = frozenset({"stops.power-stays", "stops.restarts", "stops.unnoticed"})
# What joins two rails that nothing may join; told beside all that it makes of the rest.
SHORTS = frozenset({
    "supply.short", "supply.contact-shorts", "supply.shorted-at-work", "supply.two-sources",
    "supply.lines-joined",
})  # fmt: skip
REVERSED = "supply.polarity"
# What a wire that leads where it was not meant to makes of lengths and ways.
LAID = frozenset({"harness.short-lead", "harness.chain-full"})
# Where these have no fix, the part itself is what they tell of.
OF_THE_PART = frozenset({"stops.limit-no"})
# Rules of the Supply stage that read the copper only.
SEEN = SHORTS | {
    "supply.unfed", "supply.polarity", "supply.same-rail", "supply.in-series",
}  # fmt: skip
# The rules of the signals that solve the circuit, as those of the stops do.
SOLVED = frozenset({"signals.output-current", "signals.contact-rating"})


def devices_of(finding: Finding) -> set[str]:
    """The devices that a finding names."""
    return {subject.device for subject in finding.subjects if subject.device is not None}


def is_of_plugs(finding: Finding) -> bool:
    """Whether a plug that is put in otherwise could be behind a finding."""
    return finding.rule.partition(".")[0] not in ("machine", "harness")


def is_of_design(finding: Finding) -> bool:
    """Whether a finding tells of how the stops are laid out, more often than of a misplaced wire:
    it is asked last, and takes no time from the others.
    """
    return finding.rule.startswith("stops.") and finding.consequence == "Unreliable"


def is_of_the_part(finding: Finding) -> bool:
    """Whether a finding tells of what a part is, so that no wire mends it: a switch without a
    contact that opens. It shows once the switch is joined.
    """
    return finding.rule in OF_THE_PART and not finding.fixes


def is_seen(finding: Finding) -> bool:
    """Whether a finding is read from the copper, without solving what flows in it."""
    is_solved = finding.rule.startswith("supply.") or finding.rule in SOLVED
    return not is_solved or finding.rule in SEEN
