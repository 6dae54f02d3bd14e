"""`dynaface`: everything scriptable that the desks do, on files, and the server's own commands."""

import argparse
import json
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from dynaface.core.errors import DynafaceError, InputError

EPILOG = """examples:
  dynaface check take.csv
  dynaface import take.csv --rate 60 --out even.csv
  dynaface snags take.csv --sound voice.wav
  dynaface tidy take.csv --propose --out-stack stack.json
  dynaface tidy take.csv --stack stack.json --out clean.csv
  dynaface reduce clean.csv --tolerance 0.005 --out keys.json
  dynaface card rom.mp4 --samples samples.json --turn turn.mp4 --out card.json
  dynaface solve clip.mp4 --card card.json --out curves.csv
  dynaface character odile.glb
  dynaface deliver clean.csv --character odile.glb --body walk.bvh --head-weight 1 --sound voice.wav --out shot.glb

exit status: 0 when all went well, 2 with one line on standard error when the input is bad.
The formats (curve table, stack.json, samples.json) are described in docs/formats.md."""


def main(arguments: Sequence[str] | None = None) -> None:
    """Command line."""
    options = _parser().parse_args(arguments)
    try:
        options.run(options)
    except DynafaceError as error:
        sys.stderr.write(f"dynaface: {error}\n")
        sys.exit(2)
    except OSError as error:
        sys.stderr.write(f"dynaface: {error.filename or ''}: {error.strerror}\n")
        sys.exit(2)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="dynaface",
        description="From a facial performance to a talking character: solves footage, reads, evens out, tidies and delivers takes.",
        epilog=EPILOG,
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )
    commands = parser.add_subparsers(title="commands", metavar="COMMAND", required=True)

    one = commands.add_parser("import", help="read a curve table, report on it, write it evened out in time")
    one.add_argument("table", type=Path, help="a curve table (.csv, .tsv, .txt)")
    one.add_argument("--rate", default="", help="frames per second to even out to (default: as recorded)")
    one.add_argument("--out", type=Path, required=True, help="the evened-out curve table to write")
    one.add_argument("--json", action="store_true", help="print the report as JSON")
    one.set_defaults(run=_import)

    one = commands.add_parser("check", help="say what a file is and whether it is sound")
    one.add_argument("file", type=Path)
    one.add_argument("--json", action="store_true", help="print the findings as JSON")
    one.set_defaults(run=_check)

    _add_tidying(commands)

    one = commands.add_parser("character", help="say which shapes a character has and what is wrong with it")
    one.add_argument("file", type=Path, help="the character (.glb)")
    one.add_argument("--json", action="store_true", help="print the report as JSON")
    one.set_defaults(run=_of("cli_cast", "character"))

    one = commands.add_parser("cast", help="match a character's targets and joints to the standard shapes")
    one.add_argument(
        "--character", dest="file", type=Path, required=True, help="the character (.glb, or .gltf in a .zip)"
    )
    one.add_argument("--json", action="store_true", help="print the matches as JSON")
    one.add_argument("--out", type=Path, help="the cast sheet to write (JSON)")
    one.set_defaults(run=_of("cli_cast", "cast"))

    one = commands.add_parser("deliver", help="put a curve table on a character and bake a glTF binary")
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument("--character", type=Path, required=True, help="the character (.glb)")
    one.add_argument("--body", type=Path, help="a body take (.bvh), placed by timecode")
    one.add_argument(
        "--head-weight", type=float, default=1.0, help="0: the body's own head .. 1: the face's (default 1)"
    )
    one.add_argument("--nudge", type=float, default=0.0, help="frames by which the body is moved later (default 0)")
    one.add_argument("--sound", type=Path, help="a WAV to be noted in the file, with its offset")
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")
    one.add_argument("--sheet", "--cast", type=Path, help="a cast sheet (JSON, see docs/formats.md)")
    one.add_argument("--out", type=Path, required=True, help="the .glb to write")
    one.set_defaults(run=_deliver)

    one = commands.add_parser("card", help="make a performer card from a range of motion")
    one.add_argument("rom", type=Path, help="a clip in which the performer shows each expression at its extreme")
    one.add_argument("--samples", type=Path, required=True, help="which frame shows what (JSON, see docs/formats.md)")
    one.add_argument("--turn", type=Path, help="a clip in which a neutral face only turns its head")
    one.add_argument("--fov", type=float, help="the camera's field of view from top to bottom, in degrees (default 40)")
    one.add_argument("--out", type=Path, required=True, help="the card to write")
    one.set_defaults(run=_of("cli_solve", "card"))

    one = commands.add_parser("layout", help="propose which optical marker sits on which place of the face")
    one.add_argument("markers", type=Path, help="a take of markers (.c3d) with a still face in it")
    one.add_argument(
        "--neutral", type=int, nargs=2, default=(0, 0), help="first and last frame of the still face (default 0 0)"
    )
    one.add_argument("--out", type=Path, required=True, help="the layout to write (JSON)")
    one.set_defaults(run=_of("cli_markers", "layout"))

    one = commands.add_parser("dots", help="pick colour dots in a picture of a clip, once for the day")
    one.add_argument("clip", type=Path, help="a clip with dots on the face")
    one.add_argument(
        "--pick", action="append", required=True, metavar="PLACE=X,Y", help='a dot, as "chin pad=320,410" (repeat)'
    )
    one.add_argument("--frame", type=int, default=0, help="the picture in which they are picked (default 0)")
    one.add_argument(
        "--neutral", type=int, nargs=2, help="first and last frame of a still face (default: that picture)"
    )
    one.add_argument(
        "--fov", type=float, default=60.0, help="the camera's field of view from top to bottom (default 60)"
    )
    one.add_argument("--tolerance", type=float, default=0.09, help="how far a colour may be off (default 0.09)")
    one.add_argument("--mirror", action="store_true", help="look for the partner on the other side of each pick")
    one.add_argument("--head-moves", action="store_true", help="the camera stands; else it is fixed to the head")
    one.add_argument("--out", type=Path, required=True, help="the dots to write (JSON)")
    one.set_defaults(run=_of("cli_dots", "dots"))

    one = commands.add_parser("solve", help="solve footage of a face, or optical markers on it, into a curve table")
    one.add_argument("clip", type=Path, help="the footage (.mp4, .mov, .webm, .mkv, .avi) or the markers (.c3d)")
    one.add_argument(
        "--layout",
        type=Path,
        help="for markers and colour dots: which sits on which place (JSON, see dynaface layout, dynaface dots)",
    )
    one.add_argument(
        "--mended", type=Path, help="for markers: write the layout's markers, put right and without gaps (.c3d)"
    )
    one.add_argument("--card", type=Path, help="the performer card to solve with")
    one.add_argument("--rom", type=Path, help="a range of motion to make the card from (with --samples)")
    one.add_argument("--samples", type=Path, help="which frame of the range of motion shows what (JSON)")
    one.add_argument("--turn", type=Path, help="a neutral head turn, to make the card better")
    one.add_argument("--fov", type=float, help="the camera's field of view from top to bottom, in degrees (default 40)")
    one.add_argument("--first", type=int, default=0, help="the first frame to solve (default 0)")
    one.add_argument("--last", type=int, help="the last frame to solve (default: the clip's last)")
    one.add_argument("--moves", choices=("head", "camera", "neither"), default="head",
                     help="the head before a still camera, the camera round a still head, or neither (a head mount)")  # fmt: skip
    one.add_argument("--pins", type=Path, help="what was set by hand (JSON, see docs/formats.md)")
    one.add_argument("--out", type=Path, required=True, help="the curve table to write")
    one.add_argument("--json", action="store_true", help="print the findings as JSON")
    one.set_defaults(run=_solve)

    one = commands.add_parser("simulate", help="render a made-up performer before a camera, with the truth")
    one.add_argument("--seed", type=int, default=1, help="who performs, where and what (default 1)")
    one.add_argument("--what", choices=("performance", "rom", "turn"), default="performance",
                     help="an expressive performance, a range of motion, or a neutral head turn")  # fmt: skip
    one.add_argument("--seconds", type=float, default=10.0, help="length of a performance (default 10)")
    one.add_argument("--hand", action="store_true", help="a hand passes before the mouth")
    one.add_argument("--shake", type=float, default=0.0, help="metres by which a hand-held camera shakes (default 0)")
    one.add_argument("--mounted", action="store_true", help="the camera is fixed to the head")
    one.add_argument("--dots", type=Path, help="colour dots before a head mount; the dots to write (JSON)")
    one.add_argument("--out", type=Path, required=True, help="the clip to write (.mp4)")
    one.add_argument("--truth", type=Path, help="the curve table of the truth to write")
    one.add_argument("--samples", type=Path, help="the samples.json of a range of motion to write")
    one.set_defaults(run=_of("cli_solve", "simulate"))

    one = commands.add_parser("serve", help="run the web server (./dev start does this for you)")
    one.add_argument("--host", default="127.0.0.1")
    one.add_argument("--port", type=int, default=8460)
    one.add_argument("--prepare", action="store_true", help="first migrate the database and seed the demo")
    one.set_defaults(run=_serve)

    one = commands.add_parser("prepare", help="migrate the database and seed the demo, once before serving")
    one.set_defaults(run=_prepare)

    one = commands.add_parser("worker", help="run a job worker (as many as you like, on any machine)")
    one.set_defaults(run=_worker)

    one = commands.add_parser("account", help="add an account; the password is read from standard input")
    one.add_argument("name")
    one.set_defaults(run=_account)
    return parser


