"""A performance that is joined on a character and written as files: what `deliver` and `join` share."""

from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.character import Character
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.errors import InputError
from dynaface.core.handover.asked import asked, since
from dynaface.core.handover.delivery import Delivery, Figure, Voice
from dynaface.core.handover.edit_list import EditList, Media, Piece, cut_to, exact, laid_apart
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.formats.catalogue import HANDOVERS
from dynaface.formats.character_file import open_character
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.sheet_file import read_sheet
from dynaface.pipelines.bake_handover import HandoverSettings, bake_handover, parse_handover

NOBODY = Character("", (), None)


@dataclass(frozen=True)
class Given:
    """What is joined. character, body, hands, sheet: None where there is none; settings: how."""

    table: Path
    settings: JoinSettings
    character: Path | None = None
    body: Motion | None = None
    hands: Motion | None = None
    sheet: Path | None = None
    voice: Voice | None = None


def form_of(out: Path) -> HandoverSettings:
    """The form of handover that writes files of this ending; raises InputError for one that none does."""
    ending = out.suffix.lower()
    for form in HANDOVERS.values():
        if ending in form.written:
            return parse_handover({"forms": {form.name: form.by_ending(ending)}})
    known = sorted({e for f in HANDOVERS.values() for e in f.written})
    raise InputError(f"nothing is handed over as {ending or 'a file without an ending'}", where=str(out), hint=f"Endings are {', '.join(known)}")  # fmt: skip


def write_joined(given: Given, out: Path, handover: HandoverSettings | None = None) -> None:
    """Writes what is handed over and prints what its checks found. out: the file, or the folder of several; handover: by the file's ending unless
    it is given.
    """
    single = not out.is_dir()
    handover = handover or form_of(out)
    channels = table_to_channels(given.table.read_bytes(), given.table.name)
    rig, raw = NOBODY, None
    if given.character:
        rig, _, raw = open_character(given.character.read_bytes(), given.character.name)
    cast = read_sheet(given.sheet.read_bytes()) if given.sheet else CastSheet()
    whole = perform_take(channels, rig, cast, given.body, given.settings, given.hands)
    made = asked(whole, rig.skeleton, handover.options)
    begins = since(whole, made)
    voice = given.voice and replace(given.voice, offset=given.voice.offset - begins)
    name = out.stem if single else given.table.stem
    media = Media(given.table.name, channels.frames / channels.rate, channels.timecode)
    piece = Piece(name, exact(0), media.seconds, exact(0), media)
    edit = EditList(name, channels.rate, media.seconds, tuple(laid_apart("picture", "picture", [piece])), (), channels.timecode)  # fmt: skip
    edit = cut_to(edit, exact(begins), made.channels.frames / made.channels.rate)
    figure = Figure(name, made, raw, rig.skeleton)
    baked = bake_handover(Delivery(name, (figure,), handover.options, voice, edit), handover)
    for file, data in baked.files.items():
        (out.parent / file if single else out / file).write_bytes(data)
    print(f"wrote {', '.join(baked.files)}: {made.channels.frames} frames, {len(made.joints)} joints")
    if given.character:
        _lacking(rig, cast)
    for check in baked.report["checks"]:
        print(f"{check['what']}: {check['found']}")


def _lacking(rig: Character, cast: CastSheet) -> None:
    report = match_targets(rig, cast)
    print(f"{len(report.matched)} targets are driven")
    if report.missing:
        print(f"the character lacks: {', '.join(report.missing)}")


def settings_of(pairs: Sequence[str]) -> dict[str, str | float]:
    """NAME=VALUE settings of a form; raises InputError."""
    out: dict[str, str | float] = {}
    for pair in pairs:
        name, mark, value = pair.partition("=")
        if not mark:
            raise InputError(f"{pair!r} is no setting; write it as NAME=VALUE")
        out[name] = value
    return out
