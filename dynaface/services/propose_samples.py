"""What a clip offers for a performer card: neutral, samples, and the lens that it was filmed with."""

from typing import Any

import numpy as np

from dynaface.core.errors import InputError
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.track.footage import Footage
from dynaface.core.track.lens import Lens, estimate_lens, from_several_sides
from dynaface.core.track.neutral import OPEN, neutral_doubts, stillest
from dynaface.formats.head_file import general_head, landmark_places
from dynaface.services.load_source import load_footage
from dynaface.services.measure_footage import PART, unpacked
from dynaface.services.solve_footage import Found
from dynaface.services.work import Work, document_for, source_for

CLEAR = 0.25  # learned score above rest at which an expression counts as shown


def propose_samples(work: Work, take: str) -> dict[str, Any]:
    """The stillest second, and for each shape the frame in which it is most shown, by the learned scores."""
    landmarks, footage = _seen(work, take)
    first, last = stillest(landmarks, float(footage.rate))
    scores = np.array([m.scores if m else np.zeros(len(SHAPES)) for m in landmarks])
    rise = scores - np.median(scores[first : last + 1], axis=0)
    samples = {s: int(np.argmax(rise[:, i])) for i, s in enumerate(SHAPES) if rise[:, i].max() > CLEAR}
    strength = {s: round(float(rise[:, SHAPES.index(s)].max()), 3) for s in samples}
    return {"neutral": (first, last), "samples": samples, "strength": strength}


def check_neutral(work: Work, take: str, first: int, last: int) -> list[str]:
    """What speaks against frames first..last of a take's footage as the neutral face."""
    found = _seen(work, take)[0][first : last + 1]
    if not found:
        raise InputError(f"frames {first}..{last} are not in the clip")
    return neutral_doubts(found)


def measure_lens(work: Work, take: str, turn: str | None) -> Lens:
    """The lens of a take's footage, from its own quiet frames or from those of a head turn."""
    found, footage = _seen(work, turn or take)
    own = _seen(work, take)[1] if turn else footage
    if (own.width, own.height) != (footage.width, footage.height):
        raise InputError("the head turn is of another size than this clip", hint="Record both with the same camera")
    quiet = [m.points[:468] for m in found if m and m.scores[SHAPES.index("jawOpen")] < OPEN]
    if len(quiet) < 3:
        raise InputError("there are too few frames with a quiet face", hint="Choose a clip in which the head turns")
    points = np.array(quiet, np.float64)
    chosen = points[from_several_sides(points)]
    return estimate_lens(general_head(), landmark_places(), (footage.width, footage.height), list(chosen))


def _seen(work: Work, take: str) -> tuple[Found, Footage]:
    """What is seen in a take's footage; raises InputError before it was looked through."""
    with work.store.unit() as unit:
        held = document_for(work, unit, take, "take").body["sources"].get("footage")
        if not held:
            raise InputError("this take has no footage", hint="Bring in a clip at the Gather desk")
        source = source_for(work, unit, held)
        rows = unit.sources.read_block(held, PART)
    if rows is None:
        raise InputError("this footage has not been looked through yet", hint="Wait for its job to end")
    return [unpacked(r) for r in rows], load_footage(work, source)
