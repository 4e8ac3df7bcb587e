"""Every rule, in the order in which they are asked. Refuses doubled ids at import."""

from vervain.checks import (
    chopper,
    drive,
    feeds,
    harness,
    heat,
    leads,
    lines,
    loads,
    machine,
    motion,
    plugs,
    ports,
    protection,
    resources,
    signals,
    stops,
    supply,
    timing,
    warmth,
    windings,
)
from vervain.checks.rule import Rule

RULES: tuple[Rule, ...] = (
    *machine.RULES,
    *motion.RULES,
    *leads.RULES,
    *windings.RULES,
    *ports.RULES,
    *plugs.RULES,
    *resources.RULES,
    *signals.RULES,
    *drive.RULES,
    *timing.RULES,
    *lines.RULES,
    *heat.RULES,
    *supply.RULES,
    *feeds.RULES,
    *loads.RULES,
    *chopper.RULES,
    *protection.RULES,
    *warmth.RULES,
    *stops.RULES,
    *harness.RULES,
)
RULE_BY_ID = {rule.id: rule for rule in RULES}
if len(RULE_BY_ID) != len(RULES):
    ids = [rule.id for rule in RULES]
    raise ValueError(f"rule ids twice: {sorted({name for name in ids if ids.count(name) > 1})}")
