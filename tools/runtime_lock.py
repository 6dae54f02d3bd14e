"""Writes requirements-runtime.lock from requirements.lock: only what running needs. `python -m tools.runtime_lock`.

Walks what the installed distributions of the project's own dependencies ask for, without extras of ours.
"""

import re
from importlib.metadata import PackageNotFoundError, requires
from pathlib import Path

from packaging.requirements import Requirement

ROOT = Path(__file__).parents[1]
LOCK, RUNTIME = ROOT / "requirements.lock", ROOT / "requirements-runtime.lock"
PROJECT = "dynaface-app"


def normal(name: str) -> str:
    """A distribution's name as PyPI compares it."""
    return re.sub(r"[-_.]+", "-", name).lower()


def pinned(lock: str) -> dict[str, str]:
    """name -> line of a lock file."""
    lines = (line.strip() for line in lock.splitlines())
    return {normal(re.split(r"[=\[ ;]", line)[0]): line for line in lines if line and not line.startswith("#")}


def needed(project: str = PROJECT) -> set[str]:
    """Names of everything that the project asks for at run time, on this platform."""
    found: set[str] = set()
    seen: set[tuple[str, str]] = set()
    todo = [(project, "")]
    while todo:
        name, extra = todo.pop()
        if (normal(name), extra) in seen:
            continue
        seen.add((normal(name), extra))
        found.add(normal(name))
        try:
            asked = [Requirement(r) for r in requires(name) or []]
        except PackageNotFoundError:
            continue
        for requirement in asked:
            if not requirement.marker or requirement.marker.evaluate({"extra": extra}):
                todo += [(requirement.name, e) for e in ("", *requirement.extras)]
    return found


def runtime_lock() -> str:
    """The text of the runtime lock."""
    wanted = needed()
    return "".join(f"{line}\n" for name, line in sorted(pinned(LOCK.read_text()).items()) if name in wanted)


if __name__ == "__main__":
    RUNTIME.write_text(runtime_lock())
    print(f"{RUNTIME.name}: {len(pinned(RUNTIME.read_text()))} of {len(pinned(LOCK.read_text()))} packages")