def _add_tidying(commands: Any) -> None:
    one = commands.add_parser("snags", help="list the places of a take where something looks wrong")
    one.add_argument("table", type=Path, help="a curve table")
    one.add_argument("--json", action="store_true", help="print them as JSON, mends included")
    one.set_defaults(run=_of("cli_tidy", "snags"))
    _add_voice(one)

    one = commands.add_parser("tidy", help="run a tidy stack over a curve table, or propose one for it")
    one.add_argument("table", type=Path, help="a curve table")
    one.add_argument("--stack", type=Path, help="the stack to run (JSON, see docs/formats.md)")
    one.add_argument("--propose", action="store_true", help="measure the take and propose a stack")
    one.add_argument("--out-stack", type=Path, help="the proposed stack to write")
    one.add_argument("--out", type=Path, help="the tidied curve table to write")
    one.set_defaults(run=_of("cli_tidy", "tidy"))
    _add_voice(one)

    one = commands.add_parser("reduce", help="make each channel as few keys as a tolerance allows")
    one.add_argument("table", type=Path, help="a curve table that is even in time")
    one.add_argument(
        "--tolerance", type=float, default=0.005, help="in shape units, thirty times as much in degrees (default 0.005)"
    )
    one.add_argument("--out", type=Path, required=True, help="the keys to write (JSON, see docs/formats.md)")
    one.add_argument("--json", action="store_true", help="print keys and errors as JSON")
    one.set_defaults(run=_of("cli_tidy", "reduce"))


