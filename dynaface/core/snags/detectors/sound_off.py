"""Sound late or early."""

from dynaface.core.errors import InputError
from dynaface.core.snags.snag import Detector, Evidence, Snag, severity
from dynaface.core.sync.lips_to_sound import estimate

LIMIT = 0.06  # seconds; less is hardly seen


def find(evidence: Evidence) -> list[Snag]:
    """At most one, and only where the estimate is sure."""
    assert evidence.sound is not None
    try:
        found = estimate(evidence.channels, evidence.sound)
    except InputError:
        return []
    shift = found.offset - evidence.sound_start
    if not found.confident or abs(shift) <= LIMIT:
        return []
    word = "late" if shift < 0 else "early"
    return [Snag(
        "sound off", "lips", ("jawOpen",), 0, evidence.channels.frames - 1, severity(abs(shift), LIMIT, 0.4), abs(shift), LIMIT,
        "s", f"The sound is {abs(shift) * 1000:.0f} ms {word} against the lips.", (), round(shift, 3),
    )]  # fmt: skip


DETECTOR = Detector(
    "sound off", "Sound late or early", "Voice and lips fit better when the sound is moved.", find, ("sound",)
)
