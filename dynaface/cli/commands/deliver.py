"""`dynaface deliver`."""

import argparse
from pathlib import Path
from typing import Any

from dynaface.cli.command import Command
from dynaface.cli.files import body_of
from dynaface.cli.joined import Given, form_of, settings_of, write_joined
from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.handover.delivery import Voice
from dynaface.core.handover.presets import BUILT_IN
from dynaface.core.layers.weight import Weight
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.formats.catalogue import FORMATS
from dynaface.formats.json_file import read_table
from dynaface.pipelines.bake_handover import HandoverSettings, parse_handover


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--character", type=Path, help="the character (.glb); a table, sound or edit list needs none")
    one.add_argument("--body", type=Path, help="a body take (.bvh, .glb), placed by timecode")
    one.add_argument(
        "--head-weight", type=float, default=1.0, help="0: the body's own head .. 1: the face's (default 1)"
    )
    one.add_argument("--nudge", type=float, default=0.0, help="frames by which the body is moved later (default 0)")
    one.add_argument(
        "--lean", type=float, default=0.0, help="0 .. 1 of the head's travel after which the trunk leans (default 0)"
    )
    one.add_argument("--feet", action="store_true", help="feet that stood in the body take stand")
    one.add_argument("--touch", action="store_true", help="hands that touched the head or each other touch")
    one.add_argument(
        "--sound", type=Path, help="a WAV that goes along: noted with its offset, or written where sound is"
    )
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")
    one.add_argument("--sheet", "--cast", type=Path, help="a cast sheet (JSON, see docs/formats.md)")
    one.add_argument(
        "--preset", help=f"a preset by name ({', '.join(BUILT_IN)}) or a JSON file of one; --out is a folder then"
    )
    one.add_argument(
        "--set", action="append", default=[], metavar="NAME=VALUE", help="a setting of the form, such as up=z"
    )
    one.add_argument("--rate", help="frames per second (default: as it is)")
    one.add_argument("--first", type=int, help="the first frame, counted from 0")
    one.add_argument("--last", type=int, help="the last frame")
    one.add_argument("--handles", type=int, help="frames more before and after")
    one.add_argument("--prefix", help="put before the names of joints and targets")
    one.add_argument("--tolerance", type=float, help="leave out keys that lines between the others replace (0 .. 0.1)")
    one.add_argument("--no-head", action="store_true", help="neck and head stay at rest")
    one.add_argument("--no-travel", action="store_true", help="the body stays on the spot")
    one.add_argument(
        "--out", type=Path, required=True, help="the file, whose ending says its form (.glb, .usdc, .usda, .bvh, .csv, .otio, .wav), or a folder"
    )  # fmt: skip


def run(options: argparse.Namespace) -> None:
    """Bakes the files and prints the checks of them."""
    body = body_of(options.body) if options.body else None
    weight, lean = checks.within("head weight", options.head_weight, 0, 1), checks.within("lean", options.lean, 0, 1)
    settings = JoinSettings(
        nudge=options.nudge, head_weight=Weight(weight), lean=lean, feet=options.feet, touch=options.touch
    )
    voice = None
    if options.sound:
        heard = FORMATS["wav"].read(options.sound.read_bytes())
        voice = Voice(options.sound.name, options.sound_offset, heard)
    handover = _handover(options)
    if voice and "sound" not in handover.wants:
        voice = Voice(voice.file, voice.offset)
    given = Given(options.table, settings, options.character, body, sheet=options.sheet, voice=voice)
    write_joined(given, options.out, handover)


def _handover(options: argparse.Namespace) -> HandoverSettings:
    """A preset, or the form that the ending says, with what is asked for on the line."""
    asked: dict[str, Any] = {
        k: v
        for k in ("rate", "first", "last", "handles", "prefix", "tolerance")
        if (v := getattr(options, k)) is not None
    }
    asked |= {key: False for key in ("head", "travel") if getattr(options, f"no_{key}")}
    if options.preset:
        if options.set:
            raise InputError("--set goes with a file, not with a preset", hint="Put the setting into the preset")
        plain = _preset(options.preset)
        options.out.mkdir(parents=True, exist_ok=True)
    else:
        found = form_of(options.out)
        plain = {"forms": {name: {**own, **settings_of(options.set)} for name, own in found.forms.items()}}
    return parse_handover({**plain, "options": {**plain.get("options", {}), **asked}})


def _preset(name: str) -> dict[str, Any]:
    if name in BUILT_IN:
        return dict(BUILT_IN[name])
    if not Path(name).is_file():
        raise InputError(
            f"there is no preset {name!r}", hint=f"Presets are {', '.join(BUILT_IN)}, or a JSON file of one"
        )
    return dict(read_table(Path(name).read_bytes(), "the preset"))


COMMAND = Command("deliver", "hand a curve table over, on a character or as it is", arguments, run)
