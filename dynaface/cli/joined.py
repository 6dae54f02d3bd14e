"""A performance that is joined on a character and written as one file: what `deliver` and `join` share."""

from collections.abc import Mapping
from pathlib import Path
from typing import Any

from dynaface.core.body.skeleton import Motion
from dynaface.core.cast.matching import match_targets
from dynaface.core.cast.sheet import CastSheet
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.perform.perform import perform_take
from dynaface.formats.character_file import open_character
from dynaface.formats.entries.curve_table import table_to_channels
from dynaface.formats.sheet_file import read_sheet
from dynaface.pipelines.bake_handover import HandoverSettings, bake_handover


def write_joined(
    table: Path,
    character: Path,
    out: Path,
    settings: JoinSettings,
    body: Motion | None,
    hands: Motion | None = None,
    sheet: Path | None = None,
    sound: Mapping[str, Any] | None = None,
) -> None:
    """Writes a .glb and prints what its checks found; sound: as `bake_handover` notes it."""
    channels = table_to_channels(table.read_bytes(), table.name)
    rig, _, raw = open_character(character.read_bytes(), character.name)
    cast = read_sheet(sheet.read_bytes()) if sheet else CastSheet()
    made = perform_take(channels, rig, cast, body, settings, hands)
    noted = dict(sound) if sound else None
    baked = bake_handover(made, raw, rig.skeleton, HandoverSettings(table=False), out.stem, noted)
    out.write_bytes(next(iter(baked.files.values())))
    report = match_targets(rig, cast)
    print(f"wrote {out}: {channels.frames} frames, {len(report.matched)} targets, {len(made.joints)} joints")
    if report.missing:
        print(f"the character lacks: {', '.join(report.missing)}")
    for check in baked.report["checks"]:
        print(f"{check['what']}: {check['found']}")
