"""The way in. Opening the window is the common case, so it goes there without loading the command line."""

from __future__ import annotations

import gc
import os
import sys
from importlib.util import LazyLoader, find_spec, module_from_spec

WINDOW: tuple[set[str], ...] = ({"--demo"}, set())


def _lazily(name: str) -> None:
    """Let a module load when something of it is first used: here, one that is imported on the way in and never used."""
    spec = find_spec(name)
    if spec is not None and spec.loader is not None and name not in sys.modules:
        spec.loader = LazyLoader(spec.loader)
        module = module_from_spec(spec)
        sys.modules[name] = module
        spec.loader.exec_module(module)


def main() -> None:
    """Open the window, or run the command line when there is anything else to do."""
    gc.disable()  # thousands of objects are made on the way in and none of them is garbage
    os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")  # no plug-ins are used; looking for them is slow
    if set(sys.argv[1:]) not in WINDOW:
        from hypsos.cli import main as command_line

        gc.enable()
        command_line()
    os.environ.setdefault(
        "OPENBLAS_NUM_THREADS", "1"
    )  # a frame's arrays are small; a pool of threads is only slow to start
    _lazily("importlib.metadata")
    from hypsos.core.errors import HypsosError
    from hypsos.desk.app import run

    try:
        sys.exit(run(demo="--demo" in sys.argv))
    except HypsosError as error:
        sys.stderr.write(f"{' '.join(str(error).split())}\n")
        sys.exit(2)


if __name__ == "__main__":
    main()
