"""``python -m pale_static.jobs.compiling`` compiles every kernel on all cores.

Kernels compile when they are first called, and are kept beside their source. This compiles each
module's kernels in advance, in several processes, so that nobody waits for them.
"""

from __future__ import annotations

import gc
import os
import sys
from contextlib import suppress
from hashlib import blake2b
from importlib import import_module
from pathlib import Path

from ..core.kernels.objects import machine
from ..processes import ends_with_parent, pool

PACKAGE = "pale_static.core.kernels"
HERE = Path(__file__).parents[1] / "core/kernels"
FIRST = (
    "colour.convert", "filters.mixing", "colour.tone", "filters.film", "filters.space",
    "filters.blending", "texture.lattice", "texture.dots",
)  # fmt: skip
"""Modules to compile first: those that every picture needs, then the slowest."""


def _stamp() -> Path:
    """The file that marks these sources as compiled for this machine."""
    digest = blake2b(machine().encode(), digest_size=8)
    for path in sorted(HERE.rglob("*.py")):
        digest.update(path.read_bytes())
    return HERE / "__pycache__" / f"compiled-{digest.hexdigest()}"


def all_compiled() -> bool:
    """Whether every kernel was compiled from the present sources."""
    return _stamp().exists()


def compile_module(task: str) -> str:
    """Compile a module's kernels, or those of a blend mode; returns the module's name."""
    module, _, mode = task.partition(" ")
    kernels = import_module(f"{PACKAGE}.{module}")
    if mode:
        kernels.compile_mode(int(mode))
    import_module(f"{PACKAGE}.rows").ready_all()
    return module


def _modules() -> list[str]:
    names = {f"{path.parent.name}.{path.stem}" for path in HERE.glob("*/*.py")
             if path.stem not in ("__init__", "power", "luminance", "alpha")}  # fmt: skip
    return [*FIRST, *sorted(names - set(FIRST))]


def _collect_rarely() -> None:
    """Run the garbage collector rarely: Numba makes many objects, and collecting takes a tenth."""
    gc.freeze()
    gc.set_threshold(100_000, 20, 100)


class _Enough(Exception):
    """The awaited file exists."""


def compile_until(file: Path) -> None:
    """Compile on one core, the kernels of the first picture first, until a file exists."""

    def check() -> None:
        if file.exists():
            raise _Enough

    _collect_rarely()
    with suppress(_Enough):
        for module in _modules():
            check()
            import_module(f"{PACKAGE}.{module}")
            import_module(f"{PACKAGE}.rows").ready_all(check)


def compile_all() -> None:
    """Compile everything that is not compiled yet."""
    if all_compiled():
        return
    with pool(None, _collect_rarely) as compilers:
        list(compilers.map(compile_module, _modules()))
        # Single modes come after the kernels that they share.
        often = import_module(f"{PACKAGE}.filters.blending").OFTEN
        list(compilers.map(compile_module, [f"filters.blending {mode}" for mode in (-1, *often)]))
    stamp = _stamp()
    for old in stamp.parent.glob("compiled-*"):
        old.unlink(missing_ok=True)
    stamp.touch()


if __name__ == "__main__":
    if sys.argv[1:2] == ["--until"]:
        compile_until(Path(sys.argv[2]))
        sys.exit()
    if len(sys.argv) > 1:  # runs beside a server, ends with it, and at a lower priority
        ends_with_parent(int(sys.argv[1]))
        os.nice(5)
    compile_all()
