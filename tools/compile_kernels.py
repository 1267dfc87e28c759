"""``python tools/compile_kernels.py`` compiles every kernel on all cores.

Kernels compile when they are first called, and are kept beside their source. Here each module is
loaded by itself and all of its kernels are made ready, in processes side by side, so that nobody
waits for them later.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from importlib import import_module
from multiprocessing import get_context
from pathlib import Path
from types import ModuleType

HERE = Path(__file__).resolve().parents[1] / "src/pale_static/core/kernels"
PACKAGE = "pale_static.core.kernels"


def _bare_packages() -> None:
    """Packages that lead to the kernels and run nothing of their own."""
    for up, name in ((2, "pale_static"), (1, "pale_static.core"), (0, PACKAGE)):
        package = ModuleType(name)
        package.__path__ = [str(HERE.parents[up - 1] if up else HERE)]
        sys.modules.setdefault(name, package)


def compiled(task: str) -> str:
    """Compile a module's kernels, or a blend mode's; says which module."""
    module, _, mode = task.partition(" ")
    found = import_module(f"{PACKAGE}.{module}")
    if mode:
        found.compile_mode(int(mode))
    import_module(f"{PACKAGE}.rows").ready_all()
    return module


def main() -> None:
    """Compile everything, what takes longest first."""
    names = {path.stem for path in HERE.glob("*.py")} - {"__init__", "rows", "power"}
    # Mode by mode only once what they share is there.
    first = ["space", "blending", "lattice", "dots"]
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        done = set(pool.map(compiled, [*first, *sorted(names - set(first))]))
        often = import_module(f"{PACKAGE}.blending").OFTEN
        done |= set(pool.map(compiled, [f"blending {mode}" for mode in (-1, *often)]))
    print(f"Kernels are compiled: {', '.join(sorted(done))}.")


if __name__ in ("__main__", "__mp_main__"):
    _bare_packages()
if __name__ == "__main__":
    main()
