"""Motors on a bench, sound and broken, and a meter that is a little wrong: reckoned by nodes here,
apart from what the finder reckons with.
"""

import math
import random
from dataclasses import dataclass, field

import numpy as np
from msgspec.structs import replace

from vervain.leads.datasheet import Datasheet
from vervain.leads.hypotheses import resistances, sound_networks
from vervain.leads.identification import Finding, find
from vervain.model.measurements import ALL_LEADS, BODY, Meter, Reading

NAMES = ("RD", "BK", "YE", "BU", "WH", "GN", "OG", "BN")
KINDS = (
    (3, "three-phase"), (4, "two coils"), (4, "star with neutral"), (5, "common"),
    (6, "two tapped coils"), (6, "three windings"), (8, "four windings"),
)  # fmt: skip
# The coils of each kind: chains of windings from lead to lead; "*" is a star point inside.
COILS = {
    "three-phase": (("0*", "1*", "2*"),),
    "two coils": (("01",), ("23",)),
    "star with neutral": (("01", "02", "03"),),
    "common": (("01", "02", "03", "04"),),
    "two tapped coils": (("01", "02"), ("34", "35")),
    "three windings": (("01",), ("23",), ("45",)),
    "four windings": (("01",), ("23",), ("45",), ("67",)),
}
FAULTS = ("sound", "open", "bridged", "ends touch", "body")


@dataclass
class BenchMotor:
    """A motor whose leads were mixed up, with one fault or none; `wires` have node, node and
    ohms, `mistypes` by how much a reading is typed wrong.
    """

    kind: str
    leads: tuple[str, ...]
    wires: list[tuple[str, str, float]]
    fault: str
    noise: float
    random: random.Random
    on_body: set[str] = field(default_factory=set)
    mistypes: dict[int, float] = field(default_factory=dict)

    def ohms(self, a: str, b: str) -> float:
        """What is between two leads, infinite where nothing is: the volts that 1 A takes."""
        nodes = sorted({node for wire in self.wires for node in wire[:2]} | {a, b})
        joined = {a}
        for _ in nodes:
            joined |= {y for x, y, _ in self.wires if x in joined}
            joined |= {x for x, y, _ in self.wires if y in joined}
        if b not in joined:
            return math.inf
        free = sorted(joined - {b})
        matrix = np.zeros((len(free), len(free)))
        for x, y, ohms in self.wires:
            for one, other in ((x, y), (y, x)):
                if one in free:
                    matrix[free.index(one), free.index(one)] += 1 / ohms
                    if other in free:
                        matrix[free.index(one), free.index(other)] -= 1 / ohms
        current = np.zeros(len(free))
        current[free.index(a)] = 1.0
        return float(np.linalg.solve(matrix, current)[free.index(a)])

    def read(self, a: str, b: str, meter: Meter) -> Reading:
        """What the meter shows, with its own leads and its error."""
        if BODY in (a, b):
            other = a if b == BODY else b
            touches = bool(self.on_body) and (
                other == ALL_LEADS or any(math.isfinite(self.ohms(other, x)) for x in self.on_body)
            )
            saw = "ohms" if touches else "open"
            return Reading(a=a, b=b, saw=saw, resistance_ohm=1.0 if touches else None)
        ohms = self.ohms(a, b)
        if math.isinf(ohms):
            return Reading(a=a, b=b, saw="open")
        # No reading is off by more than twice what the meter is said to err: at more than that
        # the finder says, rightly, that it is not certain.
        off = max(-2.0, min(2.0, self.random.gauss(0, 1))) * self.noise
        shown = ohms * (1 + off) + meter.leads_ohm
        return Reading(a=a, b=b, saw="ohms", resistance_ohm=max(0.0, shown))

    def follow(
        self, meter: Meter, datasheet: Datasheet | None = None, longest: int = 60
    ) -> tuple[Finding, list[Reading]]:
        """Does what the finder asks for until it asks no more."""
        readings: list[Reading] = []
        sheet = datasheet or Datasheet(kind=self.kind)
        for _ in range(longest):
            found = find(self.leads, tuple(readings), sheet, meter)
            if found.next_pair is None:
                break
            read = self.read(*found.next_pair, meter)
            factor = self.mistypes.get(len(readings))
            if factor is not None and read.resistance_ohm is not None:
                read = replace(read, resistance_ohm=read.resistance_ohm * factor)
            readings.append(read)
        return found, readings

    def is_told_right(self, found: Finding) -> bool:
        """Whether the verdict is this motor's own sound network."""
        if found.verdict is None or found.verdict.fault:
            return False
        told = resistances([found.verdict], len(self.leads))[0]
        for a, one in enumerate(self.leads):
            for b, other in enumerate(self.leads[:a]):
                if math.isinf(self.ohms(one, other)) != np.isinf(told[a, b]):
                    return False
        return found.verdict.kind == self.kind

    def can_be_told(self, meter: Meter, sigmas: float = 6.0) -> bool:
        """Whether some reading of this motor is further than so many standard deviations from what
        every sound motor of its kind would show, whatever its windings have.
        """
        count = len(self.leads)
        seen = np.array(
            [[self.ohms(a, b) if a != b else 0.0 for b in self.leads] for a in self.leads]
        )
        upper = np.triu_indices(count, 1)
        for network in sound_networks(count):
            if network.kind != self.kind:
                continue
            multiple = resistances([network], count)[0][upper]
            shown = seen[upper]
            if not np.array_equal(np.isfinite(multiple), np.isfinite(shown)):
                continue
            m, s = multiple[np.isfinite(multiple)], shown[np.isfinite(shown)]
            wide = np.hypot(np.hypot(meter.error_fraction, 0.02) * m, 1e-9)
            ohms = float((m * s / wide**2).sum() / (m**2 / wide**2).sum())
            off = np.abs(s - m * ohms) / np.hypot(wide * ohms, meter.error_ohm)
            if off.max() < sigmas:
                return False
        return True


