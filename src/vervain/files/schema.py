"""The published JSON Schema of the machine file, made from the types."""

import json
from typing import Any

import msgspec

from vervain.model.machine import FORMAT, VERSION, Machine


def machine_schema() -> dict[str, Any]:
    """JSON Schema (2020-12) of a machine file."""
    schema = msgspec.json.schema(Machine)
    definition = schema["$defs"]["Machine"]
    definition["properties"] = {
        "format": {"const": FORMAT},
        "version": {"const": VERSION},
        **definition["properties"],
    }
    definition["required"] = ["format", "version", *definition["required"]]
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Vervain machine file",
        **schema,
    }


def schema_text() -> str:
    """The schema as it stands in docs/."""
    return json.dumps(machine_schema(), indent=1, ensure_ascii=False) + "\n"
