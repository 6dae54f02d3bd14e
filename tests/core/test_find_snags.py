"""Running the detectors: what no detector finds is listed among what they find."""

from fractions import Fraction

import numpy as np

from dynaface.core.curves.channels import Channels
from dynaface.core.snags.find import find_snags
from dynaface.core.snags.snag import Evidence, Snag


def crossing(first, bad):
    return Snag("through itself", "lips", ("mouthClose",), first, first + 1, bad, 1, 0, "mm", "lips cross")


def test_snags_from_elsewhere_are_told_apart_and_stand_by_their_severity():
    still = Channels(("jawOpen",), np.zeros((60, 1), np.float32), Fraction(60))
    found = find_snags(Evidence(still), (), [crossing(8, 0.2), crossing(12, 0.9), crossing(40, 0.5)])
    assert [s.first for s in found] == [12, 40, 8]
    assert len({s.key for s in found}) == 3
