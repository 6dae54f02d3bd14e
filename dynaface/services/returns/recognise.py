"""Which handover a file that comes back is of."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import PurePath
from typing import Any

from dynaface.core.clock.rates import parse_rate
from dynaface.core.errors import InputError
from dynaface.core.records.records import Handover
from dynaface.core.returns.brought import Brought
from dynaface.formats.returned import read_returned, returning_form
from dynaface.pipelines.bake_handover import MANIFEST
from dynaface.services.work import Work


@dataclass(frozen=True)
class HandedOver:
    """A file as it was handed over.

    file: its name; document: the take or shot that it is of; roles: character's name in its files -> role of the shot; figures: characters in it;
    start: seconds of the take or shot at its first frame; tolerance: that keys were left out by; ends: frames of it that are no part of the work (rest,
    neutral); lying: whether z is up in it; versions: of the document and its layers at that time.
    """

    file: str
    document: str
    roles: Mapping[str, str]
    figures: Mapping[str, Brought]
    start: float
    tolerance: float = 0.0
    ends: tuple[int, ...] = ()
    lying: bool = False
    versions: Mapping[str, int] = field(default_factory=dict)


def recognise(work: Work, handovers: Sequence[Handover], medium: str, name: str) -> HandedOver | None:
    """The newest handover that a file is of: by its bytes, by its name, or by its name with more behind it; None for none. handovers: newest first."""
    found = _file(handovers, medium, name)
    return _read(work, *found) if found else None


def _file(handovers: Sequence[Handover], medium: str, name: str) -> tuple[Handover, Mapping[str, Any]] | None:
    ending, stem = PurePath(name).suffix.lower(), PurePath(name).stem.lower()
    of_form = returning_form(name).written
    files = [(h, f) for h in handovers for f in h.files]
    for h, f in files:
        if f["media"] == medium:
            return h, f
    alike = [
        (h, f, PurePath(f["name"]).stem.lower()) for h, f in files if PurePath(f["name"]).suffix.lower() in of_form
    ]
    alike = [(h, f, s) for h, f, s in alike if stem == s or stem.startswith(s) or stem.endswith(s)]
    # The longest name wins, then the same ending, then the newest: sorting keeps their order.
    alike.sort(key=lambda c: (-len(c[2]), PurePath(c[1]["name"]).suffix.lower() != ending))
    return alike[0][:2] if alike else None


def newest_of_form(work: Work, handovers: Sequence[Handover], name: str, document: str) -> HandedOver | None:
    """The newest file of a take's or shot's handovers that is read as a file of this name is; None for none."""
    of_form = returning_form(name).written
    for handover in handovers:
        for file in handover.files:
            if handover.document == document and PurePath(file["name"]).suffix.lower() in of_form:
                return _read(work, handover, file)
    return None


def _read(work: Work, handover: Handover, file: Mapping[str, Any]) -> HandedOver:
    manifest = _manifest(work, handover)
    of, rate = manifest.get("of", {}), parse_rate(str(manifest.get("rate", "30")))
    figures = read_returned(work.media.get(file["media"]), file["name"], rate)
    options = handover.settings.get("options", {})
    frames = int(manifest.get("frames", 1))
    ends = ((0,) if options.get("rest") else ()) + ((frames - 1,) if options.get("neutral") else ())
    forms = handover.settings.get("forms", {})
    lying = forms.get(returning_form(file["name"]).name, {}).get("up") == "z"
    return HandedOver(
        file["name"], handover.document, of.get("roles", {}), figures, float(manifest.get("start", 0.0)),
        float(options.get("tolerance", 0.0)), ends, lying,
        {handover.document: int(of.get("version", 0)), **of.get("layers", {})},
    )  # fmt: skip


def _manifest(work: Work, handover: Handover) -> dict[str, Any]:
    """What a handover says of itself; raises InputError for one from before there were manifests."""
    for file in handover.files:
        if file["name"].endswith(MANIFEST):
            return dict(json.loads(work.media.get(file["media"])))
    raise InputError(
        f"the handover of {handover.label} is too old to be compared with", hint="Hand it over again and edit that"
    )


def figures_of(handed: HandedOver, edited: Mapping[str, Brought], name: str) -> list[tuple[str, Brought, Brought]]:
    """(role or "", edited, handed over) of each character that came back; raises InputError where none is known. name: of the file."""
    out = []
    for figure, own in edited.items():
        if len(handed.figures) == 1:
            known = next(iter(handed.figures))
        else:
            known = figure if figure in handed.figures else _by_names(own, handed.figures)
        if known not in handed.figures:
            continue
        # A file of one character is called as the character; in a file of several each has its own name.
        called = known or PurePath(handed.file).stem
        out.append((handed.roles.get(called) or _only(handed.roles), own, handed.figures[known]))
    if not out:
        raise InputError(f"{name} holds {', '.join(edited)}, and {handed.file} {', '.join(handed.figures)}", hint="Bring a file of the same characters")  # fmt: skip
    return out


def _only(roles: Mapping[str, str]) -> str:
    return next(iter(roles.values())) if len(roles) == 1 else ""


def _by_names(own: Brought, figures: Mapping[str, Brought]) -> str:
    """The character that has the most of its names."""
    return max(figures, key=lambda f: len(set(own.names) & set(figures[f].names)))


def rate_of(figures: Mapping[str, Brought]) -> Fraction:
    """The rate of what is in a file."""
    return next(iter(figures.values())).rate
