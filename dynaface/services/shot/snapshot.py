"""Everything that evaluating a role of a shot needs, read at one moment."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from dynaface.core.cast.character import Character
from dynaface.core.curves.channels import Recording
from dynaface.core.documents.model.cast import CastBody, cast_body
from dynaface.core.documents.model.character import CharacterBody
from dynaface.core.documents.model.layer import LayerBody
from dynaface.core.documents.model.profiles import ProfilesBody
from dynaface.core.documents.model.shot import Role, ShotBody
from dynaface.core.documents.model.words import WordsBody
from dynaface.core.errors import InputError, NotFoundError
from dynaface.core.prop.prop import PropShape
from dynaface.core.records.records import Document, Source
from dynaface.core.shapes.rig import rig_channel
from dynaface.services.edit_document import Wanted, edited
from dynaface.services.load_source import load_character, load_prop, load_recording
from dynaface.services.shot.clips import ClipFound, clips_found
from dynaface.services.shot.take_bodies import BodyFound, TakeMotion, load_bodies, read_bodies
from dynaface.services.take.snapshot import cast_key
from dynaface.services.work import Work, document_for, source_within
from dynaface.store.unit import Unit

PROFILES_KEY = "blink profiles"


@dataclass(frozen=True)
class ShotWish:
    """What is only wished for: changes of the shot, and of layers by id, that are not stored; another character for the role; stepped:
    keys of layers hold until the next; top: a layer on top that is not stored; rig: channels of the character's rig that are asked for.
    """

    shot: Wanted = ()
    layers: Mapping[str, Wanted] | None = None
    character: str | None = None
    stepped: bool = False
    top: Document[LayerBody] | None = None
    rig: Sequence[str] = ()


@dataclass(frozen=True)
class ShotDocuments:
    """A shot with its layers (by rank), the clips that its roles name, by id, the words of their sounds, by sound, and the production's
    blink profiles, where it has copies.
    """

    shot: Document[ShotBody]
    layers: tuple[Document[LayerBody], ...]
    clips: dict[str, ClipFound]
    words: dict[str, Document[WordsBody]]
    profiles: Document[ProfilesBody] | None = None


@dataclass(frozen=True)
class RoleSnapshot:
    """One role with the numbers that it names. recordings: by source; bodies: by role and take, of it and the others; others: characters of the roles that aims name; before: its layers
    as they are stored, where only layers are wished otherwise; played_by: the id of its character; shown: channels of its rig that are
    asked for; props: the shot's props by key, as they were brought; holders: the other roles whose hands hold some, where the shot has any.
    """

    key: str
    documents: ShotDocuments
    recordings: dict[str, Recording]
    character: Character | None
    character_name: str
    rig: Source | None
    cast: Document[CastBody] | None
    others: dict[str, Character | None]
    other_rigs: dict[str, Source | None]
    bodies: dict[str, dict[str, TakeMotion]]
    stepped: bool = False
    before: tuple[Document[LayerBody], ...] = ()
    played_by: str | None = None
    shown: tuple[str, ...] = ()
    props: Mapping[str, tuple[Source, PropShape]] = field(default_factory=dict)
    holders: Mapping[str, "RoleSnapshot"] = field(default_factory=dict)

    @property
    def role(self) -> Role:
        """The role."""
        return self.documents.shot.body.roles[self.key]

    @property
    def layers(self) -> tuple[Document[LayerBody], ...]:
        """Its layers by rank, those that are put away left out."""
        return tuple(n for n in self.documents.layers if n.body.role == self.key and not n.body.archived)


def read_shot(work: Work, unit: Unit, shot: str) -> ShotDocuments:
    """The documents of a shot; nothing is written."""
    found = document_for(work, unit, shot, ShotBody)
    layers = unit.documents.of_kind(found.production, LayerBody, shot=shot)
    named = {p.clip for role in found.body.roles.values() for p in role.placements.values()}
    clips = clips_found(unit, found.production, sorted(named))
    sounds = {c.take.body.sources.sound for c in clips.values() if c.take} | {
        s.source for s in found.body.sounds.values()
    }
    words = {s: w for s in sounds if s and (w := unit.documents.by_key(found.production, WordsBody, words_key(s)))}
    return ShotDocuments(
        found,
        tuple(sorted(layers, key=lambda n: (n.body.rank, n.id))),
        clips,
        words,
        unit.documents.by_key(found.production, ProfilesBody, PROFILES_KEY),
    )


def words_key(sound: str) -> str:
    """The key of a sound's words in its production."""
    return f"words {sound}"


def role_of(shot: Document[ShotBody], role: str) -> Role:
    """The role of this key; raises NotFoundError."""
    if role not in shot.body.roles:
        raise NotFoundError("there is no such role in this shot")
    return shot.body.roles[role]


def no_character() -> InputError:
    """What is said where a role needs a character."""
    return InputError("this role has no character", hint="Choose one for it")


