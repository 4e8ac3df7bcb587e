"""Vervain: wiring of self-built machines, from the part to the labelled harness."""

__version__ = "0.1.0"
