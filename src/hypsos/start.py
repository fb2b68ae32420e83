"""The way in. Opening the window is the common case, so it goes there without loading the command line."""

from __future__ import annotations

import gc
import os
import sys
from collections.abc import Callable
from importlib import import_module
from types import ModuleType
from typing import Any

WINDOW: tuple[set[str], ...] = ({"--demo"}, set())


def _lazily(name: str) -> None:
    """Let a module load when one of its functions is first called: for those imported on the way in and never used."""
    if name in sys.modules:
        return
    standing_in = ModuleType(name)

    def function(attribute: str) -> Callable[..., Any]:
        if attribute.startswith("__"):  # the import system looks at these; they are no use of the module
            raise AttributeError(attribute)

        def call(*args: Any, **named: Any) -> Any:
            if sys.modules.get(name) is standing_in:
                del sys.modules[name]
            return getattr(import_module(name), attribute)(*args, **named)

        return call

    standing_in.__getattr__ = function  # type: ignore[method-assign]
    sys.modules[name] = standing_in


def main() -> None:
    """Open the window, or run the command line when there is anything else to do."""
    gc.disable()  # thousands of objects are made on the way in and none of them is garbage
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # no plug-ins are used; looking for them is slow
    if set(sys.argv[1:]) not in WINDOW:
        from hypsos.cli import main as command_line

        gc.enable()
        command_line()
    # a frame's arrays are small; a pool of threads is only slow to start
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    for name in ("importlib.metadata", "secrets"):
        _lazily(name)
    from hypsos.core.errors import HypsosError
    from hypsos.desk.app import run

    try:
        sys.exit(run(demo="--demo" in sys.argv))
    except HypsosError as error:
        sys.stderr.write(f"{' '.join(str(error).split())}\n")
        sys.exit(2)


if __name__ == "__main__":
    main()