def role_snapshot(work: Work, shot: str, role: str, wish: ShotWish | None = None) -> RoleSnapshot:
    """Reads a role for evaluating; raises InputError where the wish cannot be met."""
    wish = wish or ShotWish()
    with work.store.snapshot() as unit:
        found = read_shot(work, unit, shot)
        body = edited(found.shot.body, wish.shot) if wish.shot else found.shot.body
        asked = wish.layers or {}
        layers = tuple(replace(n, body=edited(n.body, asked[n.id])) if n.id in asked else n for n in found.layers)
        layers += (wish.top,) if wish.top else ()
        plain = bool(asked) and not (wish.shot or wish.top or wish.character)
        before = found.layers if plain else ()
        found = replace(found, shot=replace(found.shot, body=body), layers=layers)
        read = _read_role(work, unit, found, role, wish.character)
        sources = props_of(unit, found.shot)
        holding = set(body.holding) - {role} if sources else ()
        others = {other: _read_role(work, unit, found, other, None) for other in sorted(holding)}
    shown = tuple(dict.fromkeys(wish.rig))
    if strange := [n for n in shown if rig_channel(n) is None]:
        raise InputError(f"{strange[0]!r:.80} is no target and no joint of a rig")
    props = {key: (source, load_prop(work, source)) for key, source in sources.items()}
    holders = {other: replace(one.load(work), stepped=wish.stepped) for other, one in others.items()}
    return replace(read.load(work), stepped=wish.stepped, before=before, shown=shown, props=props, holders=holders)


def props_of(unit: Unit, shot: Document[ShotBody]) -> dict[str, Source]:
    """The sources of a shot's props by the props' keys; those that are not there are left out."""
    named = {key: prop.source for key, prop in shot.body.props.items()}
    rows = {s.id: s for s in unit.sources.many(sorted(set(named.values())))} if named else {}
    return {
        key: rows[source]
        for key, source in named.items()
        if source in rows and rows[source].production == shot.production
    }


@dataclass(frozen=True)
class _RoleRead:
    """What was read of a role in the transaction; its files are loaded after it."""

    snapshot: RoleSnapshot
    moving: Mapping[str, Mapping[str, BodyFound]]

    def load(self, work: Work) -> RoleSnapshot:
        """The role with its characters and bodies."""
        read = self.snapshot
        character = load_character(work, read.rig) if read.rig else None
        others = {other: load_character(work, theirs) if theirs else None for other, theirs in read.other_rigs.items()}
        bodies = {
            key: load_bodies(work, self.moving[key], rigged.skeleton)
            for key, rigged in {read.key: character, **others}.items()
            if rigged and rigged.skeleton
        }
        return replace(read, character=character, others=others, bodies=bodies)


def _read_role(work: Work, unit: Unit, found: ShotDocuments, role: str, played: str | None) -> _RoleRead:
    """One role; played: a character in place of its own."""
    own = role_of(found.shot, role)
    roles = found.shot.body.roles
    looked = sorted({a.role for a in found.shot.body.aims.values() if a.role} & (set(roles) - {role}))
    recordings = {
        c.curves.id: load_recording(work, unit, c.curves)
        for someone in (own, *(roles[other] for other in looked))
        for p in someone.placements.values()
        if (c := found.clips.get(p.clip)) is not None and c.curves is not None
    }
    rigs = {other: _rig(work, unit, found.shot, roles[other].character) for other in looked}
    chosen = played or own.character
    moving = {key: read_bodies(unit, found.shot.production, roles[key], found.clips) for key in (role, *looked)}
    name, rig, cast = _character(work, unit, found.shot, own.performer, chosen) if chosen else ("", None, None)
    return _RoleRead(
        RoleSnapshot(role, found, recordings, None, name, rig, cast, {}, rigs, {}, played_by=chosen), moving
    )


def _rig(work: Work, unit: Unit, shot: Document[ShotBody], character: str | None) -> Source | None:
    """The rig of a character, if there is one."""
    if character is None:
        return None
    found = _within(work, unit, shot, character)
    return source_within(unit, shot.production, found.body.source, "character")


def _within(work: Work, unit: Unit, shot: Document[ShotBody], character: str) -> Document[CharacterBody]:
    """A character of the shot's production; raises NotFoundError."""
    found = document_for(work, unit, character, CharacterBody)
    if found.production != shot.production:
        raise NotFoundError("there is no such character in this production")
    return found


def _character(work: Work, unit: Unit, shot: Document[ShotBody], performer: str, character: str
               ) -> tuple[str, Source | None, Document[CastBody] | None]:  # fmt: skip
    """(name, rig, cast sheet of the performer on it, or the one that they would begin with)."""
    found = _within(work, unit, shot, character)
    rig = source_within(unit, shot.production, found.body.source, "character")
    key = cast_key(performer, character)
    sheet = unit.documents.by_key(shot.production, CastBody, key)
    fresh = Document("", shot.production, CastBody.kind, key, 0, cast_body(performer, character), shot.created)
    return found.body.name, rig, sheet or fresh