def _add_voice(one: argparse.ArgumentParser) -> None:
    one.add_argument("--sound", type=Path, help="the take's voice (WAV); some snags are heard, not seen")
    one.add_argument("--sound-offset", type=float, default=0.0, help="seconds to add to the sound's times (default 0)")


def _import(options: argparse.Namespace) -> None:
    from dynaface.core.clock.rates import parse_rate
    from dynaface.core.curves.rerate import at_rate
    from dynaface.core.tidy.stack import evaluate
    from dynaface.formats.entries.curve_table import write_table

    recording, report = _table(options.table, {"rate": options.rate} if options.rate else None)
    channels = evaluate(recording, ())
    if options.rate:
        channels = at_rate(channels, parse_rate(options.rate))
    options.out.write_bytes(write_table(channels))
    described = report.describe() | {"framesWritten": channels.frames}
    if options.json:
        print(json.dumps(described, indent=1))
    else:
        _tell_table(described)
        print(f"wrote {options.out}: {channels.frames} frames")


def _table(path: Path, corrections: dict[str, Any] | None = None) -> tuple[Any, Any]:
    from dynaface.formats.catalogue import format_of
    from dynaface.formats.entries.curve_table import read_table

    data = path.read_bytes()
    fmt = format_of(data, path.name)
    if fmt.kind != "curves":
        raise InputError(f"{path.name} is a {fmt.label}, not a curve table")
    try:
        return read_table(data, corrections)
    except InputError as error:
        raise type(error)(f"{path.name}: {error.message}", where=error.where, hint=error.hint) from None


def _tell_table(r: dict[str, Any]) -> None:
    print(f"rows {r['rows']}, {r['span']:.3f} s, nominal {r['nominalRate']} fps, measured {r['measuredRate']:.3f} fps")
    print(
        f"dropped {r['dropped']}, doubled {r['doubled']}, uneven {r['uneven']}, longest gap {r['longestGap'] * 1000:.0f} ms"
    )
    print(f"matched {len(r['matched'])} columns, not matched {len(r['unmatched'])}, missing {len(r['missing'])} shapes")
    for key, word in (
        ("unmatched", "not matched"),
        ("missing", "missing"),
        ("beyond", "beyond 0..1"),
        ("notes", "note"),
    ):
        if r[key]:
            print(f"{word}: {', '.join(r[key])}")
    if r["timecode"]:
        print(f"timecode {r['timecode']} at {r['timecodeRate']}")


