"""Finds the entries of a package: one module each, found by name, duplicates refused."""

import importlib
import pkgutil
from types import ModuleType
from typing import Any


def discover(package: ModuleType, attribute: str) -> dict[str, Any]:
    """The value of `attribute` in every module of the package, keyed by its `.name`, in order of name.

    A module without the attribute, or two entries of one name, is a mistake of ours: raises TypeError.
    """
    found: dict[str, Any] = {}
    for info in sorted(pkgutil.iter_modules(package.__path__), key=lambda i: i.name):
        module = importlib.import_module(f"{package.__name__}.{info.name}")
        if not hasattr(module, attribute):
            raise TypeError(f"{module.__name__} defines no {attribute}")
        entry = getattr(module, attribute)
        if entry.name in found:
            raise TypeError(f"two entries are named {entry.name!r}; the second is in {module.__name__}")
        found[entry.name] = entry
    return found
