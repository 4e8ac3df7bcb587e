"""The face Cut list: what to get, with the spare, as it is cut, and what it costs."""

from vervain.harness.shopping import packs_of, pieces_by_part, shopping_list
from vervain.model.machine import Machine, Purchase
from vervain.queries.machine_queries import Queries
from vervain.tables.table_view import Column, Face, TableRow

COLUMNS = (
    Column("what", "What", 12),
    Column("item", "Item", 36),
    Column("needed", "Needed", 7, is_right=True),
    Column("to_get", "To get", 7, is_right=True),
    Column("unit", "Unit", 5),
    Column("price", "Price", 7, is_right=True, is_ours=True),
    Column("cost", "Cost", 8, is_right=True),
    Column("packs", "Packs", 8, is_shown=False),
    Column("pack", "In a pack", 7, is_right=True, is_shown=False, is_ours=True),
    Column("supplier", "Supplier", 12, is_shown=False, is_ours=True),
    Column("number", "Number", 12, is_shown=False, is_ours=True),
    Column("makers_number", "Maker's number", 12, is_shown=False, is_ours=True),
    Column("on_hand_m", "On hand m", 9, is_ours=True),
    Column("sold_in_m", "Sold in m", 9, is_ours=True),
    Column("how", "How", 38),
)


def cut_face(queries: Queries, machine: Machine) -> Face:
    """The face; an item without a price has no cost, and one that comes in packs costs whole
    ones.
    """
    prices, purchases = machine.prices, machine.purchases
    rows = []
    on_hand, sold_in = _stocks(queries)
    for item in shopping_list(queries):
        price, bought = prices.get(item.name), purchases.get(item.name, Purchase())
        packs = packs_of(item, bought.pack)
        in_all = packs * bought.pack if bought.pack else item.to_get
        rows.append(
            TableRow(
                key=(item.section, item.name),
                cells=(
                    item.section,
                    item.name,
                    round(item.needed, 2),
                    round(item.to_get, 2),
                    item.unit,
                    price,
                    round(price * in_all, 2) if price is not None else None,
                    f"{packs} × {bought.pack:g}" if bought.pack and item.to_get else "",
                    bought.pack,
                    bought.supplier,
                    bought.number,
                    bought.makers_number,
                    on_hand.get(item.name, ""),
                    sold_in.get(item.name, ""),
                    item.detail,
                ),
            )
        )
    return Face("Cut list", _in_currency(machine.currency), tuple(rows), len(rows))


def _in_currency(currency: str) -> tuple[Column, ...]:
    """The columns, those of money with the currency in their titles."""
    return tuple(
        column._replace(title=f"{column.title} {currency}".strip())
        if column.key in ("price", "cost") else column
        for column in COLUMNS
    )  # fmt: skip


def _stocks(queries: Queries) -> tuple[dict[str, str], dict[str, str]]:
    """By the title of each cable part: the lengths that are there, and those that it is sold in."""
    on_hand: dict[str, str] = {}
    sold_in: dict[str, str] = {}
    for part_id in pieces_by_part(queries):
        part = queries.cable_part(part_id)
        if part is not None and not part.ready_made:
            reels = [reel.length_m for reel in queries.reels() if reel.part == part_id]
            on_hand[part.title] = ", ".join(f"{length:g}" for length in reels)
            sold_in[part.title] = ", ".join(f"{length:g}" for length in part.stock_m)
    return on_hand, sold_in


def total_cost(face: Face) -> tuple[float, int]:
    """The sum of the costs that are known, and how many items have no price."""
    costs = [face.cell(row, "cost") for row in face.rows if face.cell(row, "to_get")]
    known = [cost for cost in costs if isinstance(cost, int | float)]
    return round(sum(known), 2), len(costs) - len(known)
