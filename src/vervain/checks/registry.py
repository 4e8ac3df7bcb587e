"""Every rule, in the order in which they are asked. Refuses doubled ids at import."""

from vervain.checks import (
    cables,
    cabling,
    chopper,
    drive,
    earthing,
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
    routes,
    signals,
    stops,
    supply,
    switching,
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
    *switching.RULES,
    *timing.RULES,
    *lines.RULES,
    *cables.RULES,
    *earthing.RULES,
    *heat.RULES,
    *supply.RULES,
    *feeds.RULES,
    *loads.RULES,
    *chopper.RULES,
    *protection.RULES,
    *warmth.RULES,
    *stops.RULES,
    *harness.RULES,
    *cabling.RULES,
    *routes.RULES,
)
RULE_BY_ID = {rule.id: rule for rule in RULES}
if len(RULE_BY_ID) != len(RULES):
    ids = [rule.id for rule in RULES]
    raise ValueError(f"rule ids twice: {sorted({name for name in ids if ids.count(name) > 1})}")
