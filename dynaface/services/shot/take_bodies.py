"""The bodies of the takes that a role shows."""

from collections.abc import Mapping
from dataclasses import dataclass

from dynaface.core.body.skeleton import Motion, Skeleton
from dynaface.core.curves.channels import Channels
from dynaface.core.documents.model.join import JoinBody
from dynaface.core.documents.model.match import MatchBody
from dynaface.core.documents.model.shot import PlacementEntry, Role
from dynaface.core.evaluate.bodies import PlacedSource
from dynaface.core.evaluate.node import Node, constant
from dynaface.core.measures.fitted import fitted
from dynaface.core.measures.measures import Measures
from dynaface.core.perform.join_settings import JoinSettings
from dynaface.core.records.records import Document, Source
from dynaface.core.shot.placed_body import BodyTake
from dynaface.services.load_source import load_motion
from dynaface.services.shot.clips import ClipFound
from dynaface.services.take.performer_measures import measures_of
from dynaface.services.take.prepare_take import moving_key
from dynaface.services.take.snapshot import join_of, joined, matches_of
from dynaface.services.work import Work
from dynaface.store.unit import Unit


@dataclass(frozen=True)
class BodyFound:
    """Where the body of a take lies. sources: by kind, "body" and maybe "hands"; measures: of its performer."""

    sources: dict[str, Source]
    join: Document[JoinBody]
    matches: Mapping[str, Document[MatchBody]]
    measures: Measures


@dataclass(frozen=True)
class TakeMotion:
    """The body of a take, and how it is joined to the role's character."""

    motion: Motion
    body: Node[Motion | None]
    hands: Node[Motion | None]
    join: JoinSettings


def read_bodies(unit: Unit, production: str, role: Role, clips: Mapping[str, ClipFound]) -> dict[str, BodyFound]:
    """take -> its body, of those that a role shows and that have one."""
    named = {p.clip for p in role.placements.values() if p.shows != "face"}
    takes = {c.take.id: c.take for n in named if (c := clips.get(n)) is not None and c.take is not None}
    held = {t: {k: s for k, s in take.body.sources.held.items() if k in ("body", "hands")} for t, take in takes.items()}
    rows = {s.id: s for s in unit.sources.many(sorted({s for kinds in held.values() for s in kinds.values()}))}
    matches = matches_of(unit, production) if rows else {}
    found = {}
    for take, kinds in held.items():
        sources = {k: rows[s] for k, s in kinds.items() if s in rows and rows[s].production == production}
        if "body" in sources:
            measures = measures_of(unit, production, takes[take].body.performer)
            found[take] = BodyFound(sources, join_of(unit, takes[take]), matches, measures)
    return found


def load_bodies(work: Work, found: Mapping[str, BodyFound], rig: Skeleton) -> dict[str, TakeMotion]:
    """The motions of bodies that were found, as they are joined to a skeleton."""
    out = {}
    for take, one in found.items():
        moving = {kind: load_motion(work, source) for kind, source in one.sources.items()}
        moving["body"] = fitted(moving["body"], one.measures)
        settings = joined(one.join.body, moving, rig, one.matches)
        out[take] = TakeMotion(
            moving["body"],
            constant(moving_key(one.sources["body"], one.measures), moving["body"]),
            constant(f"source {one.sources['hands'].id}", moving["hands"]) if "hands" in moving else NO_HANDS,
            settings,
        )
    return out


def placed_source(entry: PlacementEntry, found: TakeMotion, face: Channels | None) -> PlacedSource:
    """A placement with its body; face: of its take, in whose time the body is seen, or in its own where the take has none."""
    rate, timecode = (face.rate, face.timecode) if face else (found.motion.rate, found.motion.timecode)
    return PlacedSource(entry.placement, entry.follows, BodyTake(rate, timecode, found.join), found.body, found.hands)


NO_HANDS: Node[Motion | None] = constant("no body", None)
