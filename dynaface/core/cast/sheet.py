"""The cast sheet: how channels drive one character for one performer. `core.cast.apply` says in which order it acts."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any, Literal

from dynaface.core import checks
from dynaface.core.cast.joints import JointDrive, parse_drive
from dynaface.core.cast.ways import WAYS
from dynaface.core.errors import InputError
from dynaface.core.shapes.regions import REGIONS
from dynaface.core.shapes.standard import ANGLES, CHANNELS, SHAPES

EyeDrive = Literal["joints", "shapes"]
DIRECTIONS = ("jaw aside", "jaw forward", "lips left", "lips right")
CONTACTS = ("lips", "lids", "parting")
MAX_TARGETS, MAX_PARTS, MAX_OFF = 2000, 12, 2000
Table = Mapping[str, float]


@dataclass(frozen=True)
class Combination:
    """A corrective target driven by several channels at once: by their product, or by the least of them; times gain."""

    of: tuple[str, ...]
    by: Literal["product", "least"] = "product"
    gain: float = 1.0

    def describe(self) -> dict[str, Any]:
        """As plain data."""
        return {"of": list(self.of), "by": self.by, "gain": self.gain}


@dataclass(frozen=True)
class Contacts:
    """lips, lids, parting: whether these are kept; off: keys of single spans that are not ("lips 120")."""

    lips: bool = False
    lids: bool = False
    parting: bool = False
    off: frozenset[str] = frozenset()


@dataclass(frozen=True)
class CastSheet:
    """Only what differs from the automatic match and from 1:1 stands here.

    matches: target -> (shape, gain) pairs, none for a target left alone; combinations: target -> combination; joints:
    "joint:channel" -> drive, None for an automatic one that is taken away; region_strength, way_strength (a key of
    WAYS), shape_strength: factors; below: factor of an angle below 0; shape_offset: added weight; shape_limit: shape ->
    (low, high) of the channel; bend: shape -> response, a power of 2 ** -bend; directions: degrees by DIRECTIONS;
    low, high: limits of every target; eyes: what turns the eyeballs.
    """

    matches: Mapping[str, tuple[tuple[str, float], ...]] = field(default_factory=dict)
    combinations: Mapping[str, Combination] = field(default_factory=dict)
    joints: Mapping[str, JointDrive | None] = field(default_factory=dict)
    region_strength: Table = field(default_factory=dict)
    way_strength: Table = field(default_factory=dict)
    shape_strength: Table = field(default_factory=dict)
    below: Table = field(default_factory=dict)
    shape_offset: Table = field(default_factory=dict)
    shape_limit: Mapping[str, tuple[float, float]] = field(default_factory=dict)
    bend: Table = field(default_factory=dict)
    directions: Table = field(default_factory=dict)
    contacts: Contacts = Contacts()
    low: float = 0.0
    high: float = 1.0
    eyes: EyeDrive = "joints"


def parse_sheet(data: Mapping[str, Any]) -> CastSheet:
    """A sheet from plain data (docs/formats.md); raises InputError."""
    for key in data:
        checks.one_of("cast sheet field", key, FIELDS)
    low, high = checks.within("low", data.get("low", 0.0), -2, 2), checks.within("high", data.get("high", 1.0), -2, 4)
    if low >= high:
        raise InputError(f"the lower limit {low:g} is not below the upper {high:g}")
    return CastSheet(
        _table(data, "matches", MAX_TARGETS, parse_parts),
        _table(data, "combinations", MAX_TARGETS, _combination),
        _table(data, "joints", MAX_TARGETS, lambda key, v: None if v is None else parse_drive(key, v)),
        _factors(data, "regionStrength", REGIONS, 0, 3),
        _factors(data, "wayStrength", tuple(WAYS), 0, 3),
        _factors(data, "shapeStrength", CHANNELS, 0, 4),
        _factors(data, "below", ANGLES, 0, 4),
        _factors(data, "shapeOffset", SHAPES, -1, 1),
        _table(data, "shapeLimit", len(SHAPES), _limit),
        _factors(data, "bend", SHAPES, -2, 2),
        _factors(data, "directions", DIRECTIONS, -45, 45),
        _contacts(data.get("contacts", {})),
        low,
        high,
        checks.one_of("eyes", data.get("eyes", "joints"), ("joints", "shapes")),
    )


FIELDS = ("matches", "combinations", "joints", "regionStrength", "wayStrength", "shapeStrength", "below", "shapeOffset",
          "shapeLimit", "bend", "directions", "contacts", "low", "high", "eyes")  # fmt: skip


def describe_sheet(sheet: CastSheet) -> dict[str, Any]:
    """As plain data, only what says something."""
    plain: dict[str, Any] = {
        "matches": {t: dict(parts) for t, parts in sheet.matches.items()},
        "combinations": {t: c.describe() for t, c in sheet.combinations.items()},
        "joints": {k: None if d is None else d.describe() for k, d in sheet.joints.items()},
        "regionStrength": dict(sheet.region_strength),
        "wayStrength": dict(sheet.way_strength),
        "shapeStrength": dict(sheet.shape_strength),
        "below": dict(sheet.below),
        "shapeOffset": dict(sheet.shape_offset),
        "shapeLimit": {k: list(v) for k, v in sheet.shape_limit.items()},
        "bend": dict(sheet.bend),
        "directions": dict(sheet.directions),
    }
    c = sheet.contacts
    if c != Contacts():
        plain["contacts"] = {"lips": c.lips, "lids": c.lids, "parting": c.parting, "off": sorted(c.off)}
    plain = {k: v for k, v in plain.items() if v}
    return plain | {"low": sheet.low, "high": sheet.high, "eyes": sheet.eyes}


def parse_parts(target: str, given: Any) -> tuple[tuple[str, float], ...]:
    """What drives a target: a shape's name, "" for nothing, or gains by shape; raises InputError."""
    if isinstance(given, str):
        given = {given: 1.0} if given else {}
    if not isinstance(given, Mapping) or len(given) > MAX_PARTS:
        raise InputError(f"the match of {target!r} must be a shape or at most {MAX_PARTS} gains by shape")
    return tuple(
        (checks.one_of(f"match of {target!r}", shape, SHAPES), checks.within(f"gain of {shape}", gain, -4, 4))
        for shape, gain in given.items()
    )


