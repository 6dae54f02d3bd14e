"""The props that a role of a shot holds, as files that go along with its handover."""

import numpy as np

from dynaface.core.clock.rates import format_rate
from dynaface.core.handover.asked import since
from dynaface.core.handover.delivery import Figure
from dynaface.core.handover.file_name import file_name
from dynaface.core.handover.options import HandoverOptions
from dynaface.core.prop.prop import PropWay
from dynaface.formats.gltf.bake import sample_glb
from dynaface.formats.gltf.prop import bake_prop, carrier_of
from dynaface.formats.handover import compared, sampled_frames
from dynaface.services.handover.made import Beside
from dynaface.services.shot.evaluate_shot import PreparedRole
from dynaface.services.work import Work


def props_of_role(work: Work, prepared: PreparedRole, figure: Figure, options: HandoverOptions) -> Beside:
    """Each prop that is in a hand of the role at some time as a glTF binary, in the role's own space, so that it lies in the hand of the
    character that is handed over.
    """
    shot, role = prepared.snapshot.documents.shot.body, prepared.snapshot.role
    if prepared.graph.props is None:
        return
    held = prepared.graph.props.result(prepared.cache)
    channels = figure.performance.channels
    for key, (source, _) in prepared.snapshot.props.items():
        entry = shot.props[key]
        if not any(hold.role == prepared.snapshot.key for hold in entry.holds.values()):
            continue
        begins = since(prepared.performance, figure.performance) + float(options.rest) / float(channels.rate)
        way = held.props[key].way.seen_from(role.at, role.turn)
        way = way.from_second(begins, shot.fps).at_rate(
            shot.fps, channels.rate, channels.frames - options.rest - options.neutral
        )
        way = _with_ends(way, options)
        baked = bake_prop(
            work.media.get(source.media),
            way,
            channels.rate,
            entry.size,
            entry.name,
            {"rate": format_rate(channels.rate)},
        )
        frames = sampled_frames(channels.frames)
        read = sample_glb(baked, frames)
        carrier = carrier_of(entry.name)
        worst = max(float(np.abs(read[(carrier, "translation")] - way.at[frames]).max()),
                    float(np.abs(read[(carrier, "rotation")] - way.turns[frames]).max()))  # fmt: skip
        check = compared(f"{entry.name} where the viewer has it at {len(frames)} frames", worst)
        yield f"{figure.name}_{file_name(entry.name)}.glb", baked, check


def _with_ends(way: PropWay, options: HandoverOptions) -> PropWay:
    """A prop stands where it is while its role is at rest before or after."""
    ends = (int(options.rest), int(options.neutral))
    return PropWay(np.pad(way.at, (ends, (0, 0)), "edge"), np.pad(way.turns, (ends, (0, 0)), "edge"))
