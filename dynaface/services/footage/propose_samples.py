"""What a clip offers for a performer card: neutral, samples, and the lens that it was filmed with."""

from typing import Any

from dynaface.core import checks
from dynaface.core.errors import InputError
from dynaface.core.records.records import Job
from dynaface.core.shapes.standard import SHAPES
from dynaface.core.solve.extremes import extremes
from dynaface.core.track.footage import Footage
from dynaface.core.track.neutral import farthest, neutral_doubts, stillest
from dynaface.formats.card_file import write_card
from dynaface.pipelines.progress import Progress
from dynaface.pipelines.solve_footage import card_of_clip, finish_footage
from dynaface.services.footage.measure_footage import landmarks_of, measured_by
from dynaface.services.footage.seen_landmarks import SeenLandmarks, is_looked_through, seen_landmarks
from dynaface.services.load_source import load_footage
from dynaface.services.take.take_sources import footage_of
from dynaface.services.work import Work


def propose_samples(work: Work, job: Job, progress: Progress) -> dict[str, Any]:
    """The work itself, in the worker: the stillest second, and the frame of each expression's extreme in the clip
    solved with the general face.
    """
    _, source = footage_of(work, job.request["take"])
    footage = load_footage(work, source)
    found = landmarks_of(work, job, source, footage, lambda part, words: progress(0.3 * part, words))
    neutral = stillest(found, float(footage.rate))
    card = card_of_clip(footage, found, range(neutral[0], neutral[1] + 1, 2))
    medium, _ = work.media.put_bytes(write_card(card))
    span = (0, footage.frames - 1)
    measured = measured_by(work, job, source, medium, span, lambda part, words: progress(0.3 + 0.65 * part, words))
    weights = finish_footage(footage, card, measured, 0).channels.values[:, : len(SHAPES)]
    shown = extremes(weights, neutral)
    return {
        "neutral": neutral,
        "samples": {s: frame for s, (frame, _) in shown.items()},
        "strength": {s: round(rise, 3) for s, (_, rise) in shown.items()},
    }


def find_extreme(work: Work, take: str, shape: str) -> dict[str, Any]:
    """Where an expression that was taken again is at its extreme; frame None while its clip is being looked through."""
    checks.one_of("shape", shape, SHAPES)
    _, source = footage_of(work, take)
    frame = None
    if is_looked_through(work, source) and source.info.get("proxy"):
        frame = farthest(SeenLandmarks(work, source), shape)
        if frame < 0:
            raise InputError("no face is seen in this clip", hint="Take it again with the face in the picture and lit")
    return {"footage": source.id, "frame": frame, "frames": source.info["frames"], "rate": str(source.info["rate"]),
            "width": source.info["width"], "height": source.info["height"]}  # fmt: skip


def check_neutral(work: Work, take: str, first: int, last: int) -> list[str]:
    """What speaks against frames first..last of a take's footage as the neutral face."""
    found = _seen(work, take)[0][first : last + 1]
    if not found:
        raise InputError(f"frames {first}..{last} are not in the clip")
    return neutral_doubts(found)


def _seen(work: Work, take: str) -> tuple[SeenLandmarks, Footage]:
    """What is seen in a take's footage; raises InputError before it was looked through."""
    _, source = footage_of(work, take)
    return seen_landmarks(work, source), load_footage(work, source)
