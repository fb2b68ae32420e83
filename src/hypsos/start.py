# SPDX-License-Identifier: GPL-3.0-or-later
"""The way in. Opening the window is the common case, so it goes there without loading the command
line."""

from __future__ import annotations

import os
import sys

WINDOW: tuple[set[str], ...] = ({"--demo"}, set())


def main() -> None:
    """Open the window, or run the command line when there is anything else to do."""
    # no plug-ins are used; looking for them is slow
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
    file = _model_file(sys.argv[1:])
    if file is None and set(sys.argv[1:]) not in WINDOW:
        from hypsos.cli import main as command_line

        command_line()
    # a frame's arrays are small; a pool of threads is only slow to start
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    from hypsos.core.base.errors import HypsosError

    try:
        from hypsos.desk.display import require_display

        require_display()
        from hypsos.desk.app import run

        sys.exit(run(demo="--demo" in sys.argv, file=file))
    except HypsosError as error:
        sys.stderr.write(f"{' '.join(str(error).split())}\n")
        sys.exit(2)
    except KeyboardInterrupt:
        sys.exit(130)
    except Exception as error:  # noqa: BLE001  whatever it is, it is written down and said in our words
        from hypsos.hangar.faults import sentence_of

        sys.stderr.write(f"{sentence_of(error, 'start', ' '.join(sys.argv[1:]))}\n")
        sys.exit(2)


def _model_file(arguments: list[str]) -> str | None:
    """The one model file that was named, for the window to open; None where something else is
    asked."""
    named = [x for x in arguments if x != "--demo"]
    if len(named) == 1 and named[0].lower().endswith(".json") and not named[0].startswith("-"):
        return named[0]
    return None


if __name__ == "__main__":
    main()