def _combination(target: str, given: Any) -> Combination:
    if not isinstance(given, Mapping) or not set(given) <= {"of", "by", "gain"}:
        raise InputError(f"the combination of {target!r} has channels (of), a rule (by) and a gain")
    of = given.get("of")
    if not isinstance(of, list) or not 2 <= len(of) <= 4 or len(set(map(str, of))) != len(of):
        raise InputError(f"the combination of {target!r} needs two to four different shapes")
    shapes = tuple(checks.one_of(f"combination of {target!r}", s, SHAPES) for s in of)
    by = checks.one_of(f"rule of {target!r}", given.get("by", "product"), ("product", "least"))
    return Combination(shapes, by, checks.within(f"gain of {target!r}", given.get("gain", 1.0), 0, 4))


def _limit(shape: str, given: Any) -> tuple[float, float]:
    checks.one_of("shapeLimit", shape, SHAPES)
    if not isinstance(given, list | tuple) or len(given) != 2:
        raise InputError(f"the limit of {shape} must be two numbers")
    low, high = (checks.within(f"limit of {shape}", v, -2, 4) for v in given)
    if low >= high:
        raise InputError(f"the lower limit of {shape}, {low:g}, is not below the upper, {high:g}")
    return low, high


def _contacts(given: Any) -> Contacts:
    if not isinstance(given, Mapping) or not set(given) <= {*CONTACTS, "off"}:
        raise InputError(f"contacts are {', '.join(CONTACTS)}, each true or false, and a list of spans that are off")
    for name in CONTACTS:
        if not isinstance(given.get(name, False), bool):
            raise InputError(f"contacts.{name} is {given[name]!r}; it must be true or false")
    off = given.get("off", [])
    if not isinstance(off, list) or len(off) > MAX_OFF or not all(isinstance(o, str) and len(o) < 40 for o in off):
        raise InputError(f"contacts.off must be a list of at most {MAX_OFF} spans")
    lips, lids, parting = (bool(given.get(n, False)) for n in CONTACTS)
    return Contacts(lips, lids, parting, frozenset(off))


def _table(data: Mapping[str, Any], name: str, most: int, parse: Callable[[str, Any], Any]) -> dict[str, Any]:
    given = data.get(name, {})
    if not isinstance(given, Mapping) or len(given) > most:
        raise InputError(f"{name} must be a table by name of at most {most} entries")
    return {str(key): parse(str(key), value) for key, value in given.items()}


def _factors(data: Mapping[str, Any], name: str, allowed: tuple[str, ...], low: float, high: float) -> dict[str, float]:
    given = data.get(name, {})
    if not isinstance(given, Mapping):
        raise InputError(f"{name} must be a table of numbers by name")
    return {checks.one_of(name, k, allowed): checks.within(f"{name}.{k}", v, low, high) for k, v in given.items()}
