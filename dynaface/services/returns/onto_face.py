"""What came back on a character, as a change of its face: through the cast sheet, as far as that goes."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dynaface.core.body.rotations import inverse, multiply
from dynaface.core.returns.compare import ALLOWED, Difference, runs_of
from dynaface.core.returns.returned_layer import Axes, Clock
from dynaface.core.returns.uncast import Wanted, uncast
from dynaface.services.shot.evaluate_shot import PreparedRole
from dynaface.services.shot.snapshot import no_character
from dynaface.services.work import Work

TOLD = 0.01  # of a target


@dataclass(frozen=True)
class OnFace:
    """face: differences of channels, at the frames of the shot; rest: those that no channel is behind; left: how far the character is from what came back, in words."""

    face: list[Difference]
    rest: list[Difference]
    left: list[str]


def onto_face(work: Work, prepared: PreparedRole, found: Sequence[Difference], clock: Clock, axes: Axes) -> OnFace:
    """Weights of targets, and turns of joints that the sheet turns, as channels of the performance; raises InputError without a character."""
    graph, rig = prepared.graph, prepared.snapshot.character
    if graph.cast is None or rig is None:
        raise no_character()
    was = (graph.free or graph.cast).result(work.cache)
    there = clock.there(np.arange(clock.frames, dtype=np.float64))
    weights, turns, rest = {}, {}, []
    frames: set[int] = set()
    for one in found:
        if one.part == "weight" and one.of in was.targets:
            weights[one.of] = was.weights[:, was.targets.index(one.of)] + one.at(there)
        elif one.part == "turn" and one.of in was.eyes:
            assert rig.skeleton is not None
            stands = rig.skeleton.global_rest()[0][rig.skeleton.index(one.of)]
            by = multiply(multiply(stands, axes.turn(one.of, one.at(there))), inverse(stands))
            turns[one.of] = multiply(was.eyes[one.of], by)
        elif one.part == "turn" and one.of in was.turns and one.of not in was.whole:
            turns[one.of] = multiply(was.turns[one.of], axes.turn(one.of, one.at(there)))
        else:
            rest.append(one)
            continue
        frames |= {f for a, b in clock.runs(one) for f in range(a, b + 1)}
    tidied = graph.tidied.result(work.cache)
    solved = uncast(tidied, Wanted(weights, turns), rig, prepared.sheet, frames)
    face = []
    for name in solved.channels.names:
        before = tidied.column(name) if name in tidied.names else np.zeros(tidied.frames)
        by = np.nan_to_num(solved.channels.column(name).astype(np.float64) - before)
        runs = runs_of(np.abs(by) > ALLOWED["channel"])
        if runs:
            face.append(Difference("channel", name, by, np.abs(by), runs))
    left = [f"{n} is {by:.2g} from what came back: no channel says that" for n, by in solved.left.items() if by > TOLD]
    return OnFace(face, rest, left)
