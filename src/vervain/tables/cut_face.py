"""The face Cut list: what to get, with the spare, as it is cut, and what it costs."""

from collections.abc import Mapping

from vervain.harness.shopping import pieces_by_part, shopping_list
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
    Column("on_hand_m", "On hand m", 9, is_ours=True),
    Column("sold_in_m", "Sold in m", 9, is_ours=True),
    Column("how", "How", 38),
)


def cut_face(queries: Queries, prices: Mapping[str, float]) -> Face:
    """The face; prices are by item, and where there is none there is no cost."""
    rows = []
    on_hand, sold_in = _stocks(queries)
    for item in shopping_list(queries):
        price = prices.get(item.name)
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
                    round(price * item.to_get, 2) if price is not None else None,
                    on_hand.get(item.name, ""),
                    sold_in.get(item.name, ""),
                    item.detail,
                ),
            )
        )
    return Face("Cut list", COLUMNS, tuple(rows), len(rows))


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
    costs = [face.cell(row, "cost") for row in face.rows]
    known = [cost for cost in costs if isinstance(cost, int | float)]
    return round(sum(known), 2), len(costs) - len(known)
