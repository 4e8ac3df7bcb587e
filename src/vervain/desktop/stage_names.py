"""The stages that there are, and where a finding can be put right among them."""

from vervain.rules.finding import Finding, Stage

STAGES: tuple[Stage, ...] = ("Machine", "Leads", "Ports", "Supply", "Stops", "Harness")


def home_stage(finding: Finding) -> Stage:
    """The stage, among those there are, on which a finding can be put right."""
    return finding.stage if finding.stage in STAGES else "Ports"
