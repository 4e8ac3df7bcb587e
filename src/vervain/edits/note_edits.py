"""Edits of what the builder writes down: label templates, prices, findings that may stay."""

from typing import Protocol

from msgspec.structs import replace

from vervain.model.machine import (
    Acceptance,
    LabelTemplates,
    Machine,
    Purchase,
)
from vervain.model.problem import Problem
from vervain.model.subject import Subject


def set_label_templates(machine: Machine, templates: LabelTemplates) -> Machine:
    """Sets the label templates; their form is checked by `vervain.harness.label_templates`."""
    return replace(machine, label_templates=templates)


def set_prices(
    machine: Machine, prices: dict[str, float | None], currency: str | None = None
) -> Machine:
    """Sets what items of the cut list cost, for a metre or a piece; None takes a price away. A
    currency is that of every price from then on.
    """
    kept = {name: price for name, price in machine.prices.items() if name not in prices}
    added = {name: price for name, price in prices.items() if price is not None}
    return replace(
        machine, prices=dict(sorted((kept | added).items())),
        currency=machine.currency if currency is None else currency,
    )  # fmt: skip


def set_purchases(machine: Machine, purchases: dict[str, Purchase]) -> Machine:
    """Sets how items of the cut list are bought; one of which nothing is said any more goes."""
    found = machine.purchases | purchases
    said = {item: found[item] for item in sorted(found) if found[item] != Purchase()}
    return replace(machine, purchases=said)


class Acceptable(Protocol):
    """What tells one finding from another."""

    @property
    def rule(self) -> str: ...
    @property
    def about(self) -> Subject: ...
    @property
    def at(self) -> tuple[Subject, ...]: ...
    @property
    def detail(self) -> str: ...
    @property
    def key(self) -> str: ...


def accept_finding(machine: Machine, finding: Acceptable, reason: str, day: str) -> Machine:
    """Keeps a finding as it is, with the reason and the day. Raises `Problem`."""
    cleaned = " ".join(reason.split())
    if not cleaned:
        raise Problem("A reason is needed to accept a finding.", remedy="Say why it may stay.")
    kept = tuple(item for item in machine.accepted if item.key != finding.key)
    accepted = Acceptance(
        rule=finding.rule, about=finding.about, at=finding.at, detail=finding.detail,
        reason=cleaned[:80], day=day,
    )  # fmt: skip
    return replace(machine, accepted=(*kept, accepted))


def reopen_finding(machine: Machine, key: str) -> Machine:
    """Takes the acceptance of the finding with this key back."""
    return replace(machine, accepted=tuple(item for item in machine.accepted if item.key != key))
