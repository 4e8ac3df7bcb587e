"""What each supplier is to send, as a list that a shop's upload page takes: number and quantity."""

from typing import NamedTuple

from vervain.exports.tables import Table
from vervain.harness.shopping import packs_of, shopping_list
from vervain.model.machine import Machine
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Cell

COLUMNS = (("Number", 20), ("Quantity", 9))


class OrderList(NamedTuple):
    """The list of one supplier ("" where none was named), and the items of it that have no number
    to be ordered by.
    """

    supplier: str
    table: Table
    without_number: tuple[str, ...]


def order_lists(machine: Machine, queries: Queries) -> tuple[OrderList, ...]:
    """A list for each supplier of something that is to get, by name; items of which nothing is
    said are in none. The quantity is in packs where an item comes in packs.
    """
    rows: dict[str, list[tuple[Cell, ...]]] = {}
    without: dict[str, list[str]] = {}
    for item in shopping_list(queries):
        bought = machine.purchases.get(item.name)
        if bought is None or not item.to_get or not (bought.supplier or bought.number):
            continue
        rows.setdefault(bought.supplier, [])
        if bought.number:
            rows[bought.supplier].append((bought.number, packs_of(item, bought.pack)))
        else:
            without.setdefault(bought.supplier, []).append(item.name)
    return tuple(
        OrderList(
            supplier, Table(title="Order", columns=COLUMNS, rows=_summed(rows[supplier])),
            tuple(without.get(supplier, ())),
        )
        for supplier in sorted(rows, key=str.casefold)
    )  # fmt: skip


def _summed(rows: list[tuple[Cell, ...]]) -> tuple[tuple[Cell, ...], ...]:
    """Rows with one number together: two items may be the same thing to the shop."""
    counts: dict[str, int] = {}
    for number, quantity in rows:
        assert isinstance(quantity, int)
        counts[str(number)] = counts.get(str(number), 0) + quantity
    return tuple(counts.items())
