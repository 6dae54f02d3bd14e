"""A take as it is handed over."""

from dynaface.core.handover.asked import asked, since
from dynaface.core.handover.delivery import Delivery, Figure, Film, Marked, Voice
from dynaface.core.handover.edit_list import cut_to, exact
from dynaface.core.handover.file_name import named_by
from dynaface.pipelines.bake_handover import HandoverSettings
from dynaface.services.handover.edit_lists import edit_of_take
from dynaface.services.handover.made import Made, words_for
from dynaface.services.load_source import load_footage, load_markers, load_sound
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work


def deliver_take(work: Work, take: str, settings: HandoverSettings, production: str) -> Made:
    """The take by the settings; production: its name."""
    prepared = prepare_take(work, take)
    found, held = prepared.snapshot, prepared.snapshot.documents
    body, character = prepared.take.body, prepared.snapshot.character
    skeleton = character.skeleton if character else None
    whole = prepared.performance
    made = asked(whole, skeleton, settings.options)
    model = work.media.get(held.rig.media) if held.rig else None
    played = held.character.body.name if held.character else ""
    words = words_for(
        made.channels, production, name=body.slate, take=body.slate, character=played, performer=body.performer
    )
    name = named_by(settings.pattern, words)
    begins = since(whole, made)
    voice = None
    if found.sound is not None:
        offset = body.sound_offset - begins
        # Where the sound is written, files name what was written, not the recording.
        voice = Voice(found.sound.name, offset, load_sound(work, found.sound) if "sound" in settings.wants else None)
    edit = film = marked = None
    if "markers" in settings.wants and "markers" in held.sources:
        marked = Marked(load_markers(work, held.sources["markers"]), begins)
    if "film" in settings.wants and "footage" in held.sources:
        film = Film(load_footage(work, held.sources["footage"]), begins)
    if "edit" in settings.wants:
        edit = cut_to(edit_of_take(work, prepared), exact(begins), made.channels.frames / made.channels.rate)
    figure = Figure(name, made, model, skeleton)
    of = {"take": take, "version": prepared.take.version, "curves": held.sources["curves"].id}
    delivery = Delivery(
        name, (figure,), settings.options, voice, edit, film, marked, f"{body.slate}  {played or body.performer}"
    )
    return Made(delivery, take, body.slate, of)
