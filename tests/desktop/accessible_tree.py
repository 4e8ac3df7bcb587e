"""Run by the system's own Python, which has the AT-SPI library: what a screen reader finds of the
window. For each line of standard input it prints what is shown, in JSON, a line for a line.
"""

import json
import sys
import time

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi  # noqa: E402

PATIENCE_S, PAUSE_S = 30, 0.05


def application():
    """Vervain among the applications of the desktop."""
    limit = time.monotonic() + PATIENCE_S
    while time.monotonic() < limit:
        desktop = Atspi.get_desktop(0)
        for number in range(desktop.get_child_count()):
            found = desktop.get_child_at_index(number)
            if found is not None and found.get_name() == "Vervain":
                return found
        time.sleep(PAUSE_S)
    raise SystemExit("No application Vervain on the accessibility bus.")


def shown(node, found):
    """What is shown below a node: role, name, description, and whether it takes or has the keys."""
    for number in range(node.get_child_count()):
        child = node.get_child_at_index(number)
        if child is None:
            continue
        states = child.get_state_set()
        if not states.contains(Atspi.StateType.SHOWING):
            continue
        found.append(
            {
                "role": child.get_role_name(),
                "name": child.get_name(),
                "description": child.get_description(),
                "takes_keys": states.contains(Atspi.StateType.FOCUSABLE),
                "has_keys": states.contains(Atspi.StateType.FOCUSED),
            }
        )
        shown(child, found)
    return found


def main():
    Atspi.init()
    root = application()
    for _ in sys.stdin:
        root.clear_cache()
        print(json.dumps(shown(root, [])), flush=True)


if __name__ == "__main__":
    main()
