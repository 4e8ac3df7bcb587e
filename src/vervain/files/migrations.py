"""Older machine files, brought to the form of today before they are checked."""

import re
from typing import Any

# Findings whose family was not that of their stage got the family's name in version 2.
RENAMED_RULES = {
    "signals.direction-time": "machine.direction-time",
    "signals.step-edge": "machine.step-edge",
    "signals.edge-spacing": "machine.edge-spacing",
    "signals.no-common": "supply.no-common",
    "signals.earth-joint": "supply.earth-joint",
    "signals.shield": "harness.shield",
    "signals.shield-as-earth": "harness.shield-as-earth",
    "signals.mains-beside": "harness.mains-beside",
    "signals.motor-beside": "harness.motor-beside",
    "signals.pair-split": "harness.pair-split",
    "signals.beside-motor": "harness.beside-motor",
    "signals.motor-shield": "harness.motor-shield",
}
DEVICE = re.compile(r"^([A-Z]{1,2}[0-9]{1,4})(?: ([^:]+))?(?::(.*))?$")


def migrated(body: dict[str, Any], version: int) -> dict[str, Any]:
    """The values of a machine file of an older version as those of today's; what has not the shape
    of its version is left for the check to refuse.
    """
    if version < 2 and isinstance(body.get("accepted"), list):
        devices = body.get("devices")
        names = {
            device.get("designator")
            for device in (devices if isinstance(devices, list) else ())
            if isinstance(device, dict)
        }
        body = {**body, "accepted": [_accepted(item, names) for item in body["accepted"]]}
    return body


def _accepted(item: Any, devices: set[Any]) -> Any:
    """Version 1 kept "rule:subject:detail" as one text; version 2 keeps what it names."""
    if not isinstance(item, dict) or not isinstance(item.get("finding"), str):
        return item
    from vervain.rules.registry import RULE_BY_ID

    rest = {key: value for key, value in item.items() if key != "finding"}
    rule, *parts = item["finding"].split(":")
    rule = RENAMED_RULES.get(rule, rule)
    made: dict[str, Any] = {"rule": rule, **rest}
    known = RULE_BY_ID.get(rule)
    if known is not None and known.scope != "machine" and parts:
        made["about"] = {known.scope: parts.pop(0)}
    detail = ":".join(parts)
    match = DEVICE.match(detail)
    if match and match[1] in devices:
        at = {"device": match[1]} | ({"port": match[2]} if match[2] else {})
        made["at"], detail = [at], match[3] or ""
    elif rule == "supply.drop" and detail:
        made["at"], detail = [{"cable": detail}], ""
    if detail:
        made["detail"] = detail
    return made
