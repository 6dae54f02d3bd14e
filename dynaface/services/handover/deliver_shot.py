"""A role of a shot, or all of its roles, as they are handed over: with the shot's sound and the props that are held."""

from dynaface.core.errors import InputError
from dynaface.core.handover.asked import asked, since
from dynaface.core.handover.delivery import Delivery, Figure, Voice
from dynaface.core.handover.edit_list import cut_to, exact
from dynaface.core.handover.file_name import named_by
from dynaface.pipelines.bake_handover import HandoverSettings
from dynaface.services.handover.edit_lists import edit_of_shot
from dynaface.services.handover.made import Beside, Made, words_for
from dynaface.services.handover.props_of_role import props_of_role
from dynaface.services.shot.evaluate_shot import PreparedRole, prepare_role
from dynaface.services.shot.shot_sound import shot_sound
from dynaface.services.shot.snapshot import read_shot
from dynaface.services.work import Work


def roles_with_characters(work: Work, shot: str) -> list[str]:
    """Keys of the roles that somebody plays; raises InputError where there are none."""
    with work.store.snapshot() as unit:
        body = read_shot(work, unit, shot).shot.body
    found = [key for key in body.ordered if body.roles[key].character]
    if not found:
        raise InputError("no role of this shot has a character", hint="Choose one for a role")
    return found


def deliver_shot(work: Work, shot: str, roles: list[str], settings: HandoverSettings, production: str) -> Made:
    """The roles by the settings, a figure each, named apart; production: its name."""
    prepared = [prepare_role(work, shot, role) for role in roles]
    figures: list[Figure] = []
    for one in prepared:
        figures.append(_figure(work, one, settings, production, [f.name for f in figures]))
    first = prepared[0]
    body = first.snapshot.documents.shot.body
    made = figures[0].performance
    label = label_of(first) if len(roles) == 1 else body.name
    name = figures[0].name
    if len(roles) > 1:
        words = words_for(made.channels, production, name=body.name, shot=body.name)
        name = named_by(settings.pattern, words)
    begins = since(first.performance, made)
    voice = Voice(f"{name}.wav", -begins, shot_sound(work, shot)[1]) if "sound" in settings.wants else None
    edit = None
    if "edit" in settings.wants:
        seconds = made.channels.frames / made.channels.rate
        edit = cut_to(edit_of_shot(work, first.snapshot.documents), exact(begins), seconds)
    of = {"shot": shot, "version": first.snapshot.documents.shot.version, "roles": {f.name: role for f, role in zip(figures, roles, strict=True)},
          "layers": {n.id: n.version for p in prepared for n in p.snapshot.layers}}  # fmt: skip

    def beside() -> Beside:
        if "gltf" in settings.forms:
            for one, figure in zip(prepared, figures, strict=True):
                yield from props_of_role(work, one, figure, settings.options)

    delivery = Delivery(name, tuple(figures), settings.options, voice, edit, label=label)
    return Made(delivery, shot, label, of, beside)


def _figure(work: Work, one: PreparedRole, settings: HandoverSettings, production: str, taken: list[str]) -> Figure:
    """A role with a name that none before it has."""
    found, role = one.snapshot, one.snapshot.role
    skeleton = found.character.skeleton if found.character else None
    made = asked(one.performance, skeleton, settings.options)
    shot = found.documents.shot.body.name
    words = words_for(
        made.channels,
        production,
        name=label_of(one),
        shot=shot,
        character=found.character_name,
        performer=role.performer,
    )
    plain = name = named_by(settings.pattern, words)
    number = 2
    while name in taken:
        name, number = f"{plain}_{number}", number + 1
    model = work.media.get(found.rig.media) if found.rig else None
    return Figure(name, made, model, skeleton, role.at, role.turn)


def label_of(prepared: PreparedRole) -> str:
    """Shot and character, or performer where there is none."""
    shot, role = prepared.snapshot.documents.shot.body, prepared.snapshot.role
    return f"{shot.name} {prepared.snapshot.character_name or role.performer}".strip()
