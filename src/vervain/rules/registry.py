"""Every rule, in the order in which they are asked. Refuses doubled ids at import."""

from vervain.rules.harness import cables, labels, routes, separation
from vervain.rules.leads import coils, windings
from vervain.rules.machine import axes, motion, timing
from vervain.rules.ports import (
    alternates,
    belonging,
    channels,
    contact_commons,
    loose_plugs,
    needs,
    occupancy,
    outputs_joined,
    plugs,
    reversing,
    shared_pins,
)
from vervain.rules.rule import Rule
from vervain.rules.signals import (
    buses,
    contacts,
    differential,
    heaters,
    inputs,
    levels,
    loops,
    semiconductors,
    supply_on_pins,
    switching,
    unchanging,
)
from vervain.rules.stops import axes as stopped_axes
from vervain.rules.stops import chains, circuits, demands, stored_energy
from vervain.rules.supply import (
    commons,
    drivers,
    drops,
    earth,
    fuses,
    loading,
    mains_lines,
    polarity,
    shorts,
    thermal,
    voltage,
)

RULES: tuple[Rule, ...] = (
    *axes.RULES,
    *motion.RULES,
    *timing.RULES,
    *coils.RULES,
    *windings.RULES,
    *needs.RULES,
    *occupancy.RULES,
    *loose_plugs.RULES,
    *outputs_joined.RULES,
    *belonging.RULES,
    *channels.RULES,
    *plugs.RULES,
    *reversing.RULES,
    *contact_commons.RULES,
    *shared_pins.RULES,
    *alternates.RULES,
    *levels.RULES,
    *loops.RULES,
    *inputs.RULES,
    *contacts.RULES,
    *unchanging.RULES,
    *supply_on_pins.RULES,
    *switching.RULES,
    *semiconductors.RULES,
    *differential.RULES,
    *heaters.RULES,
    *buses.RULES,
    *shorts.RULES,
    *mains_lines.RULES,
    *voltage.RULES,
    *polarity.RULES,
    *drops.RULES,
    *loading.RULES,
    *drivers.RULES,
    *fuses.RULES,
    *earth.RULES,
    *commons.RULES,
    *thermal.RULES,
    *chains.RULES,
    *demands.RULES,
    *circuits.RULES,
    *stopped_axes.RULES,
    *stored_energy.RULES,
    *labels.RULES,
    *cables.RULES,
    *separation.RULES,
    *routes.RULES,
)
RULE_BY_ID = {rule.id: rule for rule in RULES}
if len(RULE_BY_ID) != len(RULES):
    ids = [rule.id for rule in RULES]
    raise ValueError(f"rule ids twice: {sorted({name for name in ids if ids.count(name) > 1})}")
