# SPDX-License-Identifier: GPL-3.0-or-later
"""What a screen reader finds: the tree of a program over the bus of assistive technology (AT-SPI).

Run as a program of its own within a session bus: it starts that bus and the program named behind
it, under Xvfb, and writes what the tree says of its choices as JSON.

    dbus-run-session -- python tests/atspi.py hypsos --demo"""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

LAUNCHER = Path("/usr/libexec/at-spi-bus-launcher")
ACCESSIBLE = "org.a11y.atspi.Accessible"
ROOT = ("org.a11y.atspi.Registry", "/org/a11y/atspi/accessible/root")
LABELLED_BY = 2
PATIENT_S = 60.0
Node = tuple[str, str]


class Bus:
    """The bus of assistive technology."""

    def __init__(self) -> None:
        from PyQt6.QtDBus import QDBusConnection, QDBusInterface

        session = QDBusConnection.sessionBus()
        asked = QDBusInterface("org.a11y.Bus", "/org/a11y/bus", "org.a11y.Bus", session)
        address = asked.call("GetAddress").arguments()[0]
        self._bus = QDBusConnection.connectToBus(address, "heard")

    def _call(self, node: Node, interface: str, method: str, *arguments: str) -> Any:
        from PyQt6.QtDBus import QDBusMessage

        message = QDBusMessage.createMethodCall(*node, interface, method)
        message.setArguments(list(arguments))
        reply = self._bus.call(message, timeout=5000).arguments()
        return reply[0] if reply else None

    def name(self, node: Node) -> str:
        """What a reader calls it."""
        got = self._call(node, "org.freedesktop.DBus.Properties", "Get", ACCESSIBLE, "Name")
        return str(got)

    def role(self, node: Node) -> str:
        """What sort of thing it is."""
        return str(self._call(node, ACCESSIBLE, "GetRoleName"))

    def children(self, node: Node) -> list[Node]:
        """What lies within it."""
        found = self._call(node, ACCESSIBLE, "GetChildren")
        return list(map(_node, found)) if isinstance(found, list) else []

    def labels(self, node: Node) -> list[str]:
        """The names of the labels that belong to it."""
        relations = self._call(node, ACCESSIBLE, "GetRelationSet") or []
        labelled = [targets for kind, targets in relations if kind == LABELLED_BY]
        return [self.name(_node(target)) for targets in labelled for target in targets]

    def everything(self, node: Node) -> Iterator[Node]:
        """It, and all that lies within it."""
        yield node
        for child in self.children(node):
            yield from self.everything(child)


def _node(pair: Any) -> Node:
    place = pair[1]
    return str(pair[0]), place if isinstance(place, str) else place.path()


def main(command: list[str]) -> None:
    """Start the program and write what is heard of its choices."""
    from PyQt6.QtCore import QCoreApplication

    _application = QCoreApplication([])
    environment = os.environ | {"QT_LINUX_ACCESSIBILITY_ALWAYS_ON": "1"}
    launcher = subprocess.Popen([LAUNCHER, "--launch-immediately"], stdout=subprocess.DEVNULL)
    # with its display in a session of its own, so that both end together
    program = subprocess.Popen(
        ["xvfb-run", "-a", *command], env=environment, start_new_session=True
    )
    try:
        said: list[tuple[str, list[str]]] = []
        until = time.monotonic() + PATIENT_S
        while len(said) < 3 and time.monotonic() < until:
            time.sleep(0.5)
            with suppress(IndexError):
                bus = Bus()
                whole = [n for top in bus.children(ROOT) for n in bus.everything(top)]
                boxes = [n for n in whole if bus.role(n) == "combo box"]
                said = [(bus.name(box), bus.labels(box)) for box in boxes]
        sys.stdout.write(json.dumps(said))
    finally:
        os.killpg(program.pid, signal.SIGTERM)
        launcher.terminate()


if __name__ == "__main__":
    main(sys.argv[1:])
