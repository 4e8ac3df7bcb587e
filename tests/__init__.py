"""Tests; `tools` is on the path because the demos and the small machines share one builder."""

import logging
import os
import sys
from pathlib import Path

from hypothesis import settings

from vervain.rules import causes

ROOT = Path(__file__).resolve().parent.parent
# What is logged is not printed among the results.
logging.getLogger("vervain").addHandler(logging.NullHandler())
sys.path.insert(0, str(ROOT / "tools"))

# Where a build is judged the drawn examples are the same each time; elsewhere they differ.
# How long an example takes says more of the build machine than of what is tried.
settings.register_profile("patient", deadline=None)
settings.register_profile("the same each time", derandomize=True, deadline=None)
settings.load_profile("patient")
if os.environ.get("CI"):
    settings.load_profile("the same each time")
# Most tests look at findings, not at what is behind them; those that do take their time.
causes.BUDGET_S = 0.3
