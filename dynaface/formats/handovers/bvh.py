"""The body as BVH; its timecode stands in a comment behind the frames, BVH having no place for it."""

from fractions import Fraction

import numpy as np

from dynaface.core.body.skeleton import Motion
from dynaface.core.handover.delivery import Delivery, Figure
from dynaface.core.parameters import Parameter
from dynaface.core.returns.brought import Brought, of_motion
from dynaface.formats.entries import bvh
from dynaface.formats.handover import (
    Check,
    Files,
    HandoverForm,
    Settings,
    Tell,
    compared,
    of_file,
    sampled_frames,
    skeleton_lacks,
)

UNITS = {"centimetres": 100.0, "metres": 1.0, "inches": 1 / 0.0254}
UP = ("y", "z")
FAR = 2e-3  # metres: five decimals of a degree add up along an arm, of an inch too


def write(delivery: Delivery, settings: Settings, tell: Tell) -> dict[str, bytes]:
    """A file a figure."""
    return {
        f"{figure.name}.bvh": bvh.write(_motion(delivery, figure), UNITS[settings["units"]], settings["up"])
        for figure in delivery.figures
    }


def _motion(delivery: Delivery, figure: Figure) -> Motion:
    assert figure.skeleton is not None
    made = figure.performance.motion(figure.skeleton)
    return made.renamed(tuple(delivery.options.named(n) for n in made.skeleton.names))


def check(files: Files, delivery: Delivery, settings: Settings, node: str) -> list[Check]:
    """Read back, joints are where they are on the character."""
    out = []
    for figure in delivery.figures:
        name = f"{figure.name}.bvh"
        meant, read = _motion(delivery, figure), bvh.read(files[name])
        found = [Check("body reads back", read.frames == meant.frames, f"{read.frames} of {meant.frames} frames")]
        if read.frames == meant.frames:
            frames = sampled_frames(meant.frames)
            places = [m.skeleton.pose(m.local[frames], m.root[frames])[1] for m in (meant, read)]
            order = [read.skeleton.index(n.replace(" ", "_")) for n in meant.skeleton.names]
            # A reader guesses the unit by how large a figure is; here it is known.
            own, theirs = (float(np.linalg.norm(m.skeleton.offsets)) for m in (meant, read))
            shown = places[1][:, order] * (own / max(theirs, 1e-9))
            if settings["up"] == "z":
                shown = np.stack([shown[..., 0], shown[..., 2], -shown[..., 1]], axis=-1)
            worst = float(np.abs(shown - places[0]).max())
            found.append(compared(f"joints where the viewer has them at {len(frames)} frames", worst, FAR))
        out += of_file(name, found, len(delivery.figures) > 1)
    return out


def bring(data: bytes, near: Fraction) -> dict[str, Brought]:
    """The bodies of a file that comes back, its joints with the world's axes at rest."""
    found = {motion.skeleton.names[0]: of_motion(motion, world=True) for motion in bvh.read_all(data)}
    return found if len(found) > 1 else {"": next(iter(found.values()))}


FORM = HandoverForm(
    "bvh", "Body (.bvh)", ".bvh", "Joints and travel of the body, without shapes.", skeleton_lacks, write, check,
    (
        Parameter("units", "Lengths in", "choice", "centimetres", options=tuple(UNITS)),
        Parameter("up", "Upwards", "choice", "y", options=UP, help="The axis that points up in the file"),
    ),
    rank=3,
    bring=bring,
)  # fmt: skip
