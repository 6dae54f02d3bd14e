"""Which name of a file is which of those that were handed over: prefixes and namespaces that other programs put before them."""

import re
from collections import Counter
from collections.abc import Callable, Iterable, Sequence

SPACES = re.compile(r"^.*[:|/]")
NUMBERED = re.compile(r"[._]\d{3}$")
LEAST = 2  # names that share a prefix for it to be one


def _loose(name: str) -> str:
    """Letters and digits alone, small, without a number that a program put behind a name that it had already."""
    return re.sub(r"[^0-9a-z]", "", NUMBERED.sub("", SPACES.sub("", name)).lower())


def _as_it_is(name: str) -> str:
    return name


def _without(prefix: str) -> Callable[[str], str]:
    return lambda name: name.removeprefix(prefix)


def named_alike(names: Sequence[str], known: Sequence[str]) -> tuple[dict[str, str], list[str]]:
    """(name of the file -> known name, what was put right in words); each known name once at most."""
    found = {n: n for n in names if n in set(known)}
    said: list[str] = []

    def take(how: Callable[[str], str], of_known: Callable[[str], str], words: str) -> None:
        left = [k for k in known if k not in set(found.values())]
        by = {of_known(k): k for k in reversed(left)}
        taken = 0
        for name in names:
            if name not in found and (k := by.get(how(name))) and k not in found.values():
                found[name] = k
                taken += 1
        if taken:
            said.append(f"{words}: {taken} name{'s' if taken > 1 else ''}")

    take(lambda n: SPACES.sub("", n), _as_it_is, "namespaces taken off")
    rest = [n for n in names if n not in found]
    for prefix in _prefixes(rest, [k for k in known if k not in found.values()]):
        take(_without(prefix), _as_it_is, f"prefix {prefix!r} taken off")
    for prefix in _prefixes([k for k in known if k not in found.values()], [n for n in names if n not in found]):
        take(_as_it_is, _without(prefix), f"prefix {prefix!r} put back")
    take(_loose, _loose, "written otherwise, and recognised")
    return found, said


def _prefixes(names: Iterable[str], known: Iterable[str]) -> list[str]:
    """What stands before known names in names, the most frequent first, where at least LEAST names share it."""
    ends = sorted(known, key=len, reverse=True)
    counted: Counter[str] = Counter()
    for name in names:
        end = next((k for k in ends if len(k) < len(name) and name.endswith(k)), None)
        if end:
            counted[name[: -len(end)]] += 1
    return [prefix for prefix, count in counted.most_common(3) if count >= LEAST]
