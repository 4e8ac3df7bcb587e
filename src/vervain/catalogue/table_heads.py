"""What the columns of a pin table are called."""

HEADERS: dict[str, str] = {
    "pin": "pin", "no": "pin", "nr": "pin", "number": "pin", "contact": "pin", "terminal": "pin",
    "position": "pin", "#": "pin", "core": "pin", "lead": "colour",
    "function": "function", "signal": "function", "name": "function", "designation": "function",
    "description": "note", "assignment": "function", "label": "function", "marking": "function",
    "symbol": "function",
    "colour": "colour", "color": "colour", "wire": "colour", "wire colour": "colour",
    "wire color": "colour", "insulation": "colour",
    "port": "port", "connector": "port", "plug": "port", "socket": "port",
    "note": "note", "remark": "note", "comment": "note",
}  # fmt: skip


def is_head(cells: tuple[str, ...]) -> bool:
    """Whether the cells of a row are the names of columns."""
    known = [cell.casefold().strip(" .:") in HEADERS for cell in cells if cell.strip()]
    return len(known) > 1 and sum(known) * 2 >= len(known)
