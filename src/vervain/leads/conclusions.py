"""What the coil finder found, in words for the builder."""

from vervain.leads.datasheet import Datasheet
from vervain.leads.hypotheses import KIND_WORDS
from vervain.leads.identification import Finding
from vervain.leads.resistance import differs
from vervain.model.measurements import ALL_LEADS, BODY, Meter

# A fault that is likelier than this is mentioned where nothing is certain.
MENTIONED = 0.01


def hypotheses_in_words(finding: Finding) -> list[tuple[str, float]]:
    """The surviving explanations as (words, probability), the likeliest first."""
    kinds = {belief.network.kind for belief in finding.beliefs if belief.probability > 0.001}
    rows: dict[str, float] = {}
    for belief in finding.beliefs:
        network = belief.network
        if belief.probability <= 0.001:
            continue
        coils = ", ".join("–".join(finding.leads[n] for n in group) for group in network.groups)
        fault = f"; {network.fault}" if network.fault else ""
        kind = f"{KIND_WORDS[network.kind]}: " if len(kinds) > 1 else ""
        words = f"{kind}{coils}{fault}"
        rows[words] = rows.get(words, 0.0) + belief.probability
    if finding.unknown > 0.01:
        rows["no kind that Vervain knows"] = finding.unknown
    return sorted(rows.items(), key=lambda row: -row[1])


def conclusions(
    finding: Finding, datasheet: Datasheet | None, meter: Meter | None = None
) -> list[str]:
    """What the readings mean for the builder, a sentence each."""
    said = []
    if finding.to_body:
        leads = " and ".join(finding.to_body)
        verb = "conduct" if ALL_LEADS in finding.to_body or len(finding.to_body) > 1 else "conducts"
        said.append(f"{leads[0].upper()}{leads[1:]} {verb} to the body: do not power this motor.")
    if finding.fault is not None:
        return [*said, *_of_a_fault(finding)]
    verdict = finding.verdict
    if verdict is None:
        return [*said, *_undecided(finding)]
    coils = ", ".join("–".join(group) for group in finding.groups())
    said.append(f"{KIND_WORDS[verdict.kind].capitalize()}: {coils}.")
    if datasheet is not None and datasheet.kind != verdict.kind:
        said.append(
            f"The part says {KIND_WORDS[datasheet.kind]}. Either this is another motor, or its "
            "coils are in touch."
        )
    said += _resistance(finding, datasheet, meter or Meter())
    if finding.next_pair is not None:
        owed = "to the body" if BODY in finding.next_pair else "of each winding and between coils"
        said.append(f"Read on: {owed}, before it counts as sound.")
    if verdict.kind == "four windings":
        said.append(
            "Which two windings share a phase, and their polarity, cannot be told by ohms: join "
            "two in series, turn the shaft, read AC volts: twice one winding, same phase, aiding; "
            "about none, same phase, opposing; 1.4 times, different phases."
        )
    if verdict.kind == "common":
        said.append("Which two ends form a phase, ohms cannot tell.")
    return said


def _of_a_fault(finding: Finding) -> list[str]:
    said = [f"A fault, {finding.fault}: the motor cannot be used like this."]
    if finding.verdict is not None:
        coils = ", ".join("–".join(group) for group in finding.groups())
        said.append(f"Its coils seem to be {coils}.")
    else:
        said.append("Which leads it lies between, a meter does not tell alone.")
    return said


def _undecided(finding: Finding) -> list[str]:
    if finding.next_pair is not None and BODY not in finding.next_pair:
        more = " The readings fit no kind of motor so far." if finding.unknown > 0.5 else ""
        return [f"Not certain yet: read on.{more}"]
    if finding.unknown > 0.5:
        return ["The readings fit no kind of motor that Vervain knows, sound or faulty."]
    likeliest = max(finding.faults, key=lambda fault: finding.faults[fault])
    if finding.faults[likeliest] > MENTIONED:
        return [
            f"Not certain: {likeliest}, or the meter is worse than it is said to be. Say its error "
            "on the right, or read with a better one.",
        ]
    return ["The readings leave it open. Read any pair again: pick it on the circle."]


def _resistance(finding: Finding, datasheet: Datasheet | None, meter: Meter) -> list[str]:
    verdict, ohms = finding.verdict, finding.winding_ohm
    if verdict is None or ohms is None:
        return []
    if verdict.kind == "three-phase":
        # Between two of three terminals: R_tt = 2 R in star, 2/3 R in delta.
        said = [
            f"Between two leads {ohms:.3g} Ω at 20 °C: a winding of {ohms / 2:.3g} Ω if it is "
            f"a star, {ohms * 1.5:.3g} Ω if a delta, which three leads cannot tell."
        ]
    else:
        said = [f"One winding has {ohms:.3g} Ω at 20 °C."]
    if datasheet is not None and datasheet.winding_ohm:
        expected = datasheet.winding_ohm
        off = f"is {ohms / expected - 1:+.0%} off"
        agrees = off if differs(ohms, expected, meter) else "agrees with"
        said.append(f"That {agrees} the datasheet's {expected:.3g} Ω.")
    return said
