"""The document: an immutable machine, its look-ups and its edits."""
