"""The props that a role of a shot holds, as files that go along with its handover."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from dynaface.core.clock.rates import format_rate
from dynaface.core.perform.perform import Performance
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.gltf.prop import bake_prop, carrier_of
from dynaface.pipelines.bake_handover import compared, sampled_frames
from dynaface.services.handover.deliver_take import file_name
from dynaface.services.shot.evaluate_shot import PreparedRole
from dynaface.services.work import Work


def props_of_role(work: Work, prepared: PreparedRole, made: Performance, label: str) -> Iterator[tuple[str, bytes, dict[str, Any]]]:  # fmt: skip
    """(file name, glTF binary, check) of each prop that is in a hand of the role at some time, in the role's own space, so that it lies
    in the hand of the character that is handed over; made: the performance at the rate of the handover.
    """
    shot, role = prepared.snapshot.documents.shot.body, prepared.snapshot.role
    if prepared.graph.props is None:
        return
    held = prepared.graph.props.result(prepared.cache)
    rate = made.channels.rate
    for key, (source, _) in prepared.snapshot.props.items():
        entry = shot.props[key]
        if not any(hold.role == prepared.snapshot.key for hold in entry.holds.values()):
            continue
        way = held.props[key].way.seen_from(role.at, role.turn).at_rate(shot.fps, rate, made.channels.frames)
        name = f"{label} {entry.name}"
        baked = bake_prop(work.media.get(source.media), way, rate, entry.size, entry.name, {"rate": format_rate(rate)})
        frames = sampled_frames(made.channels.frames)
        read = sample_glb(baked, frames)
        carrier = carrier_of(entry.name)
        worst = max(float(np.abs(read[(carrier, "translation")] - way.at[frames]).max()),
                    float(np.abs(read[(carrier, "rotation")] - way.turns[frames]).max()))  # fmt: skip
        check = compared(f"{entry.name} where the viewer has it at {len(frames)} frames", worst)
        yield f"{file_name(name)}.glb", baked, check
