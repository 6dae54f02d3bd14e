"""`dynaface layout`."""

import argparse
import json
from pathlib import Path

from dynaface.cli.command import Command
from dynaface.cli.files import markers_of
from dynaface.core.markers.propose_layout import layout_doubts, propose_layout
from dynaface.pipelines.solve_markers import general_chart


def arguments(one: argparse.ArgumentParser) -> None:
    """Adds its arguments."""
    one.add_argument("markers", type=Path, help="a take of markers (.c3d) with a still face in it")
    one.add_argument(
        "--neutral", type=int, nargs=2, default=(0, 0), help="first and last frame of the still face (default 0 0)"
    )
    one.add_argument("--out", type=Path, required=True, help="the layout to write (JSON)")


def run(options: argparse.Namespace) -> None:
    """Proposes which marker sits on which place."""
    take = markers_of(options.markers)
    first, last = options.neutral
    made = propose_layout(take, general_chart(), (first, last))
    options.out.write_text(json.dumps(made.describe(), indent=1) + "\n")
    print(
        f"wrote {options.out}: {len(made.places)} of {len(take.labels)} markers on the chart's {len(general_chart().names)} places"
    )
    left = [label for label in take.labels if label not in made.places]
    if left:
        print(f"on no place: {', '.join(left)}")
    for doubt in layout_doubts(take, made, general_chart()):
        print(doubt)


COMMAND = Command("layout", "propose which optical marker sits on which place of the face", arguments, run)
