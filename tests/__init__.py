"""Tests; `tools` is on the path because the demos and the small machines share one builder."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "tools"))
