"""Marks: what something was when it was ticked or printed, short enough to keep by the hundred."""

import hashlib

import msgspec

# Eight hexadecimal figures: two of four thousand million different contents share one.
MARK_FIGURES = 8


def mark_of(content: object) -> str:
    """The first figures of the SHA-256 of a value as JSON: another content, another mark."""
    return hashlib.sha256(msgspec.json.encode(content)).hexdigest()[:MARK_FIGURES]
