"""Bakes a delivery into files and checks them by reading them back. Needs no database: the command line uses it."""

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, replace
from pathlib import Path
from typing import Any

from dynaface.core import checks
from dynaface.core.clock.rates import format_rate
from dynaface.core.clock.timecode import noted
from dynaface.core.curves.gaps import gap_frames
from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Delivery
from dynaface.core.handover.file_name import PATTERN, parse_pattern
from dynaface.core.handover.options import HandoverOptions, parse_options
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.handover import Check
from dynaface.pipelines.progress import Progress

DEFAULT_FORMS: Mapping[str, Mapping[str, Any]] = {"gltf": {}, "curve table": {}}
MANIFEST = ".manifest.json"


@dataclass(frozen=True)
class HandoverSettings:
    """forms: name of a form of handover -> its settings; options: what is asked for whatever the form; pattern: of file names."""

    forms: Mapping[str, Mapping[str, Any]] = field(default_factory=lambda: dict(DEFAULT_FORMS))
    options: HandoverOptions = field(default_factory=HandoverOptions)
    pattern: str = PATTERN

    @property
    def wants(self) -> frozenset[str]:
        """What is read for its forms beside the performances."""
        return frozenset(what for form in self.forms for what in HANDOVERS[form].wants)

    @property
    def plain(self) -> dict[str, Any]:
        """As `parse_handover` reads them."""
        return {"forms": {k: dict(v) for k, v in self.forms.items()}, "options": asdict(self.options), "pattern": self.pattern}  # fmt: skip


def parse_handover(data: Mapping[str, Any]) -> HandoverSettings:
    """Settings from plain data; raises InputError."""
    for key in data:
        checks.one_of("handover setting", key, ("forms", "options", "pattern"))
    given = checks.table("forms", data.get("forms", DEFAULT_FORMS))
    if not given:
        raise InputError("nothing is chosen to hand over", hint="Choose at least one file")
    forms = {}
    for name in HANDOVERS:  # in one order, whatever that of the settings
        if name in given:
            forms[name] = HANDOVERS[name].complete(checks.table(f"forms.{name}", given[name]))
    for name in given:
        checks.one_of("form of handover", name, HANDOVERS.keys())
    options = parse_options(checks.table("options", data.get("options", {})))
    return HandoverSettings(forms, options, parse_pattern(data.get("pattern", PATTERN)))


@dataclass(frozen=True)
class Baked:
    """Files by name, and the check report."""

    files: Mapping[str, bytes]
    report: Mapping[str, Any] = field(default_factory=dict)


def bake_handover(
    delivery: Delivery, settings: HandoverSettings, node: str = "", progress: Progress = lambda part, message: None
) -> Baked:
    """Makes the files and their report; raises InputError where a form lacks something. node: the program that runs the validator of glTF;
    progress: called with 0..1 and words, and may raise CancelledError.
    """
    for name in settings.forms:
        if lacking := HANDOVERS[name].lacks(delivery):
            raise InputError(lacking, where=HANDOVERS[name].label)
    files: dict[str, bytes] = {}
    found: list[Check] = []
    for number, (name, own) in enumerate(settings.forms.items()):
        form, done = HANDOVERS[name], 0.1 + 0.8 * number / len(settings.forms)
        progress(done, f"writing: {form.label}")
        tell = _between(progress, done, done + 0.5 / len(settings.forms))
        made = form.write(delivery, own, tell)
        progress(done + 0.5 / len(settings.forms), f"checking: {form.label}")
        found += form.check(made, delivery, own, node)
        files |= made
    found.append(_gaps(delivery))
    progress(0.95, "storing")
    channels = delivery.first.performance.channels
    report: dict[str, Any] = {
        "frames": channels.frames, "seconds": channels.seconds, "rate": format_rate(channels.rate),
        "sound": delivery.voice_noted,
    }  # fmt: skip
    return Baked(files, _judged(report, [asdict(c) for c in found]))


def with_file(baked: Baked, name: str, data: bytes, check: Check) -> Baked:
    """The same with one more file and what was found in it."""
    return Baked({**baked.files, name: data}, _judged(baked.report, [*baked.report["checks"], asdict(check)]))


def _judged(report: Mapping[str, Any], found: list[dict[str, Any]]) -> dict[str, Any]:
    """A report with these checks, well where none of them failed."""
    return {**report, "checks": found, "ok": all(c["ok"] is not False for c in found)}


def with_manifest(baked: Baked, delivery: Delivery, settings: HandoverSettings, of: Mapping[str, Any]) -> Baked:
    """The same with a list of its files and their hashes, by which they are known when they come back. of: what they were made of."""
    channels = delivery.first.performance.channels
    manifest = {
        "dynaface": "handover 1", "of": dict(of), "settings": settings.plain, "rate": format_rate(channels.rate),
        "frames": channels.frames, "start": channels.start, **noted(channels.timecode),
        "files": {name: {"sha256": hashlib.sha256(data).hexdigest(), "bytes": len(data)} for name, data in baked.files.items()},
    }  # fmt: skip
    name = f"{delivery.name}{MANIFEST}"
    return replace(baked, files={**baked.files, name: (json.dumps(manifest, indent=1) + "\n").encode()})


def _between(progress: Progress, low: float, high: float) -> Progress:
    """Says how far the writing of a form is between two shares of all the work."""
    return lambda part, message: progress(low + part * (high - low), message)


def _gaps(delivery: Delivery) -> Check:
    lost = sum(gap_frames(f.performance.channels.values) for f in delivery.figures)
    said = f"{lost} frames have gaps: blank in the table, bridged on the character" if lost else "none"
    return Check("gaps in the curves", None if lost else True, said)


def write_files(baked: Baked, folder: Path) -> None:
    """Writes the files into a folder."""
    for name, raw in baked.files.items():
        (folder / name).write_bytes(raw)
