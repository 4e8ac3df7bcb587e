"""Vervain: wiring of self-built machines, from the part to the labelled harness."""

import logging

__version__ = "0.1.0"
# Who uses the core without the program decides what becomes of its log.
logging.getLogger("vervain").addHandler(logging.NullHandler())