def motor(count: int, kind: str, fault: str, noise: float, chance: random.Random) -> BenchMotor:
    """A motor of a kind: windings of 0.4 to 60 ohm, alike within 2 %, its leads mixed up."""
    leads = list(NAMES[:count])
    mixed = leads[:]
    chance.shuffle(mixed)
    ohm = math.exp(chance.uniform(math.log(0.4), math.log(60)))
    wires: list[tuple[str, str, float]] = []
    by_coil: list[list[int]] = []
    for coil in COILS[kind]:
        by_coil.append([])
        for winding in coil:
            a, b = (mixed[int(end)] if end != "*" else "*" for end in winding)
            by_coil[-1].append(len(wires))
            wires.append((a, b, ohm * (1 + chance.uniform(-0.02, 0.02))))
    made = BenchMotor(kind, tuple(leads), wires, fault, noise, chance)
    if fault == "open":
        del wires[chance.randrange(len(wires))]
    elif fault == "bridged":
        _bridge(made, by_coil, ohm)
    elif fault == "ends touch":
        one, other = chance.sample(leads, 2)
        wires.append((one, other, 0.01))
    elif fault == "body":
        made.on_body = {chance.choice(leads)}
    return made


def _bridge(made: BenchMotor, by_coil: list[list[int]], ohm: float) -> None:
    """Bridges two windings anywhere along them: of two coils where there are two."""
    chance = made.random
    if len(by_coil) > 1:
        numbers = [chance.choice(coil) for coil in chance.sample(by_coil, 2)]
    else:
        numbers = chance.sample(by_coil[0], 2)
    split = {}
    for name, number in zip("xy", numbers, strict=True):
        a, b, ohms = made.wires[number]
        at = chance.uniform(0.1, 0.9)
        split[number] = [(a, name, ohms * at), (name, b, ohms * (1 - at))]
    wires = [w for n, w in enumerate(made.wires) if n not in split]
    wires += [wire for pair in split.values() for wire in pair]
    wires.append(("x", "y", chance.choice((0.01, 0.3, ohm))))
    made.wires[:] = wires
