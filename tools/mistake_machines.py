"""The machines that the mistake table is made of: all of them right."""

from collections.abc import Callable
from functools import partial

from vervain.files.demos import open_demo
from vervain.model.machine import Machine

MACHINES: dict[str, Callable[[], Machine]] = {
    "gantry": partial(open_demo, "glazing-gantry-as-planned"),
    "arm": partial(open_demo, "seedling-arm-as-planned"),
    "printer": partial(open_demo, "clay-printer-as-planned"),
}
