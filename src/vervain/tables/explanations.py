"""What a kind of part or port is, in a sentence: data/tables/explanations.toml."""

import tomllib
from typing import get_args

from vervain.data import data_text, table_reader
from vervain.model.part import PartKind, PortKind


@table_reader
def explanations() -> dict[str, dict[str, str]]:
    """The sentences, under "parts" and "ports" by kind. Raises `ValueError` where the table names a
    kind that there is not, or is no table of sentences.
    """
    read = tomllib.loads(data_text("tables/explanations.toml"))
    for group, kinds in (("parts", get_args(PartKind)), ("ports", get_args(PortKind))):
        rows = read.get(group)
        if not isinstance(rows, dict) or not all(isinstance(row, str) for row in rows.values()):
            raise ValueError(f"{group} needs a sentence for each kind")
        for kind in rows:
            if kind not in kinds:
                raise ValueError(f"“{kind}” is no kind of {group}")
    return read


def part_words(kind: str) -> str:
    """What a kind of part is; "" where the table does not say."""
    return explanations()["parts"].get(kind, "")


def port_words(kind: str) -> str:
    """What a kind of port is; "" where the table does not say."""
    return explanations()["ports"].get(kind, "")
