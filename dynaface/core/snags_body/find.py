"""Running the detectors over a joined body."""

from collections.abc import Collection

from dynaface.core.registry import discover
from dynaface.core.snags.find import worst_first
from dynaface.core.snags.snag import Snag
from dynaface.core.snags_body import detectors as _detectors
from dynaface.core.snags_body.evidence import BodyDetector, BodyEvidence

BODY_DETECTORS: dict[str, BodyDetector] = discover(_detectors, "DETECTOR")
MAX_PER_KIND = 200


def find_body_snags(evidence: BodyEvidence, kinds: Collection[str] = ()) -> list[Snag]:
    """All snags, worst first; of one kind at most the MAX_PER_KIND worst. kinds: those that are looked for, all where none is named."""
    out: list[Snag] = []
    wanted = [d for name, d in BODY_DETECTORS.items() if not kinds or name in kinds]
    for detector in wanted if evidence.body.frames >= 8 and evidence.frames else ():
        out += sorted(detector.find(evidence), key=lambda s: -s.severity)[:MAX_PER_KIND]
    return worst_first(out)
