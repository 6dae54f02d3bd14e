"""`dynaface solve`."""

import argparse
import importlib
import os
from pathlib import Path

from dynaface.cli.command import Command


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
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
    one.add_argument(
        "--fov",
        type=float,
        help="the camera's field of view from top to bottom, in degrees (default: measured from the head turn, 40 without one)",
    )
    one.add_argument("--neutral", type=int, metavar="FRAME",
                     help="without a card: the frame of the clip that is neutral (default: those in which the least is expressed)")  # fmt: skip
    one.add_argument("--first", type=int, default=0, help="the first frame to solve (default 0)")
    one.add_argument("--last", type=int, help="the last frame to solve (default: the clip's last)")
    one.add_argument("--moves", choices=("head", "camera", "neither"), default="head",
                     help="the head before a still camera, the camera round a still head, or neither (a head mount)")  # fmt: skip
    one.add_argument("--tacks", type=Path, help="what was set by hand (JSON, see docs/formats.md)")
    one.add_argument("--out", type=Path, required=True, help="the curve table to write")
    one.add_argument("--json", action="store_true", help="print the findings as JSON")


def run(options: argparse.Namespace) -> None:
    """Solves a bare face, markers or colour dots."""
    # Before NumPy is loaded: each core has a process of its own, and small matrices gain nothing from threads that wait for each other.
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    markers = options.clip.suffix.lower() in (".c3d", ".csv", ".tsv", ".txt")
    solver = "solve_markers" if markers else "solve_dots" if options.layout else "solve_footage"
    importlib.import_module(f"dynaface.cli.{solver}").solve(options)


COMMAND = Command("solve", "solve footage of a face, or optical markers on it, into a curve table", arguments, run)
