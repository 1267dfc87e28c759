"""Layers import downwards only, and core knows nothing of files, servers or clocks."""

from __future__ import annotations

import ast
from pathlib import Path

ROOT = Path(__file__).parents[2] / "src" / "pale_static"
ORDER = ("core", "media", "store", "jobs", "web")
FORBIDDEN_IN_CORE = {
    "flask", "sqlite3", "pathlib", "os", "av", "PIL", "requests", "socket", "datetime", "random",
}  # fmt: skip
# The number of cores; the folder of compiled kernels.
ALLOWED = {("core/kernels/rows.py", "os"), ("core/kernels/objects.py", "os")}


def imports(path: Path) -> set[str]:
    """Absolute module names that a file imports."""
    package = ("pale_static", *path.relative_to(ROOT).parts[:-1])
    found: set[str] = set()
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            found |= {alias.name for alias in node.names}
        elif isinstance(node, ast.ImportFrom):
            base = ".".join(package[: len(package) - node.level + 1]) if node.level else ""
            module = ".".join(part for part in (base, node.module or "") if part)
            found.add(module)
            found |= {f"{module}.{alias.name}" for alias in node.names}
    return found


def test_each_layer_imports_only_those_below_it() -> None:
    for index, layer in enumerate(ORDER):
        above = ORDER[index + 1 :]
        for path in (ROOT / layer).rglob("*.py"):
            for name in imports(path):
                for other in above:
                    assert not name.startswith(f"pale_static.{other}"), (path, name)


def test_core_touches_no_files_servers_or_clocks() -> None:
    for path in (ROOT / "core").rglob("*.py"):
        place = str(path.relative_to(ROOT))
        for name in imports(path):
            top = name.split(".")[0]
            assert top not in FORBIDDEN_IN_CORE or (place, top) in ALLOWED, (place, name)
            assert name != "time.time", place
