"""A take or shot as if it had been handed over as it is now."""

from dynaface.core.documents.model.record import Body
from dynaface.core.documents.model.shot import ShotBody
from dynaface.core.documents.model.take import TakeBody
from dynaface.core.returns.brought import of_channels, of_performance
from dynaface.formats.returned import returning_form
from dynaface.services.returns.recognise import HandedOver
from dynaface.services.shot.evaluate_shot import prepare_role
from dynaface.services.shot.snapshot import no_character
from dynaface.services.take.prepare_take import prepare_take
from dynaface.services.work import Work, document_for


def as_it_is(work: Work, document: str, name: str) -> HandedOver:
    """Where there is no handover that a file could be of; name: of the file, which says what it can be compared with. Raises InputError without a character."""
    with work.store.snapshot() as unit:
        body = document_for(work, unit, document, Body).body
    face = returning_form(name).name == "curve table"
    if isinstance(body, TakeBody):
        made = prepare_take(work, document)
        rig = made.snapshot.character
        one = of_channels(made.performance.channels) if face else of_performance(made.performance, rig.skeleton if rig else None)  # fmt: skip
        return HandedOver(name, document, {}, {"": one}, made.performance.channels.start)
    assert isinstance(body, ShotBody)
    roles, figures = {}, {}
    for key in body.ordered:
        prepared = prepare_role(work, document, key)
        rig = prepared.snapshot.character
        called = f"role {key}"
        if face:
            figures[called] = of_channels(prepared.graph.tidied.result(work.cache))
        elif rig is not None:
            figures[called] = of_performance(prepared.performance, rig.skeleton)
        roles[called] = key
    if not figures:
        raise no_character()
    return HandedOver(name, document, roles, figures, 0.0)
