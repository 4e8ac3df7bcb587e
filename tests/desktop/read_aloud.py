"""Run under Xvfb on a bus of its own: the demo's window, and beside it a real AT-SPI client.
Prints, in JSON, what the client is told of what has the keyboard, on each stage, key by key.
"""

import json
import os
import subprocess
import sys
import threading
from pathlib import Path

from PyQt6.QtCore import QEventLoop, QMetaObject, Qt
from PyQt6.QtTest import QTest

from vervain.desktop.app import make_application
from vervain.desktop.pictures import settle
from vervain.desktop.settings import Settings
from vervain.desktop.window import Window
from vervain.files.demos import open_demo
from vervain.rules.finding import STAGES

CLIENT = Path(__file__).with_name("accessible_tree.py")
SYSTEM_PYTHON = "/usr/bin/python3"
BUS_LAUNCHER = "/usr/libexec/at-spi-bus-launcher"
KEYS = (Qt.Key.Key_Down,)


class Client:
    """The client in its own process; the window's events go on while it asks."""

    def __init__(self) -> None:
        self.process = subprocess.Popen(
            [SYSTEM_PYTHON, str(CLIENT)], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )

    def tree(self) -> list[dict]:
        """What is shown now, as the client is told."""
        answers: list[str] = []
        loop = QEventLoop()

        def ask() -> None:
            self.process.stdin.write("\n")
            self.process.stdin.flush()
            answers.append(self.process.stdout.readline())
            QMetaObject.invokeMethod(loop, "quit", Qt.ConnectionType.QueuedConnection)

        threading.Thread(target=ask, daemon=True).start()
        loop.exec()
        return json.loads(answers[0])


def told(client: Client, window: Window) -> dict:
    """What the client is told of the whole, and of what has the keyboard."""
    settle(window)
    tree = client.tree()
    nameless = [
        node["role"] for node in tree
        if node["takes_keys"] and node["role"] != "table cell" and not node["name"]
    ]  # fmt: skip
    return {"nameless": nameless, "focused": [n for n in tree if n["has_keys"] and n["name"]]}


def main() -> None:
    launcher = subprocess.Popen([BUS_LAUNCHER, "--launch-immediately"], stdout=subprocess.DEVNULL)
    application = make_application()
    window = Window(open_demo("glazing-gantry-as-found"), None, Settings(Path(sys.argv[1])))
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    settle(window)
    client = Client()
    found: dict[str, list[dict]] = {}
    for area in (*STAGES, "Tray", "Rail"):
        if area in STAGES:
            window.show_stage(area)
        else:
            (window.tray.list if area == "Tray" else window.head.rail).setFocus()
        settle(window)
        found[area] = [told(client, window)]
        for key in KEYS if area != "Rail" else ():
            QTest.keyClick(application.focusWidget(), key)
            found[area].append(told(client, window))
    print(json.dumps(found))
    sys.stdout.flush()
    client.process.kill()
    launcher.terminate()
    launcher.wait()
    os._exit(0)


if __name__ == "__main__":
    main()