def _check(options: argparse.Namespace) -> None:
    from dynaface.formats.catalogue import format_of

    data = options.file.read_bytes()
    fmt = format_of(data, options.file.name)
    try:
        found = fmt.check(fmt.read(data))
    except InputError as error:
        raise type(error)(f"{options.file.name}: {error.message}", where=error.where, hint=error.hint) from None
    if options.json:
        print(json.dumps({"format": fmt.name, "kind": fmt.kind, **found}, indent=1))
        return
    print(f"{options.file.name}: {fmt.label}")
    if fmt.kind == "curves":
        _tell_table(found)
    else:
        for key, value in found.items():
            if value not in ([], ""):
                print(f"{key}: {', '.join(map(str, value)) if isinstance(value, list) else value}")


def _deliver(options: argparse.Namespace) -> None:
    from dynaface.core import checks
    from dynaface.core.cast.matching import match_targets
    from dynaface.core.cast.sheet import CastSheet
    from dynaface.core.perform.join import JoinSettings
    from dynaface.core.perform.perform import perform_take
    from dynaface.formats.catalogue import FORMATS
    from dynaface.formats.character_file import open_character
    from dynaface.formats.entries.curve_table import table_to_channels
    from dynaface.formats.sheet_file import read_sheet
    from dynaface.services.bake_handover import HandoverSettings, bake_handover

    channels = table_to_channels(options.table.read_bytes(), options.table.name)
    character, _, raw = open_character(options.character.read_bytes(), options.character.name)
    sheet = read_sheet(options.sheet.read_bytes()) if options.sheet else CastSheet()
    body = FORMATS["bvh"].read(options.body.read_bytes()) if options.body else None
    settings = JoinSettings({}, options.nudge, checks.within("head weight", options.head_weight, 0, 1))
    made = perform_take(channels, character, sheet, body, settings)
    sound = None
    if options.sound:
        FORMATS["wav"].read(options.sound.read_bytes())
        sound = {"file": options.sound.name, "offsetSeconds": options.sound_offset}
    baked = bake_handover(made, raw, character.skeleton, HandoverSettings(table=False), options.out.stem, sound)
    options.out.write_bytes(next(iter(baked.files.values())))
    report = match_targets(character, sheet)
    print(f"wrote {options.out}: {channels.frames} frames, {len(report.matched)} targets, {len(made.joints)} joints")
    if report.missing:
        print(f"the character lacks: {', '.join(report.missing)}")
    for check in baked.report["checks"]:
        print(f"{check['what']}: {check['found']}")


def _solve(options: argparse.Namespace) -> None:
    """Markers, colour dots and bare faces are solved by commands of their own."""
    markers = options.clip.suffix.lower() in (".c3d", ".csv", ".tsv", ".txt")
    _of("cli_markers" if markers else "cli_dots" if options.layout else "cli_solve", "solve")(options)


def _of(module: str, name: str) -> Any:
    """A command of a module; what it needs is loaded only when it is used."""

    def run(options: argparse.Namespace) -> None:
        import importlib

        getattr(importlib.import_module(f"dynaface.{module}"), name)(options)

    return run


def _serve(options: argparse.Namespace) -> None:
    from dynaface.serve import serve
    from dynaface.settings import from_environment
    from dynaface.wiring import prepare

    settings = from_environment()
    if settings.accounts == "alone" and options.host not in ("127.0.0.1", "localhost", "::1"):
        raise InputError("without accounts the server stays on this machine", hint="Set DYNAFACE_ACCOUNTS=password")
    if options.prepare:
        prepare(settings)
    serve(settings, options.host, options.port)


def _prepare(options: argparse.Namespace) -> None:
    from dynaface.settings import from_environment
    from dynaface.wiring import prepare

    prepare(from_environment())


def _worker(options: argparse.Namespace) -> None:
    # Before NumPy is loaded: workers share the machine, and small matrices gain nothing from threads that wait for each other.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    from dynaface.settings import from_environment
    from dynaface.wiring import work_on_jobs

    work_on_jobs(from_environment())


def _account(options: argparse.Namespace) -> None:
    from dynaface.services.sign_in import add_account
    from dynaface.settings import from_environment
    from dynaface.store.unit import Store

    add_account(Store(from_environment().database), options.name, sys.stdin.readline().rstrip("\n"))
    print(f"added {options.name}")
